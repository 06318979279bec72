"""Gear and money: what is owned, borrowed and to be bought, what it comes to, and where a spare is wanted."""

from collections.abc import Iterator

from msgspec import Struct
from msgspec.structs import replace

from kymaton.core.checks.rigging import needed_by_audience
from kymaton.core.loadin.runs import is_lead
from kymaton.core.loadin.stock import taken_from
from kymaton.core.model import Device, Show
from kymaton.core.model.device import Ownership

ELSEWHERE = ("call", "stream", "viewer")  # what nobody carries


class Item(Struct, frozen=True):
    """Something that is carried: a device, or leads or adapters of one kind and length."""

    name: str
    detail: str
    many: int
    owned: Ownership
    price: float  # of one; 0 where nobody said
    lender: str = ""
    back: str = ""
    used: bool = False
    case: str = ""
    device: str = ""
    again: int = 0  # how many of this kind and length stand before it: in another case, owned by another

    @property
    def key(self) -> str:
        """What a tick names it by: `device:desk`, `XLR 10 m`, `XLR 10 m (2)`."""
        name = f"device:{self.device}" if self.device else f"{self.name} {self.detail}".strip()
        return f"{name} ({self.again + 1})" if self.again else name


class Money(Struct, frozen=True):
    """What it all is worth, what of it is owned or borrowed, and what is to be paid; `unknown` have no price."""

    total: float
    owned: float
    borrowed: float
    to_pay: float
    unknown: tuple[str, ...]


def is_carried(device: Device) -> bool:
    """Whether a device is a thing that somebody brings."""
    return device.kind not in ELSEWHERE and device.inside is None and not device.kind.startswith("virtual")


def items_of(show: Show) -> list[Item]:
    """All that is carried: devices, then leads that are in stock, then leads that are to be bought."""
    found = []
    for device in show.devices:
        if is_carried(device):
            price = device.loads["price"].value if "price" in device.loads else 0.0
            gear = device.gear
            found.append(
                Item(device.name, device.detail, 1, device.owned, price, gear.lender, gear.back, gear.used, gear.case,
                     device.id)
            )  # fmt: skip
    for stock in show.stock:
        length = f"{stock.length_m:g} m" if stock.length_m else ""
        found.append(Item(stock.kind, length, stock.many, stock.owned, stock.price, case=stock.case))
    seen: dict[str, int] = {}
    told_apart = []
    for item in (*found, *_bought(show)):
        told_apart.append(replace(item, again=seen.get(item.key, 0)))
        seen[item.key] = seen.get(item.key, 0) + 1
    return told_apart


def _bought(show: Show) -> Iterator[Item]:
    """Leads for which nothing that is there reaches, where somebody has said what is there."""
    if not show.stock:
        return
    wanted: dict[tuple[str, float], int] = {}
    for taken in taken_from(show):
        if taken.item is None:
            key = (taken.kind, taken.buy_m)
            wanted[key] = wanted.get(key, 0) + 1
    for (kind, metres), many in wanted.items():
        yield Item(kind, f"{metres:g} m", many, "to buy", 0.0)


def money_of(items: list[Item]) -> Money:
    """What items come to."""

    def worth(owned: Ownership) -> float:
        return sum(i.many * i.price for i in items if i.owned == owned)

    own, lent, buy = worth("owned"), worth("borrowed"), worth("to buy")
    nameless = tuple(f"{i.name} {i.detail}".strip() for i in items if i.owned == "to buy" and not i.price)
    return Money(own + lent + buy, own, lent, buy, nameless)


class Spare(Struct, frozen=True):
    """Something that the stream hangs on, and what there is in its place; empty: nothing."""

    device: str
    spares: tuple[str, ...]


def spares_of(show: Show) -> list[Spare]:
    """For every device without which the audience hears nothing, what stands by: one of its kind that is not in use."""
    used = {end.partition("/")[0] for c in show.cables for end in (c.source, c.target)}
    found = []
    for id in needed_by_audience(show):
        device = show.device(id)
        if not is_carried(device):
            continue
        idle = tuple(d.id for d in show.devices if d.kind == device.kind and d.id not in used)
        found.append(Spare(id, idle))
    return found


def spare_leads(show: Show) -> list[tuple[str, float]]:
    """One lead more of each kind that is laid, as long as the longest of them."""
    longest: dict[str, float] = {}
    for taken in taken_from(show):
        if any(is_lead(show.cable(c)) for c in taken.cables):
            longest[taken.kind] = max(longest.get(taken.kind, 0.0), taken.metres)
    return sorted(longest.items())
