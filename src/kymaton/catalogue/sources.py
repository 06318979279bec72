"""Instruments, players and other computers that make sound."""

from kymaton.catalogue.boxes import through, typical
from kymaton.catalogue.parts import figure, into, out
from kymaton.core.model import Device, Route


def _stereo_source(
    id: str, name: str, kind: str, detail: str, connector: str, top_dbu: float, wait_ms: float
) -> Device:
    """A digital source with two line outputs; full scale is `top_dbu`."""
    wait = typical(wait_ms, wait_ms / 2)
    sides = ("left", "right")
    return Device(
        id=id,
        name=name,
        kind=kind,
        detail=detail,
        stage="picked-up",
        ports=(
            into("play", "", "usb", channels=2),
            *(out(s, s, "line", connector, maximum_level=top_dbu, nominal_level=top_dbu - 18.0) for s in sides),
        ),
        routes=tuple(
            Route(source="play", source_channel=channel, target=side, gain_db=figure(top_dbu), delay_ms=wait)
            for channel, side in enumerate(sides, 1)
        ),
    )


def keyboard(id: str, name: str = "Keyboard") -> Device:
    return _stereo_source(id, name, "keyboard", "L R", "TS 6.3 mm", 14.0, 5.0)


def drum_module(id: str, name: str = "Drum module") -> Device:
    return _stereo_source(id, name, "drum-module", "electronic, L R", "TS 6.3 mm", 14.0, 5.0)


def record_mixer(id: str, name: str = "Record mixer") -> Device:
    """A record player mixer: its record output does not follow the master level."""
    return _stereo_source(id, name, "record-mixer", "record output", "phono", 10.0, 0.0)


def second_computer(id: str, name: str = "Second computer") -> Device:
    """A console or second computer: HDMI with sound."""
    return through(
        id, name, "second-computer", "picked-up", [into("play", "", "usb", channels=2, picture=True)],
        [out("hdmi", "HDMI", "hdmi", "HDMI A", 2, picture=True)], "HDMI with sound",
        delay_ms=typical(9.0, 4.0), picture_ms=typical(17.0, 8.0),
    )  # fmt: skip
