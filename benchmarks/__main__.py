"""Runs all benchmarks and writes benchmarks/RESULTS.md."""

import os
import platform
import sys
from collections.abc import Callable, Iterable
from pathlib import Path

import numpy

from benchmarks import edit, hearing, layout, loadin, loudness, media, planning, render, start

PARTS: dict[str, Callable[[], Iterable[tuple[str, str, str]]]] = {
    "hearing": hearing.run,
    "render": render.run,
    "edit": edit.run,
    "planning": planning.run,
    "loudness": loudness.run,
    "load-in": loadin.run,
    "layout": layout.run,
    "media": media.run,
    "start": start.run,
}


def main() -> None:
    chosen = sys.argv[1:] or list(PARTS)
    rows = []
    for name in chosen:
        for row in PARTS[name]():
            print(" | ".join(row), flush=True)
            rows.append(row)
    if not sys.argv[1:]:
        head = [
            "# Speed",
            "",
            f"{os.cpu_count()} cores, {platform.machine()}, Python {platform.python_version()}, "
            f"NumPy {numpy.__version__}.",
            "Each time is the best of several runs; ratios are the middle ones to a floor that is run in turn.",
            "`make bench` makes this page anew.",
            "",
            "| work | measured | goal |",
            "| --- | --- | --- |",
        ]
        text = "\n".join([*head, *(f"| {' | '.join(r)} |" for r in rows)]) + "\n"
        (Path(__file__).parent / "RESULTS.md").write_text(text, "utf-8")


if __name__ == "__main__":
    main()
