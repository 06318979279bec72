"""Devices with ports, routes and controls, and the cables between them."""

from typing import Annotated, Literal

from msgspec import Meta

from kymaton.core.model.figure import ZERO, Figure
from kymaton.core.model.loads import Gear, Load
from kymaton.core.model.record import Channel, ControlId, Finite, Id, NotNegative, PortId, Positive, Record

Signal = Literal[
    "acoustic", "mic", "line", "instrument", "headphone", "speaker", "usb", "hdmi", "sdi", "vga", "network", "bluetooth"
]
Stage = Literal["made", "picked-up", "mixed", "embedded", "carried", "heard"]
Value = bool | Finite | str
ProgramKind = Literal["call", "browser", "playback", "encoder", "mix"]
Ownership = Literal["owned", "borrowed", "to buy"]


class Port(Record, frozen=True, kw_only=True):
    """One connector. `name` is what is printed beside it; channels are counted from 1.

    Levels are in dB in the unit of its signal; `noise_level` is the noise that is added here (20 Hz to 20 kHz), of an
    input the equivalent input noise; None: what is typical of its kind.

    Phantom power is 48 V on a balanced microphone line (IEC 61938); plug-in power a few volts on a 3.5 mm socket.
    `format_control` names the choice that says which picture format leaves here or is taken here; an input that
    `scales` takes any. `clock_control` names the choice that says whether this end of digital sound keeps its own
    time or follows the other ends, `rate_control` the one that says its sample rate, `phantom_control` the one that
    says whether phantom power is on. `most_frames_per_s` is the largest frame rate that goes through, where there is
    one.
    """

    id: Id
    name: str
    direction: Literal["in", "out"]
    signal: Signal
    connector: str = ""
    channels: Annotated[int, Meta(ge=0, le=64)] = 1
    picture: bool = False
    nominal_level: Finite | None = None
    maximum_level: Finite | None = None
    noise_level: Finite | None = None
    balanced: bool = False
    phantom: Literal["none", "offered", "tolerated", "needed"] = "none"
    plug_in_power: Literal["none", "offered", "needed"] = "none"
    sample_rate_hz: Annotated[int, Meta(gt=0)] | None = None
    format_control: ControlId | None = None
    scales: bool = False
    clock_control: ControlId | None = None
    rate_control: ControlId | None = None
    phantom_control: ControlId | None = None
    most_frames_per_s: Positive | None = None

    @property
    def control_names(self) -> dict[str, ControlId | None]:
        """The controls that it names, by field."""
        return {
            "format_control": self.format_control,
            "clock_control": self.clock_control,
            "rate_control": self.rate_control,
            "phantom_control": self.phantom_control,
        }


class Control(Record, frozen=True, kw_only=True):
    """A thing a person can set. What its value does is told by `kind`:

    level: adds its value in dB, silent at its minimum. mute: silent when true. switch: silent when false.
    choice: what each value does is told by the routes that use it. delay: adds its value in ms; `shown_in` is the
    unit that stands on the device. pan: −100 is left, 0 the middle, 100 right. What is `elsewhere` nobody at this rig
    can reach: it stands on a guest's own machine, and somebody has to ask for it.
    """

    id: ControlId
    name: str
    kind: Literal["level", "mute", "switch", "choice", "delay", "pan"]
    value: Value
    role: Literal["gain", "fader", "send", "mute", "input-sound", "processing", "setting"] = "setting"
    minimum: Finite | None = None
    maximum: Finite | None = None
    step: Finite | None = None
    choices: tuple[str, ...] = ()
    shown_in: Literal["ms", "frames", "samples"] = "ms"
    nominal: Finite | None = None
    picture_input: PortId | None = None
    elsewhere: bool = False


class Condition(Record, frozen=True, kw_only=True):
    """True when a control has this value."""

    control: ControlId
    value: Value


class ControlUse(Record, frozen=True, kw_only=True):
    """How a control acts on a route.

    `gains` gives dB by the value of a choice; a value that is not in it silences the route. `only_from` limits the
    effect to sounds that enter at these ports: an echo canceller, whose reference is what leaves at `reference`,
    and which reaches `tail_ms` behind it. `side` says of a pan for which of two sides this is.
    """

    control: ControlId
    gains: dict[str, Finite] | None = None
    when: Condition | None = None
    only_from: tuple[PortId, ...] = ()
    side: Literal[1, 2] | None = None
    reference: PortId | None = None
    tail_ms: Positive | None = None


class Route(Record, frozen=True, kw_only=True):
    """Inside a device, from one channel of an input to one channel of an output (ports by their id in the device).

    With `on_air` the route passes only while that input is the picture on air.
    """

    source: Id
    target: Id
    source_channel: Channel = 1
    target_channel: Channel = 1
    medium: Literal["sound", "picture"] = "sound"
    kind: Literal["fixed", "fader", "send", "switch"] = "fixed"
    gain_db: Figure = ZERO
    delay_ms: Figure = ZERO
    polarity: Literal[1, -1] = 1
    low_hz: Positive | None = None
    high_hz: Positive | None = None
    on_air: PortId | None = None
    controls: tuple[ControlUse, ...] = ()


class Program(Record, frozen=True, kw_only=True):
    """A program on a computer, with the controls that choose its devices (or *system default*: a risk)."""

    id: Id
    name: str
    kind: ProgramKind
    chosen: dict[str, ControlId] = {}


class Device(Record, frozen=True, kw_only=True):
    """A box, or a computer, or a call: made by the catalogue, then independent of it.

    `mains` names the supply it is plugged into, where that is known. `battery_h` is how long a full battery lasts,
    for what runs on one. `shows` names the sounds whose making a camera shows (None: those of its place). What `moves`
    is worn, carried or pushed about during the show. `made` holds the words by which the catalogue made it. `loads` are
    what it takes and gives beside sound and picture; `usb_shared` are groups of its USB sockets that share one bus;
    `address` is its address in the network (IPv4).
    """

    id: Id
    name: str
    kind: str
    detail: str = ""
    made: str = ""
    stage: Stage
    place: Id | None = None
    inside: Id | None = None
    mains: str = ""
    power_w: Figure | None = None
    battery_h: Figure | None = None
    shows: tuple[Id, ...] | None = None
    moves: bool = False
    owned: Ownership = "owned"
    gear: Gear = Gear()
    loads: dict[Load, Figure] = {}
    usb_shared: tuple[tuple[Id, ...], ...] = ()
    address: str = ""
    ports: tuple[Port, ...] = ()
    routes: tuple[Route, ...] = ()
    controls: tuple[Control, ...] = ()
    programs: tuple[Program, ...] = ()


class ControlWay(Record, frozen=True, kw_only=True):
    """That a device, or a person, acts on a device: a panel on a program, a program on a switcher."""

    source: Id
    target: Id


class Cable(Record, frozen=True, kw_only=True):
    """From port to port. `air` carries sound over `length_m`; `held` is the ear at its earpiece, or a player in a box.

    `source` may be `sound/<id>`, `target` may be `listener/<id>`. `channels` pairs channels of the two sides where
    the lead splits or crosses them; else channel meets channel, and a single channel meets all of the other side.
    """

    id: Id
    source: PortId
    target: PortId
    kind: str = "lead"
    length_m: NotNegative = 0.0
    label: str = ""
    adapters: tuple[str, ...] = ()
    channels: tuple[tuple[Channel, Channel], ...] = ()
    plugged: bool = True
