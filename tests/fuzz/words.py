"""Command lines at random: each ends with a code of its own and at most one line of trouble, and keeps what was there.

`make fuzz` tries many; a short run of fixed seeds is part of the tests.
"""

import argparse
import contextlib
import io
import os
import random
import shutil
import sys
import tempfile
import time
import warnings
from collections import Counter
from collections.abc import Iterator
from fractions import Fraction
from pathlib import Path

import numpy as np
import soundfile

from kymaton.cli.main import main as kymaton
from kymaton.cli.parser import parser
from kymaton.media import apart
from kymaton.media.clips import Clip, write_clip
from tests.shows import DEMO, HEALTHY

SLOW_S = 30.0  # of computing
ODD = (
    "", "-", "--", "0", "-1", "1e999", "nan", "inf", "1/0", "25", "30000/1001", "abc", "a" * 300, "\udc80",
    "a\x1b[31mb", "a\nb", "/dev/null", "/dev/zero", "/", ".", "nowhere/x.mp4", "desk", "ilse", "guest-talk", "none",
    "160x90", "0x0",
)  # fmt: skip
WINDOWED = ("open", "demo")
SHOWS, MEDIA = ("demo.kymaton", "healthy.kymaton", "cut.kymaton"), ("clip.mp4", "clip.mp4", "two.wav")
FITTING = {  # what an argument of this name takes
    "show": SHOWS, "clip": MEDIA, "reference": MEDIA, "other": MEDIA, "picture": MEDIA, "film": MEDIA, "file": MEDIA,
    "sound": ("two.wav", "clip.mp4", "ilse"), "also": MEDIA, "list": ("list.csv",),
    "cue": ("guest-talk", "song", "none"),
    "listener": ("ilse", "audience"), "out": ("out.mkv", "out.mp4", "out.wav", "out.kymaton", "clip.mp4", "two.wav"),
    "fps": ("25", "30000/1001", "50"), "clip_fps": ("25", "24"), "seconds": ("4", "5.5"), "size": ("64x64", "160x90"),
}  # fmt: skip
NUMBERS = ("0", "12.5", "-40", "100", "1", "0.3")


def commands(words: argparse.ArgumentParser, before: tuple[str, ...] = ()) -> Iterator[tuple[tuple[str, ...], list]]:
    """Every command with its arguments, from the parser itself."""
    below = [a for a in words._actions if isinstance(a, argparse._SubParsersAction)]
    for action in below:
        for name, each in action.choices.items():
            if name not in WINDOWED:
                yield from commands(each, (*before, name))
    if not below:
        yield before, [a for a in words._actions if not isinstance(a, argparse._HelpAction)]


def line_of(chance: random.Random, every: list[tuple[tuple[str, ...], list]], files: list[str]) -> list[str]:
    """One command line: mostly with what it needs, and some of what it takes, likely or not."""
    command, actions = chance.choice(every)
    line = list(command)
    for action in actions:
        if action.option_strings and chance.random() > (0.8 if action.required else 0.3):
            continue
        if action.option_strings:
            line.append(chance.choice(action.option_strings))
        elif chance.random() < 0.05:
            continue
        if action.nargs == 0:
            continue
        value = chance.choice(FITTING.get(action.dest, NUMBERS))
        if chance.random() < 0.15:
            value = chance.choice((*files, *ODD))
        line.append(str(chance.choice(list(action.choices))) if action.choices and chance.random() < 0.8 else value)
    if chance.random() < 0.1:
        line.insert(chance.randrange(len(line) + 1), chance.choice(ODD))
    return line


def tried(line: list[str]) -> str:
    """The code with which a line ends. Raises AssertionError where it does not end as it should."""
    out, err = io.StringIO(), io.StringIO()
    with contextlib.redirect_stdout(out), contextlib.redirect_stderr(err):
        try:
            code = kymaton(line)
        except SystemExit as end:  # as argparse and signals end
            code = end.code if isinstance(end.code, int) else 2
    told = err.getvalue()
    if code not in (0, 1, 2):
        raise AssertionError(f"code {code}: {told.strip()[:200]}")
    rows = "--list" in line and code == 2 and out.getvalue()  # each row of a list says what became of it
    if told.count("\n") > 1 or (code == 2) != bool(told or rows) or "\x1b" in told + out.getvalue():
        raise AssertionError(f"code {code} with {told[:300]!r}")
    if code != 2 and ("nan" in out.getvalue().lower().split() or "inf" in out.getvalue().lower().split()):
        raise AssertionError("a figure without end")
    return str(code)


def main(many: int, seed: int = 1) -> int:
    """Try so many lines; what went wrong is printed. 0 when nothing did."""
    warnings.simplefilter("error")
    counts: Counter[str] = Counter()
    every = list(commands(parser()))
    home = Path.cwd()
    with tempfile.TemporaryDirectory() as place:
        store = Path(place) / "store"
        store.mkdir()
        shutil.copy(DEMO, store / "demo.kymaton")
        shutil.copy(HEALTHY, store / "healthy.kymaton")
        (store / "cut.kymaton").write_bytes(DEMO.read_bytes()[:9000])
        write_clip(Clip(Fraction(25), 4.0, 160, 90), store / "clip.mp4")
        noise = 0.1 * np.random.default_rng(1).standard_normal((48_000 * 2, 2))
        soundfile.write(str(store / "two.wav"), noise, 48_000)
        (store / "list.csv").write_text("picture,sound,out\nclip.mp4,two.wav,o.mkv\n")
        files = [*sorted(p.name for p in store.iterdir()), "out.mkv", "out.wav", "out.kymaton", "out.mp4"]
        try:
            for number in range(seed, seed + many):
                chance = random.Random(number)
                folder = Path(place) / "work"
                shutil.copytree(store, folder)
                os.chdir(folder)
                line = line_of(chance, every, files)
                begun = time.process_time()  # a busy machine makes nothing slower than it is
                try:
                    what = tried(line)
                    left = [p.name for p in folder.iterdir() if p.name.startswith(".")]
                    if left:
                        raise AssertionError(f"left behind: {left}")
                except Exception as error:
                    what = f"{type(error).__name__}: {error}"[:110]
                    print(f"seed {number}: {line}: {type(error).__name__}: {error}", flush=True)
                counts[what] += 1
                if (took_s := time.process_time() - begun) > SLOW_S:
                    counts["slow"] += 1
                    print(f"seed {number}: {line}: {took_s:.1f} s", flush=True)
                os.chdir(home)
                shutil.rmtree(folder)
        finally:
            os.chdir(home)
    apart.end_all()
    for what, count in counts.most_common():
        print(f"{count:6} {what}")
    return 0 if set(counts) <= {"0", "1", "2"} else 1


if __name__ == "__main__":
    sys.exit(main(int(sys.argv[1]), int(sys.argv[2]) if len(sys.argv) > 2 else 1))
