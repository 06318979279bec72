"""The proposal in the window: what cannot be is said with ways out that can be taken, and the search can be stopped."""

import time

from PyQt6.QtWidgets import QLabel, QPushButton

from kymaton.core.planning.planner import Proposal
from tests.core.planning.test_planner import two_guests_by_phone


def said(view) -> list[str]:
    return [x.text() for x in view.findChildren(QLabel) if x.isVisibleTo(view)]


def test_a_way_out_is_taken_and_undone(make_window, qtbot):
    window = make_window(None)
    window.document.edit(two_guests_by_phone(), "two guests")
    window.propose()
    view = window.hearing.proposal
    qtbot.waitUntil(lambda: view.proposal is not None and view.title.text() == "No setting does it")
    told = "Not possible, All cues: Ann-Ear can hear Ann: "
    qtbot.waitUntil(lambda: window.document.report is not None and any(t.startswith(told) for t in said(view)))
    name = "Apply: feed the headphones from desk aux 2"
    takes = [b for b in view.findChildren(QPushButton) if b.accessibleName() == name and b.isVisibleTo(view)]
    takes[0].click()
    qtbot.waitUntil(lambda: view.title.text() == "Nothing that can be set is wrong")
    assert window.document.stack.undoText() == "feed the headphones from desk aux 2"
    assert {c.source for c in window.document.show.cables if c.source.startswith("desk") and "phones" in c.target} == {
        "desk/aux1",
        "desk/aux2",
    }
    window.document.stack.undo()
    qtbot.waitUntil(lambda: view.title.text() == "No setting does it")


def test_the_demo_from_all_its_faults_to_none_by_proposals_alone_and_back(window, qtbot):
    """What is proposed, the delays that go with it, and the cards that are left; each step is undone again."""
    document = window.document
    qtbot.waitUntil(lambda: document.report is not None)
    by_hand = document.report.count("fault", step="load-in")
    first, before = document.show, document.report.count("fault")
    window.propose()
    view = window.hearing.proposal
    qtbot.waitUntil(lambda: view.apply_all.isVisible())
    view.apply_all.click()
    steps = 1
    while True:
        qtbot.waitUntil(lambda: document.report is not None)
        report = document.report
        faults = report.count("fault")
        assert faults < before
        if faults == by_hand:
            break
        before = faults
        cards = [*report.rig_cards, *(c for cue in report.cues.values() for c in cue.cards)]
        cards = [c for c in cards if c.step != "load-in"]
        found: list = []
        document.find_fix(next(c for c in cards if c.severity == "fault"), found.append)
        qtbot.waitUntil(lambda found=found: bool(found))
        assert found[0] is not None and not found[0].asked
        document.apply(found[0].changes, "what the card proposes")
        steps += 1
    assert steps <= 4 and document.report.count("fault") == by_hand == 4
    for _ in range(steps):
        document.stack.undo()
    assert document.show == first and document.is_clean


def test_a_search_is_stopped_and_changes_nothing(make_window, qtbot, monkeypatch):
    window = make_window(None)
    window.document.edit(two_guests_by_phone(), "two guests")

    def endless(report, most, going):
        while going():
            time.sleep(0.01)
        return Proposal((), (), (), True)

    qtbot.waitUntil(lambda: window.document.report is not None)
    monkeypatch.setattr("kymaton.app.hearing.proposal.propose", endless)
    window.propose()
    view = window.hearing.proposal
    qtbot.waitUntil(lambda: view.stop_button.isVisible())
    view.stop_button.click()
    qtbot.waitUntil(lambda: view.title.text() == "Nothing is proposed")
    qtbot.waitUntil(lambda: any(t.startswith("The search was ended before everything") for t in said(view)))
    assert not view.stop_button.isVisible() and window.document.stack.count() == 1
