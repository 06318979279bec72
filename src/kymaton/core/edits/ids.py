"""Ids that are free, and whose a port is."""

import re
from collections.abc import Iterable

RESERVED = ("sound", "listener")


def free_id(wanted: str, taken: Iterable[str]) -> str:
    """An id made of these words that is not taken yet: `table-mic`, `table-mic-2`."""
    base = re.sub(r"[^a-z0-9]+", "-", wanted.lower()).strip("-")[:60] or "thing"
    used = {*taken, *RESERVED}
    if base not in used:
        return base
    number = 2
    while f"{base}-{number}" in used:
        number += 1
    return f"{base}-{number}"


def owner(port: str) -> str:
    """The device of a port: what stands before the slash."""
    return port.partition("/")[0]
