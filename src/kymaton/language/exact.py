"""What has no words of its own, said exactly: `exactly PLACE = JSON`.

A place is a pointer as in RFC 6901, with ids for what stands in lists: `exactly sounds/ada/level = 64`, and `exactly
devices/- = {…}` for one more.
"""

import json
from collections.abc import Iterable
from typing import Any

import msgspec

from kymaton.core.model import Show, ShowError
from kymaton.core.model.record import checked
from kymaton.core.model.show import validated

EXACTLY = "exactly "


def with_exact(show: Show, lines: Iterable[str]) -> Show:
    """The show with fields set exactly, each by a line `exactly PLACE = JSON`. Raises ShowError."""
    content = as_plain(show)
    for line in lines:
        place, equals, value = line.strip().removeprefix(EXACTLY).partition(" = ")
        if not equals:
            raise ShowError("Say: exactly, a place like sounds/ada/level, =, and a value.")
        try:
            way = [step.replace("~1", "/").replace("~0", "~") for step in place.strip().split("/")]
            _put(content, way, json.loads(value, parse_constant=_no_number))
        except (ValueError, LookupError, TypeError, RecursionError):
            raise ShowError(f"'{place.strip()}' is no place in this show, or '{value}' no value.") from None
    return validated(checked(Show, content))


def _no_number(text: str) -> None:
    raise ValueError(text)


def as_plain(record: Any) -> Any:
    """A record as groups and lists, which can be changed."""
    return _lists(msgspec.to_builtins(record))


def _lists(value: Any) -> Any:
    if isinstance(value, dict):
        return {k: _lists(v) for k, v in value.items()}
    return [_lists(v) for v in value] if isinstance(value, list | tuple) else value


def _put(content: Any, way: list[str], value: Any) -> None:
    for step in way[:-1]:
        content = content[_key(content, step)]
    if way[-1] == "-":
        content.append(value)
    else:
        content[_key(content, way[-1])] = value


def _key(content: Any, step: str) -> Any:
    """What a step means: a key of a group, or the item of a list with this id, or with this number from 0."""
    if isinstance(content, dict):
        return step
    ids = [item.get("id") if isinstance(item, dict) else None for item in content]
    return ids.index(step) if step in ids else int(step)
