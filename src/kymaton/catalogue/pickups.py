"""What picks up sound: microphones, DI boxes, wireless sets, players and the phone."""

from kymaton.catalogue.parts import Number, figure, into, out, switch, use
from kymaton.core.model import Device, Route
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
    """A digital wireless headset with its receiver, line out (typical delay 1.5–5 ms)."""
    return Device(
        id=id,
        name=name,
        kind="wireless-microphone",
        detail="wireless headset",
        stage="picked-up",
        ports=(into("capsule", "", "acoustic"), out("out", "", "line", "XLR", balanced=True)),
        routes=(Route(source="capsule", target="out", gain_db=figure(-100.0), delay_ms=figure(delay_ms, 2.0)),),
        battery_h=figure(7.0, 2.0),
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


def stereo_player(id: str, name: str, detail: str = "playback L R", full_scale_dbu: float = 8.0) -> Device:
    """A laptop that plays in stereo from its headphone socket."""
    return Device(
        id=id,
        name=name,
        kind="player",
        detail=detail,
        stage="picked-up",
        ports=(
            into("play", "", "usb", channels=2),
            out("left", "left", "line", "3.5 mm stereo", maximum_level=full_scale_dbu),
            out("right", "right", "line", "3.5 mm stereo", maximum_level=full_scale_dbu),
        ),
        routes=tuple(
            Route(
                source="play",
                source_channel=channel,
                target=side,
                gain_db=figure(full_scale_dbu),
                delay_ms=figure(12.0, 6.0),
            )
            for channel, side in ((1, "left"), (2, "right"))
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
