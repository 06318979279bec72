"""What was measured on the bench, as a table in CSV and as plain values."""

import csv
import io
import math
from collections.abc import Iterable
from pathlib import Path
from typing import TYPE_CHECKING, Any

from kymaton.core.levels.goals import Goal, verdict
from kymaton.core.measuring.fault_words import spot_text
from kymaton.store.atomic import write_whole
from kymaton.store.csvfile import harmless

if TYPE_CHECKING:
    from kymaton.media.bench import Benched
    from kymaton.media.loudness import Loudness

COLUMNS = (
    "file", "track", "integrated_lufs", "range_lu", "max_short_term_lufs", "max_momentary_lufs", "true_peak_dbtp",
    "seconds", "goal_lufs", "meets", "gain_db", "most_db", "found",
)  # fmt: skip


def loudness_values(found: "Loudness") -> dict[str, float | None]:
    """Loudness as plain values; None where all is below the gate."""

    def plain(value: float, digits: int) -> float | None:
        return round(value, digits) if math.isfinite(value) else None

    return {
        "integrated_lufs": plain(found.integrated_lufs, 2),
        "range_lu": plain(found.range_lu, 2),
        "true_peak_dbtp": plain(found.true_peak_dbtp, 2),
        "max_short_term_lufs": plain(found.max_short_term_lufs, 2),
        "max_momentary_lufs": plain(found.max_momentary_lufs, 2),
        "seconds": round(found.seconds, 3),
    }


def values(measured: "Benched", goal: Goal | None) -> dict[str, Any]:
    """One track as plain values; with a goal, how it stands to that."""
    told: dict[str, Any] = {
        "file": str(measured.path),
        "track": measured.track,
        **loudness_values(measured.loudness),
        "mono": measured.is_mono,
        "found": [
            {
                "kind": s.kind, "from_s": round(s.from_s, 3), "to_s": round(s.to_s, 3), "channel": s.channel or None,
                "level": round(s.level, 1), "hertz": s.hertz or None,
            }
            for s in measured.spots
        ],
    }  # fmt: skip
    if goal is not None:
        judged = verdict(measured.loudness.integrated_lufs, measured.loudness.true_peak_dbtp, goal)
        told["goal"] = {
            "lufs": goal.lufs, "origin": goal.origin, "meets": judged.meets, "gain_db": round(judged.gain_db, 2),
            "most_db": round(judged.most_db, 2),
        }  # fmt: skip
    return told


def write_table(path: Path, found: "Iterable[Benched]", goal: Goal | None) -> None:
    """A line for each track. Raises FileError."""
    text = io.StringIO(newline="")
    writer = csv.writer(text)
    writer.writerow(COLUMNS)
    for measured in found:
        told = values(measured, goal)
        judged = told.get("goal", {})
        spots = "; ".join(spot_text(s) for s in measured.spots)
        goals = [judged.get(k) for k in ("lufs", "meets", "gain_db", "most_db")]
        row = [measured.path.name, measured.track, *(told[c] for c in COLUMNS[2:8]), *goals, spots]
        writer.writerow(["" if x is None else harmless(x) if isinstance(x, str) else x for x in row])
    write_whole(path, text.getvalue().encode("utf-8"))
