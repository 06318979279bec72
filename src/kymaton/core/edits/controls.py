"""Edits: each takes a Show and gives a new one."""

from collections.abc import Iterable

from msgspec import Struct

from kymaton.core.model.device import Control, Value
from kymaton.core.model.show import Show, value_problem
from kymaton.core.model.wish import Want, Wish


class Change(Struct, frozen=True):
    """One control set from one value to another, in a cue or (None) in the base state."""

    cue: str | None
    control: str
    before: Value
    after: Value
    why: str = ""


def apply(show: Show, changes: Iterable[Change]) -> Show:
    """The show with these control changes. Raises ValueError for a value that the control cannot take."""
    by_cue: dict[str | None, dict[str, Value]] = {}
    for change in changes:
        problem = value_problem(show.control(change.control), change.after)
        if problem:
            raise ValueError(f"{change.control}: {problem}")
        by_cue.setdefault(change.cue, {})[change.control] = change.after
    base = by_cue.pop(None, {})
    devices = show.devices
    if base:
        owners = {id.partition("/")[0] for id in base}
        devices = tuple(
            d.evolve(controls=tuple(_set(c, base) for c in d.controls)) if d.id in owners else d for d in devices
        )
    cues = tuple(c.evolve(controls={**c.controls, **by_cue[c.id]}) if c.id in by_cue else c for c in show.cues)
    return show.evolve(devices=devices, cues=cues)


def _set(control: Control, values: dict[str, Value]) -> Control:
    return control.evolve(value=values[control.id]) if control.id in values else control


def clear_want(show: Show, listener: str, sound: str, cue: str | None) -> Show:
    """The show with nothing decided for a cue (None: for any): the default holds again."""
    plan: list[Wish] = []
    for line in show.plan:
        if (line.listener, line.sound) != (listener, sound) or (not line.cues and cue is not None):
            plan.append(line)
            continue
        remaining = tuple(c for c in line.cues if c != cue)
        if remaining and cue is not None:
            plan.append(line.evolve(cues=remaining))
    return show.evolve(plan=tuple(plan))


def set_want(show: Show, listener: str, sound: str, cue: str | None, want: Want) -> Show:
    """The show with a wish for one cue (None: all cues); the largest delay of the earlier wish is kept."""
    old = show.wish(listener, sound, cue)
    wish = Wish(
        listener=listener,
        sound=sound,
        want=want,
        cues=() if cue is None else (cue,),
        max_delay_ms=old.max_delay_ms if old else None,
    )
    return show.evolve(plan=(*clear_want(show, listener, sound, cue).plan, wish))
