"""Variants: made by lines, told in words, compared with the plain rig."""

import pytest

from kymaton.cli.main import main
from kymaton.core.checks.report import Report
from kymaton.core.edits.controls import apply
from kymaton.core.edits.variants import in_variant
from kymaton.core.model import ShowError
from kymaton.core.planning.fixes import all_fixes, find_fix
from kymaton.language.script import build, read_any
from kymaton.language.telling import lines_of
from kymaton.language.variants import add_difference, add_variant, compare, differences, remove_variant
from kymaton.store.showfile import parse_show, read_show, show_bytes
from tests.shows import DEMO, HEALTHY


def test_a_variant_is_made_told_and_compared():
    show, id = add_variant(read_show(DEMO), "No echo")
    show = add_difference(show, id, "set desk 9 to aux 1 to closed")
    show = add_difference(show, id, "set desk 10 to aux 1 to closed")
    show = add_difference(show, id, "disconnect floor headphones")
    variant = show.variants[0]
    assert differences(show, variant) == [
        "Pull down desk 9 to aux 1",
        "Pull down desk 10 to aux 1",
        "Unplug Desk aux 5 from Floor headphones",
        "Unplug Floor headphones from Quill",
    ]
    assert parse_show(show_bytes(show), "x") == show
    beside = compare(Report(show))[0]
    assert beside.plain_faults == 58 and "Ilse hears their own voice 232 ms late" in beside.cures
    assert any("Quill does not hear" in s for s in beside.brings)
    assert beside.faults == 58 - 16 + sum(
        f.variant == id and f.severity == "fault" and f.cue is not None for f in Report(show).findings
    )
    assert remove_variant(show, id).variants == ()


@pytest.mark.parametrize(
    ("line", "said"),
    [
        ("rename desk to Front", "leaves Front as it is made"),
        ("replace desk by desk 32 in 8 aux", "leaves Desk as it is made"),
        ("talkback mic > desk 16", "one socket takes one plug"),
        ("set desk 16 to open", "so already"),
        ("nonsense", "a source"),
    ],
)
def test_what_is_no_difference(line, said):
    show, id = add_variant(read_show(DEMO), "V")
    with pytest.raises(ShowError, match=said):
        add_difference(show, id, line)


def test_names_are_needed_and_taken_once():
    show, _ = add_variant(read_show(DEMO), "Venue")
    for name in ("", "venue"):
        with pytest.raises(ShowError):
            add_variant(show, name)


RAIN = [
    "variant Rain",
    "in variant Rain: remove loudspeakers",
    "in variant Rain: add loudspeakers as Tent speakers",
    "in variant Rain: put tent speakers in Tide-gauge museum",
    "in variant Rain: desk aux 4 > tent speakers",
    "in variant Rain: tent speakers > room 3 m",
    "in variant Rain: mute desk 1",
    "in variant Rain: disconnect floor headphones",
]


def with_lines(lines, show=None):
    show = show or read_show(DEMO)
    for line in lines:
        show = read_any(show, line).show
    return show


def test_a_variant_takes_devices_away_and_has_some_of_its_own():
    show = with_lines(RAIN)
    rig = in_variant(show, show.variants[0])
    names = {d.name for d in rig.devices}
    assert "Tent speakers" in names and "Loudspeakers" not in names and rig.control("desk/ch1/mute").value is True
    assert [d.name for d in show.devices] == [d.name for d in read_show(DEMO).devices]
    assert "Connect Desk aux 4 to Tent speakers" in differences(show, show.variants[0])
    assert parse_show(show_bytes(show), "x") == show and build(lines_of(show)) == show
    brought = [f for f in Report(show).findings if f.variant == "rain" and f.severity == "fault"]
    assert any((f.id, f.sound) == ("missing", "maren") for f in brought)


def test_what_a_variant_names_and_the_rig_loses_goes_with_it():
    show = read_any(with_lines(RAIN), "remove desk").show
    assert show.variants[0].controls == {} and all("desk/" not in c.source for c in show.variants[0].cables)
    show = read_any(show, "remove loudspeakers").show
    assert show.variants[0].without == ()
    in_variant(show, show.variants[0])


def test_a_fix_of_what_a_variant_brings_changes_the_variant_alone():
    show = with_lines(["variant Quiet", "in variant Quiet: mute desk 1"], read_show(HEALTHY))
    report = Report(show)
    found = tuple(
        f
        for f in report.findings
        if f.variant == "quiet" and (f.id, f.cue, f.sound) == ("missing", "guest-talk", "maren")
    )
    assert found
    fix = find_fix(report, found)
    assert fix is not None and {c.variant for c in fix.changes} == {"quiet"}
    after = apply(show, fix.changes)
    assert after.devices == show.devices and after.cues == show.cues
    left = {f.key for f in Report(after).findings}
    assert left.isdisjoint(f.key for f in found) and found[0].key in all_fixes(report)


def test_check_says_in_which_variant_and_in_which_other_way_a_finding_stands(tmp_path, capsys):
    show = with_lines(
        ["variant Quiet", "in variant Quiet: mute desk 1", "way No platform", "in way No platform: remove platform",
         "way Gone", "in way Gone: remove recorder"]
    )  # fmt: skip
    show = read_any(show, "remove recorder").show
    path = tmp_path / "show.kymaton"
    path.write_bytes(show_bytes(show))
    main(["check", str(path)])
    said = capsys.readouterr().out
    assert "fault   Quiet, Guest talk: " in said and "Maren" in said
    assert "fault   Other way No platform, Rig: No lead reaches the audience" in said
    assert "caution Other way Gone: it cannot be done any more" in said
    main(["check", str(path), "--json"])
    import json

    content = json.loads(capsys.readouterr().out)
    assert {f["variant"] for f in content["findings"]} == {None, "quiet"}
    assert [w["way"] for w in content["ways"]] == ["no-platform", "gone"] and content["ways"][1]["trouble"]
