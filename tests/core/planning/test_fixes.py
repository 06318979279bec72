"""What fixes are judged by, and how far the search for them goes."""

from kymaton.core.checks import find_all, find_watched, is_watched
from kymaton.core.checks.report import Report
from kymaton.core.planning.fixes import Effort, WhatIf, find_fix
from kymaton.store.showfile import read_show
from tests.shows import DEMO

REPORT = Report(read_show(DEMO))


def test_what_no_fix_may_bring_is_found_alike_alone_and_among_all():
    for cue in REPORT.cues.values():
        serious = [f for f in find_all(cue.view) if is_watched(f)]
        alone = list(find_watched(cue.view, {"leak"}))
        assert sorted(map(repr, alone)) == sorted(map(repr, serious))
        assert [f.id == "leak" for f in alone] == sorted((f.id == "leak" for f in alone), reverse=True)


def test_a_trial_ends_early_and_says_the_same_as_one_that_looks_at_all():
    trial, tried = WhatIf(REPORT), 0
    for cue in REPORT.cues.values():
        for card in cue.cards:
            fix = (
                find_fix(REPORT, card.findings) if card.severity == "fault" and not card.findings[0].settings else None
            )
            if fix is None or any(f.id.startswith("sound-") for f in card.findings):
                continue
            tried += 1
            wanted = {f.key for f in card.findings}
            after = trial.after(fix.changes)
            assert trial.cured(fix.changes, wanted, card.first.cue) == trial.before.keys() - after.keys()
            assert trial.cured((), wanted, card.first.cue) is None  # nothing changed, nothing cured
    assert tried > 10


def test_a_report_for_fixes_has_what_they_are_judged_by_and_no_more():
    lean = Report(REPORT.show, REPORT.graph, watched=True)
    for id, cue in lean.cues.items():
        assert [f for f in REPORT.cues[id].findings if is_watched(f)] == cue.findings
    assert lean.rig == REPORT.rig and not lean.variants


def test_a_search_without_effort_finds_nothing():
    card = next(c for r in REPORT.cues.values() for c in r.cards if c.first.id == "own-voice-back")
    effort = Effort(0)
    assert find_fix(REPORT, card.findings, effort=effort) is None and effort.spent
    assert find_fix(REPORT, card.findings, effort=Effort(100)) is not None
