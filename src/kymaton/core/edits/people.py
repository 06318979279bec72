"""Edits of people, places, sounds and listeners: each takes a Show and gives a new one, or raises ShowError."""

from typing import TypeVar

from kymaton.core.edits.cables import without_cables
from kymaton.core.edits.ids import free_id
from kymaton.core.model.cues import HandAction
from kymaton.core.model.device import Device
from kymaton.core.model.people import Listener, Person, Place, Sound
from kymaton.core.model.show import Show, ShowError, validated

AnyThing = TypeVar("AnyThing", Sound, Listener, HandAction)
AnyPlaced = TypeVar("AnyPlaced", Sound, Listener, Device)


def add_person(show: Show, name: str, role: str = "") -> tuple[Show, str]:
    """The show with this person, and the person's id; who is there already by this name is not added again."""
    known = next((p for p in show.people if p.name.lower() == name.lower()), None)
    if known is not None:
        return show, known.id
    id = free_id(name.partition(" ")[0], (p.id for p in show.people))
    return show.evolve(people=(*show.people, Person(id=id, name=name, role=role))), id


def place_called(show: Show, name: str) -> tuple[Show, str]:
    """The show with a place of this name, and its id; one that is there already is not added again."""
    name = name.strip()
    known = next((p for p in show.places if p.name.lower() == name.lower()), None)
    if known is not None:
        return show, known.id
    id = free_id(name, (p.id for p in show.places))
    return show.evolve(places=(*show.places, Place(id=id, name=name))), id


def put_person(show: Show, person: Person) -> Show:
    """The show with this person in place of the one with the same id. Raises ShowError without a name."""
    if not person.name.strip():
        raise ShowError("A person needs a name.")
    return validated(show.evolve(people=tuple(person if p.id == person.id else p for p in show.people)))


def remove_person(show: Show, id: str) -> Show:
    """Without a person; what they made or heard stays, and belongs to nobody. Their actions are anybody's."""

    def without(things: tuple[AnyThing, ...]) -> tuple[AnyThing, ...]:
        return tuple(t.evolve(person=None) if t.person == id else t for t in things)

    cues = tuple(c.evolve(hand_actions=tuple(a for a in without(c.hand_actions) if a.target != id)) for c in show.cues)
    people = tuple(p for p in show.people if p.id != id)
    devices = {d.id for d in show.devices}
    ways = tuple(w for w in show.control_ways if w.source != id or id in devices)
    return validated(
        show.evolve(
            people=people, control_ways=ways, sounds=without(show.sounds), listeners=without(show.listeners), cues=cues
        )
    )


def put_place(show: Show, place: Place) -> Show:
    """The show with this place in place of the one with the same id. Raises ShowError without a name."""
    if not place.name.strip():
        raise ShowError("A place needs a name.")
    return validated(show.evolve(places=tuple(place if p.id == place.id else p for p in show.places)))


def put_apart(show: Show, one: str, other: str, metres: float | None) -> Show:
    """The show with two places so far apart; None takes back what was said. Raises ShowError."""
    if one == other:
        raise ShowError("A place is not away from itself.")

    def said(place: Place) -> Place:
        kept = {k: v for k, v in place.apart_m.items() if {place.id, k} != {one, other}}
        new = {other: metres} if place.id == one and metres is not None else {}
        return Place.checked(**{**place.fields(), "apart_m": {**kept, **new}})

    return validated(show.evolve(places=tuple(said(p) for p in show.places)))


def remove_place(show: Show, id: str) -> Show:
    """Without a place; who and what was there is nowhere in particular."""

    def without(things: tuple[AnyPlaced, ...]) -> tuple[AnyPlaced, ...]:
        return tuple(t.evolve(place=None) if t.place == id else t for t in things)

    cues = tuple(c.evolve(hand_actions=tuple(a for a in c.hand_actions if a.place != id)) for c in show.cues)
    return validated(
        show.evolve(
            runs=tuple(r for r in show.runs if id not in (r.source, r.target)),
            places=tuple(
                p.evolve(apart_m={k: v for k, v in p.apart_m.items() if k != id}) for p in show.places if p.id != id
            ),
            sounds=without(show.sounds),
            listeners=without(show.listeners),
            devices=without(show.devices),
            cues=cues,
        )
    )


def add_sound(show: Show, sound: Sound) -> Show:
    """One more sound; its id must be free. Raises ShowError."""
    return validated(show.evolve(sounds=(*show.sounds, sound)))


def add_listener(show: Show, listener: Listener) -> Show:
    """One more listener; its id must be free. Raises ShowError."""
    return validated(show.evolve(listeners=(*show.listeners, listener)))


def put_sound(show: Show, sound: Sound) -> Show:
    """The show with this sound in place of the one with its id. Raises ShowError."""
    return validated(show.evolve(sounds=tuple(sound if s.id == sound.id else s for s in show.sounds)))


def put_listener(show: Show, listener: Listener) -> Show:
    """The show with this listener in place of the one with its id. Raises ShowError."""
    return validated(show.evolve(listeners=tuple(listener if x.id == listener.id else x for x in show.listeners)))


def remove_sound(show: Show, id: str) -> Show:
    """Without a sound, its wishes, the cables that leave it, and what cameras were said to show of it."""
    gone = {c.id for c in show.cables if c.source == f"sound/{id}"}
    rest = show.evolve(
        devices=tuple(
            d.evolve(shows=tuple(s for s in d.shows if s != id)) if d.shows and id in d.shows else d
            for d in show.devices
        ),
        sounds=tuple(s for s in show.sounds if s.id != id),
        plan=tuple(w for w in show.plan if w.sound != id),
        cables=tuple(c for c in show.cables if c.id not in gone),
    )
    return without_cables(rest, gone)


def remove_listener(show: Show, id: str) -> Show:
    """Without a listener, the wishes and the cables that reach it."""
    gone = {c.id for c in show.cables if c.target == f"listener/{id}"}
    rest = show.evolve(
        listeners=tuple(x for x in show.listeners if x.id != id),
        plan=tuple(w for w in show.plan if w.listener != id),
        picture_plan=tuple(w for w in show.picture_plan if w.watcher != id),
        cables=tuple(c for c in show.cables if c.id not in gone),
    )
    return without_cables(rest, gone)
