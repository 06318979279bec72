"""Recordings on the bench: the loudness of every track over time, and what is wrong with it and when."""

import math
from collections.abc import Iterator
from pathlib import Path
from typing import TYPE_CHECKING

import av
import numpy as np
from msgspec import Struct

from kymaton.core.errors import FileError, Progress, Stopped
from kymaton.core.measuring.sound_faults import SoundFaults, Spot
from kymaton.media.film.placing import LAYOUTS, PlacedSound, Track
from kymaton.media.loudness import Loudness, Meter
from kymaton.media.reading import opened

if TYPE_CHECKING:
    from numpy.typing import NDArray

    Audio = NDArray[np.float32]
else:
    Audio = np.ndarray

CURVE_S = 0.1  # a meter gives a value so often


class Benched(Struct, frozen=True):
    """What was measured of one track. `curve` is the short-term loudness (LUFS) each tenth of a second, from 3 s on."""

    path: Path
    track: int
    tracks: int
    rate_hz: int
    channels: int
    loudness: Loudness
    curve: tuple[float, ...]
    spots: tuple[Spot, ...]
    is_mono: bool

    @property
    def name(self) -> str:
        """The file, and the track where it has several."""
        return self.path.name if self.tracks == 1 else f"{self.path.name}, track {self.track}"


def measure(path: Path, progress: Progress | None = None) -> list[Benched]:
    """Every sound track of a file. Raises FileError, and Stopped."""
    with opened(path) as file:
        tracks = [s for s in file.streams.audio if s.rate and s.channels]
        many, length_s = len(tracks), float(file.duration or 0) / av.time_base
    if not many:
        PlacedSound(Track(path))  # says why
        raise FileError(f"{path.name}: there is no sound in it.")
    found = []
    for number in range(1, many + 1):
        found.append(_measured(path, number, many, length_s, progress))
    return found


def _measured(path: Path, number: int, many: int, length_s: float, progress: Progress | None) -> Benched:
    rate_hz, channels, blocks = _blocks(path, number)
    meter, faults = Meter(rate_hz, channels, each=True), SoundFaults(rate_hz, channels)
    for block in blocks:
        meter.add(block)
        faults.add(block)
        part = meter.sent / rate_hz / length_s if length_s else 0.0
        if progress is not None and not progress((number - 1 + min(1.0, part)) / many):
            raise Stopped
    try:
        loudness = meter.result()
    except ValueError as error:
        raise FileError(f"{path.name}: {error}.") from error
    curve = [x if x > -120.0 else -math.inf for x in meter.curve or ()]
    return Benched(path, number, many, rate_hz, channels, loudness, tuple(curve), faults.result(), faults.is_mono)


def _blocks(path: Path, number: int) -> tuple[int, int, Iterator[Audio]]:
    """Rate, channels and blocks (channels, samples) of a track; the first as it is placed in the file."""
    if number == 1:
        sound = PlacedSound(Track(path))
        return sound.rate_hz, sound.channels, sound.blocks(sound.rate_hz)
    with opened(path) as file:
        stream = [s for s in file.streams.audio if s.rate and s.channels][number - 1]
        rate_hz = int(stream.rate)
        channels = stream.channels if stream.channels in LAYOUTS else 2 if stream.channels > 2 else 1
    return rate_hz, channels, _decoded(path, number, rate_hz, channels)


def _decoded(path: Path, number: int, rate_hz: int, channels: int) -> Iterator[Audio]:
    with opened(path) as file:
        stream = [s for s in file.streams.audio if s.rate and s.channels][number - 1]
        plain = av.AudioResampler(format="fltp", layout=LAYOUTS[channels], rate=rate_hz)
        try:
            for frame in file.decode(stream):
                for made in plain.resample(frame):
                    yield np.asarray(made.to_ndarray(), np.float32)
        except av.FFmpegError as error:
            raise FileError(f"{path.name}: track {number} cannot be read to its end.") from error


def excerpt(path: Path, from_s: float, seconds: float, progress: Progress | None = None) -> tuple["Audio", int]:
    """A passage of the first sound of a file, (samples, 2), and its rate in Hz. Raises FileError, and Stopped."""
    sound = PlacedSound(Track(path, offset_ms=max(0.0, from_s) * 1000))
    parts: list[Audio] = []
    left = round(seconds * sound.rate_hz)
    for block in sound.blocks(sound.rate_hz):
        parts.append(block[:, :left])
        left -= parts[-1].shape[1]
        if left <= 0:
            break
        if progress is not None and not progress(1 - left / (seconds * sound.rate_hz)):
            raise Stopped
    if not parts:
        raise FileError(f"{path.name}: it ends before {from_s:g} s.")
    whole = np.concatenate(parts, axis=1)
    both = whole[:2] if len(whole) > 1 else np.repeat(whole, 2, axis=0)
    return np.ascontiguousarray(both.T), sound.rate_hz
