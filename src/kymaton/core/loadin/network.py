"""The network: who is in it and how, an address for each that stays the same at home and away, rates inside the house.

A router of one's own keeps its own network wherever its uplink is plugged in; it must only not be the network of the
house. Private networks are those of RFC 1918; the ones that routers come with are avoided.
"""

import ipaddress
from collections.abc import Iterator

from msgspec import Struct

from kymaton.core.loadin.rates import said_rate
from kymaton.core.loadin.uplink import call_rate, is_stream, rate_from
from kymaton.core.loadin.verdict import Fits, verdict
from kymaton.core.model import Cable, Device, Figure, Show
from kymaton.core.nets import net_of

OURS = ipaddress.IPv4Network("10.77.7.0/24")  # chosen: no router comes with it
USUAL = tuple(
    ipaddress.IPv4Network(n)
    for n in ("192.168.0.0/24", "192.168.1.0/24", "192.168.2.0/24", "192.168.8.0/24", "192.168.178.0/24",
              "10.0.0.0/24", "10.0.1.0/24", "10.1.1.0/24", "172.16.0.0/24")
)  # fmt: skip
FIRST = 11  # below: the router (1) and what it gives out for a while
CONTROLLED = ("switcher", "desk", "camera")  # what panels and programs reach over the network
AWAY = ("call", "stream")
WIRED_BIT_S, WIRELESS_BIT_S = 1e9, 50e6  # a gigabit socket; what wireless really gives in a full room (typical)
SHARE = 0.7
RELAY = Figure(value=15e6, plus_minus=10e6)  # a picture from room to room; typical
CHANNEL_BIT_S = 48000 * 24 * 1.1  # of network audio, with its headers (about)


class Member(Struct, frozen=True):
    """A device in the network: how it is joined, its address, and whether that was said."""

    device: str
    wireless: bool
    address: str
    said: bool
    why: str


class Traffic(Struct, frozen=True):
    """What goes through one device's lead to the network, or by radio of all that share it, in bit/s."""

    devices: tuple[str, ...]
    wireless: bool
    rate: Figure
    there: float

    @property
    def fits(self) -> Fits:
        """Whether it has room."""
        return verdict(self.rate.value, self.rate.plus_minus, SHARE * self.there)

    @property
    def sentence(self) -> str:
        """In words."""
        how = "wireless" if self.wireless else "by lead"
        return f"{said_rate(self.rate.value)} {how}, of {said_rate(SHARE * self.there)}"


def router_of(show: Show) -> Device | None:
    """The team's own router, if there is one."""
    return next((d for d in show.devices if d.kind == "router"), None)


def members_of(show: Show) -> list[Member]:
    """Everything in the network, with its address: as it was said, or the next that is free."""
    net, free, found = network_of(show), _free(show), []
    plugged: dict[str, list[Cable]] = {}
    for cable in show.cables:
        for end in {cable.source.partition("/")[0], cable.target.partition("/")[0]} if cable.plugged else ():
            plugged.setdefault(end, []).append(cable)
    for device in show.devices:
        why = _why(show, device, plugged.get(device.id, []))
        if not why and not device.address:
            continue
        if device.kind == "router":
            address = device.address or str(next(net.hosts()))
        else:
            address = device.address or next(free, "")
        found.append(Member(device.id, _is_wireless(show, device), address, bool(device.address), why))
    return found


def _free(show: Show) -> Iterator[str]:
    """Addresses of the team's network that nobody was given."""
    said = {d.address for d in show.devices if d.address}
    return (str(a) for n, a in enumerate(network_of(show).hosts(), 1) if n >= FIRST and str(a) not in said)


def free_address(show: Show) -> str:
    """The first address that no device has, be it said or proposed; empty where there is none."""
    used = {m.address for m in members_of(show)}
    return next((a for a in _free(show) if a not in used), "")


def network_of(show: Show) -> ipaddress.IPv4Network:
    """The team's network: that of its router's address, or of most addresses that were said; else one of our own."""
    router = router_of(show)
    if router is not None and router.address:
        return ipaddress.IPv4Network(f"{router.address}/24", strict=False)
    nets = [ipaddress.IPv4Network(f"{d.address}/24", strict=False) for d in show.devices if d.address]
    return max(nets, key=nets.count) if nets else OURS


def _why(show: Show, device: Device, plugged: list[Cable]) -> str:
    """Why a device has to be in the network, with what is plugged into it; empty where it has not."""
    if device.kind in AWAY:
        return ""
    if device.kind == "router":
        return "joins the network to the line"
    for cable in plugged:
        for mine, other in ((cable.source, cable.target), (cable.target, cable.source)):
            if mine.startswith(f"{device.id}/") and mine in show.ports and show.port(mine).signal == "network":
                if not show.port(mine).connector and (other not in show.ports or show.ports[other][0].kind not in AWAY):
                    continue
                name = show.ports[other][0].name if other in show.ports else ""
                return f"talks to {name}" if name else "sends"
    by = [w.source for w in show.control_ways if w.target == device.id]
    if device.kind in CONTROLLED and by:
        return "is steered from afar"
    steers = [w.target for w in show.control_ways if w.source == device.id]
    if device.kind in ("computer", "laptop") and steers:
        return "steers others"
    return ""


def _is_wireless(show: Show, device: Device) -> bool:
    """Whether all its network goes by radio."""
    kinds = [
        c.kind == "wireless network" or "radio" in {show.port(e).connector for e in ends if e in show.ports}
        for c in show.cables
        for ends in [(c.source, c.target)]
        if c.plugged
        and any(e.startswith(f"{device.id}/") and e in show.ports and show.port(e).signal == "network" for e in ends)
    ]  # fmt: skip
    return bool(kinds) and all(kinds)


def clashes(show: Show) -> Iterator[tuple[str, str, str]]:
    """Two devices that were given one address: (address, device, device)."""
    seen: dict[str, str] = {}
    for device in show.devices:
        if device.address:
            if device.address in seen:
                yield device.address, seen[device.address], device.id
            seen.setdefault(device.address, device.id)


def strangers(show: Show) -> Iterator[Device]:
    """Devices with an address outside the team's network: the others do not reach them."""
    net = network_of(show)
    for device in show.devices:
        if device.address and ipaddress.IPv4Address(device.address) not in net:
            yield device


def is_usual(net: ipaddress.IPv4Network) -> bool:
    """Whether a house may have the very same network, so that a router of one's own cannot tell in from out."""
    return net in USUAL


def traffic_of(show: Show) -> list[Traffic]:
    """What goes through each device's way into the network."""
    sent: dict[str, list[Figure]] = {}
    for cable in show.cables:
        if not cable.plugged or cable.source not in show.ports or cable.target not in show.ports:
            continue
        (a, out), (b, _) = show.ports[cable.source], show.ports[cable.target]
        if out.signal != "network" or a.kind == "router":
            continue
        if b.kind == "stream" or (b.kind == "router" and is_stream(out)):
            sent.setdefault(a.id, []).append(rate_from(show, a))
        elif "call" in (a.kind, b.kind):
            call, other = (a, b) if a.kind == "call" else (b, a)
            sent.setdefault(other.id, []).append(call_rate(call))
        elif a.kind == "network-audio":
            channels = sum(p.channels for p in a.ports if p.direction == "in" and p.signal == "line")
            sent.setdefault(a.id, []).append(Figure(value=channels * CHANNEL_BIT_S))
    for device in show.devices:
        if device.kind == "network-link":
            sent.setdefault(device.id, []).append(RELAY)
    each = [_traffic(show, (id,), rates) for id, rates in sent.items()]
    by_radio = [t.devices[0] for t in each if t.wireless]
    if len(by_radio) > 1:  # they share the air
        each.append(_traffic(show, tuple(by_radio), [f for id in by_radio for f in sent[id]]))
    return each


def _traffic(show: Show, devices: tuple[str, ...], rates: list[Figure]) -> Traffic:
    wireless = _is_wireless(show, show.device(devices[0]))
    total = Figure(value=sum(f.value for f in rates), plus_minus=sum(f.plus_minus for f in rates))
    return Traffic(devices, wireless, total, WIRELESS_BIT_S if wireless else WIRED_BIT_S)


def apart(show: Show) -> list[str]:
    """Devices that have to be in one network and hang on no router: none where there is a router."""
    steered = [w for w in show.control_ways if w.target in {d.id for d in show.devices if d.kind in CONTROLLED}]
    if router_of(show) is not None or not steered:
        return []
    pairs = net_of((w.source, w.target) for w in steered)
    return [d.id for d in show.devices if d.id in pairs]
