"""Instruments, players and other computers that make sound."""

from kymaton.catalogue.boxes import through, typical
from kymaton.catalogue.parts import figure, into, level, out, use
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
    """Electronic drums; what comes in at the aux input (a song to play to) is in its outputs too, and headphones."""
    made = _stereo_source(id, name, "drum-module", "electronic, L R", "TS 6.3 mm", 14.0, 5.0)
    wait = typical(1.0, 0.5)
    ports = (
        into("aux", "aux in", "line", "3.5 mm stereo", 2, nominal_level=-7.8, maximum_level=8.0),
        out("phones", "headphones", "headphone", "TRS 6.3 mm", 2),
    )
    song = level(f"{id}/aux", f"{name.lower()} aux in level", "fader", 0.0)
    routes = [
        Route(source="aux", source_channel=c, target=side, gain_db=figure(6.0), delay_ms=wait, controls=(use(song.id),))
        for c, side in enumerate(("left", "right"), 1)
    ]
    for c in (1, 2):
        here = {"target": "phones", "source_channel": c, "target_channel": c}
        routes.append(Route.checked(source="play", gain_db=figure(4.0), delay_ms=typical(5.0, 2.0), **here))
        routes.append(
            Route.checked(source="aux", gain_db=figure(-4.0), delay_ms=wait, controls=(use(song.id),), **here)
        )
    return made.evolve(ports=(*made.ports, *ports), routes=(*made.routes, *routes), controls=(song,))


def record_mixer(id: str, name: str = "Record mixer") -> Device:
    """A record player mixer: its record output does not follow the master level, nor that of the booth."""
    made = _stereo_source(id, name, "record-mixer", "record output", "phono", 10.0, 0.0)
    play, left, _ = made.ports
    record = left.evolve(id="record", name="record out", channels=2)
    to_record = tuple(r.evolve(target="record", target_channel=r.source_channel) for r in made.routes)
    made = made.evolve(ports=(play, record), routes=to_record)
    say, outs = name.lower(), (("master", "master", "XLR", 12.0), ("booth", "booth", "TRS 6.3 mm", 12.0))
    ports = tuple(out(o, t, "line", plug, 2, balanced=True, nominal_level=4.0) for o, t, plug, _ in outs)
    levels = tuple(level(f"{id}/{o}", f"{say} {t} level", "fader", 0.0) for o, t, _, _ in outs)
    routes = tuple(
        Route(
            source="play",
            target=o,
            source_channel=c,
            target_channel=c,
            kind="fader",
            gain_db=figure(top),
            controls=(use(f"{id}/{o}"),),
        )
        for o, _, _, top in outs
        for c in (1, 2)
    )
    return made.evolve(detail="3 outputs", ports=(*made.ports, *ports), routes=(*made.routes, *routes), controls=levels)


def second_computer(id: str, name: str = "Second computer") -> Device:
    """A console or second computer: HDMI with sound."""
    return through(
        id, name, "second-computer", "picked-up", [into("play", "", "usb", channels=2, picture=True)],
        [out("hdmi", "HDMI", "hdmi", "HDMI A", 2, picture=True)], "HDMI with sound",
        delay_ms=typical(9.0, 4.0), picture_ms=typical(17.0, 8.0),
    )  # fmt: skip
