"""What can be done with films and sounds, each as one call that reads them in a process of its own (see `apart`).

The window and the command line come in here. Nothing is loaded but what the answers are made of.
"""

from collections.abc import Iterator, Mapping
from pathlib import Path
from typing import TYPE_CHECKING, cast

from kymaton.core.errors import Progress
from kymaton.media.apart import apart

if TYPE_CHECKING:
    from kymaton.core.measuring.align import Alignment
    from kymaton.core.measuring.lead_estimate import SyncMeasurement
    from kymaton.core.model import Show, Stem
    from kymaton.media.audition import Audition
    from kymaton.media.bench import Audio, Benched
    from kymaton.media.film.batch import JobResult, Order
    from kymaton.media.film.placing import Track
    from kymaton.media.frames import Film, Look, Opened
    from kymaton.media.loudness import Loudness


def measure(path: Path, progress: Progress | None = None, claps: bool = False, made: bool = False) -> "SyncMeasurement":
    """How early the sound of a recording is; see `measure.measure`."""
    found = apart("kymaton.media.measure:measure", path, progress=progress, claps=claps, made=made)
    return cast("SyncMeasurement", found)


def align_files(reference: Path, other: Path, progress: Progress | None = None) -> "Alignment":
    """How much later the sound of one file comes in another; see `align.align_files`."""
    return cast("Alignment", apart("kymaton.media.align:align_files", reference, other, progress=progress))


def align_sides(path: Path, progress: Progress | None = None) -> "Alignment":
    """How much later what is on the left comes on the right; see `align.align_sides`."""
    return cast("Alignment", apart("kymaton.media.align:align_sides", path, progress=progress))


def run_job(order: "Order", progress: Progress | None = None) -> "JobResult":
    """Make a film; see `film.batch.run_job`."""
    return cast("JobResult", apart("kymaton.media.film.batch:run_job", order, progress=progress))


def fulfil_all(orders: "list[Order]", progress: Progress | None = None) -> "Iterator[JobResult]":
    """Make many films, one after the other; see `film.batch.fulfil_all`. One that cannot be read harms no other."""
    from kymaton.media.film import batch

    return batch.fulfil_all(orders, progress, run_job)


def extract(track: "Track", out: Path, progress: Progress | None = None) -> float:
    """Write a sound as a file of its own; see `extract.extract`."""
    return cast("float", apart("kymaton.media.extract:extract", track, out, progress=progress))


def loudness_of(path: Path, progress: Progress | None = None) -> "Loudness":
    """How loud a file is; see `loudness.loudness_of`."""
    return cast("Loudness", apart("kymaton.media.loudness:loudness_of", path, progress=progress))


def bench(path: Path, progress: Progress | None = None) -> "list[Benched]":
    """Loudness over time and what is wrong, of every track of a file; see `bench.measure`."""
    return cast("list[Benched]", apart("kymaton.media.bench:measure", path, progress=progress))


def excerpt(path: Path, from_s: float, seconds: float) -> "tuple[Audio, int]":
    """A passage to be heard; see `bench.excerpt`."""
    return cast("tuple[Audio, int]", apart("kymaton.media.bench:excerpt", path, from_s, seconds))


def make_audition(
    show: "Show",
    folder: Path,
    cue: str | None,
    listener: str,
    only: tuple[str, ...] = (),
    progress: Progress | None = None,
    stand_ins: "Mapping[str, tuple[Path, Stem]] | None" = None,
    edges: frozenset[int] | None = None,
) -> "Audition":
    """What a listener hears, from recordings; see `audition.make_audition`."""
    where, lent = "kymaton.media.audition:make_audition", dict(stand_ins or {})
    found = apart(where, show, folder, cue, listener, only, progress=progress, stand_ins=lent, edges=edges)
    return cast("Audition", found)


def stem_level(path: Path, progress: Progress | None = None) -> float:
    """How loud a recording of a sound is; see `stem_level.stem_level`."""
    return cast("float", apart("kymaton.media.stem_level:stem_level", path, progress=progress))


def make_walk(
    show: "Show",
    folder: Path,
    listener: str,
    seconds: float,
    progress: Progress | None = None,
    stand_ins: "Mapping[str, tuple[Path, Stem]] | None" = None,
) -> "Audition":
    """All cues one after the other, shortened; see `audition.make_walk`."""
    where = "kymaton.media.audition:make_walk"
    found = apart(where, show, folder, listener, seconds, progress=progress, stand_ins=dict(stand_ins or {}))
    return cast("Audition", found)


def open_film(path: Path, progress: Progress | None = None) -> "Opened":
    """A film to be looked at; see `frames.open_film`."""
    return cast("Opened", apart("kymaton.media.frames:open_film", path, progress=progress))


def look(film: "Film", at_s: float, progress: Progress | None = None) -> "Look":
    """What is around a time of a film; see `frames.Film.look`."""
    return cast("Look", apart("kymaton.media.frames:look", film, at_s, progress=progress))
