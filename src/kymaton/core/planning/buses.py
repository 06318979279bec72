"""One more bus for a listener: a free one of the same device with a lead moved to it, or a copy of the one there is."""

from kymaton.core.edits.controls import Change, apply
from kymaton.core.edits.ids import free_id
from kymaton.core.model import Cable, Control, ControlUse, Show


def bus_of(show: Show, control: str) -> str | None:
    """The output (device/port) that a send or fader feeds; None where it feeds several, or none."""
    device = show.device(control.partition("/")[0])
    outputs = {r.target for r in device.routes if r.medium == "sound" and control in {u.control for u in r.controls}}
    return f"{device.id}/{outputs.pop()}" if len(outputs) == 1 else None


def sends_of(show: Show, bus: str) -> dict[tuple[str, int], str]:
    """The sends that feed a bus, by the input and its channel."""
    device, _, port = bus.partition("/")
    found: dict[tuple[str, int], str] = {}
    for route in show.device(device).routes:
        if route.target == port:
            for use in route.controls:
                if show.control(use.control).role == "send":
                    found.setdefault((route.source, route.source_channel), use.control)
    return found


def free_buses(show: Show, bus: str) -> list[str]:
    """Outputs of the same device, fed by sends from as many channels, that no lead leaves."""
    device, port = show.device(bus.partition("/")[0]), show.port(bus)
    taken = {c.source for c in show.cables}
    channels = sends_of(show, bus).keys()
    return [
        f"{device.id}/{p.id}"
        for p in device.ports
        if p.id != port.id
        and f"{device.id}/{p.id}" not in taken
        and (p.signal, p.channels, p.connector) == (port.signal, port.channels, port.connector)
        and sends_of(show, f"{device.id}/{p.id}").keys() >= channels
    ]


def sends_alike(show: Show, bus: str, other: str) -> Show:
    """The show with the sends of one bus set on another as well, in every cue."""
    there = sends_of(show, other)
    changes = [
        Change(cue, there[channel], show.value(there[channel], cue), show.value(here, cue))
        for channel, here in sends_of(show, bus).items()
        if channel in there
        for cue in (None, *(c.id for c in show.cues if here in c.controls))
    ]
    return apply(show, changes)


def with_lead_from(show: Show, cable: Cable, source: str) -> Show:
    """The show with a lead plugged into another output."""
    moved = cable.evolve(id=free_id(f"{source}-to-{cable.target}", (c.id for c in show.cables)), source=source)
    return show.evolve(cables=tuple(moved if c.id == cable.id else c for c in show.cables))


def with_bus_like(show: Show, bus: str) -> tuple[Show, str]:
    """The show with a device that has one more bus, set like one that it has; and the new output."""
    device, port = show.device(bus.partition("/")[0]), show.port(bus)
    new = free_id(port.id, (p.id for p in device.ports))
    shared = {u.control for r in device.routes if r.target != port.id for u in r.controls}
    own = {u.control for r in device.routes if r.target == port.id for u in r.controls} - shared

    def name(control: str) -> str:
        return f"{device.id}/{new}/{control.partition('/')[2]}" if control in own else control

    def renamed(use: ControlUse) -> ControlUse:
        when = use.when.evolve(control=name(use.when.control)) if use.when is not None else None
        return use.evolve(control=name(use.control), when=when)

    def copied(control: Control) -> Control:
        return control.evolve(id=name(control.id), name=f"{control.name} (new bus)")

    routes = tuple(
        r.evolve(target=new, controls=tuple(map(renamed, r.controls))) for r in device.routes if r.target == port.id
    )
    made = device.evolve(
        ports=(*device.ports, port.evolve(id=new, name=f"{port.name or port.id} (new bus)")),
        routes=(*device.routes, *routes),
        controls=(*device.controls, *(copied(c) for c in device.controls if c.id in own)),
    )
    cues = tuple(
        c.evolve(controls={**c.controls, **{name(k): v for k, v in c.controls.items() if k in own}}) for c in show.cues
    )
    return show.evolve(devices=tuple(made if d.id == device.id else d for d in show.devices), cues=cues), (
        f"{device.id}/{new}"
    )
