"""Boxes that carry sound or picture from inputs to outputs, told by a few figures."""

from collections.abc import Sequence
from typing import Literal

from kymaton.catalogue.parts import Number, delay, figure, into, level, out, use, with_phantom
from kymaton.core.model import Control, ControlUse, Device, Figure, Port, Route
from kymaton.core.model.device import Stage

Side = Literal["in", "out"]


def through(
    id: str,
    name: str,
    kind: str,
    stage: Stage,
    ins: Sequence[Port],
    outs: Sequence[Port],
    detail: str = "",
    gain_db: Number = 0.0,
    delay_ms: Number = 0.0,
    picture_ms: Number | None = None,
    every: bool = False,
    controls: tuple[Control, ...] = (),
    uses: tuple[ControlUse, ...] = (),
) -> Device:
    """Inputs to outputs in turn (or each to every output), channel by channel; a single channel goes to all.

    With `picture_ms`, ports that carry picture are joined by a picture route as well.
    """
    routes: list[Route] = []
    pairs = [(a, b) for a in ins for b in outs] if every else list(zip(ins, outs, strict=False))
    for a, b in pairs:
        sides = (
            [(c, c) for c in range(1, min(a.channels, b.channels) + 1)]
            if a.channels > 1 and b.channels > 1
            else [(x, y) for x in range(1, a.channels + 1) for y in range(1, b.channels + 1)]
        )
        routes += [
            Route(
                source=a.id,
                target=b.id,
                source_channel=x,
                target_channel=y,
                gain_db=figure(gain_db),
                delay_ms=figure(delay_ms),
                controls=uses,
            )
            for x, y in sides
        ]
        if picture_ms is not None and a.picture and b.picture:
            routes.append(Route(source=a.id, target=b.id, medium="picture", delay_ms=figure(picture_ms)))
    return Device(
        id=id,
        name=name,
        kind=kind,
        detail=detail,
        stage=stage,
        ports=(*ins, *outs),
        routes=tuple(routes),
        controls=controls,
    )


def typical(value: float, plus_minus: float) -> Figure:
    return Figure(value=value, plus_minus=plus_minus)


def line_in(id: str = "in", name: str = "", connector: str = "TRS 6.3 mm", channels: int = 1, **more: object) -> Port:
    return into(id, name, "line", connector, channels, nominal_level=4.0, maximum_level=22.0, **more)


def line_out(id: str = "out", name: str = "", connector: str = "TRS 6.3 mm", channels: int = 1, **more: object) -> Port:
    return out(id, name, "line", connector, channels, nominal_level=4.0, maximum_level=22.0, **more)


# lines between devices


def isolating_transformer(id: str, name: str = "Isolator", channels: int = 2) -> Device:
    """Passes sound and no current: the cure for hum between two mains supplies."""
    ins = [line_in(f"in{n}", str(n)) for n in range(1, channels + 1)]
    outs = [line_out(f"out{n}", str(n), balanced=True) for n in range(1, channels + 1)]
    return through(id, name, "isolator", "picked-up", ins, outs, f"{channels} ch", gain_db=-0.5)


def pad(id: str, name: str = "Pad", loss_db: float = 20.0) -> Device:
    """A pad in an XLR barrel."""
    return through(
        id, name, "pad", "picked-up", [into("in", "", "mic", "XLR", balanced=True, phantom="tolerated")],
        [out("out", "", "mic", "XLR", balanced=True)], f"{loss_db:g} dB", gain_db=-abs(loss_db),
    )  # fmt: skip


def preamp(id: str, name: str = "Preamp", channels: int = 1, gain_db: float = 40.0) -> Device:
    """A microphone preamp with line output."""
    ins = [into(f"in{n}", str(n), "mic", "XLR", balanced=True, phantom="offered") for n in range(1, channels + 1)]
    outs = [line_out(f"out{n}", str(n), balanced=True) for n in range(1, channels + 1)]
    control = level(f"{id}/gain", f"{name.lower()} gain", "gain", gain_db, gain_db, 70.0)
    made = through(
        id, name, "preamp", "picked-up", ins, outs, f"{channels} ch", controls=(control,), uses=(use(control.id),)
    )
    return with_phantom(made)


def stage_box(id: str, name: str = "Stage box", channels: int = 16) -> Device:
    """A multicore: sockets on the stage, tails at the desk."""
    ins = [into(f"in{n}", str(n), "mic", "XLR", balanced=True, phantom="tolerated") for n in range(1, channels + 1)]
    outs = [out(f"out{n}", str(n), "mic", "XLR", balanced=True, phantom="tolerated") for n in range(1, channels + 1)]
    return through(id, name, "stage-box", "picked-up", ins, outs, f"{channels} ch")


def _left_and_right() -> list[Port]:
    return [line_in(side, side, "TS 6.3 mm") for side in ("left", "right")]


def stereo_join(id: str, name: str = "Join") -> Device:
    """Left and right to one, through resistors: 6 dB down, and neither output drives the other."""
    return through(
        id, name, "stereo-join", "picked-up", _left_and_right(),
        [line_out("out", "", "TS 6.3 mm")], "with resistors", gain_db=-6.0, every=True,
    )  # fmt: skip


def plain_y(id: str, name: str = "Plain Y") -> Device:
    """Left and right soldered together: the outputs load each other. Found by a check."""
    return through(
        id, name, "plain-y", "picked-up", _left_and_right(),
        [line_out("out", "", "TS 6.3 mm")], "without resistors", gain_db=-6.0, every=True,
    )  # fmt: skip


def y_lead(id: str, name: str = "Y lead") -> Device:
    """One output into two inputs, channel by channel; the other way round two outputs would drive each other."""
    outs = [line_out(f"out{n}", f"out {n}", channels=2) for n in (1, 2)]
    return through(id, name, "y-lead", "picked-up", [line_in("in", "", channels=2)], outs, "1 to 2", every=True)


def active_di(id: str, name: str = "Active DI") -> Device:
    """A DI that needs phantom power, for passive pick-ups."""
    return through(
        id, name, "di", "picked-up", [into("in", "", "instrument", "TS 6.3 mm")],
        [out("out", "", "mic", "XLR", balanced=True, phantom="needed")], "active", gain_db=-10.0,
    )  # fmt: skip


def headphone_amplifier(id: str, name: str = "Headphone amp", outputs: int = 4) -> Device:
    ins = [line_in("in", "", "TRS 6.3 mm", 2)]
    outs = [out(f"out{n}", str(n), "headphone", "TRS 6.3 mm", 2) for n in range(1, outputs + 1)]
    return through(id, name, "headphone-amplifier", "carried", ins, outs, f"{outputs} outputs", every=True)


def monitor_controller(id: str, name: str = "Monitor controller") -> Device:
    control = level(f"{id}/level", f"{name.lower()} level", "fader", -10.0, -10.0)
    return through(
        id, name, "monitor-controller", "mixed", [line_in("in", "", channels=2)],
        [line_out("out", "loudspeakers", channels=2), out("phones", "headphones", "headphone", "TRS 6.3 mm", 2)],
        "for the operator", every=True, controls=(control,), uses=(use(control.id),),
    )  # fmt: skip


def delay_unit(id: str, name: str = "Delay", delay_ms: float = 0.0) -> Device:
    control = delay(f"{id}/delay", f"{name.lower()} time", delay_ms, 1000.0, 0.1)
    ins, outs = [line_in("in", "", "XLR", 2, balanced=True)], [line_out("out", "", "XLR", 2, balanced=True)]
    return through(
        id, name, "delay-unit", "mixed", ins, outs, "stereo", delay_ms=1.0, controls=(control,), uses=(use(control.id),)
    )
