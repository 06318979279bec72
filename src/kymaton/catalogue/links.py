"""What carries picture with sound inside from place to place."""

from typing import Literal

from kymaton.catalogue.boxes import line_in, line_out, through, typical
from kymaton.catalogue.parts import choice, delay, gain, into, out, picture_format, use
from kymaton.catalogue.pictures import slides
from kymaton.catalogue.sources import second_computer
from kymaton.core.model import Device, Figure, Route
from kymaton.core.model.device import Signal, Stage


def _hdmi(
    id: str, name: str, kind: str, detail: str, a: tuple[str, str], b: tuple[str, str], sound: Figure, picture: Figure,
    outputs: int = 1, stage: Stage = "embedded",
) -> Device:  # fmt: skip
    signals: dict[str, Signal] = {"HDMI A": "hdmi", "BNC": "sdi", "RJ45": "network", "USB A": "usb"}
    ins = [into("in", a[0], signals[a[1]], a[1], 2, picture=True)]
    outs = [
        out(
            "out" if outputs == 1 else f"out{n}",
            b[0] if outputs == 1 else f"{b[0]} {n}",
            signals[b[1]],
            b[1],
            2,
            picture=True,
        )
        for n in range(1, outputs + 1)
    ]
    return through(id, name, kind, stage, ins, outs, detail, delay_ms=sound, picture_ms=picture, every=True)


def hdmi_splitter(id: str, name: str = "HDMI splitter", outputs: int = 2) -> Device:
    return _hdmi(id, name, "hdmi-splitter", f"1 to {outputs}", ("HDMI", "HDMI A"), ("out", "HDMI A"),
                 typical(0.0, 0.0), typical(0.0, 0.0), outputs)  # fmt: skip


def sdi_splitter(id: str, name: str = "SDI splitter", outputs: int = 2) -> Device:
    return _hdmi(id, name, "sdi-splitter", f"1 to {outputs}", ("SDI", "BNC"), ("out", "BNC"),
                 typical(0.0, 0.0), typical(0.0, 0.0), outputs)  # fmt: skip


def passive_extender(id: str, name: str = "HDMI extender") -> Device:
    """A passive extender adds about 9 m to an HDMI run; one more point of failure."""
    return _hdmi(
        id, name, "hdmi-extender", "passive", ("HDMI", "HDMI A"), ("HDMI", "HDMI A"), typical(0, 0), typical(0, 0)
    )


def hdmi_booster(id: str, name: str = "HDMI booster") -> Device:
    """Powered: makes the signal good again, so that a full run may begin behind it."""
    return _hdmi(
        id, name, "hdmi-extender", "powered", ("HDMI", "HDMI A"), ("HDMI", "HDMI A"), typical(0, 0), typical(0, 0)
    )


def usb_repeater(id: str, name: str = "USB repeater") -> Device:
    """An extension lead for USB with its own repeater: the run before it and the run behind it count by themselves."""
    return _hdmi(id, name, "usb-hub", "extension", ("USB", "USB A"), ("USB", "USB A"), typical(0, 0), typical(0, 0),
                 stage="carried")  # fmt: skip


def vga_to_hdmi(id: str, name: str = "VGA to HDMI") -> Device:
    """For old computers and projectors: picture by VGA, sound by a 3.5 mm lead beside it."""
    vga = into("vga", "VGA", "vga", "VGA", 0, picture=True)
    sound = into("sound", "sound in", "line", "3.5 mm stereo", 2, nominal_level=-7.8, maximum_level=8.0)
    device = through(
        id, name, "converter", "embedded", [sound], [out("out", "HDMI", "hdmi", "HDMI A", 2, picture=True)],
        "VGA to HDMI", gain_db=-8.0, delay_ms=typical(1, 1),
    )  # fmt: skip
    picture = Route(source="vga", target="out", medium="picture", delay_ms=typical(17, 17))
    return device.evolve(ports=(vga, *device.ports), routes=(*device.routes, picture))


def vga_computer(id: str, name: str = "VGA computer") -> Device:
    """A computer that shows pictures by VGA."""
    page = slides(id, name)
    lens, _ = page.ports
    vga = out("vga", "VGA", "vga", "VGA", 0, picture=True, format_control=f"{id}/format")
    return page.evolve(detail="VGA", ports=(lens, vga), routes=tuple(r.evolve(target="vga") for r in page.routes))


def router(id: str, name: str = "Router", sockets: int = 4) -> Device:
    """Joins a local network to two lines out; what leaves goes by the one that is set, or by the other when that fails.

    The last input is wireless.
    """
    up = choice(f"{id}/uplink", f"{name.lower()} goes out by", "uplink 1", ("uplink 1", "uplink 2"))
    ins = [into(f"lan{n}", str(n), "network", "RJ45", 2, picture=True) for n in range(1, sockets + 1)]
    ins.append(into("wireless", "wireless", "network", "radio", 2, picture=True))
    outs = [out(f"uplink{n}", f"uplink {n}", "network", "RJ45", 2, picture=True) for n in (1, 2)]
    ways: tuple[tuple[Literal["sound", "picture"], int], ...] = (("sound", 1), ("sound", 2), ("picture", 1))
    routes = [
        Route(source=a.id, target=b.id, source_channel=c, target_channel=c, medium=medium, delay_ms=typical(1.0, 1.0),
              controls=(use(up.id, {b.name: 0.0}),))
        for a in ins for b in outs for medium, c in ways
    ]  # fmt: skip
    return Device(id=id, name=name, kind="router", detail="two uplinks", stage="carried", ports=(*ins, *outs),
                  routes=tuple(routes), controls=(up,))  # fmt: skip


def hdmi_to_sdi(id: str, name: str = "HDMI to SDI") -> Device:
    return _hdmi(
        id, name, "converter", "HDMI to SDI", ("HDMI", "HDMI A"), ("SDI", "BNC"), typical(0.5, 0.5), typical(0.5, 0.5)
    )


def sdi_to_hdmi(id: str, name: str = "SDI to HDMI") -> Device:
    return _hdmi(
        id, name, "converter", "SDI to HDMI", ("SDI", "BNC"), ("HDMI", "HDMI A"), typical(0.5, 0.5), typical(0.5, 0.5)
    )


def twisted_pair_sender(id: str, name: str = "HDMI over cable, sender") -> Device:
    return _hdmi(
        id,
        name,
        "converter",
        "HDMI to twisted pair",
        ("HDMI", "HDMI A"),
        ("link", "RJ45"),
        typical(1, 1),
        typical(1, 1),
    )


def twisted_pair_receiver(id: str, name: str = "HDMI over cable, receiver") -> Device:
    return _hdmi(
        id,
        name,
        "converter",
        "twisted pair to HDMI",
        ("link", "RJ45"),
        ("HDMI", "HDMI A"),
        typical(1, 1),
        typical(1, 1),
    )


def scaler(id: str, name: str = "Scaler") -> Device:
    """Takes any picture format and gives the one that is set."""
    made = _hdmi(
        id, name, "scaler", "any format in", ("HDMI", "HDMI A"), ("HDMI", "HDMI A"), typical(0, 0), typical(33, 17)
    )
    before, after = made.ports
    ends = {"format_control": f"{id}/format"}
    ports = (before.evolve(**ends, scales=True), after.evolve(**ends))
    return made.evolve(ports=ports, controls=(picture_format(id, name),))


def frame_delay(id: str, name: str = "Frame delay", fps: float = 25.0) -> Device:
    """Delays a picture by whole frames, with the sound inside it."""
    frame_ms = 1000.0 / fps
    wait = delay(f"{id}/delay", f"{name.lower()} time", 0.0, 10 * frame_ms, frame_ms)
    wait = wait.evolve(shown_in="frames")
    made = _hdmi(
        id, name, "frame-delay", "whole frames", ("HDMI", "HDMI A"), ("HDMI", "HDMI A"), typical(0, 0), typical(0, 0)
    )
    routes = tuple(r.evolve(controls=(use(wait.id),)) for r in made.routes)
    return made.evolve(routes=routes, controls=(wait,))


def embedder(id: str, name: str = "Embedder") -> Device:
    """Puts stereo line sound into a picture, in place of what was embedded; it can turn up and delay the sound."""
    turned = gain(f"{id}/gain", f"{name.lower()} line gain", 0.0, -10.0, 30.0)
    wait = delay(f"{id}/delay", f"{name.lower()} sound delay", 0.0, 340.0)
    ins = [into("hdmi", "HDMI", "hdmi", "HDMI A", 0, picture=True), line_in("in", "line in", "TRS 6.3 mm", 2)]
    outs = [out("out", "HDMI", "hdmi", "HDMI A", 2, picture=True)]
    device = through(
        id, name, "embedder", "embedded", ins[1:], outs, "line into HDMI", gain_db=-18.0, delay_ms=1.0,
        controls=(turned, wait), uses=(use(turned.id), use(wait.id)),
    )  # fmt: skip
    picture = Route(source="hdmi", target="out", medium="picture", delay_ms=typical(1, 1))
    return device.evolve(ports=(*ins, *outs), routes=(*device.routes, picture))


def de_embedder(id: str, name: str = "De-embedder") -> Device:
    """Takes the sound out of a picture, left and right; the picture goes on."""
    hdmi = into("hdmi", "HDMI", "hdmi", "HDMI A", 2, picture=True)
    sides = tuple(line_out(side, side, balanced=True) for side in ("left", "right"))
    through_ = out("through", "HDMI", "hdmi", "HDMI A", 2, picture=True)
    on = through(id, name, "de-embedder", "embedded", [hdmi], [through_], "HDMI to line", picture_ms=1.0)
    taken = tuple(
        Route(source="hdmi", source_channel=channel, target=side.id, gain_db=Figure(value=18.0), delay_ms=typical(1, 1))
        for channel, side in enumerate(sides, 1)
    )
    return on.evolve(ports=(hdmi, *sides, through_), routes=(*on.routes, *taken))


def media_player(id: str, name: str = "Media player") -> Device:
    return second_computer(id, name).evolve(kind="media-player", detail="files, HDMI with sound")


def encoder_box(id: str, name: str = "Encoder box") -> Device:
    return _hdmi(id, name, "encoder", "HDMI to stream", ("HDMI", "HDMI A"), ("stream", "RJ45"), typical(100, 50),
                 typical(100, 50), stage="carried")  # fmt: skip


def network_link(id: str, name: str = "Network link", delay_ms: float = 100.0) -> Device:
    """Sound and picture from one room to another over the network."""
    return _hdmi(id, name, "network-link", f"{delay_ms:g} ms", ("HDMI", "HDMI A"), ("HDMI", "HDMI A"),
                 typical(delay_ms, delay_ms / 3), typical(delay_ms, delay_ms / 3))  # fmt: skip


def network_audio(id: str, name: str = "Network audio", channels: int = 8, delay_ms: float = 2.0) -> Device:
    """Channels of sound over a local network."""
    ins = [line_in(f"in{n}", str(n), "XLR", balanced=True) for n in range(1, channels + 1)]
    outs = [line_out(f"out{n}", str(n), "XLR", balanced=True) for n in range(1, channels + 1)]
    made = through(id, name, "network-audio", "mixed", ins, outs, f"{channels} ch", delay_ms=typical(delay_ms, 1.0))
    return with_clock(made, "own")


def with_clock(device: Device, value: str) -> Device:
    """The device with a network socket for sound, whose clock is its own or that of the network."""
    clock = choice(f"{device.id}/clock", f"{device.name.lower()} clock", value, ("own", "network"))
    ports = tuple(
        port("network", "network", "network", "RJ45", 0, clock_control=clock.id)
        if port is into
        else port("network-out", "network", "network", "RJ45", 0, clock_control=clock.id)
        for port in (into, out)
    )
    return device.evolve(ports=(*device.ports, *ports), controls=(*device.controls, clock))


def usb_hub(id: str, name: str = "USB hub", ports: int = 4, powered: bool = False) -> Device:
    """Several sockets on one of the computer's: what is in the first comes to the computer as its first, and so on.

    All of them share the bandwidth of one lead, and without a supply of its own also the power of one socket.
    """
    numbers = range(1, ports + 1)
    ins = [into(f"in{n}", str(n), "usb", "USB A", 2, picture=True) for n in numbers]
    outs = [out(f"out{n}", f"computer {n}", "usb", "", 2, picture=True) for n in numbers]
    detail = f"{ports} ports, {'powered' if powered else 'without a supply'}"
    return through(id, name, "usb-hub", "carried", ins, outs, detail, picture_ms=0.0)
