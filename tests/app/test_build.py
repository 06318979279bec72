"""From an empty show to a talk with a guest in a call: once by keyboard alone, once by mouse."""

import pytest
from PyQt6.QtCore import QPoint, QPointF, Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QPushButton

from kymaton.app.path.menus import plate_menu
from kymaton.catalogue.registry import use_own
from kymaton.core.checks.report import Report
from kymaton.core.edits.devices import rename_device
from kymaton.language.starters import STARTERS
from kymaton.store.showfile import read_show
from tests.app.pictures import colours
from tests.shows import HEALTHY

PEOPLE = ("Maren, voice, host", "Gus, voice, guest, 62 dB", "Audience")
DEVICES = (
    "dynamic mic",
    "mixer 4 in 2 aux",
    "call 1 guest",
    "call computer",
    "headphones",
    "switcher",
    "capture",
    "encoder",
    "platform",
)
LEADS = (
    ("Maren", "Dynamic mic", "sound/maren", "dynamic-mic", ""),
    ("Dynamic mic", "Mixer 1", "dynamic-mic", "mixer", "Dynamic mic > Mixer 1"),
    ("Gus", "Call guest 1 mic", "sound/gus", "call", "Gus > Call guest 1 mic"),
    ("Call receiving", "Call computer call", "call", "call-computer", "Call receiving > Call computer call"),
    ("Call computer headphones", "Mixer 2", "call-computer", "mixer", "Call computer headphones > Mixer 2"),
    ("Mixer aux 1", "Call computer line in", "mixer", "call-computer", "Mixer aux 1 > Call computer line in"),
    ("Call computer call", "Call sending", "call-computer", "call", "Call computer call > Call sending"),
    ("Call guest 1 ears", "Gus", "call", "listener/gus", "Call guest 1 ears > Gus"),
    ("Mixer main", "Switcher mic 1", "mixer", "switcher", "Mixer main > Switcher mic 1"),
    ("Switcher programme", "Capture", "switcher", "capture", "Switcher programme > Capture HDMI"),
    ("Capture", "Encoder", "capture", "encoder", "Capture USB > Encoder USB"),
    ("Encoder", "Platform", "encoder", "platform", "Encoder stream > Platform ingest"),
    ("Platform", "Audience", "platform", "listener/audience", "Platform > Audience"),
    ("Mixer aux 2", "Headphones", "mixer", "headphones", "Mixer aux 2 > Headphones"),
    ("Headphones", "Maren", "headphones", "listener/maren", "Headphones > Maren"),
)
SETTINGS = (
    "mixer 1 gain to 52",
    "mixer 2 gain to 4",
    "mixer 1 to main to 0",
    "mixer 2 to main to 0",
    "mixer 1 to aux 1 to -6",
    "mixer 2 to aux 2 to -6",
)
WISHES = {("audience", "maren"), ("audience", "gus"), ("gus", "maren"), ("maren", "gus")}  # by default


def finished(show, path, window):
    """Patched, without faults, and the same from the file."""
    faults = [f.sentence for f in Report(show).findings if f.severity == "fault"]
    assert faults == []
    pairs = {(x.id, s.id) for x in show.listeners for s in show.sounds if show.want(x.id, s.id, None) == "must"}
    assert show.plan == () and pairs == WISHES
    window.files.save_to(path)
    assert read_show(path) == show


def key(widget, name, modifier=Qt.KeyboardModifier.NoModifier):
    QTest.keyClick(widget, name, modifier)


@pytest.fixture
def path(tmp_path):
    return tmp_path / "talk.kymaton"


def test_by_keyboard_alone(make_window, qtbot, path):
    window = make_window(None)
    document = window.document
    window.activateWindow()
    key(window, Qt.Key.Key_1, Qt.KeyboardModifier.AltModifier)
    window.brief.line.setFocus()
    for line in PEOPLE:
        QTest.keyClicks(window.brief.line, line)
        key(window.brief.line, Qt.Key.Key_Return)
    assert [x.id for x in document.show.listeners] == ["maren", "gus", "audience"]
    key(window, Qt.Key.Key_P, Qt.KeyboardModifier.ControlModifier)
    line = window.path.patch.line
    assert window.current == "path"
    for kind in DEVICES:
        QTest.keyClicks(line, f"add {kind}")
        key(line, Qt.Key.Key_Return)
        assert window.path.patch.line.text() == "", window.path.patch.hint.text()
    for source, target, *_ in LEADS:
        QTest.keyClicks(line, f"{source} > {target}")
        key(line, Qt.Key.Key_Return)
        assert line.text() == "", window.path.patch.hint.text()
    for text in SETTINGS:
        QTest.keyClicks(line, f"set {text}")
        key(line, Qt.Key.Key_Return)
        assert line.text() == "", window.path.patch.hint.text()
    finished(document.show, path, window)
    count = document.stack.count()
    for _ in range(count):
        window.actions_["undo"].trigger()
    assert document.show.devices == () and document.show.sounds == ()
    for _ in range(count):
        window.actions_["redo"].trigger()
    assert document.show == read_show(path)


def test_by_mouse(make_window, qtbot, path):
    """Adding, connecting and opening by mouse; names are typed, as names must be."""
    window = make_window(None)
    document = window.document
    qtbot.mouseClick(window.rail.buttons["brief"], Qt.MouseButton.LeftButton)
    for line in PEOPLE:
        qtbot.mouseClick(window.brief.line, Qt.MouseButton.LeftButton)
        QTest.keyClicks(window.brief.line, line)
        key(window.brief.line, Qt.Key.Key_Return)
    qtbot.mouseClick(window.rail.buttons["path"], Qt.MouseButton.LeftButton)
    for kind in DEVICES:
        window.path._do(f"add {kind}")  # what the entries of the menu Add device do
    map_ = window.path.map
    for source, target, a, b, offer in LEADS:
        QApplication.processEvents()
        drag(qtbot, map_, a, b)
        assert map_.offered is not None
        wanted = offer or f"{source} > {target}"
        entry = next((x for x in map_.offered.actions() if x.text() == wanted), None)
        assert entry is not None, (wanted, [x.text() for x in map_.offered.actions()])
        entry.trigger()
        map_.offered.close()
    plate = map_.map.plates["mixer"]
    qtbot.mouseClick(map_, Qt.MouseButton.LeftButton, pos=QPointF(plate.x + 10, plate.middle).toPoint())
    table = window.path.controls.table
    assert window.path.controls.isVisible()
    for text in SETTINGS:
        name, _, value = text.rpartition(" to ")
        row = next(r for r in range(table.rowCount()) if table.item(r, 0).text() == name)
        table.item(row, 1).setText(value)
    finished(document.show, path, window)


def drag(qtbot, map_, a: str, b: str) -> None:
    def middle(id: str) -> QPoint:
        plate = map_.map.plates[id]
        return QPointF(plate.x + plate.width / 2, plate.middle).toPoint()

    qtbot.mousePress(map_, Qt.MouseButton.LeftButton, pos=middle(a))
    qtbot.mouseMove(map_, middle(b))
    qtbot.mouseRelease(map_, Qt.MouseButton.LeftButton, pos=middle(b))


def test_what_cannot_be_patched_is_said_in_the_line(make_window, qtbot):
    window = make_window()
    window.go("path")
    line = window.path.patch
    line.line.setText("table mic > desk 1")
    line.act()
    assert "is taken by" in line.hint.text() and line.line.text() == "table mic > desk 1"
    line.line.setText("talkback mic > desk 16")
    assert line.hint.text() == ""
    line.act()
    assert line.hint.text() == "Talkback mic is taken by Desk 8: one socket takes one plug. Add a y lead."
    line.line.setText("desk aux 6 > desk 16")
    assert line.hint.text().startswith("takes TRS 6.3 mm")
    line.line.setText("tab")
    line.line.take_first()
    assert line.line.text() == "Table mic "


def test_a_setting_says_where_it_holds_before_it_is_done(make_window, qtbot):
    window = make_window()
    window.go("path")
    document, line = window.document, window.path.patch
    document.choose_cue("song")
    line.line.setText("set desk 2 to aux 1 to -9")
    assert line.hint.text() == "in all cues \u00b7 Alt+Enter: in Song only"
    qtbot.keyClick(line.line, Qt.Key.Key_Return, Qt.KeyboardModifier.AltModifier)
    assert document.show.cue("song").controls["desk/ch2/send/aux1"] == -9.0
    assert document.stack.undoText() == "set desk 2 to aux 1 to \u22129 dB in Song only"
    line.line.setText("set desk 2 to aux 1 to -3")
    assert line.hint.text() == "in Song only \u00b7 Alt+Enter: in all cues"
    qtbot.keyClick(line.line, Qt.Key.Key_Return, Qt.KeyboardModifier.AltModifier)  # in all: then not apart in this one
    assert "desk/ch2/send/aux1" not in document.show.cue("song").controls
    assert {document.show.value("desk/ch2/send/aux1", c.id) for c in document.show.cues} == {-3.0}
    line.line.setText("mute desk 1-2")
    apart = line.hint.text().partition(" \u00b7 ")[0]
    assert apart == "in Song only" or apart.startswith("in all cues but ")
    window.path.patch.line.setText("add desk")
    assert line.hint.text() == ""


def test_many_lines_pasted_are_one_step_or_none(make_window, qtbot):
    window = make_window(None)
    window.go("path")
    document, line = window.document, window.path.patch
    clipboard = QApplication.clipboard()
    clipboard.setText(
        "Ada, voice, host\nadd dynamic mic\nadd desk 4 in 2 aux\n\nada > dynamic mic\ndynamic mic > desk 1\n"
    )
    qtbot.keyClick(line.line, Qt.Key.Key_V, Qt.KeyboardModifier.ControlModifier)
    assert [d.id for d in document.show.devices] == ["dynamic-mic", "desk"] and len(document.show.cables) == 2
    assert document.stack.undoText() == "do 5 lines" and document.stack.count() == 1
    before = document.show
    clipboard.setText("add headphones\ndesk aux 9 > headphones")
    qtbot.keyClick(line.line, Qt.Key.Key_V, Qt.KeyboardModifier.ControlModifier)
    assert document.show is before and "Nothing was taken: line 2 ('desk aux 9 > headphones')" in line.hint.text()


def test_ports_as_a_table(make_window, qtbot):
    window = make_window()
    window.go("path")
    window.path.show_device("desk")
    qtbot.mouseClick(window.path.tabs["ports"], Qt.MouseButton.LeftButton)
    ports = window.path.ports
    assert ports.isVisible() and window.path.title.text() == "Desk"
    rows = {ports.item(r, 0).text(): ports.item(r, 4).text() for r in range(ports.rowCount())}
    assert rows["1"] == "Table mic" and rows["16"] == "free" and rows["aux 1"] == "Call computer line in"
    ports.selectRow(0)
    qtbot.keyClick(ports, Qt.Key.Key_Delete)
    assert ports.item(0, 4).text() == "free"
    qtbot.keyClick(ports, Qt.Key.Key_Return)
    assert window.path.patch.line.text() == " > Desk 1"
    qtbot.mouseClick(window.path.tabs["controls"], Qt.MouseButton.LeftButton)
    assert window.path.controls.isVisible() and not ports.isVisible()


def test_delete_and_rename_on_the_map(make_window, qtbot):
    window = make_window()
    window.go("path")
    map_ = window.path.map
    map_.at = "recorder"
    qtbot.keyClick(map_, Qt.Key.Key_Delete)
    assert "recorder" not in [d.id for d in window.document.show.devices]
    window.actions_["undo"].trigger()
    map_.at = "desk"
    qtbot.keyClick(map_, Qt.Key.Key_F2)
    assert window.path.patch.line.text() == "rename Desk to "
    menu = plate_menu(map_, map_.map.plates["desk"])
    assert {"Remove", "Rename"} <= {a.text() for a in menu.actions()}
    next(a for a in menu.actions() if a.text() == "Duplicate").trigger()
    assert window.document.show.device("desk-2").name == "Desk 2"


def test_tables_of_the_brief_are_edits(make_window, qtbot):
    window = make_window()
    window.go("brief")
    brief, document = window.brief, window.document
    model = brief.sounds.sheet_model
    assert model.setData(model.index(0, 2), "70") and document.show.sounds[0].level == 70.0
    assert model.setData(model.index(0, 3), "40 %") and model.data(model.index(0, 3)) == "40 %"
    assert (document.show.sounds[0].channels, document.show.sounds[0].width) == (2, 0.4)
    assert not model.setData(model.index(0, 3), "140 %") and window.notices.count() == 1
    assert not model.setData(model.index(0, 1), "smell") and window.notices.count() == 2
    assert not model.setData(model.index(0, 0), " ")
    brief.sounds.selectRow(5)
    qtbot.keyClick(brief.sounds, Qt.Key.Key_Delete)
    assert "backing" not in [s.id for s in document.show.sounds]
    brief.cues.selectRow(3)
    brief.duplicate_cue()
    assert document.show.cues[4].name == "Guest talk again"
    brief.move_cue(-1)
    assert document.show.cues[3].name == "Guest talk again"
    brief.add_cue()
    brief.cues.selectRow(0)
    brief.cues.copy()
    board = QApplication.clipboard()
    assert board is not None and board.text().startswith("Doors\t20\t")
    window.actions_["undo"].trigger()
    brief.line.setText("Someone")
    brief.add()
    assert brief.hint.text().startswith("Say what Someone makes")
    document.choose_cue("song")
    assert brief.plan.plan.cue == "song" and brief.scope.currentText() == "in Song"
    brief.scope.setCurrentIndex(0)
    brief.scope.activated.emit(0)
    document.choose_cue("close")
    assert brief.plan.plan.cue is None and brief.scope.currentText() == "in all cues"
    brief.title.setText("Another evening")
    brief.title.editingFinished.emit()
    brief.date.setText("tomorrow")
    brief.date.editingFinished.emit()
    assert "is not a date" in brief.hint.text() and document.show.date == "2026-12-12" == brief.date.text()
    assert document.show.title == "Another evening"
    window.files.start_from_this()
    assert document.show.cues == () and document.show.title == "Another evening, next"


def test_an_input_list_is_previewed_mapped_and_added_in_one_edit(make_window, qtbot, tmp_path):
    window = make_window(None)
    path = tmp_path / "inputs.csv"
    path.write_text("Kanal;Name;Thing;Mic\n1;Ada;Voice;dynamic\n2;Bo;Fiddle;condenser\n")
    window.files.import_list(path)
    panel = window.brief.importing
    assert window.current == "brief" and panel.isVisible() and panel.title.text() == "2 inputs"
    assert [c.currentText() for c in panel.combos] == ["channel", "name", "(ignored)", "microphone"]
    panel.combos[2].setCurrentText("source")
    panel.combos[2].activated.emit(0)
    panel.add()
    assert [s.kind for s in window.document.show.sounds] == ["voice", "instrument"]
    assert window.document.stack.count() == 1 and not panel.isVisible()
    window.files.import_list(path)
    panel.add()
    assert "is taken" in panel.problem.text() and window.document.stack.count() == 1
    window.files.export_list(tmp_path / "out.csv")
    assert (tmp_path / "out.csv").read_text().count("\n") == 3
    window.files.import_list(tmp_path / "none.csv")
    assert window.notices.count() == 2


def test_a_device_is_saved_as_a_kind_and_the_map_as_svg(make_window, qtbot, tmp_path):
    window = make_window()
    window.go("path")
    menu = plate_menu(window.path.map, window.path.map.map.plates["switcher"])
    window.document.edit(rename_device(window.document.show, "switcher", "Museum switcher"), "rename")
    next(a for a in menu.actions() if a.text() == "Save as a kind").trigger()
    assert window.notices.count() == 1
    window.path.patch.line.setText("add museum switcher as Spare")
    window.path.patch.act()
    assert window.document.show.device("spare").detail == "4 in, embeds"
    window.files.export_map(tmp_path / "path.svg")
    text = (tmp_path / "path.svg").read_text()
    assert text.startswith("<?xml") and "Museum" in text and "Call computer" in text
    use_own(())


def test_cells_are_pasted_from_the_current_one_and_new_lines_added(make_window, qtbot):
    window = make_window(None)
    window.go("brief")
    brief, document = window.brief, window.document
    board = QApplication.clipboard()
    assert board is not None
    board.setText("Ada\tvoice\t70\tno\tno\nBand\tplayback\t\u221218\tyes\tno")
    brief.sounds.paste()
    assert [(s.name, s.kind, s.level, s.channels) for s in document.show.sounds] == [
        ("Ada", "voice", 70.0, 1), ("Band", "playback", -18.0, 2),
    ]  # fmt: skip
    board.setText("71\n-17")
    brief.sounds.setCurrentIndex(brief.sounds.sheet_model.index(0, 2))
    qtbot.keyClick(brief.sounds, Qt.Key.Key_V, Qt.KeyboardModifier.ControlModifier)
    assert [s.level for s in document.show.sounds] == [71.0, -17.0] and document.stack.count() == 2
    board.setText("Doors\t20\tgulls\nTalk\t5")
    brief.cues.paste()
    assert [(c.name, c.minutes, c.note) for c in document.show.cues] == [("Doors", 20.0, "gulls"), ("Talk", 5.0, "")]
    before = document.show
    board.setText("loud\nlouder")
    brief.sounds.setCurrentIndex(brief.sounds.sheet_model.index(0, 2))
    brief.sounds.paste()
    assert document.show is before and window.notices.count() == 1


def test_variants_are_made_and_compared_in_the_window(make_window, qtbot):
    window = make_window()
    window.go("brief")
    panel, document = window.brief.variants, window.document
    window.brief.open_page(window.brief.variants)
    panel.name.setText("Small team")
    panel.add()
    id = document.show.variants[0].id
    panel.differ(id, "set desk 9 to aux 1 to closed")
    panel.differ(id, "set desk 10 to aux 1 to closed")
    qtbot.waitUntil(lambda: document.report is not None)
    panel.refresh()
    texts = [x.text() for x in panel.findChildren(type(panel.problem))]
    assert "42 faults, 58 without it" in texts and "Pull down desk 9 to aux 1" in texts
    panel.differ(id, "disconnect floor headphones")
    qtbot.waitUntil(lambda: document.report is not None)
    assert document.report.count("fault") > 59 and window.rail.buttons["hearing"].faults == 50
    assert sum(document.faults_in(c.id) for c in document.show.cues) == 58
    panel.differ(id, "rename desk to Front")
    assert "leaves Front as it is made" in panel.problem.text()
    panel.differ(id, "add desk as Spare desk")
    assert [d.name for d in document.show.variants[0].devices] == ["Spare desk"]
    panel.remove(id)
    assert document.show.variants == () and document.stack.count() == 6


def test_what_a_variant_brings_is_cured_by_a_button_on_its_card(make_window, qtbot):
    window = make_window(HEALTHY)
    panel, document = window.brief.variants, window.document
    window.go("brief")
    window.brief.open_page(panel)
    panel.name.setText("Quiet")
    panel.add()
    panel.differ("quiet", "mute desk 1")
    qtbot.waitUntil(lambda: document.report is not None)

    def cure():
        return [b for b in panel.findChildren(QPushButton) if b.text() == "Unmute desk 1" and b.isVisibleTo(panel)]

    qtbot.waitUntil(lambda: bool(cure()), timeout=30_000)
    cure()[0].click()
    assert document.show.variants[0].controls == {"desk/ch1/mute": False}
    assert document.show.control("desk/ch1/mute").value is False


@pytest.mark.parametrize("made", STARTERS, ids=lambda s: s.id)
def test_every_starter_is_painted_in_every_view(make_window, qtbot, made):
    window = make_window(None)
    window.files.start_from(made)
    qtbot.waitUntil(lambda: window.document.report is not None)
    assert window.rail.buttons["hearing"].faults == window.rail.buttons["path"].faults == 0
    show = window.document.show
    wish = next(w for w in show.plan if w.want == "must")
    window.document.select(wish.listener, wish.sound)
    assert window.hearing.strip.routes
    for step in ("brief", "path", "hearing"):
        window.go(step)
        assert len(colours(window)) > 8
    assert window.path.map.inked
