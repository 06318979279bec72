"""The frame: keyboard, cues, finder, wishes, themes, files that cannot be read, work that is never lost."""

import json

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtGui import QColor
from PyQt6.QtWidgets import QAbstractButton, QComboBox, QLineEdit, QPushButton

from kymaton.app.theme.theme import THEME, tokens
from kymaton.app.theme.tokens import DAY, NIGHT
from kymaton.app.widgets.finder import Entry, matching
from kymaton.core.model import Want
from kymaton.store.recovery import kept_work
from kymaton.store.showfile import read_show
from tests.app.pictures import colours
from tests.shows import DEMO


def test_cues_and_findings_are_walked_by_keyboard(window, qtbot):
    document = window.document
    qtbot.keyClick(window, Qt.Key.Key_Right, Qt.KeyboardModifier.ControlModifier)
    assert document.cue_id == "song"
    qtbot.keyClick(window, Qt.Key.Key_Left, Qt.KeyboardModifier.ControlModifier)
    qtbot.keyClick(window, Qt.Key.Key_Left, Qt.KeyboardModifier.ControlModifier)
    assert document.cue_id == "opening"
    first = window.findings.open_key
    qtbot.keyClick(window, Qt.Key.Key_F8)
    assert window.findings.open_key == first  # the one that is open is the first
    qtbot.keyClick(window, Qt.Key.Key_F8)
    assert window.findings.open_key == window.findings.cards()[1].key != first
    qtbot.keyClick(window, Qt.Key.Key_F8, Qt.KeyboardModifier.ShiftModifier)
    assert window.findings.open_key == first
    card = window.findings.cards()[0]
    assert (document.listener_id, document.sound_id) == (card.first.listener, card.first.sound)


def test_steps_are_reached_by_number(window, qtbot):
    qtbot.keyClick(window, Qt.Key.Key_2, Qt.KeyboardModifier.AltModifier)
    assert window.current == "path"
    qtbot.keyClick(window, Qt.Key.Key_3, Qt.KeyboardModifier.AltModifier)
    assert window.current == "hearing"


def test_all_cues_lists_every_card_and_opening_one_goes_to_its_cue(window):
    window.findings.everywhere.click()
    listed = window.findings.cards()
    assert sum(len(c.findings) for c in listed if c.severity == "fault") == 50
    song = next(c for c in listed if c.first.cue == "song")
    window.findings.open(song)
    assert window.document.cue_id == "song"


def test_space_cycles_the_wish_of_a_cell(window, qtbot):
    table, document = window.hearing.table, window.document
    document.select("teo", "click")
    assert document.show.want("teo", "click", "guest-talk") is Want.ANY
    for wanted, form in ((Want.MUST, "missing"), (Want.MUST_NOT, "silent"), (Want.ANY, "empty")):
        qtbot.keyClick(table, Qt.Key.Key_Space)
        assert document.show.want("teo", "click", "guest-talk") is wanted
        assert document.cue_report.cells["teo", "click"].form == form
    assert document.show.want("teo", "click", "song") is Want.MUST
    window.actions_["undo"].trigger()
    assert document.show.want("teo", "click", "guest-talk") is Want.MUST_NOT
    assert document.stack.redoText() == "Teo may or may not hear the click"


def test_arrow_keys_move_through_the_table(window, qtbot):
    table = window.hearing.table
    window.document.select("audience", "maren")
    for key in (Qt.Key.Key_Down, Qt.Key.Key_Right):
        qtbot.keyClick(table, key)
    assert (window.document.listener_id, window.document.sound_id) == ("ilse", "teo-voice")
    qtbot.keyClick(table, Qt.Key.Key_Escape)
    assert (window.document.listener_id, window.document.sound_id) == ("ilse", None)


def test_the_finder_finds_cues_devices_and_commands(window, qtbot):
    qtbot.keyClick(window, Qt.Key.Key_K, Qt.KeyboardModifier.ControlModifier)
    assert window.finder.isVisible()
    qtbot.keyClicks(window.finder.line, "song")
    qtbot.keyClick(window.finder.line, Qt.Key.Key_Return)
    assert window.document.cue_id == "song" and not window.finder.isVisible()
    window.finder.popup()
    window.finder.search("switcher device")
    window.finder.act()
    assert window.current == "path" and window.path.map.at == "switcher"
    window.finder.popup()
    window.finder.search("no such thing anywhere")
    window.finder.act()
    qtbot.keyClick(window.finder.line, Qt.Key.Key_Escape)


def test_matching_prefers_what_begins_alike():
    entries = [Entry(n, "", lambda: None) for n in ("Guest talk", "Talk back", "Save")]
    assert [e.name for e in matching(entries, "talk")] == ["Talk back", "Guest talk"]
    assert matching([Entry("Undo", "", lambda: None, enabled=False)], "undo") == []


@pytest.mark.parametrize("name", ["day", "night"])
def test_both_looks_paint_every_view(window, name):
    window.choose_theme(name)
    try:
        assert tokens() is (DAY if name == "day" else NIGHT)
        for step in ("path", "hearing"):
            window.go(step)
            window.document.select("audience", "ilse")
            assert len(colours(window)) > 8
        assert window.settings.theme == name
    finally:
        THEME.choose("day")


def contrast(a: str, b: str) -> float:
    def luminance(colour: str) -> float:
        parts = [c / 12.92 if c <= 0.03928 else ((c + 0.055) / 1.055) ** 2.4 for c in QColor(colour).getRgbF()[:3]]
        return 0.2126 * parts[0] + 0.7152 * parts[1] + 0.0722 * parts[2]

    high, low = sorted((luminance(a), luminance(b)), reverse=True)
    return (high + 0.05) / (low + 0.05)


@pytest.mark.parametrize("t", [DAY, NIGHT])
def test_words_can_be_read(t):
    pairs = [(ink, ground) for ink in (t.ink, t.soft, t.wave) for ground in (t.ground, t.panel, t.raised)]
    pairs += [(t.fault, t.fault_wash), (t.caution, t.caution_wash), (t.ink, t.wash), (t.rail_text, t.rail)]
    pairs += [(t.rail_soft, t.rail), (t.on_wave, t.wave), (t.on_wave, t.fault), (t.ground, t.ink)]
    assert [p for p in pairs if contrast(*p) < 4.5] == []


def test_every_control_has_a_name(window):
    window.go("path")
    for kind in (QAbstractButton, QComboBox, QLineEdit):
        for widget in window.findChildren(kind):
            if widget.objectName().startswith("qt_") or not widget.isVisible():
                continue
            told = widget.accessibleName() or (widget.text() if isinstance(widget, QAbstractButton) else "")
            assert told or widget.toolTip(), widget


def test_nothing_is_cut_at_the_smallest_size(make_window):
    window = make_window()
    window.resize(1024, 700)
    for step in ("hearing", "path"):
        window.go(step)
        for widget in window.findChildren(QPushButton):
            if widget.isVisible():
                assert widget.width() >= widget.fontMetrics().horizontalAdvance(widget.text()), widget.text()
    table = window.hearing.table
    assert table.horizontalHeader().length() <= table.viewport().width() + table.horizontalScrollBar().maximum()


def test_a_file_that_cannot_be_read_is_said_and_the_show_stays(window, tmp_path):
    bad = tmp_path / "bad.kymaton"
    bad.write_text("{")
    before = window.document.show
    window.files.open(bad)
    assert window.document.show is before
    notice = window.notices.itemAt(0).widget()
    assert "bad.kymaton" in notice.findChildren(type(window.facts))[0].text()


def test_a_newer_file_cannot_be_overwritten(window, tmp_path):
    path = tmp_path / "a.kymaton"
    path.write_text(json.dumps({"format": "kymaton-show", "version": 99, "title": "Later"}))
    window.files.save_to(path)
    assert json.loads(path.read_text())["version"] == 99 and window.notices.count() == 1


def test_a_newer_file_is_shown_as_a_copy(window, tmp_path):
    content = json.loads(DEMO.read_text("utf-8"))
    path = tmp_path / "later.kymaton"
    path.write_text(json.dumps({**content, "version": 2, "title": "From later"}))
    before = path.read_bytes()
    window.files.open(path)
    assert window.document.show.title == "From later" and window.document.path is None
    window.files.save_to(path)
    assert path.read_bytes() == before


def test_saving_elsewhere_takes_the_recordings_along_and_is_remembered(window, tmp_path):
    path = tmp_path / "mine" / "evening.kymaton"
    path.parent.mkdir()
    window.files.save_to(path)
    assert (path.parent / "stems" / "ilse.flac").is_file() and window.document.folder == path.parent
    assert window.settings.recent[0] == path and read_show(path) == read_show(DEMO)


def test_unsaved_work_is_kept_and_offered_back(make_window, qtbot):
    first = make_window()
    first.document.select("teo", "click")
    first.hearing.table.cycle_wish()
    edited = first.document.show
    first.close()
    assert len(kept_work()) == 1
    second = make_window(None)
    second.files.offer_kept()
    notice = second.notices.itemAt(0).widget()
    restore = next(b for b in notice.findChildren(QPushButton) if b.text() == "Open it")
    qtbot.mouseClick(restore, Qt.MouseButton.LeftButton)
    assert second.document.show == edited and not second.document.is_clean
    assert second.document.folder == DEMO.parent
    assert len(kept_work()) == 1  # kept until it is saved


def test_a_saved_show_leaves_nothing_to_offer(make_window, tmp_path):
    window = make_window()
    window.hearing.table.cycle_wish()
    window.document.select("teo", "click")
    window.hearing.table.cycle_wish()
    window.document.keep()
    window.files.save_to(tmp_path / "a.kymaton")
    window.close()
    assert kept_work() == []


def test_an_empty_show_says_what_to_do_next(make_window, qtbot):
    window = make_window(None)
    assert window.hearing.empty.isVisible() and not window.hearing.table.isVisible()
    demo = next(b for b in window.hearing.empty.findChildren(QPushButton) if b.text() == "Open the demo")
    qtbot.mouseClick(demo, Qt.MouseButton.LeftButton)
    assert window.document.show.title == "Harbour Almanac Live" and window.hearing.table.isVisible()
    window.go("path")


def test_a_show_is_opened_by_dropping_it(window, tmp_path):
    from PyQt6.QtCore import QMimeData, QPointF, QUrl
    from PyQt6.QtGui import QDropEvent

    path = tmp_path / "b.kymaton"
    path.write_bytes(DEMO.with_name("harbour-almanac-healthy.kymaton").read_bytes())
    data = QMimeData()
    data.setUrls([QUrl.fromLocalFile(str(path))])
    window.dropEvent(
        QDropEvent(
            QPointF(5, 5), Qt.DropAction.CopyAction, data, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier
        )
    )
    assert window.document.show.title == "Harbour Almanac (healthy)"


def test_a_starter_is_begun_from_the_empty_show(make_window, qtbot):
    window = make_window(None)
    choose = next(b for b in window.hearing.empty.findChildren(QPushButton) if b.text() == "Two rooms")
    qtbot.mouseClick(choose, Qt.MouseButton.LeftButton)
    assert window.document.show.title == "Two rooms" and not window.document.is_clean
    qtbot.waitUntil(lambda: window.rail.buttons["hearing"].faults == 0)
    window.finder.popup()
    window.finder.search("turntable")
    window.finder.act()
    assert window.document.show.title == "Turntable set"
