"""From show to graph: controls, cues, hand actions, variants, cables that split."""

import math

import pytest

from kymaton import catalogue as kit
from kymaton.core.checks.report import Report
from kymaton.core.model import Cable, Cue, HandAction, Show, Variant, Want, Wish
from kymaton.core.signal.cue_solution import CueSolution
from kymaton.core.signal.graph import flatten, state
from kymaton.store.showfile import read_show
from tests.shows import DEMO, build, ids, listener, one_talker, setting, voice, wire, with_cues


def gain(show: Show, cue: str | None = None, listener_: str = "bob", sound: str = "ann") -> float:
    return CueSolution(show, cue).hearing.gain_db(listener_, sound)


@pytest.mark.parametrize(
    ("control", "value", "change"),
    [
        ("desk__ch1__gain", 40.0, -12.0),
        ("desk__ch1__send__aux2", -16.0, -10.0),
        ("desk__ch1__send__aux2", -90.0, -math.inf),
        ("desk__ch1__mute", True, -math.inf),
        ("desk__aux2__fader", -3.0, -3.0),
        ("desk__aux2__mute", True, -math.inf),
        ("desk__ch1__fader", -20.0, 0.0),  # the send is before the fader
    ],
)
def test_each_control_does_what_it_says(control, value, change):
    show = one_talker()
    assert gain(setting(show, **{control: value})) - gain(show) == pytest.approx(change)


def test_a_send_behind_the_fader_follows_it():
    show = setting(one_talker(), desk__ch1__send__aux2__point="post", desk__ch1__fader=-7.0)
    assert gain(show) - gain(one_talker()) == pytest.approx(-7.0)


def test_a_cue_overrides_the_base_state_for_itself_only():
    show = with_cues(one_talker(), Cue(id="a", name="A", controls={"desk/ch1/mute": True}), Cue(id="b", name="B"))
    assert gain(show, "a") == -math.inf and gain(show, "b") == gain(one_talker())


def test_hand_actions_hold_from_their_cue_on():
    lead = "c5"  # desk aux 2 to the headphones
    show = with_cues(
        one_talker(),
        Cue(id="a", name="A"),
        Cue(id="b", name="B", hand_actions=(HandAction(kind="disconnect", target=lead),)),
        Cue(id="c", name="C"),
        Cue(id="d", name="D", hand_actions=(HandAction(kind="connect", target=lead),)),
    )
    assert show.cable(lead).target == "phones/in"
    assert [gain(show, c) > -math.inf for c in "abcd"] == [True, False, False, True]


def test_a_variant_is_checked_too_and_named():
    bare = Variant(id="bare", name="Bare", unplugged=("c5",))
    show = one_talker().evolve(variants=(bare,), plan=(Wish(listener="bob", sound="ann", want=Want.MUST),))
    found = [(f.id, f.variant) for f in Report(show).findings if f.severity == "fault"]
    assert found == [("missing", "bare")]


def test_embedded_sound_follows_the_picture_only_while_it_is_on_air():
    switcher = kit.switcher("switcher", embedded={2: "follows picture"})
    show = Show(
        sounds=(voice("ann", person=None, unit="dBFS", level=-20, channels=2),),
        listeners=(listener("audience", "audience"),),
        devices=(switcher,),
        cables=wire("sound/ann > switcher/hdmi2", "switcher/program > listener/audience"),
        cues=(
            Cue(id="on", name="On", on_air="switcher/hdmi2"),
            Cue(id="other", name="Other", on_air="switcher/hdmi1"),
        ),
    )
    assert gain(show, "on", "audience") == pytest.approx(0.0)
    assert gain(show, "other", "audience") == -math.inf


def test_one_sound_made_at_two_places_is_doubled():
    """The same alert played by two computers that meet in one pair of ears."""
    late = kit.player("second", "Second computer", (("a", "a"),))
    show = Show(
        sounds=(voice("alert", person=None, kind="alert", unit="dBFS", level=-20),),
        listeners=(listener("bob", "operator"),),
        devices=(
            kit.player("first", "First computer", (("a", "a"),)),
            late.evolve(routes=tuple(r.evolve(delay_ms=kit.parts.figure(40.0)) for r in late.routes)),
            kit.desk("desk", inputs=2, aux=1, gains_db={1: 6, 2: 6}, sends_db={(1, 1): 0, (2, 1): 0}),
            kit.headphones("phones"),
        ),
        cables=wire(
            "sound/alert > first/play-a",
            "sound/alert > second/play-a",
            "first/out-a > desk/in1",
            "second/out-a > desk/in2",
            "desk/aux1 > phones/in",
            "phones/ears > listener/bob",
        ),
    )
    assert ("doubled", "bob", "alert") in ids(show, "fault")
    assert {a.delay_us for a in CueSolution(show, None).hearing.arrivals("bob", "alert")} == {13_500, 41_500}


def test_a_lead_that_splits_feeds_each_side_once():
    show = read_show(DEMO)
    graph = flatten(show)
    split = [n for n, e in enumerate(graph.edges) if e.cable and e.cable.startswith("call-computer-headphones")]
    assert [(graph.nodes[graph.src[n]], graph.nodes[graph.dst[n]]) for n in split] == [
        (("call-computer/headphones", 1), ("desk/in9", 1)),
        (("call-computer/headphones", 2), ("desk/in10", 1)),
    ]
    whole = [c.evolve(channels=()) if c.channels else c for c in show.cables]
    both = Show.checked(**{**show.fields(), "cables": whole})
    assert gain(both, "guest-talk", "audience", "ilse") > gain(show, "guest-talk", "audience", "ilse") + 3
    assert isinstance(whole[0], Cable)


def test_one_lead_from_a_pair_of_sockets_carries_the_left_side():
    show = build("add desk 2 in 1 aux", "add loudspeakers", "desk main > loudspeakers")
    graph = flatten(show)
    into = [
        graph.nodes[graph.src[n]]
        for n, e in enumerate(graph.edges)
        if graph.nodes[graph.dst[n]][0] == "loudspeakers/in"
    ]
    assert into == [("desk/main", 1)]
    [lead] = [c for c in show.cables if c.target == "loudspeakers/in"]
    joined = show.evolve(cables=tuple(c.evolve(channels=((1, 1), (2, 1))) if c is lead else c for c in show.cables))
    graph = flatten(joined)  # said to be joined, both sides come
    assert [graph.nodes[graph.src[n]][1] for n, e in enumerate(graph.edges) if e.cable == lead.id] == [1, 2]


def test_a_delay_control_delays():
    show = read_show(DEMO)
    before = state(flatten(show), show, "guest-talk").delay_us
    delayed = setting(show, switcher__mic1__delay=200.0)
    after = state(flatten(delayed), delayed, "guest-talk").delay_us
    assert set((after - before).tolist()) == {0, 200_000} and (after != before).sum() == 4
