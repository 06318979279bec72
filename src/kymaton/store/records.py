"""Records as plain values and back: what a file holds, with its unknown keys held aside."""

import json
from functools import cache
from typing import Any, TypeGuard, TypeVar, get_args, get_origin, get_type_hints

import msgspec

from kymaton.core.model.figure import Figure
from kymaton.core.model.record import HELD_ASIDE, Misfit, Record, checked

R = TypeVar("R", bound=Record)


def record_of(kind: type[R], content: object) -> R:
    """The record in plain values. Raises Misfit with the place and the reason."""
    try:
        return checked(kind, content)
    except Misfit:  # perhaps only for keys that are not known, and for figures that are plain numbers
        return checked(kind, _aside(kind, content))


def plain(record: Record) -> dict[str, Any]:
    """A record as plain values: what is at its default is left out, keys that were held aside come back."""
    content = {
        name: _plain(value, real)
        for name, default, real in _written(type(record))
        if (value := getattr(record, name)) != default
    }
    return {**content, **json.loads(record.unknown)} if record.unknown else content


def _plain(value: object, real: bool) -> object:
    if isinstance(value, Record):
        return plain(value)
    if isinstance(value, tuple):
        return [_plain(item, real) for item in value]
    if isinstance(value, dict):
        return {key: _plain(item, real) for key, item in value.items()}
    return float(value) if real and _is_number(value) else value


def _aside(kind: type[Record], content: object) -> object:
    """The content with the keys that the record does not know moved into its field `unknown`."""
    if not isinstance(content, dict):
        return {"value": content} if kind is Figure and _is_number(content) else content
    names, inner, maps = _shape(kind)
    known = {k: _inside(inner[k], v, k in maps) if k in inner else v for k, v in content.items() if k in names}
    if len(known) < len(content):
        rest = {k: v for k, v in content.items() if k not in names}
        known[HELD_ASIDE] = json.dumps(rest, ensure_ascii=False)
    return known


def _inside(kind: type[Record], value: object, is_map: bool) -> object:
    if is_map and isinstance(value, dict):
        return {key: _aside(kind, item) for key, item in value.items()}
    return [_aside(kind, item) for item in value] if isinstance(value, list) else _aside(kind, value)


def _is_number(value: object) -> TypeGuard[int | float]:
    return isinstance(value, int | float) and not isinstance(value, bool)


@cache
def _written(kind: type[Record]) -> tuple[tuple[str, object, bool], ...]:
    """For each field its name, its default, and whether its numbers are written as real ones (3.0, not 3)."""
    hints = get_type_hints(kind)
    return tuple(
        (field.name, {} if field.default_factory is dict else field.default, _holds_reals(hints[field.name]))
        for field in msgspec.structs.fields(kind)
        if field.name != "unknown"
    )


def _holds_reals(hint: object) -> bool:
    return hint is float or any(_holds_reals(arg) for arg in get_args(hint))


@cache
def _shape(kind: type[Record]) -> tuple[frozenset[str], dict[str, type[Record]], frozenset[str]]:
    """Names of the fields, the records that are in them, alone or in a list; and those that hold them by a key."""
    hints = get_type_hints(kind)
    inner = {name: found for name, hint in hints.items() if (found := _record_in(hint)) is not None}
    maps = frozenset(name for name in inner if get_origin(hints[name]) is dict)
    return frozenset(hints) - {"unknown"}, inner, maps


def _record_in(hint: object) -> type[Record] | None:
    if isinstance(hint, type) and issubclass(hint, Record):
        return hint
    return next((found for arg in get_args(hint) if (found := _record_in(arg)) is not None), None)
