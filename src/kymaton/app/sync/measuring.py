"""The long work of the recordings page, done off the interface thread; FFmpeg is loaded only then."""

import tempfile
from fractions import Fraction
from pathlib import Path
from typing import TYPE_CHECKING

from msgspec import Struct

from kymaton.app.work import Job
from kymaton.core.errors import FileError, MeasureError
from kymaton.core.model import Picture, Show
from kymaton.core.signal.av_offset import AVOffset
from kymaton.media import jobs

if TYPE_CHECKING:
    from kymaton.core.measuring.lead_estimate import SyncMeasurement

Place = tuple[str, str]  # a destination, and the input that takes the picture


class Measured(Struct, frozen=True):
    """A recording and what it told; what was predicted where it was made, and the show as it was then."""

    path: Path
    found: "SyncMeasurement"
    row: AVOffset | None = None
    show: Show | None = None
    id: str = ""

    @property
    def place(self) -> Place | None:
        return (self.row.destination, self.row.source) if self.row is not None else None


def measure_files(paths: list[Path], claps: bool, made: bool, job: Job) -> list[Measured | str]:
    """What each recording told, or why it told nothing."""
    results: list[Measured | str] = []
    for at, path in enumerate(paths):
        try:
            found = jobs.measure(path, job.part(at, len(paths)), claps, made)
            results.append(Measured(path, found))
        except FileError as error:
            seen = isinstance(error.__cause__, MeasureError)  # it was read, and did not tell enough
            results.append(f"{error} It can be looked at by eye." if seen else str(error))
    return results


def make_clip(path: Path, picture: Picture, seconds: float, job: Job) -> Path:
    from kymaton.media.clips import Clip, write_clip

    size = picture.width & ~1, picture.height & ~1
    write_clip(Clip(Fraction(picture.rate), seconds, *size), path, job.report)
    return path


def film_and_measure(picture_ms: float, sound_ms: float, rate: Fraction, job: Job) -> list[Measured | str]:
    """What a simulated camera delivers of a sync clip, measured like any recording."""
    from kymaton.sim.camera import Camera, record

    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "simulated camera.mkv"
        camera = Camera(rate=rate, seconds=14.0, picture_ms=picture_ms, sound_ms=sound_ms, exposure=0.5)
        record(camera, path, lambda part: job.report(0.6 * part))
        found = jobs.measure(path, lambda part: job.report(0.6 + 0.4 * part))
        return [Measured(Path(path.name), found)]
