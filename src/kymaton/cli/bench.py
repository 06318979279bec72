"""`kymaton loudness`: recordings measured, held against a goal, and listed; one or many."""

import argparse
import csv
import io
import sys
from collections.abc import Iterable, Iterator
from pathlib import Path
from typing import TYPE_CHECKING, Any

from kymaton.cli import json_output, text_output
from kymaton.cli.common import Usage
from kymaton.cli.ending import end_if_asked
from kymaton.cli.json_output import print_json
from kymaton.cli.progress import shown
from kymaton.core.errors import FileError
from kymaton.core.levels.goals import Goal, balance, goal_of, verdict
from kymaton.core.measuring.fault_words import spot_text
from kymaton.media import jobs
from kymaton.store.atomic import write_whole
from kymaton.store.csvfile import harmless

if TYPE_CHECKING:
    from kymaton.media.bench import Benched

COLUMNS = (
    "file", "track", "integrated_lufs", "range_lu", "max_short_term_lufs", "max_momentary_lufs", "true_peak_dbtp",
    "seconds", "goal_lufs", "meets", "gain_db", "most_db", "found",
)  # fmt: skip


def loudness(options: argparse.Namespace) -> int:
    """Every track of every file; a file that cannot be read is said, and harms no other. Exit 1 where one misses."""
    goal = goal_of(options.goal) if options.goal is not None else None
    if options.goal is not None and not -70 <= options.goal <= 0:
        raise Usage("--goal is −70 to 0 LUFS.")
    found: list[Benched] = []
    troubles: list[str] = []
    for path in options.file:
        end_if_asked()
        try:
            with shown(path.name) as progress:
                found += jobs.bench(path, progress)
        except FileError as error:
            if len(options.file) == 1:
                raise
            troubles.append(str(error))
    several = len(options.file) > 1
    uneven = balance({b.name: b.loudness.integrated_lufs for b in found}) if several else []
    if options.csv is not None:
        _write_csv(options.csv, found, goal)
    if options.json:
        told = [_json(b, goal) for b in found]
        plain = told[0] if len(told) == 1 and not several else {"files": told, "balance": uneven, "troubles": troubles}
        print_json(plain)
    else:
        for line in _lines(found, goal):
            print(line)
        for line in uneven:
            print(f"{line}.")
    for trouble in troubles:
        print(f"kymaton: {trouble}", file=sys.stderr)
    if troubles and not found:
        return 2
    missed = goal is not None and not all(_verdict(b, goal).meets for b in found)
    return 1 if missed or troubles else 0


def _verdict(measured: "Benched", goal: Goal) -> Any:
    return verdict(measured.loudness.integrated_lufs, measured.loudness.true_peak_dbtp, goal)


def _lines(found: "Iterable[Benched]", goal: Goal | None) -> Iterator[str]:
    for measured in found:
        yield f"{measured.name}: {text_output.loudness_line(measured.loudness)}"
        if goal is not None:
            yield f"  {_verdict(measured, goal).sentence}."
        if measured.is_mono:
            yield "  Both sides carry the same."
        for spot in measured.spots:
            yield f"  {spot_text(spot)}."


def _json(measured: "Benched", goal: Goal | None) -> dict[str, Any]:
    told: dict[str, Any] = {
        "file": str(measured.path),
        "track": measured.track,
        **json_output.loudness_json(measured.loudness),
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
        judged = _verdict(measured, goal)
        told["goal"] = {
            "lufs": goal.lufs, "origin": goal.origin, "meets": judged.meets, "gain_db": round(judged.gain_db, 2),
            "most_db": round(judged.most_db, 2),
        }  # fmt: skip
    return told


def _write_csv(path: Path, found: "Iterable[Benched]", goal: Goal | None) -> None:
    rows = []
    for measured in found:
        told = _json(measured, goal)
        judged = told.get("goal", {})
        spots = "; ".join(spot_text(s) for s in measured.spots)
        figures = [told[c] for c in COLUMNS[2:8]]
        goals = [judged.get(k) for k in ("lufs", "meets", "gain_db", "most_db")]
        rows.append([measured.path.name, measured.track, *figures, *goals, spots])

    text = io.StringIO(newline="")
    writer = csv.writer(text)
    writer.writerow(COLUMNS)
    for row in rows:
        writer.writerow(["" if x is None else harmless(x) if isinstance(x, str) else x for x in row])
    write_whole(path, text.getvalue().encode("utf-8"))
