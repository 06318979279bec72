"""What may not last the evening: plugs that slip, batteries that run out."""

from collections.abc import Iterable

from kymaton.core.checks.registry import Finding, rig_kind
from kymaton.core.checks.rigging import about
from kymaton.core.checks.wiring import found, joints
from kymaton.core.model import Show
from kymaton.core.words import lowered, number

LOCKLESS = ("HDMI", "USB", "3.5 mm", "TS ", "TRS ", "phono")  # held by friction alone


@rig_kind("plug-can-slip")
def plug_can_slip(show: Show) -> Iterable[Finding]:
    """A plug without a lock on something that is worn, carried or pushed about."""
    for cable, from_, a, to, b in joints(show):
        for device, port in ((from_, a), (to, b)):
            if device.moves and port.connector.startswith(LOCKLESS):
                yield found(
                    "plug-can-slip", "caution",
                    f"{lowered(device.name)} moves, and its {port.connector} plug has no lock",
                    "A small pull parts it during the show.", cable,
                    "Relieve the strain and tape it, or use a connector that locks.",
                )  # fmt: skip


@rig_kind("battery-too-short")
def battery_too_short(show: Show) -> Iterable[Finding]:
    hours = sum(c.minutes for c in show.cues) / 60
    used = {end.partition("/")[0] for c in show.cables for end in (c.source, c.target)}
    for device in show.devices:
        battery = device.battery_h
        if battery is None or device.id not in used or battery.value - battery.plus_minus > hours:
            continue
        least = battery.value - battery.plus_minus
        yield about(
            "battery-too-short", "caution",
            f"the battery of {lowered(device.name)} may not last the show",
            f"{number(battery.value, 1)} ± {number(battery.plus_minus, 1)} h ({battery.source}); the cues take "
            f"{number(hours, 1)} h. At worst it ends {number(hours - least, 1)} h before the end.", device.id,
            "Put in a fresh one at a break, or power it by a lead.",
        )  # fmt: skip
