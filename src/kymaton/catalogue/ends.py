"""What carries sound to those who hear it: headphones, in-ear sets, loudspeakers, recorder, platform."""

from kymaton.catalogue.boxes import line_in, through
from kymaton.catalogue.parts import Number, figure, gain, into, out, use
from kymaton.core.model import Device, Figure, Route

EAR_GAIN_DB = 84.0  # −6 dBu is 78 dB SPL at the ears


def _to_ears(id: str, name: str, kind: str, detail: str, gain_db: float, delay: Figure, connector: str) -> Device:
    return Device(
        id=id,
        name=name,
        kind=kind,
        detail=detail,
        stage="carried",
        ports=(into("in", "", "line", connector), out("ears", "", "acoustic", channels=2)),
        routes=tuple(
            Route(source="in", target="ears", target_channel=side, gain_db=figure(gain_db, 3.0), delay_ms=delay)
            for side in (1, 2)
        ),
    )


def headphones(id: str, name: str = "Headphones", gain_db: float = EAR_GAIN_DB) -> Device:
    """Headphones with an amplifier, fed by one mono bus."""
    return _to_ears(id, name, "headphones", "by lead", gain_db, figure(0.0), "TRS 6.3 mm")


def bluetooth_headphones(id: str, name: str = "Bluetooth headphones", delay_ms: Number = 150.0) -> Device:
    """Headphones by Bluetooth, stereo: late by what their codec takes (low-delay 30 to 80 ms, others 100 to 400)."""
    return Device(
        id=id,
        name=name,
        kind="headphones",
        detail="Bluetooth",
        stage="carried",
        ports=(into("in", "", "bluetooth", channels=2), out("ears", "", "acoustic", channels=2)),
        routes=tuple(
            Route(source="in", target="ears", source_channel=c, target_channel=c, gain_db=figure(95.0, 6.0),
                  delay_ms=figure(delay_ms, 60.0))
            for c in (1, 2)
        ),
        battery_h=figure(15.0, 5.0),
    )  # fmt: skip


def viewer(id: str, name: str = "Viewer", loudspeaker: bool = False) -> Device:
    """Somebody who watches the stream, on headphones or on a loudspeaker that others, and microphones, hear too."""
    ears = out("ears", "", "acoustic", channels=1 if loudspeaker else 2)
    sides = ((1, 1), (2, 1)) if loudspeaker else ((1, 1), (2, 2))
    return Device(
        id=id,
        name=name,
        kind="viewer",
        detail="on a loudspeaker" if loudspeaker else "on headphones",
        stage="carried",
        ports=(
            into("stream", "stream", "network", "", 2, picture=True),
            ears,
            out("seen", "screen", "acoustic", "", 0, picture=True),
        ),
        routes=(
            *(
                Route(source="stream", target="ears", source_channel=a, target_channel=b,
                      gain_db=figure(89.0 if loudspeaker else 95.0, 6.0))
                for a, b in sides
            ),
            Route(source="stream", target="seen", medium="picture", delay_ms=figure(30.0, 20.0)),
        ),
    )  # fmt: skip


def in_ear(id: str, name: str = "In-ear", delay_ms: Number = 0.0, detail: str = "by lead") -> Device:
    """An in-ear set fed by one mono bus: by lead 0 ms, digital wireless 2–5, 2.4 GHz 4–25."""
    spread = 0.0 if delay_ms == 0.0 else 4.0
    made = _to_ears(id, name, "in-ear", detail, EAR_GAIN_DB, figure(delay_ms, spread), "TRS 6.3 mm")
    return made if detail == "by lead" else made.evolve(battery_h=figure(6.0, 2.0))


def loudspeakers(id: str, name: str = "Loudspeakers", detail: str = "2 small", gain_db: float = 86.0) -> Device:
    """Powered loudspeakers on one mono bus; −6 dBu is 80 dB SPL at 1 m."""
    return Device(
        id=id,
        name=name,
        kind="loudspeakers",
        detail=detail,
        stage="carried",
        ports=(into("in", "", "line", "XLR", balanced=True), out("air", "", "acoustic")),
        routes=(Route(source="in", target="air", gain_db=figure(gain_db, 3.0)),),
    )


def recorder(id: str, name: str = "Recorder", detail: str = "programme") -> Device:
    """A recorder for picture with embedded sound."""
    return Device(
        id=id,
        name=name,
        kind="recorder",
        detail=detail,
        stage="carried",
        ports=(
            into("hdmi", "HDMI", "hdmi", "HDMI A", 2, picture=True),
            out("file", "file", "network", "", 2, picture=True),
        ),
        routes=(
            *(Route(source="hdmi", target="file", source_channel=c, target_channel=c) for c in (1, 2)),
            Route(source="hdmi", target="file", medium="picture"),
        ),
    )


def loop_recorder(id: str, name: str = "Loop recorder") -> Device:
    """A recorder that gives on what it takes, as many do: whatever hangs on it ends with it."""
    made = recorder(id, name, "programme, loops through")
    on = out("through", "HDMI", "hdmi", "HDMI A", 2, picture=True)
    routes = tuple(r.evolve(target="through") for r in made.routes)
    return made.evolve(ports=(*made.ports, on), routes=(*made.routes, *routes))


def stream(id: str, name: str = "Platform", delay_ms: Number = 4000.0, detail: str = "low latency") -> Device:
    """The way from the encoder to the audience: interactive 0.2–0.8 s, low latency 2–7 s, ordinary 10–30 s."""
    way = figure(delay_ms, 2000.0)
    return Device(
        id=id,
        name=name,
        kind="stream",
        detail=detail,
        stage="carried",
        ports=(
            into("ingest", "ingest", "network", "RJ45", 2, picture=True),
            out("play", "", "network", "", 2, picture=True),
        ),
        routes=(
            *(Route(source="ingest", target="play", source_channel=c, target_channel=c, delay_ms=way) for c in (1, 2)),
            Route(source="ingest", target="play", medium="picture", delay_ms=way),
        ),
    )


def passive_loudspeaker(id: str, name: str = "Passive loudspeaker") -> Device:
    """Needs an amplifier."""
    return through(
        id, name, "loudspeakers", "carried", [into("in", "", "speaker", "speaker")], [out("air", "", "acoustic")],
        "needs an amplifier", gain_db=60.0,
    )  # fmt: skip


def amplifier(id: str, name: str = "Amplifier") -> Device:
    return through(
        id, name, "amplifier", "carried", [line_in("in", "", "XLR", balanced=True)],
        [out("out", "", "speaker", "speaker", maximum_level=40.0)], "one channel", gain_db=26.0,
    )  # fmt: skip


def track_recorder(id: str, name: str = "Track recorder", channels: int = 2) -> Device:
    """Records line inputs to a file, with one gain; also the second recording that a careful person makes."""
    turned = gain(f"{id}/gain", f"{name.lower()} gain", 0.0, -20.0, 30.0)
    return through(
        id, name, "recorder", "carried", [line_in("in", "line in", "TRS 6.3 mm", channels)],
        [out("file", "file", "network", "", channels)], f"{channels} tracks", gain_db=-18.0,
        controls=(turned,), uses=(use(turned.id),),
    )  # fmt: skip
