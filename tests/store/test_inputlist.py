"""Input lists: any order, any separator, several habits of naming; out again without anything that runs."""

import csv

import pytest

from kymaton.core.checks.report import Report
from kymaton.core.errors import FileError
from kymaton.core.model import Show, ShowError
from kymaton.store.inputlist import (
    add_inputs,
    input_list_rows,
    parse_input_list,
    pick_up_kind,
    read_input_list,
    write_input_list,
)
from kymaton.store.showfile import read_show
from tests.shows import DEMO, build

COMMA = """Ch,Name,Instrument,Mic/DI,Stand,48V,Remarks
1,Ada,Voice,dynamic,boom,,lead
2,Bo,Fiddle,Condenser clip,,x,
4,,Laptop L,DI,,,
"""
SEMICOLON = "\ufeffMikrofon;Name;Kanal\nKondensator;Chor;3\n;Ansage voice;\n"


def test_columns_in_any_order_and_habit():
    inputs = parse_input_list(COMMA, "a.csv")
    assert inputs.meaning == ("channel", "name", "source", "microphone", "stand", "phantom", "note")
    other = parse_input_list(SEMICOLON.lstrip("\ufeff"), "a.csv")
    assert other.meaning == ("microphone", "name", "channel")
    assert other.fields()[0] == {"microphone": "Kondensator", "name": "Chor", "channel": "3"}


def test_a_meaning_can_be_changed_and_is_there_once():
    inputs = parse_input_list("Name,Thing\nAda,Voice\n", "a.csv")
    assert inputs.meaning == ("name", None)
    changed = inputs.with_meaning(1, "name")
    assert changed.meaning == (None, "name") and changed.fields() == [{"name": "Voice"}]


def test_a_list_makes_sounds_pick_ups_and_leads():
    show = add_inputs(Show(), parse_input_list(COMMA, "a.csv"))
    assert [(s.name, s.kind) for s in show.sounds] == [("Ada", "voice"), ("Bo", "instrument"), ("Laptop L", "playback")]
    leads = {c.target: c.source.partition("/")[0] for c in show.cables if c.target.startswith("desk/")}
    assert leads == {"desk/in1": "ada-mic", "desk/in2": "bo-mic", "desk/in4": "laptop-l-di"}
    assert show.device("bo-mic").detail == "condenser" and show.device("desk").detail == "8 in, 6 aux"
    assert Report(show).count("fault") == 0


def test_a_list_goes_into_the_desk_that_is_there():
    show = build("add desk 4 in 1 aux")
    assert len(add_inputs(show, parse_input_list("Name\nOne\nTwo\n", "a.csv")).devices) == 3
    with pytest.raises(ShowError, match="Desk has no channel 9"):
        add_inputs(show, parse_input_list("Ch,Name\n9,Nine\n", "a.csv"))
    full = add_inputs(show, parse_input_list("Ch,Name\n1,One\n", "a.csv"))
    with pytest.raises(ShowError, match="Desk 1 is taken"):
        add_inputs(full, parse_input_list("Ch,Name\n1,Again\n", "a.csv"))


@pytest.mark.parametrize(
    ("text", "said"),
    [("", "no list"), ("a,b\n1,2\n", "line 1"), ("Name\n" + "x\n" * 300, "more than 256"), ("Name\n\0", "no list")],
)
def test_what_is_no_list_is_refused(text, said):
    with pytest.raises(FileError, match=said):
        parse_input_list(text, "a.csv")


def test_files_in_two_encodings(tmp_path):
    path = tmp_path / "a.csv"
    for data in (SEMICOLON.encode(), "Name;Quelle\nJörg;Flöte\n".encode("cp1252")):
        path.write_bytes(data)
        assert read_input_list(path).rows
    with pytest.raises(FileError, match="cannot be read"):
        read_input_list(tmp_path / "none.csv")


@pytest.mark.parametrize(
    ("text", "kind"),
    [
        ("DI", "di 1 ch"),
        ("Radio headset", "wireless mic"),
        ("lav", "clip-on mic"),
        ("", "dynamic mic"),
        ("display", "dynamic mic"),
    ],
)
def test_pick_ups_are_understood(text, kind):
    assert pick_up_kind(text, electrical=False) == kind


def test_export_and_what_a_spreadsheet_might_run(tmp_path):
    show = read_show(DEMO)
    rows = input_list_rows(show)
    assert [r["channel"] for r in rows][:4] == ["1", "2", "3", "5"]
    assert rows[0] == {
        "channel": "1", "name": "Maren", "source": "Table mic", "microphone": "dynamic",
        "stand": "", "phantom": "", "note": "",
    }  # fmt: skip
    assert rows[1]["phantom"] == "48 V"
    evil = show.evolve(sounds=tuple(s.evolve(name="=1+1") for s in show.sounds))
    path = tmp_path / "out.csv"
    assert write_input_list(evil, path) == len(rows)
    with path.open(newline="") as file:
        names = [r["name"] for r in csv.DictReader(file)]
    assert all(not n.startswith("=") for n in names)


def test_what_is_written_can_be_read_again(tmp_path):
    path = tmp_path / "out.csv"
    write_input_list(read_show(DEMO), path)
    again = add_inputs(build("add desk 16 in 6 aux"), read_input_list(path))
    assert {c.target for c in again.cables if c.target.startswith("desk/in")} == {
        f"desk/in{r['channel']}" for r in input_list_rows(read_show(DEMO))
    }
