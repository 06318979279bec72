"""Leads: which one joins two connectors, and what an adapter does to the signal."""

from msgspec import Struct

from kymaton.core.model import Port

XLR, TRS, TS, COMBO = "XLR", "TRS 6.3 mm", "TS 6.3 mm", "XLR or TRS"
MINI, MINI_MONO, PHONO = "3.5 mm stereo", "3.5 mm mono", "phono"
HDMI, BNC, RJ45, USB_A, USB_C, SPEAKER = "HDMI A", "BNC", "RJ45", "USB A", "USB C", "speaker"
VGA, RADIO = "VGA", "radio"
SPELLINGS = {
    "XLR or TRS 6.3 mm": COMBO,
    "3.5 mm TRS": MINI,
    "RCA": PHONO,
    "HDMI": HDMI,
}
PLAIN = {
    frozenset((XLR,)): "XLR",
    frozenset((TRS,)): "TRS 6.3 mm",
    frozenset((TS,)): "TS 6.3 mm",
    frozenset((MINI,)): "3.5 mm",
    frozenset((MINI_MONO,)): "3.5 mm mono",
    frozenset((PHONO,)): "phono",
    frozenset((HDMI,)): "HDMI",
    frozenset((BNC,)): "SDI",
    frozenset((RJ45,)): "network",
    frozenset((USB_A,)): "USB 3",
    frozenset((USB_C,)): "USB C",
    frozenset((USB_A, USB_C)): "USB A to C",
    frozenset((VGA,)): "VGA",
    frozenset((RADIO, RJ45)): "wireless network",
    frozenset((SPEAKER,)): "speaker lead",
    frozenset((XLR, TRS)): "XLR to TRS",
    frozenset((TS, TRS)): "TS 6.3 mm",
    frozenset((MINI, TRS)): "TRS to 3.5 mm",
    frozenset((MINI, TS)): "3.5 mm to 2 x TS",
    frozenset((MINI, PHONO)): "3.5 mm to 2 x phono",
    frozenset((PHONO, TS)): "phono to TS",
    frozenset((PHONO, TRS)): "phono to TS",
    frozenset((XLR, MINI)): "XLR to 3.5 mm",
    frozenset((XLR, TS)): "TS to XLR",
    frozenset((XLR, PHONO)): "phono to XLR",
    frozenset((MINI, MINI_MONO)): "3.5 mm",
    frozenset((XLR, MINI_MONO)): "XLR to 3.5 mm mono",
    frozenset((TS, MINI_MONO)): "TS to 3.5 mm mono",
    frozenset((TRS, MINI_MONO)): "TS to 3.5 mm mono",
}
DIGITAL = ("usb", "hdmi", "sdi", "network")
COMBO_TAKES = (XLR, TRS, TS)  # a socket for both; plugs of consumer gear come as TS


class CableMatch(Struct, frozen=True):
    """What joins two ports: the name of the lead; `adapts` when the two connectors differ."""

    kind: str
    adapts: bool


def lead_between(source: Port, target: Port) -> CableMatch | None:
    """The lead that joins two ports, None when there is none.

    What has no connector is inside a computer: it is chosen there from what else is inside, from what is on USB, or
    comes by its own socket of the same kind.
    """
    a, b = (SPELLINGS.get(p.connector, p.connector) for p in (source, target))
    if "acoustic" in (source.signal, target.signal):
        return CableMatch("air", False) if source.signal == target.signal else None
    if "bluetooth" in (source.signal, target.signal):
        return CableMatch("Bluetooth", False) if source.signal == target.signal else None
    if not a and not b:
        return CableMatch("held", False) if {source.signal, target.signal} <= set(DIGITAL) else None
    if not a or not b:
        inside, socket = (source, target) if not a else (target, source)
        chosen = inside.signal in DIGITAL and socket.signal in ("usb", inside.signal)
        return CableMatch("held", False) if chosen else None
    if COMBO in (a, b):
        other = b if a == COMBO else a
        order = COMBO_TAKES[::-1] if b == COMBO else COMBO_TAKES
        options = [PLAIN.get(frozenset((c, other))) for c in order]
        found = PLAIN.get(frozenset((other,))) if other in COMBO_TAKES else next((x for x in options if x), None)
        return None if found is None else CableMatch(found, other not in COMBO_TAKES)
    found = PLAIN.get(frozenset((a, b)))
    return None if found is None else CableMatch(found, a != b)


def fits(kind: str, source: Port, target: Port) -> bool:
    """Whether a lead of this kind can join these ports; kinds that are not known are believed."""
    wanted = lead_between(source, target)
    if kind in ("held", "air", "lead") or kind not in KNOWN or not (source.connector and target.connector):
        return True
    return wanted is not None and (wanted.kind == kind or kind in ALSO.get(wanted.kind, ()))


KNOWN = frozenset(PLAIN.values())
ALSO = {"TRS 6.3 mm": ("TS 6.3 mm",), "TS 6.3 mm": ("TRS 6.3 mm",), "3.5 mm to 2 x TS": ("TS 6.3 mm",)}
