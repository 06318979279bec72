"""What picks up sound: microphones, DI boxes, wireless sets, players and the phone."""

from kymaton.catalogue.parts import Number, figure, gain, into, level, out, switch, use
from kymaton.core.model import Device, Port, Route
from kymaton.core.units import microphone_gain_db


def microphone(id: str, name: str, detail: str, sensitivity_mv_per_pa: float, phantom: bool = False) -> Device:
    """A microphone of this sensitivity; condensers need phantom power."""
    return Device(
        id=id,
        name=name,
        kind="microphone",
        detail=detail,
        stage="picked-up",
        ports=(
            into("capsule", "", "acoustic"),
            out("out", "", "mic", "XLR", balanced=True, phantom="needed" if phantom else "tolerated"),
        ),
        routes=(
            Route(source="capsule", target="out", gain_db=figure(round(microphone_gain_db(sensitivity_mv_per_pa), 2))),
        ),
    )


def dynamic_microphone(id: str, name: str = "Dynamic mic", sensitivity_mv_per_pa: float = 2.0) -> Device:
    return microphone(id, name, "dynamic", sensitivity_mv_per_pa)


def condenser_microphone(id: str, name: str = "Condenser mic", sensitivity_mv_per_pa: float = 20.0) -> Device:
    return microphone(id, name, "condenser", sensitivity_mv_per_pa, phantom=True)


def clip_on_microphone(id: str, name: str = "Clip-on mic", sensitivity_mv_per_pa: float = 8.0) -> Device:
    return microphone(id, name, "clip-on condenser", sensitivity_mv_per_pa, phantom=True)


def lavalier(id: str, name: str = "Lavalier", sensitivity_mv_per_pa: float = 6.0) -> Device:
    """A small clip-on microphone with a 3.5 mm plug, which needs plug-in power."""
    return Device(
        id=id,
        name=name,
        kind="microphone",
        detail="3.5 mm",
        stage="picked-up",
        ports=(
            into("capsule", "", "acoustic"),
            out("out", "", "mic", "3.5 mm mono", plug_in_power="needed"),
        ),
        routes=(
            Route(source="capsule", target="out", gain_db=figure(round(microphone_gain_db(sensitivity_mv_per_pa), 2))),
        ),
    )


def wireless_microphone(id: str, name: str = "Wireless mic", delay_ms: Number = 3.0) -> Device:
    """A digital wireless headset with its receiver, line out (typical delay 1.5–5 ms); its sender has a gain."""
    sender = gain(f"{id}/gain", f"{name.lower()} sender gain", 0.0, -20.0, 30.0)
    return Device(
        id=id,
        name=name,
        kind="wireless-microphone",
        detail="wireless headset",
        stage="picked-up",
        ports=(into("capsule", "", "acoustic"), out("out", "", "line", "XLR", balanced=True, maximum_level=12.0)),
        routes=(
            Route(
                source="capsule",
                target="out",
                gain_db=figure(-100.0),
                delay_ms=figure(delay_ms, 2.0),
                controls=(use(sender.id),),
            ),
        ),
        controls=(sender,),
        battery_h=figure(7.0, 2.0),
    )


def stereo_microphone(id: str, name: str = "Stereo mic", sensitivity_mv_per_pa: float = 12.0) -> Device:
    """Two capsules in one body: a stereo sound goes into them side by side, a single one into both."""
    made = microphone(id, name, "stereo", sensitivity_mv_per_pa, phantom=True)
    gain_db = made.routes[0].gain_db
    sides = ("left", "right")
    return made.evolve(
        ports=(
            into("capsule", "", "acoustic", channels=2),
            *(out(s, s, "mic", "XLR", balanced=True, phantom="needed") for s in sides),
        ),
        routes=tuple(
            Route(source="capsule", source_channel=c, target=s, gain_db=gain_db) for c, s in enumerate(sides, 1)
        ),
    )


def usb_microphone(id: str, name: str = "USB mic", delay_ms: Number = 10.0) -> Device:
    """A microphone that is its own interface, with a headphone socket that hears the computer and itself direct."""
    say = name.lower()
    controls = (
        level(f"{id}/gain", f"{say} gain", "gain", 0.0, 0.0, 30.0),
        level(f"{id}/direct", f"{say} heard direct", "send", -90.0),
    )
    wait = figure(delay_ms, 5.0)
    ears = [
        Route(source=a, target="phones", target_channel=side, gain_db=figure(gain_db), delay_ms=late, controls=uses)
        for a, gain_db, late, uses in (
            ("play", 4.0, wait, ()),
            ("capsule", -86.0, figure(1.0), (use(controls[0].id), use(controls[1].id))),
        )
        for side in (1, 2)
    ]
    return Device(
        id=id,
        name=name,
        kind="usb-microphone",
        detail="USB, headphones",
        stage="picked-up",
        ports=(
            into("capsule", "", "acoustic"),
            into("play", "playback", "usb"),
            out("record", "USB", "usb", "USB A"),
            out("phones", "headphones", "headphone", "3.5 mm stereo", 2),
        ),
        routes=(
            Route(
                source="capsule",
                target="record",
                gain_db=figure(-106.0),
                delay_ms=wait,
                controls=(use(controls[0].id),),
            ),
            *ears,
        ),
        controls=controls,
    )


def bluetooth_receiver(id: str, name: str = "Bluetooth receiver", delay_ms: Number = 200.0) -> Device:
    """Bluetooth to line, stereo."""
    return _bluetooth(id, name, "receiver", into("in", "", "bluetooth", channels=2),
                      out("out", "", "line", "3.5 mm stereo", 2, nominal_level=-7.8, maximum_level=8.0), 8.0,
                      delay_ms)  # fmt: skip


def bluetooth_sender(id: str, name: str = "Bluetooth sender", delay_ms: Number = 100.0) -> Device:
    """Line to Bluetooth, stereo."""
    return _bluetooth(id, name, "sender", into("in", "", "line", "3.5 mm stereo", 2, nominal_level=-7.8),
                      out("out", "", "bluetooth", channels=2), -8.0, delay_ms)  # fmt: skip


def _bluetooth(id: str, name: str, detail: str, a: Port, b: Port, gain_db: float, delay_ms: Number) -> Device:
    wait = figure(delay_ms, 100.0 if delay_ms == 200.0 else 50.0)
    return Device(
        id=id,
        name=name,
        kind="bluetooth",
        detail=detail,
        stage="picked-up" if detail == "receiver" else "carried",
        ports=(a, b),
        routes=tuple(
            Route(source="in", target="out", source_channel=c, target_channel=c, gain_db=figure(gain_db), delay_ms=wait)
            for c in (1, 2)
        ),
        battery_h=figure(8.0, 3.0),
    )


def di_box(id: str, name: str = "DI", channels: int = 2) -> Device:
    """A passive DI: line or instrument in, microphone level out, 20 dB down, isolated."""
    sides = ("left", "right")[:channels] if channels <= 2 else tuple(f"ch{i}" for i in range(1, channels + 1))
    return Device(
        id=id,
        name=name,
        kind="di",
        detail=f"passive, {channels} ch",
        stage="picked-up",
        ports=(
            *(into(f"in-{s}", s, "line", "TS 6.3 mm") for s in sides),
            *(out(f"out-{s}", s, "mic", "XLR", balanced=True, phantom="tolerated") for s in sides),
        ),
        routes=tuple(Route(source=f"in-{s}", target=f"out-{s}", gain_db=figure(-20.0)) for s in sides),
    )


def player(
    id: str, name: str, outputs: tuple[tuple[str, str], ...], detail: str = "playback", full_scale_dbu: float = 8.0
) -> Device:
    """A computer that plays: one mono digital source and one line output for each (id, name)."""
    return Device(
        id=id,
        name=name,
        kind="player",
        detail=detail,
        stage="picked-up",
        ports=tuple(
            port
            for output, title in outputs
            for port in (
                into(f"play-{output}", title, "usb"),
                out(f"out-{output}", title, "line", "TS 6.3 mm", maximum_level=full_scale_dbu),
            )
        ),
        routes=tuple(
            Route(source=f"play-{o}", target=f"out-{o}", gain_db=figure(full_scale_dbu), delay_ms=figure(12.0, 6.0))
            for o, _ in outputs
        ),
    )


def stereo_player(id: str, name: str, detail: str = "playback, stereo", full_scale_dbu: float = 8.0) -> Device:
    """A laptop that plays in stereo from its headphone socket: left and right in one."""
    return Device(
        id=id,
        name=name,
        kind="player",
        detail=detail,
        stage="picked-up",
        ports=(
            into("play", "", "usb", channels=2),
            out("out", "out", "line", "3.5 mm stereo", 2, maximum_level=full_scale_dbu),
        ),
        routes=tuple(
            Route(
                source="play",
                source_channel=channel,
                target="out",
                target_channel=channel,
                gain_db=figure(full_scale_dbu),
                delay_ms=figure(12.0, 6.0),
            )
            for channel in (1, 2)
        ),
    )


def phone(id: str, name: str = "Phone", delay_ms: Number = 200.0) -> Device:
    """A phone paired by Bluetooth with a receiver that has a line output (classic: 100–400 ms)."""
    return Device(
        id=id,
        name=name,
        kind="phone",
        detail="by Bluetooth",
        stage="picked-up",
        ports=(into("sound", "", "bluetooth"), out("out", "", "line", "TS 6.3 mm")),
        routes=(
            Route(
                source="sound",
                target="out",
                kind="switch",
                gain_db=figure(8.0),
                delay_ms=figure(delay_ms, 100.0),
                low_hz=300.0,
                high_hz=3400.0,
                controls=(use(f"{id}/paired"),),
            ),
        ),
        controls=(switch(f"{id}/paired", f"{name.lower()} pairing"),),
    )
