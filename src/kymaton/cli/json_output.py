"""What the commands print as `--json`: stable shapes, more keys may be added."""

import json
import math
from collections.abc import Iterable
from typing import TYPE_CHECKING, Any

from kymaton.core.checks import Finding, Key
from kymaton.core.checks.report import Report
from kymaton.core.measuring.align import Alignment
from kymaton.core.measuring.lead_estimate import SyncMeasurement
from kymaton.core.model import Alternative, Show, ShowError
from kymaton.core.planning.fixes import Fix, all_fixes
from kymaton.core.planning.planner import Proposal
from kymaton.core.planning.send_levels import Evened
from kymaton.core.planning.sync_delays import SyncPlan, setting_text
from kymaton.core.signal.av_offset import AVOffset
from kymaton.core.signal.cue_solution import CueSolution

if TYPE_CHECKING:
    from kymaton.media.film.batch import JobResult
    from kymaton.media.loudness import Loudness

Json = dict[str, Any]


def print_json(content: object) -> None:
    print(json.dumps(content, ensure_ascii=False, indent=1, allow_nan=False))


def check_json(report: Report, fixes: dict[Key, Fix]) -> Json:
    return {
        "show": report.show.title,
        "counts": {severity: report.count(severity) for severity in ("fault", "caution", "note")},
        "findings": [_finding_json(report, f, fixes.get(f.key)) for f in report.findings],
    }


def _finding_json(report: Report, finding: Finding, fix: Fix | None) -> Json:
    stands = report if finding.variant is None else report.variants[finding.variant]
    cue = stands.cues.get(finding.cue)
    return {
        "id": finding.id,
        "severity": finding.severity,
        "cue": finding.cue,
        "listener": finding.listener,
        "sound": finding.sound,
        "sentence": finding.sentence,
        "reason": finding.reason,
        "evidence": finding.evidence,
        "path": list(cue.ports(finding)) if cue else list(finding.ports),
        "fix": fix is not None and not fix.asked,
        "asked": fix is not None and fix.asked,
        "changes": [] if fix is None else changes_json(fix.changes),
        "step": finding.step,
        "variant": finding.variant,
        "remedy": finding.remedy,
    }


def way_json(way: Alternative, found: Report | ShowError, plain: Report) -> Json:
    """Another way: what is found in it and not in the rig as it is, or why it cannot be done any more."""
    if isinstance(found, ShowError):
        return {"way": way.id, "trouble": str(found), "findings": []}
    known, fixes = {f.key for f in plain.findings}, all_fixes(found)
    new = [_finding_json(found, f, fixes.get(f.key)) for f in found.findings if f.key not in known]
    return {"way": way.id, "trouble": "", "findings": new}


def changes_json(changes: Iterable[Any]) -> list[Json]:
    return [
        {"cue": c.cue, "variant": c.variant, "control": c.control, "from": c.before, "to": c.after, "why": c.why}
        for c in changes
    ]


def hear_json(view: CueSolution, listeners: Iterable[str]) -> Json:
    rows = []
    for listener_id in listeners:
        listener = view.show.listener(listener_id)
        for sound in view.show.sounds:
            arrivals = view.hearing.arrivals(listener_id, sound.id)
            if not arrivals:
                continue
            ports = {
                (p.delay_us, p.sound_channel, p.ear): list(p.ports(view.graph))
                for p in reversed(view.paths(listener_id, sound.id))
            }
            for a in arrivals:
                rows.append(
                    {
                        "cue": view.cue_id,
                        "listener": listener_id,
                        "sound": sound.id,
                        "delay_ms": a.delay_ms,
                        "plus_minus_ms": round(view.plus_minus_ms(listener_id, sound.id, a.delay_us), 3),
                        "gain_db": round(a.gain_db, 3),
                        "level": round(sound.level + a.gain_db, 3),
                        "level_unit": listener.unit,
                        "polarity": a.polarity,
                        "channel": "LR"[a.ear - 1],
                        "sound_channel": a.sound_channel,
                        "path": ports.get((a.delay_us, a.sound_channel, a.ear), []),
                    }
                )
    loops = [
        {
            "cue": view.cue_id,
            "margin_db": round(x.margin_db, 2) if math.isfinite(x.margin_db) else None,
            "decay_s": round(x.decay_s, 4) if math.isfinite(x.decay_s) else None,
            "path": list(x.ports(view.graph)),
        }
        for x in view.loops
    ]
    return {"cue": view.cue_id, "arrivals": rows, "loops": loops, "truncated": view.hearing.truncated}


def plan_json(proposal: Proposal) -> Json:
    return {
        "changes": changes_json(proposal.changes),
        "impossible": [
            {
                "cue": x.cue,
                "sentence": x.sentence,
                "buses_missing": x.buses_missing,
                "collides": list(x.collides),
                "ways_out": [way.sentence for way in x.ways],
            }
            for x in proposal.impossible
        ],
        "cures": len(proposal.cured),
        "bounded": proposal.bounded,
    }


def even_json(found: Evened) -> Json:
    """Send levels for a listener as JSON."""
    return {
        "changes": changes_json(found.changes),
        "before_db": found.before_db,
        "after_db": found.after_db,
        "remarks": list(found.remarks),
    }


def lead_json(row: AVOffset) -> dict[str, object]:
    """A lead as JSON."""
    return {
        "cue": row.cue,
        "destination": row.destination,
        "camera": row.camera,
        "sound": row.sound,
        "picture_ms": row.picture_us / 1000,
        "sound_ms": row.sound_us / 1000,
        "lead_ms": row.lead_ms,
        "plus_minus_ms": round(row.plus_minus_ms, 3),
        "on_air": row.on_air,
        "verdict": row.verdict,
        "window": row.window.name,
    }


def sync_json(show: Show, plan: SyncPlan) -> dict[str, object]:
    """The shape of `sync solve --json`."""
    return {
        "window": plan.window.name,
        "changes": [
            {
                "cue": c.cue,
                "control": c.control,
                "from": c.before,
                "to": c.after,
                "setting": setting_text(show, show.control(c.control), float(c.after)),
            }
            for c in plan.changes
        ],
        "before": [lead_json(r) for r in plan.before],
        "after": [lead_json(r) for r in plan.after],
        "remarks": list(plan.remarks),
    }


def measurement_json(found: SyncMeasurement) -> Json:
    """The shape of `sync measure --json`."""
    return {
        "lead_ms": round(found.lead_ms, 3),
        "plus_minus_ms": round(found.plus_minus_ms, 3),
        "events": found.matched,
        "refused": found.refused,
        "jitter_ms": round(found.jitter_ms, 3),
        "drift_ppm": round(found.drift_ppm, 2),
        "drift_plus_minus_ppm": round(found.drift_plus_minus_ppm, 2),
        "kind": found.kind,
        "confidence": found.confidence,
        "remarks": list(found.remarks),
    }


def alignment_json(found: Alignment) -> Json:
    """The shape of `sync align --json`."""
    return {
        "offset_ms": round(found.offset_ms, 4),
        "plus_minus_ms": round(found.plus_minus_ms, 4),
        "drift_ppm": round(found.drift_ppm, 3),
        "confidence": found.confidence,
        "polarity": found.polarity,
        "level_db": round(found.level_db, 2),
        "windows": len(found.spots),
        "remarks": list(found.remarks),
    }


def done_json(done: "JobResult") -> Json:
    """The shape of `embed --json`; of a film in a list that could not be made, its trouble."""
    if done.made is None:
        return {"out": str(done.order.embedding.out), "trouble": done.trouble}
    made = done.made
    return {
        "out": str(made.out),
        "offset_ms": round(made.offset_ms, 4),
        "drift_ppm": round(made.drift_ppm, 3),
        "residual_ms": None if made.residual_ms is None else round(made.residual_ms, 4),
        "residual_drift_ppm": None if made.residual_drift_ppm is None else round(made.residual_drift_ppm, 3),
        "gain_db": round(done.gain_db, 3),
        "loudness": None if done.reached is None else loudness_json(done.reached),
        "copied": made.copied,
    }


def loudness_json(found: "Loudness") -> Json:
    """Loudness of a film's sound."""
    from kymaton.media.bench_table import loudness_values

    return dict(loudness_values(found))
