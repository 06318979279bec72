"""One sound by two routes: comb filtering when they lie close, a repeat when they do not."""

from collections.abc import Iterable, Sequence

from msgspec.structs import replace

from kymaton.core.checks.audibility import heard_direct, names
from kymaton.core.checks.perception import first_notch_hz, ripple_db
from kymaton.core.checks.registry import Finding, Severity, kind
from kymaton.core.model import Listener, Sound, Want
from kymaton.core.signal.cue_solution import LEAK_DB, Burst, CueSolution
from kymaton.core.words import db, hertz, ms, named, said, sentence

DOUBLED_DB = 15.0
COLOUR_DB = 20.0
REPEAT_MS = {"click": 8.0, "alert": 8.0, "instrument": 80.0, "playback": 80.0}  # else speech
REPEAT_SPEECH_MS = 40.0


def repeats_from_ms(sound: Sound) -> float:
    """How far apart two arrivals of a sound are heard one after the other."""
    return REPEAT_MS.get(sound.kind, REPEAT_SPEECH_MS)


def effect(gap_ms: float, sound: Sound) -> str:
    """What two arrivals this far apart sound like."""
    if gap_ms >= repeats_from_ms(sound):
        return "heard as a repeat"
    return "thin" if gap_ms < 1.0 else "hollow, metallic"


def _together(view: CueSolution, findings: Sequence[Finding]) -> str:
    listeners, sounds = names(view, findings)
    people = {view.show.listener(f.listener).person for f in findings if f.listener}
    if (
        len(people) == 2
        and None not in people
        and people == {view.show.sound(f.sound).person for f in findings if f.sound}
    ):
        return sentence(f"{listeners} hear each other twice")
    kinds = {view.show.listener(f.listener).kind for f in findings if f.listener}
    if kinds <= {"audience", "recorder", "room"}:
        return sentence(f"{sounds.do('reach')} {listeners} twice")
    return sentence(f"{listeners.do('hear')} {sounds} twice")


def _different(difference_db: float) -> str:
    return f"{db(difference_db)} different" if difference_db >= 0.5 else "equally loud"


def strongest_pair(bursts: list[Burst]) -> tuple[Burst, Burst] | None:
    """The two strongest arrivals with different delays of one channel of the sound, louder first."""
    best: tuple[Burst, Burst] | None = None
    for channel in {b.sound_channel for b in bursts}:
        same = sorted((b for b in bursts if b.sound_channel == channel), key=lambda b: -b.gain_db)
        if len(same) > 1 and (best is None or same[1].gain_db > best[1].gain_db):
            best = (same[0], same[1])
    return best


def strongest_pair_of_an_ear(view: CueSolution, listener: Listener, sound: Sound) -> tuple[Burst, Burst] | None:
    """The two strongest arrivals that one ear gets: what the left ear hears and what the right one does not add up."""
    at_ears: dict[int, list[Burst]] = {}
    for a in view.hearing.arrivals(listener.id, sound.id):
        at_ears.setdefault(a.ear, []).append(Burst(a.delay_us, a.gain_db, a.polarity, a.sound_channel))
    pairs = [pair for pair in map(strongest_pair, at_ears.values()) if pair is not None]
    return max(pairs, key=lambda pair: pair[1].gain_db, default=None)


def by_microphone_group(view: CueSolution, listener: Listener, sound: Sound, delays_us: set[int]) -> bool:
    """Whether these arrivals come by different microphones of one group, each by one route."""
    groups = [set(g.devices) for g in view.show.microphone_groups]
    if not groups:
        return False
    taken: dict[str, set[int]] = {}
    for path in view.paths(listener.id, sound.id):
        if path.delay_us in delays_us:
            first = view.graph.nodes[view.graph.dst[path.edges[0]]][0].partition("/")[0]
            taken.setdefault(first, set()).add(path.delay_us)
    return any(set(taken) <= g for g in groups) and all(len(t) == 1 for t in taken.values())


@kind(
    "doubled",
    rank=21,
    form="twice",
    gathered="each other",
    cure="close one",
    watched=True,
    together=_together,
)
@kind("microphones-in-phase", rank=103, together=_together)
def doubled(view: CueSolution) -> Iterable[Finding]:
    """Sounds that arrive by several routes close in level: a comb filter, an echo, or two microphones in phase."""
    for listener, sound in view.arriving:
        if view.is_own(listener, sound) or view.want(listener, sound) is Want.MUST_NOT:
            continue
        if not view.audible(listener, sound, LEAK_DB):
            continue
        pair = strongest_pair_of_an_ear(view, listener, sound)
        if pair is None or pair[0].gain_db - pair[1].gain_db > COLOUR_DB:
            continue
        louder, softer = pair
        difference = louder.gain_db - softer.gain_db
        gap_ms = abs(louder.delay_us - softer.delay_us) / 1000.0
        same = louder.polarity == softer.polarity
        severity: Severity = "fault" if difference <= DOUBLED_DB else "note"
        id = "doubled"
        if view.show.microphone_groups and by_microphone_group(
            view, listener, sound, {louder.delay_us, softer.delay_us}
        ):
            id, severity = "microphones-in-phase", "note"
        as_usual = ""
        direct = heard_direct(view, listener, sound) if severity == "fault" else set()
        if len(direct & {louder.delay_us, softer.delay_us}) == 1:  # the other one comes out of loudspeakers
            severity = "note" if gap_ms < repeats_from_ms(sound) else "caution"
            as_usual = " One of them is the sound itself, as in any room with loudspeakers."
        notch = first_notch_hz(gap_ms, same)
        finding = Finding(
            id=id,
            severity=severity,
            step="hearing",
            cue=view.cue_id,
            listener=listener.id,
            sound=sound.id,
            reason=f"Two routes, {ms(gap_ms)} apart and {_different(difference)}: {effect(gap_ms, sound)}."
            + ("" if same else " They have opposite polarity: no bass.")
            + as_usual,
            evidence={
                "gap_ms": gap_ms,
                "difference_db": round(difference, 1),
                "first_notch_hz": round(notch, 1),
                "ripple_db": round(ripple_db(difference), 1),
                "delays_ms": [b.delay_ms for b in sorted(pair, key=lambda b: b.delay_us)],
            },
            delays_us=tuple(sorted(b.delay_us for b in pair)),
        )
        text = (
            _together(view, [finding])
            if id == "doubled"
            else sentence(
                f"{named(sound).do('reach')} {said(listener)} by several microphones, first notch {hertz(notch)}"
            )
        )
        yield replace(finding, sentence=text)
