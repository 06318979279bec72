"""Two recordings laid over each other coarsely, by the rise and fall of loudness in long pieces.

Loudness in dB, times and offsets in s. Choices hold tests/core/measuring/test_align.py, where the likeness is compared
with the sum written out.
"""

from collections.abc import Sequence
from typing import TYPE_CHECKING

import numpy as np

if TYPE_CHECKING:
    from numpy.typing import NDArray

    Audio = NDArray[np.float32]
    FloatArray = NDArray[np.float64]
else:
    Audio = FloatArray = np.ndarray

Curve = tuple[tuple[float, float], ...]

STEP_S = 0.01  # chosen: syllables rise in some hundredths of a second
FLOOR, SLOW_STEPS, LEAST_STEPS = 1e-3, 401, 8  # −30 dB under the mean; 4 s; chosen
PIECE_S, PIECES, FEW_PIECES = 60.0, 10, 3  # of the reference; chosen: a passage of a song, ten spread over it
VOTES, VOTE_APART = 3, 40  # peaks of a piece that are heard, and steps that they lie apart (0.4 s); chosen
QUIET = 0.05  # of a piece's energy, added under its likeness: silence is like everything else
AGREE_S, AGREE_PER_S = 0.03, 6e-4  # offsets of one line lie that near, 600 ppm of drift allowed for; chosen
LINES_APART_S = 0.05  # of coarse lines that are told apart; chosen
WORTH = 0.4  # of the best coarse line, for another one to be looked at; chosen
LINE_SPOTS = 4  # pieces or windows that a drift needs; chosen
CURVE = 600  # points of a curve that is shown


class OnsetEnvelope:
    """Loudness in steps of 10 ms, gathered block by block, so that hours of sound need little memory."""

    def __init__(self, rate_hz: int) -> None:
        self.hop = max(1, round(rate_hz * STEP_S))
        self.exact_step_s = self.hop / rate_hz
        self.rest = np.zeros(0, np.float32)
        self.last = 0.0
        self.values: list[FloatArray] = []

    def add(self, block: Audio) -> None:
        """More mono samples. What counts is the difference from sample to sample: it weighs down low rumble."""
        if not len(block):
            return
        steps = np.empty_like(block)
        np.subtract(block[1:], block[:-1], out=steps[1:])
        steps[0] = block[0] - np.float32(self.last)
        self.last = float(block[-1])
        self.rest = np.concatenate([self.rest, steps]) if len(self.rest) else steps
        many = len(self.rest) // self.hop
        if many:
            squares = self.rest[: many * self.hop].reshape(many, self.hop)
            self.values.append(np.einsum("ij,ij->i", squares, squares).astype(np.float64) / self.hop)
            self.rest = self.rest[many * self.hop :]

    def curve(self) -> FloatArray:
        """Loudness in dB over its own floor, with slow changes taken out."""
        from scipy.ndimage import uniform_filter1d

        power = np.concatenate(self.values) if self.values else np.zeros(0)
        if len(power) < LEAST_STEPS:
            return power
        level = 10 * np.log10(power + FLOOR * float(power.mean()) + 1e-14)
        return np.asarray(level - uniform_filter1d(level, min(len(level), SLOW_STEPS), mode="nearest"))


def coarse_lines(a: FloatArray, b: FloatArray, steps_s: tuple[float, float]) -> tuple[list[tuple[float, float]], Curve]:
    """Offsets (s, at the beginning of the reference) and drifts that pieces of loudness agree on, the best first.

    And how alike the pieces are at each offset, the best of them all.
    """
    if steps_s[0] != steps_s[1]:
        b = np.interp(np.arange(0, len(b) * steps_s[1], steps_s[0]), np.arange(len(b)) * steps_s[1], b)
    step = steps_s[0]
    length = min(len(a), round(PIECE_S / step))
    starts = np.unique(np.linspace(0, len(a) - length, PIECES if len(a) > 2 * length else FEW_PIECES).astype(int))
    if len(a) < 1.5 * length:
        starts = np.array([0])
    size = 1 << int(np.ceil(np.log2(len(b) + 2 * length)))
    spectrum = np.fft.rfft(b, size)
    squares = np.concatenate([[0.0], np.cumsum(np.concatenate([np.zeros(length), b, np.zeros(length)]) ** 2)])
    votes: list[tuple[float, float, float]] = []
    alike = BinnedMaximum(-len(a) * step, len(b) * step)
    for start in starts:
        piece = a[start : start + length] - a[start : start + length].mean()
        energy = float(piece @ piece)
        if energy <= 0:
            continue
        turned = np.fft.irfft(spectrum * np.conj(np.fft.rfft(piece, size)), size)
        likeness = np.concatenate([turned[-length:], turned[: len(b)]])  # lags −length … len(b) − 1
        under = squares[length : length + len(likeness)] - squares[: len(likeness)]
        likeness = likeness / np.sqrt((under + QUIET * energy) * energy)
        alike.add((np.arange(len(likeness)) - length - start) * step, likeness)
        for _ in range(VOTES):
            peak = int(np.argmax(likeness))
            votes.append((start * step, (peak - length - start) * step, float(likeness[peak])))
            likeness[max(0, peak - VOTE_APART) : peak + VOTE_APART + 1] = -1.0
    return _agreed(votes), alike.curve()


class BinnedMaximum:
    """The highest of many values in each of a number of equal stretches."""

    def __init__(self, low: float, high: float) -> None:
        self.low, self.width = low, (high - low) / CURVE
        self.values = np.zeros(CURVE)

    def add(self, at: FloatArray, values: FloatArray) -> None:
        """More values (any unit) at their places, two arrays of one length."""
        places = np.clip(((at - self.low) / self.width).astype(int), 0, CURVE - 1)
        np.maximum.at(self.values, places, values)

    def curve(self) -> Curve:
        """Middle of each stretch and the highest value there, held between 0 and 1."""
        return tuple((self.low + (n + 0.5) * self.width, float(v)) for n, v in enumerate(np.clip(self.values, 0, 1)))


def _agreed(votes: Sequence[tuple[float, float, float]]) -> list[tuple[float, float]]:
    """Lines through the votes of the pieces (begin, offset, likeness): those with most behind them first."""
    lines: list[tuple[float, float, float]] = []
    for t0, o0, _ in votes:
        near = [(t, o, w) for t, o, w in votes if abs(o - o0) <= AGREE_S + AGREE_PER_S * abs(t - t0)]
        best: dict[float, tuple[float, float, float]] = {}
        for t, o, w in near:
            if t not in best or w > best[t][2]:
                best[t] = (t, o, w)
        points = list(best.values())
        weight = sum(max(0.0, w) for _, _, w in points)
        slope = 0.0
        if len(points) >= LINE_SPOTS:
            from scipy.stats import theilslopes

            slope = float(theilslopes([o for _, o, _ in points], [t for t, _, _ in points]).slope)
        lines.append((weight, float(np.median([o - slope * t for t, o, _ in points])), slope))
    found: list[tuple[float, float]] = []
    most = max((weight for weight, _, _ in lines), default=0.0)
    for weight, offset, slope in sorted(lines, reverse=True):
        if weight >= WORTH * most and all(abs(offset - o) > LINES_APART_S for o, _ in found):
            found.append((offset, slope))
    return found
