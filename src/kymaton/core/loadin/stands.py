"""What tips and what gets hot: stands with an arm, and devices in a closed case.

A stand tips over the edge of its foot when what hangs out beyond that edge turns harder than what stands inside.
With a foot of radius r and a weight w₀ in its middle, a weight w at an arm a tips it when w·(a − r) > w₀·r; half as
much again is wanted as a margin (chosen), and what is missing is a sandbag on the foot opposite, 2r behind the edge. A
closed case sheds k·A·ΔT: about 5.5 W for each square metre and kelvin (painted sheet steel, a usual figure), its floor
left out, 15 K warmer inside than out (chosen).
"""

from collections.abc import Iterator

from msgspec import Struct

from kymaton.core.loadin.draw import watts
from kymaton.core.model import Device, Show

FOOT_M, FOOT_KG = 0.3, 3.0  # of a usual stand
TIP_MARGIN = 1.5
SHED_W, WARMER_K = 5.5, 15.0
UNIT_M, WIDE_M = 0.04445, 0.55  # IEC 60297
DEEP_CM = 45.0  # of a usual case, with its plugs


class Tipping(Struct, frozen=True):
    """A stand that may tip: sandbag in kg that it takes."""

    device: str
    weight_kg: float
    arm_m: float
    sandbag_kg: float


def tipping(show: Show) -> Iterator[Tipping]:
    """Every stand that wants a sandbag, by the weights and arms that were said."""
    for device in show.devices:
        weight, arm = device.loads.get("weight_kg"), device.loads.get("arm_m")
        if weight is None or arm is None:
            continue
        bag = sandbag_kg(weight.value + weight.plus_minus, arm.value + arm.plus_minus)
        if bag > 0:
            yield Tipping(device.id, weight.value, arm.value, bag)


def sandbag_kg(weight_kg: float, arm_m: float) -> float:
    """How heavy a sandbag on the foot behind has to be, in kg; 0 where none is wanted."""
    turns = TIP_MARGIN * weight_kg * (arm_m - FOOT_M)
    return max(0.0, (turns - FOOT_KG * FOOT_M) / (2 * FOOT_M))


class Case(Struct, frozen=True):
    """A case with devices built in: units, heat in W against what it sheds closed, the deepest in cm."""

    name: str
    devices: tuple[str, ...]
    units: float
    watts: float
    sheds: float
    deepest_cm: float

    @property
    def is_hot(self) -> bool:
        """Whether it gets too warm with its lids on."""
        return self.watts > self.sheds

    @property
    def is_deep(self) -> bool:
        """Whether something is deeper than a usual case."""
        return self.deepest_cm > DEEP_CM


def cases_of(show: Show) -> list[Case]:
    """Every case in which something is built in: that has a height in a rack and travels there."""
    by_case: dict[str, list[Device]] = {}
    for device in show.devices:
        if device.gear.case and "rack_u" in device.loads:
            by_case.setdefault(device.gear.case, []).append(device)
    found = []
    for name, here in by_case.items():
        units = sum(d.loads["rack_u"].value for d in here)
        heat = sum(f.value for d in here if (f := watts(d)) is not None)
        deepest = max((d.loads["depth_cm"].value for d in here if "depth_cm" in d.loads), default=0.0)
        found.append(Case(name, tuple(d.id for d in here), units, heat, shed_w(units, deepest or DEEP_CM), deepest))
    return found


def shed_w(units: float, depth_cm: float) -> float:
    """What a closed case of so many units sheds, in W."""
    high, deep = units * UNIT_M, depth_cm / 100
    area = WIDE_M * deep + 2 * high * (WIDE_M + deep)
    return SHED_W * area * WARMER_K
