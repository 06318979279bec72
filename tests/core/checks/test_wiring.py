"""Every wiring check: a show that has it, and a near twin that has not."""

import pytest

from kymaton.core.checks import RIG_KINDS, find_in_rig
from kymaton.core.checks.report import Report
from kymaton.core.edits import cables, devices, people
from kymaton.core.edits.controls import apply
from kymaton.core.model import Cable, Control, Cue, Figure, Listener, Program, Show, ShowError, Want, Wish
from kymaton.core.planning.fixes import find_fix
from kymaton.language.commands import read_command
from kymaton.store.showfile import read_show
from tests.shows import DEMO, HEALTHY, build, call_show, setting, voice


def kinds(show: Show) -> set[str]:
    return {f.id for f in find_in_rig(show)}


def last_cable(show: Show, **fields: object) -> Show:
    """The show with the last cable changed."""
    return cables.put_cable(show, show.cables[-1].evolve(**fields))


def port(show: Show, device: str, port_id: str, **fields: object) -> Show:
    d = show.device(device)
    ports = tuple(p.evolve(**fields) if p.id == port_id else p for p in d.ports)
    return devices.put_device(show, d.evolve(ports=ports))


def device(show: Show, id: str, **fields: object) -> Show:
    return devices.put_device(show, show.device(id).evolve(**fields))


def audience(show: Show, *recorders: str) -> Show:
    made = [Listener(id="audience", name="Audience", kind="audience")]
    made += [Listener(id=r, name=r, kind="recorder") for r in recorders]
    return Show.checked(**{**show.fields(), "listeners": made})


def with_cable(show: Show, source: str, target: str) -> Show:
    """A lead that no line would take: as a file may hold it."""
    return show.evolve(cables=(*show.cables, Cable(id="more", source=source, target=target, kind="HDMI")))


HEARD = ("add desk 2 in 1 aux", "add headphones", "desk aux 1 > headphones", "headphones > bob",
         "set desk 1 to aux 1 to 0", "set desk 1 gain to 50")  # fmt: skip
TWO_BOXES = ("add 2 interfaces", "add computer mix 2 in", "interface record 1 > computer mix 1")
ON_AIR = ("Audience", "ann > dynamic mic", "dynamic mic > desk 1", "desk main > switcher mic 1")
ON_AIR = ("Audience", "add dynamic mic", "add desk 2 in 1 aux", "add switcher", "add encoder box", "add platform",
          *ON_AIR[1:])  # fmt: skip
OUT = ("encoder box > platform", "platform > audience")
UNSEEN = ("Audience", "add dynamic mic", "add desk 2 in 1 aux", "add embedder", "add encoder box", "add platform",
          "add camera", "ann > dynamic mic", "dynamic mic > desk 1", "desk main > embedder line in",
          "camera > embedder hdmi")  # fmt: skip
SEEN = ("add switcher", "embedder > switcher hdmi 1", "switcher programme > encoder box")
BOTH = ("Audience", "add dynamic mic", "add desk 2 in 1 aux", "add switcher", "add encoder box", "add platform",
        "add loudspeakers", "add y lead", "ann > dynamic mic", "dynamic mic > desk 1",
        "switcher programme > encoder box")  # fmt: skip
WATCHED = ("add dynamic mic", "add platform", "platform > viewer")
JINGLE = ("Jingle, playback, stereo", "add computer 1 usb 2 ch", "add player", "jingle > player",
          "player > computer line in")  # fmt: skip
INTO = ("set computer call hears to line in", "computer call > call sending")
PRESSED = ("add button panel as Panel", "add foot switch as Pedal", "add bridge program as Bridge", "add switcher",
           "add desk as Lamp desk")  # fmt: skip
TUNE = ("Tune, playback", "tune > second computer")
MIC = ("add dynamic mic", "add desk 4 in 1 aux", "dynamic mic > desk 1")
STREAM = ("add switcher", "add encoder box", "switcher programme > encoder box")


def condenser(target: str) -> Show:
    return build("add condenser mic", f"add {target}", f"condenser mic > {target.split(' 2 ')[0]}")


def supplies(desk: str, *between: str) -> Show:
    lines = ("add player", "add mixer 2 in 1 aux", *between)
    lines += ("player left > isolator 1", "isolator 1 > mixer 1") if between else ("player left > mixer 1",)
    return device(device(build(*lines), "player", mains="wall"), "mixer", mains=desk)


def chosen(value: str) -> Show:
    show = build("add call computer")
    computer = show.device("call-computer")
    control = computer.controls[0].evolve(choices=(*computer.controls[0].choices, "system default"), value=value)
    program = Program(id="call", name="Call", kind="call", chosen={"loudspeaker": control.id})
    return device(show, "call-computer", controls=(control, *computer.controls[1:]), programs=(program,))


def must_hear(connected: bool) -> Show:
    show = build("add headphones", *(("headphones > bob",) if connected else ()))
    return Show.checked(**{**show.fields(), "plan": (Wish(listener="bob", sound="ann", want=Want.MUST),)})


def unheard() -> Show:
    """Something is connected, and a voice that must be heard is not."""
    show = audience(build("add platform"))
    return cables.connect(show, "platform/play", "listener/audience", "held")


def two_programs(second: str) -> Show:
    """A call that holds camera b, and an encoder on the same computer."""
    computer = build("add call computer").device("call-computer")
    ids = [f"call-computer/{p}/camera" for p in ("call", "encoder")]
    cameras = tuple(
        Control(id=id, name=id, kind="choice", value=value, choices=("camera a", "camera b"))
        for id, value in zip(ids, ("camera b", second), strict=True)
    )
    programs = (
        Program(id="call", name="Call", kind="call", chosen={"camera": ids[0]}),
        Program(id="encoder", name="Encoder", kind="encoder", chosen={"camera": ids[1]}),
    )
    return device(
        build("add call computer"), "call-computer", controls=(*computer.controls, *cameras), programs=programs
    )


def named_twice(*names: str) -> Show:
    computer = build("add call computer").device("call-computer")
    control = Control(id="call-computer/mic", name="mic", kind="choice", value="usb sound", choices=names)
    program = Program(id="call", name="Call", kind="call", chosen={"microphone": control.id})
    return device(
        build("add call computer"), "call-computer", controls=(*computer.controls, control), programs=(program,)
    )


def lasting(minutes: float) -> Show:
    """A wireless microphone whose battery lasts seven hours, give or take two."""
    show = build("add wireless mic", "ann > wireless mic")
    return Show.checked(**{**show.fields(), "cues": (Cue(id="all", name="All", minutes=minutes),)})


def spoken_into(show: Show) -> Show:
    """Ann at the first input of the switcher, without what would stand between."""
    return show.evolve(cables=(*show.cables, Cable(id="ann", source="sound/ann", target="switcher/hdmi1", kind="held")))


CAMERA = ("add camera", "add switcher", "camera > switcher HDMI 1")
DOCKED = ("add laptop", "add dock", "add switcher", "laptop USB C > dock", "dock HDMI > switcher HDMI 1")
NETWORKED = (
    "add network audio",
    "add network audio as Network audio 2",
    "network audio network > network audio 2 network",
)
SENDS = ("add encoder box", "add platform", "encoder box > platform")


def hungry(watts: float) -> Show:
    """Two devices on one strip that draw so much each."""
    show = build("add amplifier", "add amplifier as Other", "power amplifier from strip A", "power other from strip A")
    power = Figure(value=watts, plus_minus=100.0)
    return show.evolve(devices=tuple(d.evolve(power_w=power) for d in show.devices))


STREAMS = ("add capture", "add encoder", "add platform", "capture > encoder", "encoder > platform")
FED = ("add camera", "camera supply voltage is 8.4 V stated", "power camera from brick")
STRIPS = ("add desk", "power desk from strip B")
ALONG = ("add dynamic mic", "add desk 4 in 1 aux", "place Stage", "put dynamic mic in Stage",
         "run Stage to Desk 10 m, 1 corner")  # fmt: skip


def grabbed(picture: str, hub: str) -> Show:
    """Two captures on one hub."""
    return build(f"picture {picture}", "add 2 captures as Grab", f"add {hub} as Hub", "add encoder",
                 "grab 1-2 > hub 1-2", "hub computer 1 > encoder")  # fmt: skip


def docked(watts: int) -> Show:
    return build("add laptop computer 2 usb as Laptop", f"add dock {watts} w 1 usb as Dock",
                 "dock computer 1 > laptop usb 1")  # fmt: skip


def cased(watts: int) -> Show:
    return build("add switcher", "switcher rack height is 3 U", "switcher travels in case 1",
                 f"switcher power is {watts} W")  # fmt: skip


def by_radio(many: int) -> Show:
    """Streams of 2160p60 by radio, which they share."""
    lines = ["add 2 encoder boxes as Box", "add router", "add platform", "router uplink 1 > platform"]
    show = build("picture 2160p60", *lines, "box 1 > router wireless", "box 2 > router 1")
    return last_cable(show, kind="wireless network") if many > 1 else show


CASES = {
    "connector-does-not-fit": (last_cable(build(*MIC), kind="HDMI"), build(*MIC)),
    "line-into-mic": (
        setting(build("add desk 2 in 1 aux", "add switcher", "desk main > switcher mic 1"), switcher__mic1__input="mic"),
        build("add desk 2 in 1 aux", "add switcher", "desk main > switcher mic 1"),
    ),
    "mic-into-line": (
        build("add dynamic mic", "add delay", "dynamic mic > delay"),
        build("add dynamic mic", "add preamp", "dynamic mic > preamp"),
    ),
    "instrument-into-line": (
        port(build("add keyboard", "add desk 2 in 1 aux", "keyboard left > desk 1"), "keyboard", "left", signal="instrument"),
        build("add keyboard", "add desk 2 in 1 aux", "keyboard left > desk 1"),
    ),
    "speaker-into-line": (
        port(build("add amplifier", "add passive loudspeaker", "amplifier > passive loudspeaker"), "passive-loudspeaker", "in", signal="line"),
        build("add amplifier", "add passive loudspeaker", "amplifier > passive loudspeaker"),
    ),
    "unbalanced-run-too-long": (
        last_cable(build("add player", "add desk 2 in 1 aux", "player left > desk 1"), length_m=12.0),
        last_cable(build(*MIC), length_m=40.0),
    ),
    "hum-between-supplies": (supplies("stage"), supplies("stage", "add isolator 2 ch")),
    "phantom-missing": (condenser("track recorder"), condenser("desk 2 in")),
    "phantom-can-hurt": (
        port(build(*MIC), "dynamic-mic", "out", phantom="none"),
        build(*MIC),
    ),
    "stereo-into-balanced": (
        last_cable(build("add call computer", "add desk 2 in 1 aux", "call computer headphones > desk 1"), kind="3.5 mm", channels=()),
        build("add call computer", "add desk 2 in 1 aux", "call computer headphones > desk 1"),
    ),
    "headphone-as-line": (
        build("add call computer", "add desk 2 in 1 aux", "call computer headphones > desk 1"),
        build("add player", "add desk 2 in 1 aux", "player left > desk 1"),
    ),
    "run-too-long": (
        last_cable(build("add camera", "add switcher", "camera > switcher HDMI 1"), length_m=8.0),
        last_cable(build("add camera", "add switcher", "camera > switcher HDMI 1"), length_m=7.5),
    ),
    "sample-rates-differ": (
        port(port(build(*STREAM), "switcher", "program", sample_rate_hz=48000), "encoder-box", "in", sample_rate_hz=44100),
        port(port(build(*STREAM), "switcher", "program", sample_rate_hz=48000), "encoder-box", "in", sample_rate_hz=48000),
    ),
    "embedded-sound-dropped": (
        build(*TUNE, "second computer > embedder HDMI", start=("add second computer", "add embedder")),
        build(*TUNE, "second computer > scaler", start=("add second computer", "add scaler")),
    ),
    "sound-ends-here": (build("ann > dynamic mic", start=("add dynamic mic",)), build("ann > dynamic mic", "add headphones", "desk aux 1 > headphones", "headphones > bob", start=MIC)),
    "not-connected": (build("add keyboard"), build(*MIC)),
    "nothing-arrives": (must_hear(False), must_hear(True)),
    "nothing-picks-up": (
        unheard(),
        build("add dynamic mic", "ann > dynamic mic"),
    ),
    "same-name-twice": (build("add desk 2 in", "add desk 4 in as Other", "rename other to Desk"), build("add desk 2 in", "add desk 4 in as Second")),
    "one-recording": (audience(build(*MIC), "card"), audience(build(*MIC), "card", "disk")),
    "one-way-to-the-stream": (
        spoken_into(cables.connect(audience(build(*STREAM)), "encoder-box/out", "listener/audience", "held")),
        audience(build(*STREAM)),
    ),
    "built-in-microphone": (
        build(*HEARD, "ann > webcam mic", "webcam mic > desk 1", start=("add webcam mic",)),
        build(*HEARD, "ann > webcam mic", "webcam mic > desk 1", "mute desk 1", start=("add webcam mic",)),
    ),
    "far-microphone": (
        build("add shotgun mic", "ann > shotgun mic 2.5 m"),
        build("add shotgun mic", "add dynamic mic", "ann > shotgun mic 2.5 m", "ann > dynamic mic 0.3 m"),
    ),
    "wireless-stream": (
        last_cable(build("add encoder box", "add platform", "encoder box > platform"), kind="wireless network"),
        build("add encoder box", "add platform", "encoder box > platform"),
    ),
    "system-default": (chosen("system default"), chosen("headphones")),
    "plain-y": (
        build("add player", "add plain y", "player left > plain y left", "player right > plain y right"),
        build("add player", "add join", "player left > join left", "player right > join right"),
    ),
    "virtual-sound-device": (
        build("Tune, playback", "add virtual sound", "tune > virtual sound"),
        build("add virtual sound"),
    ),
    "capture-limits-the-rate": (
        build("add camera", "add capture 30 fps", "camera > capture", "set camera picture format to 1080p60"),
        build("add camera", "add capture 60 fps", "camera > capture", "set camera picture format to 1080p60"),
    ),
    "picture-format": (
        build(*CAMERA, "set camera picture format to 1080p50"),
        build(*CAMERA, "set camera picture format to 1080p25"),
    ),
    "camera-not-clean": (
        build(*CAMERA, "set camera output to with its display"),
        build(*CAMERA, "set camera output to clean"),
    ),
    "socket-without-picture": (
        build(*DOCKED, "set laptop USB C to data only"),
        build(*DOCKED, "set laptop USB C to with picture"),
    ),
    "clock-masters": (
        build(*NETWORKED),
        build(*NETWORKED, "set network audio 2 clock to network"),
    ),
    "two-programs-one-device": (two_programs("camera b"), two_programs("camera a")),
    "chosen-name-twice": (named_twice("usb sound", "usb sound"), named_twice("usb sound", "usb sound 2")),
    "stereo-meets-mono": (
        build("add lavalier", "add switcher", "lavalier > switcher mic 1"),
        build("add desk 2 in", "add switcher", "desk main > switcher mic 1"),
    ),
    "plug-in-power-missing": (
        build("add lavalier", "add desk 2 in", "lavalier > desk 1"),
        build("add lavalier", "add switcher", "lavalier > switcher mic 1"),
    ),
    "level-far-off": (
        build("add desk 2 in", "add switcher", "desk main > switcher mic 1"),
        build("add desk 2 in", "add delay", "desk main > delay"),
    ),
    "nothing-comes-in": (
        build("add headphones", "headphones > bob"),
        build(*MIC, "add headphones", "desk aux 1 > headphones", "headphones > bob", "ann > dynamic mic"),
    ),
    "plug-can-slip": (device(build(*CAMERA), "camera", moves=True), build(*CAMERA)),
    "battery-too-short": (lasting(minutes=301), lasting(minutes=299)),
    "two-clocks": (
        build(*TWO_BOXES, "interface 2 record 1 > computer mix 2"),
        build(*TWO_BOXES, "interface record 2 > computer mix 2"),
    ),
    "socket-used-twice": (
        with_cable(build(*CAMERA, "add screen"), "camera/hdmi", "screen/in"),
        build(*CAMERA, "add screen", "switcher programme > screen"),
    ),
    "recorder-in-series": (
        build(*ON_AIR, "add loop recorder", "switcher programme > loop recorder", "loop recorder > encoder box", *OUT),
        build(*ON_AIR, "add loop recorder", "switcher programme > encoder box", "switcher programme 2 > loop recorder",
              *OUT),
    ),
    "single-uplink": (
        build("add encoder box", "add router", "add platform", "encoder box > router 1", "router uplink 1 > platform"),
        build("add encoder box", "add router", "add 2 platforms", "encoder box > router 1",
              "router uplink 1 > platform", "router uplink 2 > platform 2"),
    ),
    "no-meter-after-desk": (build(*UNSEEN, "embedder > encoder box", *OUT), build(*UNSEEN, *SEEN, *OUT)),
    "copy-of-the-room-mix": (
        build(*BOTH, "desk main > y lead", "y lead out 1 > loudspeakers", "y lead out 2 > switcher mic 1", *OUT),
        build(*BOTH, "desk aux 1 > loudspeakers", "desk main > switcher mic 1", *OUT),
    ),
    "stream-aloud": (
        build(*WATCHED, "put viewer, dynamic mic in Hall", start=("add viewer on a loudspeaker as Viewer",)),
        build(*WATCHED, "put viewer, dynamic mic in Hall", start=("add viewer",)),
    ),
    "stereo-in-mono-call": (build(*JINGLE, "add call 1 guest", *INTO), build(*JINGLE, "add stereo call 1 guest as Call",
                                                                             *INTO)),
    "all-control-through-one": (
        build(*PRESSED, "panel controls bridge", "bridge controls switcher, lamp desk"),
        build(*PRESSED, "panel controls bridge", "bridge controls switcher, lamp desk", "pedal controls lamp desk"),
    ),
    "panels-hang-together": (
        build(*PRESSED, "panel, pedal controls bridge", "bridge controls switcher", "panel controls lamp desk"),
        build(*PRESSED, "panel controls bridge", "bridge controls switcher", "pedal controls switcher"),
    ),
    "uplink-too-small": (build(*SENDS, "uplink 6 Mbit/s"), build(*SENDS, "uplink 8 Mbit/s")),
    "supply-full": (hungry(2000.0), hungry(1000.0)),
    "second-line-stalls": (
        build(*SENDS, "uplink 20 Mbit/s, second 8 Mbit/s after 10 s"),
        build(*SENDS, "uplink 20 Mbit/s, second 8 Mbit/s after 5 s"),
    ),
    "usb-too-full": (grabbed("1080p60", "usb hub"), grabbed("1080p30", "powered usb hub")),
    "usb-power-short": (grabbed("1080p30", "usb hub"), grabbed("1080p30", "powered usb hub")),
    "computer-too-busy": (
        build("picture 1080p60", *STREAMS, "encoder encoding speed is 150 ± 10 measured"),
        build("picture 1080p60", *STREAMS, "encoder encoding speed is 250 ± 10 measured"),
    ),
    "stream-watched-here": (
        build(*STREAMS, "add viewer", "platform > viewer", "viewer runs on encoder"),
        build(*STREAMS, "add viewer", "platform > viewer"),
    ),
    "voltage-wrong": (build(*FED, "brick gives 12 V 2 A"), build(*FED, "brick gives 8.4 V 2 A")),
    "strips-chained": (
        build(*STRIPS, "strip B hangs on strip A"), build(*STRIPS, "strip B hangs on circuit 1"),
    ),
    "charger-too-small": (docked(15), docked(100)),
    "lead-too-short": (build(*ALONG, "dynamic mic > desk 1 12 m"), build(*ALONG, "dynamic mic > desk 1 14 m")),
    "stand-tips": (
        build(*MIC, "dynamic mic weight is 1.2 kg", "dynamic mic arm is 1.5 m"),
        build(*MIC, "dynamic mic weight is 1.2 kg", "dynamic mic arm is 0.6 m"),
    ),
    "case-hot": (cased(90), cased(30)),
    "case-too-shallow": (
        build("add switcher", "switcher rack height is 3 U", "switcher travels in case 1", "switcher depth is 50 cm"),
        build("add switcher", "switcher rack height is 3 U", "switcher travels in case 1", "switcher depth is 40 cm"),
    ),
    "address-twice": (
        build("add desk", "add switcher", "desk has address 10.77.7.20", "switcher has address 10.77.7.20"),
        build("add desk", "add switcher", "desk has address 10.77.7.20", "switcher has address 10.77.7.21"),
    ),
    "address-outside": (
        build("add desk", "add router", "router has address 10.77.7.1", "desk has address 10.77.8.20"),
        build("add desk", "add router", "router has address 10.77.7.1", "desk has address 10.77.7.20"),
    ),
    "house-network": (
        build("add router", "router has address 192.168.1.1"), build("add router", "router has address 10.77.7.1"),
    ),
    "no-router": (
        build("add computer", "add switcher", "computer controls switcher"),
        build("add computer", "add switcher", "add router", "computer controls switcher"),
    ),
    "network-full": (by_radio(2), by_radio(1)),
    "goes-back-early": (
        build("date 2026-12-12", "add desk", "desk is from Anna, back 2026-12-11"),
        build("date 2026-12-12", "add desk", "desk is from Anna, back 2026-12-12"),
    ),
}  # fmt: skip


@pytest.mark.parametrize("id", CASES)
def test_a_show_has_it_and_its_near_twin_has_not(id):
    has, has_not = CASES[id]
    assert id in kinds(has)
    assert id not in kinds(has_not)


def test_every_kind_is_tried():
    assert set(CASES) == set(RIG_KINDS)


def test_what_is_found_in_the_rig_is_said_in_sentences():
    for has, _ in CASES.values():
        for finding in find_in_rig(has):
            assert finding.sentence[0].isupper() and not finding.sentence.endswith(".")
            assert finding.reason.endswith(".") and (not finding.remedy or finding.remedy.endswith("."))


def test_line_into_mic_is_cured_by_the_input_and_the_output_that_was_turned_down():
    report = Report(read_show(DEMO))
    finding = next(f for f in report.rig if f.id == "line-into-mic")
    fix = find_fix(report, (finding,))
    assert fix is not None
    assert {(c.control, c.after) for c in fix.changes} == {("switcher/mic1/input", "line"), ("desk/main/fader", 0.0)}
    after = Report(apply(report.show, fix.changes))
    assert "line-into-mic" not in {f.id for f in after.findings}
    assert after.count("fault") == report.count("fault") - 1


def test_the_healthy_rig_has_notes_only():
    assert {f.severity for f in find_in_rig(read_show(HEALTHY))} == {"note"}


@pytest.mark.parametrize("id", ["picture-format", "camera-not-clean", "socket-without-picture", "clock-masters"])
def test_a_setting_that_is_at_fault_is_its_own_cure(id):
    report = Report(CASES[id][0])
    fix = find_fix(report, tuple(f for f in report.rig if f.id == id)[:1])
    assert fix is not None and id in {f.id for f in fix.cures}
    assert id not in {f.id for f in Report(apply(report.show, fix.changes)).findings}


def test_a_format_is_followed_through_what_only_passes_it_on():
    lines = ("add camera", "add hdmi splitter", "add switcher", "add scaling switcher as Other")
    lines += ("camera > hdmi splitter", "hdmi splitter out 1 > switcher HDMI 1", "hdmi splitter out 2 > other HDMI 1")
    show = build(*lines, "set camera picture format to 720p60")
    found = [f for f in find_in_rig(show) if f.id == "picture-format"]
    assert [f.sentence for f in found] == ["The camera gives 720p60, and switcher HDMI 1 takes 1080p25 only"]


def test_a_scaler_gives_the_format_that_is_set():
    lines = ("add camera", "add scaler", "add switcher", "camera > scaler", "scaler > switcher HDMI 1")
    show = build(*lines, "set camera picture format to 720p60")
    assert "picture-format" not in kinds(show)


def test_no_clock_at_all_is_as_bad_as_two():
    none = build(*NETWORKED, "set network audio clock to network", "set network audio 2 clock to network")
    finding = next(f for f in find_in_rig(none) if f.id == "clock-masters")
    assert finding.sentence == "None of the network audio and network audio 2 keeps the clock"


def test_the_limit_of_a_run_is_a_setting():
    long = last_cable(build(*CAMERA), length_m=9.0)
    assert "run-too-long" in kinds(long)
    assert "run-too-long" not in kinds(read_command(long, "limit HDMI run to 10 m").show)
    tight = read_command(last_cable(long, length_m=5.0), "limit hdmi to 4").show
    found = next(f for f in find_in_rig(tight) if f.id == "run-too-long")
    assert found.reason == "4 m is the limit of this show for HDMI."
    for line in ("limit rope to 4 m", "limit HDMI to far", "limit HDMI to -1"):
        with pytest.raises(ShowError):
            read_command(tight, line)


def test_programs_on_one_computer_want_the_same_camera():
    lines = ("add computer 2 usb", "add call 1 guest", "computer call > call sending", "add platform")
    show = build(*lines, "computer stream > platform")
    assert "two-programs-one-device" not in kinds(show)
    taken = setting(show, computer__call__camera="USB 1", computer__encoder__camera="USB 1")
    alone = setting(build(*lines), computer__call__camera="USB 1", computer__encoder__camera="USB 1")
    assert "two-programs-one-device" not in kinds(alone)  # it encodes nothing
    found = next(f for f in find_in_rig(taken) if f.id == "two-programs-one-device")
    assert found.sentence == "The call and the encoder on the computer both want 'USB 1'"


def test_a_call_on_one_box_without_a_mix_of_its_own_is_heard_by_who_talks():
    """Sending and listening on the same interface, its playback among what is sent: the guest hears themselves."""
    show = call_show(send_db=-6.0)
    assert ("own-voice-back", "gus", "gus") in {(f.id, f.listener, f.sound) for f in Report(show).findings}


def test_a_voice_is_needed_for_the_way_to_the_stream():
    show = audience(build(*STREAM))
    connected = cables.connect(show, "encoder-box/out", "listener/audience", "held")
    alone = people.remove_sound(connected, "ann")
    assert "one-way-to-the-stream" not in kinds(alone)
    fed = spoken_into(connected)
    finding = next(f for f in find_in_rig(fed) if f.id == "one-way-to-the-stream")
    assert finding.sentence == "The stream hangs on the switcher and the encoder box"
    assert voice("x").kind == "voice"


def test_a_built_in_microphone_that_is_replaced_is_none():
    one = build(*HEARD, "add dynamic mic", "ann > dynamic mic 0.1 m", "dynamic mic > desk 1")
    assert "built-in-microphone" not in kinds(one)


def phantom_by(*lines: str) -> Show:
    return build("add condenser mic", "add stage box 4 ch", "condenser mic > stage box 1", *lines)


def test_phantom_power_is_followed_through_a_stage_box_to_the_switch_of_its_input():
    """A multicore passes it on: what counts is the input at its end, and whether it is switched on there."""
    desk = ("add desk 4 in", "stage box 1 > desk 1")
    assert "phantom-missing" in kinds(phantom_by())
    assert "phantom-missing" not in kinds(phantom_by(*desk))
    assert "phantom-missing" not in kinds(phantom_by(*desk, "set desk 1 phantom to on", "set desk 2 phantom to off"))
    off = phantom_by(*desk, "set desk 1 phantom to off")
    (finding,) = [f for f in find_in_rig(off) if f.id == "phantom-missing"]
    assert "desk 1 has it off" in finding.reason
    fix = find_fix(Report(off), (finding,))
    assert fix is not None and [(c.control, c.after) for c in fix.changes] == [("desk/in1/phantom", "on")]
    none = phantom_by("add delay", "stage box 1 > delay")
    assert "phantom-missing" in kinds(none)


def test_phantom_power_that_is_on_is_worse_for_what_it_hurts_and_none_that_is_off():
    lines = ("add wireless mic", "add desk 2 in", "wireless mic > desk 1")
    for said, grave in (("as needed", ["note"]), ("on", ["caution"]), ("off", [])):
        found = find_in_rig(build(*lines, f"set desk 1 phantom to {said}"))
        assert [f.severity for f in found if f.id == "phantom-can-hurt"] == grave


@pytest.mark.parametrize(("rate", "differs"), [("as the show", False), ("48 kHz", False), ("44.1 kHz", True)])
def test_the_sample_rate_of_a_box_is_that_of_the_show_until_another_one_is_set(rate, differs):
    show = build("add interface", "add computer mix 2 in", "interface record 1 > computer mix 1",
                 f"set interface sample rate to {rate}")  # fmt: skip
    found = [f for f in find_in_rig(show) if f.id == "sample-rates-differ"]
    assert bool(found) is differs
    if found:
        fix = find_fix(Report(show), tuple(found))
        assert fix is not None and [c.after for c in fix.changes] == ["as the show"]
        assert "44.1 kHz meets 48 kHz" in found[0].reason


def test_a_long_lead_with_a_repeater_of_its_own_is_not_too_long():
    lines = ("add webcam", "add computer", "webcam > computer usb 1 5 m")
    assert "run-too-long" in kinds(build(*lines))
    assert "run-too-long" not in kinds(last_cable(build(*lines), adapters=("repeater",)))
    by_repeater = build("add webcam", "add computer", "add usb repeater", "webcam > usb repeater 3 m",
                        "usb repeater > computer usb 1 3 m")  # fmt: skip
    assert "run-too-long" not in kinds(by_repeater)
    halves = build("add camera", "add switcher", "add hdmi extender", "camera > hdmi extender 6 m",
                   "hdmi extender > switcher hdmi 1 6 m")  # fmt: skip
    assert "run-too-long" not in kinds(halves)
