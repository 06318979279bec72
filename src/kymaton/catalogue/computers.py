"""Computers as part of the sound: interfaces, a mix in a computer, virtual devices."""

from kymaton.catalogue.boxes import line_out, through, typical
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
    switch,
    use,
    with_phantom,
    with_rate,
)
from kymaton.core.model import Control, ControlUse, Device, Program, Route
from kymaton.core.model.device import ProgramKind


def interface(id: str, name: str = "Interface", inputs: int = 2, outputs: int = 2, delay_ms: Number = 4.0) -> Device:
    """A sound interface on a computer: inputs to USB and, heard direct, to its outputs (a round trip is twice this).

    Its headphones hear what its first two outputs play. With loopback on, what the computer plays is recorded again.
    """
    wait = figure(delay_ms, 2.0) if isinstance(delay_ms, float) else delay_ms
    say = name.lower()
    ports = [
        *(into(f"in{n}", str(n), "mic", "XLR or TRS", balanced=True, phantom="offered", maximum_level=16.0)
          for n in range(1, inputs + 1)),
        *(into(f"play{n}", f"playback {n}", "usb") for n in range(1, outputs + 1)),
        *(out(f"record{n}", f"record {n}", "usb") for n in range(1, inputs + 1)),
        *(line_out(f"out{n}", f"out {n}", balanced=True) for n in range(1, outputs + 1)),
        out("phones", "headphones", "headphone", "TRS 6.3 mm", 2),
        out("loopback", "loopback", "usb", channels=2),
    ]  # fmt: skip
    controls = [level(f"{id}/in{n}/gain", f"{say} {n} gain", "gain", 30.0, 30.0, 60.0) for n in range(1, inputs + 1)]
    controls += [level(f"{id}/in{n}/direct", f"{say} {n} heard direct", "send", -90.0) for n in range(1, inputs + 1)]
    controls += [
        level(f"{id}/phones", f"{say} headphones", "fader", 0.0),
        switch(f"{id}/loopback", f"{say} loopback", False),
    ]
    volume, again = use(f"{id}/phones"), use(f"{id}/loopback")
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
    for n, side in ((min(side, outputs), side) for side in (1, 2) if outputs):
        routes += [
            Route(source=f"play{n}", target="phones", target_channel=side, gain_db=figure(4.0), delay_ms=wait,
                  controls=(volume,)),
            Route(source=f"play{n}", target="loopback", target_channel=side, delay_ms=wait, controls=(again,)),
        ]  # fmt: skip
    routes += [
        Route(source=f"in{n}", target="phones", target_channel=side, kind="send", gain_db=figure(-8.0),
              delay_ms=typical(1.0, 0.5),
              controls=(use(f"{id}/in{n}/gain"), use(f"{id}/in{n}/direct"), volume))
        for n in range(1, inputs + 1) for side in (1, 2)
    ]  # fmt: skip
    made = Device(
        id=id,
        name=name,
        kind="interface",
        detail=f"{inputs} in, {outputs} out",
        stage="mixed",
        ports=tuple(ports),
        routes=tuple(routes),
        controls=tuple(controls),
    )
    return with_rate(with_phantom(made))


def handheld_recorder(id: str, name: str = "Handheld recorder") -> Device:
    """A recorder with two inputs that is used as an interface: one gain for both, and its own headphone socket."""
    made = interface(id, name)
    both, say = f"{id}/gain", name.lower()

    def shared(use_: ControlUse) -> ControlUse:
        return use_.evolve(control=both) if use_.control.endswith("/gain") else use_

    routes = tuple(r.evolve(controls=tuple(map(shared, r.controls))) for r in made.routes)
    one = level(both, f"{say} gain", "gain", 30.0, 30.0, 60.0)
    controls = (one, *(c for c in made.controls if not c.id.endswith("/gain")))
    return made.evolve(detail="2 in, one gain", routes=routes, controls=controls, battery_h=typical(8.0, 3.0))


def computer_mix(
    id: str, name: str = "Computer mix", inputs: int = 8, delay_ms: Number = 20.0, returns: int = 1
) -> Device:
    """Multitrack from a desk or interface over USB, mixed in a computer, back as stereo, later by its buffers.

    What it gives can be delayed further, to be in time with a picture.
    """
    wait = figure(delay_ms, 10.0)
    later = delay(f"{id}/delay", f"{name.lower()} delay", 0.0, 1000.0)
    controls: list[Control] = []
    routes: list[Route] = []
    for n in range(1, inputs + 1):
        controls += [
            level(f"{id}/ch{n}/fader", f"{name.lower()} {n} to mix", "fader", -90.0),
            mute(f"{id}/ch{n}/mute", f"{name.lower()} {n}"),
        ]
        routes += [
            Route(source=f"in{n}", target="mix", target_channel=side, kind="fader", delay_ms=wait,
                  controls=(use(f"{id}/ch{n}/fader"), use(f"{id}/ch{n}/mute"), use(later.id)))
            for side in (1, 2)
        ]  # fmt: skip
    ports = (*(into(f"in{n}", str(n), "usb") for n in range(1, inputs + 1)), out("mix", "mix", "usb", "", 2))
    made = Device(
        id=id,
        name=name,
        kind="computer-mix",
        detail=f"{inputs} in",
        stage="mixed",
        ports=ports,
        routes=tuple(routes),
        controls=(*controls, later),
    )
    return with_rate(made)


def virtual_sound(id: str, name: str = "Virtual sound device") -> Device:
    """A sound device made by a program: to be made anew after a restart."""
    return through(
        id, name, "virtual-sound", "mixed", [into("in", "", "usb", channels=2)], [out("out", "", "usb", channels=2)],
        "in the computer", delay_ms=typical(20.0, 15.0),
    )  # fmt: skip


SYSTEM_DEFAULT = "system default"
HEADPHONES_FULL_SCALE_DBU = 8.0
LINE_FULL_SCALE_DBU = 6.0
LINE_IN = "line in"


def computer(
    id: str,
    name: str = "Computer",
    usb: int = 2,
    calls: int = 1,
    battery_h: float = 0.0,
    call_channels: int = 1,
    browsers: int = 1,
) -> Device:
    """A computer on which calls, browsers, a playback and an encoder run, with `usb` devices for sound and picture.

    Each program has chosen its devices: where it plays, and (call, encoder) what it takes for microphone and camera.
    A call sends one channel, or two (`call_channels`).
    """
    say = name.lower()
    every_call = ["call", *(f"call{n}" for n in range(2, calls + 1))]
    names = {p: p.replace("call", "call ").strip() for p in every_call}
    boxes = tuple(f"USB {n}" for n in range(1, usb + 1))
    outputs = {"headphones": "headphones", "HDMI": "hdmi", **{b: f"usb{n}-out" for n, b in enumerate(boxes, 1)}}
    inputs = {b: f"usb{n}-in" for n, b in enumerate(boxes, 1)}
    pages = {"browser": "web", **{f"browser{n}": f"web{n}" for n in range(2, browsers + 1)}}
    names |= {p: p.replace("browser", "browser ").strip() for p in pages}
    plays = {**{p: f"{p}-in" for p in every_call}, **pages, "playback": "play"}
    takes = {**{p: (f"{p}-out", call_channels) for p in every_call}, "encoder": ("stream", 2)}
    wait = typical(20.0, 10.0)
    controls = [
        choice(f"{id}/{p}/loudspeaker", f"{say} {names.get(p, p)} plays to", "headphones", (*outputs, SYSTEM_DEFAULT))
        for p in plays
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
            there = (*boxes, LINE_IN) if use_ == "microphone" else boxes
            said = f"{say} {names.get(program, program)} {what}"
            controls.append(choice(f"{id}/{program}/{use_}", said, first, (*there, none, SYSTEM_DEFAULT)))
        routes += [
            Route(source="line", target=target, source_channel=side, target_channel=min(side, channels), kind="switch",
                  delay_ms=wait, gain_db=figure((0.0 if channels == 2 else -6.0) - LINE_FULL_SCALE_DBU),
                  controls=(use(f"{id}/{program}/microphone", {LINE_IN: 0.0}),))
            for side in (1, 2)
        ]  # fmt: skip
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
    routes += [
        Route(source=f"{p}-in", target="hdmi", medium="picture", delay_ms=typical(30.0, 15.0)) for p in every_call
    ]
    programs_are: dict[str, ProgramKind] = {"playback": "playback", "encoder": "encoder"}
    programs_are |= dict.fromkeys(pages, "browser")
    programs = tuple(
        Program(
            id=p,
            name=names.get(p, p).capitalize(),
            kind=programs_are.get(p, "call"),
            chosen=({"loudspeaker": f"{id}/{p}/loudspeaker"} if p in plays else {})
            | ({u: f"{id}/{p}/{u}" for u in ("microphone", "camera")} if p in takes else {}),
        )
        for p in (*every_call, *pages, "playback", "encoder")
    )
    ports = (
        *(into(f"{p}-in", names[p], "network", picture=True) for p in every_call),
        into("line", "line in", "line", "3.5 mm stereo", 2, maximum_level=LINE_FULL_SCALE_DBU, plug_in_power="offered"),
        *(into(port, names[p], "network") for p, port in pages.items()),
        into("play", "playback", "usb"),
        *(into(f"usb{n}-in", f"USB {n}", "usb", "USB A", 2, picture=True) for n in range(1, usb + 1)),
        *(out(f"{p}-out", names[p], "network", channels=call_channels, picture=True) for p in every_call),
        out("stream", "stream", "network", "RJ45", 2, picture=True),
        out("headphones", "headphones", "headphone", "3.5 mm stereo", 2, maximum_level=HEADPHONES_FULL_SCALE_DBU),
        out("hdmi", "HDMI", "hdmi", "HDMI A", 2, picture=True),
        *(out(f"usb{n}-out", f"USB {n}", "usb", "USB A", 2) for n in range(1, usb + 1)),
    )
    made = Device(
        id=id, name=name, kind="computer", detail="call, browser, playback, encoder", stage="mixed", ports=ports,
        routes=tuple(routes), controls=(*controls, encodes_by(id, name)), programs=programs,
        battery_h=typical(battery_h, battery_h / 3) if battery_h else None,
    )  # fmt: skip
    return with_rate(made)


def tablet(id: str, name: str = "Tablet") -> Device:
    """A tablet as a computer: one socket for sound and picture, no line input, hours on its battery."""
    made = computer(id, name, 1, battery_h=8.0)
    return made.evolve(
        detail="tablet",
        ports=tuple(p for p in made.ports if p.id != "line"),
        routes=tuple(r for r in made.routes if r.source != "line"),
        controls=tuple(
            c.evolve(choices=tuple(x for x in c.choices if x != LINE_IN)) if LINE_IN in c.choices else c
            for c in made.controls
        ),
    )


def streaming_program(id: str, name: str = "Streaming program", inputs: int = 4, delay_ms: Number = 100.0) -> Device:
    """A program that mixes sources with picture and sound, and encodes: each source with level, mute, *sync offset*.

    It takes captures, webcams, interfaces and the sound of the desktop, of one program or of a page; it gives the
    stream, a recording, a virtual camera, and what the one at the computer listens to (its monitor). Its latency is
    typical before look-ahead.
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
        routes.append(Route(source=f"in{n}", target="camera", medium="picture", delay_ms=typical(40.0, 30.0)))
    ports = (
        *(into(f"in{n}", str(n), "usb", "", 2, picture=True) for n in range(1, inputs + 1)),
        out("stream", "stream", "network", "", 2, picture=True),
        out("file", "recording", "network", "", 2, picture=True),
        out("monitor", "monitor", "usb", "", 2),
        out("camera", "virtual camera", "usb", "", 0, picture=True),
    )
    made = Device(
        id=id, name=name, kind="streaming-program", detail=f"{inputs} sources", stage="carried", ports=ports,
        routes=tuple(routes), controls=(*controls, encodes_by(id, name)),
    )  # fmt: skip
    return with_rate(made)
