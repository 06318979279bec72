"""`kymaton loudness`: recordings measured, held against a goal, and listed; one or many."""

import argparse
import sys
from collections.abc import Iterable, Iterator
from typing import TYPE_CHECKING, Any

from kymaton.cli import text_output
from kymaton.cli.common import Usage
from kymaton.cli.ending import end_if_asked
from kymaton.cli.json_output import print_json
from kymaton.cli.progress import shown
from kymaton.core.errors import FileError
from kymaton.core.levels.goals import Goal, balance, goal_of, verdict
from kymaton.core.measuring.fault_words import spot_text
from kymaton.media import jobs
from kymaton.media.bench_table import values, write_table

if TYPE_CHECKING:
    from kymaton.media.bench import Benched


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
            troubles.append(str(error))
    if troubles and not found:
        more = f" {len(troubles) - 1} more cannot be read." if len(troubles) > 1 else ""
        raise FileError(f"{troubles[0]}{more}")
    several = len(options.file) > 1
    uneven = balance({b.name: b.loudness.integrated_lufs for b in found}) if several else []
    if options.csv is not None:
        write_table(options.csv, found, goal)
    if options.json:
        told = [values(b, goal) for b in found]
        plain = told[0] if len(told) == 1 and not several else {"files": told, "balance": uneven, "troubles": troubles}
        print_json(plain)
    else:
        for line in _lines(found, goal):
            print(line)
        for line in uneven:
            print(f"{line}.")
    for trouble in troubles:
        print(f"kymaton: {trouble}", file=sys.stderr)
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
