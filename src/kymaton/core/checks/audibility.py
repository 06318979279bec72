"""Heard or not, against the hearing plan: missing, too soft, too late, leaking, private."""

from collections.abc import Iterable, Iterator, Sequence

from kymaton.core.checks.registry import Evidence, Finding, Severity, kind, worded
from kymaton.core.model import Listener, Show, Sound, Want
from kymaton.core.signal.air import out_of_reach, places_in
from kymaton.core.signal.control_search import Opening
from kymaton.core.signal.cue_solution import HEARD_DB, LEAK_DB, MISSING_DB, PRIVATE_DB, CueSolution
from kymaton.core.units import SILENT
from kymaton.core.words import (
    Noun,
    db,
    group,
    joined,
    named,
    number,
    said,
    sentence,
    the_device,
    under_loudest,
)

OWN_VOICE = Noun("their own voice")


def names(view: CueSolution, findings: Sequence[Finding]) -> tuple[Noun, Noun]:
    """Listeners and sounds of some findings, as they are said."""
    listeners = group(named(view.show.listener(f.listener)) for f in findings if f.listener)
    own = all(f.listener and f.sound and is_own(view, f.listener, f.sound) for f in findings)
    if own and not listeners.plural:
        return listeners, OWN_VOICE
    return listeners, group(named(view.show.sound(f.sound)) for f in findings if f.sound)


def is_own(view: CueSolution, listener: str, sound: str) -> bool:
    """Whether a listener hears what they make themselves."""
    return view.is_own(view.show.listener(listener), view.show.sound(sound))


def _not_heard(view: CueSolution, findings: Sequence[Finding]) -> str:
    listeners, sounds = names(view, findings)
    return sentence(f"{listeners.do('do')} not hear {sounds}")


def _too_soft(view: CueSolution, findings: Sequence[Finding]) -> str:
    listeners, sounds = names(view, findings)
    if sounds == OWN_VOICE:
        return sentence(f"{listeners.do('hear')} {sounds} too softly")
    return sentence(f"{sounds.do('be')} too soft for {listeners}")


def _leaks(view: CueSolution, findings: Sequence[Finding]) -> str:
    listeners, sounds = names(view, findings)
    return sentence(f"{listeners} can hear {sounds}")


def _private(view: CueSolution, findings: Sequence[Finding]) -> str:
    return sentence(f"{names(view, findings)[1]} can be heard on the stream")


def level_evidence(view: CueSolution, listener: Listener, sound: Sound) -> Evidence:
    """Level at the listener (dB SPL or dBFS) and below the loudest there (dB), as evidence."""
    return {
        "level": round(view.level(listener, sound), 1),
        "level_unit": listener.unit,
        "relative_db": round(view.relative(listener, sound), 1),
    }


def gravity(show: Show, listener: Listener, sound: Sound, cue: str | None) -> Severity:
    """How grave it is when a listener does not hear what must be heard there.

    What was decided counts in full, and so does what goes out or to a guest, and a guest's voice; other defaults less.
    """
    decided = show.wish(listener.id, sound.id, cue) is not None
    talks = listener.kind in ("audience", "recorder", "guest") or show.is_guest(sound)
    return "fault" if decided or talks else "caution"


def wanted(view: CueSolution) -> Iterator[tuple[Listener, Sound, Severity]]:
    """Who must hear what in this cue, and how grave it is when they do not.

    What was decided always counts. A default counts where both ends are connected at all (what is not is told in the
    rig), and with several cues only in those in which somebody who must hear the sound does hear it: in the others it
    is simply not played, unless it is heard in none. What is said to sound in the cue counts like one that is played;
    what is silent there cannot be missed, and what may sound is missed less.
    """
    show = view.show
    away, home = ({getattr(c, end) for c in show.cables if c.plugged} for end in ("source", "target"))
    for sound in show.sounds:
        who = view.plan.must_hear[sound.id]
        told = show.sounding(sound.id, view.cue_id)
        if told == "silent":
            continue
        alone = len(show.cues) < 2 or sound.id in view.never_heard or told == "sounds"
        played = alone or any(view.audible(x, sound, MISSING_DB) for x in who)
        for listener in who:
            decided = show.wish(listener.id, sound.id, view.cue_id) is not None
            connected = f"sound/{sound.id}" in away and f"listener/{listener.id}" in home
            if decided or (played and connected):
                grave = gravity(show, listener, sound, view.cue_id)
                yield listener, sound, "caution" if told == "may sound" else grave


@kind("missing", rank=60, form="missing", cure="open", watched=True, together=_not_heard)
def missing(view: CueSolution) -> Iterable[Finding]:
    """Sounds that must be heard and are not: no way, or more than MISSING_DB under the loudest there."""
    for listener, sound, severity in wanted(view):
        if view.audible(listener, sound, MISSING_DB):
            continue
        bursts = view.bursts(listener, sound)
        evidence = level_evidence(view, listener, sound) if bursts else {}
        reason = _why_missing(view, listener, sound)
        finding = Finding(
            id="missing",
            severity=severity,
            step="hearing",
            cue=view.cue_id,
            listener=listener.id,
            sound=sound.id,
            reason=reason,
            evidence=evidence,
            delays_us=tuple(b.delay_us for b in bursts),
        )
        yield worded(view, finding, _not_heard)


def _why_missing(view: CueSolution, listener: Listener, sound: Sound) -> str:
    """Why a sound is not heard: too far under the loudest, under the floor, cancelled, or no way at all."""
    level = view.level(listener, sound)
    if level <= SILENT:
        ways = view.paths(listener.id, sound.id)
        opposite = {(p.delay_us, p.ear, p.sound_channel, p.polarity) for p in ways}
        if any((at, ear, channel, -sign) in opposite for at, ear, channel, sign in opposite):
            return "Two routes lead there at the same time in opposite polarity, and cancel."
        if ways:
            return "What arrives there is next to nothing."
        away = out_of_reach(view.show, places_in(view.show, view.cue), sound.id)
        if away:
            return sentence(f"{group(the_device(view.show, d) for d in away)} cannot reach it: somebody has moved.")
        return f"No open route leads there in this cue.{_left_closed(view, listener, sound)}"
    if level <= listener.floor:
        floor = f"{number(listener.floor)} {listener.unit}"
        return f"It arrives at {number(level)} {listener.unit}; under {floor} nothing is heard there."
    return f"It arrives {under_loudest(view.relative(listener, sound))}; more than {db(-MISSING_DB)} counts as missing."


def _left_closed(view: CueSolution, listener: Listener, sound: Sound) -> str:
    """What a hand closed before this cue and nobody opened since, where that is all that keeps a sound away."""
    left = view.show.left_by_hand(view.cue_id) if view.cue_id is not None else {}
    needed = Opening(view).fewest(listener.id, sound.id) if left else None
    if not needed or not needed.keys() <= left.keys():
        return ""
    return f" {_since(view, needed, left)}"


def _since(view: CueSolution, controls: Iterable[str], left: dict[str, str]) -> str:
    """Who is to be asked: controls that are still as a hand left them."""
    by_cue = {view.show.cue(left[c]).name for c in controls}
    names = joined(view.show.control(c).name for c in controls)
    return f"{sentence(names)}: set by hand in {joined(sorted(by_cue))}, and by nobody since."


@kind("too-soft", rank=61, form="soft", cure="open", watched=True, together=_too_soft)
def too_soft(view: CueSolution) -> Iterable[Finding]:
    """Sounds that must be heard and are under the loudest there by more than a listener follows."""
    for listener, sound, _ in wanted(view):
        if view.audible(listener, sound, HEARD_DB) or not view.audible(listener, sound, MISSING_DB):
            continue
        finding = Finding(
            id="too-soft",
            severity="caution",
            step="hearing",
            cue=view.cue_id,
            listener=listener.id,
            sound=sound.id,
            reason=f"It arrives {under_loudest(view.relative(listener, sound))}.",
            evidence=level_evidence(view, listener, sound),
            delays_us=tuple(b.delay_us for b in view.bursts(listener, sound)),
        )
        yield worded(view, finding, _too_soft)


@kind("private-reaches-audience", rank=40, form="leaks", cure="close", watched=True, together=_private)
def private(view: CueSolution) -> Iterable[Finding]:
    """Private sounds that reach the audience or a recording."""
    for listener, sound in view.arriving:
        if (
            sound.private
            and listener.kind == "audience"
            and view.level(listener, sound) - view.loudest(listener) > PRIVATE_DB
        ):
            bursts = view.bursts(listener, sound)
            finding = Finding(
                id="private-reaches-audience",
                severity="fault",
                step="hearing",
                cue=view.cue_id,
                listener=listener.id,
                sound=sound.id,
                reason=f"{sentence(named(sound).do('be'))} private, but a way to {said(listener)} is open: "
                f"{under_loudest(view.relative(listener, sound))}.",
                evidence=level_evidence(view, listener, sound),
                delays_us=tuple(b.delay_us for b in bursts),
            )
            yield worded(view, finding, _private)


def _one_press(view: CueSolution, findings: Sequence[Finding]) -> str:
    return sentence(f"one press puts {names(view, findings)[1]} on the stream")


@kind("private-one-press-away", rank=102, together=_one_press)
def one_press_away(view: CueSolution) -> Iterable[Finding]:
    """Private sounds that a single mute, fader or switch keeps from the audience."""
    opening = Opening(view)
    for listener, sound in view.pairs():
        if not sound.private or listener.kind != "audience" or view.level(listener, sound) > SILENT:
            continue
        needed = opening.fewest(listener.id, sound.id)
        if needed is not None and len(needed) == 1:
            control = view.show.control(next(iter(needed)))
            finding = Finding(
                id="private-one-press-away",
                severity="note",
                step="hearing",
                cue=view.cue_id,
                listener=listener.id,
                sound=sound.id,
                reason=f"Only {control.name} stands between {named(sound)} and {said(listener)}.",
                evidence={"control": control.id},
            )
            yield worded(view, finding, _one_press)


def through_gear(view: CueSolution, listener: Listener, sound: Sound) -> bool:
    """Whether a sound comes by any device, and not through the air of the room alone."""
    return any(view.graph.edges[e].device for path in view.paths(listener.id, sound.id) for e in path.edges)


def heard_direct(view: CueSolution, listener: Listener, sound: Sound) -> set[int]:
    """Delays (µs) of what comes through the air of the room alone."""
    return view.direct_us.get((listener.id, sound.id), set())


def _not_meant(who: Noun, decided: bool) -> str:
    if decided:
        return f"The plan says that {who} must not hear it"
    return f"By default {who.do('be')} not meant to hear it"


def _left_open_since(view: CueSolution, listener: Listener, sound: Sound) -> str:
    """What a hand opened before this cue and nobody closed since, on the strongest way."""
    left = view.show.left_by_hand(view.cue_id) if view.cue_id is not None else {}
    path = view.strongest_path(listener.id, sound.id) if left else None
    passed = dict.fromkeys(u.control for e in (path.edges if path else ()) for u in view.graph.edges[e].uses)
    standing = [c for c in passed if c in left and view.show.value(c, view.cue_id) != view.show.control(c).value]
    return f" {_since(view, standing, left)}" if standing else ""


@kind("leak", rank=41, form="leaks", cure="close", watched=True, together=_leaks)
def leak(view: CueSolution) -> Iterable[Finding]:
    """Sounds that must not be heard and are, above the level below which a listener does not notice."""
    for listener, sound in view.arriving:
        if view.want(listener, sound) is not Want.MUST_NOT or view.is_own(listener, sound):
            continue
        if sound.private and listener.kind == "audience":
            continue  # told as private-reaches-audience
        if not view.audible(listener, sound, LEAK_DB):
            continue
        decided = view.show.wish(listener.id, sound.id, view.cue_id) is not None
        own_microphones = listener.kind == "room" and sound.kind in ("voice", "instrument") and not decided
        if own_microphones and not through_gear(view, listener, sound):
            continue
        why = f"{_not_meant(named(listener), decided)}; it arrives {under_loudest(view.relative(listener, sound))}."
        finding = Finding(
            id="leak",
            severity="caution" if own_microphones else "fault",
            step="hearing",
            cue=view.cue_id,
            listener=listener.id,
            sound=sound.id,
            reason=why + _left_open_since(view, listener, sound),
            evidence=level_evidence(view, listener, sound),
            delays_us=tuple(b.delay_us for b in view.bursts(listener, sound)),
        )
        yield worded(view, finding, _leaks)
