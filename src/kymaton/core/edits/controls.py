"""Edits of controls: each takes a Show and gives a new one."""

from collections.abc import Iterable

from msgspec import Struct

from kymaton.core.model.cues import Variant
from kymaton.core.model.device import Control, Value
from kymaton.core.model.show import Show, value_problem


class Change(Struct, frozen=True):
    """One control set from one value to another, in a cue or (None) in the base state; of the rig or of a variant."""

    cue: str | None
    control: str
    before: Value
    after: Value
    why: str = ""
    variant: str | None = None


def apply(show: Show, changes: Iterable[Change]) -> Show:
    """The show with these control changes. Raises ValueError for a value that the control cannot take."""
    by_cue: dict[str | None, dict[str, Value]] = {}
    by_variant: dict[str, list[Change]] = {}
    for change in changes:
        if change.variant is not None:
            by_variant.setdefault(change.variant, []).append(change)
            continue
        problem = value_problem(show.control(change.control), change.after)
        if problem:
            raise ValueError(f"{show.control(change.control).name}: {problem}")
        by_cue.setdefault(change.cue, {})[change.control] = change.after
    base = by_cue.pop(None, {})
    devices = show.devices
    if base:
        owners = {id.partition("/")[0] for id in base}
        devices = tuple(
            d.evolve(controls=tuple(_set(c, base) for c in d.controls)) if d.id in owners else d for d in devices
        )
    cues = tuple(c.evolve(controls={**c.controls, **by_cue[c.id]}) if c.id in by_cue else c for c in show.cues)
    variants = tuple(_varied(v, by_variant[v.id]) if v.id in by_variant else v for v in show.variants)
    return show.evolve(devices=devices, cues=cues, variants=variants)


def _varied(variant: Variant, changes: Iterable[Change]) -> Variant:
    """A variant with settings of its own changed; the values are looked at when the show is."""
    for change in changes:
        set_to = {change.control: change.after}
        if change.cue is None:
            variant = variant.evolve(controls={**variant.controls, **set_to})
        else:
            there = {**variant.in_cues.get(change.cue, {}), **set_to}
            variant = variant.evolve(in_cues={**variant.in_cues, change.cue: there})
    return variant


def _set(control: Control, values: dict[str, Value]) -> Control:
    return control.evolve(value=values[control.id]) if control.id in values else control
