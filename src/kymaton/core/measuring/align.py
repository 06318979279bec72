"""Two recordings of the same sound laid over each other: offset, drift, polarity, level, and how sure that is.

Coarse by the rise and fall of loudness in long pieces, fine by phase-weighted correlation [1] in windows between 150
and 6000 Hz, then a robust line through the windows [2]. There is no limit on the offset.

Times and offsets in s, sounds as float32 at one rate. A threshold that is a *choice* holds tests/core/measuring/
test_align.py (sounds moved by exact amounts) and tests/media/test_align.py (files, rooms, noise, codecs).

1. Knapp and Carter, "The generalized correlation method for estimation of time delay", IEEE Trans. ASSP 24 (1976).
2. Theil (1950), Sen (1968): the line; Huber, Robust Statistics (1981), 5.1: the scatter about it.
"""

import itertools
import math
from collections.abc import Callable, Sequence
from typing import TYPE_CHECKING, Literal

import numpy as np
from msgspec import Struct
from msgspec.structs import replace

from kymaton.core.errors import AlignError
from kymaton.core.measuring.loudness_lines import LINE_SPOTS, BinnedMaximum, Curve, coarse_lines
from kymaton.core.measuring.robust import parabolic_peak, scatter

if TYPE_CHECKING:
    from numpy.typing import NDArray

    Audio = NDArray[np.float32]
    FloatArray = NDArray[np.float64]
else:
    Audio = FloatArray = np.ndarray


# lines of loudness that are looked at
LEAST_S = 1.0  # chosen: shorter sounds have no rise and fall to compare
SILENT_DB = 1e-6  # a level that never moves by more
LINES = 4  # coarse lines that are looked at closely; chosen
MOST_REPEATS = 12  # to either side, that are tried where the sound repeats; chosen
SHORTEST_PERIOD_S, PERIOD_WORTH = 0.3, 0.8  # of a sound that repeats; of its likeness to itself; chosen

# windows, correlated then
WINDOW_S, SHORTEST_S, WINDOWS = 2.6, 0.4, 24  # chosen: a sentence; drift of 600 ppm moves its ends by 1.6 ms
OVERLAP_PARTS, LEAD_PARTS = 6, 3  # a window is a sixth of what both have; its liveliest place stands at its third
REACH_S = 0.06  # around what the coarse line says: three steps of it and its drift; chosen
LOW_HZ, HIGH_HZ, OF_RATE = 150.0, 6000.0, 0.45  # the band that voices, rooms and codecs leave whole; chosen
WHITENING = 0.85  # 1 is PHAT [1], which raises noise as well, 0 plain correlation; chosen
LEAST_SAMPLES = 256
CLEAR = 9.0  # a peak this many times the scatter of a correlation is no accident: 2·10⁻¹⁹ of normal noise

# what is told
LINE_S = 5.0  # between first and last window, that a drift needs, and LINE_SPOTS windows; chosen
INNER_SCATTERS, INNER_S = 4.0, 2e-5  # from the line, within which a window belongs to it [2]; one sample at 48 kHz
AGREE_WITH_LINE_S = 0.001  # chosen: echoes of a room come later than this
LONE_S = 0.0005  # ± of a line that no two windows share; chosen
SIGNIFICANT = 3.0  # standard errors: less is told as no drift
EXACT_S = 5e-6  # ± that stays with many windows: a quarter of a sample at 48 kHz
AMBIGUOUS = 0.85  # of the best: another offset as clear as that fits as well; chosen
MEDIAN_ERROR = 1.2533  # of a mean's: that of a median of normal values, √(π/2)
LONG_SHARE = 0.5  # of the best: an offset with less in common is not its rival; chosen
APART_ERRORS = 4.0  # standard errors, by which the best of many that fit is told apart all the same
CUT_S, CUT_REACH_S = 0.002, 1.2  # by which an offset jumps at least, and at most; chosen
CUT_SPOTS = 3  # windows to each side; chosen
ENOUGH, SHARE_HIGH, TIGHT_S = 3, 0.6, 0.0006  # windows, share of them, scatter, for high confidence; chosen
SOME, SHARE_MEDIUM = 2, 0.4  # for medium
NOTHING_S, NOTHING = 1000.0, 1e-9  # ± of what is not known at all; what keeps a division finite
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


def align(
    reference: Reader, other: Reader, curves: tuple[FloatArray, FloatArray], steps_s: tuple[float, float], rate_hz: int
) -> Alignment:
    """Lay `other` over `reference`. Both readers give samples at `rate_hz`. Raises AlignError when one is silent."""
    a, b = curves
    if len(a) * steps_s[0] < LEAST_S or len(b) * steps_s[1] < LEAST_S:
        raise AlignError("A recording shorter than a second cannot be laid over another one.")
    if float(np.ptp(a)) < SILENT_DB or float(np.ptp(b)) < SILENT_DB:
        raise AlignError("One of the recordings is silent.")
    lines, overview = coarse_lines(a, b, steps_s)

    def tried(some: Sequence[tuple[float, float]]) -> list[_Tried]:
        return [
            _Tried(offset_s, *_spots(reference, other, a, steps_s[0], len(b) * steps_s[1], rate_hz, offset_s, slope))
            for offset_s, slope in some
        ]

    found = tried(lines[:LINES])
    best, rival = _two_best(found)
    if best is None:
        raise AlignError("The recordings share nothing that rises and falls alike.")
    told = True
    if rival is not None and rival.score > AMBIGUOUS * best.score:
        found += tried(_repeats(best, rival, a, steps_s[0]))
        best, told = _tournament(found, reference, other, rate_hz)
    result = line_through(best.spots, 0.0 if told else 1.0)
    cut = _cut(best, [*best.clear, *_elsewhere(best, reference, other, rate_hz)])
    if cut is not None:
        result = replace(result, confidence="low", remarks=(*result.remarks, cut))
    return replace(result, overview=overview, detail=best.detail)


class _Tried(Struct, frozen=True):
    """A coarse line looked at closely."""

    offset_s: float
    spots: list[Spot]
    detail: Curve

    @property
    def clear(self) -> list[Spot]:
        return [s for s in self.spots if s.peak_to_noise > CLEAR]

    @property
    def score(self) -> float:
        return sum(s.peak_to_noise for s in self.clear)

    @property
    def exact_s(self) -> float:
        """The offset that its clear windows tell."""
        return float(np.median([s.offset_s for s in self.clear]))


def _two_best(found: Sequence[_Tried]) -> tuple[_Tried | None, _Tried | None]:
    """The best line, and the best of those that lie out of its reach."""
    best = max(found, key=lambda each: each.score, default=None)
    if best is None:
        return None, None
    others = [each for each in found if abs(each.offset_s - best.offset_s) > 2 * REACH_S]
    return best, max(others, key=lambda each: each.score, default=None)


def _tournament(found: Sequence[_Tried], reference: Reader, other: Reader, rate_hz: int) -> tuple[_Tried, bool]:
    """The offset at which the waveforms themselves are most alike, and whether that is more than chance.

    Where bars repeat, all offsets fit; but only at one of them fits what was between the notes as well. Two offsets are
    compared in the same windows of the reference, by how much their coherence differs there.
    """
    able = [each for each in found if len(each.clear) >= ENOUGH]
    if not able:
        return max(found, key=lambda each: each.score), False
    known: dict[tuple[int, float], float] = {}

    def coherence(number: int, begin_s: float) -> float:
        if (number, begin_s) not in known:
            known[number, begin_s] = _coherence(reference, other, begin_s, able[number].exact_s, rate_hz)
        return known[number, begin_s]

    def better(one: int, two: int) -> float:
        """How much better one is than two, in standard errors of the median difference; 0 with few windows."""
        mine, theirs = ([s.time_s - WINDOW_S / 2 for s in able[n].clear] for n in (one, two))
        shared = [t for t in mine if min(theirs) <= t <= max(theirs)]
        if len(shared) < ENOUGH:
            return 0.0
        differ = np.array([coherence(one, t) - coherence(two, t) for t in shared])
        error = MEDIAN_ERROR * float(scatter(differ)) / math.sqrt(len(differ)) + NOTHING
        return float(np.median(differ)) / error

    best = max(range(len(able)), key=lambda n: able[n].score)
    for number in sorted(range(len(able)), key=lambda n: -able[n].score):
        if number != best and better(number, best) > APART_ERRORS:
            best = number
    rivals = [n for n in range(len(able)) if abs(able[n].exact_s - able[best].exact_s) > 2 * REACH_S]
    long = [n for n in rivals if able[n].score > LONG_SHARE * able[best].score]  # others share too little to be judged
    return able[best], all(better(best, n) > APART_ERRORS for n in long)


def _coherence(reference: Reader, other: Reader, begin_s: float, offset_s: float, rate_hz: int) -> float:
    """How alike a window of both is at an offset, in the band of voices: 1 where they differ by their level only."""
    begin_s = round(begin_s * rate_hz) / rate_hz
    first = math.floor((begin_s + offset_s) * rate_hz) / rate_hz
    a, b = reference(begin_s, WINDOW_S), other(first, WINDOW_S)
    shape = np.hanning(len(a))
    one, two = np.fft.rfft(a * shape), np.fft.rfft(b * shape)
    hertz = np.fft.rfftfreq(len(a), 1 / rate_hz)
    band = (hertz >= LOW_HZ) & (hertz <= min(HIGH_HZ, OF_RATE * rate_hz))
    turn = np.exp(2j * np.pi * hertz * (begin_s + offset_s - first))
    both = float(np.sum((two * turn * np.conj(one)).real[band]))
    size = math.sqrt(float(np.sum(np.abs(one[band]) ** 2) * np.sum(np.abs(two[band]) ** 2)))
    return abs(both) / (size + NOTHING)


def _repeats(best: _Tried, rival: _Tried, curve: FloatArray, step_s: float) -> list[tuple[float, float]]:
    """Every other offset at which a sound that repeats fits again: whole periods from the best.

    The period is told coarsely by the loudness of the reference, and exactly by how far the two best lie apart.
    """
    size = 1 << int(np.ceil(np.log2(2 * len(curve))))
    again = np.fft.irfft(np.abs(np.fft.rfft(curve, size)) ** 2, size)[: len(curve) // 2]
    again /= np.arange(len(curve), len(curve) - len(again), -1)  # of what overlaps
    first = round(SHORTEST_PERIOD_S / step_s)
    most = float(again[first:].max(initial=0.0))
    if most <= 0.0 or not best.clear or not rival.clear:
        return []
    strong = np.flatnonzero(again[first:] >= PERIOD_WORTH * most)
    here, there = (float(np.median([s.offset_s for s in each.clear])) for each in (best, rival))
    times = max(1, round(abs(there - here) / ((first + int(strong[0])) * step_s)))
    period_s = abs(there - here) / times
    return [(here + n * period_s, 0.0) for n in range(-MOST_REPEATS, MOST_REPEATS + 1) if n]


def _elsewhere(best: _Tried, reference: Reader, other: Reader, rate_hz: int) -> list[Spot]:
    """Windows that are not clear where the best line says, looked for in a wider reach."""
    unclear = [s for s in best.spots if s.peak_to_noise <= CLEAR]
    if len(unclear) < CUT_SPOTS:
        return []
    found = []
    for each in unclear:
        begin_s = each.time_s - WINDOW_S / 2
        first_s = begin_s + best.offset_s - CUT_REACH_S
        spot = _spot(reference(begin_s, WINDOW_S), other(first_s, WINDOW_S + 2 * CUT_REACH_S), rate_hz)
        if spot is not None and spot[1] > CLEAR:
            offset_s, clear, sign, gain, _, centre_s = spot
            found.append(Spot(begin_s + centre_s, first_s - begin_s + offset_s, clear, sign, gain))
    return found


def _cut(best: _Tried, spots: Sequence[Spot]) -> str | None:
    """Where the offset jumps, if it does: windows to one side of a place agree on it, those to the other on another.

    Pieces that repeat do so everywhere; what was cut out moves all that comes after it.
    """
    spots = sorted(spots, key=lambda s: s.time_s)
    here = float(np.median([s.offset_s for s in best.clear])) if best.clear else best.offset_s
    mine = [s for s in spots if abs(s.offset_s - here) < CUT_S]
    others = [s for s in spots if abs(s.offset_s - here) >= CUT_S]
    for before, after in ((mine, others), (others, mine)):
        if len(before) < CUT_SPOTS or len(after) < CUT_SPOTS:
            continue
        last, first = before[-1].time_s, after[0].time_s
        offsets = np.array([s.offset_s for s in (after if before is mine else before)])
        middle = float(np.median(offsets))
        if first > last and float((np.abs(offsets - middle) < AGREE_WITH_LINE_S).mean()) >= SHARE_HIGH:
            one, two = (here, middle) if before is mine else (middle, here)
            return (
                f"The offset jumps between {last:.1f} and {first:.1f} s, from {1000 * one:.1f} to {1000 * two:.1f} ms: "
                "a piece is missing in one of the recordings."
            )
    return None


def _spots(
    reference: Reader, other: Reader, curve: FloatArray, step_s: float, other_s: float, rate_hz: int, offset_s: float,
    slope: float,
) -> tuple[list[Spot], Curve]:  # fmt: skip
    """Windows where both recordings are, at the liveliest places of the reference, and how alike they are."""
    first = max(0.0, -offset_s / (1 + slope))
    end = min(len(curve) * step_s, (other_s - offset_s) / (1 + slope))
    length = float(np.clip((end - first) / OVERLAP_PARTS, SHORTEST_S, WINDOW_S))
    if end - first < length:
        return [], ()
    last = end - length
    many = int(np.clip((last - first) / length, 1, WINDOWS))
    edges = np.linspace(first, last, many + 1) if last > first else np.array([first, first])
    found, alike = [], np.zeros(0)
    for begin, end in itertools.pairwise(edges):
        inside = curve[int(begin / step_s) : max(int(begin / step_s) + 1, int(end / step_s))]
        at = begin + int(np.argmax(inside)) * step_s - length / LEAD_PARTS if len(inside) > 1 else begin
        at = float(np.clip(at, begin, end))
        lag = offset_s + slope * (at + length / 2)
        spot = _spot(reference(at, length), other(at + lag - REACH_S, length + 2 * REACH_S), rate_hz)
        if spot is not None:
            offset, clear, sign, gain, likeness, centre_s = spot
            alike = likeness if not len(alike) else alike + likeness
            found.append(Spot(at + centre_s, lag - REACH_S + offset, clear, sign, gain))
    detail = BinnedMaximum(offset_s - REACH_S, offset_s + REACH_S)
    if found:
        detail.add(offset_s - REACH_S + np.arange(len(alike)) / rate_hz, alike / len(found))
    return found, detail.curve()


def _spot(a: Audio, b: Audio, rate_hz: int) -> tuple[float, float, int, float, FloatArray, float] | None:
    """How much later `a` begins in `b` (s), how clear, which sign, how strong, how alike they are at each offset; and
    where in `a` that holds (s): in the middle of its energy, for where they drift apart each part has its own offset.

    None where one of them is silent.
    """
    if len(a) < LEAST_SAMPLES or not np.any(a) or not np.any(b):
        return None
    from scipy.fft import next_fast_len  # late: it takes a while to load

    size = next_fast_len(len(a) + len(b), real=True)
    shape = np.hanning(len(a))
    one, two = np.fft.rfft(a * shape, size), np.fft.rfft(b, size)
    cross = two * np.conj(one)
    hertz = np.fft.rfftfreq(size, 1 / rate_hz)
    band = (hertz >= LOW_HZ) & (hertz <= min(HIGH_HZ, OF_RATE * rate_hz))
    weight = np.where(band, 1.0 / (np.abs(cross) ** WHITENING + 1e-12 * float(np.abs(cross).max())), 0.0)
    likeness = np.fft.irfft(cross * weight, size)[: len(b) - len(a) + 1]
    peak = int(np.argmax(np.abs(likeness)))
    spread = float(scatter(likeness)) + 1e-30
    clear = abs(float(likeness[peak])) / spread
    offset = peak + parabolic_peak(np.abs(likeness), peak)
    turn = np.exp(2j * np.pi * hertz * offset / rate_hz)
    plain = np.fft.rfft(a, size)
    gain = float(np.sum((cross * turn).real[band]) / (np.sum((plain * np.conj(one)).real[band]) + 1e-30))
    alike = np.abs(likeness) / (float(np.abs(likeness[peak])) + 1e-30)
    energy = (a * shape) ** 2
    centre_s = float(energy @ np.arange(len(a)) / (energy.sum() + 1e-30)) / rate_hz
    return offset / rate_hz, clear, 1 if likeness[peak] > 0 else -1, abs(gain), alike, centre_s


def line_through(spots: Sequence[Spot], rival: float) -> Alignment:
    """The line through the windows, and what to think of it; `rival` is how clear the next best is (1: as clear)."""
    clear = [s for s in spots if s.peak_to_noise > CLEAR]
    used = clear or list(spots)
    if not used:
        return Alignment(
            offset_ms=0.0,
            plus_minus_ms=1000 * NOTHING_S,
            drift_ppm=0.0,
            confidence="low",
            polarity=1,
            level_db=0.0,
            spots=(),
            remarks=("The recordings share nothing.",),
        )
    when, offset = np.array([s.time_s for s in used]), np.array([s.offset_s for s in used])
    slope, start = 0.0, float(np.median(offset))
    if len(used) >= LINE_SPOTS and float(np.ptp(when)) > LINE_S:
        from scipy.stats import theilslopes

        slope = float(theilslopes(offset, when).slope)
        start = float(np.median(offset - slope * when))
    for _ in range(2):
        rest = offset - start - slope * when
        spread = float(scatter(rest)) + 2e-6
        inner = np.abs(rest - np.median(rest)) < max(INNER_SCATTERS * spread, INNER_S)
        if int(inner.sum()) >= LINE_SPOTS and float(np.ptp(when[inner])) > LINE_S:
            slope, start = (float(v) for v in np.polyfit(when[inner], offset[inner], 1))
        else:
            start = float(np.median(offset[inner] - slope * when[inner]))
    rest = offset - start - slope * when
    inner = np.abs(rest) < AGREE_WITH_LINE_S
    agree = int(inner.sum())
    many = max(1, agree)
    spread = float(np.std(rest[inner])) if agree > 1 else LONE_S
    error = spread / (float(np.std(when[inner])) * math.sqrt(many) + NOTHING) if agree > 2 else 0.0
    if abs(slope) < SIGNIFICANT * error:
        start, slope = float(np.median(offset[inner])) if agree else start, 0.0
    remarks = []
    share = agree / max(1, len(spots))
    sure = len(clear) >= ENOUGH and agree >= ENOUGH and share >= SHARE_HIGH
    if rival > AMBIGUOUS:
        remarks.append("The sound repeats: another offset fits nearly as well, so this is ambiguous.")
    if not sure:
        remarks.append("The recordings have little or nothing in common.")
    confidence: Literal["high", "medium", "low"] = "high" if sure and spread < TIGHT_S and rival <= AMBIGUOUS else "low"
    if confidence == "low" and rival <= AMBIGUOUS and len(clear) >= SOME and agree >= SOME and share >= SHARE_MEDIUM:
        confidence = "medium"
    good = [s for s, i in zip(used, inner, strict=True) if i] or used
    sign = 1 if sum(s.sign * s.peak_to_noise for s in good) >= 0 else -1
    level = 20 * float(np.log10(float(np.median([s.gain for s in good])) + NOTHING))
    return Alignment(
        offset_ms=1000 * start,
        plus_minus_ms=1000 * (spread / math.sqrt(many) + EXACT_S),
        drift_ppm=1e6 * slope,
        confidence=confidence,
        polarity=sign,
        level_db=level,
        spots=tuple(spots),
        remarks=tuple(remarks),
    )
