"""Power: what hangs on each circuit, strip and brick, against what it gives. An estimate that decides nothing.

What devices draw adds up to the supplies that feed theirs: bricks lose a part of it. A usual circuit is 16 A at 230 V,
of which four fifths are used for hours at most. The ± of devices add as independent ones do (root of the sum of
squares). Local codes and a licensed electrician decide.
"""

import math
from collections.abc import Iterator

from msgspec import Struct

from kymaton.core.loadin.draw import watts
from kymaton.core.loadin.verdict import Fits, verdict
from kymaton.core.model import Device, Figure, Show, Supply
from kymaton.core.words import joined, number, plain

USUAL_A, USUAL_V = 16.0, 230.0
MARGIN = 0.8  # of it that is used for hours at most; usual
BRICK = 0.85  # of what a low-voltage supply takes it gives on; typical
LOW_V = 60.0  # below: low voltage (extra-low of IEC 60364-4-41 is up to 120 V of direct current)
CAUTION = "Local codes and a licensed electrician decide."
STRIPS = ("strip", "reel", "extension", "block", "multi")


class Feed(Struct, frozen=True):
    """What hangs on one supply: amperes needed and given at its volts; `unknown` are devices of unknown power."""

    name: str
    volts: float
    devices: tuple[str, ...]
    supplies: tuple[str, ...]
    watts: float
    plus_minus: float
    amperes: float
    unknown: tuple[str, ...]
    assumed: bool

    @property
    def there_w(self) -> float:
        """What it gives, in W."""
        return self.amperes * self.volts

    @property
    def allowed_w(self) -> float:
        """Of that what may be used for hours."""
        return MARGIN * self.there_w

    @property
    def fits(self) -> Fits:
        """Whether it carries it with its margin, as far as is known."""
        return verdict(self.watts, self.plus_minus, self.allowed_w)

    @property
    def is_low(self) -> bool:
        """Whether it is a low-voltage supply."""
        return self.volts < LOW_V

    @property
    def sentence(self) -> str:
        """What is drawn, in words."""
        part = f"{number(100 * MARGIN)} % of {plain(self.amperes, 2)} A at {plain(self.volts, 2)} V"
        if self.is_low:
            drawn, spread, allowed = self.watts / self.volts, self.plus_minus / self.volts, MARGIN * self.amperes
            text = f"{number(drawn, 1)} ± {number(spread, 1)} A of {number(allowed, 1)} A, {part}"
        else:
            text = f"{number(self.watts)} ± {number(self.plus_minus)} W of {number(self.allowed_w)} W, {part}"
        more = f", without {joined(self.unknown)}, whose power nobody has said" if self.unknown else ""
        return text + more


def supply_called(show: Show, name: str) -> Supply:
    """The supply of this name, as it was told or a usual one."""
    return next((s for s in show.supplies if s.name == name), Supply(name=name))


def supply_names(show: Show) -> list[str]:
    """Every supply that is named anywhere."""
    told = [n for s in show.supplies for n in (s.name, s.hangs_on)]
    return list(dict.fromkeys(n for n in (*(d.mains for d in show.devices), *told) if n))


def feeds_of(show: Show) -> list[Feed]:
    """Every supply that is named, with what hangs on it."""
    names = supply_names(show)
    made: dict[str, Feed] = {}

    def feed(name: str) -> Feed:
        if name not in made:
            made[name] = _feed(show, name, [feed(n) for n in names if supply_called(show, n).hangs_on == name])
        return made[name]

    return [feed(name) for name in names]


def _feed(show: Show, name: str, below: list[Feed]) -> Feed:
    supply = supply_called(show, name)
    here = [d for d in show.devices if d.mains == name]
    drawn = [(d, draw_on(supply, d)) for d in here]
    known = [f for _, f in drawn if f is not None]
    upstream = [(f.watts / _share(f, supply), f.plus_minus / _share(f, supply)) for f in below]
    total = sum(f.value for f in known) + sum(w for w, _ in upstream)
    spread = math.sqrt(sum(f.plus_minus**2 for f in known) + sum(s**2 for _, s in upstream))
    return Feed(
        name, supply.volts, tuple(d.name for d in here), tuple(f.name for f in below), total, spread,
        supply.amperes or USUAL_A, tuple(d.name for d, f in drawn if f is None), supply.amperes is None,
    )  # fmt: skip


def _share(below: Feed, above: Supply) -> float:
    """What comes on of what is taken: a brick between two voltages loses some."""
    return BRICK if below.volts != above.volts else 1.0


def draw_on(supply: Supply, device: Device) -> Figure | None:
    """What a device takes from a supply, in W: of a low-voltage one its current times the volts, where that is said."""
    current = device.loads.get("supply_a")
    if supply.volts < LOW_V and current is not None:
        return Figure(value=current.value * supply.volts, plus_minus=current.plus_minus * supply.volts)
    return watts(device)


def root_of(show: Show, name: str) -> str:
    """The circuit on which a supply hangs in the end."""
    while above := supply_called(show, name).hangs_on:
        name = above
    return name


def is_strip(name: str) -> bool:
    """Whether a supply is a strip or a reel, by what it is called."""
    return any(word in name.lower() for word in STRIPS)


def chained(show: Show) -> Iterator[tuple[str, str]]:
    """Strips that hang on strips."""
    for supply in show.supplies:
        if supply.hangs_on and is_strip(supply.name) and is_strip(supply.hangs_on):
            yield supply.name, supply.hangs_on


def wrong_voltage(show: Show) -> Iterator[tuple[Device, float, Supply]]:
    """Devices on a supply of another voltage than they want: (device, V wanted, supply)."""
    for device in show.devices:
        wants = device.loads.get("supply_v")
        supply = supply_called(show, device.mains) if device.mains else None
        if wants is not None and supply is not None and abs(supply.volts - wants.value) > 0.1 * wants.value:
            yield device, wants.value, supply


def total_w(show: Show) -> Figure:
    """What the whole rig draws here, whether or not somebody has said where it is plugged in."""
    known = [f for d in show.devices if (f := watts(d)) is not None]
    return Figure(
        value=sum(f.value for f in known), plus_minus=math.sqrt(sum(f.plus_minus**2 for f in known)), source="assumed"
    )
