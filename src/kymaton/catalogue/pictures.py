"""Slides, the switcher that embeds sound, capture and encoder."""

from kymaton.catalogue.cameras import LINE_FULL_SCALE_DBU, MIC_PREAMP_DB
from kymaton.catalogue.parts import (
    Number,
    choice,
    delay,
    encodes_by,
    figure,
    into,
    level,
    mute,
    out,
    picture_format,
    use,
    with_usb_format,
)
from kymaton.core.model import Device, Figure, Port, Route


def laptop(id: str, name: str = "Laptop") -> Device:
    """A computer that shows pictures, with HDMI, and USB C that carries picture or data alone."""
    socket = choice(f"{id}/usb-c", f"{name.lower()} USB C", "with picture", ("with picture", "data only"))
    page = slides(id, name)
    usb = out("usb", "USB C", "usb", "USB C", 2, picture=True)
    over_usb = Route(
        source="page", target="usb", medium="picture", delay_ms=figure(17.0, 8.0),
        controls=(use(socket.id, {"with picture": 0.0}),),
    )  # fmt: skip
    return page.evolve(
        kind="laptop",
        detail="HDMI, USB C",
        ports=(*page.ports, usb),
        routes=(*page.routes, over_usb),
        controls=(*page.controls, socket),
    )


def dock(id: str, name: str = "Dock", displays: int = 1, usb: int = 0, charge_w: int = 0) -> Device:
    """Makes HDMI of the picture that a computer's USB C carries; without that its HDMI stays black.

    It may have several displays, sockets for USB (each comes to the computer as one of its own), and charge the
    computer with so many watts.
    """
    screens = ("hdmi", *(f"hdmi{n}" for n in range(2, displays + 1)))
    titles = ("HDMI", *(f"HDMI {n}" for n in range(2, displays + 1)))
    carries = [f"{displays} displays" if displays > 1 else "USB C to HDMI"]
    carries += ([f"{usb} USB"] if usb else []) + ([f"{charge_w} W"] if charge_w else [])
    numbers = range(1, usb + 1)
    return Device(
        id=id,
        name=name,
        kind="dock",
        detail=", ".join(carries),
        stage="picked-up",
        loads={"gives_w": figure(charge_w)} if charge_w else {},
        ports=(
            into("computer", "computer", "usb", "USB C", 2, picture=True),
            *(into(f"usb{n}", f"USB {n}", "usb", "USB A", 2, picture=True) for n in numbers),
            *(out(s, t, "hdmi", "HDMI A", 2, picture=True) for s, t in zip(screens, titles, strict=True)),
            *(out(f"to-computer{n}", f"computer {n}", "usb", "", 2, picture=True) for n in numbers),
        ),
        routes=(
            *(
                route
                for a, b in (*(("computer", s) for s in screens), *((f"usb{n}", f"to-computer{n}") for n in numbers))
                for route in (
                    Route(source=a, target=b, medium="picture", delay_ms=figure(0.0)),
                    *(Route(source=a, target=b, source_channel=c, target_channel=c) for c in (1, 2)),
                )
            ),
        ),
    )


def slides(id: str, name: str = "Slides") -> Device:
    """A computer that shows pictures and makes no sound."""
    return Device(
        id=id,
        name=name,
        kind="picture-player",
        detail="pictures",
        stage="picked-up",
        ports=(
            into("page", "page", "acoustic", channels=0, picture=True),
            out("hdmi", "HDMI", "hdmi", "HDMI A", 0, picture=True, format_control=f"{id}/format"),
        ),
        routes=(Route(source="page", target="hdmi", medium="picture", delay_ms=figure(17.0, 8.0)),),
        controls=(picture_format(id, name),),
    )


def switcher(
    id: str,
    name: str = "Switcher",
    inputs: int = 4,
    embedded: dict[int, str] | None = None,
    mic_input: str = "line",
    sound_delay_ms: float = 0.0,
    picture_delay_ms: Number = 40.0,
    scales: bool = False,
) -> Device:
    """A picture switcher that embeds sound; one that `scales` takes any picture format at any input.

    `embedded` says per HDMI input whether its sound is on, off or follows the picture (default off). The stereo
    sound input takes a microphone or line level. Each sound has a delay. Of the two outputs the second gives what is
    set: the programme, the programme without its sound (clean), or one input alone.
    """
    say, second = name.lower(), f"{id}/program2/takes"
    titles = {n: f"HDMI {n}" for n in range(1, inputs + 1)}
    ports: list[Port] = [
        *(
            into(
                f"hdmi{n}", f"HDMI {n}", "hdmi", "HDMI A", 2, picture=True, format_control=f"{id}/format", scales=scales
            )
            for n in range(1, inputs + 1)
        ),
        into(
            "mic1",
            "mic 1",
            "line",
            "3.5 mm stereo",
            2,
            nominal_level=-7.8,
            maximum_level=LINE_FULL_SCALE_DBU,
            plug_in_power="offered",
        ),
        *(
            out(p, title, "hdmi", "HDMI A", 2, picture=True, format_control=f"{id}/format")
            for p, title in (("program", "programme"), ("program2", "programme 2"))
        ),
    ]
    controls = [
        choice(f"{id}/mic1/input", f"{say} mic 1 input", mic_input, ("mic", "line")),
        level(f"{id}/mic1/level", f"{say} mic 1", "fader", 0.0),
        delay(f"{id}/mic1/delay", f"{say} mic 1 delay", sound_delay_ms),
        mute(f"{id}/program/mute", f"{say} programme sound"),
        picture_format(id, name),
        choice(second, f"{say} programme 2 takes", "programme", ("programme", "clean", *titles.values())),
    ]
    routes: list[Route] = []
    for target in ("program", "program2"):
        takes = (use(second, {"programme": 0.0}),) if target == "program2" else ()
        for side in (1, 2):
            routes.append(
                Route(
                    source="mic1",
                    target=target,
                    source_channel=side,
                    target_channel=side,
                    kind="fader",
                    gain_db=figure(-LINE_FULL_SCALE_DBU),
                    delay_ms=figure(1.0, 1.0),
                    controls=(
                        use(f"{id}/mic1/input", {"mic": MIC_PREAMP_DB, "line": 0.0}),
                        use(f"{id}/mic1/level"),
                        use(f"{id}/mic1/delay"),
                        use(f"{id}/program/mute"),
                        *takes,
                    ),
                )
            )
    for n in range(1, inputs + 1):
        controls += [
            choice(
                f"{id}/hdmi{n}/sound",
                f"{say} HDMI {n} sound",
                (embedded or {}).get(n, "off"),
                ("on", "off", "follows picture"),
                "input-sound",
                picture_input=f"{id}/hdmi{n}",
            ),
            level(f"{id}/hdmi{n}/level", f"{say} HDMI {n}", "fader", 0.0),
            delay(f"{id}/hdmi{n}/delay", f"{say} HDMI {n} delay"),
        ]
        for target in ("program", "program2"):
            shows = (use(second, {"programme": 0.0, "clean": 0.0}),) if target == "program2" else ()
            takes = (use(second, {"programme": 0.0}),) if target == "program2" else ()
            routes.append(
                Route(
                    source=f"hdmi{n}",
                    target=target,
                    medium="picture",
                    on_air=f"{id}/hdmi{n}",
                    delay_ms=figure(picture_delay_ms, 20.0),
                    controls=shows,
                )
            )
            routes += [
                Route(
                    source=f"hdmi{n}",
                    target=target,
                    source_channel=side,
                    target_channel=side,
                    kind="switch",
                    delay_ms=figure(1.0, 1.0),
                    controls=(
                        use(f"{id}/hdmi{n}/sound", {"on": 0.0}),
                        use(f"{id}/hdmi{n}/level"),
                        use(f"{id}/hdmi{n}/delay"),
                        use(f"{id}/program/mute"),
                        *takes,
                    ),
                )
                for side in (1, 2)
            ]
        alone = (use(second, {titles[n]: 0.0}),)
        routes.append(
            Route(source=f"hdmi{n}", target="program2", medium="picture", delay_ms=figure(picture_delay_ms, 20.0),
                  controls=alone)
        )  # fmt: skip
        routes += [
            Route(source=f"hdmi{n}", target="program2", source_channel=c, target_channel=c, kind="switch",
                  delay_ms=figure(1.0, 1.0), controls=alone)
            for c in (1, 2)
        ]  # fmt: skip
    return Device(
        id=id,
        name=name,
        kind="switcher",
        detail=f"{inputs} in, embeds{', scales' if scales else ''}",
        stage="embedded",
        ports=tuple(ports),
        routes=tuple(routes),
        controls=tuple(controls),
    )


def encoding_switcher(id: str, name: str = "Encoding switcher", inputs: int = 4) -> Device:
    """A switcher that encodes and streams by itself, with a second microphone input, USB out and headphones.

    Its headphones hear the programme, or one input alone (solo).
    """
    plain = switcher(id, name, inputs)
    say = name.lower()
    titles = {"mic1": "mic 1", "mic2": "mic 2", **{f"hdmi{n}": f"HDMI {n}" for n in range(1, inputs + 1)}}
    solo = choice(f"{id}/phones/takes", f"{say} headphones take", "programme", ("programme", *titles.values()))
    mic2 = next(p for p in plain.ports if p.id == "mic1").evolve(id="mic2", name="mic 2")
    outs = (
        out("stream", "stream", "network", "RJ45", 2, picture=True),
        out("usb", "USB", "usb", "USB C", 2, picture=True),
        out("phones", "headphones", "headphone", "3.5 mm stereo", 2),
    )
    routes: list[Route] = []
    for route in plain.routes:
        routes.append(route)
        if route.target == "program2":
            continue
        for port, late, adds in (("stream", 100.0, 0.0), ("usb", 40.0, 0.0), ("phones", 0.0, 8.0)):
            if port == "phones" and route.medium == "picture":
                continue
            gain_db = figure(route.gain_db.value + adds) if adds else route.gain_db
            longer = figure(route.delay_ms.value + late, route.delay_ms.plus_minus + late / 20)  # both by one encoder
            ways = (*route.controls, use(solo.id, {"programme": 0.0})) if port == "phones" else route.controls
            routes.append(route.evolve(target=port, gain_db=gain_db, delay_ms=longer, controls=ways))
    first = [r for r in routes if r.source == "mic1"]
    renamed = {f"{id}/mic1/{what}": f"{id}/mic2/{what}" for what in ("input", "level", "delay")}
    routes += [
        r.evolve(source="mic2", controls=tuple(u.evolve(control=renamed.get(u.control, u.control)) for u in r.controls))
        for r in first
    ]
    routes += [  # solo: as it comes in, whatever its switch says
        Route(source=p, target="phones", source_channel=c, target_channel=c,
              gain_db=figure(8.0 - (LINE_FULL_SCALE_DBU if p.startswith("mic") else 0.0)),
              controls=(use(solo.id, {title: 0.0}),))
        for p, title in titles.items() for c in (1, 2)
    ]  # fmt: skip
    more = [
        c.evolve(id=renamed[c.id], name=c.name.replace("mic 1", "mic 2")) for c in plain.controls if c.id in renamed
    ]
    return plain.evolve(
        detail=f"{inputs} in, streams",
        ports=(*plain.ports, mic2, *outs),
        routes=tuple(routes),
        controls=(*plain.controls, *more, solo),
    )


def _through(
    id: str, name: str, kind: str, detail: str, stage: str, a: Port, b: Port, sound: Figure, picture: Figure
) -> Device:
    """A device that carries embedded sound and picture from one port to the other."""
    return Device.checked(
        id=id,
        name=name,
        kind=kind,
        detail=detail,
        stage=stage,
        ports=(a, b),
        routes=(
            *(Route(source=a.id, target=b.id, source_channel=c, target_channel=c, delay_ms=sound) for c in (1, 2)),
            Route(source=a.id, target=b.id, medium="picture", delay_ms=picture),
        ),
    )


def capture(
    id: str,
    name: str = "Capture",
    sound_ms: Number = 60.0,
    picture_ms: Number = 60.0,
    most_fps: float = 0.0,
    freezes: bool = False,
) -> Device:
    """HDMI to USB (typical 30–150 ms); a cheap one gives `most_fps` frames a second and no more, and some freeze."""
    made = _through(
        id,
        name,
        "capture",
        "HDMI to USB",
        "embedded",
        into("hdmi", "HDMI", "hdmi", "HDMI A", 2, picture=True),
        out("usb", "USB", "usb", "USB A", 2, picture=True),
        figure(sound_ms, 30.0),
        figure(picture_ms, 30.0),
    )
    made = with_usb_format(made, "compressed" if most_fps else "uncompressed")
    if not most_fps:
        return made
    hdmi, usb = made.ports
    told = f"HDMI to USB, {most_fps:g} frames{', may freeze' if freezes else ''}"
    return made.evolve(detail=told, ports=(hdmi.evolve(most_frames_per_s=most_fps), usb))


def encoder(
    id: str, name: str = "Encoder", detail: str = "streams", sound_ms: Number = 100.0, picture_ms: Number = 100.0
) -> Device:
    """A computer that encodes what it captures (typical 50–300 ms before look-ahead)."""
    made = _through(
        id,
        name,
        "encoder",
        detail,
        "carried",
        into("usb", "USB", "usb", "USB A", 2, picture=True),
        out("stream", "stream", "network", "RJ45", 2, picture=True),
        figure(sound_ms, 50.0),
        figure(picture_ms, 50.0),
    )
    return made.evolve(controls=(*made.controls, encodes_by(id, name)))
