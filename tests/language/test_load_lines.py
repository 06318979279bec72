"""Lines about the load-in: what they say, what they take back, and what they cannot mean."""

import pytest

from kymaton.core.model import Show, ShowError
from kymaton.language.load_lines import lines_of_load
from kymaton.language.script import build, read_any
from kymaton.language.telling import lines_of

RIG = ("add desk 8 in 2 aux as Desk", "add laptop computer 2 usb as Laptop", "add viewer", "add encoder", "place Stage",
       "place Hall", "put desk in Stage")  # fmt: skip
KNOWN = (
    "strip A gives 230 V 10 A", "strip A hangs on circuit 1", "brick gives 12 V 2 A",
    "run Stage to Hall 12 m, 2 corners, up 3 m, crossing 2 m", "stock 4 XLR 10 m", "stock 2 XLR 10 m, to buy for 12",
    "stock 1 HDMI 15 m, borrowed, in box 2", "Desk main meets XLR, phono, 3.5 mm stereo",
    "uplink 20 Mbit/s, second 5 Mbit/s after 8 s",
)  # fmt: skip


def said(*lines: str) -> Show:
    return build([*RIG, *lines])


def test_all_that_is_known_is_told_again_and_each_line_can_be_taken_back():
    show = said(*KNOWN)
    lines = lines_of_load(show)
    assert [line for line, _ in lines] == list(KNOWN)
    assert build(lines_of(show)) == show
    for line, back in lines:
        left = [x for x, _ in lines_of_load(read_any(show, back).show)]
        assert left == [x for x in KNOWN if x != line], back


def test_what_is_said_anew_replaces_what_was_said():
    show = said("stock 4 XLR 10 m", "stock 6 XLR 10 m", "run Stage to Hall 12 m", "run Hall to Stage 15 m",
                "strip A gives 10 A", "strip A gives 16 A", "desk main meets XLR", "desk main meets phono")  # fmt: skip
    assert [s.many for s in show.stock] == [6] and [r.metres for r in show.runs] == [15.0]
    assert [s.amperes for s in show.supplies] == [16.0] and [m.sockets for m in show.meetings] == [("phono",)]
    named = said("power desk from Strip A", "strip a gives 10 A")
    assert [s.name for s in named.supplies] == ["Strip A"]  # as the device says it


def test_what_belongs_to_devices_and_is_taken_back():
    show = said("viewer runs on laptop", "desk has address 10.77.7.20", "desk is from Anna, back 2026-12-14, in box 1",
                "laptop is bought used", "encoder is a strong computer", "Laptop USB 1-2 share one bus")  # fmt: skip
    desk = show.device("desk")
    assert show.device("viewer").inside == "laptop" and desk.address == "10.77.7.20"
    assert (desk.owned, desk.gear.lender, desk.gear.back, desk.gear.case) == ("borrowed", "Anna", "2026-12-14", "box 1")
    assert show.device("laptop").gear.used and show.device("encoder").loads["encodes_mpx_s"].value == 600.0
    back = read_any(read_any(show, "viewer runs on nothing").show, "desk has address none").show
    assert back.device("viewer").inside is None and back.device("desk").address == ""
    assert not read_any(show, "laptop is bought new").show.device("laptop").gear.used
    assert build(lines_of(show)) == show


@pytest.mark.parametrize(
    ("line", "sentence"),
    [
        ("stock 5000 XLR 10 m", "5000 of them are not in stock"),
        ("stock 0 XLR 10 m", "No XLR of 10 m is in stock"),
        ("run Stage to Hall 12 m, 2 bends", "says nothing about a run"),
        ("run Stage to Stage 12 m", "is no run"),
        ("desk main meets sausage", "is no connector"),
        ("desk meets XLR", "Say which socket of it"),
        ("desk is from Anna, back 2026-02-31", "is not a date"),
        ("desk has address 10.77.7", "is no address"),
        ("desk has address 999.1.1.1", "is no address"),
        ("desk 1-2 share one bus", "Say which USB sockets"),
        ("viewer runs on the moon", "No device is called"),
        ("viewer runs on viewer", "inside itself"),
        ("strip A hangs on strip A", "hangs on itself"),
        ("strip A gives 0 A", "more than 0"),
        ("uplink 20 Mbit/s, second soon", "is no rate"),
        ("the moon is dead", "No device is called"),
        ("webcam usb current is 400 mA", "No device is called"),
        ("stock many leads", "Say: stock 4 XLR 10 m"),
        ("stock many, XLR", "Say: stock 4 XLR 10 m"),
        ("run Stage to Hall", "Say: run Stage to Desk 12 m"),
        ("desk gives", "Say: strip A gives 10 A"),
        ("strip A gives ten amps", "Say: strip A gives 10 A"),
        ("desk has address", "Say: desk has address"),
    ],
)
def test_what_makes_no_sense_is_refused_in_a_sentence(line, sentence):
    with pytest.raises(ShowError, match=sentence):
        read_any(said(), line)


def test_a_device_that_goes_takes_its_runs_and_meetings_with_it():
    show = said("run Desk to Hall 12 m", "desk main meets XLR", "desk is from Anna")
    gone = read_any(show, "remove desk").show
    assert gone.runs == () and gone.meetings == ()
