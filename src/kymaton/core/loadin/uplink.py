"""The uplink: what streams and calls send, against what was measured, with the ± of both carried.

A stream is to need no more than a part of what was measured, for a line is never as good as when it was looked at.
Rates of streams by picture size and of calls are what is usual, and count as assumed.
"""

import math
from fractions import Fraction
from typing import Literal

from msgspec import Struct

from kymaton.core.loadin.rates import said_rate
from kymaton.core.model import Figure, Show
from kymaton.core.words import number

SHARE = 0.7  # of what was measured; usual
BY_HEIGHT = ((720, Figure(value=2.25e6, plus_minus=0.25e6)), (1080, Figure(value=4.75e6, plus_minus=0.25e6)),
             (2160, Figure(value=15e6, plus_minus=5e6)))  # fmt: skip
FAST = 1.5  # times as much from 50 frames a second on
SOUND = Figure(value=192e3, plus_minus=64e3)
CALL = Figure(value=2e6, plus_minus=1e6)  # picture and sound of one call, sent
Fits = Literal["fits", "perhaps", "does not fit", "not known"]


class Need(Struct, frozen=True):
    """What goes up, and how much of it: bit/s with ±."""

    what: str
    rate: Figure


class Uplink(Struct, frozen=True):
    """All that goes up against what is `there` as measured, of which a part is `allowed`; in bit/s."""

    needs: tuple[Need, ...]
    total: float
    plus_minus: float
    there: float | None
    allowed: float | None
    fits: Fits
    sentence: str


def stream_rate(show: Show) -> Figure:
    """What a stream in the show's picture format usually needs, sound included."""
    picture = next((f for height, f in BY_HEIGHT if show.picture.height <= height), BY_HEIGHT[-1][1])
    factor = FAST if Fraction(show.picture.rate) >= 50 else 1.0
    plus_minus = math.hypot(factor * picture.plus_minus, SOUND.plus_minus)
    return Figure(value=factor * picture.value + SOUND.value, plus_minus=plus_minus)


def needs_of(show: Show) -> list[Need]:
    """One for each way into a platform, and for each call that somebody here is in."""
    found = []
    for device in show.devices:
        if device.kind == "stream":
            leads = [c for c in show.cables if c.target.partition("/")[0] == device.id and c.plugged]
            many = "" if len(leads) < 2 else f" ({len(leads)} times)"
            if leads:
                one = stream_rate(show)
                rate = Figure(value=len(leads) * one.value, plus_minus=len(leads) * one.plus_minus)
                found.append(Need(f"stream to {device.name}{many}", rate))
        elif device.kind == "call" and any(c.target == f"{device.id}/from-studio" for c in show.cables):
            found.append(Need(f"call {device.name}", CALL))
    return found


def uplink_of(show: Show) -> Uplink:
    """The budget of the uplink of a show."""
    needs = needs_of(show)
    total = sum(n.rate.value for n in needs)
    spread = math.sqrt(sum(n.rate.plus_minus**2 for n in needs))
    there = show.goals.uplink_bit_per_s
    allowed = None if there is None else SHARE * there
    if not needs:
        return Uplink((), 0.0, 0.0, there, allowed, "fits", "Nothing goes up.")
    asks = f"{said_rate(total)} ± {said_rate(spread)} go up"
    if there is None or allowed is None:
        said = f"{asks}. What the line has is not known: measure it there, at that time of day."
        return Uplink(tuple(needs), total, spread, None, None, "not known", said)
    part = f"{number(100 * SHARE)} % of the {said_rate(there)} that were measured are {said_rate(allowed)}"
    if total - spread > allowed:
        return Uplink(tuple(needs), total, spread, there, allowed, "does not fit", f"{asks}, and {part}.")
    if total + spread > allowed:
        return Uplink(tuple(needs), total, spread, there, allowed, "perhaps", f"{asks}; {part}: it may be too little.")
    return Uplink(tuple(needs), total, spread, there, allowed, "fits", f"{asks}; {part}.")
