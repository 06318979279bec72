"""What happens in time: who sounds when, and what a hand leaves as it set it."""

import pytest

from kymaton.core.checks.report import Report
from kymaton.core.model import ShowError
from kymaton.language.hand_actions import remove_recalls
from kymaton.language.script import build, read_any
from kymaton.language.telling import lines_of

RIG = """
Ada, voice, host
Bea, voice, host
Audience
add 2 dynamic mics as Mic
add desk 4 in 1 aux
add capture
add encoder
add switcher
add platform
ada > mic 1 0.1 m
bea > mic 2 0.1 m
mic 1-2 > desk 1-2
desk main > switcher mic 1
switcher programme > capture
capture > encoder
encoder > platform
platform > audience
set desk 1-2 gain to 45
set desk 1-2 to main to 0
open desk 1-2
cue Talk
cue Track
cue Questions
Audience must hear Ada, Bea
""".strip().splitlines()


def missed(lines, cue):
    report = Report(build([*RIG, *lines]))
    return {f.sound: f for f in report.cues[cue].findings if f.id == "missing"}


def test_what_is_silent_is_not_missed_and_what_may_sound_is_missed_less():
    muted = ["in Talk: mute desk 1"]
    assert missed([], "talk") == {}
    assert missed(muted, "talk")["ada"].severity == "fault"
    assert missed([*muted, "in Talk: Ada may sound"], "talk")["ada"].severity == "caution"
    assert missed([*muted, "in Talk: Ada is silent"], "talk") == {}
    assert missed([*muted, "in Track: Ada is silent"], "talk")["ada"].severity == "fault"


def test_what_is_silent_is_heard_by_nobody():
    show = build([*RIG, "Audience must not hear Bea", "in Track: Bea is silent"])
    report = Report(show)
    leaks = {c: [f for f in r.findings if f.id == "leak"] for c, r in report.cues.items()}
    assert len(leaks["talk"]) == 1 and leaks["track"] == []
    assert report.cues["track"].cells["audience", "bea"].form == "silent"
    assert report.cues["track"].view.paths("audience", "bea") == []


def test_what_is_said_to_sound_must_be_heard_though_nobody_hears_it():
    """Without a line of the plan a sound that nobody hears in a cue is taken as not played there."""
    rig = [line for line in RIG if "must hear" not in line]
    for told, many in (((), 0), (("in Track: Bea sounds",), 1)):
        report = Report(build([*rig, "in Track: mute desk 2", *told]))
        assert len([f for f in report.cues["track"].findings if f.id == "missing"]) == many


def test_what_a_hand_mutes_stays_muted_until_a_hand_opens_it_or_a_scene_is_recalled():
    by_scene, by_hand = ["in Track: mute desk 1"], ["in Track: Bea mutes desk 1, 2 s"]
    assert missed(by_scene, "questions") == {}
    still = missed(by_hand, "questions")["ada"]
    assert "set by hand in Track, and by nobody since" in still.reason and still.severity == "fault"
    assert missed([*by_hand, "in Questions: open desk 1 by hand"], "questions") == {}
    assert missed([*by_hand, "in Questions: recall desk"], "questions") == {}
    assert missed([*by_hand, "in Questions: open desk 1"], "questions") == {}
    taken_back = remove_recalls(build([*RIG, *by_hand, "in Questions: recall desk"]), "questions")
    assert "missing" in {f.id for f in Report(taken_back).cues["questions"].findings}


def test_what_a_hand_opens_leaks_afterwards_and_the_finding_says_since_when():
    lines = ["mute desk 2", "Audience may hear Bea", "in Track: open desk 2 by hand",
             "in Questions: Audience must not hear Bea"]  # fmt: skip
    (leak,) = [f for f in Report(build([*RIG, *lines])).cues["questions"].findings if f.id == "leak"]
    assert "set by hand in Track, and by nobody since" in leak.reason


def test_a_fix_of_what_a_hand_left_is_made_in_the_cue_where_it_stands():
    from kymaton.core.planning.fixes import find_fix

    report = Report(build([*RIG, "in Track: mute desk 1 by hand"]))
    found = tuple(f for f in report.cues["questions"].findings if f.id == "missing")
    fix = find_fix(report, found)
    assert fix is not None and [(c.cue, c.after) for c in fix.changes] == [("questions", False)]


def test_lines_tell_it_again():
    lines = ["in Track: Ada, Bea is silent", "in Talk: Ada sounds", "in Talk: Bea may sound",
             "in Track: mute desk 1 by hand", "in Questions: recall desk"]  # fmt: skip
    show = build([*RIG, *lines])
    told = lines_of(show)
    assert build(told) == show and not [line for line in told if line.startswith("exactly")]


@pytest.mark.parametrize(
    "line", ["in Talk: Zoe is silent", "in Talk: recall lamp", "in Talk: lamp sounds", "lamp to stage 3 m"]
)
def test_what_is_not_there_is_refused(line):
    with pytest.raises(ShowError, match="called"):
        read_any(build(RIG), line)
