"""Runs: how long a lead has to be, whether its kind carries that far, which converters do, what lies in the way.

A run is so many metres along the floor, half a metre more for each corner, and twice what it goes up a wall (up and
down again); to that a tenth and a metre at either end, so that nothing hangs taut (all chosen).
"""

import math
from collections.abc import Iterator
from fractions import Fraction

from msgspec import Struct

from kymaton.core.model import Cable, Show
from kymaton.core.model.loads import Run

CORNER_M, SLACK, END_M = 0.5, 0.1, 1.0
WIRELESS = ("held", "air", "Bluetooth", "wireless network")
SMALL = ("3.5 mm", "phono", "USB", "HDMI")  # plugs that a foot parts from their socket
TAPED = 2  # metres of tape for each metre that people walk over: one along either edge
UNSAID_M = 3.0  # what a lead is taken for when nobody says how long it is
LENGTHS_M = (1.0, 2.0, 3.0, 5.0, 7.5, 10.0, 15.0, 20.0, 25.0, 30.0, 50.0, 75.0, 100.0)  # as leads are sold


def along(run: Run) -> float:
    """How long a lead along a run has to be, in m, with its slack."""
    way = run.metres + CORNER_M * run.corners + 2 * run.up_m
    return (1 + SLACK) * way + 2 * END_M


def ends_of(show: Show, cable: Cable) -> tuple[list[str], list[str]]:
    """What stands at either end of a lead: the device, and the place in which it is."""
    found = []
    for end in (cable.source, cable.target):
        device = show.ports[end][0] if end in show.ports else None
        found.append([] if device is None else [device.id, *([device.place] if device.place else [])])
    return found[0], found[1]


def run_of(show: Show, cable: Cable) -> Run | None:
    """The run along which a lead goes: that of its devices before that of their places."""
    sources, targets = ends_of(show, cable)
    by_ends = {frozenset((r.source, r.target)): r for r in show.runs}
    for a in sources:
        for b in targets:
            if a != b and frozenset((a, b)) in by_ends:
                return by_ends[frozenset((a, b))]
    return None


def needed_m(show: Show, cable: Cable) -> float | None:
    """How long a lead has to be, in m; None where nobody has said how it goes."""
    run = run_of(show, cable)
    return None if run is None else along(run)


def is_lead(cable: Cable) -> bool:
    """Whether it is something that is laid."""
    return cable.kind not in WIRELESS


class Bridge(Struct, frozen=True):
    """A way over a run that is too long: how far it reaches, what it takes, and how many more points of failure."""

    name: str
    reach_m: float
    boxes: tuple[str, ...]
    leads: tuple[str, ...]

    @property
    def more_points(self) -> int:
        """How many more things can fail: boxes, and leads beyond the first."""
        return len(self.boxes) + len(self.leads) - 1


def _bridges(show: Show, kind: str, limit_m: float) -> Iterator[Bridge]:
    """What carries a picture or data further than its lead does (figures as in the facts of runs)."""
    if kind == "HDMI":
        large = show.picture.height > 1080
        fast = Fraction(show.picture.rate) > 30
        yield Bridge("a passive extender", limit_m + 9.5, ("hdmi extender",), ("HDMI", "HDMI"))
        for many in range(1, 4):
            name = "a booster" if many == 1 else f"{many} boosters"
            yield Bridge(name, (many + 1) * limit_m, ("hdmi booster",) * many, ("HDMI",) * (many + 1))
        reach = 30.0 if large else 70.0 if fast else 100.0
        yield Bridge("SDI", reach, ("hdmi to sdi", "sdi to hdmi"), ("HDMI", "SDI", "HDMI"))
        pair = 70.0 if large else 100.0
        yield Bridge(
            "twisted pair", pair, ("twisted pair sender", "twisted pair receiver"), ("HDMI", "network", "HDMI")
        )
    elif kind.startswith("USB"):
        for many in range(1, 4):
            name = "a repeater" if many == 1 else f"{many} repeaters"
            yield Bridge(name, (many + 1) * limit_m, ("usb repeater",) * many, (kind,) * (many + 1))


def bridges_over(show: Show, kind: str, metres: float, limit_m: float) -> list[Bridge]:
    """Ways over a run of so many metres, the fewest more points of failure first, then those with most to spare."""
    fit = [b for b in _bridges(show, kind, limit_m) if b.reach_m >= metres]
    return sorted(fit, key=lambda b: (b.more_points, -b.reach_m))


def bought_m(metres: float) -> float:
    """The shortest length that is sold and reaches."""
    return next((x for x in LENGTHS_M if x >= metres), math.ceil(metres / 10) * 10.0)


def tape_m(show: Show) -> float:
    """Metres of tape where people walk over leads: each crossing once, however many leads lie in it."""
    used = {id(r): r for c in show.cables if c.plugged and is_lead(c) and (r := run_of(show, c)) is not None}
    return TAPED * sum(r.crossing_m for r in used.values())


def relieved(show: Show) -> list[Cable]:
    """Leads with a small plug that lie along a run or at something that moves: to be strain-relieved."""
    moving = {d.id for d in show.devices if d.moves}
    small = [c for c in show.cables if c.plugged and is_lead(c) and c.kind.startswith(SMALL)]
    return [
        c
        for c in small
        if run_of(show, c) is not None or moving & {c.source.partition("/")[0], c.target.partition("/")[0]}
    ]
