"""What is wrong with a recording: silence, clipping, dropouts, one side alone, sides turned round, hum and buzz.

Fed block by block; what is kept does not grow with the length, but for what is found. Levels in dBFS (AES17), times in
s. Chosen limits hold tests/core/measuring/test_sound_faults.py.

Hum stands still where speech and music move: in windows of 8 s, an eighth of a hertz apart, the least that each line
has in half a minute is what is there all the time [1]. Hum is a line of that at the mains frequency, alone or with
harmonics, that stands out from what lies beside it; where many harmonics do, it buzzes.

1. Minimum statistics, as in Martin, "Noise power spectral density estimation based on optimal smoothing and minimum
   statistics", IEEE Trans. Speech and Audio Processing 9 (2001).
"""

import math
from typing import TYPE_CHECKING, Literal

import numpy as np
from msgspec import Struct

if TYPE_CHECKING:
    from numpy.typing import NDArray

    Audio = NDArray[np.float32]
    FloatArray = NDArray[np.float64]
else:
    Audio = FloatArray = np.ndarray

Kind = Literal["silence", "clipping", "dropout", "one side", "turned round", "hum", "buzz"]
SILENT_DBFS, SILENT_S = -60.0, 2.0
FULL, FLAT_SAMPLES = 0.999, 3  # so many samples in a row at full scale are cut off
FRAME_S = 0.002
GONE, LOUD = 1e-5, 0.01  # a frame without any sound, and one with some, by its peak
GAP_S, BESIDE_S = 0.15, 0.06  # longer than this is a pause; sound has to be that near on both sides
ABRUPT = 0.3  # of the loudest nearby, beside the gap: what fades has less
ONE_SIDE_DB, SIDES_S = 20.0, 3.0
TURNED = -0.9  # correlation of left and right
ALIKE_DB = -60.0  # the difference of both sides, under their sum: they are one
WINDOW_S, HOP_S, GROUP = 8.0, 4.0, 8
LOW_RATE_HZ = 4000.0
MAINS_HZ, NEAR_HZ = (50.0, 60.0), 0.3
STANDS_OUT_DB, HARMONICS, BUZZES = 12.0, 20, 6
HUM_DBFS = -80.0  # softer than this nobody hears it
HARMONICS_DB = 40.0  # harmonics that are so far under the strongest line do not count
BESIDE_PERCENT = 95  # of what lies beside a line: the lines of a beat stand side by side


class Spot(Struct, frozen=True):
    """Something at a time. `level` is that of hum (dBFS), or how many samples are cut off; `channel` from 1, 0: all."""

    kind: Kind
    from_s: float
    to_s: float
    channel: int = 0
    level: float = 0.0
    hertz: float = 0.0


class SoundFaults:
    """Feed it blocks (channels, samples) of float32, then ask for what it found."""

    def __init__(self, rate_hz: int, channels: int) -> None:
        self.rate_hz, self.channels = rate_hz, channels
        self.rest = np.zeros((channels, 0), np.float32)
        self.seconds = 0
        self.spots: list[Spot] = []
        self._runs: dict[tuple[str, int], Spot] = {}
        self._frames = np.zeros((channels, 0), np.float32)
        self._frames_from = 0
        self._sum = self._difference = 0.0
        self._hum = _Hum(rate_hz)

    def add(self, block: Audio) -> None:
        """More samples, (channels, samples)."""
        whole = np.concatenate([self.rest, block], axis=1) if self.rest.shape[1] else block
        many = whole.shape[1] // self.rate_hz
        for n in range(many):
            self._second(whole[:, n * self.rate_hz : (n + 1) * self.rate_hz], self.rate_hz)
        self.rest = whole[:, many * self.rate_hz :].copy()

    def result(self) -> tuple[Spot, ...]:
        """All that was found, in order of time."""
        if self.rest.shape[1]:
            self._second(self.rest, self.rest.shape[1])
            self.rest = self.rest[:, :0]
        self._dropouts(last=True)
        self.spots += [s for s in self._runs.values() if s.to_s - s.from_s >= _least_s(s.kind)]
        self._runs = {}
        self.spots += self._hum.spots()
        return tuple(sorted(self.spots, key=lambda s: (s.from_s, s.kind)))

    @property
    def is_mono(self) -> bool:
        """Whether both sides carry the same."""
        if self.channels != 2 or self._sum <= 0:
            return False
        return self._difference <= self._sum * 10 ** (ALIKE_DB / 10)

    def _second(self, part: Audio, count: int) -> None:
        at = float(self.seconds)
        self.seconds += 1
        end = at + count / self.rate_hz
        peaks = np.abs(part).max(axis=1)
        powers = np.einsum("ij,ij->i", part, part, dtype=np.float64) / count
        self._going("silence", 0, bool(peaks.max() < 10 ** (SILENT_DBFS / 20)), at, end)
        if self.channels == 2:
            self._two_sides(part, powers, at, end, count)
        for channel in range(self.channels):
            if peaks[channel] >= FULL:
                self._clipping(part[channel], channel, at)
        step = max(1, round(self.rate_hz * FRAME_S))
        frames = np.abs(part[:, : count // step * step]).reshape(self.channels, -1, step).max(axis=2)
        self._frames = np.concatenate([self._frames, frames], axis=1)
        self._dropouts()
        self._hum.add(part.mean(axis=0))

    def _two_sides(self, part: Audio, powers: FloatArray, at: float, end: float, count: int) -> None:
        product = float(np.dot(part[0].astype(np.float64), part[1].astype(np.float64))) / count
        self._sum += float(powers.sum()) / 2 + product
        self._difference += float(powers.sum()) / 2 - product
        louder, softer = float(powers.max()), float(powers.min())
        sounds = louder > 10 ** (SILENT_DBFS / 10)
        channel = 1 + int(np.argmax(powers))
        one = sounds and softer < louder * 10 ** (-ONE_SIDE_DB / 10)
        for side in (1, 2):
            self._going("one side", side, one and side == channel, at, end)
        turned = sounds and not one and product < TURNED * math.sqrt(louder * softer)
        self._going("turned round", 0, turned, at, end)

    def _going(self, kind: Kind, channel: int, is_so: bool, at: float, end: float) -> None:
        """Spells of seconds in which something is so."""
        key = (kind, channel)
        known = self._runs.get(key)
        if is_so:
            self._runs[key] = Spot(kind, known.from_s if known is not None else at, end, channel)
        elif known is not None:
            del self._runs[key]
            if known.to_s - known.from_s >= _least_s(kind):
                self.spots.append(known)

    def _clipping(self, samples: Audio, channel: int, at: float) -> None:
        cut = np.abs(samples) >= FULL
        edges = np.flatnonzero(np.diff(np.concatenate([[False], cut, [False]]).astype(np.int8)))
        lengths = edges[1::2] - edges[::2]
        long = lengths >= FLAT_SAMPLES
        if long.any():
            first, last = int(edges[::2][long][0]), int(edges[1::2][long][-1])
            spot = Spot(
                "clipping", at + first / self.rate_hz, at + last / self.rate_hz, channel + 1, float(lengths[long].sum())
            )
            before = next((s for s in reversed(self.spots) if s.kind == "clipping" and s.channel == channel + 1), None)
            if before is not None and spot.from_s - before.to_s < 1.0:  # goes on
                self.spots.remove(before)
                spot = Spot("clipping", before.from_s, spot.to_s, spot.channel, before.level + spot.level)
            self.spots.append(spot)

    def _dropouts(self, last: bool = False) -> None:
        """Gaps between sound on both sides; what may still go on is looked at again with the next second."""
        frame_s = max(1, round(self.rate_hz * FRAME_S)) / self.rate_hz
        kept = round((GAP_S + 2 * BESIDE_S) / frame_s)
        frames = self._frames
        if not last and frames.shape[1] < 2 * kept:
            return
        near = round(BESIDE_S / frame_s)
        upto = frames.shape[1] - (0 if last else kept)
        for channel in range(self.channels):
            gone = frames[channel] < GONE
            edges = np.flatnonzero(np.diff(np.concatenate([[False], gone, [False]]).astype(np.int8)))
            for start, end in zip(edges[::2].tolist(), edges[1::2].tolist(), strict=True):
                if start >= upto or start == 0 or end == frames.shape[1] or (end - start) * frame_s >= GAP_S:
                    continue
                before, after = frames[channel, max(0, start - near) : start], frames[channel, end : end + near]
                if _is_cut(before[::-1]) and _is_cut(after):
                    at = (self._frames_from + start) * frame_s
                    self.spots.append(Spot("dropout", at, at + (end - start) * frame_s, channel + 1))
        self._frames = frames[:, max(0, upto) :]
        self._frames_from += max(0, upto)


def _is_cut(frames: Audio) -> bool:
    """Whether sound ends at once at a gap, as nothing that is played does; the frame beside the gap comes first."""
    loudest = float(frames.max(initial=0.0))
    return loudest > LOUD and float(frames[:2].max(initial=0.0)) > ABRUPT * loudest


def _least_s(kind: Kind) -> float:
    return SILENT_S if kind == "silence" else SIDES_S


class _Hum:
    """Lines of the mains in the sound of all channels together."""

    def __init__(self, rate_hz: int) -> None:
        self.step = max(1, round(rate_hz / LOW_RATE_HZ))
        self.rate_hz = rate_hz / self.step
        self.size = round(WINDOW_S * self.rate_hz)
        self.hop = round(HOP_S * self.rate_hz)
        self.samples = np.zeros(0)
        self.window = np.hanning(self.size)
        self.least: FloatArray | None = None
        self.windows = self.taken = 0
        self.found: list[Spot] = []

    def add(self, mono: Audio) -> None:
        many = len(mono) // self.step * self.step
        self.samples = np.concatenate([self.samples, mono[:many].reshape(-1, self.step).mean(axis=1, dtype=np.float64)])
        while len(self.samples) >= self.size:
            power = np.abs(np.fft.rfft(self.samples[: self.size] * self.window)) ** 2
            self.least = power if self.least is None else np.minimum(self.least, power)
            self.windows += 1
            self.samples = self.samples[self.hop :]
            if self.windows == GROUP:
                self._judge()

    def spots(self) -> list[Spot]:
        """Spells with hum, neighbours joined."""
        if self.windows and (self.windows >= GROUP // 2 or not self.taken):
            self._judge()
        joined: list[Spot] = []
        for spot in self.found:
            last = joined[-1] if joined else None
            if (
                last is not None
                and (last.kind, last.hertz) == (spot.kind, spot.hertz)
                and spot.from_s <= last.to_s + 1.0
            ):
                level = max(last.level, spot.level)
                joined[-1] = Spot(last.kind, last.from_s, spot.to_s, 0, level, last.hertz)
            else:
                joined.append(spot)
        return joined

    def _judge(self) -> None:
        least, count = self.least, self.windows
        assert least is not None
        from_s = self.taken * HOP_S
        to_s = from_s + (count - 1) * HOP_S + WINDOW_S
        self.taken += count
        self.least, self.windows = None, 0
        best: Spot | None = None
        for mains in MAINS_HZ:
            lines = [self._line(least, mains * n) for n in range(1, HARMONICS + 1)]
            out = [n for n, (_, over) in enumerate(lines) if over >= STANDS_OUT_DB]
            level = max((lines[n][0] for n in out), default=-math.inf)
            out = [n for n in out if lines[n][0] > max(HUM_DBFS, level - HARMONICS_DB)]
            is_hum = 0 in out or 1 in out
            if is_hum and (best is None or level > best.level):
                kind: Kind = "buzz" if len(out) >= BUZZES else "hum"
                best = Spot(kind, from_s, to_s, 0, level, mains)
        if best is not None:
            self.found.append(best)

    def _line(self, power: FloatArray, hertz: float) -> tuple[float, float]:
        """Level of a line in dBFS, and how far it stands out from what lies beside it, in dB."""
        width = self.rate_hz / self.size
        at, near = round(hertz / width), max(1, math.ceil(NEAR_HZ / width))
        if at + round(6 / width) >= len(power):
            return -math.inf, -math.inf
        peak = float(power[at - near : at + near + 1].max())
        beside = np.concatenate([power[at - round(6 / width) : at - round(1.5 / width)],
                                 power[at + round(1.5 / width) : at + round(6 / width)]])  # fmt: skip
        level = 20 * math.log10(max(1e-12, math.sqrt(peak) * 2 / float(self.window.sum())))
        return level, 10 * math.log10(max(peak, 1e-30) / max(float(np.percentile(beside, BESIDE_PERCENT)), 1e-30))
