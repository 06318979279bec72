"""Sound that is early or late against the picture on air."""

from collections.abc import Iterable, Sequence

from kymaton.core.checks.registry import Finding, Severity, kind, worded
from kymaton.core.signal.av_offset import AVOffset, frame_ms, leads, worst
from kymaton.core.signal.cue_solution import CueSolution
from kymaton.core.words import exact_ms, frames_said, group, ms, ms_within, named, sentence, the_device


def _said(view: CueSolution, findings: Sequence[Finding]) -> str:
    """How far off, with which pictures, for whom; where the figures do not tell, how far it may be off."""
    listeners = group(named(view.show.listener(f.listener)) for f in findings if f.listener)
    cameras = group(the_device(view.show, str(f.evidence["camera"])) for f in findings)
    first = findings[0]
    way = "early" if first.id == "sound-early" else "late"
    frames = max((_frames(f, "frames") for f in findings), key=abs)
    if first.severity == "fault":
        return sentence(f"sound is {frames_said(abs(frames))} {way} with {cameras} for {listeners}")
    most = max(abs(_frames(f, "frames")) + _frames(f, "frames_plus_minus") for f in findings)
    return sentence(f"sound may be up to {frames_said(most)} {way} with {cameras} for {listeners}")


def _frames(finding: Finding, name: str) -> float:
    return float(str(finding.evidence[name]))


@kind("sound-early", rank=82, gathered="all", cure="delay", watched=True, together=_said)
@kind("sound-late", rank=83, gathered="all", cure="delay", watched=True, together=_said)
def lip_sync(view: CueSolution) -> Iterable[Finding]:
    """The picture on air against the sound that strains the window most, at each destination."""
    frame = frame_ms(view.show)
    for row in worst(leads(view, on_air=True)):
        window, verdict = row.window, row.verdict
        if verdict == "inside":
            continue
        goes_out = view.show.listener(row.destination).kind != "guest"
        severity: Severity = "fault" if verdict == "outside" and goes_out else "caution"
        strained = (
            max(row.lead_ms + row.plus_minus_ms, 0) / window.early_ms,
            max(row.plus_minus_ms - row.lead_ms, 0) / window.late_ms,
        )
        id = "sound-early" if strained[0] >= strained[1] else "sound-late"
        finding = Finding(
            id=id,
            severity=severity,
            step="sync",
            cue=view.cue_id,
            listener=row.destination,
            reason=_reason(view, row),
            evidence={
                "camera": row.camera,
                "sound": row.sound,
                "lead_ms": row.lead_ms,
                "frames": row.lead_ms / frame,
                "frames_plus_minus": row.plus_minus_ms / frame,
                "plus_minus_ms": row.plus_minus_ms,
                "window": window.name,
            },
            ports=(row.source, f"listener/{row.destination}"),
        )
        yield worded(view, finding, _said)


def _reason(view: CueSolution, row: AVOffset) -> str:
    window = row.window
    text = (
        f"The picture arrives after {ms(row.picture_us / 1000)}, the sound after {ms(row.sound_us / 1000)}: "
        f"{ms_within(abs(row.lead_ms), row.plus_minus_ms)} {'early' if row.lead_ms > 0 else 'late'}. {window.name} "
        f"allows {exact_ms(window.early_ms)} early and {exact_ms(window.late_ms)} late."
    )
    assumed = [d for d, _, a in row.doubts if a]
    if row.verdict == "perhaps" and assumed:
        text += f" Measure {the_device(view.show, assumed[0])} first: its figure is only assumed."
    return text
