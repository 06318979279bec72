"""Kymatons that are killed while they write: a show, the work kept beside it, and the logbook.

    python -m tests.fuzz.kills MANY SEED

What was said to be written must be there, whole, and after the sweep of the next start nothing may be left besides.
"""

import datetime
import os
import random
import signal
import sys
import tempfile
import time
from collections import Counter
from pathlib import Path

from kymaton.core.model import Show
from kymaton.store.logbook import Entry, Logbook
from kymaton.store.recovery import Journal, discard, kept_work, sweep_left
from kymaton.store.showfile import read_show, write_show

NOW = datetime.datetime(2026, 11, 24, 21, 40)
LONGEST_S = 0.03


def writing(place: Path, first: int, told: int) -> None:
    """Write on and on, and say after each writing which number it had."""
    journal, book = Journal(place / "kept"), Logbook(place / "log.sqlite")
    number = first
    while True:
        number += 1
        show = Show(title=str(number), notes="x" * 100_000 + str(number))
        write_show(show, place / "a.kymaton")
        os.write(told, f"show {number}\n".encode())
        journal.keep(show, place / "a.kymaton", None, NOW)
        os.write(told, f"kept {number}\n".encode())
        book.add(Entry(NOW.isoformat(), "show", "", "note", str(number)))
        os.write(told, f"log {number}\n".encode())


def killed(place: Path, first: int, after_s: float) -> dict[str, int]:
    """Let one write for a while and kill it: the last number that it said of each."""
    read, write = os.pipe()
    child = os.fork()
    if child == 0:
        os.close(read)
        try:
            writing(place, first, write)
        finally:
            os._exit(1)
    os.close(write)
    time.sleep(after_s)
    os.kill(child, signal.SIGKILL)
    os.waitpid(child, 0)
    with os.fdopen(read) as said:
        return {name: int(number) for name, number in (line.split() for line in said)}


def whole(show: Show) -> bool:
    return show.notes == "x" * 100_000 + show.title


def looked_at(place: Path, last: dict[str, int]) -> list[str]:
    """What is wrong with what is there; kept work is taken, and what is left is swept, as at a start."""
    wrong = []
    shows = [read_show(f) for f in (place / "a.kymaton", place / "a.kymaton.previous") if f.exists()]
    wrong += ["a show is not whole" for show in shows if not whole(show)]
    if last.get("show", 0) > max((int(s.title) for s in shows), default=0):
        wrong.append("a show that was saved is not there")
    kept = kept_work(place / "kept")
    wrong += ["kept work is not whole" for work in kept if not whole(work.show())]
    if last.get("kept", 0) > max((int(work.show().title) for work in kept), default=0):
        wrong.append("work that was kept is not there")
    lines = {entry.text for entry in Logbook(place / "log.sqlite").entries(most=50)}
    if "log" in last and str(last["log"]) not in lines:
        wrong.append("a line of the logbook is not there")
    for work in kept:
        discard(work)
    sweep_left([place], place / "kept")
    known = {"a.kymaton", "a.kymaton.previous", "log.sqlite", "log.sqlite-journal"}
    return wrong + [f"left: {f.name}" for f in place.rglob("*") if f.is_file() and f.name not in known]


def main(many: int, seed: int = 1) -> int:
    """Kill so many; what was lost or left is printed. 0 when nothing was."""
    chance = random.Random(seed)
    counts: Counter[str] = Counter()
    highest = 0
    with tempfile.TemporaryDirectory() as folder:
        place = Path(folder)
        for _ in range(many):
            last = killed(place, highest, chance.uniform(0.0, LONGEST_S))
            counts.update(looked_at(place, last) or ["nothing lost, nothing left"])
            there = [int(read_show(f).title) for f in place.glob("a.kymaton*")]
            highest = max([highest, *there, *last.values()])
    for what, times in counts.most_common():
        print(f"{times:7d}  {what}")
    print(f"{highest} writings")
    return 0 if set(counts) <= {"nothing lost, nothing left"} and highest > 0 else 1


if __name__ == "__main__":
    sys.exit(main(int(sys.argv[1]) if len(sys.argv) > 1 else 2000, int(sys.argv[2]) if len(sys.argv) > 2 else 1))
