"""Cameras by sort: what they give, how late, whether clean, and whether they take sound."""

from kymaton.catalogue.parts import Number, choice, figure, gain, into, out, picture_format, use, with_usb_format
from kymaton.core.model import Device, Figure, Port, Route
from kymaton.core.model.device import Signal, Stage

WITH_DISPLAY = "with its display"
MIC_PREAMP_DB = 32.0  # what an input for line adds when it expects a microphone
LINE_FULL_SCALE_DBU = 12.0
FRAME_MS = 40.0  # at 25 frames/s: what the frames of the sorts below are counted in


def camera(
    id: str,
    name: str,
    delay_ms: Number = 80.0,
    detail: str = "HDMI",
    clean: bool = True,
    plus_minus_ms: float = 45.0,
    battery_h: float = 0.0,
) -> Device:
    """A camera with an HDMI output (typical 35–200 ms), clean or with what its display shows."""
    choices = ("clean", WITH_DISPLAY) if clean else (WITH_DISPLAY,)
    return Device(
        id=id,
        name=name,
        kind="camera",
        detail=detail,
        stage="picked-up",
        ports=(
            into("lens", "lens", "acoustic", channels=0, picture=True),
            out("hdmi", "HDMI", "hdmi", "HDMI A", 0, picture=True, format_control=f"{id}/format"),
        ),
        routes=(Route(source="lens", target="hdmi", medium="picture", delay_ms=figure(delay_ms, plus_minus_ms)),),
        controls=(
            picture_format(id, name),
            choice(f"{id}/output", f"{name.lower()} output", choices[0], choices),
        ),
        battery_h=figure(battery_h, battery_h / 3) if battery_h else None,
    )


def camera_with_sound(
    id: str,
    name: str = "Camera with sound",
    delay_ms: Number = 80.0,
    detail: str = "HDMI, sound input",
    plus_minus_ms: float = 45.0,
    battery_h: float = 0.0,
    clean: bool = True,
) -> Device:
    """A camera that takes line or microphone sound, with a gain, and embeds it as late as its picture."""
    plain = camera(id, name, delay_ms, detail, clean, plus_minus_ms, battery_h)
    level_in = choice(f"{id}/input", f"{name.lower()} sound input", "line", ("line", "mic"))
    turned = gain(f"{id}/gain", f"{name.lower()} sound gain", 0.0, -30.0, 30.0)
    sound = tuple(
        Route(
            source="sound",
            target="hdmi",
            source_channel=side,
            target_channel=side,
            gain_db=figure(-LINE_FULL_SCALE_DBU),
            delay_ms=figure(delay_ms, plus_minus_ms),
            controls=(use(level_in.id, {"line": 0.0, "mic": MIC_PREAMP_DB}), use(turned.id)),
        )
        for side in (1, 2)
    )
    lens, hdmi = plain.ports
    ports = (
        lens,
        into(
            "sound",
            "sound in",
            "line",
            "3.5 mm stereo",
            2,
            nominal_level=-7.8,
            maximum_level=LINE_FULL_SCALE_DBU,
            plug_in_power="offered",
        ),
        hdmi.evolve(channels=2),
    )
    return plain.evolve(ports=ports, routes=(*plain.routes, *sound), controls=(*plain.controls, level_in, turned))


def camcorder(id: str, name: str = "Camcorder", delay_ms: Number = 2.5 * FRAME_MS) -> Device:
    """Two to three frames; clean, with a sound input; made to run for hours."""
    return camera_with_sound(id, name, delay_ms, "camcorder", FRAME_MS, 4.0)


def mirrorless(id: str, name: str = "Mirrorless camera", delay_ms: Number = 5.0 * FRAME_MS) -> Device:
    """Four to six frames by itself, five to seven through a switcher; many stop by themselves after a while."""
    return camera_with_sound(id, name, delay_ms, "mirrorless", FRAME_MS, 1.5)


def pan_tilt_camera(id: str, name: str = "Pan tilt camera", delay_ms: Number = 2.0 * FRAME_MS) -> Device:
    """A camera moved from afar: SDI and HDMI, one to three frames; somebody steers it over the network."""
    made = camera(id, name, delay_ms, "pan and tilt", True, FRAME_MS)
    sdi = out("sdi", "SDI", "sdi", "BNC", 0, picture=True, format_control=f"{id}/format")
    return made.evolve(ports=(*made.ports, sdi), routes=(*made.routes, made.routes[0].evolve(target="sdi")))


def action_camera(id: str, name: str = "Action camera", delay_ms: Number = 4.0 * FRAME_MS) -> Device:
    """Small and wide: three to five frames, an hour and a half on its battery, clean only where it is set so."""
    made = camera(id, name, delay_ms, "action", True, FRAME_MS, 1.5)
    shown = tuple(c.evolve(value=WITH_DISPLAY) if c.id == f"{id}/output" else c for c in made.controls)
    return made.evolve(controls=shown)


def phone_camera(id: str, name: str = "Phone camera", delay_ms: Number = 4.0 * FRAME_MS) -> Device:
    """A phone as a camera, by an adapter to HDMI; calls and notices come between unless they are off."""
    return camera(id, name, delay_ms, "phone", True, 2 * FRAME_MS, 2.0)


def streaming_phone(id: str, name: str = "Streaming phone", delay_ms: Number = 3000.0) -> Device:
    """A phone that films and streams by itself; its headset socket takes a microphone or, turned down, line.

    It hangs on its battery and on its radio; notices and calls come between unless they are off.
    """
    way = figure(delay_ms, delay_ms / 2) if isinstance(delay_ms, float) else delay_ms
    sound = into("sound", "sound in", "mic", "3.5 mm mono", 1, nominal_level=-40.0, maximum_level=-20.0,
                 plug_in_power="offered")  # fmt: skip
    turned = gain(f"{id}/gain", f"{name.lower()} sound gain", 0.0, -20.0, 20.0)
    return Device(
        id=id,
        name=name,
        kind="phone",
        detail="films and streams",
        stage="embedded",
        ports=(
            into("lens", "lens", "acoustic", channels=0, picture=True),
            sound,
            out("stream", "stream", "network", "radio", 2, picture=True),
        ),
        routes=(
            Route(source="lens", target="stream", medium="picture", delay_ms=way),
            *(
                Route(source="sound", target="stream", target_channel=side, gain_db=figure(20.0), delay_ms=way,
                      controls=(use(turned.id),))
                for side in (1, 2)
            ),
        ),
        controls=(turned,),
        battery_h=figure(2.5, 1.0),
    )  # fmt: skip


def webcam(id: str, name: str = "Webcam", delay_ms: Number = 80.0) -> Device:
    """A camera on USB."""
    made = picture_only(id, name, "webcam", "USB", "lens", ("usb", "USB", "usb", "USB A"), figure(delay_ms, 40.0))
    lens, usb = made.ports
    format = picture_format(id, name)
    made = made.evolve(ports=(lens, usb.evolve(format_control=format.id)), controls=(*made.controls, format))
    return with_usb_format(made, "compressed")


def virtual_camera(id: str, name: str = "Virtual camera", delay_ms: Number = 40.0) -> Device:
    """A picture that one program makes and another takes for a camera: to be made anew after a restart."""
    return picture_only(
        id, name, "virtual-camera", "in the computer", "picture", ("out", "", "usb", ""), figure(delay_ms, 30.0)
    )


def picture_only(
    id: str, name: str, kind: str, detail: str, a: str | tuple[str, str, Signal, str],
    b: tuple[str, str, Signal, str], delay: Figure, stage: Stage = "picked-up",
) -> Device:  # fmt: skip
    """A device with one picture route and no sound; `a` may be the name of what it looks at."""
    source: tuple[str, str, Signal, str] = (a, a, "acoustic", "") if isinstance(a, str) else a
    return Device(
        id=id,
        name=name,
        kind=kind,
        detail=detail,
        stage=stage,
        ports=(into(*source, channels=0, picture=True), out(*b, channels=0, picture=True)),
        routes=(Route(source=source[0], target=b[0], medium="picture", delay_ms=delay),),
    )


def screen(id: str, name: str = "Screen") -> Device:
    """A monitor that somebody watches."""
    return picture_only(
        id, name, "screen", "HDMI", ("in", "HDMI", "hdmi", "HDMI A"), ("seen", "", "acoustic", ""), figure(20.0, 15.0),
        "carried",
    )  # fmt: skip


def converting_screen(id: str, name: str = "Converting screen") -> Device:
    """A field monitor that gives on what it shows, with its sound: HDMI in, HDMI and SDI out."""
    made = screen(id, name)
    shown, seen = made.ports
    outs: tuple[Port, ...] = (
        out("hdmi", "HDMI", "hdmi", "HDMI A", 2, picture=True),
        out("sdi", "SDI", "sdi", "BNC", 2, picture=True),
    )
    on = [Route(source="in", target=p.id, medium="picture", delay_ms=figure(0.5, 0.5)) for p in outs]
    on += [Route(source="in", target=p.id, source_channel=c, target_channel=c) for p in outs for c in (1, 2)]
    return made.evolve(detail="HDMI, gives on HDMI and SDI", ports=(shown.evolve(channels=2), seen, *outs),
                       routes=(*made.routes, *on))  # fmt: skip
