"""Edits of devices: each takes a Show and gives a new one, or raises ShowError with one sentence."""

from kymaton.core.edits.cables import without_cables
from kymaton.core.edits.ids import free_id, owner
from kymaton.core.model.device import Control, ControlUse, Device, Port
from kymaton.core.model.show import Show, ShowError, validated


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
    return without_cables(show.evolve(devices=tuple(d for d in show.devices if d.id != id)), gone)


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
    return without_cables(show.evolve(devices=devices, cables=cables), gone)
