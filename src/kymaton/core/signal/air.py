"""Air between what sounds and what hears it: who and what is where in a cue, and how far apart that is.

A lead of kind `air` is a mouth before its microphone, or a loudspeaker before an ear, with its distance. What no lead
says follows from the places: in one place whose air counts everything is heard at the distance of that place, in two
at the distance that is said between them.
"""

import math
from collections.abc import Iterable, Iterator
from itertools import product

from msgspec import Struct

from kymaton.core.model import Cable, Cue, Device, Listener, Place, Show, Sound

WORN = ("headset", "clip-on", "lavalier")  # details of microphones that go along with a person
ALOUD = ("loudspeakers", "viewer")  # kinds of devices that are heard in a place
Thing = Sound | Listener | Device


class Whereabouts(Struct, frozen=True):
    """Where people and devices are in a cue: places by id, who or what has moved where, distances set by hand."""

    places: dict[str, Place]
    moved: dict[str, str]  # person or device → place
    set_m: dict[str, float]  # lead of air → metres

    def of(self, thing: Thing) -> Place | None:
        """The place of a sound, a listener or a device in this cue; None where it is not said."""
        who = thing.id if isinstance(thing, Device) else thing.person or ""
        return self.places.get(self.moved.get(who, thing.place or ""))

    def apart_m(self, a: Place | None, b: Place | None) -> float | None:
        """How far apart what is in two places is, in metres; None where nothing is said of that."""
        if a is None or b is None:
            return None
        if a.id == b.id:
            return a.distance_m if a.air == "estimated" else None
        return a.apart_m.get(b.id, b.apart_m.get(a.id))


def up_to(show: Show, cue: Cue | None) -> list[Cue]:
    """The cues from the first to this one."""
    if cue is None:
        return []
    ids = [c.id for c in show.cues]
    return list(show.cues[: ids.index(cue.id) + 1])


def places_in(show: Show, cue: Cue | None) -> Whereabouts:
    """Where people and devices are: as the base state says, changed by the moves up to this cue."""
    moves = [a for c in up_to(show, cue) for a in c.hand_actions if a.kind == "move"]
    return Whereabouts(
        {x.id: x for x in show.places},
        {a.target: a.place for a in moves if a.place is not None},
        {a.target: a.distance_m for a in moves if a.distance_m is not None},
    )


def lead_m(show: Show, where: Whereabouts, cable: Cable) -> float:
    """The length of a lead of air in a cue, infinite where the two have moved out of each other's reach.

    Who moves takes the mouth along, and a microphone that is worn or carried; one that stands stays.
    """
    if cable.id in where.set_m:
        return where.set_m[cable.id]
    source, target = thing_at(show, cable.source), thing_at(show, cable.target)
    if not _has_moved(where, source) and not _has_moved(where, target):
        return cable.length_m
    if isinstance(source, Sound) and isinstance(target, Device) and _goes_along(target):
        return cable.length_m
    here, there = where.of(source), where.of(target)
    if here is not None and there is not None and here.id == there.id:
        return cable.length_m
    apart = where.apart_m(here, there)
    return math.inf if apart is None else apart


def unsaid_m(show: Show, where: Whereabouts, source: str, target: str) -> float:
    """How far what sounds is from what hears it, where no lead says it; infinite where it is not heard.

    Who moves to where a microphone stands speaks into it from as near as whoever it stands there for.
    """
    a, b = thing_at(show, source), thing_at(show, target)
    here, there = where.of(a), where.of(b)
    if here is not None and there is not None and here.id == there.id and _has_moved(where, a):
        stood = [c.length_m for c in show.cables_to.get(target, ()) if c.kind == "air"]
        if stood and isinstance(b, Device):
            return min(stood)
    apart = where.apart_m(here, there)
    return math.inf if apart is None else apart


def unsaid_pairs(show: Show) -> list[tuple[str, str]]:
    """What may hear what through air in some cue without any lead that says so: (source, target), as ports."""
    wheres = [places_in(show, c) for c in (None, *show.cues)]
    if not any(p.air == "estimated" or p.apart_m for p in show.places) and not any(w.moved for w in wheres):
        return []
    sources, targets = list(_sources(show)), list(_targets(show))
    said = {(c.source, c.target) for c in show.cables}
    found: dict[tuple[str, str], None] = {}
    for where in wheres:
        here, there = _by_place(show, where, sources), _by_place(show, where, targets)
        for a, b in product(here, there):
            apart = where.apart_m(where.places[a], where.places[b])
            for source, target in product(here[a], there[b]):
                near = a == b and _has_moved(where, thing_at(show, source))
                if (apart is not None or near) and (source, target) not in said:
                    found[source, target] = None
    return [pair for pair in found if not _is_own(show, *pair)]


def thing_at(show: Show, port: str) -> Thing:
    """What is at an end of a lead: a sound, a listener or a device."""
    owner, _, name = port.partition("/")
    if owner == "sound":
        return show.sound(name)
    return show.listener(name) if owner == "listener" else show.device(owner)


def out_of_reach(show: Show, where: Whereabouts, sound: str) -> list[str]:
    """Devices that a sound has been taken away from: it has moved, or they have."""
    leads = [c for c in show.cables if c.kind == "air" and c.source == f"sound/{sound}"]
    return [c.target.partition("/")[0] for c in leads if lead_m(show, where, c) == math.inf]


def is_microphone(device: Device) -> bool:
    """Whether a device hears what sounds around it."""
    return "microphone" in device.kind


def _sources(show: Show) -> Iterator[str]:
    yield from (f"sound/{s.id}" for s in show.sounds if s.unit == "dB SPL")
    for device in show.devices:
        if device.kind in ALOUD and device.detail != "on headphones":
            yield from (
                f"{device.id}/{p.id}"
                for p in device.ports
                if (p.direction, p.signal) == ("out", "acoustic") and p.channels
            )


def _targets(show: Show) -> Iterator[str]:
    yield from (f"listener/{x.id}" for x in show.listeners if x.unit == "dB SPL")
    for device in show.devices:
        if is_microphone(device):
            yield from (
                f"{device.id}/{p.id}"
                for p in device.ports
                if (p.direction, p.signal) == ("in", "acoustic") and p.channels
            )


def _by_place(show: Show, where: Whereabouts, ports: Iterable[str]) -> dict[str, list[str]]:
    found: dict[str, list[str]] = {}
    for port in ports:
        place = where.of(thing_at(show, port))
        if place is not None:
            found.setdefault(place.id, []).append(port)
    return found


def _has_moved(where: Whereabouts, thing: Thing) -> bool:
    who = thing.id if isinstance(thing, Device) else thing.person
    return who in where.moved


def _goes_along(device: Device) -> bool:
    return device.moves or device.kind == "wireless-microphone" or device.detail in WORN


def _is_own(show: Show, source: str, target: str) -> bool:
    """Whether somebody would hear through the air what they make themselves, or a box what it plays."""
    a, b = thing_at(show, source), thing_at(show, target)
    if isinstance(a, Device) or isinstance(b, Device):
        return a is b
    return a.person is not None and a.person == b.person
