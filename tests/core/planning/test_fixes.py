"""What fixes are judged by, and how far the search for them goes."""

from kymaton.core.checks import find_all, find_watched, is_watched
from kymaton.core.checks.report import Report
from kymaton.core.edits.controls import apply
from kymaton.core.planning.fixes import find_fix
from kymaton.core.planning.search import Effort, Search
from kymaton.store.showfile import read_show
from tests.shows import DEMO

REPORT = Report(read_show(DEMO))


def test_what_no_fix_may_bring_is_found_alike_alone_and_among_all():
    for cue in REPORT.cues.values():
        serious = [f for f in find_all(cue.view) if is_watched(f)]
        alone = list(find_watched(cue.view, {"leak"}))
        assert sorted(map(repr, alone)) == sorted(map(repr, serious))
        assert [f.id == "leak" for f in alone] == sorted((f.id == "leak" for f in alone), reverse=True)


def test_what_a_fix_cures_is_gone_and_nothing_else_came():
    """Told by the search, held against a report made anew."""
    before, tried = Search(REPORT).after(()), 0
    for cue in REPORT.cues.values():
        for card in cue.cards:
            fix = find_fix(REPORT, card.findings) if card.severity == "fault" else None
            if fix is None:
                continue
            tried += 1
            left = {f.key: f.severity for f in Report(apply(REPORT.show, fix.changes)).findings if f.severity != "note"}
            known = {key: severity for key, severity in left.items() if key in before or key[0] != "canceller-needed"}
            assert Search(REPORT).after(fix.changes).items() <= known.items()
            assert left.keys().isdisjoint(f.key for f in fix.cures if left.get(f.key) == f.severity)
    assert tried > 10


def test_a_report_for_fixes_has_what_they_are_judged_by_and_no_more():
    lean = Report(REPORT.show, REPORT.graph, watched=True)
    for id, cue in lean.cues.items():
        assert [f for f in REPORT.cues[id].findings if is_watched(f)] == cue.findings
    assert lean.rig == REPORT.rig


def test_a_search_without_effort_finds_nothing():
    card = next(c for r in REPORT.cues.values() for c in r.cards if c.first.id == "own-voice-back")
    effort = Effort(0)
    assert find_fix(REPORT, card.findings, effort=effort) is None and effort.spent
    assert find_fix(REPORT, card.findings, effort=Effort(100)) is not None
