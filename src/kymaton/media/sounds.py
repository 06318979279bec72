"""Sound of files as mono blocks, and any stretch of it, at a rate of one's choice."""

import math
from collections.abc import Callable, Iterator
from fractions import Fraction
from functools import cached_property
from itertools import islice
from pathlib import Path
from typing import TYPE_CHECKING

import av
import numpy as np
import soundfile
from av.audio import AudioFrame

from kymaton.core.errors import FileError
from kymaton.core.words import counted
from kymaton.media.reading import all_samples, frames, mono_samples, opened, sound_of, time_base, why

if TYPE_CHECKING:
    from numpy.typing import NDArray

    Audio = NDArray[np.float32]
else:
    Audio = np.ndarray

Pick = Callable[[AudioFrame], Audio]
BLOCK = 1 << 16
COARSE_PER_S = 10_000  # ticks; times of fewer do not tell the sample
HOLE_S = 0.015  # what is missing for longer is a lost packet, not a time told coarsely
MOST_MISSING_S = 3600  # a longer hole is a clock that jumps; of all holes together
LONGEST_S = 86_400  # chosen


def first_sample(frame: AudioFrame, rate_hz: int) -> int:
    """Number of the first sample of a frame of sound.

    Where times are coarse (milliseconds in Matroska), the number is brought to the whole frame that they mean.
    """
    base = time_base(frame)
    samples, per = (frame.pts or 0) * base.numerator * rate_hz, base.denominator
    if base.numerator * COARSE_PER_S > per and frame.samples:
        near = round(Fraction(samples, per * frame.samples)) * frame.samples
        if abs(near * per - samples) <= base.numerator * rate_hz:
            return int(near)
    return int((2 * samples + per) // (2 * per))


def finite(block: Audio, path: Path) -> Audio:
    """The same samples. Raises FileError where some are no numbers."""
    if math.isfinite(np.vdot(block, block)) or np.isfinite(block).all():  # the sum is found sooner
        return block
    raise FileError(f"{path.name}: it holds samples that are no numbers.")


def _silence(like: Audio, many: int) -> Iterator[Audio]:
    """So many samples of silence in blocks, of as many channels as another block has."""
    for begin in range(0, many, BLOCK):
        yield np.zeros((*like.shape[:-1], min(BLOCK, many - begin)), np.float32)


def _mixed(block: Audio, side: int | None) -> Audio:
    """Mono from (samples, channels): one side, or all of them."""
    channels = block.shape[1]
    if channels == 1 or side is not None:
        return np.ascontiguousarray(block[:, side or 0])
    mixed = block[:, 0] + block[:, 1]  # not a matrix product: that would keep other threads waiting
    for channel in range(2, channels):
        mixed += block[:, channel]
    return np.asarray(mixed * np.float32(1 / channels))


class SoundFile:
    """The first sound track of a file as mono; times count from its beginning (0 s is where the file begins to play).

    With `side` only that channel counts (0: left). Raises FileError, also where there is no such channel.
    """

    def __init__(self, path: Path, side: int | None = None) -> None:
        self.path, self.side = path, side
        self.start_s = 0.0
        if not path.is_file():
            raise FileError(f"{path}: there is no such file.")
        try:
            about = soundfile.info(str(path))
            self.rate_hz, self.plain = int(about.samplerate), True
            self.length_s, self.channels = float(about.duration), int(about.channels)
        except (soundfile.LibsndfileError, RuntimeError):
            self.plain = False
            with opened(path) as container:
                stream = sound_of(container, path)
                self.rate_hz, self.channels = int(stream.rate), int(stream.channels)
                self.length_s = float(container.duration or 0) / av.time_base
        if self.plain and not about.frames:
            raise FileError(f"{path.name}: there is no sound in it.")
        if side is not None and side >= self.channels:
            raise FileError(f"{path.name}: it has {counted(self.channels, 'channel')} only.")

    def blocks(self) -> Iterator[Audio]:
        """All of it as mono blocks, in order."""
        if self.plain:
            for block in self._plain_blocks():
                yield finite(_mixed(block, self.side), self.path)
        else:
            yield from self.decoded(self._mono)

    def all_blocks(self) -> Iterator[Audio]:
        """All channels of it in blocks (channels, samples), in order."""
        if self.plain:
            for block in self._plain_blocks():
                yield finite(np.ascontiguousarray(block.T), self.path)
        else:
            yield from self.decoded(all_samples)

    def _plain_blocks(self) -> Iterator[Audio]:
        """Blocks (samples, channels) of a plain file of sound."""
        try:
            with soundfile.SoundFile(str(self.path)) as file:
                yield from file.blocks(BLOCK, dtype="float32", always_2d=True)
        except (soundfile.LibsndfileError, RuntimeError) as error:
            raise FileError(f"{self.path.name}: it cannot be decoded ({error}).") from error

    def decoded(self, pick: Pick) -> Iterator[Audio]:
        """What is picked of each frame (…, samples), from 0 s on: with silence before what begins later."""
        begun = False
        for first, block in self.timed(pick):
            if not begun and 0 < first < MOST_MISSING_S * self.rate_hz:
                yield from _silence(block, first)
            begun = True
            if first + block.shape[-1] > 0:
                yield block[..., max(0, -first) :]

    def timed(self, pick: Pick = mono_samples) -> Iterator[tuple[int, Audio]]:
        """What is picked of each frame, in the time of its film: number of the first sample, and (…, samples).

        Holes are filled with silence.
        """
        at: int | None = None
        filled = 0
        try:
            with opened(self.path) as container:
                for frame in frames(sound_of(container, self.path)):
                    begin, block = first_sample(frame, self.rate_hz), finite(pick(frame), self.path)
                    if frame.layout.nb_channels != self.channels:
                        raise FileError(f"{self.path.name}: its number of channels changes; {self.channels} were told.")
                    at = begin if at is None else at
                    if HOLE_S * self.rate_hz < begin - at < MOST_MISSING_S * self.rate_hz:
                        begin = self._begin(frame)
                        filled += begin - at
                        if filled > MOST_MISSING_S * self.rate_hz:
                            raise FileError(f"{self.path.name}: more than an hour of its sound is missing in between.")
                        for silence in _silence(block, begin - at):
                            yield at, silence
                            at += silence.shape[-1]
                    yield at, block
                    at += block.shape[-1]
                    if at > LONGEST_S * self.rate_hz:
                        raise FileError(f"{self.path.name}: its sound is longer than a day.")
        except (av.FFmpegError, OSError) as error:
            if at is None:
                raise FileError(f"{self.path.name}: it cannot be decoded ({why(error)}).") from error

    def _mono(self, frame: AudioFrame) -> Audio:
        return mono_samples(frame) if self.side is None else all_samples(frame)[self.side]

    def _begin(self, frame: AudioFrame) -> int:
        """Number of the first sample of a frame, also where the file tells times in whole milliseconds only."""
        begin = first_sample(frame, self.rate_hz)
        if time_base(frame) * COARSE_PER_S <= 1:
            return begin
        origin, size = self._frames
        near = origin + round((begin - origin) / size) * size
        return near if abs(near - begin) <= time_base(frame) * self.rate_hz else begin

    @cached_property
    def _frames(self) -> tuple[int, int]:
        """Where the second frame of the file begins, by counting, and how long frames are."""
        with opened(self.path) as container:
            stream = sound_of(container, self.path)
            first = [(first_sample(f, self.rate_hz), f.samples) for f in islice(frames(stream), 2)]
        return first[0][0] + first[0][1], first[-1][1] or 1

    def stretch(self, begin_s: float, length_s: float, rate_hz: int) -> Audio:
        """Mono samples from a time on, zeros where there is nothing, at this rate."""
        first, many = round(begin_s * self.rate_hz), round(length_s * self.rate_hz)
        held = self._read(max(0, first), many + min(0, first))
        found = np.zeros(many, np.float32)
        before = max(0, -first)
        found[before : before + len(held)] = held[: many - before]
        if rate_hz == self.rate_hz:
            return found
        import soxr

        wanted = round(length_s * rate_hz)
        made = soxr.resample(found, self.rate_hz, rate_hz, quality="VHQ").astype(np.float32)
        return made[:wanted] if len(made) >= wanted else np.pad(made, (0, wanted - len(made)))

    def _read(self, first: int, many: int) -> Audio:
        if many <= 0:
            return np.zeros(0, np.float32)
        if self.plain:
            with soundfile.SoundFile(str(self.path)) as file:
                if first >= file.frames:
                    return np.zeros(0, np.float32)
                file.seek(first)
                return finite(_mixed(file.read(many, dtype="float32", always_2d=True), self.side), self.path)
        return self._sought(first, many)

    def _sought(self, first: int, many: int) -> Audio:
        with opened(self.path) as container:
            stream = sound_of(container, self.path)
            sought = first > 2 * self.rate_hz
            if sought:
                container.seek(round((first / self.rate_hz - 0.5) / time_base(stream)), stream=stream)
            pieces, at, end = [], None, 0
            try:
                found = frames(stream)
                if sought:
                    next(found, None)  # a decoder that has just begun cuts something off it
                for frame in found:
                    begin = self._begin(frame)
                    if at is None:
                        at = end = begin
                    if begin - end > HOLE_S * self.rate_hz:
                        missing = min(begin, max(end, first + many)) - end
                        pieces.append(np.zeros(missing, np.float32))
                        end += missing
                    if begin >= first + many:
                        break
                    pieces.append(finite(self._mono(frame), self.path))
                    end += frame.samples
                    if begin + frame.samples >= first + many:
                        break
            except (av.FFmpegError, OSError):
                pass
        if at is None or not pieces:
            return np.zeros(0, np.float32)
        sound = np.concatenate(pieces)
        if at > first:
            sound = np.concatenate([np.zeros(at - first, np.float32), sound])
            at = first
        return sound[first - at : first - at + many]
