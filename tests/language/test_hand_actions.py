"""What is done by hand at a cue: typed, told in words, and acting on what is heard."""

import pytest

from kymaton.core.model import Cue, Person, Place, Show, ShowError
from kymaton.core.signal.cue_solution import CueSolution
from kymaton.core.signal.graph import unplugged
from kymaton.core.signal.picture import pictures_seen
from kymaton.core.units import air_delay_us
from kymaton.language.hand_actions import add_hand_action, hand_line, remove_hand_action
from tests.shows import build, listener, one_talker, voice, with_cues


def staged() -> Show:
    """Ann at a microphone before a desk that Bob listens to, two cues, Quill to lend a hand."""
    lines = (
        "add dynamic mic",
        "add desk 4 in 1 aux",
        "add headphones",
        "add condenser mic as Spare",
        "ann > dynamic mic",
    )
    show = build(*lines, "dynamic mic > desk 1", "desk aux 1 > headphones", "headphones > bob")
    show = build_more(show, "set desk 1 gain to 52", "set desk 1 to aux 1 to -6")
    return Show.checked(
        **{
            **show.fields(),
            "people": (Person(id="quill", name="Quill Aldous"),),
            "cues": (Cue(id="one", name="One"), Cue(id="two", name="Two"), Cue(id="three", name="Three")),
        }
    )


def build_more(show: Show, *lines: str) -> Show:
    from kymaton.language.commands import read_command

    for line in lines:
        show = read_command(show, line).show
    return show


def first_us(show: Show, cue: str | None, listener_: str = "bob") -> int | None:
    arrivals = CueSolution(show, cue).hearing.arrivals(listener_, "ann")
    return min((a.delay_us for a in arrivals), default=None)


def test_to_disconnect_holds_until_it_is_connected_again():
    show, text = add_hand_action(staged(), "two", "Quill unplugs desk 1, 5 s")
    assert text == "Quill disconnects the dynamic mic from desk 1, 5 s"
    show, text = add_hand_action(show, "three", "connect dynamic mic to desk 1")
    assert text == "Somebody connects the dynamic mic to desk 1"
    assert [first_us(show, c) is None for c in ("one", "two", "three")] == [False, True, False]
    assert show.cue("two").hand_actions[0].person == "quill" and show.cue("two").hand_actions[0].seconds == 5.0


def test_to_connect_takes_out_what_is_in_that_input():
    show, _ = add_hand_action(staged(), "two", "Quill connects the spare to desk 1, 20 s")
    assert [hand_line(show, "two", i) for i in (0, 1)] == [
        "Quill disconnects the dynamic mic from desk 1",
        "Quill connects the spare to desk 1, 20 s",
    ]
    assert first_us(show, "one") is not None and first_us(show, "two") is None
    new = next(c for c in show.cables if c.source == "spare/out")
    assert (
        not new.plugged
        and new.id in unplugged(show, show.cue("one"))
        and new.id not in unplugged(show, show.cue("two"))
    )


def test_what_is_connected_is_not_connected_again():
    with pytest.raises(ShowError, match="connected there already"):
        add_hand_action(staged(), "one", "connect dynamic mic to desk 1")


def test_to_move_a_microphone_changes_level_and_delay_from_then_on():
    show, text = add_hand_action(staged(), "two", "Quill moves dynamic mic to 0.4 m, 8 s")
    assert text == "Quill moves the dynamic mic to 0.4 m from Ann, 8 s"
    gains = [CueSolution(show, c).hearing.gain_db("bob", "ann") for c in ("one", "two", "three")]
    assert gains[0] - gains[1] == pytest.approx(12.04, abs=0.01) and gains[1] == gains[2]
    before, after = first_us(show, "one"), first_us(show, "two")
    assert before is not None and after is not None and after - before == air_delay_us(0.4) - air_delay_us(0.1)


def test_to_turn_a_gain_sets_it_in_that_cue_and_to_remove_the_action_gives_it_back():
    show, text = add_hand_action(staged(), "two", "Quill turns desk 1 gain to 40, 3 s")
    assert text == "Quill turns desk 1 gain to +40 dB, 3 s"
    gains = [CueSolution(show, c).hearing.gain_db("bob", "ann") for c in ("one", "two")]
    assert gains[0] - gains[1] == pytest.approx(12.0)
    back = remove_hand_action(show, "two", 0)
    assert back.cue("two") == staged().cue("two")


def test_who_walks_into_a_room_is_heard_there():
    show = with_cues(one_talker(), Cue(id="one", name="One"), Cue(id="two", name="Two"))
    places = (Place(id="hall", name="Hall", air="estimated", distance_m=3.43), Place(id="attic", name="Attic"))
    show = Show.checked(
        **{
            **show.fields(),
            "places": places,
            "sounds": (voice("ann", place="attic"), voice("bob", place="hall")),
            "listeners": (
                listener("ann", "host", person="ann", place="attic"),
                listener("bob", "operator", person="bob", place="hall"),
            ),
        }
    )
    show, text = add_hand_action(show, "two", "Ann moves ann to hall")
    assert text == "Ann moves Ann to Hall"
    delays = [[a.delay_us for a in CueSolution(show, c).hearing.arrivals("bob", "ann")] for c in (None, "one", "two")]
    assert [10_000 in d for d in delays] == [False, False, True]


def test_a_picture_lead_that_is_plugged_by_hand_is_seen():
    lines = ("add camera", "add camera as Hands", "add screen", "camera > screen", "screen > bob")
    show = with_cues(build(*lines), Cue(id="one", name="One"), Cue(id="two", name="Two"))
    show, _ = add_hand_action(show, "two", "connect hands to screen")
    seen = [pictures_seen(show, show.cue(c), "bob") for c in ("one", "two")]
    assert ["hands/hdmi" in s for s in seen] == [False, True] and ["camera/hdmi" in s for s in seen] == [True, False]


@pytest.mark.parametrize(
    ("line", "said"),
    [
        ("Quill", "who does what"),
        ("Quill dances", "who does what"),
        ("connect desk", "Say what, to, and where"),
        ("move dynamic mic to nowhere", "No place is called 'nowhere'"),
        ("move desk to 2 m", "Nothing is in front of Desk"),
        ("move dynamic mic to 0 m", "more than 0 m"),
        ("turn desk 9 gain to 3", "No control is called 'desk 9 gain'"),
        ("turn desk 1 gain to loud", "'loud' is not a number"),
        ("turn desk 1 gain to 900", "outside"),
        ("disconnect spare", "Nothing is connected"),
    ],
)
def test_what_cannot_be_done_is_said(line, said):
    with pytest.raises(ShowError, match=said):
        add_hand_action(staged(), "one", line)
