"""Kinds of the catalogue by what they do: pans, loopback, cameras by sort, routers, hubs, docks, calls in stereo."""

import math

import pytest

from kymaton.catalogue.registry import make_device
from kymaton.core.checks.report import Report
from kymaton.core.signal.cue_solution import CueSolution
from kymaton.core.units import pan_gain_db
from kymaton.language.script import build
from tests.shows import ids

STAGE = """
Ann, voice, performer
Tape, recorder
add dynamic mic
add desk 4 in 6 aux
add track recorder 2 ch
ann > dynamic mic 0.1 m
dynamic mic > desk 1
set desk 1 gain to 30
track recorder > tape
""".strip().splitlines()


def sides_db(*lines):
    """What the recorder hears of Ann, left and right."""
    view = CueSolution(build([*STAGE, *lines]), None)
    found = {1: -math.inf, 2: -math.inf}
    for arrival in view.hearing.arrivals("tape", "ann"):
        found[arrival.ear] = max(found[arrival.ear], arrival.gain_db)
    return found


@pytest.mark.parametrize("percent", [-100, -50, 0, 30, 100])
def test_a_pan_keeps_the_power_and_the_middle_is_as_without(percent):
    left, right = (10 ** (pan_gain_db(percent, side) / 20) for side in (1, 2))
    assert left**2 + right**2 == pytest.approx(2.0)  # of both sides in the middle
    assert (left > right) is (percent < 0) or percent == 0
    assert pan_gain_db(0, 1) == pytest.approx(0.0) and pan_gain_db(100, 1) == -math.inf


def test_a_channel_is_panned_by_words_and_heard_on_that_side():
    main = ("desk main > track recorder", "set desk 1 to main to 0")
    middle = sides_db(*main)
    assert middle[1] == pytest.approx(middle[2])
    right = sides_db(*main, "set desk 1 pan to right")
    assert right[1] == -math.inf and right[2] == pytest.approx(middle[2] + 20 * math.log10(math.sqrt(2)))
    some = sides_db(*main, "set desk 1 pan to 30 % left")
    assert some[1] > middle[1] > some[2]
    assert build([*STAGE, "set desk 1 pan to 30 % left"]).control("desk/ch1/pan").value == -30.0


def test_two_auxes_are_a_pair_and_go_into_a_stereo_input_side_by_side():
    only_right = sides_db("desk aux 5-6 > track recorder", "set desk 1 to aux 6 to 0")
    assert only_right[1] == -math.inf and only_right[2] > -math.inf
    both = sides_db("desk aux 5-6 > track recorder", "set desk 1 to aux 5-6 to 0")
    assert both[1] == pytest.approx(both[2])


def test_half_of_a_stereo_port_is_said_by_its_side():
    lines = ["Song, playback, stereo", "add player", "add desk 4 in", "song > player",
             "player right > desk 3", "player left > desk 2"]  # fmt: skip
    show = build(lines)
    assert [(c.target, c.channels) for c in show.cables[1:]] == [("desk/in3", ((2, 1),)), ("desk/in2", ((1, 1),))]


def test_loopback_records_what_the_computer_plays_only_when_it_is_on():
    rig = ["Song, playback", "Tape, recorder", "add interface", "add virtual sound", "add streaming program 2 in",
           "song > virtual sound", "virtual sound > interface playback 1",
           "interface loopback > streaming program 1", "streaming program recording > tape"]  # fmt: skip
    heard = [CueSolution(build([*rig, *more]), None) for more in ((), ("set interface loopback to on",))]
    levels = [v.level(v.show.listener("tape"), v.show.sound("song")) for v in heard]
    assert levels[0] == -math.inf and levels[1] > -60


def test_headphones_of_an_interface_hear_inputs_direct_and_playback():
    device = make_device("interface 2 in 2 out", ())
    into_phones = {(r.source, r.target_channel) for r in device.routes if r.target == "phones"}
    assert into_phones == {("play1", 1), ("play2", 2), *((f"in{n}", side) for n in (1, 2) for side in (1, 2))}


def test_a_handheld_recorder_has_one_gain_for_both():
    device = make_device("handheld recorder", ())
    gains = [c for c in device.controls if c.role == "gain"]
    assert len(gains) == 1
    used = {r.source for r in device.routes if any(u.control == gains[0].id for u in r.controls)}
    assert used == {"in1", "in2"}


@pytest.mark.parametrize(
    ("words", "frames"),
    [("camcorder", (2, 3)), ("mirrorless camera", (4, 6)), ("pan tilt camera", (1, 3)), ("action camera", (3, 5))],
)
def test_cameras_are_as_late_as_their_sort(words, frames):
    figure = next(r for r in make_device(words, ()).routes if r.medium == "picture").delay_ms
    low, high = (n * 40.0 for n in frames)  # at 25 frames/s
    assert (
        low <= figure.value <= high
        and figure.value - figure.plus_minus <= low <= high <= figure.value + figure.plus_minus
    )


def test_a_mirrorless_camera_is_five_to_seven_frames_late_through_a_switcher():
    camera, switcher = (make_device(w, ()) for w in ("mirrorless camera", "switcher"))
    picture = [next(r for r in d.routes if r.medium == "picture").delay_ms for d in (camera, switcher)]
    assert 5 * 40.0 <= sum(f.value for f in picture) <= 7 * 40.0


def test_an_action_camera_shows_its_display_until_it_is_set():
    rig = ["add action camera", "add switcher", "action camera > switcher hdmi 1"]
    found = [{f.id for f in Report(build([*rig, *more])).rig} for more in ((), ("set action camera output to clean",))]
    assert "camera-not-clean" in found[0] and "camera-not-clean" not in found[1]


def test_a_router_sends_by_the_uplink_that_is_set():
    rig = ["Ann, voice, host", "Audience", "add dynamic mic", "add interface", "add streaming program 1 in",
           "add router", "add 2 platforms", "ann > dynamic mic", "dynamic mic > interface 1",
           "interface record 1 > streaming program", "streaming program stream > router 1",
           "router uplink 1 > platform", "router uplink 2 > platform 2", "platform > audience"]  # fmt: skip
    show = build(rig)
    by_two = build([*rig, "set router goes out by to uplink 2"])
    levels = [CueSolution(s, None).level(s.listener("audience"), s.sound("ann")) for s in (show, by_two)]
    assert levels[0] > -80 and levels[1] == -math.inf


def test_a_hub_and_a_dock_bring_each_socket_to_one_of_the_computers():
    show = build(["add 2 webcams", "add usb hub 4 ports", "add dock 2 displays 2 usb 90 w", "add computer 4 usb",
                  "webcam > usb hub 1", "webcam 2 > usb hub 2", "usb hub computer 1-2 > computer usb 1-2"])  # fmt: skip
    assert len(show.cables) == 4 and "without a supply" in show.device("usb-hub").detail
    dock = show.device("dock")
    assert dock.detail == "2 displays, 2 USB, 90 W"
    assert [p.name for p in dock.ports if p.direction == "out"] == ["HDMI", "HDMI 2", "computer 1", "computer 2"]


def test_a_stereo_call_carries_two_channels_and_a_mono_one_their_sum():
    """Left alone in one ear of the guest, or in both."""
    rig = ["Song, playback, stereo", "Gus, voice, guest, headphones", "add computer 1 usb 2 ch", "add player",
           "song > player", "player left > computer line in left", "set computer call hears to line in",
           "call guest 1 ears > gus", "computer call > call sending", "gus > call guest 1 mic"]  # fmt: skip
    ears = {}
    for words in ("call 1 guest", "stereo call 1 guest as Call"):
        view = CueSolution(build([*rig[:4], f"add {words}", *rig[4:]]), None)
        ears[words] = {a.ear for a in view.hearing.arrivals("gus", "song")}
    assert ears == {"call 1 guest": {1, 2}, "stereo call 1 guest as Call": {1}}


def test_each_guest_has_an_end_of_their_own():
    names = {c.name for c in make_device("call 2 guests", ()).controls}
    for guest in ("guest 1", "guest 2"):
        assert {f"{guest} at home", f"{guest} level at home", f"{guest} processing"} <= names


def test_the_second_output_of_a_switcher_gives_what_is_set():
    rig = ["Ann, voice, host", "Tape, recorder", "add dynamic mic", "add desk 2 in", "add switcher", "add recorder",
           "ann > dynamic mic", "dynamic mic > desk 1", "set desk 1 gain to 40", "set desk 1 fader to 0",
           "desk main > switcher mic 1", "switcher programme 2 > recorder", "recorder > tape",
           "Tape must hear Ann"]  # fmt: skip
    for said, missing in (("programme", False), ("clean", True), ("HDMI 1", True)):
        show = build([*rig, f"set switcher programme 2 takes to {said}"])
        assert (("missing", "tape", "ann") in ids(show)) is missing


def test_one_stereo_output_goes_into_two_inputs_side_by_side():
    lines = ["add laptop computer as Laptop", "add interface", "laptop usb 1 > interface playback 1-2", "add desk 4 in",
             "add record mixer", "record mixer record out > desk 3-4", "add switcher"]  # fmt: skip
    assert [c.channels for c in build(lines).cables] == [((1, 1),), ((2, 1),)] * 2
    whole = build(["add record mixer", "add switcher", "record mixer record out > switcher mic 1"])
    assert len(whole.cables) == 1 and whole.cables[0].channels == ()


def test_a_computer_runs_several_calls_and_browsers():
    names = [p.name for p in make_device("computer 2 calls 2 browsers", ()).programs]
    assert names == ["Call", "Call 2", "Browser", "Browser 2", "Playback", "Encoder"]
