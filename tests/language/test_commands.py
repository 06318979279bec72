"""The line on the map beyond patching: set, rename, replace, and how it goes on."""

import pytest

from kymaton.core.model import Cue, ShowError
from kymaton.language.commands import read_command, read_value, suggestions
from kymaton.store.showfile import read_show
from tests.shows import DEMO, build, with_cues


def after(*lines: str):
    show = build()
    for line in lines:
        show = read_command(show, line).show
    return show


def test_devices_are_made_renamed_doubled_replaced_and_removed():
    show = after("add desk 4 in 1 aux", "add desk 4 in 1 aux", "rename desk 2 to Back desk")
    assert [d.name for d in show.devices] == ["Desk", "Back desk"]
    show = read_command(show, "replace back desk by mixer 2 in 1 aux").show
    assert show.device("desk-2").name == "Back desk" and show.device("desk-2").detail.startswith("analogue")
    show = read_command(show, "duplicate desk").show
    assert [d.name for d in show.devices][-1] == "Desk 3"
    assert len(read_command(show, "remove Desk").show.devices) == 2


def test_a_control_is_set_where_its_value_stands():
    show = with_cues(
        build("add desk 2 in 1 aux"), Cue(id="a", name="A", controls={"desk/ch1/mute": True}), Cue(id="b", name="B")
    )
    in_cue = read_command(show, "set desk 1 to open", "a").show
    assert in_cue.cue("a").controls["desk/ch1/mute"] is False and in_cue.control("desk/ch1/mute").value is False
    in_base = read_command(show, "set desk 1 to muted", "b").show
    assert in_base.control("desk/ch1/mute").value is True and "desk/ch1/mute" not in in_base.cue("b").controls


@pytest.mark.parametrize(
    ("control", "text", "value"),
    [
        ("desk/ch1/send/aux1", "-6", -6.0),
        ("desk/ch1/send/aux1", "\u22126 dB", -6.0),
        ("desk/ch1/send/aux1", "closed", -90.0),
        ("desk/ch1/mute", "muted", True),
        ("desk/ch1/mute", "open", False),
        ("call/canceller", "ON", "on"),
        ("switcher/mic1/delay", "200 ms", 200.0),
        ("call-computer/microphone", "off", False),
    ],
)
def test_values_as_people_type_them(control, text, value):
    assert read_value(read_show(DEMO).control(control), text) == value


@pytest.mark.parametrize(
    ("line", "said"),
    [
        ("set desk 1 gain", "to, a value"),
        ("set nothing to 3", "No control is called"),
        ("set desk 1 gain to loud", "not a number"),
        ("set desk 1 gain to nan", "not a number"),
        ("set desk 1 gain to 400", "outside"),
        ("set desk 1 to perhaps", "is muted or open"),
        ("set call processing to off", "voice, original sound"),
        ("rename desk", "the new name"),
        ("rename nobody to x", "No device is called"),
        ("replace desk", "by, a kind"),
        ("replace desk by harp", "nothing called 'harp'"),
        ("remove", "Say what to remove"),
        ("add", "Say what to add"),
        ("add harp", "nothing called 'harp'"),
    ],
)
def test_what_makes_no_sense_is_said(line, said):
    with pytest.raises(ShowError, match=said):
        read_command(read_show(DEMO), line)


@pytest.mark.parametrize(
    ("line", "found"),
    [
        ("add de", "add desk"),
        ("add mic", "add dynamic mic"),
        ("rename tab", "rename Table mic to "),
        ("remove call", "remove Call computer"),
        ("set desk 9 to aux 1", "set desk 9 to aux 1 to "),
        ("replace desk by mix", "replace desk by mixer"),
        ("disc", "disconnect "),
        ("table mic > des", "table mic > Desk"),
    ],
)
def test_how_a_line_goes_on(line, found):
    assert found in suggestions(read_show(DEMO), line)


def test_an_empty_line_suggests_names():
    assert "Maren" in suggestions(read_show(DEMO), "")


def test_a_name_that_is_nearly_right_is_offered():
    show = build("add desk 2 in 1 aux", "add dynamic mic")
    for line, meant in (
        ("dynamc mic > desk 1", "Dynamic mic"), ("remove dsk", "Desk"), ("set desk 1 gian to 3", "desk 1 gain"),
    ):  # fmt: skip
        with pytest.raises(ShowError, match=f"Did you mean {meant}"):
            read_command(show, line)
    with pytest.raises(ShowError) as nothing:
        read_command(show, "remove lighthouse")
    assert "mean" not in str(nothing.value)
