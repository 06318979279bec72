"""The step Load-in, through the real widgets."""

import json

from PyQt6.QtCore import Qt

from kymaton.app.settings import Settings
from kymaton.app.widgets.findings import CardView, evidence_lines
from kymaton.core.checks.report import Report
from kymaton.language.script import build
from kymaton.store.showfile import write_show
from tests.core.checks.test_wiring import CASES
from tests.language.test_missing import TALK


def test_the_uplink_is_typed_judged_and_undone(window, qtbot):
    window.go("load-in")
    view, document = window.loadin.budgets, window.document
    rows = [[view.table.item(r, c).text() for c in range(4)] for r in range(view.table.rowCount())]
    assert rows[0][:3] == ["Uplink", "8 Mbit/s", "▲ does not fit"] and rows[1][0].strip() == "call Call"
    view.line.setText("3 MB/s")
    qtbot.keyClick(view.line, Qt.Key.Key_Return)
    assert document.show.goals.uplink_bit_per_s == 24e6
    qtbot.waitUntil(lambda: view.table.item(0, 2).text() == "fits")
    qtbot.waitUntil(lambda: document.report is not None)
    assert document.report.count("fault", step="load-in") == 3
    assert window.rail.buttons["load-in"].faults == 3
    view.line.setText("fast")
    qtbot.keyClick(view.line, Qt.Key.Key_Return)
    assert document.show.goals.uplink_bit_per_s == 24e6
    document.stack.undo()
    assert document.show.goals.uplink_bit_per_s == 6e6


def test_an_uplink_over_time_says_who_stalls(window):
    window.go("load-in")
    window.loadin.show_page("uplink")
    view = window.loadin.uplink
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
    assert "'soon' is no piece of an uplink" in view.answer.text() and view.curve.sent is None
    view.ready["mobile"].click()
    assert view.curve.sent is not None and "the buffer holds up to" in view.answer.text()
    assert view.curve.grab().width()


def test_what_is_known_is_said_in_a_line(window, qtbot):
    window.go("load-in")
    view, document = window.loadin, window.document
    view.say.setText("stock 2 HDMI 15 m")
    qtbot.keyClick(view.say, Qt.Key.Key_Return)
    assert document.show.stock[-1].length_m == 15.0 and view.say.text() == ""
    assert view.answer.text() == "Said: stock 2 HDMI 15 m. Undo takes it back." and view.answer.isVisible()
    view.say.setText("stock many leads")
    qtbot.keyClick(view.say, Qt.Key.Key_Return)
    assert view.answer.text().startswith("Say: stock 4 XLR 10 m") and view.say.text() == "stock many leads"
    view.say.clear()
    qtbot.keyClicks(view.say, "camera b d")
    assert view.say.list.isVisible() and view.say.list.item(0).text() == "Camera B did not come"
    view.say.clear()
    qtbot.keyClicks(view.say, "encoder sen")
    qtbot.keyClick(view.say, Qt.Key.Key_Tab)
    qtbot.keyClicks(view.say, "5 Mbit/s")
    qtbot.keyClick(view.say, Qt.Key.Key_Return)
    assert document.show.device("encoder").loads["sends_mbit_s"].value == 5.0 and view.answer.isVisible()
    document.stack.undo()
    assert not view.answer.isVisible()  # undo would take back another step now
    document.stack.undo()
    assert all(s.length_m != 15.0 or s.kind != "HDMI" for s in document.show.stock)


def test_plugs_are_moved_as_the_plan_says(window, qtbot):
    window.go("load-in")
    view, document = window.loadin.budgets, window.document
    assert view.plan_text.text() == "Take a USB 3 lead for the capture." and view.move_button.isVisible()
    window.activateWindow()
    view.move_button.setFocus()
    view.move_button.click()
    qtbot.waitUntil(lambda: document.report is not None)
    assert not view.move_button.isVisible() and view.table.hasFocus()
    assert document.show.cable("capture-usb-to-encoder-usb").kind == "USB 3"
    qtbot.waitUntil(lambda: not view.move_button.isVisible())
    document.stack.undo()
    assert document.show.cable("capture-usb-to-encoder-usb").kind == "USB 2"


def test_this_computer_is_measured_and_it_counts(window, qtbot):
    window.go("load-in")
    view, document = window.loadin.budgets, window.document
    view.computers.setCurrentIndex(view.computers.findData("encoder"))
    view.measure_button.click()
    qtbot.waitUntil(lambda: "encodes_mpx_s" in document.show.device("encoder").loads, timeout=60_000)
    assert document.show.device("encoder").loads["encodes_mpx_s"].source == "measured"


def sheet_row(page, column, text):
    items = {r: page.table.item(r, column) for r in range(page.table.rowCount())}
    return next(r for r, item in items.items() if item is not None and item.text() == text)


def test_a_sheet_is_ticked_and_undone(window, qtbot):
    window.go("load-in")
    window.loadin.show_page("sheets")
    page, document = window.loadin.sheets, window.document
    qtbot.waitUntil(lambda: page.names.count() > 5)
    assert [page.names.item(n).text() for n in (0, 1, 2)] == ["To buy", "Packing list", "Order of work"]
    page.names.setCurrentRow(1)
    row = sheet_row(page, 1, "Desk")
    page.table.item(row, 0).setCheckState(Qt.CheckState.Checked)
    assert [(t.sheet, t.item) for t in document.show.ticks] == [("packed", "device:desk")]
    document.stack.undo()
    assert document.show.ticks == ()
    qtbot.waitUntil(lambda: page.table.item(sheet_row(page, 1, "Desk"), 0).checkState() == Qt.CheckState.Unchecked)
    page.names.setCurrentRow(2)
    two = page.note.text()
    page.hands.setValue(3)
    assert page.note.text() != two and page.note.text().startswith("3 people")
    assert Settings().number("hands", 2) == 3.0  # remembered


def test_sheets_are_written_and_ticks_read(window, qtbot, tmp_path):
    window.go("load-in")
    window.loadin.show_page("sheets")
    page, document = window.loadin.sheets, window.document
    qtbot.waitUntil(lambda: page.names.count() > 5)
    said = []
    document.message.connect(said.append)
    page.ask_pdf(tmp_path / "a.pdf")
    page.ask_csv(tmp_path / "a.csv")
    page.ask_page(tmp_path / "a.html")
    page.ask_labels(tmp_path / "l.pdf", "60x24")
    assert all((tmp_path / n).stat().st_size > 500 for n in ("a.pdf", "a.csv", "a.html", "l.pdf"))
    assert sum(s.startswith("Written:") for s in said) == 4
    page.ask_labels(tmp_path / "m.pdf", "huge")
    page.ask_pdf(tmp_path / "nowhere" / "a.pdf")
    assert "no size of labels" in said[-2] and "nowhere" in said[-1] and not (tmp_path / "m.pdf").exists()
    ticks = tmp_path / "ticks.json"
    desk = {"sheet": "packed", "item": "device:desk"}
    ticks.write_text(json.dumps({"format": "kymaton-ticks", "show": "Other", "ticks": [desk]}))
    page.ask_ticks(ticks)
    assert document.show.ticks[0].item == "device:desk"
    assert "1 tick read; they are of 'Other'; not packed: " in said[-1] and "more." in said[-1]
    ticks.write_text("soon")
    page.ask_ticks(ticks)
    assert "These are no ticks" in said[-1]


def test_the_day_goes_on_in_one_step(window, qtbot):
    window.go("load-in")
    window.loadin.show_page("day")
    page, document = window.loadin.day, window.document
    page.devices.setCurrentIndex(page.devices.findData("camera-b"))
    page.look()
    qtbot.waitUntil(lambda: bool(page.choices), timeout=120_000)
    assert page.table.item(0, 0).text().startswith("Go on without camera B") and page.take_button.isEnabled()
    page.take()
    assert "camera-b" not in {d.id for d in document.show.devices}
    document.stack.undo()
    assert "camera-b" in {d.id for d in document.show.devices}


def test_what_is_to_be_bought_is_looked_through_and_done_without(make_window, qtbot, tmp_path):
    path = tmp_path / "talk.kymaton"
    write_show(
        build([*TALK, "buy dynamic mic", "dynamic mic price is 90 stated", "add recorder", "buy recorder"]), path
    )
    window = make_window(path)
    document, page = window.document, window.loadin.day
    window.go("load-in")
    window.loadin.show_page("day")
    page.devices.setCurrentIndex(page.devices.findText("All that is to be bought"))
    page.look()
    qtbot.waitUntil(lambda: bool(page.choices))
    assert page.about.text() == (
        "2 devices are to be bought: 90 to pay. Each by itself, Recorder need not be: nothing is lost."
    )
    rows = [tuple(page.table.item(r, c).text() for c in range(3)) for r in range(page.table.rowCount())]
    assert page.table.horizontalHeaderItem(1).text() == "To pay"
    assert rows[0] == ("Dynamic mic: buy it", "90 to pay", "nothing that was asked for") and rows[1][1] == "0 to pay"
    assert rows[1][2] != rows[0][2] and rows[2][0].startswith("Recorder: go on without the recorder")
    assert rows[3] == ("Recorder: buy it", "no price", "nothing that was asked for")
    for row, can_take in enumerate((False, True, True, False)):
        page.table.setCurrentCell(row, 0)
        assert page.take_button.isEnabled() == can_take
    page.table.setCurrentCell(2, 0)
    page.take()
    assert "recorder" not in {d.id for d in document.show.devices}
    document.stack.undo()
    assert "recorder" in {d.id for d in document.show.devices}


def test_an_empty_show_says_so(make_window, qtbot):
    empty_window = make_window(None)
    empty_window.go("load-in")
    for page in ("budgets", "uplink", "sheets", "day"):
        empty_window.loadin.show_page(page)
    assert empty_window.loadin.budgets.table.rowCount() == 1
    empty_window.loadin.sheets.refresh()
    empty_window.loadin.day.look()
    assert "There is no rig yet" in empty_window.loadin.sheets.note.text()


def test_a_card_of_the_load_in_is_cured_by_one_press(window, qtbot):
    window.go("load-in")
    document = window.document
    window.findings.open(next(c for c in window.findings.cards() if c.first.id == "lead-too-short"))

    def card():
        return next((c for c in window.findings.findChildren(CardView) if c.is_open), None)

    qtbot.waitUntil(lambda: card() is not None and card().card.first.id == "lead-too-short")
    qtbot.waitUntil(lambda: card().fix_button.isEnabled() and card().fix_button.text() == "Take 10 m")
    window.activateWindow()
    card().fix_button.setFocus()
    assert card().fix_button.hasFocus()
    qtbot.keyClick(card().fix_button, Qt.Key.Key_Space)
    assert document.show.cable("condenser-out-to-desk-in2").length_m == 10.0
    qtbot.waitUntil(lambda: document.report is not None)
    assert "lead-too-short" not in {f.id for f in document.report.rig}
    qtbot.waitUntil(lambda: card() is not None and card().hasFocus())  # the next one: the keyboard goes on there
    document.stack.undo()
    assert document.show.cable("condenser-out-to-desk-in2").length_m == 6.0


def test_the_figures_of_every_finding_of_a_rig_can_be_told(qapp):
    for has, _ in CASES.values():
        for card in Report(has).rig_cards:
            assert all(name and figure for name, figure in evidence_lines(card))
