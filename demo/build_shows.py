"""Builds the two demo shows from the catalogue: Harbour Almanac Live, as its team left it, and healthy.

Run with `make demo-shows`. docs/demo.md tells what is planted and how it is cured.
"""

from pathlib import Path

from kymaton import catalogue as kit
from kymaton.core.model import (
    Cable,
    Cue,
    Device,
    Figure,
    Gear,
    Listener,
    Person,
    Place,
    Run,
    Show,
    Sound,
    Stem,
    Stock,
    Supply,
    Want,
    Wish,
)
from kymaton.core.model.device import Value
from kymaton.core.model.show import Goals
from kymaton.store.showfile import write_show

HERE = Path(__file__).parent
CHANNELS = {"maren": (1,), "teo": (2,), "clip": (3,), "backing": (5, 6), "click": (7,), "quill": (8,),
            "call": (9, 10), "effects": (11, 12), "phone": (13,)}  # fmt: skip
OPEN = {
    "doors": ("quill", "effects"),
    "green-room": ("maren", "quill", "call"),
    "opening": ("maren", "quill", "effects"),
    "guest-talk": ("maren", "teo", "quill", "call", "effects"),
    "song": ("teo", "clip", "backing", "click", "quill"),
    "questions": ("maren", "teo", "quill", "call", "effects"),
    "close": ("maren", "teo", "clip", "quill", "call", "effects"),
}
CUES = (
    ("doors", "Doors", 20, 4, "Holding slide, gulls in the room and on the stream."),
    ("green-room", "Green room", 10, 4, "Back-channel talk with the guests before air, nothing goes out."),
    ("opening", "Opening", 5, 1, "Maren welcomes everyone."),
    ("guest-talk", "Guest talk", 25, 1, "Maren and Teo talk with Ilse and Nadir."),
    ("song", "Song", 6, 3, "Teo sings with concertina, backing and click."),
    ("questions", "Questions", 15, 1, "Questions from the room and the chat."),
    ("close", "Close", 4, 4, "Thanks, and a last tune."),
)
CALLED = ("green-room", "guest-talk", "questions", "close")  # cues in which the guests take part
OFF_AIR = ("green-room", "opening", "song")  # cues in which the guests must not be heard outside
MEASURED = {"source": "measured", "date": "2026-11-21"}


AWAY = ("call", "platform")  # devices that stand in no room of ours
ON_STRIP = ("desk", "call-computer", "switcher", "encoder", "recorder", "loudspeakers", "slides")
CASES = {
    "Sound case": ("table-mic", "condenser", "clip-on", "talkback-mic", "stereo-di", "maren-in-ear", "teo-in-ear",
                   "quill-headphones", "phone"),
    "Desk case": ("desk", "backing-player", "effects-laptop"),
    "Picture case": ("camera-a", "camera-b", "switcher", "capture", "recorder", "slides"),
    "Computer case": ("call-computer", "encoder"),
    "Loudspeaker bag": ("loudspeakers",),
}  # fmt: skip


def people() -> tuple[Person, ...]:
    return (
        Person(id="maren", name="Maren Oduya", role="host"),
        Person(id="teo", name="Teo Varga", role="concertina and voice"),
        Person(id="ilse", name="Ilse Okoro", role="harbour pilot"),
        Person(id="nadir", name="Nadir Halloran", role="wave engineer"),
        Person(id="quill", name="Quill", role="floor manager"),
    )


def sounds() -> tuple[Sound, ...]:
    def stem(name: str) -> Stem:
        return Stem(file=f"stems/{name}.flac", level_dbfs=-23.0)

    def electrical(id: str, name: str, kind: str, channels: int = 1, private: bool = False) -> Sound:
        return Sound.checked(
            id=id, name=name, kind=kind, level=-20.0, unit="dBFS", channels=channels, private=private, stem=stem(id)
        )

    return (
        Sound(id="maren", name="Maren", kind="voice", person="maren", place="museum", level=66, stem=stem("maren")),
        Sound(
            id="teo-voice",
            name="Teo, voice",
            kind="voice",
            person="teo",
            place="museum",
            level=68,
            stem=stem("teo-voice"),
        ),
        Sound(
            id="concertina",
            name="Concertina",
            kind="instrument",
            person="teo",
            place="museum",
            level=80,
            stem=stem("concertina"),
        ),
        Sound(id="ilse", name="Ilse", kind="voice", person="ilse", place="ilse-kitchen", level=62, stem=stem("ilse")),
        Sound(
            id="nadir", name="Nadir", kind="voice", person="nadir", place="nadir-kitchen", level=62, stem=stem("nadir")
        ),
        electrical("backing", "Backing", "playback", 2),
        electrical("click", "Click", "click"),
        electrical("effects", "Effects", "playback", 2),
        Sound(
            id="quill",
            name="Quill",
            kind="talkback",
            person="quill",
            place="museum",
            level=66,
            private=True,
            stem=stem("quill"),
        ),
        electrical("phone", "Phone", "phone", private=True),
    )


def listeners() -> tuple[Listener, ...]:
    return (
        Listener(id="audience", name="Audience", kind="audience", detail="stream"),
        Listener(id="ilse", name="Ilse", kind="guest", detail="headphones", person="ilse", place="ilse-kitchen"),
        Listener(id="nadir", name="Nadir", kind="guest", detail="headphones", person="nadir", place="nadir-kitchen"),
        Listener(id="maren", name="Maren", kind="host", detail="in-ear", person="maren", place="museum"),
        Listener(id="teo", name="Teo", kind="performer", detail="in-ear", person="teo", place="museum"),
        Listener(id="room", name="Room", kind="room", detail="30 people", place="museum"),
        Listener(id="quill", name="Quill", kind="operator", detail="headphones", person="quill", place="museum"),
        Listener(id="recorder", name="Recorder", kind="recorder", detail="programme"),
    )


def devices(healthy: bool) -> tuple[Device, ...]:
    sends = {
        1: {1: -6, 2: -6, 3: -9, 11: -18, 12: -18},
        2: {2: -6, 3: -8, 8: 0, 9: -9, 10: -9, 11: -14, 12: -14},
        3: {1: -6, 2: -6, 3: -6, 5: -10, 6: -10, 7: -10, 9: -9, 10: -9},
        4: {1: -3, 2: -3, 3: -6, 5: -10, 6: -10, 9: -9, 10: -9, 11: -10, 12: -10},
        5: {1: -6, 2: -6, 3: -8, 5: -12, 6: -12, 9: -9, 10: -9, 11: -14, 12: -14},
    }
    if healthy:
        sends[3][8] = 0
    else:
        sends[1] |= {9: -22, 10: -22}
        sends[2][1] = -6
    desk = kit.desk(
        "desk", inputs=16, aux=6, pairs=((5, 6), (9, 10), (11, 12)),
        gains_db={1: 52, 2: 36, 3: 29, 5: 6, 6: 6, 7: 6, 8: 48, 9: 4, 10: 4, 11: 26, 12: 26, 13: 6},
        sends_db={(channel, aux): value for aux, row in sends.items() for channel, value in row.items()},
        faders_db={1: 0, 2: 0, 3: -3, 5: -8, 6: -8, 9: 0, 10: 0, 11: -10, 12: -10, 13: -6},
    )  # fmt: skip
    if not healthy:  # turned down, because the switcher's input expects a microphone and was far too loud
        desk = with_values(desk, {"desk/main/fader": -30.0})
    hands = Figure(value=80.0, plus_minus=4.0, **MEASURED) if healthy else 80.0
    guests = (kit.Guest("ilse", "Ilse"), kit.Guest("nadir", "Nadir"))
    return (
        kit.dynamic_microphone("table-mic", "Table mic"),
        kit.condenser_microphone("condenser", "Condenser"),
        kit.clip_on_microphone("clip-on", "Clip-on"),
        kit.player("backing-player", "Backing player", (("left", "left"), ("right", "right"), ("click", "click"))),
        kit.stereo_player("effects-laptop", "Effects laptop"),
        kit.di_box("stereo-di", "Stereo DI"),
        kit.dynamic_microphone("talkback-mic", "Talkback mic"),
        kit.phone("phone"),
        kit.call("call", guests, delay_ms=Figure(value=98.0, plus_minus=12.0, **MEASURED),
                 processing="original sound" if healthy else "voice"),
        kit.camera("camera-a", "Camera A", Figure(value=162.0, plus_minus=4.0, **MEASURED), "wide"),
        kit.camera("camera-b", "Camera B", hands, "hands"),
        kit.slides("slides"),
        desk,
        kit.call_computer("call-computer", hdmi_sound=not healthy),
        kit.switcher(
            "switcher", embedded={} if healthy else {2: "on"}, mic_input="line" if healthy else "mic",
            sound_delay_ms=200.0 if healthy else 0.0,
        ),
        kit.capture("capture"),
        kit.encoder("encoder"),
        kit.recorder("recorder"),
        kit.loudspeakers("loudspeakers"),
        kit.in_ear("maren-in-ear", "Maren's in-ear", 12.0, "2.4 GHz"),
        kit.in_ear("teo-in-ear", "Teo's in-ear"),
        kit.headphones("quill-headphones", "Floor headphones"),
        kit.stream("platform"),
    )  # fmt: skip


def with_values(device: Device, values: dict[str, Value]) -> Device:
    controls = tuple(c.evolve(value=values[c.id]) if c.id in values else c for c in device.controls)
    return device.evolve(controls=controls)


def cables(healthy: bool) -> tuple[Cable, ...]:
    rows = (
        ("sound/maren", "table-mic/capsule", "air", 0.08),
        ("sound/teo-voice", "condenser/capsule", "air", 0.15),
        ("sound/concertina", "clip-on/capsule", "air", 0.12),
        ("sound/quill", "talkback-mic/capsule", "air", 0.05),
        ("sound/ilse", "call/ilse-mic", "air", 0.05),
        ("sound/nadir", "call/nadir-mic", "air", 0.05),
        ("sound/effects", "effects-laptop/play", "held", 0),
        ("sound/click", "backing-player/play-click", "held", 0),
        ("sound/phone", "phone/sound", "held", 0),
        ("table-mic/out", "desk/in1", "XLR", 8),
        ("condenser/out", "desk/in2", "XLR", 10 if healthy else 6),
        ("clip-on/out", "desk/in3", "XLR", 6),
        ("talkback-mic/out", "desk/in8", "XLR", 10),
        ("backing-player/out-left", "desk/in5", "TS 6.3 mm", 3),
        ("backing-player/out-right", "desk/in6", "TS 6.3 mm", 3),
        ("backing-player/out-click", "desk/in7", "TS 6.3 mm", 3),
        ("stereo-di/out-left", "desk/in11", "XLR", 4),
        ("stereo-di/out-right", "desk/in12", "XLR", 4),
        ("phone/out", "desk/in13", "TS 6.3 mm", 2),
        ("call/to-studio", "call-computer/call-in", "network", 10),
        ("call-computer/call-out", "call/from-studio", "network", 10),
        ("desk/aux1", "call-computer/line", "TRS to 3.5 mm", 3),
        ("desk/aux2", "maren-in-ear/in", "TRS 6.3 mm", 4),
        ("desk/aux3", "teo-in-ear/in", "TRS 6.3 mm", 6),
        ("desk/aux4", "loudspeakers/in", "XLR to TRS", 15),
        ("desk/aux5", "quill-headphones/in", "TRS 6.3 mm", 4),
        ("desk/main", "switcher/mic1", "XLR to 3.5 mm", 3),
        ("camera-a/hdmi", "switcher/hdmi1", "HDMI", 7 if healthy else 11),
        ("call-computer/hdmi", "switcher/hdmi2", "HDMI", 3),
        ("camera-b/hdmi", "switcher/hdmi3", "HDMI", 5),
        ("slides/hdmi", "switcher/hdmi4", "HDMI", 3),
        ("switcher/program", "capture/hdmi", "HDMI", 1),
        ("switcher/program2", "recorder/hdmi", "HDMI", 1),
        ("capture/usb", "encoder/usb", "USB 3" if healthy else "USB 2", 1),
        ("encoder/stream", "platform/ingest", "network", 20),
        ("platform/play", "listener/audience", "held", 0),
        ("call/ilse-ear", "listener/ilse", "held", 0),
        ("call/nadir-ear", "listener/nadir", "held", 0),
        ("maren-in-ear/ears", "listener/maren", "held", 0),
        ("teo-in-ear/ears", "listener/teo", "held", 0),
        ("quill-headphones/ears", "listener/quill", "held", 0),
        ("loudspeakers/air", "listener/room", "air", 4),
        ("recorder/file", "listener/recorder", "held", 0),
    )
    made = [
        Cable(id=f"{a}-to-{b}".replace("/", "-"), source=a, target=b, kind=kind, length_m=length)
        for a, b, kind, length in rows
    ]
    # a stereo socket to two channels: each side of the lead is a cable of its own
    split = (
        ("call-computer/headphones", 1, "desk/in9", "3.5 mm to 2 x TS", 2),
        ("call-computer/headphones", 2, "desk/in10", "3.5 mm to 2 x TS", 2),
        ("effects-laptop/out", 1, "stereo-di/in-left", "3.5 mm to 2 x TS", 2),
        ("effects-laptop/out", 2, "stereo-di/in-right", "3.5 mm to 2 x TS", 2),
        ("sound/backing", 1, "backing-player/play-left", "held", 0),
        ("sound/backing", 2, "backing-player/play-right", "held", 0),
    )
    made += [
        Cable(id=f"{a}-to-{b}".replace("/", "-"), source=a, target=b, kind=kind, length_m=length, channels=((side, 1),))
        for a, side, b, kind, length in split
    ]
    return tuple(made)


def cues(healthy: bool) -> tuple[Cue, ...]:
    result = []
    for id, name, minutes, picture, note in CUES:
        closed = [n for key, numbers in CHANNELS.items() if key not in OPEN[id] for n in numbers]
        controls: dict[str, Value] = {f"desk/ch{n}/mute": True for n in closed}
        if id == "doors":
            controls |= {"call/ilse/mute": True, "call/nadir/mute": True}
        if id == "green-room":
            controls |= {"desk/main/mute": True, "desk/aux4/mute": True, "desk/ch8/send/aux1": -6.0}
            controls |= {"desk/ch8/send/aux5": -90.0}
        if healthy and id == "song":  # camera B is on air, and faster than camera A
            controls["switcher/mic1/delay"] = 118.0
        if not healthy and id == "song":
            controls["desk/ch7/fader"] = -10.0
        if not healthy and id in ("guest-talk", "questions"):
            controls.pop("desk/ch13/mute")
        result.append(
            Cue(id=id, name=name, note=note, minutes=minutes, on_air=f"switcher/hdmi{picture}", controls=controls)
        )
    return tuple(result)


def plan() -> tuple[Wish, ...]:
    lines: list[Wish] = []

    def wish(
        listeners: str, sounds: str, cues: tuple[str, ...], want: Want = Want.MUST, most: float | None = None
    ) -> None:
        for listener in listeners.split():
            for sound in sounds.split():
                lines.append(Wish(listener=listener, sound=sound, want=want, cues=cues, max_delay_ms=most))

    talk = ("guest-talk", "questions", "close")
    outside = "audience recorder room"
    wish(outside, "maren", ("opening", *talk))
    wish(outside, "teo-voice", ("guest-talk", "song", "questions", "close"))
    wish(outside, "concertina", ("song", "close"))
    wish(outside, "backing", ("song",))
    wish(outside, "ilse nadir", talk)
    wish(outside, "effects", ("doors", "opening", *talk))
    wish("audience recorder", "ilse nadir", OFF_AIR, Want.MUST_NOT)
    wish("audience recorder room", "maren quill", ("green-room",), Want.MUST_NOT)
    wish("room", "ilse nadir", ("green-room",), Want.MUST_NOT)
    wish("room", "quill phone click", (), Want.MUST_NOT)
    wish("recorder", "quill phone click", (), Want.MUST_NOT)
    wish("audience", "quill phone click", (), Want.MUST_NOT)
    wish("ilse nadir", "maren", ("green-room", *talk))
    wish("ilse nadir", "teo-voice", ("guest-talk", "song", "questions"))
    wish("ilse nadir", "concertina", ("song",))
    wish("ilse nadir", "quill", ("green-room",))
    wish("ilse nadir", "quill", ("opening", "guest-talk", "song", "questions", "close"), Want.MUST_NOT)
    wish("ilse nadir", "phone click", (), Want.MUST_NOT)
    wish("ilse nadir maren", "effects backing", (), Want.ANY)
    wish("teo", "effects", (), Want.ANY)
    wish("ilse", "nadir", CALLED)
    wish("nadir", "ilse", CALLED)
    wish("ilse", "ilse", (), Want.MUST_NOT)
    wish("nadir", "nadir", (), Want.MUST_NOT)
    wish("maren", "ilse nadir", CALLED)
    wish("maren", "teo-voice", ("guest-talk", "questions", "close"))
    wish("maren", "quill", ("opening", "guest-talk", "questions", "close"))
    wish("maren", "click", (), Want.MUST_NOT)
    wish("teo", "maren", ("opening", *talk))
    wish("teo", "ilse nadir", talk)
    wish("teo", "teo-voice concertina", ("song",), most=10.0)
    wish("teo", "backing click", ("song",))
    wish("teo", "quill", ("opening", "guest-talk", "song", "questions"))
    wish("quill", "maren", ("opening", *talk))
    wish("quill", "ilse nadir", CALLED)
    wish("quill", "teo-voice", ("guest-talk", "song", "questions"))
    return tuple(lines)


def brought(device: Device) -> Device:
    """A device that comes to the museum: in its case, and on the strip or the brick."""
    case = next((case for case, ids in CASES.items() if device.id in ids), "")
    device = device.evolve(place="museum", gear=Gear(case=case))
    if device.id in ("camera-a", "camera-b"):
        loads = {
            "supply_v": Figure(value=12.0, source="stated"),
            "supply_a": Figure(value=1.2, plus_minus=0.1, source="stated"),
        }
        return device.evolve(mains="camera brick", loads=loads)
    if device.id == "encoder":
        device = device.evolve(loads={"sends_mbit_s": Figure(value=6.0, source="stated")})
    return device.evolve(mains="strip A") if device.id in ON_STRIP else device


def stock() -> tuple[Stock, ...]:
    """Leads that lie in the cases."""
    rows = (
        ("XLR", 6, 10.0), ("XLR", 2, 5.0), ("TS 6.3 mm", 4, 3.0), ("TRS 6.3 mm", 3, 6.0), ("3.5 mm to 2 x TS", 2, 3.0),
        ("TRS to 3.5 mm", 1, 3.0), ("XLR to TRS", 1, 15.0), ("XLR to 3.5 mm", 1, 3.0), ("HDMI", 2, 7.0),
        ("HDMI", 4, 3.0), ("USB 3", 2, 1.0), ("network", 2, 20.0),
    )  # fmt: skip
    return tuple(Stock(kind=kind, many=many, length_m=length, case="Lead case") for kind, many, length in rows)


def build(healthy: bool) -> Show:
    return Show(
        title="Harbour Almanac (healthy)" if healthy else "Harbour Almanac Live",
        venue="Tide-gauge museum",
        date="2026-12-12",
        people=people(),
        places=(
            Place(id="museum", name="Tide-gauge museum"),
            Place(id="ilse-kitchen", name="Ilse's kitchen"),
            Place(id="nadir-kitchen", name="Nadir's kitchen"),
        ),
        goals=Goals(uplink_bit_per_s=20e6 if healthy else 6e6),
        supplies=(
            Supply(name="wall socket", amperes=16.0),
            Supply(name="strip A", hangs_on="wall socket"),
            Supply(name="camera brick", volts=12.0, amperes=4.0 if healthy else 2.0, hangs_on="strip A"),
        ),
        runs=(Run(source="condenser", target="desk", metres=6.0, corners=1, crossing_m=1.5),),
        stock=stock(),
        sounds=sounds(),
        listeners=listeners(),
        devices=tuple(d if d.id in AWAY else brought(d) for d in devices(healthy)),
        cables=cables(healthy),
        cues=cues(healthy),
        plan=plan(),
    )


if __name__ == "__main__":
    write_show(build(healthy=False), HERE / "harbour-almanac.kymaton", keep_previous=False)
    write_show(build(healthy=True), HERE / "harbour-almanac-healthy.kymaton", keep_previous=False)
