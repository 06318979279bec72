"""What the frames of flashes tell of the instants between them: the exposure of the camera, and the lead with it.

The time of a frame is when its shutter opens. A screen shows the light of a frame from that time on for one period T;
the shutter adds it up over the exposure e ≤ T. With τ the time of the first frame that is lit, τ' that of the frame
before, p the share of the exposure that was lit (as light) and b the beep, a lead λ > 0 being early sound:

    lit in part:   λ = τ − b + e·(1 − p)
    lit whole:     λ ∈ [τ' − b + e, τ − b]       the frame before was dark to its end
    not known:     λ ∈ [τ' − b + e, τ − b + e]   an overexposed picture tells no share

A flash that begins with a frame lights it whole (λ = τ − b); with e → 0 frames are dark or bright. So the three cases
meet without a step.

1. Theil, "A rank-invariant method of linear and polynomial regression analysis", Proc. KNAW 53 (1950); Sen, JASA 63
   (1968): the line through offsets.
2. Huber, Robust Statistics (1981), 5.1: their scatter.
3. Marzullo and Owicki, "Maintaining the time in a distributed system", PODC (1983): where most intervals meet.
4. Draper and Smith, Applied Regression Analysis (1998), 1.4 and 5.1: how sure a point of a fitted line is.
"""

import math
from typing import TYPE_CHECKING, Literal

import numpy as np
from msgspec import Struct

from kymaton.core.measuring import robust
from kymaton.core.measuring.beeps import Beep
from kymaton.core.measuring.flashes import Flash

if TYPE_CHECKING:
    from numpy.typing import NDArray

    FloatArray = NDArray[np.float64]
else:
    FloatArray = np.ndarray

Kind = Literal["locked", "exposed", "hard"]

MOST_DRIFT_PPM = 600.0  # chosen: three times what two free-running clocks of ±100 ppm can differ

# a flash inside an exposure
LEAST_PART, MOST_LIGHT = 0.06, 0.94  # of coded pictures less cannot be told from dark, more not from bright; chosen
LEAST_INSIDE, LEAST_SPREAD = 8, 0.3  # events and stretch of light that fix a line of three unknowns; chosen
LEAST_EXPOSURE, MOST_EXPOSURE = 0.02, 1.05  # in frames; no shutter is open for more than 1, noise asks for a margin
CURVES = (1.0, 1.4, 1.6, 1.8, 2.0, 2.2, 2.4, 2.6, 2.8)  # gamma of cameras, 1 being light itself; chosen
CURVE_ERROR = 0.02  # of the exposure: no camera's curve is a power of light; chosen
FITTING = 0.8  # of the events, those that fit best, whose mean distance judges a curve: a few may be false; chosen
AS_GOOD, AS_GOOD_S = 1.3, 0.0001  # times the least misfit, and s: a curve that fits so well is possible too; chosen
AGREE_S, AGREE_SHARE = 0.003, 0.8  # of the line, in which what an event allows must lie; of the events; chosen
AGREE_NEAR = 0.1  # of the events: a curve that so many fewer go with is possible too; chosen
EXPOSED_FRAMES = 0.12  # scatter about the line, in frames, above which it is no exposure; chosen
OUTLIER_SCATTERS, OUTLIER_S = 4.0, 0.0005  # beyond which an event is left out of the line [2]
EXPOSURES = 51  # that are tried, from none to a whole frame
LIGHT_ERROR, INSTANT_S = 0.06, 0.0006  # of a share, and of an instant: noise, curve, beep; chosen
CONTRADICTED = 0.9  # of the events that agree, below which the others count too; chosen
DIM = 0.03  # of an exposure may be lit without being seen (LEAST_PART as light, with noise); chosen

# flashes that begin with their frame
LOCKED_S = 0.001  # scatter below which offsets are one and the same: coded beeps are found to a fifth of it; chosen
LOCKED_FRAMES, LOCKED_PART = 0.25, 0.9  # greatest stretch of the rest, in frames; least part of the first frame. Chosen

# what is told
SIGNIFICANT = 3.0  # standard errors: less is told as no drift (0.3 % of drifts told would be none)
SEEN_S = 0.0004  # chosen: over the whole recording a drift moves sound by more, or is not told
SURE, FEW = 2.0, 2.5  # standard errors that ± stands for, and times one over the degrees of freedom more (Student's t)
LOCKED_FLOOR_S, EXPOSED_FLOOR_S = 0.0002, 0.0004  # ± that stays with many events: beep found to ±0.2 ms; chosen
LEAST_SCATTER_S = 2e-5  # one sample at 48 kHz
LINE_EVENTS, DRIFT_EVENTS = 4, 6  # that a slope needs at least; chosen
SLOPES = 241  # of intervals that are tried, a fortieth of a frame apart at the ends of the recording
SLOPE_EXPOSURES = 11  # that they are tried with
NEVER_S = 1e-9  # keeps a division by no time at all finite


class Pairs:
    """Arrays over matched pairs: when the flash is seen, how late after its beep, and the frame before likewise."""

    def __init__(self, matched: list[tuple[Flash, Beep]]) -> None:
        self.matched = matched
        self.when = np.array([f.time_s for f, _ in matched])
        self.late = np.array([f.time_s - b.time_s for f, b in matched])
        self.before = np.array([f.before_s - b.time_s for f, b in matched])
        self.part = np.array([f.part for f, _ in matched])
        self.light = np.array([f.light for f, _ in matched])
        self.tells = np.array([f.tells for f, _ in matched])
        self.ground = np.array([f.ground for f, _ in matched])
        self.slow = np.array([b.slow_s for _, b in matched])
        self.inside = self.tells & (self.part > LEAST_PART) & (self.light < MOST_LIGHT)  # those lit in part
        self.middle = float(self.when.mean())
        self.since = self.when - self.middle

    def share(self, gamma: float) -> FloatArray:
        """The share of their first frame that was lit, as light of this gamma."""
        low, high = self.ground**gamma, (self.ground + 1.0) ** gamma
        return np.asarray(((self.ground + self.part) ** gamma - low) / (high - low), np.float64)

    @property
    def slow_s(self) -> float:
        """How far the beginning of most sounds is open."""
        return float(np.median(self.slow))

    def where(self, kept: "NDArray[np.bool_]") -> "Pairs":
        """Those of them that are kept; all, where that would leave fewer than two."""
        return Pairs([m for m, k in zip(self.matched, kept, strict=True) if k]) if int(kept.sum()) >= 2 else self


class Found(Struct, frozen=True):
    """A line of lead over time (s, s a second), its spread and how sure it is; `met` of the events agree with it."""

    kind: Kind
    lead_s: float
    slope: float
    spread_s: float
    sure_s: float
    slope_sure: float
    exposure_s: float = 0.0
    met: float = 1.0


def line(when: FloatArray, late: FloatArray) -> tuple[FloatArray, float]:
    """A robust line through offsets (Theil and Sen [1]), and its slope."""
    if len(when) < LINE_EVENTS:
        return np.full(len(when), float(np.median(late))), 0.0
    from scipy.stats import theilslopes

    slope = float(theilslopes(late, when).slope)
    if abs(slope) > 2 * MOST_DRIFT_PPM * 1e-6:
        slope = 0.0
    return np.median(late - slope * when) + slope * when, slope


def _slope_error(spread_s: float, since: FloatArray) -> float:
    """Standard error of a slope (s a second) through offsets that scatter by `spread_s` at times `since` (s)."""
    return max(spread_s, LEAST_SCATTER_S) / (float(np.std(since)) * math.sqrt(len(since)) + NEVER_S)


def _told(slope: float, error: float, since: FloatArray) -> float:
    """The slope, or none where it may be none: few events, or too short, scatter less than they should."""
    seen = abs(slope) * float(np.ptp(since)) > SEEN_S
    return slope if seen and abs(slope) > _few(len(since) - 2) * SIGNIFICANT * error else 0.0


def _few(freedom: int) -> float:
    """By how much fewer degrees of freedom widen an uncertainty (close to Student's t at 95 %)."""
    return 1 + FEW / max(1, freedom)


def fit_locked(pairs: Pairs, frame_s: float) -> Found | None:
    """Flashes that begin with their frame, in a file that was made."""
    through, slope = line(pairs.when, pairs.late)
    rest = pairs.late - through
    spread = float(robust.scatter(rest))
    apart = float(np.ptp(rest)) > LOCKED_FRAMES * frame_s
    if spread > LOCKED_S or apart or float(np.median(pairs.part)) < LOCKED_PART:
        return None
    error = _slope_error(spread, pairs.since)
    slope = _told(slope, error, pairs.since)
    lead = float(np.median(pairs.late - slope * pairs.since))
    return Found("locked", lead, slope, spread, spread / math.sqrt(len(rest)) + LOCKED_FLOOR_S, error)


class _Line(Struct, frozen=True):
    """A fitted exposure: late = lead − e + e·p + slope·t, how far events lie from it, how sure it is."""

    misfit_s: float
    scatter_s: float
    lead_s: float
    exposure_s: float
    slope: float
    lead_error_s: float
    slope_error: float
    many: int
    agree: float


def fit_exposed(pairs: Pairs, frame_s: float) -> Found | None:
    """Flashes whose first frame tells by its brightness when they began.

    What the camera's curve makes of light is not known: every one that fits as well as the best is possible.
    """
    lines = [fit for fit in (_exposure(pairs, frame_s, curve) for curve in CURVES) if fit is not None]
    agreed = max((fit.agree for fit in lines), default=0.0)
    if agreed < AGREE_SHARE:
        return None
    lines = [fit for fit in lines if fit.agree >= agreed - AGREE_NEAR]
    best = min(lines, key=lambda fit: fit.misfit_s)
    if best.scatter_s > EXPOSED_FRAMES * frame_s or abs(best.slope) > MOST_DRIFT_PPM * 1e-6:
        return None
    possible = [fit.lead_s for fit in lines if fit.misfit_s <= AS_GOOD * best.misfit_s + AS_GOOD_S]
    low, high = min(possible), max(possible)
    return Found(
        kind="exposed",
        lead_s=(low + high) / 2,
        slope=_told(best.slope, best.slope_error, pairs.since),
        spread_s=best.scatter_s,
        sure_s=SURE * _few(best.many - 3) * best.lead_error_s
        + EXPOSED_FLOOR_S
        + CURVE_ERROR * best.exposure_s
        + (high - low) / 2,
        slope_sure=best.slope_error,
        exposure_s=best.exposure_s,
        met=best.agree,
    )


def _exposure(pairs: Pairs, frame_s: float, curve: float) -> _Line | None:
    """The line through the events that are lit in part, with light read by this curve."""
    share = pairs.share(curve)
    inner = pairs.tells & (pairs.part > LEAST_PART) & (share < MOST_LIGHT)
    if int(inner.sum()) < LEAST_INSIDE or float(np.ptp(share[inner])) < LEAST_SPREAD:
        return None
    from scipy.stats import theilslopes

    rest = (
        pairs.late - float(theilslopes(pairs.late[inner], share[inner]).slope) * share
    )  # [1]: false events do no harm
    rest = rest - np.median(rest[inner])
    every, found = inner, None
    for _ in range(3):
        scatter = max(float(robust.scatter(rest[inner])), LEAST_SCATTER_S)
        inner = inner & (np.abs(rest) < OUTLIER_SCATTERS * scatter + OUTLIER_S)
        if int(inner.sum()) < LEAST_INSIDE or float(np.ptp(share[inner])) < LEAST_SPREAD:
            return found
        columns = np.stack([np.ones(int(inner.sum())), share[inner] - 1.0, pairs.since[inner]], axis=1)
        fitted = np.linalg.lstsq(columns, pairs.late[inner], rcond=None)[0]
        rest = pairs.late - (fitted[0] + fitted[1] * (share - 1.0) + fitted[2] * pairs.since)
        scatter = max(float(robust.scatter(rest[inner])), LEAST_SCATTER_S)
        if not LEAST_EXPOSURE * frame_s < fitted[1] < MOST_EXPOSURE * frame_s:
            return None
        errors = scatter * np.sqrt(np.diag(np.linalg.inv(columns.T @ columns + 1e-12 * np.eye(3))))  # [4]
        found = _Line(
            misfit_s=float(np.sort(np.abs(rest[every]))[: math.ceil(FITTING * int(every.sum()))].mean()),
            scatter_s=scatter,
            lead_s=float(fitted[0]),
            exposure_s=float(fitted[1]),
            slope=float(fitted[2]),
            lead_error_s=float(errors[0]),
            slope_error=float(errors[2]) + 1e-6,
            many=int(inner.sum()),
            agree=_agreeing(pairs, fitted),
        )
    return found


def _agreeing(pairs: Pairs, fitted: FloatArray) -> float:
    """The share of all events that a fitted lead, exposure and slope go together with."""
    low, high = _intervals(pairs, float(fitted[1]), float(fitted[2]))
    return float(((low <= fitted[0] + AGREE_S) & (high >= fitted[0] - AGREE_S)).mean())


def fit_intervals(pairs: Pairs, frame_s: float, drifts: bool = True) -> Found:
    """The leads that most events allow [3], for every exposure that most of them allow: no more is known.

    Drift is told only where no constant lead goes through the intervals, and where there may be any. Where a tenth of
    the events contradict the others, the ± holds them as well.
    """
    exposures = np.linspace(0.0, frame_s, EXPOSURES)
    lows, highs, met = intersect_intervals(*_intervals(pairs, exposures[:, None]))
    most = float(met.max())
    slope, wide = 0.0, frame_s / (float(np.ptp(pairs.when)) + NEVER_S)
    if drifts and most < 1.0 and len(pairs.when) >= DRIFT_EVENTS:
        slopes = np.linspace(-1, 1, SLOPES) * min(MOST_DRIFT_PPM * 1e-6, 3 * wide)
        drifted = slopes[:, None] * pairs.since
        tried = exposures[:: (EXPOSURES - 1) // (SLOPE_EXPOSURES - 1)]
        ways = [intersect_intervals(*(end - drifted for end in _intervals(pairs, e)))[2] for e in tried]
        best = max(float(way.max()) for way in ways)
        if best > most + 1.5 / len(pairs.when):  # at least two events more lie on a line that drifts
            fitting = [int(i) for way in ways for i in np.flatnonzero(way == best)]
            at = int(np.median(fitting))
            slope = float(slopes[at])
            wide = float(slopes[max(fitting)] - slopes[min(fitting)]) / 2 + float(slopes[1] - slopes[0])
            lows, highs, met = intersect_intervals(*_intervals(pairs, exposures[:, None], slope))
            most = float(met.max())
    possible = np.flatnonzero(met == most)
    low, high = float(lows[possible].min()), float(highs[possible].max())
    exposure = float(exposures[possible[len(possible) // 2]])
    sure = (high - low) / 2 + frame_s / 2 * (1 - most)
    lead = (low + high) / 2
    if most < CONTRADICTED:
        ends = np.array(_intervals(pairs, exposure, slope))
        middles = ends.mean(axis=0)
        lead = float(np.median(middles))
        sure = max(sure, float(np.ptp(np.percentile(middles, (5, 95))) + np.median(ends[1] - ends[0])) / 2)
    inside = pairs.inside
    fair = np.where(inside, pairs.late + exposure * (1 - pairs.light), pairs.late) - slope * pairs.since
    return Found(
        kind="exposed" if int(inside.sum()) > 1 else "hard",
        lead_s=lead,
        slope=slope,
        spread_s=float(np.std(fair[inside] if int(inside.sum()) > 1 else fair)),
        sure_s=sure,
        slope_sure=wide,
        exposure_s=exposure if int(inside.sum()) > 1 else 0.0,
        met=most,
    )


def leads_of(pairs: Pairs, found: Found) -> FloatArray:
    """The lead (s) that each pair alone would tell: an instant, or the middle of what it allows, with drift."""
    if found.kind == "locked":
        return pairs.late
    low, high = _intervals(pairs, found.exposure_s)
    return np.asarray((low + high) / 2, np.float64)


def _intervals(pairs: Pairs, exposure_s: float | FloatArray, slope: float = 0.0) -> tuple[FloatArray, FloatArray]:
    """The leads that each event allows (from, to; s) with this exposure and drift; a row for each of several."""
    instant = pairs.late + exposure_s * (1 - pairs.light)
    dark = pairs.before + exposure_s * (1 - DIM)
    low = np.where(pairs.inside, instant - LIGHT_ERROR * exposure_s, dark)
    lit = np.where(pairs.tells, pairs.late + (1 - MOST_LIGHT) * exposure_s, pairs.late + exposure_s)
    high = np.where(pairs.inside, instant + LIGHT_ERROR * exposure_s, np.maximum(lit, low))
    drifted = slope * pairs.since
    return low - INSTANT_S / 2 - drifted, high + INSTANT_S / 2 - drifted


def intersect_intervals(low: FloatArray, high: FloatArray) -> tuple[FloatArray, FloatArray, FloatArray]:
    """Of each row of intervals the stretch that lies in most of them (its ends), and the share that it lies in [3].

    Both tables are rows × events. Such a stretch begins where an interval begins, and ends where the next one ends; of
    several the longest. All rows are looked through in one search, laid apart from each other.
    """
    rows, many = low.shape
    apart = np.arange(rows)[:, None] * (float(high.max() - low.min()) + 1.0)
    lows, highs = np.sort(low, axis=1), np.sort(high, axis=1)
    begins = (lows + apart).ravel() + NEVER_S
    before = np.arange(rows)[:, None] * many  # in the rows above
    ended = np.searchsorted((highs + apart).ravel(), begins, "right").reshape(rows, many) - before  # when one begins
    inside = np.searchsorted((lows + apart).ravel(), begins, "right").reshape(rows, many) - before - ended
    best = inside.max(axis=1)
    ends = np.take_along_axis(highs, np.minimum(ended, many - 1), axis=1)
    at = np.argmax(np.where(inside == best[:, None], ends - lows, -1.0), axis=1)[:, None]
    return np.take_along_axis(lows, at, axis=1)[:, 0], np.take_along_axis(ends, at, axis=1)[:, 0], best / many
