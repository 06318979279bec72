"""From flashes and beeps to a lead: matching, drift, kind of events, uncertainty and confidence.

Three kinds of recordings are told apart by how the flashes lie against the beeps:

- *locked*: a file that is known to be made, not filmed: the flash begins exactly with its frame.
- *exposed*: the first frame is lit for a part of its exposure, which tells the instant inside the frame.
- *hard*: a frame is dark or bright; each flash fell somewhere between the frame before and its first bright one, so
  the true lead lies where all these intervals meet.

What a frame tells is in `exposure`. *High* means that nothing known here makes the lead wrong by more than its ±.

Times in s, leads in ms; λ > 0 is sound early. Thresholds: a *choice* is a trade between recordings that are refused and
figures that are wrong; those named so hold the tests in tests/core/measuring (events from the geometry of exposures,
films averaged from faster ones) and tests/media (filmed clips).
"""

import math
from collections.abc import Sequence
from typing import TYPE_CHECKING, Literal

import numpy as np
from msgspec import Struct
from msgspec.structs import replace

from kymaton.core.errors import MeasureError
from kymaton.core.measuring.beeps import Beep
from kymaton.core.measuring.exposure import (
    MOST_DRIFT_PPM,
    NEVER_S,
    Found,
    Kind,
    Pairs,
    fit_exposed,
    fit_intervals,
    fit_locked,
    intersect_intervals,
    leads_of,
    line,
)
from kymaton.core.measuring.flashes import Flash
from kymaton.core.words import counted

if TYPE_CHECKING:
    from numpy.typing import NDArray

    FloatArray = NDArray[np.float64]
else:
    FloatArray = np.ndarray

Confidence = Literal["high", "medium", "low"]

# what is looked for
MOST_LEAD_S = 5.0  # chosen: longer than any way through the devices of the catalogue
DRIFT_STEP_FRAMES = 0.5  # chosen: a drift between two that are tried moves the last event by a quarter of a frame

# what belongs together; a flash is seen up to one frame late, so offsets of one lead spread over one frame
GROUP_FRAMES, GROUP_S = 1.2, 0.003  # half of the stretch in which offsets may be of one lead; chosen: a fifth in hand
GROUP_WORTH = 0.6  # of the largest group, for another one to be looked at; chosen
DRIFT_COST = 100.0  # s of offset that a drift of 1 counts as, among groups of one size: the smaller drift first
PAIR_FRAMES, PAIR_S = 1.5, 0.004  # reach of a pair from the offset; chosen: the half group and a third of a frame
REFUSED_FRAMES, REFUSED_S = 0.75, 0.003  # from the middle; chosen: half a frame and a quarter for a skewed middle
RIVAL_APART, RIVAL_WORTH = 4.0, 0.8  # in half groups; of the best: a rival that far and that large is as good. Chosen
LOCKED_SHARE = 0.8  # of a made clip's events that lie together within REFUSED_S: the others are wrong; chosen

# another number
OTHER_REACH_S = 0.4  # from the lead: closer than events of a clip stand to each other, so that no two of them mix
OTHER_SHARE, FEWEST_OTHER = 0.3, 4  # of the flashes, and how many, that tell it at least; chosen
JUMP_ERRORS, LEAST_JUMP_S, JUMP_SIDE = 4.5, 0.002, 3  # standard errors; s; events to each side; chosen
JUMP_BETTER = 0.7  # of the squares that a drift leaves, which a jump leaves at most; chosen

# what is told
HAND_S = 0.001  # to which a sudden sound is marked by hand on its wave; chosen
LOCKED_LOOK_S, LOCKED_LOOK = 0.001, 0.9  # scatter, and part of the first frame, of what looks like a made clip

# what is believed; chosen
ENOUGH, ENOUGH_HARD, SHARE_HIGH = 5, 8, 0.7  # events; share of the events that found a partner
SOME, SHARE_MEDIUM = 3, 0.5
TIGHT_EXPOSED_S, TIGHT_FRAMES = 0.0015, 0.3  # scatter; ±, of a frame
MET_HIGH = 0.9  # of the events that agree
SLOW_S = 0.005  # a beginning that is open for longer is not sure, whatever its ±
UNEVEN_FRAMES = 0.15  # of a frame, that frames may stand apart unevenly


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


class Circumstances(Struct, frozen=True):
    """What is known of a recording besides its events: a file that was made, not filmed; how uneven its frames are."""

    made: bool = False
    uneven_s: float = 0.0


FILMED = Circumstances()


def best_estimate(
    candidates: Sequence[Sequence[Flash]], beeps: Sequence[Beep], known: Circumstances = FILMED
) -> SyncMeasurement:
    """The best of several regions that may be the one that flashes. Raises MeasureError when none fits the sound."""
    found: list[SyncMeasurement] = []
    trouble = MeasureError("No flashes were found in the picture.")
    for flashes in candidates:
        try:
            found.append(estimate_lead(flashes, beeps, known))
        except MeasureError as error:
            trouble = error
    if not found:
        raise trouble
    return max(found, key=worth)


def worth(found: SyncMeasurement) -> tuple[int, int, float]:
    """What decides between several readings of one recording: confidence, then events, then ±."""
    return ("low", "medium", "high").index(found.confidence), found.matched, -found.plus_minus_ms


def estimate_lead(flashes: Sequence[Flash], beeps: Sequence[Beep], known: Circumstances = FILMED) -> SyncMeasurement:
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
    all_pairs = Pairs([(flashes[i], beeps[j]) for i, j in pairs])
    fits = _fitting(all_pairs, frame_s)
    kept = all_pairs.where(fits)
    found = _fit(kept, frame_s, known)
    remarks = []
    if ambiguous:
        remarks.append("Another lead fits nearly as well: the events repeat too regularly.")
    other = _other_lead(lit, heard, [pair for pair, fit in zip(pairs, fits, strict=True) if fit], frame_s)
    if other is not None:
        remarks.append(
            f"{counted(other[1], 'event')} tell another lead: {1000 * (found.lead_s + other[0]):+.0f} ms. Is the sound "
            "heard twice, or was something cut?"
        )
    jump = _jump(all_pairs, found, frame_s, known, bool(fits.all()))
    if jump is not None:
        remarks.append(
            f"The lead jumps at {jump[0]:.1f} s, from {1000 * jump[1]:.0f} to {1000 * jump[2]:.0f} ms: something was "
            "lost or cut there."
        )
        apart = max(abs(found.lead_s - jump[1]), abs(found.lead_s - jump[2]))
        found = replace(found, sure_s=found.sure_s + apart + jump[3])  # it holds both
    return _measured(kept, found, frame_s, known, len(flashes), len(beeps), remarks)


def _fitting(pairs: Pairs, frame_s: float) -> "NDArray[np.bool_]":
    """Which pairs do not lie too far from the others."""
    rough, _ = line(pairs.when, pairs.late)
    away = np.abs(pairs.late - rough)
    near = away <= REFUSED_S
    alike = len(away) >= ENOUGH_HARD and float(near.mean()) >= LOCKED_SHARE  # as in a made clip, or on one clock
    return near if alike else away <= max(REFUSED_FRAMES * frame_s, REFUSED_S)


def _fit(pairs: Pairs, frame_s: float, known: Circumstances) -> Found:
    found = fit_locked(pairs, frame_s) if known.made else None
    found = found or fit_exposed(pairs, frame_s) or fit_intervals(pairs, frame_s)
    return replace(found, sure_s=found.sure_s + pairs.slow_s + known.uneven_s)


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
    pairs = Pairs(
        [(Flash(m.picture_s, m.before_s, 1.0, 1.0, 1.0), Beep(m.sound_s, 1.0)) for m in sorted(marks, key=_when)]
    )
    frame_s = float(np.median(pairs.when - [m.before_s for m in sorted(marks, key=_when)]))
    met = intersect_intervals((pairs.before - HAND_S)[None], (pairs.late + HAND_S)[None])
    low, high, share = (float(told[0]) for told in met)
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
        firsts = np.flatnonzero(inside >= GROUP_WORTH * inside.max())
        sizes = inside[firsts]
        medians = (flat[firsts + (sizes - 1) // 2] + flat[firsts + sizes // 2]) / 2  # of each group, which is in order
        for count, offset in zip(sizes.tolist(), medians.tolist(), strict=True):
            counts.append((count, offset))
            score = (count, -(abs(offset) + abs(drift) * DRIFT_COST), offset, float(drift))
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


def _other_lead(
    lit: FloatArray, heard: FloatArray, pairs: list[tuple[int, int]], frame_s: float
) -> tuple[float, int] | None:
    """Another lead that many flashes tell as well by beeps that are in no pair, and how many; None without one.

    It is told as seconds more than the lead. A sound that is heard twice, two takes cut together: the events of each
    agree among themselves.
    """
    reach = GROUP_FRAMES * frame_s / 2 + GROUP_S
    if not pairs:
        return None
    away = lit[:, None] - heard[None, :]
    middle = float(np.median([away[pair] for pair in pairs]))
    away = np.delete(away - middle, [beep for _, beep in pairs], axis=1)
    near = np.abs(away) <= OTHER_REACH_S
    flash, offsets = np.nonzero(near)[0], away[near]
    order = np.argsort(offsets)
    offsets, flash = offsets[order], flash[order]
    best: tuple[float, int] | None = None
    for first in range(len(offsets)):
        last = int(np.searchsorted(offsets, offsets[first] + 2 * reach, "right"))
        many = len(np.unique(flash[first:last]))
        if best is None or many > best[1]:
            best = (float(np.median(offsets[first:last])), many)
    enough = max(FEWEST_OTHER, OTHER_SHARE * len(lit))
    return best if best is not None and best[1] >= enough else None


Jump = tuple[float, float, float, float]  # when, from what, to what, and how sure that is (s)


def _jump(pairs: Pairs, found: Found, frame_s: float, known: Circumstances, all_fit: bool) -> Jump | None:
    """Where the lead jumps."""
    if known.made:
        return _jump_of(pairs, pairs.late)
    if (
        found.kind == "exposed"
        and (inside := pairs.where(pairs.inside))
        and (
            jump := _jump_of(inside, leads_of(inside, found))  # the other events tell a stretch of time only
        )
    ):
        return jump
    doubtful = found.met < MET_HIGH or (found.kind == "hard" and found.slope) or not all_fit  # no one lead will do
    return _jump_between(pairs, frame_s) if doubtful and len(pairs.when) >= 2 * JUMP_SIDE else None


def _jump_of(pairs: Pairs, lead: FloatArray) -> Jump | None:
    """Where two levels fit the leads (s) of the events far better than a line."""
    many = len(pairs.when)
    if many < 2 * JUMP_SIDE:
        return None
    through = np.polyfit(pairs.since, lead, 1)
    straight = float(np.sum((lead - np.polyval(through, pairs.since)) ** 2))
    best: tuple[float, int] | None = None
    for at in range(JUMP_SIDE, many - JUMP_SIDE + 1):
        left = float(np.sum((lead[:at] - lead[:at].mean()) ** 2) + np.sum((lead[at:] - lead[at:].mean()) ** 2))
        if best is None or left < best[0]:
            best = (left, at)
    assert best is not None
    squares, at = best
    one, two = float(np.mean(lead[:at])), float(np.mean(lead[at:]))
    error = math.sqrt(squares / (many - 2) * (1 / at + 1 / (many - at))) + NEVER_S
    if squares > JUMP_BETTER * straight or abs(two - one) < max(JUMP_ERRORS * error, LEAST_JUMP_S):
        return None
    return float(pairs.when[at - 1] + pairs.when[at]) / 2, one, two, error


def _jump_between(pairs: Pairs, frame_s: float) -> Jump | None:
    """A jump, where the events to both sides of it each agree on a lead, and all together on no line."""
    many = len(pairs.when)
    best: tuple[float, int, Found, Found] | None = None
    for at in range(JUMP_SIDE, many - JUMP_SIDE + 1):
        before = np.arange(many) < at
        one, two = (fit_intervals(pairs.where(side), frame_s, drifts=False) for side in (before, ~before))
        met = (one.met * at + two.met * (many - at)) / many
        if best is None or met > best[0]:
            best = (met, at, one, two)
    assert best is not None
    met, at, one, two = best
    if met < max(MET_HIGH, fit_intervals(pairs, frame_s).met + 1.5 / many):
        return None
    sure_s = max(one.sure_s, two.sure_s)
    return float(pairs.when[at - 1] + pairs.when[at]) / 2, one.lead_s, two.lead_s, sure_s


def _measured(
    pairs: Pairs,
    found: Found,
    frame_s: float,
    known: Circumstances,
    flashes: int,
    beeps: int,
    doubts: list[str],
) -> SyncMeasurement:
    good = len(pairs.when)
    refused = max(flashes, beeps) - good
    share = good / max(1, min(flashes, beeps))
    told = pairs.inside if found.exposure_s else np.ones(good, np.bool_)  # others fell between two exposures
    events = tuple(
        Event(float(t), 1000 * float(v), bool(sure))
        for t, v, sure in zip(pairs.when, leads_of(pairs, found), told, strict=True)
    )
    return SyncMeasurement(
        lead_ms=1000 * found.lead_s,
        plus_minus_ms=1000 * found.sure_s,
        drift_ppm=1e6 * found.slope,
        drift_plus_minus_ppm=1e6 * found.slope_sure,
        jitter_ms=1000 * found.spread_s,
        confidence=_confidence(pairs, found, share, frame_s, known, bool(doubts)),
        kind=found.kind,
        events=events,
        matched=good,
        refused=refused,
        middle_s=pairs.middle,
        remarks=(*doubts, *_remarks(pairs, found, frame_s, known, refused)),
    )


def _remarks(pairs: Pairs, found: Found, frame_s: float, known: Circumstances, refused: int) -> list[str]:
    remarks = []
    if refused:
        were = "was" if refused == 1 else "were"
        remarks.append(f"{counted(refused, 'event')} had no partner or did not fit, and {were} left out.")
    looks_made = float(np.std(pairs.late)) < LOCKED_LOOK_S and float(np.median(pairs.part)) > LOCKED_LOOK
    if looks_made and found.kind != "locked":
        remarks.append(
            "Each flash begins at the same place of its frame: clip and camera run on one clock, and the lead is known "
            f"to half a frame only. If this file was not filmed, say so: then it is "
            f"{1000 * float(np.median(pairs.late)):.1f} ms. Else play a clip at a rate unlike the camera's."
        )
    elif not pairs.tells.all() and found.kind != "locked":
        remarks.append(
            "The flash is overexposed or shorter than two frames, so its first frame does not tell when it began: "
            "close the iris until white is below 90 %."
        )
    elif found.kind == "hard":
        remarks.append("Frames are dark or bright: half a frame was taken off, as flashes fall between two frames.")
    if known.uneven_s > UNEVEN_FRAMES * frame_s:
        remarks.append("The frames do not stand evenly apart, so that each may be late by a part of a frame.")
    if pairs.slow_s > SLOW_S:
        remarks.append("The sound rises slowly, so that its beginning is not sharp.")
    if len(pairs.when) < ENOUGH:
        remarks.append(f"Only {counted(len(pairs.when), 'event')}: make the recording longer.")
    return remarks


def _confidence(
    pairs: Pairs, found: Found, share: float, frame_s: float, known: Circumstances, doubtful: bool
) -> Confidence:
    """High: nothing known makes it wrong by more than its ±. Medium: the ± is wide, or few events tell it. Else low."""
    good = len(pairs.when)
    enough = good >= ENOUGH and share >= SHARE_HIGH and not doubtful
    even = known.uneven_s <= UNEVEN_FRAMES * frame_s and pairs.slow_s <= SLOW_S
    tight = {
        "locked": True,  # else it would be none
        "exposed": found.spread_s < TIGHT_EXPOSED_S and found.sure_s < TIGHT_FRAMES * frame_s,
        "hard": found.sure_s < TIGHT_FRAMES * frame_s and good >= ENOUGH_HARD and bool(pairs.tells.all()),
    }[found.kind]
    as_made = found.kind == "locked" or not known.made
    if enough and tight and even and as_made and found.met >= MET_HIGH:
        return "high"
    return "medium" if good >= SOME and share >= SHARE_MEDIUM and not doubtful else "low"
