"""The uplink: what streams and calls send, against what was measured, with the ± of both carried.

A stream is to need no more than a part of what was measured, for a line is never as good as when it was looked at.
Rates of streams by picture size and of calls are what is usual, and count as assumed.
"""

import math
from fractions import Fraction

from msgspec import Struct

from kymaton.core.loadin.rates import said_rate
from kymaton.core.loadin.send_buffer import Piece, highest_rate, send
from kymaton.core.loadin.verdict import Fits, verdict
from kymaton.core.model import Figure, Show
from kymaton.core.words import number

SHARE = 0.7  # of what was measured; usual
BY_HEIGHT = ((720, Figure(value=2.25e6, plus_minus=0.25e6)), (1080, Figure(value=4.75e6, plus_minus=0.25e6)),
             (2160, Figure(value=15e6, plus_minus=5e6)))  # fmt: skip
FAST = 1.5  # times as much from 50 frames a second on
SOUND = Figure(value=192e3, plus_minus=64e3)
CALL = Figure(value=2e6, plus_minus=1e6)  # picture and sound of one call, sent


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
    fits = verdict(total, spread, allowed)
    told = {"does not fit": f"{asks}, and {part}.", "perhaps": f"{asks}; {part}: it may be too little."}
    return Uplink(tuple(needs), total, spread, there, allowed, fits, told.get(fits, f"{asks}; {part}."))


class FailOver(Struct, frozen=True):
    """What happens when the first line fails: nothing for `after_s`, then the second line.

    `stall_s` is how long viewers with so many seconds in store have nothing, infinite where the second line never
    catches up; `would_not` the highest rate with which nobody stalls.
    """

    second: float
    after_s: float
    store_s: float
    stall_s: float
    fits: Fits
    would_not: float
    sentence: str


LEAST_BIT_S = 1e5  # a stream that is none; chosen
SETTLED_S = 600.0  # a second line that has not caught up by then never does; chosen


def fail_over(show: Show, store_s: float) -> FailOver | None:
    """How the change to the second uplink behaves; None where there is none, or nothing goes up."""
    goals, uplink = show.goals, uplink_of(show)
    if goals.second_uplink_bit_per_s is None or not uplink.needs:
        return None
    rate, second = uplink.total, goals.second_uplink_bit_per_s
    pieces = [Piece(goals.fail_over_s, 0.0)] if goals.fail_over_s else []
    pieces.append(Piece(SETTLED_S, second))
    sent = send(rate, pieces, store_s)
    stall = sum(b - a for a, b in sent.stalls)
    never = bool(sent.stalls) and sent.stalls[-1][1] >= sum(p.seconds for p in pieces) - 1e-6
    fits = verdict(rate, uplink.plus_minus, SHARE * second)
    best = highest_rate(pieces, store_s)
    said = (
        f"The second line takes over after {number(goals.fail_over_s)} s with {said_rate(second)}, of which "
        f"{said_rate(SHARE * second)} are wise to use; {said_rate(rate)} go up. "
    )
    if never:
        lower = f"{said_rate(best)} would" if best > LEAST_BIT_S else "no rate comes through that gap"
        said += f"Viewers stall and do not catch up; {lower}."
    elif stall:
        said += f"Who has {number(store_s)} s in store has nothing for {number(stall)} s."
    else:
        said += f"Nobody with {number(store_s)} s in store notices."
    return FailOver(second, goals.fail_over_s, store_s, math.inf if never else stall, fits, best, said)
