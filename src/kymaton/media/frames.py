"""A film to be looked at frame by frame, with its sound: a few frames and a stretch of sound at a time."""

from bisect import bisect_left, bisect_right
from collections.abc import Iterator
from itertools import islice
from pathlib import Path
from typing import TYPE_CHECKING

import av
import numpy as np
from av.container import InputContainer
from av.video import VideoFrame, VideoStream
from msgspec import Struct

from kymaton.core.errors import FileError, Progress, Stopped, part_of
from kymaton.media.reading import frames, opened, picture_of, time_base, why
from kymaton.media.sounds import SoundFile

if TYPE_CHECKING:
    from numpy.typing import NDArray

STILL_WIDTH = 480
MOST_STILLS = 60
MOST_FRAMES = 5_000_000  # two days
REACH_S = 1.2  # of a look, to either side
PEAKS_PER_S = 100


class Still(Struct, frozen=True):
    """One frame, made small: `rgb` holds height × width × 3 bytes."""

    time_s: float
    width: int
    height: int
    rgb: bytes


class Look(Struct, frozen=True):
    """What was read around a time: frames in order, and mono sound from `sound_s` on."""

    stills: tuple[Still, ...]
    sound: "NDArray[np.float32]"
    sound_s: float
    rate_hz: int


class Film:
    """When the frames of a film are shown (s, in order). Raises FileError without picture or sound, and Stopped."""

    def __init__(self, path: Path, progress: Progress | None = None) -> None:
        self.path = path
        self.sound = SoundFile(path)
        with opened(path) as container:
            stream = picture_of(container, path)
            self.length_s = float(container.duration or 0) / av.time_base
            times = list(islice(_packet_times(container, stream, self.length_s, progress), MOST_FRAMES + 1))
        if len(times) > MOST_FRAMES:
            raise FileError(f"{path.name}: it has more than {MOST_FRAMES // 1_000_000} million frames; cut it.")
        if not times:
            raise FileError(f"{path.name}: its frames have no times.")
        self.times_s = sorted(set(times))
        self.length_s = max(self.length_s, self.times_s[-1])

    def index(self, at_s: float) -> int:
        """The frame that is shown at a time."""
        return max(0, bisect_right(self.times_s, at_s + 1e-6) - 1)

    def look(self, at_s: float, progress: Progress | None = None) -> Look:
        """Read what is around a time. Raises FileError, and Stopped."""
        at_s = min(max(at_s, self.times_s[0]), self.times_s[-1])
        middle = self.index(at_s)
        first = max(0, bisect_left(self.times_s, at_s - REACH_S), middle - MOST_STILLS // 2)
        last = min(len(self.times_s) - 1, self.index(at_s + REACH_S), first + MOST_STILLS)
        begin_s, end_s = self.times_s[first], self.times_s[last]
        rate_hz = self.sound.rate_hz
        sound_s = max(0.0, begin_s - REACH_S)
        sound = self.sound.stretch(sound_s, end_s + REACH_S - sound_s, rate_hz)
        return Look(tuple(self._stills(begin_s, end_s, progress)), sound, sound_s, rate_hz)

    def _stills(self, begin_s: float, end_s: float, progress: Progress | None) -> list[Still]:
        found: dict[float, Still] = {}
        with opened(self.path) as container:
            stream = picture_of(container, self.path)
            if begin_s > self.times_s[0]:
                container.seek(int((begin_s - 0.001) / time_base(stream)), stream=stream)
            try:
                for frame in frames(stream):
                    if frame.pts is None:
                        continue
                    time_s = float(frame.pts * time_base(frame))
                    if progress is not None and not progress(0.0):
                        raise Stopped
                    if time_s > end_s + 1e-6:
                        break
                    if time_s >= begin_s - 1e-6:
                        found[time_s] = _still(frame, time_s)
            except (av.FFmpegError, OSError) as error:
                if not found:
                    raise FileError(f"{self.path.name}: it cannot be decoded ({why(error)}).") from error
        return [found[t] for t in sorted(found)]

    def overview(self, progress: Progress | None = None) -> "NDArray[np.float32]":
        """The loudest sample of each hundredth of a second, over all of the film. Raises FileError, and Stopped."""
        hop = self.sound.rate_hz // PEAKS_PER_S
        peaks, rest, read = [], np.zeros(0, np.float32), 0
        for block in self.sound.blocks():
            read += len(block)
            rest = np.concatenate([rest, np.abs(block)])
            many = len(rest) // hop
            peaks.append(rest[: many * hop].reshape(many, hop).max(axis=1))
            rest = rest[many * hop :]
            part = read / self.sound.rate_hz / max(self.length_s, 0.1)
            if progress is not None and not progress(min(1.0, part)):
                raise Stopped
        return np.concatenate(peaks) if peaks else np.zeros(0, np.float32)


class Opened(Struct, frozen=True):
    """A film, its beginning, and the loudest sample of each hundredth of a second."""

    film: Film
    look: Look
    peaks: "NDArray[np.float32]"


def open_film(path: Path, progress: Progress | None = None) -> Opened:
    """A film with what is seen of it first. Raises FileError, and Stopped."""
    film = Film(path, part_of(progress, 0.0, 0.2))
    first = film.look(film.times_s[0], part_of(progress, 0.2, 0.3))
    return Opened(film, first, film.overview(part_of(progress, 0.3, 1.0)))


def look(film: Film, at_s: float, progress: Progress | None = None) -> Look:
    """What is around a time of a film. Raises FileError, and Stopped."""
    return film.look(at_s, progress)


def _packet_times(
    container: InputContainer, stream: VideoStream, length_s: float, progress: Progress | None
) -> Iterator[float]:
    """Presentation times as the file tells them, without decoding; what an edit list leaves out is left out."""
    for count, packet in enumerate(container.demux([stream])):
        if packet.pts is not None and not packet.is_discard:
            yield float(packet.pts * time_base(packet))
        if progress is not None and not count % 256 and packet.dts is not None:
            part = float(packet.dts * time_base(packet)) / length_s if length_s else 0.0
            if not progress(max(0.0, min(1.0, part))):
                raise Stopped


def _still(frame: VideoFrame, time_s: float) -> Still:
    width = min(STILL_WIDTH, frame.width)
    height = max(1, round(frame.height * width / frame.width))
    image = frame.reformat(width=width, height=height, format="rgb24").to_ndarray()
    return Still(time_s, width, height, np.ascontiguousarray(image).tobytes())
