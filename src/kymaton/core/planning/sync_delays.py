"""Which delay to enter where, so that sound and picture are together: a mixed-integer programme.

It minimises the largest strain of the window over all (destination, camera, sound), then the next largest, and so on;
then the delay that is added in all, where sound and picture meet before elsewhere (see `levelling`). What no control
moves does not hold the others back. Delay controls keep their range and step; monitors do not get later than they may,
and where that is what binds it is said.
"""

import math
from collections.abc import Callable, Iterator, Sequence
from fractions import Fraction
from functools import partial

from msgspec import Struct

from kymaton.core.edits.controls import Change, apply
from kymaton.core.model import Control, Show
from kymaton.core.model.tolerance import SyncTolerance
from kymaton.core.planning.levelling import Ceiling, Row, level
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


Terms = tuple[tuple[Slot, int], ...]  # how much the delays of controls move something


class _Monitor(Struct, frozen=True):
    """What somebody hears that must not get late: now + Σ per · (new − old) of controls ≤ most."""

    listener: str
    sound: str
    now_ms: float
    terms: Terms
    most_ms: float


def plan_sync(show: Show, per_cue: bool = False, every_camera: bool = False) -> SyncPlan:
    """Delays for what is on air in each cue (or for every camera); one value for all cues, or one for each cue."""
    views = [CueSolution(show, c.id) for c in show.cues] or [CueSolution(show, None)]
    before = [r for v in views for r in leads(v) if r.on_air or every_camera]

    def slot(cue: str | None, control: str) -> Slot:
        own = cue is not None and control in show.settings(cue)
        return (cue, control) if per_cue or own else (None, control)

    monitors = [m for v in views for m in _monitors(v, slot)]
    order = [None, *(c.id for c in show.cues)]
    found = {s for r in before for s, _ in _terms(r, slot)} | {s for m in monitors for s, _ in m.terms}
    slots = sorted(found, key=lambda s: (order.index(s[0]), s[1]))
    solve = partial(_solve, show, before, slots, slot)
    changes = solve(monitors) if before and slots else ()
    after_show = apply(show, changes)
    again = [CueSolution(after_show, v.cue_id) for v in views]
    after = [r for v in again for r in leads(v) if r.on_air or every_camera]
    remarks = list(_remarks(after_show, worst(after)))
    if monitors and any(r.verdict == "outside" for r in after):
        remarks += _held_by(show, monitors, changes, solve([]))
    return SyncPlan(window_of(show), changes, tuple(worst(before)), tuple(worst(after)), tuple(remarks))


def _terms(row: AVOffset, slot: SlotOf) -> Terms:
    return tuple((slot(row.cue, c), n) for c, n in row.controls)


def _monitors(view: CueSolution, slot: SlotOf) -> Iterator[_Monitor]:
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
                yield _Monitor(listener.id, sound.id, now, terms, max(now, most if most is not None else MONITOR_MS))


def _solve(
    show: Show, rows: Sequence[AVOffset], slots: Sequence[Slot], slot: SlotOf, monitors: Sequence[_Monitor]
) -> tuple[Change, ...]:
    controls = [show.control(c) for _, c in slots]
    low = [c.minimum or 0.0 for c in controls]
    step = [c.step or 1.0 for c in controls]
    most = [float(math.floor((_highest(c) - a) / s + 1e-9)) for c, a, s in zip(controls, low, step, strict=True)]
    now = [float(show.value(c, cue)) for cue, c in slots]

    def moved(terms: Terms) -> tuple[float, tuple[float, ...]]:
        """By how much the lowest values move it, and each step."""
        per = [0.0] * len(slots)
        for at, times in terms:
            per[slots.index(at)] += times
        shift = sum(p * (a - b) for p, a, b in zip(per, low, now, strict=True))
        return shift, tuple(p * s for p, s in zip(per, step, strict=True))

    ends: dict[tuple[Terms, SyncTolerance], list[float]] = {}
    for row in rows:  # of those that move alike the first and the last: the others lie between
        ends.setdefault((_terms(row, slot), row.window), []).append(row.lead_ms)
    levelled = []
    for (terms, window), leads_ms in ends.items():
        shift, moves = moved(terms)
        for lead_ms in {min(leads_ms), max(leads_ms)}:
            levelled.append(Row(lead_ms + shift, moves, window.early_ms, window.late_ms))
    ceilings = []
    for monitor in monitors:
        shift, moves = moved(monitor.terms)
        ceilings.append(Ceiling(monitor.now_ms + shift, moves, monitor.most_ms))
    embedded = [show.device(c.partition("/")[0]).stage == "embedded" for _, c in slots]
    price = [s * (1.0 if e else 1.0 + ELSEWHERE) for s, e in zip(step, embedded, strict=True)]
    steps = level(levelled, ceilings, most, price)
    if steps is None:
        return ()
    values = [a + float(x) * s for a, x, s in zip(low, steps, step, strict=True)]
    return tuple(
        Change(cue, c, show.value(c, cue), round(v, 6))
        for (cue, c), v, old in zip(slots, values, now, strict=True)
        if abs(v - old) > 1e-9
    )


def _held_by(
    show: Show, monitors: Sequence[_Monitor], changes: Sequence[Change], freely: Sequence[Change]
) -> Iterator[str]:
    """What would have been entered if nobody's monitors were in the way, and whose these are."""
    wanted = {(c.cue, c.control): float(c.after) - float(c.before) for c in freely}
    entered = {(c.cue, c.control): float(c.after) for c in changes}
    held: dict[str, list[_Monitor]] = {}
    for monitor in monitors:
        late_ms = monitor.now_ms + sum(wanted.get(at, 0.0) * times for at, times in monitor.terms)
        for at, times in monitor.terms:
            if times > 0 and late_ms > monitor.most_ms + 1e-6 and wanted.get(at):
                held.setdefault(at[1], []).append(monitor)
    for change in freely:
        if change.control in held:
            first = held[change.control][0]
            control = show.control(change.control)
            now = entered.get((change.cue, change.control), float(change.before))
            more = setting_text(show, control, float(change.after))
            who, what = said(show.listener(first.listener)), said(show.sound(first.sound))
            yield sentence(
                f"{control.name} stays at {setting_text(show, control, now)} where {more} would cure more: {who} hears "
                f"{what} by it, within {ms(first.most_ms)} at most."
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
