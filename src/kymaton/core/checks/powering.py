"""Power that a microphone takes from its input: phantom power, and the few volts of a 3.5 mm socket."""

from collections.abc import Iterable

from kymaton.core.checks.registry import Finding, rig_kind
from kymaton.core.checks.wiring import found, joints
from kymaton.core.model import Cable, Port, Show
from kymaton.core.words import sentence, the_device, the_port


@rig_kind(phantom_missing="{many} microphones get no phantom power")
def phantom_missing(show: Show) -> Iterable[Finding]:
    """Microphones that need phantom power (IEC 61938) and get none, by whatever passes it on."""
    for cable, from_, a, to, _ in joints(show):
        if a.phantom != "needed":
            continue
        at, last = _end_of_phantom(show, cable)
        switched = last.phantom_control
        if last.phantom == "offered" and (switched is None or show.control(switched).value != "off"):
            continue
        off = last.phantom == "offered" and switched is not None
        where = the_port(show, at)
        yield found(
            "phantom-missing", "fault", f"{the_device(show, from_.id).do('get')} no phantom power",
            f"It is silent without; {where} has it off." if off else f"It is silent without; {where} gives none.",
            cable, "" if off else f"Plug it into an input with 48 V, not into {the_device(show, to.id)}.",
            settings=((switched, "on"),) if off and switched is not None else (),
        )  # fmt: skip


def _end_of_phantom(show: Show, cable: Cable) -> tuple[str, Port]:
    """The input from which phantom power comes to a lead: behind stage boxes and what else passes it, with its port."""
    at, seen = cable.target, {cable.target}
    while True:
        device, port = show.ports[at]
        outs = [f"{device.id}/{r.target}" for r in device.routes if f"{device.id}/{r.source}" == at]
        passes = [o for o in outs if port.phantom == "tolerated" and show.port(o).phantom == "tolerated"]
        after = next(
            (c.target for c in show.cables if c.source in passes and c.plugged and c.target in show.ports), None
        )
        if after is None or after in seen:
            return at, port
        seen.add(after)
        at = after


@rig_kind(phantom_can_hurt="{many} devices may not like phantom power")
def phantom_can_hurt(show: Show) -> Iterable[Finding]:
    """Outputs that phantom power can damage: where it can be given, and worse where it is on."""
    for cable, from_, a, _, b in joints(show):
        if a.signal in ("mic", "line") and a.phantom == "none" and b.phantom == "offered" and a.connector == "XLR":
            switched = show.control(b.phantom_control).value if b.phantom_control is not None else ""
            if switched == "off":
                continue
            on = switched == "on"
            yield found(
                "phantom-can-hurt", "caution" if on else "note",
                f"{the_device(show, from_.id)} may not like phantom power",
                f"{sentence(the_port(show, cable.target))} {'gives' if on else 'can give'} 48 V.",
                cable, "Switch it off, wait a little, then plug." if on
                else "See that it is off at this input before plugging in.",
                settings=((b.phantom_control, "off"),) if on and b.phantom_control is not None else (),
            )  # fmt: skip


@rig_kind(plug_in_power_missing="{many} microphones get no plug-in power")
def plug_in_power(show: Show) -> Iterable[Finding]:
    """Microphones that need plug-in power and get none."""
    for cable, from_, a, to, b in joints(show):
        if a.plug_in_power != "needed" or b.plug_in_power == "offered":
            continue
        if b.phantom == "offered":
            text, why = (
                f"{the_device(show, from_.id).do('get')} 48 V at most, and a few volts are wanted",
                ("Phantom power on the wrong contacts can destroy it; without it the microphone is silent."),
            )
        else:
            text = f"{the_device(show, from_.id).do('get')} no plug-in power"
            why = f"It is silent without; {the_device(show, to.id).do('give')} none at this socket."
        yield found(
            "plug-in-power-missing", "fault", text, why, cable, "Put an adapter with plug-in power between them."
        )
