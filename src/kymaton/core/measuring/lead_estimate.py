"""From flashes and beeps to a lead: matching, drift, kind of events, uncertainty and confidence.

Three kinds of recordings are told apart by how the flashes lie against the beeps:

- *locked*: the flash begins exactly with its frame (a clip that was made, not filmed); offsets have no spread.
- *exposed*: the first frame is lit for a part of its exposure, which tells the instant inside the frame. The time of a
  frame is taken to be the middle of its exposure.
- *hard*: a frame is dark or bright; each flash fell somewhere between the frame before and its first bright one, so
  the true offset lies where all these intervals meet.

Times in s, leads in ms; λ > 0 is sound early. With τ the time of the first frame that is lit and b that of the beep,

    exposed:  τ − b = λ − e/2 + e·p     e: exposure (s), p: the part of it that was lit, as light
    hard:     λ ∈ (τ' − b, τ − b)       τ': the frame before

Thresholds: a *choice* is a trade between recordings that are refused and figures that are wrong; those named so hold
the tests in tests/core/measuring (events from the geometry of exposures) and tests/media (filmed clips).

1. Theil, "A rank-invariant method of linear and polynomial regression analysis", Proc. KNAW 53 (1950); Sen, JASA 63
   (1968): the line through offsets.
2. Huber, Robust Statistics (1981), 5.1: their scatter.
3. Marzullo and Owicki, "Maintaining the time in a distributed system", PODC (1983): where most intervals meet.
"""

import math
from collections.abc import Sequence
from typing import TYPE_CHECKING, Literal

import numpy as np
from msgspec import Struct

from kymaton.core.errors import MeasureError
from kymaton.core.measuring import robust
from kymaton.core.measuring.events import Beep, Flash
from kymaton.core.words import counted

if TYPE_CHECKING:
    from numpy.typing import NDArray

    FloatArray = NDArray[np.float64]
else:
    FloatArray = np.ndarray

Kind = Literal["locked", "exposed", "hard"]
Confidence = Literal["high", "medium", "low"]

# what is looked for
MOST_LEAD_S = 5.0  # chosen: longer than any way through the devices of the catalogue
MOST_DRIFT_PPM = 600.0  # chosen: three times what two free-running clocks of ±100 ppm can differ
DRIFT_STEP_FRAMES = 0.5  # chosen: a drift between two that are tried moves the last event by a quarter of a frame

# what belongs together; a flash is seen up to one frame late, so offsets of one lead spread over one frame
GROUP_FRAMES, GROUP_S = 1.2, 0.003  # half of the stretch in which offsets may be of one lead; chosen: a fifth in hand
GROUP_WORTH = 0.6  # of the largest group, for another one to be looked at; chosen
DRIFT_COST = 100.0  # s of offset that a drift of 1 counts as, among groups of one size: the smaller drift first
PAIR_FRAMES, PAIR_S = 1.5, 0.004  # reach of a pair from the offset; chosen: the half group and a third of a frame
REFUSED_FRAMES, REFUSED_S = 0.75, 0.003  # from the middle; chosen: half a frame and a quarter for a skewed middle
RIVAL_APART, RIVAL_WORTH = 4.0, 0.8  # in half groups; of the best: a rival that far and that large is as good. Chosen

# a flash inside an exposure
LEAST_PART, MOST_LIGHT = 0.06, 0.94  # of coded pictures less cannot be told from dark, more not from bright; chosen
LEAST_INSIDE, LEAST_SPREAD = 8, 0.3  # events and stretch of light that fix a line of three unknowns; chosen
LEAST_EXPOSURE, MOST_EXPOSURE = 0.02, 1.25  # in frames; no shutter is open for more than 1, noise asks for a margin
CODED_HANDICAP = 2.0  # a camera that codes light itself is rare: it must fit twice as well; chosen
EXPOSED_FRAMES = 0.12  # scatter about the line, in frames, above which it is no exposure; chosen
OUTLIER_SCATTERS, OUTLIER_S = 4.0, 0.0005  # beyond which an event is left out of the line [2]
INSTANT_S = 0.001  # chosen: to which an exposure of a few events tells the instant
PARTIAL_SHARE = 0.1  # of the events: fewer inside an exposure are an accident; chosen
EXPOSURES = (0.02, 1.0, 99)  # tried for a partial exposure, in frames: first, last, how many

# flashes that begin with their frame
LOCKED_S = 0.001  # scatter below which offsets are one and the same: coded beeps are found to a fifth of it; chosen
LOCKED_SHARE = 0.8  # of the events that lie together within REFUSED_S: the others are wrong, not the kind; chosen
LOCKED_FRAMES, LOCKED_PART = 0.25, 0.9  # greatest stretch of the rest, in frames; least part of the first frame. Chosen

# what is told
SIGNIFICANT = 3.0  # standard errors: less is told as no drift (0.3 % of drifts told would be none)
SURE = 2.0  # standard errors that ± stands for: 95 % of normally distributed ones
LOCKED_FLOOR_S, EXPOSED_FLOOR_S = 0.0002, 0.0004  # ± that stays with many events: beep found to ±0.2 ms; chosen
LEAST_SCATTER_S = 2e-5  # one sample at 48 kHz
LINE_EVENTS, DRIFT_EVENTS = 4, 6  # that a slope needs at least; chosen
SLOPES = 241  # of hard frames that are tried, a fortieth of a frame apart at the ends of the recording
HAND_S = 0.001  # to which a sudden sound is marked by hand on its wave; chosen

# what is believed; chosen
ENOUGH, ENOUGH_HARD, SHARE_HIGH = 5, 8, 0.7  # events; share of the events that found a partner
SOME, SHARE_MEDIUM = 3, 0.5
TIGHT_EXPOSED_S, TIGHT_HARD_FRAMES = 0.0015, 0.3  # scatter; ±
NEVER_S = 1e-9  # keeps a division by no time at all finite


class Event(Struct, frozen=True):
    """A flash with its beep: when, and the lead that this pair alone would tell.

    `tells` is false where the flash fell between two exposures: then its instant is only known to lie there.
    """

    time_s: float
    lead_ms: float
    tells: bool = True


class SyncMeasurement(Struct, frozen=True):
    """`lead_ms` > 0: sound early; it holds at `middle_s`, and grows by `drift_ppm` (µs a second).

    `matched` pairs of a flash and a beep were used; each is one of the `events`.
    """

    lead_ms: float
    plus_minus_ms: float
    drift_ppm: float
    drift_plus_minus_ppm: float
    jitter_ms: float
    confidence: Confidence
    kind: Kind
    events: tuple[Event, ...]
    matched: int
    refused: int
    middle_s: float
    remarks: tuple[str, ...]


def best_estimate(candidates: Sequence[Sequence[Flash]], beeps: Sequence[Beep]) -> SyncMeasurement:
    """The best of several regions that may be the one that flashes. Raises MeasureError when none fits the sound."""
    found: list[SyncMeasurement] = []
    trouble = MeasureError("No flashes were found in the picture.")
    for flashes in candidates:
        try:
            found.append(estimate_lead(flashes, beeps))
        except MeasureError as error:
            trouble = error
    if not found:
        raise trouble
    order = ("low", "medium", "high")
    return max(found, key=lambda m: (order.index(m.confidence), m.matched, -m.plus_minus_ms))


def estimate_lead(flashes: Sequence[Flash], beeps: Sequence[Beep]) -> SyncMeasurement:
    """The lead that flashes and beeps tell. Raises MeasureError when there are too few that belong together."""
    if len(flashes) < 2:
        raise MeasureError("No flashes were found in the picture." if not flashes else "Only one flash was found.")
    if len(beeps) < 2:
        raise MeasureError("No beeps were found in the sound." if not beeps else "Only one beep was found.")
    lit = np.array([f.time_s for f in flashes])
    heard = np.array([b.time_s for b in beeps])
    frame_s = float(np.median([f.time_s - f.before_s for f in flashes]))
    offset_s, drift, ambiguous = _coarse(lit, heard, frame_s)
    pairs = _pairs(lit, heard, offset_s, drift, PAIR_FRAMES * frame_s + PAIR_S)
    if len(pairs) < 2:
        raise MeasureError("Flashes and beeps do not belong together: fewer than two match.")
    matched = [(flashes[i], beeps[j]) for i, j in pairs]
    return _measured(matched, len(flashes), len(beeps), frame_s, ambiguous)


class Mark(Struct, frozen=True):
    """An event marked by hand: the first frame on which it is seen, the frame before, and when it is heard (s)."""

    picture_s: float
    before_s: float
    sound_s: float

    @property
    def lead_ms(self) -> float:
        """What this mark alone tells: the event fell between the two frames."""
        return 500 * (self.picture_s + self.before_s) - 1000 * self.sound_s


def lead_from_marks(marks: Sequence[Mark]) -> SyncMeasurement:
    """The lead that marks by hand tell: never more than medium confidence. Raises MeasureError when there are none."""
    if not marks:
        raise MeasureError("Nothing is marked yet.")
    pairs = _Pairs(
        [(Flash(m.picture_s, m.before_s, 1.0, 1.0, 1.0), Beep(m.sound_s, 1.0)) for m in sorted(marks, key=_when)]
    )
    frame_s = float(np.median(pairs.when - [m.before_s for m in sorted(marks, key=_when)]))
    low, high, share = intersect_intervals(pairs.before - HAND_S, pairs.late + HAND_S)
    spread_s = float(np.std(pairs.late))
    remarks = []
    if len(marks) == 1:
        remarks.append("One mark tells no more than between which frames it was: mark others to be surer.")
    if share < 1.0:
        remarks.append("The marks contradict each other: look at them again.")
    return SyncMeasurement(
        lead_ms=500 * (low + high),
        plus_minus_ms=500 * (high - low) + 1000 * frame_s * (1 - share),
        drift_ppm=0.0,
        drift_plus_minus_ppm=0.0,
        jitter_ms=1000 * spread_s,
        confidence="medium" if share == 1.0 and len(marks) > 1 else "low",
        kind="hard",
        events=tuple(Event(m.picture_s, m.lead_ms) for m in sorted(marks, key=_when)),
        matched=len(marks),
        refused=0,
        middle_s=pairs.middle,
        remarks=tuple(remarks),
    )


def _when(mark: Mark) -> float:
    return mark.picture_s


def _coarse(lit: FloatArray, heard: FloatArray, frame_s: float) -> tuple[float, float, bool]:
    """Offset (flash after beep, s), drift and whether another offset fits nearly as well."""
    middle = float(np.mean(lit))
    tolerance = GROUP_FRAMES * frame_s + GROUP_S
    length = float(lit[-1] - lit[0])
    drifts = np.array([0.0])
    if length * MOST_DRIFT_PPM * 1e-6 > frame_s:
        many = math.ceil(MOST_DRIFT_PPM * 1e-6 * length / (DRIFT_STEP_FRAMES * frame_s))
        drifts = np.linspace(-MOST_DRIFT_PPM, MOST_DRIFT_PPM, 2 * many + 1) * 1e-6
    differences = lit[:, None] - heard[None, :]
    near = np.abs(differences) <= MOST_LEAD_S
    best = (0, math.inf, 0.0, 0.0)
    counts: list[tuple[int, float]] = []
    for drift in drifts:
        flat = np.sort((differences - drift * (lit[:, None] - middle))[near])
        if not len(flat):
            continue
        inside = np.searchsorted(flat, flat + 2 * tolerance) - np.arange(len(flat))
        for first in np.flatnonzero(inside >= GROUP_WORTH * inside.max()):
            group = flat[first : first + inside[first]]
            offset = float(np.median(group))
            counts.append((int(inside[first]), offset))
            score = (int(inside[first]), -(abs(offset) + abs(drift) * DRIFT_COST), offset, float(drift))
            if score[0] > best[0] or (score[0] == best[0] and score[1] > best[1]) or best[1] == math.inf:
                best = score
    if best[0] == 0:
        raise MeasureError("Flashes and beeps lie more than five seconds apart.")
    rival = max((n for n, o in counts if abs(o - best[2]) > RIVAL_APART * tolerance), default=0)
    return best[2], best[3], rival >= max(2, RIVAL_WORTH * best[0])


def _pairs(lit: FloatArray, heard: FloatArray, offset_s: float, drift: float, reach_s: float) -> list[tuple[int, int]]:
    """Flashes and beeps one to one, the nearest first, none further apart than `reach_s` from the offset."""
    middle = float(np.mean(lit))
    away = np.abs(lit[:, None] - heard[None, :] - offset_s - drift * (lit[:, None] - middle))
    found: list[tuple[int, int]] = []
    while away.size and float(away.min()) <= reach_s:
        i, j = np.unravel_index(int(away.argmin()), away.shape)
        found.append((int(i), int(j)))
        away[i, :] = math.inf
        away[:, j] = math.inf
    return sorted(found)


def _measured(
    matched: list[tuple[Flash, Beep]], flashes: int, beeps: int, frame_s: float, ambiguous: bool
) -> SyncMeasurement:
    pairs = _Pairs(matched)
    rough, _ = _line(pairs.when, pairs.late)
    away = np.abs(pairs.late - rough)
    near = away <= REFUSED_S
    alike = len(away) >= ENOUGH_HARD and float(near.mean()) >= LOCKED_SHARE  # no camera sees them so: a made clip
    pairs = pairs.where(near if alike else away <= max(REFUSED_FRAMES * frame_s, REFUSED_S))
    fits = (fit_locked, fit_exposed, fit_partial_exposure)
    found = next((f for f in (fit(pairs, frame_s) for fit in fits) if f is not None), None)
    found = found or fit_hard_frames(pairs, frame_s)
    good = len(pairs.when)
    refused = max(flashes, beeps) - good
    confidence, remarks = _confidence(found, good, good / max(1, min(flashes, beeps)), frame_s, ambiguous, refused)
    told, fair = np.ones(good, np.bool_), pairs.late - np.median(pairs.late - found.slope * pairs.since) + found.lead_s
    if found.exposure_s:  # an event that fell between two exposures tells no instant
        told = pairs.inside
        fair = pairs.late + found.exposure_s / 2 - found.exposure_s * pairs.light
    events = tuple(
        Event(float(t), 1000 * float(v), bool(sure)) for t, v, sure in zip(pairs.when, fair, told, strict=True)
    )
    return SyncMeasurement(
        lead_ms=1000 * found.lead_s,
        plus_minus_ms=1000 * found.sure_s,
        drift_ppm=1e6 * found.slope,
        drift_plus_minus_ppm=1e6 * found.slope_sure,
        jitter_ms=1000 * found.spread_s,
        confidence=confidence,
        kind=found.kind,
        events=events,
        matched=good,
        refused=refused,
        middle_s=pairs.middle,
        remarks=remarks,
    )


class _Pairs:
    """Arrays over matched pairs: when the flash is seen, how late after its beep, and the frame before likewise."""

    def __init__(self, matched: list[tuple[Flash, Beep]]) -> None:
        self.matched = matched
        self.when = np.array([f.time_s for f, _ in matched])
        self.late = np.array([f.time_s - b.time_s for f, b in matched])
        self.before = np.array([f.before_s - b.time_s for f, b in matched])
        self.part = np.array([f.part for f, _ in matched])
        self.light = np.array([f.light for f, _ in matched])
        self.inside = (self.part > LEAST_PART) & (self.light < MOST_LIGHT)  # those that fell into an exposure
        self.middle = float(self.when.mean())
        self.since = self.when - self.middle

    def where(self, kept: "NDArray[np.bool_]") -> "_Pairs":
        return _Pairs([m for m, k in zip(self.matched, kept, strict=True) if k]) if int(kept.sum()) >= 2 else self


class _Found(Struct, frozen=True):
    """A line of lead over time (s, s a second), its spread and how sure it is."""

    kind: Kind
    lead_s: float
    slope: float
    spread_s: float
    sure_s: float
    slope_sure: float
    exposure_s: float = 0.0


def _line(when: FloatArray, late: FloatArray) -> tuple[FloatArray, float]:
    """A robust line through offsets (Theil and Sen), and its slope."""
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


def fit_locked(pairs: _Pairs, frame_s: float) -> _Found | None:
    """Flashes that begin with their frame."""
    line, slope = _line(pairs.when, pairs.late)
    rest = pairs.late - line
    spread = float(robust.scatter(rest))
    apart = float(np.ptp(rest)) > LOCKED_FRAMES * frame_s
    if spread > LOCKED_S or apart or float(np.median(pairs.part)) < LOCKED_PART:
        return None
    error = _slope_error(spread, pairs.since)
    if abs(slope) < SIGNIFICANT * error:
        slope = 0.0
    lead = float(np.median(pairs.late - slope * pairs.since))
    return _Found("locked", lead, slope, spread, spread / math.sqrt(len(rest)) + LOCKED_FLOOR_S, error)


def fit_exposed(pairs: _Pairs, frame_s: float) -> _Found | None:
    """Flashes whose first frame tells by its brightness when they began.

    With an exposure of e: late = lead − e/2 + e · part.
    """
    best: tuple[float, FloatArray, int] | None = None
    for share, handicap in ((pairs.light, 1.0), (pairs.part, CODED_HANDICAP)):
        inner = (pairs.part > LEAST_PART) & (share < MOST_LIGHT)
        for _ in range(2):
            if int(inner.sum()) < LEAST_INSIDE or float(np.ptp(share[inner])) < LEAST_SPREAD:
                break
            ones = np.ones(int(inner.sum()))
            columns = np.stack([ones, share[inner], pairs.since[inner]], axis=1)
            line = np.linalg.lstsq(columns, pairs.late[inner], rcond=None)[0]
            rest = pairs.late - (line[0] + line[1] * share + line[2] * pairs.since)
            scatter = float(robust.scatter(rest[inner]))
            possible = LEAST_EXPOSURE * frame_s < line[1] < MOST_EXPOSURE * frame_s
            if possible and (best is None or scatter * handicap < best[0]):
                best = (scatter, line, int(inner.sum()))
            inner &= np.abs(rest) < OUTLIER_SCATTERS * scatter + OUTLIER_S
    if best is None or best[0] > EXPOSED_FRAMES * frame_s:
        return None
    scatter, line, many = best
    error = scatter / (float(np.std(pairs.since)) * math.sqrt(many) + NEVER_S) + 1e-6
    return _Found(
        kind="exposed",
        lead_s=float(line[0] + line[1] / 2),
        slope=float(line[2]) if abs(line[2]) > SIGNIFICANT * error else 0.0,
        spread_s=scatter,
        sure_s=SURE * scatter / math.sqrt(many) + EXPOSED_FLOOR_S,
        slope_sure=error,
        exposure_s=float(line[1]),
    )


def fit_partial_exposure(pairs: _Pairs, frame_s: float) -> _Found | None:
    """Few flashes fell into an exposure: these tell an instant for each length of the exposure, the others an interval.

    That length is the one for which most of them agree, and agree best.
    """
    inner = pairs.inside
    if int(inner.sum()) < max(2, PARTIAL_SHARE * len(inner)):
        return None
    found: tuple[float, float, float, float, float] | None = None
    for exposure in np.linspace(*EXPOSURES) * frame_s:
        instant = pairs.late + exposure / 2 - pairs.light * exposure
        low = np.where(inner, instant - INSTANT_S, np.minimum(pairs.before + exposure / 2, pairs.late - exposure / 2))
        high = np.where(inner, instant + INSTANT_S, np.maximum(pairs.late - exposure / 2, low + INSTANT_S))
        first, last, share = intersect_intervals(low - 1e-6, high + 1e-6)
        spread = float(np.std(instant[inner]))
        if found is None or (share, -spread) > (found[0], -found[1]):
            found = (share, spread, first, last, exposure)
    assert found is not None
    share, spread, first, last, exposure = found
    instants = pairs.late[inner] + exposure / 2 - pairs.light[inner] * exposure
    lead = float(np.clip(np.median(instants), first - INSTANT_S, last + INSTANT_S))
    sure = SURE * spread / math.sqrt(len(instants)) + INSTANT_S / 2 + frame_s * (1 - share)
    return _Found("exposed", lead, 0.0, spread, sure, frame_s / (float(np.ptp(pairs.when)) + NEVER_S), exposure)


def fit_hard_frames(pairs: _Pairs, frame_s: float) -> _Found:
    """Each flash fell after the frame before and not after its first bright one: the line that most intervals meet [3].

    One that lit a part of its first frame fell into an exposure, of a length that so few do not tell: it is known to
    half a frame only. Drift is told only where no constant lead goes through the intervals.
    """
    half = frame_s / 2
    early = np.where(pairs.inside, pairs.late - half, pairs.before)
    late = np.where(pairs.inside, pairs.late + half, pairs.late)
    low, high, share = intersect_intervals(early, late)
    limit = frame_s / (float(np.ptp(pairs.when)) + NEVER_S)
    slopes = np.linspace(-1, 1, SLOPES) * min(MOST_DRIFT_PPM * 1e-6, 3 * limit)
    at, most, wide = SLOPES // 2, share, limit
    if share < 1.0 and len(pairs.when) >= DRIFT_EVENTS:
        met = [intersect_intervals(early - s * pairs.since, late - s * pairs.since) for s in slopes]
        most = max(m[2] for m in met)
        if most > share + 0.5 / len(pairs.when):  # at least one event more lies on a line that drifts
            fitting = [i for i, m in enumerate(met) if m[2] == most]
            at = fitting[len(fitting) // 2]
            low, high, _ = met[at]
            wide = float(slopes[fitting[-1]] - slopes[fitting[0]]) / 2 + float(slopes[1] - slopes[0])
        else:
            most = share
    slope = float(slopes[at])
    return _Found(
        kind="hard",
        lead_s=(low + high) / 2,
        slope=slope,
        spread_s=float(np.std(pairs.late - slope * pairs.since)),
        sure_s=(high - low) / 2 + half * (1 - most),
        slope_sure=wide,
    )


def intersect_intervals(low: FloatArray, high: FloatArray) -> tuple[float, float, float]:
    """The stretch that lies in most of the intervals (its ends), and the share of them that it lies in [3]."""
    ends = np.unique(np.concatenate([low, high]))
    first, last = ends[:-1], ends[1:]
    inside = ((low[:, None] <= first + NEVER_S) & (high[:, None] >= last - NEVER_S)).sum(axis=0)
    best = int(inside.max())
    at = int(np.argmax(np.where(inside == best, last - first, -1.0)))
    return float(first[at]), float(last[at]), best / len(low)


def _confidence(
    found: _Found, good: int, share: float, frame_s: float, ambiguous: bool, refused: int
) -> tuple[Confidence, tuple[str, ...]]:
    remarks = []
    if ambiguous:
        remarks.append("Another lead fits nearly as well: the events repeat too regularly.")
    if refused:
        were = "was" if refused == 1 else "were"
        remarks.append(f"{counted(refused, 'event')} had no partner or did not fit, and {were} left out.")
    if found.kind == "hard":
        remarks.append("Frames are dark or bright: half a frame was taken off, as flashes fall between two frames.")
    if good < ENOUGH:
        remarks.append(f"Only {counted(good, 'event')}: make the recording longer.")
    enough = good >= ENOUGH and share >= SHARE_HIGH and not ambiguous
    tight = {
        "locked": True,  # else it would be none
        "exposed": found.spread_s < TIGHT_EXPOSED_S,
        "hard": found.sure_s < TIGHT_HARD_FRAMES * frame_s and good >= ENOUGH_HARD,
    }[found.kind]
    if enough and tight:
        return "high", tuple(remarks)
    return ("medium" if good >= SOME and share >= SHARE_MEDIUM and not ambiguous else "low"), tuple(remarks)
