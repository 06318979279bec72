"""What differs between two solved cues, held against the cells themselves."""

import json

from kymaton.cli.main import main
from kymaton.core.checks.comparing import all_cues, cell_text, compare, difference_text
from kymaton.core.checks.report import Report
from kymaton.core.edits.controls import Change, apply
from kymaton.language.script import read_any
from kymaton.store.showfile import read_show
from tests.shows import DEMO, HEALTHY, one_talker, setting

REPORT = Report(read_show(DEMO))


def test_a_cue_beside_itself_has_no_differences():
    for cue in REPORT.cues.values():
        found = compare(cue, cue)
        assert found.cells == () and found.only_one == () and found.only_other == ()


def test_what_differs_is_told_and_the_rest_is_not():
    one, other = REPORT.cues["guest-talk"], REPORT.cues["song"]
    found = compare(one, other)
    for key, cell in one.cells.items():
        beside = other.cells[key]
        same = (cell.form, cell.severity) == (beside.form, beside.severity) and (
            cell.level == beside.level or max(cell.level, beside.level) < -200
        )
        assert not same or found.cell(*key) is None or found.cell(*key).one_first_ms != found.cell(*key).other_first_ms
        if (cell.form, cell.severity) != (beside.form, beside.severity):
            assert found.cell(*key) is not None
    assert {c.sentence for c in found.only_one} & {c.sentence for c in one.cards}
    assert not {c.sentence for c in found.only_other} & {c.sentence for c in found.only_one}


def test_a_send_that_is_turned_is_one_cell_and_told_in_db():
    before = one_talker()
    after = setting(before, desk__ch1__send__aux2=-12.0)
    one, other = Report(before).cues[None], Report(after).cues[None]
    found = compare(one, other)
    assert [difference_text(one, d) for d in found.cells] == ["Bob: Ann 6 dB softer"]
    assert compare(one, Report(setting(before, desk__ch1__send__aux2=-6.4)).cues[None]).cells == ()


def test_a_cell_in_all_cues_is_that_of_each_cue():
    told = all_cues(REPORT, "teo", "click")
    assert [name for name, _ in told] == [c.name for c in REPORT.show.cues]
    assert [cell for _, cell in told] == [c.cells["teo", "click"] for c in REPORT.cues.values()]
    assert {cell_text(cell).partition(",")[0] for _, cell in told} <= {"heard", "not heard", "missing"}


def test_the_command_line_compares_cues_variants_and_files(capsys, tmp_path):
    assert main(["compare", str(DEMO), "--cue", "guest-talk", "--with", "song"]) == 0
    said = capsys.readouterr().out
    assert said.startswith("Guest talk: ") and "  - Ilse and Nadir hear themselves\n" in said
    assert main(["compare", str(DEMO), str(HEALTHY), "--json"]) == 0
    told = json.loads(capsys.readouterr().out)["cues"]
    assert [c["cue"] for c in told] == [c.id for c in REPORT.show.cues] and not any(c["only_other"] for c in told)
    assert main(["compare", str(DEMO), str(DEMO)]) == 0
    assert {line.partition(": ")[2] for line in capsys.readouterr().out.splitlines()} == {"the same"}
    for words in ([], ["--with", "nowhere"], ["--variant", "snow"], [str(HEALTHY), "--with", "song"]):
        assert main(["compare", str(DEMO), *words]) == 2
        assert capsys.readouterr().err.count("\n") == 1


def test_a_variant_is_compared_with_the_plain_rig():
    show = read_any(read_any(REPORT.show, "variant Rain").show, "in variant Rain: mute desk 1").show
    report = Report(show)
    found = compare(report.cues["guest-talk"], report.variants["rain"].cues["guest-talk"])
    muted = apply(show, [Change(None, "desk/ch1/mute", False, True)])
    expected = compare(report.cues["guest-talk"], Report(muted).cues["guest-talk"])
    assert [(d.one, d.other) for d in found.cells] == [(d.one, d.other) for d in expected.cells] != []
