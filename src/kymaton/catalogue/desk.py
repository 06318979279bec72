"""Mixing devices: strips to a main bus and to sends, as desks, mixers with USB and desks for podcasts have them."""

from collections.abc import Iterable, Mapping, Sequence

from msgspec import Struct

from kymaton.catalogue.parts import (
    OFF_DB,
    Number,
    choice,
    delay,
    figure,
    gain,
    into,
    level,
    mute,
    out,
    pan,
    use,
    with_phantom,
    with_rate,
)
from kymaton.core.model import Control, ControlUse, Device, Figure, Port, Route
from kymaton.core.units import DIGITAL_FULL_SCALE_DBU

SUM_DB = -6.0  # of each side of a stereo strip in a mono bus; assumed


class Strip(Struct, frozen=True):
    """A way in: `say` is what stands on the device, `port` its input. Without `gain_db` it has no preamp.

    `fixed_db` is what the input adds by itself. A mono strip goes to `sides` of a stereo bus.
    """

    id: str
    say: str
    port: str
    channels: int = 1
    gain_db: float | None = 0.0
    fader_db: float = OFF_DB
    fixed_db: float = 0.0
    sides: tuple[int, ...] = (1, 2)


class Bus(Struct, frozen=True):
    """A way out to one or several ports, each with what it adds (dB). The main bus takes the faders, others sends.

    `leaves_out` are strips that do not go there: a mix-minus that the device makes by itself. One that `delays` can
    hold its output back.
    """

    id: str
    title: str
    ports: tuple[tuple[str, float], ...]
    channels: int = 1
    point: str = "pre"
    sends_db: Mapping[str, float] = {}
    leaves_out: tuple[str, ...] = ()
    delays: bool = False


def mixing(
    id: str,
    name: str,
    kind: str,
    detail: str,
    strips: Sequence[Strip],
    main: Bus,
    sends: Sequence[Bus],
    ports: Iterable[Port],
    latency: Figure,
    more_routes: tuple[Route, ...] = (),
) -> Device:
    """A device of strips and buses. The mute of a strip silences its sends too; a send takes it before or behind it."""
    say = name.lower()
    controls: list[Control] = []
    routes: list[Route] = []
    for strip in strips:
        channel = f"{id}/{strip.id}"
        own: tuple[ControlUse, ...] = (use(f"{channel}/mute"),)
        if strip.gain_db is not None:
            controls.append(gain(f"{channel}/gain", f"{say} {strip.say} gain", strip.gain_db))
            own = (use(f"{channel}/gain"), *own)
        controls += [
            mute(f"{channel}/mute", f"{say} {strip.say}"),
            level(f"{channel}/fader", f"{say} {strip.say} to main", "fader", strip.fader_db),
        ]
        ways = (*own, use(f"{channel}/fader"), *_output(id, main))
        turned = None
        if (strip.channels, strip.sides, main.channels) == (1, (1, 2), 2):
            turned = pan(f"{channel}/pan", f"{say} {strip.say} pan")
            controls.append(turned)
        routes += _to_bus(strip, main, latency, "fader", ways, turned)
        for bus in sends:
            if strip.id in bus.leaves_out:
                continue
            send = f"{channel}/send/{bus.id}"
            controls += [
                level(send, f"{say} {strip.say} to {bus.title}", "send", bus.sends_db.get(strip.id, OFF_DB)),
                choice(f"{send}/point", f"{say} {strip.say} to {bus.title} takes", bus.point, ("pre", "post")),
            ]
            behind = use(f"{channel}/fader", when=(f"{send}/point", "post"))
            ways = (*own, use(send), behind, *_output(id, bus))
            routes += _to_bus(strip, bus, latency, "send", ways)
    for bus in (main, *sends):
        controls += [
            level(f"{id}/{bus.id}/fader", f"{say} {bus.title} output", "fader", 0.0),
            mute(f"{id}/{bus.id}/mute", f"{say} {bus.title}"),
        ]
        if bus.delays:
            controls.append(delay(f"{id}/{bus.id}/delay", f"{say} {bus.title} delay"))
    made = Device(
        id=id,
        name=name,
        kind=kind,
        detail=detail,
        stage="mixed",
        ports=tuple(ports),
        routes=(*routes, *more_routes),
        controls=tuple(controls),
    )
    made = with_phantom(made)
    return with_rate(made) if any(p.signal == "usb" for p in made.ports) else made


def _side_of(turned: Control, channel: int) -> ControlUse:
    return ControlUse(control=turned.id, side=1 if channel == 1 else 2)


def _output(id: str, bus: Bus) -> tuple[ControlUse, ...]:
    """What a bus passes at its output."""
    ends = (use(f"{id}/{bus.id}/fader"), use(f"{id}/{bus.id}/mute"))
    return (*ends, use(f"{id}/{bus.id}/delay")) if bus.delays else ends


def _to_bus(
    strip: Strip, bus: Bus, latency: Figure, kind: str, controls: tuple[ControlUse, ...], turned: Control | None = None
) -> list[Route]:
    """A strip in a bus: side by side where both are stereo, summed into a mono one."""
    if strip.channels == 1:
        pairs, loss_db = [(1, side) for side in (strip.sides if bus.channels == 2 else (1,))], 0.0
    elif bus.channels == 2:
        pairs, loss_db = [(1, 1), (2, 2)], 0.0
    else:
        pairs, loss_db = [(1, 1), (2, 1)], SUM_DB
    return [
        Route.checked(
            source=strip.port,
            target=port,
            source_channel=a,
            target_channel=b,
            kind=kind,
            gain_db=figure(strip.fixed_db + adds_db + loss_db),
            delay_ms=latency,
            controls=controls if turned is None else (*controls, _side_of(turned, b)),
        )
        for port, adds_db in bus.ports
        for a, b in pairs
    ]


def mic_inputs(many: int, first: int = 1) -> list[Port]:
    """Numbered inputs for microphone and line."""
    return [
        into(f"in{n}", str(n), "mic", "XLR or TRS", balanced=True, phantom="offered", maximum_level=22.0)
        for n in range(first, first + many)
    ]


def line_outs(buses: Iterable[Bus]) -> list[Port]:
    """A balanced line output for each bus: XLR for a stereo one, jack for a mono one."""
    connectors = {1: "TRS 6.3 mm", 2: "XLR"}
    line = {"balanced": True, "nominal_level": 4.0, "maximum_level": 22.0}
    return [
        out(port, bus.title, "line", connectors[bus.channels], channels=bus.channels, **line)
        for bus in buses
        for port, _ in bus.ports[:1]
    ]


def desk(
    id: str,
    name: str = "Desk",
    inputs: int = 16,
    aux: int = 6,
    pairs: tuple[tuple[int, int], ...] = (),
    gains_db: Mapping[int, float] | None = None,
    sends_db: Mapping[tuple[int, int], float] | None = None,
    faders_db: Mapping[int, float] | None = None,
    post_fader: tuple[int, ...] = (),
    delay_ms: Number = 1.5,
    tracks: int = 0,
    returns: int = 0,
) -> Device:
    """A desk with mono channels, a stereo main and mono aux buses.

    `pairs` are stereo pairs of channels, left to main left only and right to main right only. `gains_db`, `faders_db`
    (by channel) and `sends_db` (by channel and aux) are the base settings; what is not named is closed, gain 0.
    Aux buses are before the fader unless named in `post_fader`. The mute of a channel silences its sends too.

    A digital desk, one that takes some time, can delay each of its outputs.

    With USB: `tracks` channels are recorded as they come in, behind their gain, and the main mix; `returns` stereo
    playbacks come in on strips of their own.
    """
    side = {n: (s,) for left, right in pairs for n, s in ((left, 1), (right, 2))}
    digital = not isinstance(delay_ms, float) or delay_ms > 0.0
    latency = figure(delay_ms, 0.9 if isinstance(delay_ms, float) else 0.0)
    strips = [
        Strip(
            f"ch{n}", str(n), f"in{n}",
            gain_db=(gains_db or {}).get(n, 0.0), fader_db=(faders_db or {}).get(n, OFF_DB), sides=side.get(n, (1, 2)),
        )
        for n in range(1, inputs + 1)
    ]  # fmt: skip
    strips += usb_strips(returns)
    main = Bus(
        "main",
        "main",
        (("main", 0.0), *((("usb-main", -DIGITAL_FULL_SCALE_DBU),) if tracks else ())),
        2,
        delays=digital,
    )
    sends = [
        Bus(
            f"aux{a}", f"aux {a}", ((f"aux{a}", 0.0),), point="post" if a in post_fader else "pre", delays=digital,
            sends_db={f"ch{n}": db for (n, bus), db in (sends_db or {}).items() if bus == a},
        )
        for a in range(1, aux + 1)
    ]  # fmt: skip
    usb = [out("usb-main", "USB main", "usb", channels=2)] if tracks else []
    usb += [out(f"track{n}", f"USB {n}", "usb") for n in range(1, min(tracks, inputs) + 1)]
    usb += [into(s.port, s.say, "usb", channels=2) for s in usb_strips(returns)]
    direct = tuple(
        Route(
            source=f"in{n}",
            target=f"track{n}",
            gain_db=figure(-DIGITAL_FULL_SCALE_DBU),
            delay_ms=latency,
            controls=(use(f"{id}/ch{n}/gain"),),
        )
        for n in range(1, min(tracks, inputs) + 1)
    )
    detail = f"{inputs} in, {aux} aux" + (", USB" if tracks else "")
    every = (*mic_inputs(inputs), *line_outs((main, *sends)), *usb)
    return mixing(id, name, "desk", detail, strips, main, sends, every, latency, direct)


def usb_strips(many: int, say: str = "USB playback") -> list[Strip]:
    """Strips for stereo playbacks over USB."""
    return [
        Strip(f"usb{n}", f"{say} {n}" if many > 1 else say, f"play{n}", 2, None, fixed_db=DIGITAL_FULL_SCALE_DBU)
        for n in range(1, many + 1)
    ]


def usb_mixer(id: str, name: str = "USB mixer", inputs: int = 4, aux: int = 1) -> Device:
    """A small mixer with USB: its main mix is recorded, and one stereo playback comes back on a strip of its own.

    Its outputs are unbalanced phono sockets besides the jacks, as small mixers have them; headphones hear the main mix.
    """
    main = Bus(
        "main", "main", (("main", 0.0), ("tape", -12.0), ("phones", 4.0), ("usb-main", -DIGITAL_FULL_SCALE_DBU)), 2
    )
    sends = [Bus(f"aux{a}", f"aux {a}", ((f"aux{a}", 0.0),)) for a in range(1, aux + 1)]
    strips = [Strip(f"ch{n}", str(n), f"in{n}") for n in range(1, inputs + 1)]
    strips += [Strip("line", "line", "line", 2, None, fixed_db=12.0), *usb_strips(1)]
    ports = (
        *mic_inputs(inputs),
        into("line", "line in", "line", "phono", 2, nominal_level=-7.8, maximum_level=10.0),
        into("play1", "USB playback", "usb", channels=2),
        *line_outs((main, *sends)),
        out("tape", "phono out", "line", "phono", 2, nominal_level=-7.8, maximum_level=10.0),
        out("phones", "headphones", "headphone", "TRS 6.3 mm", 2),
        out("usb-main", "USB record", "usb", channels=2),
    )
    detail = f"{inputs} in, {aux} aux, USB"
    return mixing(id, name, "desk", detail, strips, main, sends, ports, figure(1.0, 0.5))


def podcast_desk(id: str, name: str = "Podcast desk", inputs: int = 4, headphones: int = 4) -> Device:
    """A desk for talk: microphones, a phone by lead and one by Bluetooth, USB both ways, headphones for everybody.

    What goes back to either phone and over USB is everything but what comes from there: it makes these mix-minus feeds
    by itself. Headphones and the monitor output hear the programme.
    """
    heard = (("main", 0.0), ("monitor", 0.0), ("usb-main", -DIGITAL_FULL_SCALE_DBU))
    main = Bus("main", "main", (*heard, *((f"phones{n}", -10.0) for n in range(1, headphones + 1))), 2)
    strips = [Strip(f"ch{n}", str(n), f"in{n}") for n in range(1, inputs + 1)]
    strips += [
        Strip("phone", "phone", "phone", 1, None, fixed_db=12.0),
        Strip("bluetooth", "Bluetooth", "bluetooth", 1, None, fixed_db=DIGITAL_FULL_SCALE_DBU),
        *usb_strips(1, "USB"),
    ]
    every = {s.id: 0.0 for s in strips}
    back = (("to-phone", "phone", -20.0), ("to-bluetooth", "bluetooth", -DIGITAL_FULL_SCALE_DBU),
            ("to-usb", "usb1", -DIGITAL_FULL_SCALE_DBU))  # fmt: skip
    titles = {"to-phone": "phone send", "to-bluetooth": "Bluetooth send", "to-usb": "USB send"}
    sends = [
        Bus(bus, titles[bus], ((bus, adds_db),), 1, "post", every, leaves_out=(source,))
        for bus, source, adds_db in back
    ]
    jacks = (into("phone", "phone", "line", "3.5 mm stereo"), out("to-phone", "phone", "line", "3.5 mm stereo"))
    phone_in, phone_out = (p.evolve(nominal_level=-20.0, maximum_level=0.0) for p in jacks)
    ports = (
        *mic_inputs(inputs),
        phone_in,
        into("bluetooth", "Bluetooth", "bluetooth"),
        into("play1", "USB", "usb", channels=2),
        *line_outs((main,)),
        out("monitor", "monitor", "line", "TRS 6.3 mm", 2, balanced=True, nominal_level=4.0, maximum_level=22.0),
        *(out(f"phones{n}", f"headphones {n}", "headphone", "TRS 6.3 mm", 2) for n in range(1, headphones + 1)),
        out("usb-main", "USB", "usb", channels=2),
        phone_out,
        out("to-bluetooth", "Bluetooth", "bluetooth"),
        out("to-usb", "USB mix-minus", "usb"),
    )
    detail = f"{inputs} in, phone, USB"
    return mixing(id, name, "desk", detail, strips, main, sends, ports, figure(1.5, 0.9))
