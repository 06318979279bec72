"""What the commands print for people."""

import math
from typing import TYPE_CHECKING, Any

from kymaton.core.checks import RIG_KINDS, Finding
from kymaton.core.checks.report import Report
from kymaton.core.measuring.align import Alignment
from kymaton.core.measuring.lead_estimate import SyncMeasurement
from kymaton.core.model import Listener, Show, Sound
from kymaton.core.planning.fixes import Fix, describe, parts_of, place_of, rig_of, value_text
from kymaton.core.planning.sync_delays import SyncPlan, setting_text, verdict_text
from kymaton.core.signal.av_offset import AVOffset
from kymaton.core.signal.cue_solution import Burst
from kymaton.core.words import counted, ms_within, number

if TYPE_CHECKING:
    from kymaton.media.loudness import Loudness


def change_line(show: Show, change: Any) -> str:
    """One change in a line: what, from what to what, in which cue, why."""
    rig = rig_of(show, change)
    before = value_text(rig.control(change.control), change.before)
    return f"{describe(rig, change)} (was {before}), {place_of(show, change)}: {change.why}"


def sync_lines(show: Show, plan: SyncPlan) -> list[str]:
    """The delays to enter, the leads with them, and what remains to be said."""
    cues = {c.id: c.name for c in show.cues}

    def row_text(row: AVOffset) -> str:
        where = f"{cues.get(row.cue or '', 'all cues')}, {show.device(row.camera).name}"
        return f"  {where}: {verdict_text(show, row)}"

    lines = ["Now:", *(row_text(r) for r in plan.before)]
    for change in plan.changes:
        control = show.control(change.control)
        where = f"in {cues[change.cue]}" if change.cue else "in all cues"
        lines.append(f"Enter {setting_text(show, control, float(change.after))}: {control.name}, {where}")
    if plan.changes:
        lines += ["Then:", *(row_text(r) for r in plan.after)]
    elif plan.before:
        lines.append("No other delay is better than what is set.")
    else:
        lines.append("No destination is sent a picture that shows what is heard there.")
    return [*lines, *plan.remarks]


def measurement_lines(found: SyncMeasurement) -> list[str]:
    """A measurement in words."""
    way = "early" if found.lead_ms >= 0 else "late"
    lines = [
        f"Sound is {ms_within(abs(found.lead_ms), found.plus_minus_ms)} {way} "
        f"({counted(found.matched, 'event')}, confidence {found.confidence}).",
    ]
    if found.drift_ppm:
        lines.append(f"It drifts by {number(found.drift_ppm, 1)} ± {number(found.drift_plus_minus_ppm, 1)} ppm.")
    return [*lines, *found.remarks]


def alignment_lines(found: Alignment) -> list[str]:
    """An alignment in words; what is not sure is not told as if it were."""
    if found.confidence == "low":
        return ["They cannot be laid over each other.", *found.remarks]
    way = "later" if found.offset_ms >= 0 else "earlier"
    lines = [
        f"The same sound comes {number(abs(found.offset_ms), 2)} ms {way} in the other recording, "
        f"± {number(found.plus_minus_ms, 2)} ms (confidence {found.confidence})."
    ]
    if found.drift_ppm:
        lines.append(f"That grows by {number(found.drift_ppm, 1)} ppm.")
    turned = ", turned over" if found.polarity < 0 else ""
    lines.append(
        f"It is {number(abs(found.level_db), 1)} dB {'stronger' if found.level_db >= 0 else 'softer'}{turned}."
    )
    return [*lines, *found.remarks]


def loudness_line(found: "Loudness") -> str:
    """Loudness in words."""
    if not math.isfinite(found.integrated_lufs):
        return f"silent, or below the gate of −70 LUFS, for {number(found.seconds, 1)} s."
    text = f"{number(found.integrated_lufs, 1)} LUFS, range {number(found.range_lu, 1)} LU, "
    text += (
        f"true peak {number(found.true_peak_dbtp, 1)} dBTP, momentary up to {number(found.max_momentary_lufs, 1)} LUFS"
    )
    if math.isfinite(found.max_short_term_lufs):
        text += f", short-term up to {number(found.max_short_term_lufs, 1)} LUFS"
    return f"{text}; {number(found.seconds, 1)} s."


def fix_line(show: Show, fix: Fix) -> str:
    """A fix in a line: `Close both sends: Close desk 9 to aux 1; Close desk 10 to aux 1`."""
    parts = "; ".join(parts_of(show, fix))
    return f"{fix.title}: {parts}" if parts else fix.title


def finding_line(report: Report, finding: Finding, fix: Fix | None, where: str = "") -> str:
    """A finding in a line: how grave, where it stands, what, why, and what cures it."""
    show = report.show
    if finding.variant is not None:
        show = report.variants[finding.variant].show
        where = f"{next(v.name for v in report.show.variants if v.id == finding.variant)}, "
    cue = show.cue(finding.cue).name if finding.cue else "Rig" if finding.id in RIG_KINDS else "Base state"
    cure = f" {finding.remedy}" if finding.remedy else ""
    if fix is not None:
        cure = f" {'' if fix.asked else 'Fix: '}{fix_line(show, fix)}."
    return f"{finding.severity:8}{where}{cue}: {finding.sentence}. {finding.reason}{cure}"


def arrival_line(listener: Listener, sound: Sound, burst: Burst, spread_ms: float) -> str:
    delay = ms_within(burst.delay_ms, spread_ms)
    level = f"{number(sound.level + burst.gain_db, 1)} {listener.unit}"
    polarity = "  opposite polarity" if burst.polarity < 0 else ""
    return f"  {listener.name:12}{sound.name:14}{delay:>20}{level:>16}{polarity}"
