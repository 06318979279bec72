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
from kymaton.core.model import Device, Figure, Picture, Port, Show
from kymaton.core.model.figure import SOURCES
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


def usual_rate(picture: Picture) -> Figure:
    """What a stream of such a picture usually needs, sound included; bit/s."""
    usual = next((f for height, f in BY_HEIGHT if picture.height <= height), BY_HEIGHT[-1][1])
    factor = FAST if Fraction(picture.rate) >= 50 else 1.0
    plus_minus = math.hypot(factor * usual.plus_minus, SOUND.plus_minus)
    return Figure(value=factor * usual.value + SOUND.value, plus_minus=plus_minus)


def _said(device: Device) -> Figure | None:
    """The rate that was said of a device, in bit/s."""
    rate = device.loads.get("sends_mbit_s")
    return None if rate is None else rate.evolve(value=1e6 * rate.value, plus_minus=1e6 * rate.plus_minus)


def rate_from(show: Show, device: Device) -> Figure:
    """What a device sends of one stream: what was said of it, or what is usual for the picture; bit/s."""
    return _said(device) or usual_rate(show.picture)


def call_rate(call: Device) -> Figure:
    """What goes up for one call: what was said of it, or what is usual; bit/s."""
    return _said(call) or CALL


def is_stream(port: Port) -> bool:
    """Whether an output into a network is that of an encoder."""
    return "stream" in (port.id, port.name)


def _senders(show: Show, device: Device, passed: tuple[str, ...] = ()) -> dict[str, Device]:
    """The outputs that send to a platform, each once and with its device; what stands behind a router by itself."""
    found: dict[str, Device] = {}
    for cable in show.cables:
        if cable.plugged and cable.target.partition("/")[0] == device.id and cable.source in show.ports:
            sender, port = show.ports[cable.source]
            if sender.kind == "router":
                behind = {} if sender.id in passed else _senders(show, sender, (*passed, sender.id))
                found |= behind or ({} if passed else {cable.source: sender})
            elif not passed or is_stream(port):
                found[cable.source] = sender
    return found


def _ways_into(show: Show, stream: Device) -> list[Figure]:
    """The rate of each way into a platform: what was said of the platform, or of what sends to it."""
    return [_said(stream) or rate_from(show, sender) for sender in _senders(show, stream).values()]


def stream_rate(show: Show) -> Figure:
    """The rate of the stream that needs most, or what is usual for the picture where none goes up; bit/s."""
    ways = [rate for d in show.devices if d.kind == "stream" for rate in _ways_into(show, d)]
    return max(ways, key=lambda rate: rate.value, default=usual_rate(show.picture))


def needs_of(show: Show) -> list[Need]:
    """One for each way into a platform, and for each call that somebody here is in."""
    found = []
    for device in show.devices:
        if device.kind == "stream":
            ways = _ways_into(show, device)
            many = "" if len(ways) < 2 else f" ({len(ways)} times)"
            if ways:
                least = min(ways, key=lambda w: SOURCES.index(w.source))  # the sum is no surer than it
                rate = least.evolve(value=sum(w.value for w in ways), plus_minus=sum(w.plus_minus for w in ways))
                found.append(Need(f"stream to {device.name}{many}", rate))
        elif device.kind == "call" and any(c.target == f"{device.id}/from-studio" for c in show.cables):
            found.append(Need(f"call {device.name}", call_rate(device)))
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
