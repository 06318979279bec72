"""Heard or not, against the hearing plan: missing, too soft, too late, leaking, private."""

from collections.abc import Iterable, Sequence

from kymaton.core.checks.registry import Evidence, Finding, kind, worded
from kymaton.core.model import Listener, Sound, Want
from kymaton.core.openings import fewest_to_open
from kymaton.core.units import SILENT
from kymaton.core.view import HEARD_DB, LEAK_DB, MISSING_DB, PRIVATE_DB, CueView
from kymaton.core.words import db, joined, lowered, ms, said, sentence


def names(view: CueView, findings: Sequence[Finding]) -> tuple[str, str, int]:
    """Listeners and sounds of some findings, as said; and how many listeners."""
    listeners = [said(view.show.listener(f.listener)) for f in findings if f.listener]
    sounds = [said(view.show.sound(f.sound)) for f in findings if f.sound]
    return joined(listeners), joined(sounds), len(set(listeners))


def _not_heard(view: CueView, findings: Sequence[Finding]) -> str:
    listeners, sounds, many = names(view, findings)
    return sentence(f"{listeners} {'do' if many > 1 else 'does'} not hear {sounds}")


def _too_soft(view: CueView, findings: Sequence[Finding]) -> str:
    listeners, sounds, _ = names(view, findings)
    return sentence(f"{sounds} {'are' if ' and ' in sounds else 'is'} too soft for {listeners}")


def _leaks(view: CueView, findings: Sequence[Finding]) -> str:
    listeners, sounds, _ = names(view, findings)
    return sentence(f"{sounds} can be heard by {listeners}")


def _private(view: CueView, findings: Sequence[Finding]) -> str:
    _, sounds, _ = names(view, findings)
    return sentence(f"{sounds} can be heard on the stream")


def _late(view: CueView, findings: Sequence[Finding]) -> str:
    listeners, sounds, many = names(view, findings)
    return sentence(f"{listeners} {'hear' if many > 1 else 'hears'} {sounds} too late")


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
                f"It arrives {db(-view.relative(listener, sound))} under the loudest sound there; "
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
            f"It arrives {db(-view.relative(listener, sound))} under the loudest sound there.",
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
            finding = Finding(
                "too-late",
                "caution",
                "hearing",
                view.cue_id,
                listener.id,
                sound.id,
                "",
                f"It arrives after {ms(strongest.delay_ms)}; the plan allows {ms(wish.max_delay_ms)}.",
                {
                    "delay_ms": strongest.delay_ms,
                    "plus_minus_ms": round(view.plus_minus_ms(listener.id, sound.id, strongest.delay_us), 1),
                },
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
                f"{sentence(lowered(sound.name))} is private, but a way to {said(listener)} is open, "
                f"{db(-view.relative(listener, sound))} under the loudest sound there.",
                level_evidence(view, listener, sound),
                tuple(b.delay_us for b in bursts),
            )
            yield worded(view, finding, _private)


def _one_press(view: CueView, findings: Sequence[Finding]) -> str:
    _, sounds, _ = names(view, findings)
    return sentence(f"one press puts {sounds} on the stream")


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
                f"Only {control.name} stands between them.", {"control": control.id},
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
            f"{db(-view.relative(listener, sound))} under the loudest sound there.",
            level_evidence(view, listener, sound),
            tuple(b.delay_us for b in view.bursts(listener, sound)),
        )
        yield worded(view, finding, _leaks)
