"""Sound that is early or late against the picture on air."""

from collections.abc import Iterable, Sequence

from kymaton.core.checks.registry import Finding, Severity, kind, worded
from kymaton.core.timing import Lead, frame_ms, leads, window_of, worst
from kymaton.core.view import CueView
from kymaton.core.words import joined, lowered, ms, number, said, sentence


def _said(view: CueView, findings: Sequence[Finding]) -> str:
    listeners = joined(said(view.show.listener(f.listener)) for f in findings if f.listener)
    cameras = joined(lowered(view.show.device(str(f.evidence["camera"])).name) for f in findings)
    first = findings[0]
    way = "early" if first.id == "sound-early" else "late"
    frames = abs(float(str(first.evidence["frames"])))
    return sentence(f"sound is {number(frames, 1)} frames {way} with {cameras} for {listeners}")


@kind("sound-early", "sound-late", together=_said)
def lip_sync(view: CueView) -> Iterable[Finding]:
    """The picture on air against the sound that strains the window most, at each destination."""
    window, frame = window_of(view.show), frame_ms(view.show)
    for row in worst(leads(view, on_air=True), window):
        verdict = row.verdict(window)
        if verdict == "inside":
            continue
        severity: Severity = "fault" if verdict == "outside" else "caution"
        id = "sound-early" if row.lead_ms > 0 else "sound-late"
        finding = Finding(
            id, severity, "sync", view.cue_id, row.destination, None, "",
            _reason(view, row), {
                "camera": row.camera, "sound": row.sound, "lead_ms": row.lead_ms, "frames": row.lead_ms / frame,
                "plus_minus_ms": row.plus_minus_ms, "window": window.name,
            }, ports=(row.source, f"listener/{row.destination}"),
        )  # fmt: skip
        yield worded(view, finding, _said)


def _reason(view: CueView, row: Lead) -> str:
    window = window_of(view.show)
    text = (
        f"Picture after {ms(row.picture_us / 1000)}, sound after {ms(row.sound_us / 1000)}: {ms(abs(row.lead_ms))} "
        f"± {ms(row.plus_minus_ms)}. {window.name} allows {ms(window.early_ms)} early and {ms(window.late_ms)} late."
    )
    assumed = [d for d, _, a in row.doubts if a]
    if row.verdict(window) == "perhaps" and assumed:
        text += f" Measure {lowered(view.show.device(assumed[0]).name)} first: its figure is assumed."
    return text
