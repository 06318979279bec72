"""Batteries and what charges them: whether a dock holds a laptop, and in which cues a fresh battery goes in."""

import math

from msgspec import Struct

from kymaton.core.loadin.usb import HOSTS, tree_of
from kymaton.core.model import Device, Figure, Show
from kymaton.core.words import joined, number

WANTS_W = Figure(value=60.0, plus_minus=15.0)  # a laptop that works; typical


class Charge(Struct, frozen=True):
    """A computer that only a dock feeds: what it wants and gets, in W; hours until it is empty, at worst."""

    computer: str
    dock: str
    wants: Figure
    gets_w: float
    lasts_h: float

    @property
    def holds(self) -> bool:
        """Whether it never runs empty, at worst."""
        return math.isinf(self.lasts_h)


def charges_of(show: Show) -> list[Charge]:
    """Every computer with a battery that hangs on a dock and on no supply of its own."""
    found = []
    above = tree_of(show).above
    for dock in show.devices:
        if dock.kind != "dock":
            continue
        hosts = {above[dock.id][0]} if dock.id in above else set()
        hosts |= {c.source.partition("/")[0] for c in show.cables if c.plugged and c.target == f"{dock.id}/computer"}
        for id in sorted(hosts):
            computer = show.device(id)
            if computer.kind in HOSTS and not computer.mains and (computer.battery_h or computer.kind == "laptop"):
                found.append(_charge(computer, dock))
    return found


def _charge(computer: Device, dock: Device) -> Charge:
    wants = computer.loads.get("wants_w", WANTS_W)
    gives = dock.loads.get("gives_w", Figure(value=0.0)).value
    battery = computer.battery_h or Figure(value=3.0, plus_minus=1.0)
    at_worst = wants.value + wants.plus_minus
    # a battery of so many hours at what is wanted: empty after energy / what is missing
    stored_wh = (battery.value - battery.plus_minus) * wants.value
    lasts_h = math.inf if gives >= at_worst else stored_wh / (at_worst - gives)
    return Charge(computer.id, dock.id, wants, gives, lasts_h)


class Changes(Struct, frozen=True):
    """Before which cues a fresh battery has to go in; `too_long` is a cue that is longer than a battery lasts."""

    device: str
    least_h: float
    before: tuple[str, ...]
    too_long: str | None
    done: tuple[str, ...]

    @property
    def batteries(self) -> int:
        """How many full ones it takes."""
        return 1 + len(self.before)


def changes_of(show: Show, device: Device) -> Changes | None:
    """When a battery is changed: as late as can be at the beginning of a cue, which takes the fewest of them.

    What is planned by hand (`renew`) counts. None where it runs on no battery, or nobody says how long the cues take.
    """
    battery = device.battery_h
    if battery is None or not any(c.minutes for c in show.cues):
        return None
    least = 60 * (battery.value - battery.plus_minus)
    left, before, done = least, list[str](), list[str]()
    for cue in show.cues:
        if any(a.kind == "renew" and a.target == device.id for a in cue.hand_actions):
            left = least
            done.append(cue.id)
        if cue.minutes > least:
            return Changes(device.id, least / 60, tuple(before), cue.id, tuple(done))
        if cue.minutes > left:
            before.append(cue.id)
            left = least
        left -= cue.minutes
    return Changes(device.id, least / 60, tuple(before), None, tuple(done))


def changes_text(show: Show, changes: Changes) -> str:
    """In words: when a fresh one goes in, and how many full ones it takes."""
    if changes.too_long is not None:
        return f"{show.cue(changes.too_long).name} alone is longer than it lasts at worst: power it by a lead."
    when = joined(show.cue(c).name for c in changes.before)
    full = 1 + len(changes.before) + len(changes.done)
    return f"Put in a fresh one before {when}: {number(full)} full ones in all; or power it by a lead."
