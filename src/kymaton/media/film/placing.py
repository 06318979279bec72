"""A recorded sound placed in the time of a film: offset, drift, gain, channels."""

from collections.abc import Iterator
from pathlib import Path
from typing import TYPE_CHECKING

import av
import numpy as np
from msgspec import Struct
from msgspec.structs import replace

from kymaton.media.reading import opened, sound_of, time_base
from kymaton.media.sounds import BLOCK, SoundFile

if TYPE_CHECKING:
    from numpy.typing import NDArray

    Audio = NDArray[np.float32]
else:
    Audio = np.ndarray

LAYOUTS = {1: "mono", 2: "stereo", 6: "5.1", 8: "7.1"}


class Track(Struct, frozen=True):
    """One sound to be put in, with how it is placed. `swap` exchanges left and right; `gain_db` is added."""

    path: Path
    offset_ms: float = 0.0
    drift_ppm: float = 0.0
    name: str = ""
    language: str = ""
    gain_db: float = 0.0
    swap: bool = False

    @property
    def changed(self) -> bool:
        """Whether the samples themselves become others, not only their time."""
        return bool(self.drift_ppm or self.gain_db or self.swap)

    def at(self, offset_ms: float, drift_ppm: float = 0.0) -> "Track":
        """The track at another offset (ms) and drift (ppm)."""
        return replace(self, offset_ms=offset_ms, drift_ppm=drift_ppm)

    def louder(self, gain_db: float) -> "Track":
        """The track with this gain (dB) added."""
        return replace(self, gain_db=self.gain_db + gain_db)


class PlacedSound:
    """All channels of the first sound of a file, placed by its offset and with its drift taken out."""

    def __init__(self, track: Track) -> None:
        self.track, self.file = track, SoundFile(track.path)
        with opened(track.path) as file:
            stream = sound_of(file, track.path)
            self.rate_hz = int(stream.rate)
            self.channels = int(stream.channels)
            self.codec = str(stream.codec_context.name)
            self.has_header = bool(stream.codec_context.extradata)  # without it a packet cannot stand in other files
            length_s = float(file.duration) / av.time_base if file.duration else 0.0
            if stream.duration:
                length_s = float((max(0, stream.start_time or 0) + stream.duration) * time_base(stream))
        if self.channels not in LAYOUTS:
            self.channels = 2 if self.channels > 2 else 1
        speed = 1 + track.drift_ppm * 1e-6
        self.length_s = max(0.0, (length_s - track.offset_ms / 1000) / speed) if length_s else None

    def blocks(self, rate_hz: int) -> Iterator[Audio]:
        """Blocks (channels, samples) at this rate, the first of them at the beginning of the film. Raises FileError."""
        import soxr

        factor = 10 ** (self.track.gain_db / 20)
        speed = 1 + self.track.drift_ppm * 1e-6
        resampler = None
        if rate_hz != self.rate_hz or self.track.drift_ppm:
            resampler = soxr.ResampleStream(
                self.rate_hz * speed, rate_hz, self.channels, dtype="float32", quality="VHQ"
            )
        for block, last in _with_last(_gathered(self._from_offset())):
            block = block[::-1] if self.track.swap and self.channels == 2 else block
            if resampler is not None:
                block = resampler.resample_chunk(np.ascontiguousarray(block.T), last=last).T
            if block.shape[1]:
                yield np.asarray(factor * block, np.float32) if factor != 1.0 else block

    def _from_offset(self) -> Iterator[Audio]:
        """The decoded sound with what comes before the film cut off, or silence put before it."""
        skip = round(self.track.offset_ms / 1000 * self.rate_hz)
        if skip < 0:
            silence = -skip
            while silence > 0:
                yield np.zeros((self.channels, min(silence, 1 << 16)), np.float32)
                silence -= 1 << 16
            skip = 0
        for block in self._all():
            cut = min(skip, block.shape[1])
            skip -= cut
            if cut < block.shape[1]:
                yield block[:, cut:]

    def _all(self) -> Iterator[Audio]:
        """All of the sound, from the beginning of the file on."""
        for block in self.file.all_blocks():
            yield block[: self.channels]


def _gathered(blocks: Iterator[Audio]) -> Iterator[Audio]:
    """Small blocks joined, for each block costs something on its way."""
    held: list[Audio] = []
    for block in blocks:
        held.append(block)
        if sum(b.shape[1] for b in held) >= BLOCK // 2:
            yield np.concatenate(held, axis=1) if len(held) > 1 else block
            held = []
    if held:
        yield np.concatenate(held, axis=1)


def _with_last(blocks: Iterator[Audio]) -> Iterator[tuple[Audio, bool]]:
    """Each block, and whether it is the last."""
    before = next(blocks, None)
    if before is None:
        return
    for block in blocks:
        yield before, False
        before = block
    yield before, True
