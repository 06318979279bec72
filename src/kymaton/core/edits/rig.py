"""Edits of the rig and the people: each takes a Show and gives a new one, or raises ShowError with one sentence."""

import re
from collections.abc import Iterable
from typing import TypeVar

from kymaton.core.model.cues import Cue, HandAction
from kymaton.core.model.device import Cable, Control, ControlUse, Device, Port
from kymaton.core.model.people import Listener, Person, Place, Sound
from kymaton.core.model.show import Show, ShowError, validated
from kymaton.core.model.wish import PictureWish, Wish

AnyWish = TypeVar("AnyWish", Wish, PictureWish)
AnyThing = TypeVar("AnyThing", Sound, Listener, HandAction)
AnyPlaced = TypeVar("AnyPlaced", Sound, Listener, Device)
RESERVED = ("sound", "listener")


def free_id(wanted: str, taken: Iterable[str]) -> str:
    """An id made of these words that is not taken yet: `table-mic`, `table-mic-2`."""
    base = re.sub(r"[^a-z0-9]+", "-", wanted.lower()).strip("-")[:60] or "thing"
    used = {*taken, *RESERVED}
    if base not in used:
        return base
    number = 2
    while f"{base}-{number}" in used:
        number += 1
    return f"{base}-{number}"


# devices


def add_device(show: Show, device: Device) -> Show:
    """One more device; its id must be free (see `free_id` and `with_id`)."""
    return validated(show.evolve(devices=(*show.devices, device)))


def with_id(device: Device, new: str) -> Device:
    """The device under another id, its controls and what refers to them renamed along."""
    old = device.id

    def moved(text: str | None) -> str | None:
        return new + text[len(old) :] if text is not None and text.partition("/")[0] == old else text

    def control(item: Control) -> Control:
        return item.evolve(id=moved(item.id), picture_input=moved(item.picture_input))

    def port(item: Port) -> Port:
        ends = {"format_control": moved(item.format_control), "clock_control": moved(item.clock_control)}
        return item.evolve(**ends)

    def use(item: ControlUse) -> ControlUse:
        when = item.when and item.when.evolve(control=moved(item.when.control))
        fields = {"control": moved(item.control), "when": when, "reference": moved(item.reference)}
        return item.evolve(**fields, only_from=tuple(moved(p) or p for p in item.only_from))

    return device.evolve(
        id=new,
        ports=tuple(port(p) for p in device.ports),
        controls=tuple(control(c) for c in device.controls),
        routes=tuple(
            r.evolve(on_air=moved(r.on_air), controls=tuple(use(u) for u in r.controls)) for r in device.routes
        ),
        programs=tuple(p.evolve(chosen={k: moved(v) or v for k, v in p.chosen.items()}) for p in device.programs),
    )


def remove_device(show: Show, id: str) -> Show:
    """The show without a device, its cables and what cues, variants and groups say of it."""
    gone = {c.id for c in show.cables if id in (owner(c.source), owner(c.target))}
    return _without(show.evolve(devices=tuple(d for d in show.devices if d.id != id)), gone)


def owner(port: str) -> str:
    return port.partition("/")[0]


def _without(show: Show, cables: set[str]) -> Show:
    """Without these cables, and without settings of controls and pictures that no longer exist."""
    controls = {c.id for d in show.devices for c in d.controls}
    ports = {f"{d.id}/{p.id}" for d in show.devices for p in d.ports}
    devices = {d.id for d in show.devices}

    def kept(values: dict[str, object]) -> dict[str, object]:
        return {k: v for k, v in values.items() if k in controls}

    cues = tuple(
        c.evolve(
            controls=kept(dict(c.controls)),
            on_air=c.on_air if c.on_air in ports else None,
            hand_actions=tuple(
                a
                for a in c.hand_actions
                if a.target not in cables and (a.kind not in ("turn", "choose") or a.target in controls)
            ),
        )
        for c in show.cues
    )
    variants = tuple(
        v.evolve(controls=kept(dict(v.controls)), unplugged=tuple(x for x in v.unplugged if x not in cables))
        for v in show.variants
    )
    groups = tuple(g.evolve(devices=tuple(d for d in g.devices if d in devices)) for g in show.microphone_groups)
    inside = tuple(
        d.evolve(inside=None) if d.inside is not None and d.inside not in devices else d for d in show.devices
    )
    rest = tuple(c for c in show.cables if c.id not in cables)
    seen = tuple(w for w in show.picture_plan if w.picture in ports)
    return validated(
        show.evolve(
            cables=rest, cues=cues, variants=variants, microphone_groups=groups, devices=inside, picture_plan=seen
        )
    )


def rename_device(show: Show, id: str, name: str) -> Show:
    """Another name for a device; its id, and so everything that refers to it, stays. Control names follow."""
    name = name.strip()
    if not name:
        raise ShowError("A device needs a name.")
    old = show.device(id).name.lower()

    def follow(control: Control) -> Control:
        if control.name.lower().startswith(old):
            return control.evolve(name=name.lower() + control.name[len(old) :])
        return control

    device = show.device(id)
    renamed = device.evolve(name=name, controls=tuple(follow(c) for c in device.controls))
    return put_device(show, renamed)


def put_device(show: Show, device: Device) -> Show:
    """The show with this device in place of the one with the same id."""
    return validated(show.evolve(devices=tuple(device if d.id == device.id else d for d in show.devices)))


def duplicate_device(show: Show, id: str) -> Show:
    """One more device like this one, without cables."""
    original = show.device(id)
    new = free_id(original.name, (d.id for d in show.devices))
    number = new.removeprefix(free_id(original.name, ())).strip("-")
    copy = with_id(original, new).evolve(name=f"{original.name} {number}".strip())
    return add_device(show, copy)


def replace_device(show: Show, id: str, by: Device) -> Show:
    """Another device in the place of one: cables whose port is there again, the same way round, are kept."""
    new = with_id(by, id)
    ports = {p.id: p for p in new.ports}
    old = {p.id: p for p in show.device(id).ports}

    def fits(port: str) -> bool:
        name = port.partition("/")[2]
        return owner(port) != id or (name in ports and ports[name].direction == old[name].direction)

    gone = {c.id for c in show.cables if not (fits(c.source) and fits(c.target))}
    cables = tuple(c.evolve(channels=()) if id in (owner(c.source), owner(c.target)) else c for c in show.cables)
    devices = tuple(new if d.id == id else d for d in show.devices)
    return _without(show.evolve(devices=devices, cables=cables), gone)


# cables


def taken_by(show: Show, port: str) -> list[Cable]:
    """Cables at a port."""
    return [c for c in show.cables if port in (c.source, c.target)]


def connect(
    show: Show, source: str, target: str, kind: str, length_m: float = 0.0, channels: tuple[tuple[int, int], ...] = ()
) -> Show:
    """A cable from an output to an input. An input of a device takes one cable, except through air."""
    if owner(target) != "listener" and kind != "air":
        there = [c for c in taken_by(show, target) if c.target == target and c.kind != "air"]
        if there:
            raise ShowError(f"{show.port_label(target)} is taken by {show.port_label(there[0].source)}.")
    if any(c.source == source and c.target == target for c in show.cables):
        raise ShowError(f"{show.port_label(source)} is already connected to {show.port_label(target)}.")
    id = free_id(f"{source}-to-{target}", (c.id for c in show.cables))
    cable = Cable(id=id, source=source, target=target, kind=kind, length_m=length_m, channels=channels)
    return validated(show.evolve(cables=(*show.cables, cable)))


def disconnect(show: Show, cables: Iterable[str]) -> Show:
    """The show without these cables."""
    return _without(show, set(cables))


def put_cable(show: Show, cable: Cable) -> Show:
    return validated(show.evolve(cables=tuple(cable if c.id == cable.id else c for c in show.cables)))


# people, sounds, listeners


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
    return validated(
        show.evolve(people=people, sounds=without(show.sounds), listeners=without(show.listeners), cues=cues)
    )


def put_place(show: Show, place: Place) -> Show:
    """The show with this place in place of the one with the same id. Raises ShowError without a name."""
    if not place.name.strip():
        raise ShowError("A place needs a name.")
    return validated(show.evolve(places=tuple(place if p.id == place.id else p for p in show.places)))


def remove_place(show: Show, id: str) -> Show:
    """Without a place; who and what was there is nowhere in particular."""

    def without(things: tuple[AnyPlaced, ...]) -> tuple[AnyPlaced, ...]:
        return tuple(t.evolve(place=None) if t.place == id else t for t in things)

    cues = tuple(c.evolve(hand_actions=tuple(a for a in c.hand_actions if a.place != id)) for c in show.cues)
    return validated(
        show.evolve(
            places=tuple(p for p in show.places if p.id != id),
            sounds=without(show.sounds),
            listeners=without(show.listeners),
            devices=without(show.devices),
            cues=cues,
        )
    )


def add_sound(show: Show, sound: Sound) -> Show:
    return validated(show.evolve(sounds=(*show.sounds, sound)))


def add_listener(show: Show, listener: Listener) -> Show:
    return validated(show.evolve(listeners=(*show.listeners, listener)))


def put_sound(show: Show, sound: Sound) -> Show:
    return validated(show.evolve(sounds=tuple(sound if s.id == sound.id else s for s in show.sounds)))


def put_listener(show: Show, listener: Listener) -> Show:
    return validated(show.evolve(listeners=tuple(listener if x.id == listener.id else x for x in show.listeners)))


def remove_sound(show: Show, id: str) -> Show:
    """Without a sound, its wishes and the cables that leave it."""
    gone = {c.id for c in show.cables if c.source == f"sound/{id}"}
    rest = show.evolve(
        sounds=tuple(s for s in show.sounds if s.id != id),
        plan=tuple(w for w in show.plan if w.sound != id),
        cables=tuple(c for c in show.cables if c.id not in gone),
    )
    return _without(rest, gone)


def remove_listener(show: Show, id: str) -> Show:
    """Without a listener, the wishes and the cables that reach it."""
    gone = {c.id for c in show.cables if c.target == f"listener/{id}"}
    rest = show.evolve(
        listeners=tuple(x for x in show.listeners if x.id != id),
        plan=tuple(w for w in show.plan if w.listener != id),
        picture_plan=tuple(w for w in show.picture_plan if w.watcher != id),
        cables=tuple(c for c in show.cables if c.id not in gone),
    )
    return _without(rest, gone)


# cues


def add_cue(show: Show, name: str, like: str | None = None) -> tuple[Show, str]:
    """A cue at the end, or a copy behind the cue that it is `like` (its wishes too); with its id."""
    id = free_id(name, (c.id for c in show.cues))
    if like is None:
        return validated(show.evolve(cues=(*show.cues, Cue(id=id, name=name)))), id
    at = [c.id for c in show.cues].index(like) + 1
    copy = show.cue(like).evolve(id=id, name=name)
    plans = {
        name: tuple(w.evolve(cues=(*w.cues, id)) if like in w.cues else w for w in getattr(show, name))
        for name in ("plan", "picture_plan")
    }
    return validated(show.evolve(cues=(*show.cues[:at], copy, *show.cues[at:]), **plans)), id


def put_cue(show: Show, cue: Cue) -> Show:
    return validated(show.evolve(cues=tuple(cue if c.id == cue.id else c for c in show.cues)))


def remove_cue(show: Show, id: str) -> Show:
    """Without a cue; wishes for this cue alone go with it."""
    cues = tuple(c for c in show.cues if c.id != id)
    return validated(show.evolve(cues=cues, plan=_not_in(show.plan, id), picture_plan=_not_in(show.picture_plan, id)))


def _not_in(plan: tuple[AnyWish, ...], cue: str) -> tuple[AnyWish, ...]:
    rest = [(w, tuple(c for c in w.cues if c != cue)) for w in plan]
    return tuple(w.evolve(cues=cues) for w, cues in rest if cues or not w.cues)


def move_cue(show: Show, id: str, to: int) -> Show:
    """The cue at another place in the order, counted from 0."""
    cue = show.cue(id)
    rest = [c for c in show.cues if c.id != id]
    rest.insert(max(0, min(to, len(rest))), cue)
    return show.evolve(cues=tuple(rest))


def started_from(show: Show, title: str) -> Show:
    """A new show of the same team: the rig and the people are kept, cues and their wishes are cleared."""
    return validated(
        show.evolve(
            title=title,
            date="",
            notes="",
            cues=(),
            plan=tuple(w for w in show.plan if not w.cues),
            picture_plan=tuple(w for w in show.picture_plan if not w.cues),
        )
    )
