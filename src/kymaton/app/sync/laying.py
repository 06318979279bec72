"""The long work of the files page, done off the interface thread; FFmpeg is loaded only then."""

from pathlib import Path
from typing import TYPE_CHECKING

from msgspec import Struct

from kymaton.app.work import Job
from kymaton.media import jobs

if TYPE_CHECKING:
    from kymaton.core.measuring.align import Alignment
    from kymaton.media.film.batch import JobResult, Order


class Laid(Struct, frozen=True):
    """A sound and where it lies; `offset_ms` is None while that is not known."""

    path: Path
    offset_ms: float | None = None
    drift_ppm: float = 0.0
    found: "Alignment | None" = None


def lay_over(film: Path, sounds: list[Laid], job: Job) -> list[Laid]:
    """Each sound laid over the film; an offset that was typed stays."""
    laid = []
    for at, sound in enumerate(sounds):
        if sound.offset_ms is not None and sound.found is None:
            laid.append(sound)
            continue
        found = jobs.align_files(film, sound.path, job.part(at, len(sounds)))
        sure = found.confidence != "low"
        laid.append(Laid(sound.path, found.offset_ms if sure else None, found.drift_ppm if sure else 0.0, found))
    return laid


def lay_sides(path: Path, job: Job) -> "Alignment":
    return jobs.align_sides(path, job.report)


def make_film(order: "Order", job: Job) -> "JobResult":
    return jobs.run_job(order, job.report)


def make_films(path: Path, job: Job) -> list["JobResult"]:
    from kymaton.media.film.batch import read_orders

    return list(jobs.fulfil_all(read_orders(path), job.report))


def take_out(film: Path, out: Path, job: Job) -> float:
    from kymaton.media.film.placing import Track

    return jobs.extract(Track(film), out, job.report)
