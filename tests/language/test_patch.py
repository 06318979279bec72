"""The patch line: what it connects, what it refuses in words, how it goes on."""

import pytest

from kymaton.catalogue.registry import KINDS, find_kind, make_device
from kymaton.core.edits import cables, devices
from kymaton.core.model import Show, ShowError
from kymaton.language.patch import completions, read_patch
from kymaton.store.showfile import read_show
from tests.shows import DEMO, build


def test_to_disconnect_an_input_leaves_the_output_of_the_same_number():
    show = build(
        "add dynamic mic", "add desk 2 in 2 aux", "add headphones", "dynamic mic > desk 1", "desk aux 1 > headphones"
    )
    assert [c.source for c in read_patch(show, "disconnect desk 1").show.cables] == ["desk/aux1"]
    assert [c.source for c in read_patch(show, "disconnect desk aux 1").show.cables] == ["dynamic-mic/out"]


def joined(show: Show) -> set[str]:
    return {f"{c.source} > {c.target}" for c in show.cables}


BASE = ("add dynamic mic", "add desk 8 in 2 aux", "add headphones", "add stage box 8 ch")


@pytest.mark.parametrize(
    ("line", "expected", "lead"),
    [
        ("ann > dynamic mic", {"sound/ann > dynamic-mic/capsule"}, ()),
        ("Dynamic Mic > Desk 3", {"dynamic-mic/out > desk/in3"}, ("XLR",)),
        ("dynamic mic > desk", {"dynamic-mic/out > desk/in1"}, ("XLR",)),
        ("desk aux 2 > headphones", {"desk/aux2 > headphones/in"}, ("TRS 6.3 mm",)),
        ("headphones > bob", {"headphones/ears > listener/bob"}, ()),
        ("stage box 1-3 > desk 4-6", {f"stage-box/out{n} > desk/in{n + 3}" for n in (1, 2, 3)}, ("XLR",)),
        ("stage box 1-3 > desk", {f"stage-box/out{n} > desk/in{n}" for n in (1, 2, 3)}, ("XLR",)),
        ("stage > desk 8", {"stage-box/out1 > desk/in8"}, ("XLR",)),
    ],
)
def test_what_a_line_connects(line, expected, lead):
    show = build(*BASE)
    patch = read_patch(show, line)
    assert joined(patch.show) == expected and patch.needs == lead
    assert patch.text.startswith("connect ")


def test_the_first_free_input_is_taken():
    show = build(*BASE, "dynamic mic > desk 1", "stage box 1 > desk")
    assert "stage-box/out1 > desk/in2" in joined(show)


def test_a_distance_is_said_behind():
    show = build(*BASE, "ann > dynamic mic 0.3 m")
    assert show.cables[0].length_m == 0.3 and show.cables[0].kind == "air"


@pytest.mark.parametrize(
    ("line", "said"),
    [
        ("", "Type what goes where"),
        ("desk", "a source, >, and a target"),
        ("desk > ", "a source, >, and a target"),
        ("nobody > desk", "Nothing here is called 'nobody'"),
        ("dynamic mic > desk 99", "has no input '99'"),
        ("headphones > dynamic mic > desk", "a source, >, and a target"),
        ("stage box 1-3 > desk 1-2", "3 outputs do not go into 2 inputs"),
        ("dynamic mic > headphones > x", "a source"),
        ("disconnect desk 1", "Nothing is connected there"),
        ("dynamic mic 1-999999 > desk", "has no output"),
    ],
)
def test_what_cannot_be_done_is_said_in_one_sentence(line, said):
    with pytest.raises(ShowError, match=said) as caught:
        read_patch(build(*BASE), line)
    assert "\n" not in str(caught.value)


def test_a_connector_that_cannot_meet_is_refused_and_an_adapter_is_named():
    show = build(*BASE, "add camera", "add switcher", "add record mixer")
    with pytest.raises(ShowError, match="there is no lead for it"):
        read_patch(show, "camera > desk 1")
    assert read_patch(show, "record mixer record out left > desk 1").needs == ("phono to TS",)
    assert read_patch(show, "camera > switcher").needs == ("HDMI",)


def test_disconnect_by_both_ends_or_by_one():
    show = build(*BASE, "stage box 1-3 > desk 1-3")
    assert joined(read_patch(show, "disconnect stage box 1 > desk 1").show) == {
        "stage-box/out2 > desk/in2", "stage-box/out3 > desk/in3",
    }  # fmt: skip
    assert joined(read_patch(show, "disconnect desk 2").show) == {
        "stage-box/out1 > desk/in1",
        "stage-box/out3 > desk/in3",
    }
    assert read_patch(show, "disconnect stage box").text == "disconnect 3 leads"


def test_completion_knows_names_and_free_ports_first():
    show = build(*BASE, "dynamic mic > desk 1")
    assert completions(show, "dyn") == ["Dynamic mic"]
    found = completions(show, "stage box 1 > desk ")
    assert found[0] == "stage box 1 > Desk 2" and found[-1] == "stage box 1 > Desk 1"
    assert "Ann" in completions(show, "") and "ann > Bob" in completions(show, "ann > b")


def test_a_lead_that_splits_brings_left_and_right():
    show = build("add call computer", "add desk 4 in 1 aux", "call computer headphones > desk 1-2")
    assert [(c.target, c.channels) for c in show.cables] == [("desk/in1", ((1, 1),)), ("desk/in2", ((2, 1),))]


def test_the_longest_name_wins():
    show = read_show(DEMO)
    patch = read_patch(
        cables.disconnect(show, ["call-computer-headphones-to-desk-in9"]), "call computer headphones > desk 9"
    )
    assert joined(patch.show) == joined(show) and patch.needs == ("3.5 mm to 2 x TS",)


# the catalogue


@pytest.mark.parametrize("kind", KINDS, ids=lambda k: k.words)
def test_every_kind_makes_a_device_that_a_show_can_hold(kind):
    device = make_device(kind.words, ())
    show = devices.add_device(Show(), device)
    assert show.device(device.id).name == kind.name
    assert {p.direction for p in device.ports} <= {"in", "out"} and (device.routes or device.kind == "remote")
    for control in device.controls:
        assert control.name and control.id.startswith(device.id)
    again = devices.add_device(show, make_device(kind.words, [device.id]))
    assert len(again.devices) == 2


def test_numbers_and_names_are_read():
    device = make_device("desk 24 in 8 aux as Monitor desk", ())
    assert (device.id, device.name, device.detail) == ("monitor-desk", "Monitor desk", "24 in, 8 aux")
    assert make_device("DESK", ()).name == "Desk" and find_kind("call computer").words == "call computer"


@pytest.mark.parametrize(
    ("text", "said"),
    [
        ("theremin", "nothing called 'theremin'"),
        ("desk 4 dogs", "takes in, aux, ms, not 'dogs'"),
        ("desk 900 in", "more than Kymaton can lay out"),
        ("desk blue", "'blue' says nothing"),
    ],
)
def test_what_the_catalogue_does_not_know_is_said(text, said):
    with pytest.raises(ShowError, match=said):
        make_device(text, ())
