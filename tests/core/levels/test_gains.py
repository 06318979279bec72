"""Gains that are proposed: by cue where a sound changes, and never at the cost of what must be heard."""

from kymaton.core.checks.report import Report
from kymaton.core.edits.controls import apply
from kymaton.core.levels.gains import propose_gains
from kymaton.core.model import Show
from kymaton.core.planning.planner import propose
from kymaton.language.script import build
from kymaton.store.showfile import read_show
from tests.core.checks.test_levels import DESK
from tests.shows import DEMO


def gains(show: Show) -> dict:
    return {(c.cue, c.control): c.after for c in propose_gains(Report(show)).changes}


def test_peaks_come_to_twelve_decibels_under_what_clips():
    """−44.8 dBu in peaks: 54 dB more are +9.2, of +22; with 30 dB it is 24 dB too low."""
    found = gains(build((*DESK, "set desk 1 gain to 30"), Show(title="x")))
    assert found[None, "desk/ch1/gain"] == 54.0
    assert gains(build((*DESK, "set desk 1 gain to 54"), Show(title="x"))).get((None, "desk/ch1/gain")) is None


def test_a_channel_with_talk_in_one_part_and_play_in_another_gets_two_gains():
    lines = ("Horn, instrument, 95 dB", *DESK, "horn > dynamic mic 0.1 m", "audience must hear horn", "cue Talk",
             "cue Play", "in Talk: horn is silent", "in Play: ada is silent", "set desk 1 gain to 40")  # fmt: skip
    show = build(lines, Show(title="x"))
    found = gains(show)
    assert found[None, "desk/ch1/gain"] == 25.0  # 29 dB louder than Ada, who gets 54
    assert found["talk", "desk/ch1/gain"] == 54.0
    after = Report(apply(show, propose_gains(Report(show)).changes))
    assert not [f for f in after.findings if f.id == "clips"]


def test_nothing_that_must_be_heard_gets_worse_on_the_demo():
    show = read_show(DEMO)
    report = Report(show)
    plan = propose_gains(report)
    before = {f.key for f in report.findings if f.severity == "fault"}
    after = Report(apply(show, plan.changes))
    assert {f.key for f in after.findings if f.severity == "fault"} <= before
    cured = apply(show, propose(report).changes)
    again = Report(apply(cured, propose_gains(Report(cured)).changes))
    assert {f.key for f in again.findings if f.severity == "fault"} <= before


def test_a_search_that_is_stopped_says_so():
    plan = propose_gains(Report(read_show(DEMO)), going=lambda: False)
    assert plan.ended
