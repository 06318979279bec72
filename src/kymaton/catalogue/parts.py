"""Small helpers with which the catalogue makes ports, controls and routes."""

from kymaton.core.model import Condition, Control, ControlUse, Device, Figure, Port
from kymaton.core.model.device import Signal, Value

OFF_DB = -90.0
TOP_DB = 10.0
Number = float | Figure


def figure(value: Number, plus_minus: float = 0.0) -> Figure:
    """A typical figure (assumed, ±), unless a Figure with its own source is given."""
    return value if isinstance(value, Figure) else Figure(value=value, plus_minus=plus_minus)


def into(id: str, name: str, signal: Signal, connector: str = "", channels: int = 1, **more: object) -> Port:
    return Port.checked(id=id, name=name, direction="in", signal=signal, connector=connector, channels=channels, **more)


def out(id: str, name: str, signal: Signal, connector: str = "", channels: int = 1, **more: object) -> Port:
    return Port.checked(
        id=id, name=name, direction="out", signal=signal, connector=connector, channels=channels, **more
    )


def level(id: str, name: str, role: str, value: float, nominal: float = 0.0, top: float = TOP_DB) -> Control:
    """A level in dB that is silent at the bottom."""
    return Control.checked(
        id=id, name=name, kind="level", role=role, value=value, nominal=nominal, minimum=OFF_DB, maximum=top, step=0.5
    )


def gain(id: str, name: str, value: float, low: float = 0.0, high: float = 60.0) -> Control:
    """A preamp: a gain that never closes."""
    return Control(id=id, name=name, kind="level", role="gain", value=value, minimum=low - 1.0, maximum=high, step=1.0)


def mute(id: str, name: str, value: bool = False) -> Control:
    return Control(id=id, name=name, kind="mute", role="mute", value=value)


def switch(id: str, name: str, value: bool = True) -> Control:
    return Control(id=id, name=name, kind="switch", role="setting", value=value)


def choice(id: str, name: str, value: str, choices: tuple[str, ...], role: str = "setting", **more: object) -> Control:
    return Control.checked(id=id, name=name, kind="choice", role=role, value=value, choices=choices, **more)


def delay(id: str, name: str, value: float = 0.0, most: float = 500.0, step: float = 1.0) -> Control:
    return Control(id=id, name=name, kind="delay", value=value, minimum=0.0, maximum=most, step=step)


def pan(id: str, name: str) -> Control:
    return Control(id=id, name=name, kind="pan", value=0.0, minimum=-100.0, maximum=100.0, step=1.0)


AS_NEEDED = "as needed"
AS_THE_SHOW = "as the show"
RATES = {"44.1 kHz": 44100, "48 kHz": 48000, "88.2 kHz": 88200, "96 kHz": 96000}


def with_phantom(device: Device) -> Device:
    """The device with a switch for the phantom power of each input that offers it: as needed, until somebody says."""
    ports, controls = [], []
    for port in device.ports:
        if port.phantom == "offered" and port.phantom_control is None:
            id = f"{device.id}/{port.id}/phantom"
            name = f"{device.name.lower()} {port.name} phantom".replace("  ", " ")
            controls.append(choice(id, name, AS_NEEDED, (AS_NEEDED, "on", "off")))
            port = port.evolve(phantom_control=id)
        ports.append(port)
    return device.evolve(ports=tuple(ports), controls=(*device.controls, *controls))


def with_rate(device: Device) -> Device:
    """The device with a sample rate for all its digital sound, that of the show until another one is set."""
    rate = choice(f"{device.id}/rate", f"{device.name.lower()} sample rate", AS_THE_SHOW, (AS_THE_SHOW, *RATES))
    ports = tuple(p.evolve(rate_control=rate.id) if p.signal == "usb" and p.channels else p for p in device.ports)
    return device.evolve(ports=ports, controls=(*device.controls, rate))


def use(control: str, gains: dict[str, float] | None = None, when: tuple[str, Value] | None = None) -> ControlUse:
    condition = None if when is None else Condition(control=when[0], value=when[1])
    return ControlUse(control=control, gains=gains, when=condition)


FORMATS = (
    AS_THE_SHOW, "720p25", "720p30", "720p50", "720p60", "1080i50", "1080i59.94", "1080i60", "1080p24", "1080p25",
    "1080p29.97", "1080p30", "1080p50", "1080p59.94", "1080p60", "2160p25", "2160p30", "2160p50", "2160p60",
)  # fmt: skip


USB_FORMATS = ("compressed", "uncompressed", "uncompressed 4:2:0")


def with_usb_format(device: Device, value: str) -> Device:
    """The device with a choice of how it gives its picture on USB."""
    how = choice(f"{device.id}/usb-format", f"{device.name.lower()} on USB", value, USB_FORMATS)
    return device.evolve(controls=(*device.controls, how))


ENCODES = ("software, fast", "software, slower", "hardware")


def encodes_by(id: str, name: str) -> Control:
    """How a computer encodes: in software, or beside it in hardware."""
    return choice(f"{id}/encodes", f"{name.lower()} encodes by", ENCODES[0], ENCODES)


def picture_format(id: str, name: str) -> Control:
    """Which picture format a device gives or takes; as the show unless something else is set."""
    return choice(f"{id}/format", f"{name.lower()} picture format", AS_THE_SHOW, FORMATS)
