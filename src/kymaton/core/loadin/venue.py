"""A venue of which nobody knows the sockets: the smallest bag of leads and adapters with which any of them is met.

Each of our sockets that meets the house has a few connectors that may be there. For each of them there are ways: a lead
that joins the two, or a lead to another connector and an adapter from there. Whatever sockets it will be, each of ours
has to be met, all at the same time. What is carried for one of our sockets is the most that any of its cases takes;
a mixed-integer programme chooses the ways with which the bag is smallest [1]. Adapters only change plugs, so that what
is allowed is what a lead of that kind would do.

1. Set multicover; `scipy.optimize.milp`, Huangfu and Hall, Math. Prog. Comp. 10 (2018).
"""

import itertools
from collections.abc import Iterable

import numpy as np
from msgspec import Struct

from kymaton.core.cable_match import BNC, HDMI, MINI, PHONO, RJ45, TRS, TS, USB_A, USB_C, VGA, XLR, lead_between
from kymaton.core.model import Port, Show
from kymaton.core.silence import silence

ADAPTERS: dict[tuple[str, str], str] = {
    (XLR, TRS): "XLR to TRS adapter", (XLR, TS): "XLR to TS adapter", (PHONO, TS): "phono to TS adapter",
    (MINI, TRS): "3.5 mm to 6.3 mm adapter", (USB_A, USB_C): "USB A to C adapter",
}  # fmt: skip
# what is a box and no adapter: it takes power, and time
BOXES: dict[tuple[str, str], str] = {
    (HDMI, VGA): "HDMI to VGA converter", (HDMI, BNC): "HDMI to SDI converter", (USB_C, HDMI): "USB C to HDMI adapter",
    (BNC, HDMI): "SDI to HDMI converter", (VGA, HDMI): "VGA to HDMI converter",
}  # fmt: skip
USUAL = {
    "mic": (XLR,), "line": (XLR, TRS, PHONO, MINI), "hdmi": (HDMI, VGA, BNC), "sdi": (BNC, HDMI), "network": (RJ45,),
    "headphone": (TRS, MINI),
}  # fmt: skip
BULK = {"lead": 1.0, "adapter": 0.3, "converter": 2.0}


class Bag(Struct, frozen=True):
    """What to carry (item → how many), which way meets what (our port, their socket → items), what nothing meets."""

    items: tuple[tuple[str, int], ...]
    ways: tuple[tuple[str, str, tuple[str, ...]], ...]
    uncovered: tuple[tuple[str, str], ...]
    bulk: float


def bulk_of(item: str) -> float:
    """How much room an item takes: a lead 1, an adapter 0.3, a converter 2 (chosen)."""
    return next((b for word, b in BULK.items() if item.endswith(word)), 1.0)


def ways_between(port: Port, socket: str) -> list[tuple[str, ...]]:
    """The ways from one of our ports to a socket of the house: what each takes."""
    ours = port.connector
    found: list[tuple[str, ...]] = []
    there = port.evolve(connector=socket)
    direct = lead_between(port, there)
    if direct is not None and direct.kind not in ("held", "air"):
        found.append((f"{direct.kind} lead",))
    for table in (ADAPTERS, BOXES):
        for pair, item in table.items():
            for a, b in (pair, pair[::-1]) if table is ADAPTERS else (pair,):
                if b == socket:  # a lead to the adapter, which sits in their socket
                    first = lead_between(port, port.evolve(connector=a))
                    if first is not None and first.kind not in ("held", "air"):
                        found.append((f"{first.kind} lead", item))
                if a == ours:  # the adapter at our end
                    after = lead_between(port.evolve(connector=b), there)
                    if after is not None and after.kind not in ("held", "air"):
                        found.append((item, f"{after.kind} lead"))
    unique = dict.fromkeys(tuple(sorted(way)) for way in found)
    return [w for w in unique if not any(set(v) < set(w) for v in unique)]


def meetings_of(show: Show) -> list[tuple[str, tuple[str, ...]]]:
    """Our sockets that meet the house, with what may be there."""
    return [(m.port, m.sockets) for m in show.meetings]


def bag_of(show: Show) -> Bag:
    """The smallest bag for all that meets the house."""
    cases = [(p, s, ways_between(show.port(p), s)) for p, sockets in meetings_of(show) for s in sockets]
    return smallest(cases)


def smallest(cases: Iterable[tuple[str, str, list[tuple[str, ...]]]]) -> Bag:
    """The smallest bag for cases: (our port, their socket, ways). Exact."""
    every = list(cases)
    uncovered = tuple((p, s) for p, s, ways in every if not ways)
    covered = [c for c in every if c[2]]
    items = sorted({i for _, _, ways in covered for w in ways for i in w})
    ports = list(dict.fromkeys(p for p, _, _ in covered))
    if not covered:
        return Bag((), (), uncovered, 0.0)
    ways = [(p, s, w) for p, s, options in covered for w in options]
    # columns: each way taken or not; then for each port and item how many are carried for it
    carried = {pair: len(ways) + n for n, pair in enumerate(itertools.product(ports, items))}
    width = len(ways) + len(carried)
    rows, low, high = [], [], []
    for port, socket, _ in covered:
        row = np.zeros(width)
        for n, (p, s, _w) in enumerate(ways):
            row[n] = float((p, s) == (port, socket))
        rows.append(row)
        low.append(1.0)
        high.append(1.0)
    for port, socket, _ in covered:
        for item in items:
            row = np.zeros(width)
            row[carried[port, item]] = 1.0
            for n, (p, s, w) in enumerate(ways):
                if (p, s) == (port, socket):
                    row[n] = -float(w.count(item))
            rows.append(row)
            low.append(0.0)
            high.append(np.inf)
    cost = np.zeros(width)
    for (_, item), column in carried.items():
        cost[column] = bulk_of(item)
    cost[: len(ways)] = [1e-3 * len(w) for _, _, w in ways]  # of bags alike the one with shorter ways
    from scipy.optimize import Bounds, LinearConstraint, milp  # late: it takes a while to load

    with silence():
        found = milp(
            cost, constraints=LinearConstraint(np.array(rows), low, high), integrality=np.ones(width),
            bounds=Bounds(0, np.array([1.0] * len(ways) + [np.inf] * len(carried))),
        )  # fmt: skip
    chosen = [w for n, w in enumerate(ways) if found.x[n] > 0.5]
    bag = {item: round(sum(found.x[carried[p, item]] for p in ports)) for item in items}
    return Bag(
        tuple((i, n) for i, n in bag.items() if n), tuple(chosen), uncovered,
        sum(bulk_of(i) * n for i, n in bag.items()),
    )  # fmt: skip
