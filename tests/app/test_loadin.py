"""The step Load-in, through the real widgets."""

from PyQt6.QtCore import Qt


def test_the_uplink_is_typed_judged_and_undone(window, qtbot):
    window.go("load-in")
    view, document = window.loadin, window.document
    rows = [[view.table.item(r, c).text() for c in range(4)] for r in range(view.table.rowCount())]
    assert rows[0][:3] == ["Uplink", "6.9 Mbit/s", "measure the line"] and rows[1][0] == "  call Call"
    view.line.setText("1 MB/s")
    qtbot.keyClick(view.line, Qt.Key.Key_Return)
    assert document.show.goals.uplink_bit_per_s == 8e6 and view.table.item(0, 2).text() == "does not fit"
    qtbot.waitUntil(lambda: document.report is not None)
    assert document.report.count("fault", step="load-in") == 1
    assert window.rail.buttons["load-in"].faults == 1
    view.line.setText("fast")
    qtbot.keyClick(view.line, Qt.Key.Key_Return)
    assert document.show.goals.uplink_bit_per_s == 8e6
    document.stack.undo()
    assert document.show.goals.uplink_bit_per_s is None


def test_an_uplink_over_time_says_who_stalls(window):
    window.go("load-in")
    view = window.loadin
    view.trace.setPlainText("20 s 8 Mbit/s, 10 s 1 Mbit/s, 60 s 8 Mbit/s")
    view.store.setValue(4.0)
    view.send()
    assert "stalls once, first after" in view.answer.text() or "stalls 1 time" in view.answer.text()
    assert "would not have stalled" in view.answer.text()
    view.trace.setPlainText("20,8\n10,7\n")
    view.send()
    assert "Nobody with 4 s in store stalls." in view.answer.text()
    view.trace.setPlainText("soon")
    view.send()
    assert "'soon' is no piece of an uplink" in view.answer.text()
