"""The brief by typing."""

import pytest

from kymaton.core.model import Show, ShowError
from kymaton.language.people import read_brief


def added(*lines: str) -> Show:
    show = Show()
    for line in lines:
        show = read_brief(show, line).show
    return show


def test_a_line_makes_person_sound_and_listener():
    show = added("Maren, voice, host")
    assert [(p.id, p.role) for p in show.people] == [("maren", "host")]
    sound, listener = show.sounds[0], show.listeners[0]
    assert (sound.kind, sound.person, sound.level, sound.unit) == ("voice", "maren", 66.0, "dB SPL")
    assert (listener.kind, listener.person) == ("host", "maren")


def test_things_that_listen_are_no_persons():
    show = added("Audience", "Room", "Recorder, recorder, programme")
    assert [x.kind for x in show.listeners] == ["audience", "room", "recorder"]
    assert show.people == () and show.sounds == () and show.listeners[2].detail == "programme"


def test_playback_is_electrical_stereo_and_of_nobody():
    sound = added("Effects, playback, stereo").sounds[0]
    assert (sound.unit, sound.channels, sound.person, sound.private) == ("dBFS", 2, None, False)
    assert (sound.width, sound.sides) == (None, "yes")
    room = added("Room, ambience, stereo 40 %, 55 dB").sounds[0]
    assert (room.channels, room.width, room.sides, room.level) == (2, 0.4, "40 %", 55.0)


def test_talkback_and_phone_are_private():
    show = added("Quill, talkback, operator", "Phone, phone")
    assert [s.private for s in show.sounds] == [True, True]


def test_one_person_may_make_two_sounds():
    show = added("Teo, voice, instrument, performer, 82 dB")
    assert [s.name for s in show.sounds] == ["Teo, voice", "Teo, instrument"] and len(show.people) == 1
    assert {s.level for s in show.sounds} == {82.0}


def test_the_same_person_again_is_the_same_person():
    show = added("Teo, voice, performer", "Teo, instrument")
    assert len(show.people) == 1 and {s.person for s in show.sounds} == {"teo"}
    assert [s.id for s in show.sounds] == ["teo", "teo-2"]


@pytest.mark.parametrize("line", ["", " , ", "Maren", "Maren, tall"])
def test_too_little_is_said(line):
    with pytest.raises(ShowError):
        read_brief(Show(), line)


def test_a_line_says_where():
    show = read_brief(Show(), "Maren, voice, host, in Museum hall").show
    assert [p.name for p in show.places] == ["Museum hall"]
    assert (show.sounds[0].place, show.listeners[0].place, show.listeners[0].detail) == (
        "museum-hall",
        "museum-hall",
        "",
    )
    assert len(read_brief(show, "Teo, voice, in museum HALL").show.places) == 1
