"""What may not last the evening: plugs that slip, batteries that run out."""

from collections.abc import Iterable

from kymaton.core.checks.registry import Finding, rig_kind
from kymaton.core.checks.rigging import about
from kymaton.core.checks.wiring import found, joints
from kymaton.core.loadin.charging import changes_of, changes_text
from kymaton.core.model import Show
from kymaton.core.words import counted, number, the_device, the_port

LOCKLESS = ("HDMI", "USB", "3.5 mm", "TS ", "TRS ", "phono")  # held by friction alone


@rig_kind(plug_can_slip="{many} plugs on things that move have no lock")
def plug_can_slip(show: Show) -> Iterable[Finding]:
    """A plug without a lock on something that is worn, carried or pushed about."""
    for cable, from_, a, to, b in joints(show):
        for device, port, end in ((from_, a, cable.source), (to, b, cable.target)):
            if device.moves and port.connector.startswith(LOCKLESS):
                yield found(
                    "plug-can-slip", "caution",
                    f"the {port.connector} plug at {the_port(show, end)} has no lock, and "
                    f"{the_device(show, device.id).do('move')}",
                    "A small pull parts it during the show.", cable,
                    "Relieve the strain and tape it, or use a connector that locks.", item=the_port(show, end),
                )  # fmt: skip


@rig_kind(battery_too_short="{many} batteries may not last the show")
def battery_too_short(show: Show) -> Iterable[Finding]:
    """Devices whose battery does not last as long as the cues, and is not changed in time."""
    hours = sum(c.minutes for c in show.cues) / 60
    used = {end.partition("/")[0] for c in show.cables for end in (c.source, c.target)}
    for device in show.devices:
        battery, changes = device.battery_h, changes_of(show, device)
        if battery is None or changes is None or device.id not in used or device.mains:
            continue
        if battery.value - battery.plus_minus > hours or not (changes.before or changes.too_long):
            continue
        yield about(
            "battery-too-short", "caution",
            f"the battery of {the_device(show, device.id)} may not last the show",
            f"{number(battery.value, 1)} ± {number(battery.plus_minus, 1)} h ({battery.source}); the cues take "
            f"{number(hours, 1)} h. {_at_worst(hours - changes.least_h)}", device.id,
            changes_text(show, changes),
        )  # fmt: skip


def _at_worst(short_h: float) -> str:
    minutes = round(60 * short_h)
    return f"At worst it ends {counted(minutes, 'minute')} before the show." if minutes else "At worst it ends with it."
