"""The send buffer of an encoder whose uplink varies: how full it gets, when viewers stall, which rate would not have.

The encoder makes `rate` bits a second; the line takes what it can, in pieces of constant rate. What is not sent waits,
first in, first out: with B bits waiting, what is sent now was made B / rate ago, as all made since is waiting.
A viewer with so many seconds in store stalls once it is older than that. All exact: the buffer is straight in pieces.
"""

import itertools
from collections.abc import Sequence

from msgspec import Struct


class Piece(Struct, frozen=True):
    """The uplink for a while: seconds, and bits a second."""

    seconds: float
    bit_per_s: float


class Moment(Struct, frozen=True):
    """The buffer at a time: seconds from the beginning, bits that wait, and how old the oldest of them is."""

    at_s: float
    waiting_bits: float
    behind_s: float


class Sent(Struct, frozen=True):
    """What became of it. `curve` has the corners of the buffer; `stalls` the spells in which viewers have nothing."""

    curve: tuple[Moment, ...]
    fullest: Moment
    stalls: tuple[tuple[float, float], ...]


def send(rate_bit_per_s: float, uplink: Sequence[Piece], store_s: float) -> Sent:
    """Send a stream of this rate over an uplink, to viewers with so many seconds in store. Raises ValueError."""
    if rate_bit_per_s <= 0 or store_s < 0 or any(p.seconds <= 0 or p.bit_per_s < 0 for p in uplink):
        raise ValueError("rates and times are above 0")
    at, waiting = 0.0, 0.0
    corners = [(at, waiting)]
    for piece in uplink:
        grows = rate_bit_per_s - piece.bit_per_s
        left = piece.seconds
        if grows < 0 < waiting:
            empties = waiting / -grows
            if empties < left:
                at, waiting, left = at + empties, 0.0, left - empties
                corners.append((at, waiting))
        at, waiting = at + left, max(0.0, waiting + grows * left)
        corners.append((at, waiting))
    curve = tuple(Moment(t, b, b / rate_bit_per_s) for t, b in corners)
    return Sent(curve, max(curve, key=lambda m: m.waiting_bits), tuple(_stalls(curve, store_s)))


def _stalls(curve: Sequence[Moment], store_s: float) -> list[tuple[float, float]]:
    """Spells in which what is sent is older than what is in store."""
    spells: list[tuple[float, float]] = []
    for a, b in itertools.pairwise(curve):
        low, high = a.behind_s, b.behind_s
        if max(low, high) <= store_s or a.at_s == b.at_s:
            continue
        slope = (high - low) / (b.at_s - a.at_s)
        start = a.at_s if low > store_s else a.at_s + (store_s - low) / slope
        end = b.at_s if high > store_s else a.at_s + (store_s - low) / slope
        if spells and start <= spells[-1][1] + 1e-9:
            spells[-1] = (spells[-1][0], end)
        else:
            spells.append((start, end))
    return spells


def highest_rate(uplink: Sequence[Piece], store_s: float) -> float:
    """The highest rate at which no viewer would have stalled, in bit/s, to a thousandth of it.

    The higher the rate, the later everything: found by halving.
    """
    low, high = 0.0, max((p.bit_per_s for p in uplink), default=0.0) * 2 + 1.0
    for _ in range(60):
        middle = (low + high) / 2
        if send(middle, uplink, store_s).stalls:
            high = middle
        else:
            low = middle
        if high - low < 1e-3 * max(low, 1.0):
            break
    return low
