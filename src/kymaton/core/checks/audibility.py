"""Heard or not, against the hearing plan: missing, too soft, too late, leaking, private."""

from collections.abc import Iterable, Sequence

from kymaton.core.checks.registry import Evidence, Finding, kind, worded
from kymaton.core.model import Listener, Sound, Want
from kymaton.core.openings import fewest_to_open
from kymaton.core.units import SILENT
from kymaton.core.view import HEARD_DB, LEAK_DB, MISSING_DB, PRIVATE_DB, CueView
from kymaton.core.words import Noun, db, exact_ms, group, ms_within, named, said, sentence, under_loudest


def names(view: CueView, findings: Sequence[Finding]) -> tuple[Noun, Noun]:
    """Listeners and sounds of some findings, as they are said."""
    listeners = group(named(view.show.listener(f.listener)) for f in findings if f.listener)
    own = all(f.listener and f.sound and is_own(view, f.listener, f.sound) for f in findings)
    if own and not listeners.plural:
        return listeners, Noun("their own voice")
    return listeners, group(named(view.show.sound(f.sound)) for f in findings if f.sound)


def is_own(view: CueView, listener: str, sound: str) -> bool:
    return view.is_own(view.show.listener(listener), view.show.sound(sound))


def _not_heard(view: CueView, findings: Sequence[Finding]) -> str:
    listeners, sounds = names(view, findings)
    return sentence(f"{listeners.do('do')} not hear {sounds}")


def _too_soft(view: CueView, findings: Sequence[Finding]) -> str:
    listeners, sounds = names(view, findings)
    return sentence(f"{sounds.do('be')} too soft for {listeners}")


def _leaks(view: CueView, findings: Sequence[Finding]) -> str:
    listeners, sounds = names(view, findings)
    return sentence(f"{listeners} can hear {sounds}")


def _private(view: CueView, findings: Sequence[Finding]) -> str:
    return sentence(f"{names(view, findings)[1]} can be heard on the stream")


def _late(view: CueView, findings: Sequence[Finding]) -> str:
    listeners, sounds = names(view, findings)
    return sentence(f"{listeners.do('hear')} {sounds} too late")


def level_evidence(view: CueView, listener: Listener, sound: Sound) -> Evidence:
    return {
        "level": round(view.level(listener, sound), 1),
        "level_unit": listener.unit,
        "relative_db": round(view.relative(listener, sound), 1),
    }


@kind("missing", together=_not_heard)
def missing(view: CueView) -> Iterable[Finding]:
    for listener, sound in view.pairs():
        if view.want(listener, sound) is not Want.MUST or view.audible(listener, sound, MISSING_DB):
            continue
        bursts = view.bursts(listener, sound)
        if bursts:
            reason = (
                f"It arrives {under_loudest(view.relative(listener, sound))}; "
                f"more than {db(-MISSING_DB)} counts as missing."
            )
            evidence = level_evidence(view, listener, sound)
        else:
            reason, evidence = "No open route leads there in this cue.", {}
        finding = Finding(
            "missing",
            "fault",
            "hearing",
            view.cue_id,
            listener.id,
            sound.id,
            "",
            reason,
            evidence,
            tuple(b.delay_us for b in bursts),
        )
        yield worded(view, finding, _not_heard)


@kind("too-soft", together=_too_soft)
def too_soft(view: CueView) -> Iterable[Finding]:
    for listener, sound in view.pairs():
        if view.want(listener, sound) is not Want.MUST:
            continue
        if view.audible(listener, sound, HEARD_DB) or not view.audible(listener, sound, MISSING_DB):
            continue
        finding = Finding(
            "too-soft",
            "caution",
            "hearing",
            view.cue_id,
            listener.id,
            sound.id,
            "",
            f"It arrives {under_loudest(view.relative(listener, sound))}.",
            level_evidence(view, listener, sound),
            tuple(b.delay_us for b in view.bursts(listener, sound)),
        )
        yield worded(view, finding, _too_soft)


@kind("too-late", together=_late)
def too_late(view: CueView) -> Iterable[Finding]:
    for listener, sound in view.pairs():
        wish = view.show.wish(listener.id, sound.id, view.cue_id)
        if wish is None or wish.max_delay_ms is None or wish.want is Want.MUST_NOT:
            continue
        bursts = view.bursts(listener, sound)
        if not bursts:
            continue
        strongest = max(bursts, key=lambda b: b.gain_db)
        if strongest.delay_ms > wish.max_delay_ms:
            sure = round(view.plus_minus_ms(listener.id, sound.id, strongest.delay_us), 1)
            finding = Finding(
                "too-late",
                "caution",
                "hearing",
                view.cue_id,
                listener.id,
                sound.id,
                "",
                f"It arrives after {ms_within(strongest.delay_ms, sure)}; "
                f"the plan allows {exact_ms(wish.max_delay_ms)}.",
                {"delay_ms": strongest.delay_ms, "plus_minus_ms": sure},
                (strongest.delay_us,),
            )
            yield worded(view, finding, _late)


@kind("private-reaches-audience", together=_private)
def private(view: CueView) -> Iterable[Finding]:
    for listener, sound in view.pairs():
        if (
            sound.private
            and listener.kind == "audience"
            and view.level(listener, sound) - view.loudest(listener) > PRIVATE_DB
        ):
            bursts = view.bursts(listener, sound)
            finding = Finding(
                "private-reaches-audience",
                "fault",
                "hearing",
                view.cue_id,
                listener.id,
                sound.id,
                "",
                f"{sentence(named(sound).do('be'))} private, but a way to {said(listener)} is open: "
                f"{under_loudest(view.relative(listener, sound))}.",
                level_evidence(view, listener, sound),
                tuple(b.delay_us for b in bursts),
            )
            yield worded(view, finding, _private)


def _one_press(view: CueView, findings: Sequence[Finding]) -> str:
    return sentence(f"one press puts {names(view, findings)[1]} on the stream")


@kind("private-one-press-away", together=_one_press)
def one_press_away(view: CueView) -> Iterable[Finding]:
    """Private sounds that a single mute, fader or switch keeps from the audience."""
    for listener, sound in view.pairs():
        if not sound.private or listener.kind != "audience" or view.level(listener, sound) > SILENT:
            continue
        needed = fewest_to_open(view, listener.id, sound.id)
        if needed is not None and len(needed) == 1:
            control = view.show.control(next(iter(needed)))
            finding = Finding(
                "private-one-press-away", "note", "hearing", view.cue_id, listener.id, sound.id, "",
                f"Only {control.name} stands between {named(sound)} and {said(listener)}.", {"control": control.id},
            )  # fmt: skip
            yield worded(view, finding, _one_press)


@kind("leak", together=_leaks)
def leak(view: CueView) -> Iterable[Finding]:
    for listener, sound in view.pairs():
        if view.want(listener, sound) is not Want.MUST_NOT or view.is_own(listener, sound):
            continue
        if sound.private and listener.kind == "audience":
            continue  # told as private-reaches-audience
        if not view.audible(listener, sound, LEAK_DB):
            continue
        finding = Finding(
            "leak",
            "fault",
            "hearing",
            view.cue_id,
            listener.id,
            sound.id,
            "",
            f"The plan says that {said(listener)} must not hear it; it arrives "
            f"{under_loudest(view.relative(listener, sound))}.",
            level_evidence(view, listener, sound),
            tuple(b.delay_us for b in view.bursts(listener, sound)),
        )
        yield worded(view, finding, _leaks)
