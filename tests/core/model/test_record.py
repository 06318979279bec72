"""Records: checked where they come from outside, and told in plain words what does not fit."""

import math

import pytest

from kymaton.core.model import Cable, Cue, Figure, Listener, Picture, Show, ShowError, Sound
from kymaton.core.model.record import HELD_ASIDE, Misfit, checked
from kymaton.store.showfile import read_show
from tests.shows import DEMO, one_talker


@pytest.mark.parametrize(
    ("kind", "fields", "place", "reason"),
    [
        (Figure, {"value": "x"}, "value", "a number is needed, not text"),
        (Figure, {"value": None}, "value", "a number is needed, not nothing"),
        (Figure, {"value": math.inf}, "value", "the number is too large"),
        (Figure, {"value": math.nan}, "value", "the number is too large"),
        (Figure, {"value": 1, "plus_minus": -0.1}, "plus_minus", "it must be at least 0"),
        (Figure, {}, "", "'value' is missing"),
        (Figure, {"value": 1, "colour": "red"}, "", "'colour' is not known here"),
        (Sound, {"id": "a", "name": "A", "kind": "smell", "level": 60}, "kind", "'smell' is none of the words"),
        (Sound, {"id": "A b", "name": "A", "kind": "voice", "level": 60}, "id", "not written as it must be"),
        (Sound, {"id": "a" * 81, "name": "A", "kind": "voice", "level": 60}, "id", "text of at most 80 is needed"),
        (Sound, {"id": "a", "name": "A", "kind": "voice", "level": 60, "channels": 3}, "channels", "at most 2"),
        (Sound, {"id": "a", "name": "A", "kind": "voice", "level": 60, "private": 1}, "private", "true or false is"),
        (Cable, {"id": "a", "source": "d/o", "target": "d/i", "channels": [[1]]}, "channels[0]", "a list of 2 is"),
        (Cable, {"id": "a", "source": "d/o", "target": "d/i", "channels": [[0, 1]]}, "channels[0][0]", "at least 1"),
        (Cue, {"id": "a", "name": "A", "controls": {"d/c": []}}, "controls[...]", "is needed, not a list"),
        (Picture, {"width": 0}, "width", "at least 1"),
        (Listener, "ann", "", "a group of keys is needed, not text"),
    ],
)  # fmt: skip
def test_what_does_not_fit_is_said_with_its_place(kind, fields, place, reason):
    with pytest.raises(Misfit) as caught:
        checked(kind, fields)
    assert caught.value.place == place and reason in caught.value.reason
    assert str(caught.value) == (f"{place}: {caught.value.reason}" if place else caught.value.reason)


def test_a_record_checked_from_its_own_fields_is_itself():
    show = read_show(DEMO)
    assert Show.checked(**show.fields()) == show
    held = Figure(value=1.0, unknown='{"colour": "red"}')
    assert Figure.checked(**held.fields()) == held and held.fields()[HELD_ASIDE]


def test_an_evolved_show_has_forgotten_what_it_had_looked_up():
    show = one_talker()
    assert show.device("desk").name and show.ports and show.control("desk/ch1/mute")
    renamed = show.evolve(devices=tuple(d.evolve(name="Other") if d.id == "desk" else d for d in show.devices))
    assert renamed.device("desk").name == "Other" and show.device("desk").name != "Other"
    with pytest.raises(KeyError):
        show.evolve(devices=()).device("desk")


def test_nothing_of_a_record_changes_in_place():
    with pytest.raises(AttributeError):
        one_talker().title = "x"
    with pytest.raises(ShowError, match="is not a date"):
        Show.checked(date="yesterday")
