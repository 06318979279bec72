"""Compare and ask, in the window."""

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QMenu

from kymaton.core.checks.comparing import compare


def test_the_table_stands_beside_another_cue_and_follows(make_window, qtbot):
    window = make_window()
    qtbot.waitUntil(lambda: window.document.report is not None)
    document, view = window.document, window.hearing
    document.choose_cue("guest-talk")
    view.compare.click()
    menu = view.findChild(QMenu)
    next(a for a in menu.actions() if a.text() == "Song").trigger()
    menu.close()
    expected = compare(document.report.cues["guest-talk"], document.report.cues["song"])
    table = view.table.hearing
    show = document.show
    for row, sound in enumerate(show.sounds):
        for column, listener in enumerate(show.listeners):
            difference = expected.cell(listener.id, sound.id)
            assert table.other(table.index(row, column)) == (None if difference is None else difference.other)
    assert "on the right: Song" in view.about.text() and view.other_lanes.isVisible()
    index = table.index(3, 1)
    assert " In Song: " in table.data(index, Qt.ItemDataRole.ToolTipRole)
    document.choose_cue("song")  # beside itself: nothing differs
    assert not any(table.other(table.index(r, c)) for r in range(len(show.sounds)) for c in range(len(show.listeners)))
    view.beside.leave()
    assert not view.other_lanes.isVisible() and "on the right" not in view.about.text()


def test_what_is_proposed_is_seen_before_it_is_applied(make_window, qtbot):
    window = make_window()
    document, view = window.document, window.hearing
    document.choose_cue("guest-talk")
    window.propose()
    qtbot.waitUntil(lambda: view.proposal.proposal is not None and view.proposal.apply_all.isVisible())
    menu = QMenu()
    view.beside.fill(menu, view.proposal.proposal)
    next(a for a in menu.actions() if a.text() == "What is proposed").trigger()
    assert {c.form for c in view.beside.report.cells.values()} & {"own", "leaks", "twice"} == {"own"}  # a caution
    assert view.beside.comparison.cell("ilse", "ilse").other.form == "silent"
    assert document.cue_report.cells["ilse", "ilse"].form == "own" and document.is_clean


def test_a_question_is_answered_and_what_if_is_made_so(make_window, qtbot):
    window = make_window()
    qtbot.waitUntil(lambda: window.document.report is not None)
    window.document.choose_cue("guest-talk")
    window.finder.popup()
    qtbot.keyClicks(window.finder.line, "why does Ilse hear hers")
    assert window.finder.found[0].kind == "ask"
    qtbot.keyClicks(window.finder.line, "elf")
    qtbot.keyClick(window.finder.line, Qt.Key.Key_Return)
    answer = window.hearing.answer
    qtbot.waitUntil(lambda: answer.title.text() == "Why Ilse hears their own voice in Guest talk.")
    assert "Desk 9" in answer.text.text()
    answer.line.setText("what if desk 9 aux 1 closes")
    qtbot.keyClick(answer.line, Qt.Key.Key_Return)
    qtbot.waitUntil(answer.make_so.isVisible)
    answer.make_so.click()
    assert window.document.show.value("desk/ch9/send/aux1", None) == -90.0
    assert window.document.stack.undoText() == "desk 9 aux 1 closes"
    answer.ask("why is the sky blue")
    qtbot.waitUntil(lambda: "is no question that is understood" in answer.title.text())
    assert not answer.make_so.isVisible()


def test_a_cell_is_told_in_all_cues(make_window, qtbot):
    window = make_window()
    qtbot.waitUntil(lambda: window.document.report is not None)
    window.document.choose_cue("guest-talk")
    window.document.select("teo", "click")
    window.hearing._all_cues()
    menu = window.hearing.findChild(QMenu)
    assert len(menu.actions()) == len(window.document.show.cues)
    next(a for a in menu.actions() if a.text().startswith("Song: heard")).trigger()
    menu.close()
    assert window.document.cue_id == "song"


def test_sends_are_evened_out_for_the_listener_in_view(make_window, qtbot):
    window = make_window()
    qtbot.waitUntil(lambda: window.document.report is not None)
    window.document.choose_cue("guest-talk")
    window.document.select("teo", None)
    view = window.hearing
    view.even.click()
    proposal = view.proposal
    qtbot.waitUntil(lambda: proposal.title.text().startswith("Proposed: "))
    assert proposal.note.text().startswith("Voices equally loud at Teo") and proposal.music_below.isVisible()
    proposal.apply_all.click()
    qtbot.waitUntil(lambda: proposal.title.text() == "Teo hears all as loud as it should be")
    view.propose.click()
    qtbot.waitUntil(lambda: proposal.title.text() == "Proposed: 6 changes")
    assert not proposal.music_below.isVisible()


def test_a_countdown_is_found_added_and_undone(make_window, qtbot):
    window = make_window()
    qtbot.waitUntil(lambda: window.document.report is not None)
    told: list[str] = []
    window.document.message.connect(told.append)
    cues = len(window.document.show.cues)
    window.finder.popup()
    qtbot.keyClicks(window.finder.line, "countdown ilse")
    assert window.finder.found[0].name == "Countdown: Maren and Ilse alone"
    qtbot.keyClick(window.finder.line, Qt.Key.Key_Return)
    qtbot.waitUntil(lambda: len(window.document.show.cues) == cues + 1)
    assert window.document.cue_id == "countdown-with-ilse"
    assert told[-1].startswith("Maren and Ilse hear each other alone; ") and "Not possible here: Nadir" in told[-1]
    assert window.document.stack.undoText() == "add countdown: Maren and Ilse alone"
    window.document.stack.undo()
    assert len(window.document.show.cues) == cues
