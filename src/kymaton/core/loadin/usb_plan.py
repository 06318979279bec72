"""Which device into which USB socket: the fewest moves with which all fits, or the format that makes it fit.

A mixed-integer programme solved to the end [1]: each device at one socket of its computer, of a hub or a dock there,
in one of the formats that it can give; no bus over what it has, no socket over its current, one plug a socket.

1. `scipy.optimize.milp`; Huangfu and Hall, Math. Prog. Comp. 10 (2018).
"""

import itertools
from fractions import Fraction

import numpy as np
from msgspec import Struct

from kymaton.core.edits.cables import connect, disconnect
from kymaton.core.edits.controls import Change, apply
from kymaton.core.formats import read_format
from kymaton.core.loadin.usb import (
    HIGH_SPEED,
    HUB_MA,
    HUBS,
    SOCKET_MA,
    Box,
    Tree,
    bus_of,
    capacity_mb_s,
    compression,
    is_powered,
    need_mb_s,
    picture_of,
    rate_mbit_s,
    socket_of,
    sockets_of,
    tree_of,
    ups,
)
from kymaton.core.model import Cable, Device, Picture, Show
from kymaton.core.silence import silence
from kymaton.core.words import the_device

# a plug is moved in seconds; another lead has to be there; a format costs picture, a smaller one more of it
MOVE, LEAD, FORMAT, SMALLER = 1.0, 1.1, 1.5, 2.0
SMALL = "720p30"
SLOW_LEAD, FAST_LEAD = "USB 2", "USB 3"
KNOWN = 0.01  # how much dearer a socket is by which the computer does not know the device yet


class Seat(Struct, frozen=True):
    """A socket of a computer, hub or dock."""

    parent: str
    socket: str


class Move(Struct, frozen=True):
    """A device to another socket, to another format or a smaller picture (empty: as it is), by a faster lead."""

    box: str
    parent: str
    socket: str
    how: str = ""
    new_lead: bool = False
    picture: str = ""


class Plan(Struct, frozen=True):
    """Moves with which all of USB at a computer fits surely; none where it cannot."""

    host: str
    moves: tuple[Move, ...]
    possible: bool


class _Choice(Struct, frozen=True):
    box: Box
    seat: Seat
    how: str
    new_lead: bool
    picture: str
    cost: float
    need: float  # at its worst, MB/s
    usb2: bool


def seats_of(show: Show, tree: Tree, host: str) -> list[Seat]:
    """Sockets of a computer and of what hangs on it, without those that hubs take."""
    parents = [host, *(hub for hub in tree.above if _host(tree, hub) == host)]
    taken = {(parent, socket) for parent, socket in tree.above.values()}
    seats = [Seat(p, s) for p in parents for s in sockets_of(show.device(p)) if (p, s) not in taken]
    for box in tree.boxes:  # programs have no sockets of their own: what is chosen there stays
        seat = Seat(box.parent, box.socket)
        if box.parent in parents and seat not in seats:
            seats.append(seat)
    return seats


def _host(tree: Tree, at: str) -> str:
    return list(ups(tree.above, at, ""))[-1][0]


def plan_for(show: Show, host: str, tree: Tree | None = None) -> Plan:
    """The fewest changes after which USB of a computer fits."""
    tree = tree or tree_of(show)
    boxes = [b for b in tree.boxes if _host(tree, b.parent) == host]
    seats = seats_of(show, tree, host)
    choices = [c for b in boxes for c in _choices(show, tree, b, seats)]
    solved = _solve(show, tree, host, boxes, seats, choices)
    if solved is None:
        return Plan(host, (), False)
    moves = tuple(
        Move(c.box.id, c.seat.parent, c.seat.socket, c.how, c.new_lead, c.picture) for c in solved if c.cost > 0
    )
    return Plan(host, moves, True)


def needed_plans(show: Show) -> list[Plan]:
    """A plan for every computer whose USB does not fit surely, possible or not."""
    tree = tree_of(show)
    crowded = {b for link in tree.links if link.fits != "fits" for b in link.boxes}
    crowded |= {b for power in tree.powers if power.fits != "fits" for b in power.boxes}
    hosts = {_host(tree, b.parent) for b in tree.boxes if b.id in crowded}
    return [plan_for(show, host, tree) for host in sorted(hosts)]


def _choices(show: Show, tree: Tree, box: Box, seats: list[Seat]) -> list[_Choice]:
    """What a box can do: any socket, in any format that it can be set to, by its own lead or by a USB 3 lead."""
    device, lead = show.device(box.id), show.cable(box.cable)
    control = next((c for c in device.controls if c.id == f"{box.id}/usb-format"), None)
    now = compression(show, device)
    found = []
    host = _host(tree, box.parent)
    known = socket_of(way_in(show, lead)[-1].target.partition("/")[2])
    is_slow = rate_mbit_s(device) == HIGH_SPEED
    pictures = smaller_pictures(show, device)
    leads = (False, True) if lead.kind == SLOW_LEAD and not is_slow else (False,)
    for seat, new_lead in itertools.product(seats, leads):
        slow_hub = any(
            show.device(p).kind in HUBS and rate_mbit_s(show.device(p)) == HIGH_SPEED
            for p, _ in ups(tree.above, seat.parent, seat.socket)
        )
        slow = is_slow or slow_hub or (lead.kind == SLOW_LEAD and not new_lead)
        moved = (seat.parent, seat.socket) != (box.parent, box.socket)
        for how in control.choices if control is not None else (now,):
            for picture in pictures:
                smaller = read_format(picture) if picture else None
                need = box.need if how == now and not picture else need_mb_s(show, device, how, smaller)
                elsewhere = moved and seat.socket != known and seat.parent == host
                cost = MOVE * moved + FORMAT * (how != now) + KNOWN * elsewhere + LEAD * new_lead
                cost += SMALLER * bool(picture)
                most = need.value + need.plus_minus
                found.append(_Choice(box, seat, how if how != now else "", new_lead, picture, cost, most, slow))
    return found


def smaller_pictures(show: Show, device: Device) -> tuple[str, ...]:
    """The picture format as it is (empty), and a smaller one that the device can be set to, where there is one."""
    port = next((p for p in device.ports if p.signal == "usb" and p.picture and p.format_control), None)
    if port is None or port.format_control is None or SMALL not in show.control(port.format_control).choices:
        return ("",)
    now, small = picture_of(show, device, port), read_format(SMALL)
    return ("", SMALL) if now.height > small.height or frame_rate(now) > frame_rate(small) else ("",)


def frame_rate(picture: Picture) -> Fraction:
    """Frames a second, exactly."""
    return Fraction(picture.rate)


def _solve(
    show: Show, tree: Tree, host: str, boxes: list[Box], seats: list[Seat], choices: list[_Choice]
) -> list[_Choice] | None:
    from scipy.optimize import Bounds, LinearConstraint, milp  # late: it takes a while to load

    if not boxes:
        return []
    rows: list[dict[int, float]] = []
    low: list[float] = []
    high: list[float] = []

    def add(row: dict[int, float], at_least: float, at_most: float) -> None:
        rows.append(row)
        low.append(at_least)
        high.append(at_most)

    for box in boxes:
        add({i: 1.0 for i, c in enumerate(choices) if c.box.id == box.id}, 1.0, 1.0)
    for seat in seats:
        add({i: 1.0 for i, c in enumerate(choices) if c.seat == seat}, 0.0, 1.0)
    buses: dict[tuple[str, bool], dict[int, float]] = {}
    current: dict[Seat, dict[int, float]] = {}
    for i, choice in enumerate(choices):
        way = list(ups(tree.above, choice.seat.parent, choice.seat.socket))
        buses.setdefault((bus_of(show, host, way[-1][1]), choice.usb2), {})[i] = choice.need
        for parent, socket in way:
            worst_ma = choice.box.current_ma.value + choice.box.current_ma.plus_minus
            current.setdefault(Seat(parent, socket), {})[i] = worst_ma
            if show.device(parent).kind in HUBS and is_powered(show.device(parent)):
                break
    for (_, usb2), row in buses.items():
        add(row, 0.0, capacity_mb_s(show, host, usb2))
    for seat, row in current.items():
        device = show.device(seat.parent)
        if device.kind in HUBS and not is_powered(device):
            continue
        hubs = sum(not is_powered(show.device(h)) for h, at in tree.above.items() if at == (seat.parent, seat.socket))
        usb2 = device.kind in HUBS and rate_mbit_s(device) == HIGH_SPEED
        add(row, 0.0, SOCKET_MA[HIGH_SPEED if usb2 else 5000.0] - HUB_MA * hubs)
    matrix = np.zeros((len(rows), len(choices)))
    for at, row in enumerate(rows):
        for column, value in row.items():
            matrix[at, column] = value
    with silence():
        found = milp(
            np.array([c.cost for c in choices]), constraints=LinearConstraint(matrix, low, high),
            integrality=np.ones(len(choices)), bounds=Bounds(0, 1),
        )  # fmt: skip
    if found.x is None:
        return None
    return [c for c, x in zip(choices, found.x, strict=True) if x > 0.5]


def told(show: Show, plan: Plan) -> str:
    """A plan in words: `Put webcam 3 into USB 2 of the laptop; set the capture to compressed.`"""
    if not plan.possible:
        return "No way of plugging makes it fit: take a second computer, or fewer or smaller pictures."
    tree = tree_of(show)
    now = {b.id: (b.parent, b.socket) for b in tree.boxes}
    parts = []
    for move in plan.moves:
        parent, box = show.device(move.parent), the_device(show, move.box)
        if now[move.box] != (move.parent, move.socket):
            title = next((p.name for p in parent.ports if p.id in (move.socket, f"{move.socket}-in")), move.socket)
            parts.append(f"put {box} into {title} of {the_device(show, move.parent)}")
        if move.new_lead:
            parts.append(f"take a {FAST_LEAD} lead for {box}")
        if move.how:
            parts.append(f"set {box} to {move.how}")
        if move.picture:
            parts.append(f"set {box} to {move.picture}")
    text = "; ".join(parts)
    return f"{text[:1].upper()}{text[1:]}." if text else "It fits as it is."


def moved(show: Show, plan: Plan) -> Show:
    """The show with the moves of a plan made: plugs change places, formats are set, programs follow their devices."""
    for move in plan.moves:
        box = next(b for b in tree_of(show).boxes if b.id == move.box)
        if move.new_lead:
            leads = (c.evolve(kind=FAST_LEAD) if c.id == box.cable else c for c in show.cables)
            show = show.evolve(cables=tuple(leads))
        if (box.parent, box.socket) != (move.parent, move.socket):
            show = _replugged(show, box, move)
        if move.how:
            control = f"{move.box}/usb-format"
            show = apply(show, [Change(None, control, show.value(control, None), move.how)])
        if move.picture:
            ports = show.device(move.box).ports
            control = next(p.format_control for p in ports if p.picture and p.format_control and p.signal == "usb")
            show = apply(show, [Change(None, control, show.value(control, None), move.picture)])
    return show


def way_in(show: Show, cable: Cable) -> list[Cable]:
    """The leads from a device through its hubs: the last ends at the socket by which the computer knows it."""
    found = [cable]
    while True:
        hub, port = show.ports[found[-1].target]
        outs = {f"{hub.id}/{r.target}" for r in hub.routes if r.source == port.id} if hub.kind in HUBS else set()
        after = next((c for c in show.cables if c.source in outs and c.plugged and c not in found), None)
        if after is None:
            return found
        found.append(after)


def _replugged(show: Show, box: Box, move: Move) -> Show:
    lead = show.cable(box.cable)
    if not lead.source.startswith(f"{box.id}/"):
        return show  # an output of the computer: there is nothing to choose
    way = way_in(show, lead)
    known = way[-1].target
    seat = _port(show, move.parent, move.socket)
    show = disconnect(show, [c.id for c in way])
    if show.device(move.parent).kind in HUBS:
        show = connect(show, lead.source, seat, lead.kind, lead.length_m)
        hub, port = show.ports[seat]
        out = next(f"{hub.id}/{r.target}" for r in hub.routes if r.source == port.id)
        return connect(show, out, known, "held", 0.0)
    show = connect(show, lead.source, seat, lead.kind, lead.length_m)
    return _followed(show, known, seat) if seat != known else show


def _port(show: Show, parent: str, socket: str) -> str:
    names = {p.id for p in show.device(parent).ports if p.direction == "in"}
    return f"{parent}/{socket if socket in names else f'{socket}-in'}"


def _followed(show: Show, before: str, after: str) -> Show:
    """Programs that had chosen what came by one socket take what comes by the other."""
    (device, old), (_, new) = show.ports[before], show.ports[after]
    changes = [
        Change(cue, c.id, old.name, new.name)
        for c in device.controls
        if new.name in c.choices
        for cue in (None, *(q.id for q in show.cues if c.id in q.controls))
        if (c.value if cue is None else show.cue(cue).controls[c.id]) == old.name
    ]
    return apply(show, changes)
