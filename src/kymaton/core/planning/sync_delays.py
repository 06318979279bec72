"""Which delay to enter where, so that sound and picture are together: a mixed-integer programme.

It minimises the largest strain of the window over all (destination, camera, sound), then the delay that is added in
all, where sound and picture meet before elsewhere. Delay controls keep their range and step; monitors do not get later
than they may.

With x the steps of each delay control, v the lead of a row (ms), c by how much a step moves it and w what the window
allows on that side: minimise s under |v + c·x| ≤ w·s, then Σ x under that s [1], exactly, by branch and bound [2].

1. The two stages are lexicographic goal programming: Charnes and Cooper, Management Models (1961).
2. `scipy.optimize.milp`; Huangfu and Hall, Math. Prog. Comp. 10 (2018).
"""

from collections.abc import Callable, Iterator, Sequence
from fractions import Fraction

import numpy as np
from msgspec import Struct

from kymaton.core.edits.controls import Change, apply
from kymaton.core.model import Control, Show
from kymaton.core.model.tolerance import SyncTolerance
from kymaton.core.signal.av_offset import AVOffset, frame_ms, leads, sound_controls, window_of, worst
from kymaton.core.signal.cue_solution import HEARD_DB, CueSolution
from kymaton.core.words import frames_said, group, ms, ms_within, number, said, sentence, the_device

MONITOR_MS = 20.0  # players keep time up to here; what is later already must not get later
ELSEWHERE = 1e-3  # how much dearer a delay is that is not where sound and picture meet: it decides between equals
MONITORED = ("host", "performer")
Slot = tuple[str | None, str]  # cue (None: all cues), control
SlotOf = Callable[[str | None, str], Slot]  # of a control in a cue


class SyncPlan(Struct, frozen=True):
    """Delays to enter, the leads of what is on air before and after, and what remains to be said.

    `window` is what the show has chosen; each lead is judged by the one of its destination.
    """

    window: SyncTolerance
    changes: tuple[Change, ...]
    before: tuple[AVOffset, ...]
    after: tuple[AVOffset, ...]
    remarks: tuple[str, ...]

    @property
    def strain(self) -> float:
        """The worst lead with the changes, as a share of what its window allows (above 1: outside)."""
        return max((r.strain for r in self.after), default=0.0)


class _Bound(Struct, frozen=True):
    """value + Σ per · (new − old) of controls ≤ limit · (strain, or 1)."""

    value: float
    terms: tuple[tuple[Slot, int], ...]
    limit: float
    strained: bool


def plan_sync(show: Show, per_cue: bool = False, every_camera: bool = False) -> SyncPlan:
    """Delays for what is on air in each cue (or for every camera); one value for all cues, or one for each cue."""
    views = [CueSolution(show, c.id) for c in show.cues] or [CueSolution(show, None)]
    before = [r for v in views for r in leads(v) if r.on_air or every_camera]
    own = {(c.id, control) for c in show.cues for control in c.controls}

    def slot(cue: str | None, control: str) -> Slot:
        return (cue, control) if per_cue or (cue, control) in own else (None, control)

    bounds = [*_lead_bounds(before, slot), *(b for v in views for b in _monitor_bounds(v, slot))]
    order = [None, *(c.id for c in show.cues)]
    slots = sorted({s for b in bounds for s, _ in b.terms}, key=lambda s: (order.index(s[0]), s[1]))
    changes = _solve(show, bounds, slots) if before and slots else ()
    after_show = apply(show, changes)
    again = [CueSolution(after_show, v.cue_id) for v in views]
    after = [r for v in again for r in leads(v) if r.on_air or every_camera]
    return SyncPlan(
        window_of(show),
        changes,
        tuple(worst(before)),
        tuple(worst(after)),
        tuple(_remarks(after_show, worst(after))),
    )


def _lead_bounds(rows: Sequence[AVOffset], slot: SlotOf) -> Iterator[_Bound]:
    seen = set()
    for row in rows:
        terms = tuple((slot(row.cue, c), n) for c, n in row.controls)
        if (row.lead_us, row.window, terms) not in seen:
            seen.add((row.lead_us, row.window, terms))
            yield _Bound(row.lead_ms, terms, row.window.early_ms, True)
            yield _Bound(-row.lead_ms, tuple((s, -n) for s, n in terms), row.window.late_ms, True)


def _monitor_bounds(view: CueSolution, slot: SlotOf) -> Iterator[_Bound]:
    """What players hear is not to get late: their own largest delay, or 20 ms, or what it is now."""
    for listener, sound in view.pairs():
        wish = view.show.wish(listener.id, sound.id, view.cue_id)
        most = wish.max_delay_ms if wish is not None else None
        if (most is None and listener.kind not in MONITORED) or not view.audible(listener, sound, HEARD_DB):
            continue
        path = view.strongest_path(listener.id, sound.id)
        if path is not None:
            used = list(sound_controls(view, path))
            now = path.delay_us / 1000
            terms = tuple((slot(view.cue_id, c), used.count(c)) for c in sorted(set(used)))
            if terms:
                yield _Bound(now, terms, max(now, most if most is not None else MONITOR_MS), False)


def _solve(show: Show, bounds: Sequence[_Bound], slots: Sequence[Slot]) -> tuple[Change, ...]:
    from scipy.optimize import Bounds, LinearConstraint, milp  # late: the window opens without it

    controls = [show.control(c) for _, c in slots]
    low = np.array([c.minimum or 0.0 for c in controls])
    step = np.array([c.step or 1.0 for c in controls])
    most = np.array([np.floor((_highest(c) - a) / s + 1e-9) for c, a, s in zip(controls, low, step, strict=True)])
    now = np.array([float(show.value(c, cue)) for cue, c in slots])
    many = len(slots)
    matrix, upper = np.zeros((len(bounds), many + 1)), np.zeros(len(bounds))
    for row, bound in enumerate(bounds):
        upper[row] = bound.limit - bound.value if not bound.strained else -bound.value
        matrix[row, many] = -bound.limit if bound.strained else 0.0
        for slot, per in bound.terms:
            at = slots.index(slot)
            matrix[row, at] += per * step[at]
            upper[row] -= per * (low[at] - now[at])
    limits = Bounds(np.zeros(many + 1), np.append(most, np.inf))
    whole = np.append(np.ones(many), 0.0)
    rules = LinearConstraint(matrix, -np.inf, upper)
    first = milp(np.append(np.zeros(many), 1.0), integrality=whole, bounds=limits, constraints=rules)
    if first.x is None:
        return ()
    held = LinearConstraint(np.append(np.zeros(many), 1.0), -np.inf, first.x[many] + 1e-6)
    last = np.array([show.device(c.partition("/")[0]).stage == "embedded" for _, c in slots])
    price = np.append(step * np.where(last, 1.0, 1.0 + ELSEWHERE), 0.0)
    second = milp(price, integrality=whole, bounds=limits, constraints=[rules, held])
    best = second if second.x is not None else first
    values = low + np.round(best.x[:many]) * step
    return tuple(
        Change(cue, c, show.value(c, cue), round(float(v), 6))
        for (cue, c), v, old in zip(slots, values, now, strict=True)
        if abs(v - old) > 1e-9
    )


def _highest(control: Control) -> float:
    return 10_000.0 if control.maximum is None else control.maximum


def _remarks(show: Show, rows: Sequence[AVOffset]) -> Iterator[str]:
    """What no control here can cure, and what must be measured before the answer is sure."""
    said_of: dict[tuple[str, bool], AVOffset] = {}
    for row in rows:
        if row.verdict == "outside":
            key = (row.camera, row.lead_ms > 0)
            if key not in said_of or abs(row.lead_ms) > abs(said_of[key].lead_ms):
                said_of[key] = row
    for (camera, early), row in said_of.items():
        device = show.device(camera)
        amount = f"{ms(abs(row.lead_ms))} ({frames_text(show, abs(row.lead_ms))})"
        name = the_device(show, device.id)
        room = any(n < 0 and float(show.value(c, row.cue)) < _highest(show.control(c)) for c, n in row.controls)
        if early and room:
            yield sentence(
                f"sound is still {amount} early with {name}, because one delay serves pictures that are not equally "
                "late: delay the faster picture, or set the delay in each cue."
            )
        elif early:
            yield sentence(f"sound is still {amount} early with {name}: nothing here can delay it more.")
        else:
            yield sentence(
                f"sound is {amount} late with {name}: its picture must be delayed, not the sound, and "
                "nothing here does that."
            )
    doubtful = [r for r in rows if r.verdict == "perhaps"]
    first = list(dict.fromkeys(d for r in doubtful for d, _, assumed in r.doubts[:2] if assumed))
    if first:
        names = group(the_device(show, d) for d in first)
        yield sentence(f"measure {names} first: the figures are only assumed, and could change the verdict.")


def frames_text(show: Show, value_ms: float) -> str:
    """Milliseconds as frames of the show: `5.0 frames`."""
    return frames_said(value_ms / frame_ms(show))


def setting_text(show: Show, control: Control, value_ms: float) -> str:
    """A delay in the unit that stands on the device: `200 ms`, `5 frames`, `9600 samples`."""
    if control.shown_in == "frames":
        return frames_said(round(float(Fraction(value_ms) / 1000 * Fraction(show.picture.rate))))
    if control.shown_in == "samples":
        return f"{number(value_ms * show.sample_rate_hz / 1000)} samples"
    return f"{number(value_ms, 0 if value_ms == round(value_ms) else 1)} ms"


def verdict_text(show: Show, row: AVOffset) -> str:
    """A lead in words: `sound 200 ± 20 ms (5 frames) early at the audience: outside R 37`."""
    way = "early" if row.lead_ms >= 0 else "late"
    verdict = {"inside": "inside", "perhaps": "perhaps outside", "outside": "outside"}[row.verdict]
    where = said(show.listener(row.destination))
    amount = f"{ms_within(abs(row.lead_ms), row.plus_minus_ms)} ({frames_text(show, abs(row.lead_ms))})"
    return f"sound {amount} {way} at {where}: {verdict} {row.window.name}"
