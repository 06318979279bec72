"""Computers as part of the sound: interfaces, a mix in a computer, virtual devices."""

from kymaton.catalogue.boxes import line_out, through, typical
from kymaton.catalogue.parts import Number, figure, into, level, mute, out, use
from kymaton.core.model import Control, Device, Route


def interface(id: str, name: str = "Interface", inputs: int = 2, outputs: int = 2, delay_ms: Number = 4.0) -> Device:
    """A sound interface on a computer: inputs to USB and, heard direct, to its outputs (a round trip is twice this)."""
    wait = figure(delay_ms, 2.0) if isinstance(delay_ms, float) else delay_ms
    say = name.lower()
    ports = [
        *(into(f"in{n}", str(n), "mic", "XLR or TRS", balanced=True, phantom="offered", maximum_level=16.0)
          for n in range(1, inputs + 1)),
        *(into(f"play{n}", f"playback {n}", "usb") for n in range(1, outputs + 1)),
        *(out(f"record{n}", f"record {n}", "usb") for n in range(1, inputs + 1)),
        *(line_out(f"out{n}", f"out {n}", balanced=True) for n in range(1, outputs + 1)),
    ]  # fmt: skip
    controls = [level(f"{id}/in{n}/gain", f"{say} {n} gain", "gain", 30.0, 30.0, 60.0) for n in range(1, inputs + 1)]
    controls += [level(f"{id}/in{n}/direct", f"{say} {n} heard direct", "send", -90.0) for n in range(1, inputs + 1)]
    routes = [
        Route(
            source=f"in{n}",
            target=f"record{n}",
            gain_db=figure(-12.0),
            delay_ms=wait,
            controls=(use(f"{id}/in{n}/gain"),),
        )
        for n in range(1, inputs + 1)
    ]
    routes += [
        Route(source=f"play{n}", target=f"out{n}", gain_db=figure(12.0), delay_ms=wait) for n in range(1, outputs + 1)
    ]
    routes += [
        Route(source=f"in{n}", target=f"out{m}", kind="send", delay_ms=typical(1.0, 0.5),
              controls=(use(f"{id}/in{n}/gain"), use(f"{id}/in{n}/direct")))
        for n in range(1, inputs + 1) for m in range(1, outputs + 1)
    ]  # fmt: skip
    return Device(
        id=id,
        name=name,
        kind="interface",
        detail=f"{inputs} in, {outputs} out",
        stage="mixed",
        ports=tuple(ports),
        routes=tuple(routes),
        controls=tuple(controls),
    )


def computer_mix(id: str, name: str = "Computer mix", inputs: int = 8) -> Device:
    """Multitrack from a desk or interface over USB, mixed in a computer, back as stereo."""
    controls: list[Control] = []
    routes: list[Route] = []
    for n in range(1, inputs + 1):
        controls += [
            level(f"{id}/ch{n}/fader", f"{name.lower()} {n} to mix", "fader", -90.0),
            mute(f"{id}/ch{n}/mute", f"{name.lower()} {n}"),
        ]
        routes += [
            Route(source=f"in{n}", target="mix", target_channel=side, kind="fader", delay_ms=typical(20.0, 10.0),
                  controls=(use(f"{id}/ch{n}/fader"), use(f"{id}/ch{n}/mute")))
            for side in (1, 2)
        ]  # fmt: skip
    ports = (*(into(f"in{n}", str(n), "usb") for n in range(1, inputs + 1)), out("mix", "mix", "usb", "", 2))
    return Device(
        id=id,
        name=name,
        kind="computer-mix",
        detail=f"{inputs} in",
        stage="mixed",
        ports=ports,
        routes=tuple(routes),
        controls=tuple(controls),
    )


def virtual_sound(id: str, name: str = "Virtual sound device") -> Device:
    """A sound device made by a program: to be made anew after a restart."""
    return through(
        id, name, "virtual-sound", "mixed", [into("in", "", "usb", channels=2)], [out("out", "", "usb", channels=2)],
        "in the computer", delay_ms=typical(20.0, 15.0),
    )  # fmt: skip
