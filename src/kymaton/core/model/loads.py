"""What a device takes and gives beside sound and picture: USB, low voltage, weight, room in a rack, money.

Each is a figure with its source. What a device does not say is taken as typical of its kind (`kymaton.core.loadin`).
"""

from typing import Literal

from msgspec import Struct

from kymaton.core.model.record import Id, NotNegative, Positive, Record

Load = Literal[
    "sends_mbit_s", "usb_mbit_s", "usb_mb_s", "usb_ma", "gives_w", "wants_w", "supply_v", "supply_a", "encodes_mpx_s",
    "rack_u", "depth_cm", "weight_kg", "arm_m", "price",
]  # fmt: skip


class LoadWords(Struct, frozen=True):
    """How a load is called in lines and tables, and its unit."""

    name: str
    unit: str
    about: str


LOADS: dict[Load, LoadWords] = {
    "sends_mbit_s": LoadWords("sending rate", "Mbit/s", "what an encoder sends to each platform, or a call from here"),
    "usb_mbit_s": LoadWords("USB rate", "Mbit/s", "at which it talks on USB: 480, 5000, 10000"),
    "usb_mb_s": LoadWords("USB need", "MB/s", "what it reserves on USB"),
    "usb_ma": LoadWords("USB current", "mA", "what it takes from its USB socket"),
    "gives_w": LoadWords("charging power", "W", "what it can charge a computer with"),
    "wants_w": LoadWords("charging need", "W", "what it has to be charged with to last"),
    "supply_v": LoadWords("supply voltage", "V", "low voltage that it wants"),
    "supply_a": LoadWords("supply current", "A", "current that it takes at that voltage"),
    "encodes_mpx_s": LoadWords("encoding speed", "Mpx/s", "picture points a second that it can encode"),
    "rack_u": LoadWords("rack height", "U", "units in a rack (44.45 mm, IEC 60297)"),
    "depth_cm": LoadWords("depth", "cm", "with its plugs"),
    "weight_kg": LoadWords("weight", "kg", ""),
    "arm_m": LoadWords("arm", "m", "how far from its stand it hangs"),
    "price": LoadWords("price", "", "in the money that the team counts in"),
}


class Gear(Record, frozen=True, kw_only=True):
    """Whose a device is and what becomes of it: from whom it is borrowed, when it goes back, bought used or new."""

    lender: str = ""
    back: str = ""
    used: bool = False
    case: str = ""


class Stock(Record, frozen=True, kw_only=True):
    """Leads or adapters that are there, or to be bought: how many of a kind, and how long; `price` of each."""

    kind: str
    many: int = 1
    length_m: NotNegative = 0.0
    owned: Literal["owned", "borrowed", "to buy"] = "owned"
    price: NotNegative = 0.0
    case: str = ""


class Run(Record, frozen=True, kw_only=True):
    """How a lead goes from one place or device to another: metres along the floor, corners, metres up a wall.

    `crossing_m` of it lie where people walk.
    """

    source: Id
    target: Id
    metres: NotNegative
    corners: int = 0
    up_m: NotNegative = 0.0
    crossing_m: NotNegative = 0.0


class Supply(Record, frozen=True, kw_only=True):
    """A circuit, a strip or a brick by its name, as devices say where they take their power from.

    `hangs_on` is the supply that feeds it.
    """

    name: str
    volts: Positive = 230.0
    amperes: Positive | None = None
    hangs_on: str = ""


class Meeting(Record, frozen=True, kw_only=True):
    """A port that is to meet a socket of the house of which nobody knows yet: one of these connectors."""

    port: str
    sockets: tuple[str, ...]


class Tick(Record, frozen=True, kw_only=True):
    """Something done on a sheet: `laid`, `packed` or `back`, which item, and when."""

    sheet: Literal["laid", "packed", "back", "done"]
    item: str
    date: str = ""
