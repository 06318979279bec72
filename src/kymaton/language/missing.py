"""What is to be bought, and the cheapest adequate way for each: to buy it, to go on without it, or another way."""

from msgspec import Struct

from kymaton.core.checks.report import Report
from kymaton.core.errors import Progress, part_of
from kymaton.core.loadin.gear import items_of, money_of
from kymaton.core.model import Show, ShowError
from kymaton.core.planning.day import told, ways_without
from kymaton.core.words import counted, joined, plain
from kymaton.language.alternatives import applied


class Option(Struct, frozen=True):
    """One way to do about a missing thing: what it costs, and what is lost by it (sentences); None: nobody said.

    `show` is the rig with it; None where it stays as it is.
    """

    name: str
    price: float | None
    lost: tuple[str, ...]
    show: Show | None = None

    @property
    def cost(self) -> str:
        """`300 to pay`, `no price`."""
        return "no price" if self.price is None else f"{plain(self.price, 2)} to pay"


class Missing(Struct, frozen=True):
    """A device that is to be bought, with every option, the best first: nothing lost, then the least to pay."""

    device: str
    options: tuple[Option, ...]


def missing_of(show: Show, progress: Progress = lambda _: True) -> list[Missing]:
    """Every device that is to be bought. Raises Stopped."""
    wanted = [d.id for d in show.devices if d.owned == "to buy"]
    found = []
    for at, device in enumerate(wanted):
        part = part_of(progress, at / len(wanted), (at + 1) / len(wanted))
        found.append(Missing(device, tuple(_options(show, device, part or progress))))
    return found


def told_missing(show: Show, every: list[Missing]) -> str:
    """How many are to be bought, for how much, and which of them need not be, each looked at by itself."""
    money = money_of(items_of(show))
    price = f"{plain(money.to_pay, 2)} to pay" if money.to_pay else "no price is known"
    text = f"{counted(len(every), 'device is', 'devices are')} to be bought: {price}."
    without = [show.device(m.device).name for m in every if m.options[0].show is not None and not m.options[0].lost]
    if without:
        return f"{text} Each by itself, {joined(without)} need not be: nothing is lost."
    return f"{text} None can be done without unless something is lost."


def _options(show: Show, device: str, progress: Progress) -> list[Option]:
    price = show.device(device).loads["price"].value if "price" in show.device(device).loads else None
    without = ways_without(show, device, progress)[0]
    found = [Option("buy it", price, ()), Option(told(without), 0.0, without.lost, without.show)]
    before = {f.key for f in Report(show).findings if f.severity == "fault"}
    owed = money_of(items_of(show)).to_pay - (price or 0.0)
    for way in show.alternatives:
        try:
            after = applied(show, way)
        except ShowError:
            continue
        if any(d.id == device and d.owned == "to buy" for d in after.devices):
            continue  # it has to be bought there as well
        faults = [f for f in Report(after).findings if f.severity == "fault" and f.key not in before]
        lost = tuple(dict.fromkeys(f.sentence for f in faults))
        price_there = max(0.0, money_of(items_of(after)).to_pay - owed)
        found.append(Option(f"the way {way.name}", price_there, lost, after))
    return sorted(found, key=lambda o: (bool(o.lost), o.price is None, o.price or 0.0))
