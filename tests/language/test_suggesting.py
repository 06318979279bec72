"""Clean returns: who sees themselves late, and the other way that is suggested for it."""

from kymaton.core.checks import Finding
from kymaton.core.checks.report import Report
from kymaton.core.edits.controls import apply
from kymaton.core.model import Show
from kymaton.core.planning.fixes import find_fix
from kymaton.core.signal.picture import picture_arrival
from kymaton.language.alternatives import applied, cheapest, weigh_all
from kymaton.language.script import build, read_any
from kymaton.language.starters import GUEST, TALK
from kymaton.language.suggesting import suggested

SEEN_BY_GUS = (
    "Ada, voice, host", "Audience", "Card, recorder, programme", GUEST, *TALK, "call computer hdmi > switcher hdmi 2",
    "call guest 1 screen > gus", "add capture as Return", "return usb > call computer camera", "cue Talk", "cue Song",
    "in Talk: on air switcher hdmi 2", "in Song: on air switcher hdmi 1",
)  # fmt: skip
BY_THE_SECOND = ("disconnect recorder", "switcher programme 2 > return")
BY_A_SPLITTER = (
    "disconnect capture hdmi", "disconnect recorder", "add HDMI splitter", "switcher programme > hdmi splitter",
    "hdmi splitter 1 > capture", "hdmi splitter 2 > return",
)  # fmt: skip


def late(report: Report) -> list[Finding]:
    return [f for f in report.findings if f.id == "own-picture-late"]


def test_who_is_in_the_picture_on_air_sees_it_come_back():
    show = build((*SEEN_BY_GUS, *BY_THE_SECOND), Show(title="x"))
    (finding,) = late(Report(show))
    assert (finding.cue, finding.listener, finding.severity) == ("talk", "gus", "caution")  # Ada's camera in Song
    # call 150, HDMI of the call computer 30, switcher 40, return capture 60, call computer 40, call 150
    assert finding.evidence["delay_ms"] == 470.0
    silent = show.evolve(cues=(show.cues[0].evolve(sounding={"gus": "silent"}), show.cues[1]))
    assert not late(Report(silent))


def test_a_setting_gives_another_picture_where_that_does_it_and_the_delays_that_it_takes():
    show = build((*SEEN_BY_GUS, *BY_THE_SECOND), Show(title="x"))
    report = Report(show)
    fix = find_fix(report, tuple(late(report)))
    assert fix is not None and ("switcher/program2/takes", "HDMI 1") in {(c.control, c.after) for c in fix.changes}
    after = apply(show, fix.changes)
    assert not late(Report(after))
    seen = picture_arrival(after, after.cue("talk"), "gus")
    assert seen is not None and seen.camera == "camera"


def test_a_lead_that_is_moved_leaves_what_all_others_see():
    show = build((*SEEN_BY_GUS, *BY_A_SPLITTER), Show(title="x"))
    report = Report(show)
    (finding,) = late(report)
    assert "plug switcher programme 2 into return HDMI instead" in finding.remedy
    (way,) = suggested(report)
    assert way.name == "Clean return for Gus" and way.lines[-1] == "set switcher programme 2 takes to HDMI 1"
    there = applied(show, way)
    assert not late(Report(there))
    for cue in show.cues:  # the audience sees what it saw
        before, after = (picture_arrival(s, s.cue(cue.id), "audience") for s in (show, there))
        assert before is not None and after is not None and before.source == after.source
    entered = show.evolve(alternatives=(way,))
    assert not list(suggested(Report(entered)))  # said once


def test_no_clean_return_is_made_up_where_no_output_is_free():
    # the recorder keeps the second output
    lines = [line for line in (*SEEN_BY_GUS, *BY_A_SPLITTER) if line != "disconnect recorder"]
    report = Report(build(lines, Show(title="x")))
    (finding,) = late(report)
    assert not finding.settings and "another picture, or none" in finding.remedy
    assert not list(suggested(report))


def test_an_isolator_is_suggested_against_hum_and_cures_it():
    hums = build(("add player", "add mixer 2 in 1 aux", "player left > mixer 1", "power player from strip A",
                  "power mixer from strip B"))  # fmt: skip
    [way] = suggested(Report(hums))
    assert way.name == "Isolator from Player out to Mixer 1" or "Isolator" in way.name
    assert "hum-between-supplies" not in {f.id for f in Report(applied(hums, way)).rig}


def test_what_carries_a_picture_further_is_suggested_and_reaches():
    far = build(("picture 1080p25", "add camera", "add switcher", "camera > switcher HDMI 1 25 m"))
    ways = list(suggested(Report(far)))
    assert [w.name for w in ways] == ["From Camera HDMI by SDI", "From Camera HDMI by twisted pair"]
    for way in ways:
        after = applied(far, way)
        assert "run-too-long" not in {f.id for f in Report(after).rig}, way
        assert sum(d.owned == "to buy" for d in after.devices) == 2
        assert sum(c.length_m for c in after.cables if c.kind in ("SDI", "network")) == 25.0


def test_the_cheapest_of_the_ways_with_the_fewest_faults():
    show = build((*SEEN_BY_GUS, *BY_THE_SECOND), Show(title="x"))
    show = read_any(show, "way Dear").show
    for line in ("in way Dear: add desk 16 in 6 aux as New", "in way Dear: buy New"):
        show = read_any(show, line).show
    assert cheapest(weigh_all(show)) is None  # nobody said what it costs
    priced = read_any(show, "stock 1 HDMI 5 m, to buy for 12").show
    best = cheapest(weigh_all(priced))
    assert best is not None and best.name == "As it is" and best.to_pay == 12.0
