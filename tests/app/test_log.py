"""The logbook in the real window: lines by themselves, notes, copies, other shows."""

import csv

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QGuiApplication, QKeySequence

from kymaton.store.logbook import Entry
from tests.app.test_recordings import press, texts


def shown(view) -> list[str]:
    return [view.table.item(row, 4).text() for row in range(view.table.rowCount())]


def test_notes_and_what_was_entered_stand_in_the_logbook(window, qtbot, tmp_path):
    window.document.logbook.add(Entry("2026-01-01T10:00:00", "Another show", "", "note", "long ago"))
    qtbot.keyClick(window, Qt.Key.Key_7, Qt.KeyboardModifier.AltModifier)
    view = window.log
    assert view.isVisible() and not window.findings.isVisible() and shown(view) == []
    assert any("Nothing is in it yet" in t for t in texts(view))
    qtbot.keyClicks(view.note, "Camera B was moved")
    qtbot.keyClick(view.note, Qt.Key.Key_Return)
    assert shown(view) == ["Camera B was moved"] and view.note.text() == ""
    assert view.table.item(0, 2).text() == "Guest talk"
    qtbot.keyClick(view.note, Qt.Key.Key_Return)  # nothing typed, nothing written
    window.go("sync")
    assert window.findings.isVisible()
    qtbot.waitUntil(lambda: bool(window.sync.boxes))
    press(qtbot, window.sync, "Enter the chosen delays")
    window.go("log")
    assert len(shown(view)) == 2 and "delay" in shown(view)[0]
    view.all_shows.setChecked(True)
    assert shown(view)[-1] == "long ago" and not view.table.isColumnHidden(1)
    view.table.selectRow(1)
    view.table.setFocus()
    qtbot.keySequence(view.table, QKeySequence(QKeySequence.StandardKey.Copy))
    assert QGuiApplication.clipboard().text().endswith("Camera B was moved")
    press(qtbot, view, "Forget")
    assert len(shown(view)) == 3 and view.forget_button.text() == "Press again: this line, for good"
    view.table.selectRow(0)
    assert view.forget_button.text() == "Forget"  # other lines, asked anew
    view.table.selectRow(2)
    view.table.setFocus()
    qtbot.keyClick(view.table, Qt.Key.Key_Delete)
    qtbot.keyClick(view.table, Qt.Key.Key_Delete)
    assert len(shown(view)) == 2 and "long ago" not in shown(view)
    press(qtbot, view, "Forget")
    assert any("Choose the lines first" in t for t in texts(window))
    view.write_csv(tmp_path / "log.csv")
    assert len(list(csv.reader((tmp_path / "log.csv").read_text().splitlines()))) == 3
    window.document.stack.undo()
    assert len(shown(view)) == 2  # what happened has happened


def test_a_broken_logbook_is_told_and_disturbs_nothing(window, qtbot, tmp_path):
    book = window.document.logbook.path
    book.parent.mkdir(parents=True, exist_ok=True)
    book.write_bytes(b"no logbook, whatever it says" * 100)
    window.go("log")
    assert any("no logbook any more" in t for t in texts(window))
    window.document.log("note", "a new one")
    assert shown(window.log) == ["a new one"]
