"""Leads that are there against leads that are needed: which one goes where, and what is to be bought.

An assignment of least cost, solved exactly [1]: a lead that is there and long enough costs what it is too long by; one
that is on the list to buy costs more than any of these, and its price; what nobody has thought of yet costs most.

1. Crouse, On implementing 2D rectangular assignment algorithms (2016), as `scipy.optimize.linear_sum_assignment`.
"""

from msgspec import Struct

from kymaton.core.loadin.runs import bought_m, is_lead, needed_m
from kymaton.core.loadin.usb import BOXES, HUBS, host_of
from kymaton.core.model import Cable, Show, Stock

BUY = 1e4  # metres too long that one would rather carry than buy a lead; chosen
BORROWED = 0.1  # m: of two leads alike the own one
TOO_LONG = 1e-3  # of two that cost the same the shorter one
AWAY = {"call", "stream"}  # at the other end of the line


class Taken(Struct, frozen=True):
    """A lead that is needed (one for the two sides of a stereo lead) and the one that is taken for it, if any is there.

    `metres` is how long it has to be at least.
    """

    cables: tuple[str, ...]
    kind: str
    metres: float
    item: int | None
    buy_m: float


def kind_of(show: Show, cable: Cable) -> str:
    """What is laid for a connection; empty where nothing is.

    What a program has chosen comes by the USB plug of its device, or by the network lead of its computer.
    """
    if not cable.plugged or cable.source not in show.ports or cable.target not in show.ports:
        return ""
    (a, out), (b, into) = show.ports[cable.source], show.ports[cable.target]
    if is_lead(cable):
        return cable.kind
    if cable.kind != "held" or host_of(show, a) == host_of(show, b):
        return ""
    if out.signal == into.signal == "usb" and ({a.kind, b.kind} & {*BOXES, *HUBS}):
        return "USB C" if "USB C" in (out.connector, into.connector) else "USB 3"
    if "network" in (out.signal, into.signal) and len({a.kind, b.kind} & AWAY) == 1:
        return "network"
    return ""


def leads_of(show: Show) -> list[tuple[Cable, ...]]:
    """The leads that are laid, each once: the two sides of a lead that splits, all channels of one USB plug, and all
    that a device sends and gets over its line.
    """
    groups: dict[tuple[str, ...], list[Cable]] = {}
    for cable in show.cables:
        kind = kind_of(show, cable)
        if not kind:
            continue
        (a, out), (b, into) = show.ports[cable.source], show.ports[cable.target]
        key: tuple[str, ...] = (cable.id,)
        if out.signal == "usb" and into.signal == "usb":
            key = ("usb", b.id if b.kind in BOXES and a.kind not in (*BOXES, *HUBS) else a.id)
        elif "network" in (out.signal, into.signal) and AWAY & {a.kind, b.kind}:
            key = ("network", b.id if a.kind in AWAY else a.id)
        elif " 2 x " in cable.kind and cable.channels:
            key = ("split", cable.source, cable.kind)
        groups.setdefault(key, []).append(cable)
    return [tuple(g) for g in groups.values()]


def taken_from(show: Show) -> list[Taken]:
    """For each lead the one that is taken, or what to buy."""
    by_kind: dict[str, list[tuple[Cable, ...]]] = {}
    for group in leads_of(show):
        by_kind.setdefault(kind_of(show, group[0]), []).append(group)
    found: dict[tuple[str, ...], Taken] = {}
    for kind, groups in by_kind.items():
        need = [_metres(show, g) for g in groups]
        units = [n for n, s in enumerate(show.stock) if s.kind.lower() == kind.lower() for _ in range(s.many)]
        chosen = _assigned(need, [show.stock[n] for n in units])
        for group, metres, at in zip(groups, need, chosen, strict=True):
            item = None if at is None else units[at]
            ids = tuple(c.id for c in group)
            found[ids] = Taken(ids, kind, metres, item, 0.0 if item is not None else bought_m(metres))
    return [found[tuple(c.id for c in g)] for g in leads_of(show)]


def _metres(show: Show, group: tuple[Cable, ...]) -> float:
    """How long a lead has to be: by its run, or else as long as it was said to be."""
    by_run = needed_m(show, group[0])
    return max(c.length_m for c in group) if by_run is None else by_run


def _assigned(need: list[float], there: list[Stock]) -> list[int | None]:
    """Which of those that are there each takes, by number; None to buy."""
    if not there or not need:
        return [None] * len(need)
    import numpy as np
    from scipy.optimize import linear_sum_assignment  # late: it takes a while to load

    cost = np.full((len(need), len(there) + len(need)), BUY)
    for row, metres in enumerate(need):
        for column, item in enumerate(there):
            if item.length_m >= metres and item.owned == "to buy":
                cost[row, column] = BUY / 2 + min(item.price, BUY / 4) + TOO_LONG * (item.length_m - metres)
            elif item.length_m >= metres:
                cost[row, column] = item.length_m - metres + BORROWED * (item.owned == "borrowed")
            else:
                cost[row, column] = 10 * BUY
    rows, columns = linear_sum_assignment(cost)
    return [int(c) if c < len(there) and cost[r, c] < BUY else None for r, c in zip(rows, columns, strict=True)]
