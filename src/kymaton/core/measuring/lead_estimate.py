"""From flashes and beeps to a lead: matching, drift, kind of events, uncertainty and confidence.

Three kinds of recordings are told apart by how the flashes lie against the beeps:

- *locked*: the flash begins exactly with its frame (a clip that was made, not filmed); offsets have no spread.
- *exposed*: the first frame is lit for a part of its exposure, which tells the instant inside the frame. The time of a
  frame is taken to be the middle of its exposure.
- *hard*: a frame is dark or bright; each flash fell somewhere between the frame before and its first bright one, so
  the true offset lies where all these intervals meet.
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
MOST_LEAD_S = 5.0
MOST_DRIFT_PPM = 600.0
INSTANT_S = 0.001  # to which an exposure tells the instant
HAND_S = 0.001  # to which a sound is marked by hand
LOCKED_MS = 1.0  # spread below which offsets are one and the same


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


def estimate_lead(flashes: Sequence[Flash], beeps: Sequence[Beep], expected_s: float = 0.0) -> SyncMeasurement:
    """The lead that flashes and beeps tell. Raises MeasureError when there are too few that belong together.

    `expected_s` is where the lead is looked for first when the events repeat too regularly to tell.
    """
    if len(flashes) < 2:
        raise MeasureError("No flashes were found in the picture." if not flashes else "Only one flash was found.")
    if len(beeps) < 2:
        raise MeasureError("No beeps were found in the sound." if not beeps else "Only one beep was found.")
    lit = np.array([f.time_s for f in flashes])
    heard = np.array([b.time_s for b in beeps])
    frame_s = float(np.median([f.time_s - f.before_s for f in flashes]))
    offset_s, drift, ambiguous = _coarse(lit, heard, frame_s, expected_s)
    pairs = _pairs(lit, heard, offset_s, drift, 1.5 * frame_s + 0.004)
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


def judge_marks(marks: Sequence[Mark]) -> SyncMeasurement:
    """The lead that marks by hand tell: never more than medium confidence. Raises MeasureError when there are none."""
    if not marks:
        raise MeasureError("Nothing is marked yet.")
    pairs = _Pairs(
        [(Flash(m.picture_s, m.before_s, 1.0, 1.0, 1.0), Beep(m.sound_s, 1.0)) for m in sorted(marks, key=_when)]
    )
    frame_s = float(np.median(pairs.when - [m.before_s for m in sorted(marks, key=_when)]))
    low, high, share = _meeting(pairs.before - HAND_S, pairs.late + HAND_S)
    spread_s = float(np.std(pairs.late))
    remarks = []
    if len(marks) == 1:
        remarks.append("One mark tells no more than between which frames it was: mark others to be surer.")
    if share < 1.0:
        remarks.append("The marks contradict each other: look at them again.")
    return SyncMeasurement(
        500 * (low + high), 500 * (high - low) + 1000 * frame_s * (1 - share), 0.0, 0.0, 1000 * spread_s,
        "medium" if share == 1.0 and len(marks) > 1 else "low", "hard",
        tuple(Event(m.picture_s, m.lead_ms) for m in sorted(marks, key=_when)), len(marks), 0, pairs.middle,
        tuple(remarks),
    )  # fmt: skip


def _when(mark: Mark) -> float:
    return mark.picture_s


def _coarse(lit: FloatArray, heard: FloatArray, frame_s: float, expected_s: float) -> tuple[float, float, bool]:
    """Offset (flash after beep, s), drift and whether another offset fits nearly as well."""
    middle = float(np.mean(lit))
    tolerance = 1.2 * frame_s + 0.003
    length = float(lit[-1] - lit[0])
    drifts = np.array([0.0])
    if length * MOST_DRIFT_PPM * 1e-6 > frame_s:
        many = math.ceil(MOST_DRIFT_PPM * 1e-6 * length / (0.5 * frame_s))
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
        for first in np.flatnonzero(inside >= 0.6 * inside.max()):
            group = flat[first : first + inside[first]]
            offset = float(np.median(group))
            counts.append((int(inside[first]), offset))
            score = (int(inside[first]), -(abs(offset - expected_s) + abs(drift) * 100), offset, float(drift))
            if score[0] > best[0] or (score[0] == best[0] and score[1] > best[1]) or best[1] == math.inf:
                best = score
    if best[0] == 0:
        raise MeasureError("Flashes and beeps lie more than five seconds apart.")
    rival = max((n for n, o in counts if abs(o - best[2]) > 4 * tolerance), default=0)
    return best[2], best[3], rival >= max(2, 0.8 * best[0])


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
    pairs = pairs.where(np.abs(pairs.late - rough) <= max(0.75 * frame_s, 0.003))
    found = _locked(pairs, frame_s) or _exposed(pairs, frame_s) or _partly(pairs, frame_s) or _hard(pairs, frame_s)
    good = len(pairs.when)
    refused = max(flashes, beeps) - good
    confidence, remarks = _confidence(found, good, good / max(1, min(flashes, beeps)), frame_s, ambiguous, refused)
    told, fair = np.ones(good, np.bool_), pairs.late - np.median(pairs.late - found.slope * pairs.since) + found.lead_s
    if found.exposure_s:  # an event that fell between two exposures tells no instant
        told = (pairs.part > 0.06) & (pairs.light < 0.94)
        fair = pairs.late + found.exposure_s / 2 - found.exposure_s * pairs.light
    events = tuple(
        Event(float(t), 1000 * float(v), bool(sure)) for t, v, sure in zip(pairs.when, fair, told, strict=True)
    )
    return SyncMeasurement(
        1000 * found.lead_s, 1000 * found.sure_s, 1e6 * found.slope, 1e6 * found.slope_sure, 1000 * found.spread_s,
        confidence, found.kind, events, good, refused, pairs.middle, remarks,
    )  # fmt: skip


class _Pairs:
    """Arrays over matched pairs: when the flash is seen, how late after its beep, and the frame before likewise."""

    def __init__(self, matched: list[tuple[Flash, Beep]]) -> None:
        self.matched = matched
        self.when = np.array([f.time_s for f, _ in matched])
        self.late = np.array([f.time_s - b.time_s for f, b in matched])
        self.before = np.array([f.before_s - b.time_s for f, b in matched])
        self.part = np.array([f.part for f, _ in matched])
        self.light = np.array([f.light for f, _ in matched])
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
    if len(when) < 4:
        return np.full(len(when), float(np.median(late))), 0.0
    from scipy.stats import theilslopes

    slope = float(theilslopes(late, when).slope)
    if abs(slope) > 2 * MOST_DRIFT_PPM * 1e-6:
        slope = 0.0
    return np.median(late - slope * when) + slope * when, slope


def _slope_error(spread_s: float, since: FloatArray) -> float:
    return max(spread_s, 2e-5) / (float(np.std(since)) * math.sqrt(len(since)) + 1e-9)


def _locked(pairs: _Pairs, frame_s: float) -> _Found | None:
    """Flashes that begin with their frame."""
    line, slope = _line(pairs.when, pairs.late)
    rest = pairs.late - line
    spread = float(robust.scatter(rest))
    if spread > LOCKED_MS / 1000 or float(np.ptp(rest)) > 0.25 * frame_s or float(np.median(pairs.part)) < 0.9:
        return None
    error = _slope_error(spread, pairs.since)
    if abs(slope) < 3 * error:
        slope = 0.0
    lead = float(np.median(pairs.late - slope * pairs.since))
    return _Found("locked", lead, slope, spread, spread / math.sqrt(len(rest)) + 0.0002, error)


def _exposed(pairs: _Pairs, frame_s: float) -> _Found | None:
    """Flashes whose first frame tells by its brightness when they began.

    With an exposure of e: late = lead − e/2 + e · part.
    """
    best: tuple[float, FloatArray, int] | None = None
    for share, handicap in ((pairs.light, 1.0), (pairs.part, 2.0)):  # a camera that codes light itself is rare
        inner = (pairs.part > 0.06) & (share < 0.94)
        for _ in range(2):
            if int(inner.sum()) < 8 or float(np.ptp(share[inner])) < 0.3:
                break
            ones = np.ones(int(inner.sum()))
            columns = np.stack([ones, share[inner], pairs.since[inner]], axis=1)
            line = np.linalg.lstsq(columns, pairs.late[inner], rcond=None)[0]
            rest = pairs.late - (line[0] + line[1] * share + line[2] * pairs.since)
            scatter = float(robust.scatter(rest[inner]))
            if 0.15 * frame_s < line[1] < 1.25 * frame_s and (best is None or scatter * handicap < best[0]):
                best = (scatter, line, int(inner.sum()))
            inner &= np.abs(rest) < 4 * scatter + 0.0005
    if best is None or best[0] > 0.12 * frame_s:
        return None
    scatter, line, many = best
    error = scatter / (float(np.std(pairs.since)) * math.sqrt(many) + 1e-9) + 1e-6
    slope = float(line[2]) if abs(line[2]) > 3 * error else 0.0
    return _Found(
        "exposed", float(line[0] + line[1] / 2), slope, scatter, 2 * scatter / math.sqrt(many) + 0.0004, error,
        float(line[1]),
    )  # fmt: skip


def _partly(pairs: _Pairs, frame_s: float) -> _Found | None:
    """Few flashes fell into an exposure: these tell an instant for each length of the exposure, the others an interval.

    That length is the one for which most of them agree, and agree best.
    """
    inner = (pairs.part > 0.06) & (pairs.light < 0.94)
    many = len(inner)
    if int(inner.sum()) < max(2, 0.1 * many):
        return None
    found: tuple[float, float, float, float, float] | None = None
    for exposure in np.linspace(0.02, 1.0, 99) * frame_s:
        instant = pairs.late + exposure / 2 - pairs.light * exposure
        low = np.where(inner, instant - INSTANT_S, np.minimum(pairs.before + exposure / 2, pairs.late - exposure / 2))
        high = np.where(inner, instant + INSTANT_S, np.maximum(pairs.late - exposure / 2, low + INSTANT_S))
        first, last, share = _meeting(low - 1e-6, high + 1e-6)
        spread = float(np.std(instant[inner]))
        if found is None or (share, -spread) > (found[0], -found[1]):
            found = (share, spread, first, last, exposure)
    assert found is not None
    share, spread, first, last, exposure = found
    instants = pairs.late[inner] + exposure / 2 - pairs.light[inner] * exposure
    lead = float(np.clip(np.median(instants), first - INSTANT_S, last + INSTANT_S))
    sure = 2 * spread / math.sqrt(len(instants)) + INSTANT_S / 2 + frame_s * (1 - share)
    return _Found("exposed", lead, 0.0, spread, sure, frame_s / (float(np.ptp(pairs.when)) + 1e-9), exposure)


def _hard(pairs: _Pairs, frame_s: float) -> _Found:
    """Each flash fell after the frame before and not after its first bright one: the line that most intervals meet.

    Drift is told only where no constant lead goes through the intervals.
    """
    low, high, share = _meeting(pairs.before, pairs.late)
    span = float(np.ptp(pairs.when))
    limit = frame_s / (span + 1e-9)
    if share == 1.0 or len(pairs.when) < 6:
        return _Found("hard", (low + high) / 2, 0.0, float(np.std(pairs.late)), (high - low) / 2, limit)
    slopes = np.linspace(-1, 1, 241) * min(MOST_DRIFT_PPM * 1e-6, 3 * limit)
    met = [_meeting(pairs.before - s * pairs.since, pairs.late - s * pairs.since) for s in slopes]
    most = max(m[2] for m in met)
    if most <= share + 0.5 / len(pairs.when):
        return _Found(
            "hard",
            (low + high) / 2,
            0.0,
            float(np.std(pairs.late)),
            (high - low) / 2 + frame_s * (1 - share) / 2,
            limit,
        )
    fitting = [i for i, m in enumerate(met) if m[2] == most]
    at = fitting[len(fitting) // 2]
    low, high, _ = met[at]
    slope = float(slopes[at])
    wide = float(slopes[fitting[-1]] - slopes[fitting[0]]) / 2 + float(slopes[1] - slopes[0])
    spread = float(np.std(pairs.late - slope * pairs.since))
    return _Found("hard", (low + high) / 2, slope, spread, (high - low) / 2 + frame_s * (1 - most) / 2, wide)


def _meeting(low: FloatArray, high: FloatArray) -> tuple[float, float, float]:
    """The stretch that lies in most of the intervals, and the share of them that it lies in."""
    ends = np.unique(np.concatenate([low, high]))
    first, last = ends[:-1], ends[1:]
    inside = ((low[:, None] <= first + 1e-9) & (high[:, None] >= last - 1e-9)).sum(axis=0)
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
    if good < 5:
        remarks.append(f"Only {counted(good, 'event')}: make the recording longer.")
    enough = good >= 5 and share >= 0.7 and not ambiguous
    tight = {
        "locked": found.spread_s < 0.001,
        "exposed": found.spread_s < 0.0015,
        "hard": found.sure_s < 0.3 * frame_s and good >= 8,
    }[found.kind]
    if enough and tight:
        return "high", tuple(remarks)
    return ("medium" if good >= 3 and share >= 0.5 and not ambiguous else "low"), tuple(remarks)
