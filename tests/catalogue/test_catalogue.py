"""What the catalogue's devices do to level, delay and routing: figures of the field, checked at the ear."""

import math
from collections import Counter

import pytest

from kymaton import catalogue as kit
from kymaton.catalogue import boxes, computers, links
from kymaton.catalogue.registry import GROUPS, OTHERS, all_kinds, group_of, make_device
from kymaton.core.model import Cue, Show
from kymaton.core.signal.cue_solution import CueSolution
from kymaton.core.units import air_delay_us, amplitude, decibels, microphone_gain_db, spreading_db, unit_of
from tests.shows import build, call_show, listener, setting, voice, wire


def heard(show: Show, listener_: str = "bob", sound: str = "ann", cue: str | None = None) -> tuple[float, float]:
    """Level at a listener and delay in ms of the strongest arrival."""
    view = CueSolution(show, cue)
    arrivals = view.hearing.arrivals(listener_, sound)
    if not arrivals:
        return -math.inf, math.nan
    best = max(arrivals, key=lambda a: a.gain_db)
    return show.sound(sound).level + best.gain_db, best.delay_ms


# units


def test_one_pascal_at_two_millivolts_per_pascal():
    assert 94 + microphone_gain_db(2.0) == pytest.approx(20 * math.log10(0.002 / 0.7746))
    assert microphone_gain_db(20.0) - microphone_gain_db(2.0) == pytest.approx(20.0)


def test_distance_halves_and_sound_takes_its_time():
    assert spreading_db(2.0) == pytest.approx(-6.02, abs=0.01) and spreading_db(1.0) == 0
    assert spreading_db(0.0) == spreading_db(0.01)
    assert air_delay_us(3.43) == 10_000


def test_levels_and_factors_are_inverse():
    assert amplitude(decibels(0.25)) == pytest.approx(0.25)
    assert decibels(0.0) == -math.inf and amplitude(-math.inf) == 0.0


@pytest.mark.parametrize(
    ("signal", "unit"),
    [
        ("acoustic", "dB SPL"),
        ("mic", "dBu"),
        ("headphone", "dBu"),
        ("usb", "dBFS"),
        ("hdmi", "dBFS"),
        ("bluetooth", "dBFS"),
    ],
)
def test_each_signal_has_its_unit(signal, unit):
    assert unit_of(signal) == unit


# pick-ups


@pytest.mark.parametrize(("kind", "more"), [("dynamic mic", 0.0), ("condenser mic", 20.0), ("ribbon mic", -6.02)])
def test_microphones_differ_by_their_sensitivity(kind, more):
    def rig(words: str) -> Show:
        return build(
            f"add {words} as Mic", "add desk 2 in 1 aux", "add headphones", "ann > mic", "mic > desk 1",
            "desk aux 1 > headphones", "headphones > bob", "set desk 1 to aux 1 to 0", "set desk 1 gain to 20",
        )  # fmt: skip

    assert heard(rig(kind))[0] - heard(rig("dynamic mic"))[0] == pytest.approx(more, abs=0.01)


def test_a_voice_at_a_dynamic_microphone_reaches_the_desk_at_about_minus_58():
    show = build("add dynamic mic", "add desk 2 in 1 aux", "ann > dynamic mic 0.08 m", "dynamic mic > desk 1")
    view = CueSolution(show, None)
    into = next(n for n, e in enumerate(view.graph.edges) if e.device == "dynamic-mic")
    air = next(n for n, e in enumerate(view.graph.edges) if e.cable == show.cables[0].id)
    level = 66 + view.state.gain_db[air] + view.state.gain_db[into]
    assert level == pytest.approx(-57.8, abs=0.3)


@pytest.mark.parametrize(
    ("box", "loss"), [("di", -20.0), ("isolator 2 ch", -0.5), ("pad 20 dB", -20.0), ("join", -6.0)]
)
def test_boxes_take_what_they_say(box, loss):
    device = next(iter(build(f"add {box}").devices))
    gains = {r.gain_db.value for r in device.routes}
    assert gains == {loss}


# the desk


def desk(**settings: object) -> Show:
    show = Show(
        sounds=(voice("ann", person=None, unit="dBu", level=-10),),
        listeners=(listener("bob", "operator", floor_level=-200),),
        devices=(kit.desk("desk", inputs=4, aux=2, pairs=((3, 4),)), kit.headphones("phones")),
        cables=wire("sound/ann > desk/in1", "desk/aux1 > phones/in", "phones/ears > listener/bob"),
    )
    return setting(show, **settings)


def test_a_desk_from_the_box_is_closed():
    assert heard(desk())[0] == -math.inf


def test_gain_send_and_master_add_up_and_the_desk_takes_its_time():
    level, delay = heard(desk(desk__ch1__gain=12.0, desk__ch1__send__aux1=-5.0, desk__aux1__fader=-2.0))
    assert level == pytest.approx(-10 + 12 - 5 - 2 + 84) and delay == 1.5


def test_left_and_right_of_a_pair_go_to_their_own_side():
    device = kit.desk("desk", inputs=4, aux=0, pairs=((3, 4),))
    main = {(r.source, r.target_channel) for r in device.routes}
    assert main == {("in1", 1), ("in1", 2), ("in2", 1), ("in2", 2), ("in3", 1), ("in4", 2)}


# the call


def test_a_call_gives_each_guest_the_others_and_never_themselves():
    call = kit.call("call", [kit.Guest("a", "A"), kit.Guest("b", "B"), kit.Guest("c", "C")])
    pairs = {(r.source[0], r.target[0]) for r in call.routes if r.source.endswith("-mic") and r.target.endswith("-ear")}
    assert pairs == {(x, y) for x in "abc" for y in "abc" if x != y}


def test_a_guest_on_a_loudspeaker_sends_all_others_what_it_plays():
    """Guest a plays through a loudspeaker: b hears themselves and the studio twice, the studio itself and b twice."""
    call = kit.call("call", [kit.Guest("a", "A", loudspeaker=True), kit.Guest("b", "B")], delay_ms=100.0)
    ways = {}
    for r in call.routes:
        if r.medium == "sound" and r.target_channel == 1:
            ways.setdefault((r.source, r.target), []).append((r.delay_ms.value, r.gain_db.value))
    assert sorted(d for d, _ in ways["b-mic", "to-studio"]) == [100.0, 220.0]
    assert [d for d, _ in ways["b-mic", "b-ear"]] == [220.0]
    assert sorted(d for d, _ in ways["from-studio", "b-ear"]) == [100.0, 220.0]
    assert [d for d, _ in ways["from-studio", "to-studio"]] == [220.0]
    assert [d for d, _ in ways["a-mic", "b-ear"]] == [100.0] and ("a-mic", "a-ear") not in ways
    direct, again = sorted(ways["from-studio", "b-ear"])
    assert again[1] - direct[1] == sorted(ways["b-mic", "to-studio"])[1][1] - sorted(ways["b-mic", "to-studio"])[0][1]
    uses = {u.control for r in call.routes if (r.source, r.target) == ("b-mic", "b-ear") for u in r.controls}
    assert {u.partition("/")[2] for u in uses} == {"a/mute", "a/level", "a/canceller", "b/mute", "processing"}


def test_a_guest_on_a_loudspeaker_is_typed():
    device = make_device("call 3 guests 1 loudspeaker", ())
    assert [c.id for c in device.controls if c.id.endswith("/canceller")] == ["call/canceller", "call/guest1/canceller"]
    assert len([c for c in make_device("call", ()).controls if c.id.endswith("/canceller")]) == 1


def test_the_way_to_a_guest_and_back_is_twice_the_delay_of_the_call():
    level, delay = heard(call_show(), "gus", "gus")
    assert delay == pytest.approx(200 + 22 + 1.5 + 12 + 0.15, abs=0.01) and level > 60


def test_a_guest_who_is_muted_at_home_is_heard_by_nobody():
    show = setting(call_show(), call__gus__mute=True)
    assert heard(show, "ann", "gus")[0] == -math.inf and heard(show, "gus", "gus")[0] == -math.inf


@pytest.mark.parametrize(("plays", "expected"), [("headphones", True), ("HDMI", False), ("headphones and HDMI", True)])
def test_the_call_computer_plays_where_it_is_told(plays, expected):
    show = setting(call_show(), computer__speaker=plays)
    assert (heard(show, "ann", "gus")[0] > -math.inf) is expected


def test_a_canceller_takes_the_guests_only():
    on, off = call_show(canceller=True), call_show(canceller=False)
    assert heard(off, "gus", "gus")[0] - heard(on, "gus", "gus")[0] == pytest.approx(40.0)
    assert heard(off, "gus", "ann") == heard(on, "gus", "ann")


# pictures and computers


@pytest.mark.parametrize(("sound", "on_air", "expected"), [
    ("on", 1, True), ("off", 2, False), ("follows picture", 2, True), ("follows picture", 1, False),
])  # fmt: skip
def test_embedded_sound_of_a_switcher(sound, on_air, expected):
    show = Show(
        sounds=(voice("ann", person=None, unit="dBFS", level=-20),),
        listeners=(listener("bob", "audience"),),
        devices=(kit.switcher("switcher", embedded={2: sound}),),
        cables=wire("sound/ann > switcher/hdmi2", "switcher/program > listener/bob"),
        cues=(Cue(id="cue", name="Cue", on_air=f"switcher/hdmi{on_air}"),),
    )
    assert (heard(show, cue="cue")[0] > -math.inf) is expected


@pytest.mark.parametrize(("expects", "level"), [("line", -22.0), ("mic", 10.0)])
def test_the_sound_input_of_a_switcher_expects_line_or_a_microphone(expects, level):
    show = Show(
        sounds=(voice("ann", person=None, unit="dBu", level=-10),),
        listeners=(listener("bob", "audience"),),
        devices=(kit.switcher("switcher", mic_input=expects, sound_delay_ms=120.0),),
        cables=wire("sound/ann > switcher/mic1", "switcher/program > listener/bob"),
    )
    assert heard(show) == (pytest.approx(level), 121.0)


def test_a_round_trip_through_an_interface_is_twice_its_delay():
    device = computers.interface("i", inputs=2, outputs=2, delay_ms=5.0)
    waits = {(r.source[:2], r.target[:3]): r.delay_ms.value for r in device.routes}
    assert waits["in", "rec"] + waits["pl", "out"] == 10.0 and waits["in", "out"] == 1.0


def test_a_computer_mix_is_stereo_and_closed_until_opened():
    show = build(
        "Tune, playback", "Tape, recorder", "add computer mix 2 in", "tune > computer mix 1", "computer mix > tape"
    )
    view = CueSolution(show, None)
    assert not view.bursts(show.listener("tape"), show.sound("tune"))
    view = CueSolution(setting(show, computer_mix__ch1__fader=-3.0), None)
    assert view.bursts(show.listener("tape"), show.sound("tune"))[0].delay_ms == 20.0


def test_an_embedder_replaces_the_sound_and_a_de_embedder_takes_it_out():
    embedder, taken = links.embedder("e"), links.de_embedder("d")
    sound = {(r.source, r.target) for r in embedder.routes if r.medium == "sound"}
    assert sound == {("in", "out")} and embedder.ports[0].channels == 0
    assert {(r.source_channel, r.target) for r in taken.routes if r.gain_db.value} == {(1, "left"), (2, "right")}
    assert any(r.medium == "picture" for r in taken.routes) and any(r.medium == "picture" for r in embedder.routes)


def test_a_delay_unit_delays_by_its_control():
    show = build("add delay", "add headphones as H")
    unit = show.device("delay")
    assert {u.control for r in unit.routes for u in r.controls} == {"delay/delay"}
    assert boxes.delay_unit("x", delay_ms=40.0).controls[0].value == 40.0


def test_network_boxes_carry_each_channel_straight_through():
    device = links.network_audio("n", channels=4)
    assert {(r.source, r.target) for r in device.routes} == {(f"in{n}", f"out{n}") for n in range(1, 5)}


def test_every_kind_stands_under_one_heading_and_no_list_is_long():
    found = Counter(group_of(kind) for kind in all_kinds())
    assert OTHERS not in found and set(found) == set(GROUPS) and max(found.values()) <= 15
    assert len([k for kinds in GROUPS.values() for k in kinds]) == len({k for kinds in GROUPS.values() for k in kinds})


def test_abbreviations_keep_their_capitals():
    names = {kind.name for kind in all_kinds()}
    assert {"DI", "Active DI", "HDMI to SDI", "USB hub", "Plain Y"} <= names
