"""USB: the tree of computers, docks, hubs and what hangs on them; what goes through each link, and what power it gives.

Picture and sound on USB are periodic transfers, for which a bus keeps room beforehand: what counts is what a device
reserves, so that bounds add as bounds. Of USB 2 at most 80 % of a microframe of 125 µs goes to them (Universal Serial
Bus Specification 2.0, 5.6.4): five transactions of 1,024 bytes, 41 MB/s; one endpoint has three of them at most,
24.6 MB/s (5.9.2). Of USB 3 the lane rate without its coding (8b/10b at 5 Gbit/s, 128b/132b at 10; USB 3.2, chapter 6)
less a fifth for the protocol (chosen). Power: 500 mA at a socket of USB 2, 900 mA at one of USB 3 (USB 2.0, 7.2.1; USB
3.2, chapter 11). Each socket of a computer is a bus of its own, unless it is said to share one (assumed).
"""

from collections.abc import Iterator
from fractions import Fraction

from msgspec import Struct

from kymaton.core.errors import ShowError
from kymaton.core.formats import read_format
from kymaton.core.loadin.verdict import Fits, verdict, worst
from kymaton.core.model import Cable, Device, Figure, Picture, Port, Show
from kymaton.core.model.loads import Load
from kymaton.core.words import number

HIGH_SPEED = 480.0
TRANSACTION_MB_S = 1024 * 8000 / 1e6  # one of 1,024 bytes in each of 8,000 microframes a second
USB2_BUS_MB_S = 5 * TRANSACTION_MB_S
USB2_ENDPOINT_MB_S = 3 * TRANSACTION_MB_S
PROTOCOL = 0.8
LANE_MB_S = {5000.0: 5000 * 8 / 10 / 8 * PROTOCOL, 10000.0: 10000 * 128 / 132 / 8 * PROTOCOL}
SOCKET_MA = {HIGH_SPEED: 500.0, 5000.0: 900.0, 10000.0: 900.0}
BYTES_A_SAMPLE = 3  # 24 bits, as interfaces send them (USB Audio Device Class 2.0)
COMPRESSED, WHOLE, PLANAR = "compressed", "uncompressed", "uncompressed 4:2:0"
BYTES_A_POINT = {WHOLE: Fraction(2), PLANAR: Fraction(3, 2)}
HOSTS = ("computer", "encoder", "computer-mix", "streaming-program", "laptop")
HUBS = ("usb-hub", "dock")
HUB_MA = 100.0  # what a hub without a supply takes for itself; typical
# rate in Mbit/s, and what is taken from the socket in mA: typical by kind
BOXES: dict[str, tuple[float, Figure]] = {
    "webcam": (HIGH_SPEED, Figure(value=250.0, plus_minus=150.0)),
    "capture": (5000.0, Figure(value=400.0, plus_minus=200.0)),
    "interface": (HIGH_SPEED, Figure(value=400.0, plus_minus=100.0)),
    "usb-microphone": (HIGH_SPEED, Figure(value=200.0, plus_minus=100.0)),
    "desk": (HIGH_SPEED, Figure(value=0.0)),
    "remote": (HIGH_SPEED, Figure(value=200.0, plus_minus=100.0)),
    "switcher": (5000.0, Figure(value=0.0)),
}


class Box(Struct, frozen=True):
    """What hangs on USB: at which socket of which device (`parent`), its bus, MB/s that it reserves, and mA."""

    id: str
    parent: str
    socket: str
    usb2: bool
    need: Figure
    current_ma: Figure
    cable: str


class Shared(Struct, frozen=True):
    """What several boxes share: a bus or a hub's lead (MB/s that are reserved), or a socket's current (mA)."""

    where: str
    boxes: tuple[str, ...]
    need: float
    plus_minus: float
    there: float

    @property
    def fits(self) -> Fits:
        """Whether there is enough."""
        return verdict(self.need, self.plus_minus, self.there)


class Link(Shared, frozen=True, kw_only=True):
    """A bus or a hub's lead."""

    usb2: bool

    @property
    def sentence(self) -> str:
        """In words."""
        spread = f" ± {number(self.plus_minus)}" if self.plus_minus >= 0.5 else ""
        return f"{number(self.need)}{spread} MB/s are wanted, of {number(self.there)} MB/s"


class Power(Shared, frozen=True):
    """What a socket has to give."""

    @property
    def sentence(self) -> str:
        """In words."""
        return f"{number(self.need)} ± {number(self.plus_minus)} mA are taken, of {number(self.there)} mA"


class Tree(Struct, frozen=True):
    """USB of a show: the boxes, which hub hangs where (`above`: hub → parent, socket), links and their power."""

    boxes: tuple[Box, ...]
    above: dict[str, tuple[str, str]]
    links: tuple[Link, ...]
    powers: tuple[Power, ...]

    @property
    def fits(self) -> Fits:
        """The worst of all verdicts."""
        return worst([*(x.fits for x in self.links), *(x.fits for x in self.powers)])


def load(device: Device, name: Load, typical: Figure) -> Figure:
    """What a device says of itself, or else what is typical of its kind."""
    return device.loads.get(name, typical)


def rate_mbit_s(device: Device) -> float:
    """The lane rate at which a device talks: what it says, a step of the standard below or at it."""
    slow = any(p.most_frames_per_s for p in device.ports)  # a capture of that sort
    typical = HIGH_SPEED if slow else BOXES.get(device.kind, (5000.0, Figure(value=0.0)))[0]
    said = load(device, "usb_mbit_s", Figure(value=typical)).value
    return max((r for r in (HIGH_SPEED, *LANE_MB_S) if r <= said), default=HIGH_SPEED)


def compression(show: Show, device: Device) -> str:
    """How a device gives its picture on USB: as it is set, or else as is usual at its rate."""
    control = f"{device.id}/usb-format"
    if any(c.id == control for c in device.controls):
        return str(show.control(control).value)
    return COMPRESSED if rate_mbit_s(device) == HIGH_SPEED else WHOLE


def picture_mb_s(picture: Picture, how: str) -> Figure:
    """What a picture reserves on USB, in MB/s.

    Uncompressed w · h · 2 · frames, or 1.5 with planar 4:2:0. Compressed in one or two transactions a microframe up
    to 720 lines and 30 frames, in two or three beyond.
    """
    if how in BYTES_A_POINT:
        rate = Fraction(picture.rate) * picture.width * picture.height * BYTES_A_POINT[how]
        return Figure(value=float(rate) / 1e6, source="stated")
    small = picture.height <= 720 and Fraction(picture.rate) <= 30
    middle = 1.5 if small else 2.5
    return Figure(value=middle * TRANSACTION_MB_S, plus_minus=0.5 * TRANSACTION_MB_S)


def picture_of(show: Show, device: Device, port: Port) -> Picture:
    """The picture format that a device gives on USB."""
    said = show.control(port.format_control).value if port.format_control is not None else ""
    try:
        picture = read_format(str(said))
    except ShowError:
        picture = show.picture
    most = min((p.most_frames_per_s for p in device.ports if p.most_frames_per_s), default=None)
    if most is not None and Fraction(picture.rate) > most:
        picture = picture.evolve(rate=f"{round(most)}/1")
    return picture


def need_mb_s(show: Show, device: Device, how: str | None = None, picture: Picture | None = None) -> Figure:
    """What a device reserves on USB, in MB/s: what it says, or else its picture and all its channels of sound.

    With `how` and `picture` what it would reserve if it gave that.
    """
    if "usb_mb_s" in device.loads and how is None and picture is None:
        return device.loads["usb_mb_s"]
    ports = [p for p in device.ports if p.signal == "usb"]
    channels = sum(p.channels for p in ports if not p.picture)
    value, spread = channels * show.sample_rate_hz * BYTES_A_SAMPLE / 1e6, 0.0
    for port in ports:
        if port.picture and port.direction == "out":
            value += port.channels * show.sample_rate_hz * BYTES_A_SAMPLE / 1e6
            given = picture or picture_of(show, device, port)
            reserved = picture_mb_s(given, how or compression(show, device))
            value, spread = value + reserved.value, spread + reserved.plus_minus
    return Figure(value=value, plus_minus=spread)


def tree_of(show: Show) -> Tree:
    """The tree of USB, with all budgets."""
    slow = {d.id for d in show.devices if d.kind in HUBS and rate_mbit_s(d) == HIGH_SPEED}
    placed = {d.id: at for d in show.devices if d.kind in (*HUBS, *BOXES) and (at := _place(show, d)) is not None}
    above = {id: at[:2] for id, at in placed.items() if show.device(id).kind in HUBS}
    boxes = []
    for id, (parent, socket, lead) in placed.items():
        device = show.device(id)
        if device.kind in BOXES:
            usb2 = rate_mbit_s(device) == HIGH_SPEED or lead.kind == "USB 2" or _any_slow(above, slow, parent)
            current = load(device, "usb_ma", Figure(value=0.0) if device.battery_h else BOXES[device.kind][1])
            boxes.append(Box(id, parent, socket, usb2, need_mb_s(show, device), current, lead.id))
    return Tree(tuple(boxes), above, tuple(links_of(show, boxes, above)), tuple(powers_of(show, boxes, above)))


def _any_slow(above: dict[str, tuple[str, str]], slow: set[str], at: str) -> bool:
    seen = set[str]()
    while at not in seen:
        if at in slow:
            return True
        seen.add(at)
        at = above.get(at, (at, ""))[0]
    return False


def _place(show: Show, device: Device) -> tuple[str, str, Cable] | None:
    """Where a device is plugged on USB: the parent, its socket, the lead; None where it hangs on no computer or hub."""
    for cable in show.cables:
        if not cable.plugged or cable.source not in show.ports or cable.target not in show.ports:
            continue
        (a, out), (b, into) = show.ports[cable.source], show.ports[cable.target]
        if out.signal != "usb" or into.signal != "usb":
            continue
        if a.id == device.id and b.id != device.id and b.kind in (*HOSTS, *HUBS):
            return host_of(show, b), socket_of(into.id), cable
        if b.id == device.id and a.kind in HOSTS and device.kind not in HOSTS:
            return host_of(show, a), socket_of(out.id), cable
    return None


def host_of(show: Show, device: Device) -> str:
    """The computer in which a program runs; else the device itself."""
    while device.inside is not None:
        device = show.device(device.inside)
    return device.id


def socket_of(port: str) -> str:
    """The socket to which a port belongs: in and out of `usb1` are one."""
    return port.removesuffix("-in").removesuffix("-out")


def sockets_of(device: Device) -> list[str]:
    """The USB sockets of a computer, hub or dock."""
    ports = [
        p for p in device.ports if p.signal == "usb" and p.direction == "in" and p.connector and p.id != "computer"
    ]
    return list(dict.fromkeys(socket_of(p.id) for p in ports))


def ups(above: dict[str, tuple[str, str]], parent: str, socket: str) -> Iterator[tuple[str, str]]:
    """The way up from a socket: (device, socket) to the computer's own."""
    seen = set[str]()
    while parent not in seen:
        yield parent, socket
        seen.add(parent)
        if parent not in above:
            return
        parent, socket = above[parent]


def bus_of(show: Show, host: str, socket: str) -> str:
    """The bus to which a socket of a computer belongs: itself, or the first of those that share one."""
    for group in show.device(host).usb_shared:
        names = [socket_of(p) for p in group]
        if socket in names:
            return names[0]
    return socket


def capacity_mb_s(show: Show, where: str, usb2: bool) -> float:
    """What goes through a lead of a hub or a bus of a computer, in MB/s."""
    if usb2:
        return USB2_BUS_MB_S
    rate = rate_mbit_s(show.device(where)) if show.device(where).kind in HUBS else 5000.0
    said = show.device(where).loads.get("usb_mbit_s")
    if said is not None:
        rate = max((r for r in LANE_MB_S if r <= said.value), default=5000.0)
    return LANE_MB_S.get(rate, USB2_BUS_MB_S)


def links_of(show: Show, boxes: list[Box], above: dict[str, tuple[str, str]]) -> Iterator[Link]:
    """Every bus of a computer and every lead of a hub, with what is reserved on it.

    What talks USB 2 behind a hub shares one USB 2 bus with all else there; a hub's USB 3 is a link beside it.
    """
    shared: dict[tuple[str, str, bool], list[Box]] = {}
    for box in boxes:
        way = list(ups(above, box.parent, box.socket))
        host, socket = way[-1]
        named = bus_of(show, host, socket)
        shared.setdefault((host, named, box.usb2), []).append(box)
    for (host, bus, usb2), here in shared.items():
        last = show.device(host)
        title = next((p.name for p in last.ports if socket_of(p.id) == bus and p.name), bus)
        there = capacity_mb_s(show, host, usb2)
        hubs = {b.parent for b in here} - {host}
        by = f", by {_names(show, hubs)}" if hubs else ""
        yield Link(f"{last.name} {title}{by}", tuple(b.id for b in here), sum(b.need.value for b in here),
                   sum(b.need.plus_minus for b in here), there, usb2=usb2)  # fmt: skip


def _names(show: Show, ids: set[str]) -> str:
    return ", ".join(d.name for d in show.devices if d.id in ids)


def is_powered(device: Device) -> bool:
    """Whether a hub has a supply of its own: docks do, and hubs that say so; a repeater has none."""
    return device.kind == "dock" or bool(device.mains) or "powered" in device.detail


def powers_of(show: Show, boxes: list[Box], above: dict[str, tuple[str, str]]) -> Iterator[Power]:
    """What each socket of a computer gives, with all that hangs on it by hubs without a supply."""
    drawn: dict[tuple[str, str], list[tuple[str, Figure]]] = {}
    for box in boxes:
        for parent, socket in ups(above, box.parent, box.socket):
            device = show.device(parent)
            drawn.setdefault((parent, socket), []).append((box.id, box.current_ma))
            if device.kind in HUBS and is_powered(device):
                break
    for hub, (parent, socket) in above.items():
        if not is_powered(show.device(hub)) and any(b.parent == hub for b in boxes):
            drawn.setdefault((parent, socket), []).append((hub, Figure(value=HUB_MA)))
    for (parent, socket), here in drawn.items():
        device = show.device(parent)
        if device.kind in HUBS and not is_powered(device):
            continue  # its one lead up has to give it all, and that is looked at there
        need = sum(f.value for _, f in here)
        if need > 0:
            usb2 = device.kind in HUBS and rate_mbit_s(device) == HIGH_SPEED
            title = next((p.name for p in device.ports if socket_of(p.id) == socket and p.name), socket)
            yield Power(f"{device.name} {title}", tuple(id for id, _ in here), need,
                        sum(f.plus_minus for _, f in here), SOCKET_MA[HIGH_SPEED if usb2 else 5000.0])  # fmt: skip
