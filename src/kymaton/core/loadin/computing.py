"""What a computer has to do: encode, take captures in, show pages, hold calls, work on sound. In percent of it.

The measure is an ordinary computer, which encodes `ORDINARY_MPX_S` picture points a second in software at a fast
preset (assumed; `kymaton budget --measure` measures the computer it runs on). All else is typical there (unsourced
experience) and grows with what another computer is slower. 20 % is comfortable; beyond 70 % pictures are dropped when
something else happens (both usual).
"""

import math
from collections.abc import Callable, Iterator
from fractions import Fraction

from msgspec import Struct

from kymaton.core.formats import format_text
from kymaton.core.loadin.rates import said_rate
from kymaton.core.loadin.uplink import stream_rate, usual_rate
from kymaton.core.loadin.usb import BYTES_A_POINT, HOSTS, WHOLE, compression, host_of, picture_of
from kymaton.core.loadin.verdict import Fits, verdict
from kymaton.core.model import Cable, Device, Figure, Picture, Port, Show
from kymaton.core.words import number

ORDINARY_MPX_S = Figure(value=250.0, plus_minus=100.0)
SORTS = {
    "old": Figure(value=100.0, plus_minus=40.0), "ordinary": ORDINARY_MPX_S,
    "strong": Figure(value=600.0, plus_minus=200.0),
}  # fmt: skip
MOST, COMFORTABLE = 70.0, 20.0
HARDWARE = Figure(value=4.0, plus_minus=2.0)
SLOWER = 2.5  # times what a fast preset takes
WAYS = ("software, fast", "software, slower", "hardware")
# in percent of an ordinary computer: for 62 million picture points a second (1080p30), a page, a call, a person in it
TAKE_WHOLE, TAKE_COMPRESSED = Figure(value=3.0, plus_minus=1.5), Figure(value=6.0, plus_minus=3.0)
PAGE, CALL, PERSON = (
    Figure(value=5.0, plus_minus=3.0),
    Figure(value=8.0, plus_minus=4.0),
    Figure(value=2.5, plus_minus=1.0),
)
MIX, CHANNEL, WATCHING = (
    Figure(value=4.0, plus_minus=2.0),
    Figure(value=0.5, plus_minus=0.3),
    Figure(value=10.0, plus_minus=5.0),
)
POINTS_1080P30 = 62.2


class Task(Struct, frozen=True):
    """Something a computer does, in percent of it."""

    what: str
    percent: Figure


class Computing(Struct, frozen=True):
    """All that a computer does; the ± of tasks add as independent ones do."""

    computer: str
    tasks: tuple[Task, ...]
    percent: float
    plus_minus: float
    speed: Figure
    encodes: bool
    watches: bool

    @property
    def fits(self) -> Fits:
        """Whether it has room, and a margin."""
        return verdict(self.percent, self.plus_minus, MOST)

    @property
    def sentence(self) -> str:
        """In words, with where its figures come from."""
        text = f"{number(self.percent)} ± {number(self.plus_minus)} % of {number(MOST)} %"
        return f"{text}, for a computer that encodes {number(self.speed.value)} Mpx/s ({self.speed.source})"


def points_mpx_s(picture: Picture) -> float:
    """Picture points a second, in millions."""
    return float(Fraction(picture.rate)) * picture.width * picture.height / 1e6


def encode_percent(picture: Picture, speed: Figure, way: str = WAYS[0]) -> Figure:
    """What encoding takes; hardware does it beside the processor."""
    if way == "hardware":
        return HARDWARE
    factor = SLOWER if way == WAYS[1] else 1.0
    share = factor * points_mpx_s(picture) / speed.value
    return Figure(value=100 * share, plus_minus=100 * share * speed.plus_minus / speed.value)


def way_of(show: Show, device: Device) -> str:
    """How a device encodes, as it is set."""
    control = f"{device.id}/encodes"
    return str(show.control(control).value) if any(c.id == control for c in device.controls) else WAYS[0]


def computers_of(show: Show) -> list[Computing]:
    """Every computer here that does something, what runs in it included."""
    found = []
    for device in show.devices:
        if device.kind in HOSTS and device.inside is None:
            made = _computing(show, device)
            if made.tasks:
                found.append(made)
    return found


def _computing(show: Show, computer: Device) -> Computing:
    speed = computer.loads.get("encodes_mpx_s", ORDINARY_MPX_S)
    tasks = [t for d in show.devices if host_of(show, d) == computer.id for t in _tasks(show, computer, d, speed)]
    total = sum(t.percent.value for t in tasks)
    spread = math.sqrt(sum(t.percent.plus_minus**2 for t in tasks))
    return Computing(
        computer.id, tuple(tasks), total, spread, speed, any(t.what.startswith("encode") for t in tasks),
        any(t.what.startswith("watch") for t in tasks),
    )  # fmt: skip


def _tasks(show: Show, computer: Device, device: Device, speed: Figure) -> Iterator[Task]:
    slower = ORDINARY_MPX_S.value / speed.value

    def task(what: str, typical: Figure, times: float = 1.0) -> Task:
        factor = times * slower
        return Task(what, Figure(value=factor * typical.value, plus_minus=factor * typical.plus_minus))

    leaving = [c for c in show.cables if c.plugged and c.source.startswith(f"{device.id}/")]
    arriving = [c for c in show.cables if c.plugged and c.target.startswith(f"{device.id}/")]
    streams = any(c.source.endswith(("/stream", "/file")) for c in leaving) and device.kind != "laptop"
    if streams and device.kind in ("encoder", "computer", "streaming-program"):
        way = way_of(show, device)
        yield Task(f"encode {format_text(show.picture)}, {way}", encode_percent(show.picture, speed, way))
    for cable in arriving:
        from_ = show.ports.get(cable.source)
        if from_ is None or show.port(cable.target).signal != "usb" or not from_[1].picture:
            continue
        source = _behind_hubs(show, cable.source)
        if source is not None:
            how = compression(show, source[0])
            picture = picture_of(show, *source)
            typical = TAKE_WHOLE if how in BYTES_A_POINT else TAKE_COMPRESSED
            yield task(f"take in {source[0].name}, {how}", typical, points_mpx_s(picture) / POINTS_1080P30)
    yield from (t for t in _programs(show, device, leaving, arriving, task))
    if device.kind == "computer-mix":
        channels = len(arriving)
        yield task(f"mix {channels} channels", _with(MIX, channels, CHANNEL))
    if device.kind == "viewer" and device.id != computer.id:
        yield task("watch the stream", WATCHING)


def _with(base: Figure, many: int, each: Figure) -> Figure:
    return Figure(value=base.value + many * each.value, plus_minus=base.plus_minus + many * each.plus_minus)


def _programs(
    show: Show, device: Device, leaving: list[Cable], arriving: list[Cable], task: Callable[[str, Figure], Task]
) -> Iterator[Task]:
    """Calls and pages that are used."""
    used = {c.source.partition("/")[2] for c in leaving} | {c.target.partition("/")[2] for c in arriving}
    if device.kind != "computer":
        return
    for port in device.ports:
        is_call = port.id == "call-in" or (port.id.startswith("call") and port.id.endswith("-in"))
        if is_call and port.id in used:
            calls = {c.source.partition("/")[0] for c in arriving if c.target == f"{device.id}/{port.id}"}
            people = sum(p.id.endswith("-mic") for c in calls for p in show.device(c).ports) if calls else 1
            many = people or 1
            yield task(f"hold a call with {number(many)}", _with(CALL, many, PERSON))
        if port.id.startswith("web") and port.id in used:
            feeds = {c.source.partition("/")[0] for c in arriving if c.target == f"{device.id}/{port.id}"}
            stream = any(show.device(f).kind == "stream" for f in feeds)
            yield task("watch the stream", WATCHING) if stream else task("show a page", PAGE)


def _behind_hubs(show: Show, port: str) -> tuple[Device, Port] | None:
    """The camera or capture that comes by a socket, through hubs; None where it is none."""
    for _ in range(8):
        device, at = show.ports[port]
        if device.kind not in ("usb-hub", "dock"):
            return (device, at) if device.kind in ("webcam", "capture", "switcher") else None
        source = next((r.source for r in device.routes if r.target == at.id), None)
        before = next((c.source for c in show.cables if c.target == f"{device.id}/{source}" and c.plugged), None)
        if before is None or before not in show.ports:
            return None
        port = before
    return None


class Profile(Struct, frozen=True):
    """A picture format to go down to, with what it needs and what it saves against the first, in percent."""

    name: str
    picture: Picture
    rate: Figure
    encode: Figure
    usb_mb_s: float
    saves_rate: float
    saves_encoding: float


STEPS = ((1920, 1080, 30), (1280, 720, 30))


def profiles_of(show: Show, speed: Figure = ORDINARY_MPX_S) -> list[Profile]:
    """The format of the show and the lower ones that are to be kept ready: 1080p60, 1080p30, 720p30."""
    whole = Fraction(show.picture.rate)
    down = whole if whole <= 30 else whole / 2
    pictures = [show.picture]
    for width, height, _ in STEPS:
        candidate = show.picture.evolve(width=width, height=height, rate=f"{down.numerator}/{down.denominator}")
        if points_mpx_s(candidate) < points_mpx_s(pictures[-1]):
            pictures.append(candidate)
    found: list[Profile] = []
    for picture in pictures:
        now, usual = stream_rate(show), usual_rate(picture)
        rate = now if picture == show.picture else min(now, usual, key=lambda r: r.value)
        encode = encode_percent(picture, speed)
        usb = points_mpx_s(picture) * float(BYTES_A_POINT[WHOLE])
        first = found[0] if found else None
        found.append(
            Profile(
                format_text(picture), picture, rate, encode, usb,
                100 * (1 - rate.value / first.rate.value) if first else 0.0,
                100 * (1 - encode.value / first.encode.value) if first else 0.0,
            )
        )  # fmt: skip
    return found


def profile_text(profile: Profile) -> str:
    """`1080p30: 4.9 Mbit/s, 25 % for encoding; saves 34 % of the line and 50 % of the encoding`."""
    text = f"{profile.name}: {said_rate(profile.rate.value)}, {number(profile.encode.value)} % for encoding"
    if not profile.saves_encoding:
        return text
    saved = f"{number(profile.saves_rate)} % of the line and {number(profile.saves_encoding)} % of the encoding"
    return f"{text}; saves {saved}"
