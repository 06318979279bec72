"""The figures of a device, each with its source: told, typed, and put back."""

import datetime
import re
from contextlib import suppress
from typing import Literal, cast

from msgspec import Struct

from kymaton.core.edits.devices import put_device
from kymaton.core.loadin.rates import bits_per_s
from kymaton.core.model import Device, Figure, Show, ShowError
from kymaton.core.model.figure import SOURCES, ZERO
from kymaton.core.model.loads import LOADS, Load
from kymaton.core.words import number

Quantity = Literal["delay_ms", "gain_db", "power_w", "battery_h"] | Load
UNITS: dict[Quantity, str] = {
    "delay_ms": "ms", "gain_db": "dB", "power_w": "W", "battery_h": "h", **{k: w.unit for k, w in LOADS.items()},
}  # fmt: skip
NAMES: dict[Quantity, str] = {
    "delay_ms": "delay", "gain_db": "gain", "power_w": "Power", "battery_h": "A battery lasts",
    **{k: w.name for k, w in LOADS.items()},
}  # fmt: skip
OF_DEVICE: tuple[Quantity, ...] = ("power_w", "battery_h")
ALSO: dict[str, dict[str, float]] = {  # what else a unit is typed as, and how much of it that is
    "ms": {"s": 1e3}, "h": {"min": 1 / 60}, "W": {"kW": 1e3}, "mA": {"A": 1e3}, "A": {"mA": 1e-3}, "kg": {"g": 1e-3},
    "cm": {"mm": 0.1, "m": 100.0}, "m": {"cm": 0.01},
}  # fmt: skip
RATES = {"Mbit/s": 1e6, "MB/s": 8e6}  # in bit/s
UNIT = r"\s*([A-Za-z]+(?:/s)?)??"  # none, if what follows may be its source
TYPED = re.compile(
    rf"^([+-]?\d+(?:\.\d+)?){UNIT}(?:\s*(?:±|\+-|\+/-)\s*(\d+(?:\.\d+)?){UNIT})?"
    r"(?:,?\s*(assumed|stated|measured)(?:\s+(\d{4}-\d{2}-\d{2}))?)?$",
    re.IGNORECASE,
)


class DeviceFigure(Struct, frozen=True):
    """One figure of a device; for delay and gain the routes (by number) that share it."""

    quantity: Quantity
    name: str
    figure: Figure
    routes: tuple[int, ...] = ()

    @property
    def unit(self) -> str:
        """ms, dB, W."""
        return UNITS[self.quantity]


def figures_of(device: Device) -> list[DeviceFigure]:
    """All figures of a device, delays first; routes that share one stand together, gains of 0 dB are left out."""
    found: list[DeviceFigure] = []
    of_routes: tuple[Quantity, ...] = ("delay_ms", "gain_db")
    for quantity in of_routes:
        groups: dict[tuple[str, Figure], list[int]] = {}
        for index, route in enumerate(device.routes):
            if quantity == "gain_db" and route.medium == "picture":
                continue
            key = (route.medium, getattr(route, quantity))
            groups.setdefault(key, []).append(index)
        for (medium, figure), routes in groups.items():
            if quantity == "delay_ms" or figure.value != 0.0:
                found.append(
                    DeviceFigure(quantity, _route_name(device, quantity, medium, routes), figure, tuple(routes))
                )
    said = {q: getattr(device, q) for q in OF_DEVICE} | device.loads
    return found + [DeviceFigure(q, NAMES[q], figure) for q, figure in said.items() if figure is not None]


def figure_called(device: Device, words: str) -> list[DeviceFigure]:
    """The figures of this name; one that the device may have and does not yet say begins as nothing, assumed."""
    low = words.lower()
    wanted = {"power": "power_w", "battery": "battery_h"} | {w.name.lower(): load for load, w in LOADS.items()}
    if low in wanted:
        quantity = cast(Quantity, wanted[low])
        said = next((f for f in figures_of(device) if f.quantity == quantity), None)
        return [said or DeviceFigure(quantity, NAMES[quantity], ZERO)]
    return [f for f in figures_of(device) if low in f.name.lower()]


def _route_name(device: Device, quantity: Quantity, medium: str, routes: list[int]) -> str:
    name = f"{medium.capitalize()} {NAMES[quantity]}"
    every = [i for i, r in enumerate(device.routes) if r.medium == medium]
    if routes == every:
        return name
    ports = {p.id: p.name or p.id for p in device.ports}
    ways = list(dict.fromkeys((ports[device.routes[i].source], ports[device.routes[i].target]) for i in routes))
    first = f"{name}, {ways[0][0]} to {ways[0][1]}"
    return first if len(ways) == 1 else f"{first} and {len(ways) - 1} more"


def read_figure(text: str, before: Figure, unit: str) -> Figure:
    """A figure as people type it: `83`, `83 ms ± 4`, `83 ± 4 measured 2026-11-20`. Raises ShowError.

    Without ± the old one stays only while the source does; a figure that is typed is stated unless it says more.
    It is in `unit`, or in one that is turned into it: 6000 kbit/s are 6 Mbit/s, 2 MB/s are 16.
    """
    said = TYPED.match(text.strip().replace("\N{MINUS SIGN}", "-"))
    if said is None:
        raise ShowError(f"'{text.strip()}' is not a figure: type 83, or 83 ± 4, or 83 ± 4 measured.")
    times, times_spread = _times(said[2], unit), _times(said[4] or said[2], unit)
    date = said[6] or ""
    if date:
        try:
            datetime.date.fromisoformat(date)
        except ValueError:
            raise ShowError(f"'{date}' is not a date like 2026-12-12.") from None
    source = (said[5] or ("stated" if before.source == "assumed" else before.source)).lower()
    kept = before.plus_minus if source == before.source else 0.0
    return Figure.checked(
        value=float(said[1]) * times,
        plus_minus=float(said[3]) * times_spread if said[3] else kept,
        source=source,
        date=date or (before.date if source == before.source else ""),
    )


def _times(typed: str | None, unit: str) -> float:
    """How many of the unit one of what was typed is. Raises ShowError."""
    if not typed or typed == unit:
        return 1.0
    known = {unit: 1.0} | ALSO.get(unit, {})
    likely = [times for name, times in known.items() if name.lower() == typed.lower()]
    if likely:
        return likely[0]
    if unit in RATES:
        with suppress(ShowError):
            return bits_per_s(f"1 {typed}")[0] / RATES[unit]
    raise ShowError(f"'{typed}' is no unit for this: {f'it is told in {unit}' if unit else 'say the number alone'}.")


def read_source(text: str, before: Figure) -> Figure:
    """The same figure with another source: `stated`, `measured 2026-11-20`. Raises ShowError."""
    word, _, date = text.strip().partition(" ")
    if word.lower() not in SOURCES:
        raise ShowError(f"'{text.strip()}' is not a source: assumed, stated or measured.")
    return read_figure(f"{before.value} ± {before.plus_minus} {word} {date}".strip(), before, "")


def put_figure(show: Show, device_id: str, at: DeviceFigure, figure: Figure) -> Show:
    """The show with another figure there. Raises ShowError for a delay or a power below nothing."""
    if at.quantity != "gain_db" and figure.value < 0:
        raise ShowError(f"{at.name} is not below 0 {at.unit}.")
    device = show.device(device_id)
    if at.quantity in LOADS:
        return put_device(show, device.evolve(loads={**device.loads, at.quantity: figure}))
    if not at.routes:
        return put_device(show, device.evolve(**{at.quantity: figure}))
    routes = tuple(r.evolve(**{at.quantity: figure}) if i in at.routes else r for i, r in enumerate(device.routes))
    return put_device(show, device.evolve(routes=routes))


def figure_text(figure: Figure, unit: str) -> str:
    """`80 ± 45 ms`, with as many decimals as it has."""
    spread = f" ± {_short(figure.plus_minus)}" if figure.plus_minus else ""
    return f"{_short(figure.value)}{spread} {unit}"


def source_text(figure: Figure) -> str:
    """Where a figure comes from, as people type it: `measured 2026-11-20`."""
    return f"{figure.source} {figure.date}".strip()


def _short(value: float) -> str:
    return number(value, next(d for d in (0, 1, 2, 3) if d == 3 or round(value, d) == value))
