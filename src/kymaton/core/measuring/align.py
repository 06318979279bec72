"""Two recordings of the same sound laid over each other: offset, drift, polarity, level, and how sure that is.

Coarse by the rise and fall of loudness in long pieces, fine by phase-weighted correlation (Knapp and Carter, 1976) in
windows between 150 and 6000 Hz, then a robust line through the windows. There is no limit on the offset.
"""

import itertools
from collections.abc import Callable, Sequence
from typing import TYPE_CHECKING, Literal

import numpy as np
from msgspec import Struct
from msgspec.structs import replace

from kymaton.core.errors import AlignError
from kymaton.core.measuring.robust import parabolic_peak, scatter

if TYPE_CHECKING:
    from numpy.typing import NDArray

    Audio = NDArray[np.float32]
    FloatArray = NDArray[np.float64]
else:
    Audio = FloatArray = np.ndarray

STEP_S = 0.01  # of the loudness that is compared first
PIECE_S, PIECES = 60.0, 10
WINDOW_S, SHORTEST_S, WINDOWS = 2.6, 0.4, 24
REACH_S = 0.06  # around what the coarse line says
LOW_HZ, HIGH_HZ = 150.0, 6000.0
CLEAR = 9.0  # a peak this many times the spread of a correlation is no accident
AMBIGUOUS = 0.85
WORTH = 0.4  # of the best coarse line, for another one to be looked at
CURVE = 600  # points of a curve that is shown
Curve = tuple[tuple[float, float], ...]
Reader = Callable[[float, float], Audio]  # begin and length (s) → mono samples, zeros outside


class Spot(Struct, frozen=True):
    """One window: where in the reference, how much later in the other one, and how clear that is."""

    time_s: float
    offset_s: float
    peak_to_noise: float
    sign: int
    gain: float


class Alignment(Struct, frozen=True):
    """`offset_ms` > 0: the same sound comes later in the other recording, at the beginning of the reference.

    It grows by `drift_ppm`. `level_db` is how much stronger the other one is, `polarity` −1 when it is turned over.
    `overview` is how alike the rise and fall of loudness is at each offset (s), `detail` how alike the sounds
    themselves are around the best of them (s), both from 0 to 1.
    """

    offset_ms: float
    plus_minus_ms: float
    drift_ppm: float
    confidence: Literal["high", "medium", "low"]
    polarity: int
    level_db: float
    spots: tuple[Spot, ...]
    remarks: tuple[str, ...]
    overview: Curve = ()
    detail: Curve = ()


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
        if len(power) < 8:
            return power
        level = 10 * np.log10(power + 1e-3 * float(power.mean()) + 1e-14)
        return np.asarray(level - uniform_filter1d(level, min(len(level), 401), mode="nearest"))


def align(
    reference: Reader, other: Reader, curves: tuple[FloatArray, FloatArray], steps_s: tuple[float, float], rate_hz: int
) -> Alignment:
    """Lay `other` over `reference`. Both readers give samples at `rate_hz`. Raises AlignError when one is silent."""
    a, b = curves
    if len(a) * steps_s[0] < 1.0 or len(b) * steps_s[1] < 1.0:
        raise AlignError("A recording shorter than a second cannot be laid over another one.")
    if float(np.ptp(a)) < 1e-6 or float(np.ptp(b)) < 1e-6:
        raise AlignError("One of the recordings is silent.")
    candidates, overview = _coarse(a, b, steps_s)
    best, rival = None, 0.0
    for offset_s, slope in candidates[:4]:
        spots, detail = _spots(reference, other, a, steps_s[0], len(b) * steps_s[1], rate_hz, offset_s, slope)
        score = sum(s.peak_to_noise for s in spots if s.peak_to_noise > CLEAR)
        if best is None or score > best[0]:
            if best is not None and abs(best[2] - offset_s) > 2 * REACH_S:
                rival = max(rival, best[0])
            best = (score, spots, offset_s, detail)
        elif abs(best[2] - offset_s) > 2 * REACH_S:
            rival = max(rival, score)
    if best is None:
        raise AlignError("The recordings share nothing that rises and falls alike.")
    found = _judged(best[1], rival / best[0] if best[0] else 0.0)
    return replace(found, overview=overview, detail=best[3])


def _coarse(a: FloatArray, b: FloatArray, steps_s: tuple[float, float]) -> tuple[list[tuple[float, float]], Curve]:
    """Offsets (s, at the beginning of the reference) and drifts that pieces of loudness agree on, the best first.

    And how alike the pieces are at each offset, the best of them all.
    """
    if steps_s[0] != steps_s[1]:
        b = np.interp(np.arange(0, len(b) * steps_s[1], steps_s[0]), np.arange(len(b)) * steps_s[1], b)
    step = steps_s[0]
    length = min(len(a), round(PIECE_S / step))
    starts = np.unique(np.linspace(0, len(a) - length, PIECES if len(a) > 2 * length else 3).astype(int))
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
        likeness = likeness / np.sqrt((under + 0.05 * energy) * energy)
        alike.add((np.arange(len(likeness)) - length - start) * step, likeness)
        for _ in range(3):
            peak = int(np.argmax(likeness))
            votes.append((start * step, (peak - length - start) * step, float(likeness[peak])))
            likeness[max(0, peak - 40) : peak + 41] = -1.0
    return _agreed(votes), alike.curve()


class BinnedMaximum:
    """The highest of many values in each of a number of equal stretches."""

    def __init__(self, low: float, high: float) -> None:
        self.low, self.width = low, (high - low) / CURVE
        self.values = np.zeros(CURVE)

    def add(self, at: FloatArray, values: FloatArray) -> None:
        places = np.clip(((at - self.low) / self.width).astype(int), 0, CURVE - 1)
        np.maximum.at(self.values, places, values)

    def curve(self) -> Curve:
        return tuple((self.low + (n + 0.5) * self.width, float(v)) for n, v in enumerate(np.clip(self.values, 0, 1)))


def _agreed(votes: Sequence[tuple[float, float, float]]) -> list[tuple[float, float]]:
    """Lines through the votes of the pieces (begin, offset, likeness): those with most behind them first."""
    lines: list[tuple[float, float, float]] = []
    for t0, o0, _ in votes:
        near = [(t, o, w) for t, o, w in votes if abs(o - o0) <= 0.03 + 6e-4 * abs(t - t0)]
        best: dict[float, tuple[float, float, float]] = {}
        for t, o, w in near:
            if t not in best or w > best[t][2]:
                best[t] = (t, o, w)
        points = list(best.values())
        weight = sum(max(0.0, w) for _, _, w in points)
        slope = 0.0
        if len(points) >= 4:
            from scipy.stats import theilslopes

            slope = float(theilslopes([o for _, o, _ in points], [t for t, _, _ in points]).slope)
        lines.append((weight, float(np.median([o - slope * t for t, o, _ in points])), slope))
    found: list[tuple[float, float]] = []
    most = max((weight for weight, _, _ in lines), default=0.0)
    for weight, offset, slope in sorted(lines, reverse=True):
        if weight >= WORTH * most and all(abs(offset - o) > 0.05 for o, _ in found):
            found.append((offset, slope))
    return found


def _spots(
    reference: Reader, other: Reader, curve: FloatArray, step_s: float, other_s: float, rate_hz: int, offset_s: float,
    slope: float,
) -> tuple[list[Spot], Curve]:  # fmt: skip
    """Windows where both recordings are, at the liveliest places of the reference, and how alike they are."""
    first = max(0.0, -offset_s / (1 + slope))
    end = min(len(curve) * step_s, (other_s - offset_s) / (1 + slope))
    length = float(np.clip((end - first) / 6, SHORTEST_S, WINDOW_S))
    if end - first < length:
        return [], ()
    last = end - length
    many = int(np.clip((last - first) / length, 1, WINDOWS))
    edges = np.linspace(first, last, many + 1) if last > first else np.array([first, first])
    found, alike = [], np.zeros(0)
    for begin, end in itertools.pairwise(edges):
        inside = curve[int(begin / step_s) : max(int(begin / step_s) + 1, int(end / step_s))]
        at = begin + int(np.argmax(inside)) * step_s - length / 3 if len(inside) > 1 else begin
        at = float(np.clip(at, begin, end))
        lag = offset_s + slope * (at + length / 2)
        spot = _spot(reference(at, length), other(at + lag - REACH_S, length + 2 * REACH_S), rate_hz)
        if spot is not None:
            offset, clear, sign, gain, likeness = spot
            alike = likeness if not len(alike) else alike + likeness
            found.append(Spot(at + length / 2, lag - REACH_S + offset, clear, sign, gain))
    detail = BinnedMaximum(offset_s - REACH_S, offset_s + REACH_S)
    if found:
        detail.add(offset_s - REACH_S + np.arange(len(alike)) / rate_hz, alike / len(found))
    return found, detail.curve()


def _spot(a: Audio, b: Audio, rate_hz: int) -> tuple[float, float, int, float, FloatArray] | None:
    """How much later `a` begins in `b` (s), how clear, which sign, how strong, and how alike they are at each offset.

    None where one of them is silent.
    """
    if len(a) < 256 or not np.any(a) or not np.any(b):
        return None
    size = 1 << int(np.ceil(np.log2(len(a) + len(b))))
    shape = np.hanning(len(a))
    one, two = np.fft.rfft(a * shape, size), np.fft.rfft(b, size)
    cross = two * np.conj(one)
    hertz = np.fft.rfftfreq(size, 1 / rate_hz)
    band = (hertz >= LOW_HZ) & (hertz <= min(HIGH_HZ, 0.45 * rate_hz))
    weight = np.where(band, 1.0 / (np.abs(cross) ** 0.85 + 1e-12 * float(np.abs(cross).max())), 0.0)
    likeness = np.fft.irfft(cross * weight, size)[: len(b) - len(a) + 1]
    peak = int(np.argmax(np.abs(likeness)))
    spread = float(scatter(likeness)) + 1e-30
    clear = abs(float(likeness[peak])) / spread
    offset = peak + parabolic_peak(np.abs(likeness), peak)
    turn = np.exp(2j * np.pi * hertz * offset / rate_hz)
    plain = np.fft.rfft(a, size)
    gain = float(np.sum((cross * turn).real[band]) / (np.sum((plain * np.conj(one)).real[band]) + 1e-30))
    alike = np.abs(likeness) / (float(np.abs(likeness[peak])) + 1e-30)
    return offset / rate_hz, clear, 1 if likeness[peak] > 0 else -1, abs(gain), alike


def _judged(spots: Sequence[Spot], rival: float) -> Alignment:
    """The line through the windows, and what to think of it."""
    clear = [s for s in spots if s.peak_to_noise > CLEAR]
    used = clear or list(spots)
    if not used:
        return Alignment(
            offset_ms=0.0,
            plus_minus_ms=1e6,
            drift_ppm=0.0,
            confidence="low",
            polarity=1,
            level_db=0.0,
            spots=(),
            remarks=("The recordings share nothing.",),
        )
    when, offset = np.array([s.time_s for s in used]), np.array([s.offset_s for s in used])
    slope, start = 0.0, float(np.median(offset))
    if len(used) >= 4 and float(np.ptp(when)) > 5.0:
        from scipy.stats import theilslopes

        slope = float(theilslopes(offset, when).slope)
        start = float(np.median(offset - slope * when))
    for _ in range(2):
        rest = offset - start - slope * when
        spread = float(scatter(rest)) + 2e-6
        inner = np.abs(rest - np.median(rest)) < max(4 * spread, 2e-5)
        if int(inner.sum()) >= 4 and float(np.ptp(when[inner])) > 5.0:
            slope, start = (float(v) for v in np.polyfit(when[inner], offset[inner], 1))
        else:
            start = float(np.median(offset[inner] - slope * when[inner]))
    rest = offset - start - slope * when
    inner = np.abs(rest) < 0.001
    agree = int(inner.sum())
    many = max(1, agree)
    spread = float(np.std(rest[inner])) if agree > 1 else 0.0005
    error = spread / (float(np.std(when[inner])) * np.sqrt(many) + 1e-9) if agree > 2 else 0.0
    if abs(slope) < 3 * error:
        start, slope = float(np.median(offset[inner])) if agree else start, 0.0
    remarks = []
    share = agree / max(1, len(spots))
    sure = len(clear) >= 3 and agree >= 3 and share >= 0.6
    if rival > AMBIGUOUS:
        remarks.append("The sound repeats: another offset fits nearly as well, so this is ambiguous.")
    if not sure:
        remarks.append("The recordings have little or nothing in common.")
    confidence: Literal["high", "medium", "low"] = "high" if sure and spread < 0.0006 and rival <= AMBIGUOUS else "low"
    if confidence == "low" and rival <= AMBIGUOUS and len(clear) >= 2 and agree >= 2 and share >= 0.4:
        confidence = "medium"
    good = [s for s, i in zip(used, inner, strict=True) if i] or used
    sign = 1 if sum(s.sign * s.peak_to_noise for s in good) >= 0 else -1
    level = 20 * float(np.log10(float(np.median([s.gain for s in good])) + 1e-9))
    return Alignment(
        offset_ms=1000 * start,
        plus_minus_ms=1000 * (spread / np.sqrt(many) + 5e-6),
        drift_ppm=1e6 * slope,
        confidence=confidence,
        polarity=sign,
        level_db=level,
        spots=tuple(spots),
        remarks=tuple(remarks),
    )
