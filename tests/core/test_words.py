"""Words, numbers, sentences of groups, edits of wishes, picture arrivals, leads."""

import pytest

from kymaton.catalogue.registry import make_device
from kymaton.core.cable_match import fits, lead_between
from kymaton.core.checks.report import Report
from kymaton.core.edits.controls import Change, apply
from kymaton.core.edits.wishes import set_want
from kymaton.core.model import Control, Port, Want
from kymaton.core.model.show import value_problem
from kymaton.core.planning.fixes import describe, title_of, value_text
from kymaton.core.signal.control_search import closed_value, open_value
from kymaton.core.signal.picture import picture_arrival
from kymaton.core.words import db, group, hertz, joined, lowered, ms, number, said, sentence, thing
from kymaton.store.showfile import read_show
from tests.shows import DEMO, listener, voice


@pytest.mark.parametrize(
    ("names", "text"),
    [([], ""), (["A"], "A"), (["A", "B"], "A and B"), (["A", "B", "C"], "A, B and C"), (["A", "A", "B"], "A and B")],
)
def test_names_are_joined(names, text):
    assert joined(names) == text


@pytest.mark.parametrize(
    ("value", "digits", "text"),
    [(-3.2, 0, "\u22123"), (-0.2, 0, "0"), (0.04, 1, "0.0"), (12.34, 1, "12.3"), (-0.04, 1, "0.0")],
)
def test_numbers_have_a_true_minus_and_no_negative_zero(value, digits, text):
    assert number(value, digits) == text


def test_figures_carry_their_unit():
    assert (ms(231.6), db(-4.4), hertz(34.4), hertz(3440)) == ("231.6 ms", "\u22124 dB", "34 Hz", "3.4 kHz")


def test_of_very_many_the_first_are_named():
    assert str(group(thing(f"mic {n}") for n in range(1, 8))).endswith("mic 6 and mic 7")
    many = group(thing(f"mic {n}") for n in range(1, 33))
    assert many.text == "mic 1, mic 2, mic 3, mic 4, mic 5, mic 6 and 26 others" and many.plural


def test_people_by_name_things_with_their_article():
    assert said(voice("ann")) == "Ann" and said(listener("audience", "audience")) == "the audience"
    assert said(voice("horn", kind="instrument")) == "the horn"
    assert lowered("HDMI 2") == "HDMI 2" and lowered("Desk 9") == "desk 9" and sentence("the desk") == "The desk"


# sentences of groups


@pytest.fixture(scope="module")
def demo() -> Report:
    return Report(read_show(DEMO))


def test_cards_say_in_one_sentence_what_several_findings_share(demo):
    said_ = {c.sentence: len(c.findings) for c in demo.cues["guest-talk"].cards}
    assert said_["Ilse and Nadir hear themselves"] == 2
    assert said_["Ilse and Nadir reach the audience and the recorder twice"] == 4
    assert said_["Ilse and Nadir hear each other twice"] == 2
    song = {c.sentence: len(c.findings) for c in demo.cues["song"].cards}
    assert song["The audience and the recorder can hear the click"] == 2
    assert song["The call dulls the concertina for Ilse and Nadir"] == 2


def test_cards_hold_every_finding_once_worst_first(demo):
    for cue in demo.cues.values():
        keys = [f.key for c in cue.cards for f in c.findings]
        assert sorted(map(str, keys)) == sorted(str(f.key) for f in cue.findings)
        ranks = [("fault", "caution", "note").index(c.severity) for c in cue.cards]
        assert ranks == sorted(ranks)


def test_counts_are_those_of_the_findings(demo):
    for severity in ("fault", "caution", "note"):
        by_cue = sum(r.count(severity) for r in demo.cues.values())
        assert demo.count(severity) == by_cue + sum(f.severity == severity for f in demo.rig)
    assert demo.count("fault", step="path") == 1 and demo.count("fault", cue="doors") == 0


def test_cells_show_the_worst_of_their_findings(demo):
    cells = demo.cues["guest-talk"].cells
    assert (cells["audience", "phone"].form, cells["audience", "phone"].figure) == ("leaks", "leaks")
    assert cells["audience", "backing"].form == "empty" and cells["audience", "click"].form == "silent"
    assert cells["maren", "maren"].severity == "caution" and cells["teo", "teo-voice"].form == "heard-unasked"
    assert cells["ilse", "ilse"].chosen and not cells["room", "maren"].severity


# changes


def test_changes_are_said_as_verbs():
    show = read_show(DEMO)

    def said_(control: str, value: object) -> str:
        return describe(show, Change(None, control, show.control(control).value, value))  # type: ignore[arg-type]

    assert said_("desk/ch9/send/aux1", -90.0) == "Pull down desk 9 to aux 1"
    assert said_("desk/ch9/send/aux1", -6.0) == "Bring up desk 9 to aux 1 to \u22126 dB"
    assert said_("desk/ch9/mute", True) == "Mute desk 9" and said_("desk/ch9/mute", False) == "Unmute desk 9"
    assert said_("switcher/hdmi2/sound", "off") == "Turn off the sound of switcher HDMI 2"
    assert said_("switcher/mic1/input", "line") == "Set switcher mic 1 input to line"


def test_titles_of_several_changes():
    show = read_show(DEMO)
    sends = [Change(None, f"desk/ch{n}/send/aux1", -22.0, -90.0) for n in (9, 10, 11)]
    assert title_of(show, sends[:2]) == "Pull down both sends" and title_of(show, sends) == "Pull down 3 sends"
    mutes = [Change(None, f"desk/ch{n}/mute", False, True) for n in (9, 10)]
    assert title_of(show, mutes) == "Mute both channels"
    assert title_of(show, [sends[0], mutes[0]]) == "Make both changes"
    assert title_of(show, [sends[0], Change(None, "switcher/mic1/input", "mic", "line")]) == "Make both changes"


@pytest.mark.parametrize(
    ("control", "closed", "opened", "text"),
    [
        (
            Control(id="a/b", name="b", kind="level", role="send", value=-90, minimum=-90, nominal=-6),
            -90.0,
            -6.0,
            "closed",
        ),
        (Control(id="a/b", name="b", kind="mute", role="mute", value=True), True, False, "muted"),
        (Control(id="a/b", name="b", kind="switch", value=False), False, True, "off"),
        (
            Control(id="a/b", name="b", kind="choice", role="input-sound", value="off", choices=("on", "off")),
            "off",
            "on",
            "off",
        ),
        (Control(id="a/b", name="b", kind="choice", value="x", choices=("x",)), None, None, "x"),
        (Control(id="a/b", name="b", kind="delay", value=12.5, minimum=0), None, None, "12.5 ms"),
    ],
)
def test_what_closes_and_opens_a_control(control, closed, opened, text):
    assert (closed_value(control), open_value(control)) == (closed, opened)
    assert value_text(control, control.value) == text


def test_a_value_that_a_control_cannot_take_is_refused():
    show = read_show(DEMO)
    with pytest.raises(ValueError, match="outside"):
        apply(show, [Change(None, "desk/ch9/send/aux1", -22.0, 99.0)])
    assert value_problem(show.control("desk/ch9/mute"), "x") is not None
    assert value_problem(show.control("switcher/mic1/input"), "line") is None
    assert value_problem(show.control("switcher/mic1/delay"), True) is not None


# wishes


def test_a_wish_for_one_cue_leaves_the_others():
    show = set_want(read_show(DEMO), "teo", "quill", "song", Want.MUST_NOT)
    assert show.want("teo", "quill", "song") is Want.MUST_NOT
    assert show.want("teo", "quill", "guest-talk") is Want.MUST
    assert show.want("teo", "quill", "doors") is Want.ANY


def test_a_wish_for_all_cues_replaces_those_for_single_ones():
    show = set_want(read_show(DEMO), "teo", "quill", None, Want.ANY)
    assert {show.want("teo", "quill", c.id) for c in show.cues} == {Want.ANY}


def test_the_largest_delay_of_a_wish_survives():
    show = set_want(read_show(DEMO), "teo", "teo-voice", "song", Want.ANY)
    wish = show.wish("teo", "teo-voice", "song")
    assert wish is not None and wish.max_delay_ms == 10.0


# pictures


def test_the_picture_on_air_arrives_by_the_shortest_way():
    show = read_show(DEMO)
    wide = picture_arrival(show, show.cue("guest-talk"), "audience")
    assert wide is not None and wide.camera == "camera-a"
    assert wide.delay_ms == pytest.approx(162 + 40 + 60 + 100 + 4000)
    hands = picture_arrival(show, show.cue("song"), "audience")
    assert hands is not None and hands.camera == "camera-b" and hands.delay_ms == wide.delay_ms - 82
    assert picture_arrival(show, show.cue("song"), "ilse") is None
    recorder = picture_arrival(show, show.cue("song"), "recorder")
    assert recorder is not None and recorder.delay_ms == 120.0


def test_sound_leads_camera_a_by_five_frames():
    show = read_show(DEMO)
    picture = picture_arrival(show, show.cue("opening"), "recorder")
    view = Report(show, only="opening").cues["opening"].view
    sound = max(view.hearing.arrivals("recorder", "maren"), key=lambda a: a.gain_db)
    assert picture is not None
    assert (picture.delay_ms - sound.delay_ms) / 40.0 == pytest.approx(5.0, abs=0.1)


# leads


def port(connector: str, signal: str = "line", **more: object) -> Port:
    return Port.checked(id="p", name="p", direction="out", signal=signal, connector=connector, **more)


@pytest.mark.parametrize(
    ("a", "b", "kind"),
    [
        ("XLR", "XLR", "XLR"),
        ("XLR", "XLR or TRS", "XLR"),
        ("TS 6.3 mm", "XLR or TRS", "TS 6.3 mm"),
        ("3.5 mm stereo", "XLR or TRS", "3.5 mm to 2 x TS"),
        ("TRS 6.3 mm", "3.5 mm stereo", "TRS to 3.5 mm"),
        ("HDMI A", "HDMI A", "HDMI"),
        ("HDMI A", "XLR", None),
        ("BNC", "BNC", "SDI"),
        ("RJ45", "HDMI A", None),
        ("phono", "TRS 6.3 mm", "phono to TS"),
    ],
)
def test_which_lead_joins_two_sockets(a, b, kind):
    lead = lead_between(port(a), port(b))
    assert (lead.kind if lead else None) == kind
    if lead is not None:
        assert fits(lead.kind, port(a), port(b)) and not fits("USB 3", port(a), port(b))


def test_air_and_bluetooth_join_only_their_like():
    assert lead_between(port("", "acoustic"), port("", "acoustic")).kind == "air"
    assert lead_between(port("", "acoustic"), port("XLR")) is None
    assert lead_between(port("", "bluetooth"), port("", "bluetooth")).kind == "Bluetooth"
    assert lead_between(port("", "bluetooth"), port("XLR")) is None
    assert make_device("phone", ()).ports[0].signal == "bluetooth"
