"""Edits of devices: each takes a Show and gives a new one, or raises ShowError with one sentence."""

from kymaton.core.edits.cables import without_cables
from kymaton.core.edits.ids import free_id, owner
from kymaton.core.model.device import Cable, Control, ControlUse, Device, Port, Value
from kymaton.core.model.show import Show, ShowError, validated, value_problem


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
        ends = {field: moved(control) for field, control in item.control_names.items()}
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


def replace_device(show: Show, id: str, by: Device) -> tuple[Show, tuple[str, ...]]:
    """Another device in the place of one, and what it could not keep, in words.

    Leads stay at ports of the same id, or else of the same name, the same way round; settings, in all cues and
    variants too, where the new device has such a control that takes the value.
    """
    old, new = show.device(id), with_id(by, id)
    ports = _alike(old, new)
    held = {c.id: c for c in new.controls}

    def moved(port: str | None) -> str | None:
        return port if port is None or owner(port) != id else ports.get(port)

    def taken(values: dict[str, Value]) -> dict[str, Value]:
        return {k: v for k, v in values.items() if owner(k) != id or (k in held and value_problem(held[k], v) is None)}

    kept = taken({c.id: c.value for c in old.controls})
    device = new.evolve(
        controls=tuple(c.evolve(value=kept.get(c.id, c.value)) for c in new.controls),
        **{name: getattr(old, name) for name in ("place", "inside", "mains", "shows", "owned")},
    )
    gone = {c.id for c in show.cables if moved(c.source) is None or moved(c.target) is None}
    lost = [f"the lead {show.port_label(c.source)} to {show.port_label(c.target)}" for c in show.cables if c.id in gone]
    in_cues = {k for c in show.cues for k in c.controls}
    lost += [c.name for c in old.controls if c.id not in kept and (c.id in in_cues or not _is_at_rest(c))]
    after = show.evolve(
        devices=tuple(device if d.id == id else d for d in show.devices),
        cables=tuple(
            _fitting(c.evolve(source=moved(c.source), target=moved(c.target)), device)
            for c in show.cables
            if c.id not in gone
        ),
        cues=tuple(c.evolve(controls=taken(c.controls), on_air=moved(c.on_air)) for c in show.cues),
        variants=tuple(v.evolve(controls=taken(v.controls)) for v in show.variants),
        picture_plan=tuple(w.evolve(picture=moved(w.picture) or w.picture) for w in show.picture_plan),
    )
    return without_cables(after, gone), tuple(lost)


def _is_at_rest(control: Control) -> bool:
    """Whether a control stands where nobody has set it: closed, at nothing, or as most are."""
    return control.kind == "choice" or control.value in (False, 0.0, control.minimum)


def _alike(old: Device, new: Device) -> dict[str, str]:
    """Which port of a new device takes what was at one of an old one: by its id, or else by its name."""
    found: dict[str, str] = {}
    for port in old.ports:
        same = [p for p in new.ports if p.direction == port.direction]
        fits = next((p for p in same if p.id == port.id), None) or next(
            (p for p in same if port.name and p.name.lower() == port.name.lower()), None
        )
        if fits is not None:
            found[f"{old.id}/{port.id}"] = f"{new.id}/{fits.id}"
    return found


def _fitting(cable: Cable, device: Device) -> Cable:
    """The cable without sides that its ends do not have any more."""
    channels = {f"{device.id}/{p.id}": p.channels for p in device.ports}
    fits = all(a <= channels.get(cable.source, a) and b <= channels.get(cable.target, b) for a, b in cable.channels)
    return cable if fits else cable.evolve(channels=())
