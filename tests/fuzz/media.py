"""Damaged films and sounds: whatever is in the file, there is an answer or a sentence, in bounded time and space.

`make fuzz` tries many after the shows; a short run of fixed seeds is part of the tests.
"""

import random
import shutil
import sys
import tempfile
import time
from collections import Counter
from fractions import Fraction
from pathlib import Path

import numpy as np
import soundfile

from kymaton.core.errors import KymatonError
from kymaton.media import apart, jobs
from kymaton.media.clips import Clip, Coding, write_clip, write_film
from kymaton.media.film.batch import Order
from kymaton.media.film.embed import Embedding
from kymaton.media.film.placing import Track

SLOW_S = 20.0  # of computing
MOST_BYTES = 200_000_000  # of what is written
ODD = (b"\x00\x00\x00\x00", b"\xff\xff\xff\xff", b"\x7f\xff\xff\xff", b"\x80\x00\x00\x00", b"\x00\x00\x00\x01")
NAMES = (b"mdat", b"moov", b"trak", b"stts", b"stsz", b"stco", b"stsc", b"elst", b"mvhd", b"mdhd", b"avcC", b"esds",
         b"fmt ", b"data", b"RIFF", b"fLaC", b"OggS", b"\x1f\x43\xb6\x75", b"\x16\x54\xae\x6b", b"G@")  # fmt: skip


def made(folder: Path) -> list[Path]:
    """Small healthy files of many kinds."""
    chance = np.random.default_rng(1)
    sound = (0.1 * chance.standard_normal(48_000 * 4)).astype(np.float32)
    films = []
    for suffix in (".mp4", ".mov", ".mkv"):
        films.append(folder / f"clip{suffix}")
        write_clip(Clip(Fraction(25), 4.0, 160, 90), films[-1])
    pictures = (np.full((48, 64), 16 if n % 25 else 235, np.uint8) for n in range(100))
    films.append(folder / "raw.mkv")
    write_film(films[-1], pictures, sound, Coding(Fraction(25), "mpeg4", "aac"))
    sounds = []
    for suffix, subtype in ((".wav", "PCM_16"), (".wav", "FLOAT"), (".flac", "PCM_16"), (".ogg", "VORBIS")):
        sounds.append(folder / f"{subtype.lower()}{suffix}")
        soundfile.write(str(sounds[-1]), np.stack([sound, np.roll(sound, 480)], axis=1), 48_000, subtype)
    return films + sounds


def damaged(data: bytes, chance: random.Random) -> bytes:
    """The same with one to eight places of it changed, mostly where the file tells what it holds."""
    spoiled = bytearray(data)
    for _ in range(chance.choice((1, 1, 2, 4, 8))):
        if len(spoiled) < 16:
            break
        what = chance.randrange(7)
        at = chance.randrange(len(spoiled))
        if chance.random() < 0.6:  # near the name of a part
            places = [i for name in NAMES if (i := spoiled.find(name, chance.randrange(len(spoiled)))) >= 0]
            if places:
                at = min(len(spoiled) - 1, max(0, chance.choice(places) + chance.randrange(-8, 40)))
        if what == 0:
            del spoiled[at:]
        elif what == 1:
            spoiled[at] ^= 1 << chance.randrange(8)
        elif what == 2:
            spoiled[at : at + 4] = chance.choice(ODD)
        elif what == 3:
            spoiled[at : at + 8] = chance.randbytes(8)
        elif what == 4:
            del spoiled[at : at + chance.randrange(1, 2000)]
        elif what == 5:
            piece = spoiled[at : at + chance.randrange(1, 2000)]
            spoiled[at:at] = piece
        else:
            other = chance.randrange(len(spoiled))
            spoiled[at : at + 32] = spoiled[other : other + 32]
    return bytes(spoiled)


def tried(path: Path, film: Path, chance: random.Random) -> str:
    """What becomes of a file: `refused`, `fell over` (and was caught) or `answered`. Anything else is raised."""
    out = path.with_name(f"out{chance.choice(('.mp4', '.mkv', '.mov'))}")
    works = {
        "measure": lambda: jobs.measure(path),
        "align": lambda: jobs.align_files(film, path),
        "sides": lambda: jobs.align_sides(path),
        "loudness": lambda: jobs.loudness_of(path),
        "extract": lambda: jobs.extract(Track(path), path.with_name("out.wav")),
        "look": lambda: jobs.look(jobs.open_film(path).film, 1.0),
        "embed": lambda: jobs.run_job(Order(Embedding(path, (Track(film, 100.0),), out))),
        "lay": lambda: jobs.run_job(Order(Embedding(film, (Track(path, 100.0),), out))),
    }
    name = chance.choice(list(works))
    try:
        works[name]()
    except KymatonError as error:
        if "\n" in str(error):
            raise AssertionError(f"{name}: more than one line: {error}") from error
        done = "fell over" if "does not survive" in str(error) else "refused"
    else:
        done = "answered"
    left = [p for p in path.parent.iterdir() if p.name.startswith(".")]
    if left or (done != "answered" and list(path.parent.glob("out.*"))):
        raise AssertionError(f"{name}: something was left behind")
    if sum(p.stat().st_size for p in path.parent.glob("out.*")) > MOST_BYTES:
        raise AssertionError(f"{name}: very much was written")
    return f"{done} by {name}" if done == "fell over" else done


def main(many: int, seed: int = 1, keep: Path | None = None) -> int:
    """Try so many damaged files; what went wrong is printed, and kept if a folder is given. 0 when nothing did."""
    counts: Counter[str] = Counter()
    longest_s = 0.0
    with tempfile.TemporaryDirectory() as place:
        healthy = Path(place) / "healthy"
        healthy.mkdir()
        starts = made(healthy)
        held = [(p.suffix, p.read_bytes()) for p in starts]
        for number in range(seed, seed + many):
            chance = random.Random(number)
            folder = Path(place) / str(number)
            folder.mkdir()
            suffix, data = chance.choice(held)
            path = folder / f"damaged{suffix}"
            path.write_bytes(damaged(data, chance))
            begun = time.process_time()  # a busy machine makes nothing slower than it is
            try:
                what = tried(path, starts[0], chance)
            except Exception as error:
                what = f"{type(error).__name__}: {error}"[:110]
                print(f"seed {number}: {what}", *getattr(error, "__notes__", ()), sep="\n", flush=True)
                if keep is not None:
                    shutil.copy(path, keep / f"{number}{suffix}")
            counts[what] += 1
            took_s = time.process_time() - begun
            longest_s = max(longest_s, took_s)
            if took_s > SLOW_S:
                counts["slow"] += 1
                print(f"seed {number}: {took_s:.1f} s", flush=True)
            shutil.rmtree(folder)
    apart.end_all()
    for what, count in counts.most_common():
        print(f"{count:6} {what}")
    print(f"the longest took {longest_s:.1f} s")
    bad = [w for w in counts if w not in ("refused", "answered") and not w.startswith("fell over")]
    return 1 if bad else 0


if __name__ == "__main__":
    sys.exit(main(int(sys.argv[1]), int(sys.argv[2]) if len(sys.argv) > 2 else 1))
