"""One's own voice coming back: colour, hollow, or an echo."""

from collections.abc import Iterable, Sequence

from kymaton.core.checks.perception import first_notch_hz, ripple_db, talker_echo_impairment
from kymaton.core.checks.registry import Evidence, Finding, Severity, kind, worded
from kymaton.core.model import Listener, Sound, Want
from kymaton.core.signal.cue_solution import Burst, CueSolution
from kymaton.core.signal.hearing import Hearing
from kymaton.core.words import beside, group, hertz, ms, named, number, sentence, voice

ECHO_MS = 30.0
COUNTS_EARLY_DB = -20.0  # relative to the voice as heard direct, up to ECHO_MS
COUNTS_LATE_DB = -45.0  # beyond
FAULT_IMPAIRMENT = 5.0  # Idte of ITU-T G.107
EFFECTS = ((1.0, ""), (3.0, "a slight colour"), (10.0, "hollow"), (20.0, "disturbing"), (ECHO_MS, "nearly an echo"))
UPSETS_MS = (100.0, 250.0)  # an own voice this late makes people stumble (Lee 1950, delayed auditory feedback)
TWICE_DB = 15.0  # how much softer the second arrival may be and still colour the first
CLEAR_DB, FAINT_DB = 20.0, 30.0  # under the voice heard direct: a clear echo up to the one, faint from the other


def effect(delay_ms: float, under_direct_db: float = 0.0) -> str:
    """What a copy of one's own voice does to the talker at this delay and level; empty below 1 ms."""
    for limit, word in EFFECTS:
        if delay_ms <= limit:
            return word
    if under_direct_db >= FAINT_DB:
        return "a faint echo"
    echo = "a clear echo" if under_direct_db <= CLEAR_DB else "an echo"
    return f"{echo}, hard to speak against" if UPSETS_MS[0] <= delay_ms <= UPSETS_MS[1] else echo


def counting(view: CueSolution, listener: Listener, sound: Sound, hearing: Hearing | None = None) -> list[Burst]:
    """The arrivals of a talker's own voice that are loud enough to matter, strongest first."""
    direct = view.direct_level(sound)
    found = []
    for burst in view.bursts(listener, sound, hearing):
        limit = COUNTS_EARLY_DB if burst.delay_ms <= ECHO_MS else COUNTS_LATE_DB
        if sound.level + burst.gain_db - direct > limit and effect(burst.delay_ms):
            found.append(burst)
    return sorted(found, key=lambda b: -b.gain_db)


def _together(view: CueSolution, findings: Sequence[Finding]) -> str:
    who = group(named(view.show.listener(f.listener)) for f in findings if f.listener)
    if who.plural:
        return sentence(f"{who} hear themselves")
    instrument = any(view.show.sound(f.sound or "").kind == "instrument" for f in findings)
    what = "instrument" if instrument else "voice"
    sure = float(str(findings[0].evidence.get("plus_minus_ms", 0.0)))
    return sentence(f"{who.do('hear')} their own {what} {ms(findings[0].delays_us[0] / 1000, sure)} late")


def _needed(view: CueSolution, findings: Sequence[Finding]) -> str:
    who = group(named(view.show.listener(f.listener)) for f in findings if f.listener)
    return sentence(f"only an echo canceller keeps {who} from an echo")


@kind("own-voice-back", rank=20, form="own", gathered="all", cure="close", watched=True, together=_together)
def own_voice_back(view: CueSolution) -> Iterable[Finding]:
    """Talkers to whom their own voice comes back, judged by delay and level (ITU-T G.107)."""
    for listener, sound in view.arriving:
        if not view.is_own(listener, sound) or listener.unit != "dB SPL":
            continue
        found = counting(view, listener, sound)
        wish = view.show.wish(listener.id, sound.id, view.cue_id)
        if wish is not None and wish.want is Want.MUST:
            found = [b for b in found if b.delay_ms > ECHO_MS]  # a monitor of one's own is a wish; see too-late
        if not found:
            continue
        worst = max(found, key=lambda b: (b.delay_ms > ECHO_MS, b.gain_db))
        below = view.direct_level(sound) - sound.level - worst.gain_db
        sure = round(view.plus_minus_ms(listener.id, sound.id, worst.delay_us), 1)
        evidence: Evidence = {
            "delay_ms": worst.delay_ms,
            "plus_minus_ms": sure,
            "under_direct_db": round(below, 1),
        }
        severity: Severity = "note" if worst.delay_ms < 3 else "caution"
        if worst.delay_ms > ECHO_MS:
            impairment = talker_echo_impairment(worst.delay_ms, below)
            evidence["g107_idte"] = round(impairment, 1)
            severity = "fault" if impairment >= FAULT_IMPAIRMENT else "caution"
        elif view.want(listener, sound) is Want.MUST_NOT and worst.delay_ms >= 10:
            severity = "fault"
        finding = Finding(
            id="own-voice-back",
            severity=severity,
            step="hearing",
            cue=view.cue_id,
            listener=listener.id,
            sound=sound.id,
            reason=f"It comes back after {ms(worst.delay_ms, sure)}, {beside(-below, 'heard direct')}: "
            f"{effect(worst.delay_ms, below)}.",
            evidence=evidence,
            delays_us=(worst.delay_us, *(b.delay_us for b in found if b is not worst)),
        )
        yield worded(view, finding, _together)


@kind("canceller-needed", rank=81, gathered="all", together=_needed)
def canceller_needed(view: CueSolution) -> Iterable[Finding]:
    """Own voices that would be an echo if an echo canceller that is on now were off or failed."""
    if not view.state.exceptions:
        return
    for listener, sound in view.pairs():
        if not view.is_own(listener, sound) or listener.unit != "dB SPL":
            continue
        if any(b.delay_ms > ECHO_MS for b in counting(view, listener, sound)):
            continue  # told as own-voice-back
        late = [b for b in counting(view, listener, sound, view.without_cancellers) if b.delay_ms > ECHO_MS]
        if late:
            below = view.direct_level(sound) - sound.level - late[0].gain_db
            finding = Finding(
                id="canceller-needed",
                severity="note" if listener.feed == "full programme" else "caution",  # it is what was chosen
                step="hearing",
                cue=view.cue_id,
                listener=listener.id,
                sound=sound.id,
                reason=f"Without it, {voice(sound)} would come back after {ms(late[0].delay_ms)}, "
                f"{beside(-below, 'heard direct')}.",
                evidence={"delay_ms": late[0].delay_ms, "under_direct_db": round(below, 1)},
                delays_us=tuple(b.delay_us for b in late),
            )
            yield worded(view, finding, _needed)


def _own_twice(view: CueSolution, findings: Sequence[Finding]) -> str:
    who = group(named(view.show.listener(f.listener)) for f in findings if f.listener)
    apart = max(float(str(f.evidence["gap_ms"])) for f in findings)
    return sentence(f"{who.do('hear')} {'themselves' if who.plural else 'their own voice'} twice, {ms(apart)} apart")


@kind("own-voice-twice", rank=86, form="own", gathered="all", cure="close one", together=_own_twice)
def own_voice_twice(view: CueSolution) -> Iterable[Finding]:
    """An own voice that is wanted in the ears, and comes by two ways: direct at the interface and by the computer."""
    for listener, sound in view.arriving:
        if not view.is_own(listener, sound) or listener.unit != "dB SPL":
            continue
        bursts = sorted(view.bursts(listener, sound), key=lambda b: -b.gain_db)
        close = [b for b in bursts[1:] if bursts[0].gain_db - b.gain_db <= TWICE_DB]
        second = next((b for b in close if abs(b.delay_ms - bursts[0].delay_ms) > 1.0), None)
        if second is None or sound.level + second.gain_db < view.direct_level(sound) - 20.0:
            continue
        gap_ms = abs(second.delay_ms - bursts[0].delay_ms)
        apart_db = bursts[0].gain_db - second.gain_db
        notch_hz = first_notch_hz(gap_ms, second.polarity == bursts[0].polarity)
        combs = f"; both together are a comb of {number(ripple_db(apart_db))} dB, its first notch at {hertz(notch_hz)}"
        finding = Finding(
            id="own-voice-twice",
            severity="caution",
            step="hearing",
            cue=view.cue_id,
            listener=listener.id,
            sound=sound.id,
            reason=f"Two ways lead there, {ms(gap_ms)} apart and "
            f"{number(apart_db)} dB different: {effect(gap_ms) or 'a colour'}{combs if gap_ms <= ECHO_MS else ''}.",
            evidence={
                "gap_ms": round(gap_ms, 3),
                "first_notch_hz": round(notch_hz, 1),
                "ripple_db": round(ripple_db(apart_db), 1),
            },
            delays_us=tuple(sorted((bursts[0].delay_us, second.delay_us))),
            remedy="Keep the sooner one, and close the other.",
        )
        yield worded(view, finding, _own_twice)
