"""Computers as part of the sound: interfaces, a mix in a computer, virtual devices."""

from kymaton.catalogue.boxes import line_out, through, typical
from kymaton.catalogue.parts import Number, choice, delay, figure, into, level, mute, out, switch, use
from kymaton.core.model import Control, Device, Program, Route


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


SYSTEM_DEFAULT = "system default"
HEADPHONES_FULL_SCALE_DBU = 8.0


def computer(id: str, name: str = "Computer", usb: int = 2) -> Device:
    """A computer on which a call, a browser, a playback and an encoder run, with `usb` devices for sound and picture.

    Each program has chosen its devices: where it plays, and (call, encoder) what it takes for microphone and camera.
    """
    say = name.lower()
    boxes = tuple(f"USB {n}" for n in range(1, usb + 1))
    outputs = {"headphones": "headphones", "HDMI": "hdmi", **{b: f"usb{n}-out" for n, b in enumerate(boxes, 1)}}
    inputs = {b: f"usb{n}-in" for n, b in enumerate(boxes, 1)}
    plays = {"call": "call-in", "browser": "web", "playback": "play"}
    takes = {"call": ("call-out", 1), "encoder": ("stream", 2)}
    wait = typical(20.0, 10.0)
    controls = [
        choice(f"{id}/{p}/loudspeaker", f"{say} {p} plays to", "headphones", (*outputs, SYSTEM_DEFAULT)) for p in plays
    ]
    routes = [
        Route(source=source, target=target, source_channel=1, target_channel=side, kind="switch", delay_ms=wait,
              gain_db=figure(HEADPHONES_FULL_SCALE_DBU if target == "headphones" else 0.0),
              controls=(use(f"{id}/{program}/loudspeaker",
                            {chosen: 0.0} | ({SYSTEM_DEFAULT: 0.0} if target == "headphones" else {})),))
        for program, source in plays.items() for chosen, target in outputs.items() for side in (1, 2)
    ]  # fmt: skip
    for program, (target, channels) in takes.items():
        for use_, none in (("microphone", "none"), ("camera", "none")):
            first = boxes[0] if boxes and program == "encoder" else none
            what = "hears" if use_ == "microphone" else "sees"
            controls.append(
                choice(f"{id}/{program}/{use_}", f"{say} {program} {what}", first, (*boxes, none, SYSTEM_DEFAULT))
            )
        for chosen, source in inputs.items():
            opens = {chosen: 0.0} | ({SYSTEM_DEFAULT: 0.0} if chosen == boxes[0] else {})
            routes += [
                Route(source=source, target=target, source_channel=side, target_channel=min(side, channels),
                      kind="switch", delay_ms=wait, gain_db=figure(0.0 if channels == 2 else -6.0),
                      controls=(use(f"{id}/{program}/microphone", opens),))
                for side in (1, 2)
            ]  # fmt: skip
            routes.append(
                Route(source=source, target=target, medium="picture", delay_ms=typical(40.0, 20.0),
                      controls=(use(f"{id}/{program}/camera", opens),))
            )  # fmt: skip
    routes.append(Route(source="call-in", target="hdmi", medium="picture", delay_ms=typical(30.0, 15.0)))
    programs = tuple(
        Program(
            id=p,
            name=p.capitalize(),
            kind=p,
            chosen=({"loudspeaker": f"{id}/{p}/loudspeaker"} if p in plays else {})
            | ({u: f"{id}/{p}/{u}" for u in ("microphone", "camera")} if p in takes else {}),
        )
        for p in ("call", "browser", "playback", "encoder")
    )
    ports = (
        into("call-in", "call", "network", picture=True),
        into("web", "browser", "network"),
        into("play", "playback", "usb"),
        *(into(f"usb{n}-in", f"USB {n}", "usb", "USB A", 2, picture=True) for n in range(1, usb + 1)),
        out("call-out", "call", "network", picture=True),
        out("stream", "stream", "network", "RJ45", 2, picture=True),
        out("headphones", "headphones", "headphone", "3.5 mm stereo", 2, maximum_level=HEADPHONES_FULL_SCALE_DBU),
        out("hdmi", "HDMI", "hdmi", "HDMI A", 2, picture=True),
        *(out(f"usb{n}-out", f"USB {n}", "usb", "USB A", 2) for n in range(1, usb + 1)),
    )
    return Device(
        id=id, name=name, kind="computer", detail="call, browser, playback, encoder", stage="mixed", ports=ports,
        routes=tuple(routes), controls=tuple(controls), programs=programs,
    )  # fmt: skip


def streaming_program(id: str, name: str = "Streaming program", inputs: int = 4, delay_ms: Number = 100.0) -> Device:
    """A program that mixes sources with picture and sound, and encodes: each source with level, mute, *sync offset*.

    It takes captures, webcams, interfaces and the sound of other programs; it gives the stream, a recording, and what
    the one at the computer listens to (its monitor). Its latency is typical before look-ahead.
    """
    say = name.lower()
    controls: list[Control] = []
    routes: list[Route] = []
    wait = figure(delay_ms, 50.0) if isinstance(delay_ms, float) else delay_ms
    ways = (("stream", wait), ("file", figure(0.0)), ("monitor", typical(20.0, 10.0)))
    for n in range(1, inputs + 1):
        source = f"{id}/source{n}"
        offset = delay(f"{source}/offset", f"{say} {n} sync offset", 0.0, 950.0)
        controls += [
            level(f"{source}/level", f"{say} {n}", "fader", 0.0),
            mute(f"{source}/mute", f"{say} {n} sound"),
            offset,
            switch(f"{source}/monitor", f"{say} {n} monitored", False),
        ]
        strip = (use(f"{source}/level"), use(f"{source}/mute"), use(offset.id))
        for target, late in ways:
            heard = (*strip, use(f"{source}/monitor")) if target == "monitor" else strip
            routes += [
                Route(source=f"in{n}", target=target, source_channel=c, target_channel=c, kind="fader", delay_ms=late,
                      controls=heard)
                for c in (1, 2)
            ]  # fmt: skip
            if target != "monitor":
                routes.append(Route(source=f"in{n}", target=target, medium="picture", delay_ms=late))
    ports = (
        *(into(f"in{n}", str(n), "usb", "", 2, picture=True) for n in range(1, inputs + 1)),
        out("stream", "stream", "network", "", 2, picture=True),
        out("file", "recording", "network", "", 2, picture=True),
        out("monitor", "monitor", "usb", "", 2),
    )
    return Device(
        id=id, name=name, kind="streaming-program", detail=f"{inputs} sources", stage="carried", ports=ports,
        routes=tuple(routes), controls=tuple(controls),
    )  # fmt: skip
