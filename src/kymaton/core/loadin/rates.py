"""Data rates as people say them, bits and bytes never confused: 8 megabytes a second are 64 megabits."""

import re

from kymaton.core.errors import ShowError
from kymaton.core.words import number

PREFIXES = {"": 1.0, "k": 1e3, "m": 1e6, "g": 1e9}
WORDS = {"kilo": "k", "mega": "m", "giga": "g"}
SAID = re.compile(
    r"^(\d+(?:[.,]\d+)?)\s*(kilo|mega|giga|[kmg])?\s*(bits?|bytes?|b|B)?\s*(?:/\s*s|ps|\s+(?:a|per)\s+second)?$"
)


def bits_per_s(text: str) -> tuple[float, str]:
    """A rate in bit/s, and what is to be said of it where bytes were written. Raises ShowError.

    `20 Mbit/s`, `20 Mb/s`, `2.5 MB/s` (bytes), `8 megabytes a second`.
    """
    match = SAID.match(
        text.strip().replace("MBit", "Mbit").replace("M", "m", 1).replace("K", "k", 1).replace("G", "g", 1)
    )
    if match is None or match[3] is None:
        raise ShowError(f"'{text.strip()}' is no rate: say 20 Mbit/s, or 2.5 MB/s where it is bytes.")
    value = float(match[1].replace(",", "."))
    prefix = WORDS.get(match[2] or "", match[2] or "")
    is_bytes = match[3] in ("B", "byte", "bytes")
    found = value * PREFIXES[prefix] * (8 if is_bytes else 1)
    if not 0 < found < 1e13:
        raise ShowError(f"'{text.strip()}' is no rate that a line has.")
    told = f"{match[1]} {prefix.upper() if prefix != 'k' else prefix}B/s are {said_rate(found)}" if is_bytes else ""
    return found, told


def said_rate(bit_per_s: float) -> str:
    """`4.5 Mbit/s`, `128 kbit/s`."""
    for size, unit in ((1e9, "Gbit/s"), (1e6, "Mbit/s"), (1e3, "kbit/s")):
        if bit_per_s >= size:
            value = bit_per_s / size
            return f"{number(value, 0 if value >= 100 or value == int(value) else 1)} {unit}"
    return f"{number(bit_per_s)} bit/s"
