"""Preamps inside devices: what stands behind a gain, and at what it clips there, before any fader can hide it."""

from msgspec import Struct

from kymaton.core.levels.port_levels import NOTHING, Level, Place, PortLevels, clip_of
from kymaton.core.model import ControlUse, Device, Route, Show
from kymaton.core.units import SILENT


class GainStage(Struct, frozen=True):
    """A gain and the socket before it. Behind it what the device does to sound at `source` adds up to `adds_db`;
    `clip_db` is what it takes there, in the unit of that socket (None: not known).

    What a device can take behind a gain is what clips its output, or a digital one of its outputs, with all that
    follows at unity.
    """

    control: str
    device: str
    source: Place
    adds_db: float
    clip_db: float | None

    def level(self, levels: PortLevels, sound: str) -> Level:
        """The level of a sound behind the gain."""
        before = levels.level(self.source, sound)
        return NOTHING if before == NOTHING else Level(before.typical + self.adds_db, before.peak + self.adds_db)

    def together(self, levels: PortLevels) -> Level:
        """All sounds behind the gain."""
        before = levels.together(self.source)
        return NOTHING if before == NOTHING else Level(before.typical + self.adds_db, before.peak + self.adds_db)

    def noise(self, levels: PortLevels) -> float:
        """The noise behind the gain."""
        return levels.noise.get(self.source, SILENT) + self.adds_db


def stages_of(levels: PortLevels) -> list[GainStage]:
    """The gains as they stand in a cue, worked out once."""
    known = levels.view.memo.get("gain stages")
    if known is None:
        known = levels.view.memo["gain stages"] = gain_stages(levels.show, levels.view.cue_id)
    assert isinstance(known, list)
    return known


def gain_stages(show: Show, cue: str | None) -> list[GainStage]:
    """Every gain of a show as it stands in a cue, once for each channel that comes into it."""
    found: dict[tuple[str, Place], GainStage] = {}
    for device in show.devices:
        gains = {c.id for c in device.controls if c.role == "gain"}
        for route in device.routes if gains else ():
            control = next((u.control for u in route.controls if u.control in gains), None)
            if control is None or route.medium != "sound":
                continue
            place = f"{device.id}/{route.source}", route.source_channel
            clip = _clip_behind(device, route)
            known = found.get((control, place))
            if known is None or (clip is not None and (known.clip_db is None or clip < known.clip_db)):
                adds = _adds_db(show, route, control, cue)
                if adds > SILENT:
                    found[control, place] = GainStage(control, device.id, place, adds, clip)
    return list(found.values())


def _clip_behind(device: Device, route: Route) -> float | None:
    """What the socket at the end takes, told as the level before what the route adds by itself."""
    clip = clip_of(next(p for p in device.ports if p.id == route.target))
    return None if clip is None else clip - route.gain_db.value


def _adds_db(show: Show, route: Route, control: str, cue: str | None) -> float:
    """What the controls of a route add up to its gain."""
    total = 0.0
    for use in route.controls:
        total += _of_use(show, use, cue)
        if use.control == control:
            break
    return total


def _of_use(show: Show, use: ControlUse, cue: str | None) -> float:
    if use.when is not None and show.value(use.when.control, cue) != use.when.value:
        return 0.0
    control, value = show.control(use.control), show.value(use.control, cue)
    if use.gains is not None:
        return use.gains.get(str(value), SILENT)
    return float(value) if control.kind == "level" else 0.0
