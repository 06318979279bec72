"""Leads that are there against leads that are needed: which one goes where, and what is to be bought.

An assignment of least cost, solved exactly [1]: a lead that is there and long enough costs what it is too long by; what
has to be bought costs more than any of these.

1. Crouse, On implementing 2D rectangular assignment algorithms (2016), as `scipy.optimize.linear_sum_assignment`.
"""

from msgspec import Struct

from kymaton.core.loadin.runs import bought_m, is_lead, needed_m
from kymaton.core.model import Cable, Show, Stock

BUY = 1e4  # metres too long that one would rather carry than buy a lead; chosen
BORROWED = 0.1  # m: of two leads alike the own one
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


def leads_of(show: Show) -> list[tuple[Cable, ...]]:
    """The leads that are laid, each once: the two sides of a lead that splits, all channels of one USB plug, and all
    that a device sends and gets over its line.
    """
    groups: dict[tuple[str, ...], list[Cable]] = {}
    for cable in show.cables:
        if not cable.plugged or not is_lead(cable):
            continue
        (a, b) = (show.ports.get(cable.source), show.ports.get(cable.target))
        if a is None or b is None:
            continue
        key: tuple[str, ...] = (cable.id,)
        if a[1].signal == "usb" and b[1].signal == "usb":
            key = ("usb", a[0].id, b[0].id if b[1].connector == "" else cable.target)
        elif a[1].signal == "network" and AWAY & {a[0].kind, b[0].kind}:
            key = ("network", b[0].id if a[0].kind in AWAY else a[0].id)
        elif " 2 x " in cable.kind and cable.channels:
            key = ("split", cable.source, cable.kind)
        groups.setdefault(key, []).append(cable)
    return [tuple(g) for g in groups.values()]


def taken_from(show: Show) -> list[Taken]:
    """For each lead the one that is taken, or what to buy."""
    by_kind: dict[str, list[tuple[Cable, ...]]] = {}
    for group in leads_of(show):
        by_kind.setdefault(group[0].kind, []).append(group)
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
            if item.length_m >= metres and item.owned != "to buy":
                cost[row, column] = item.length_m - metres + BORROWED * (item.owned == "borrowed")
            else:
                cost[row, column] = 10 * BUY
    rows, columns = linear_sum_assignment(cost)
    return [int(c) if c < len(there) and cost[r, c] < BUY else None for r, c in zip(rows, columns, strict=True)]
