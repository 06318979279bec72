"""Facts of devices, parts of the map, cues in detail, other ways: through the real widgets."""

import pytest
from PyQt6.QtCore import QMimeData, QPointF, Qt
from PyQt6.QtGui import QDropEvent
from PyQt6.QtPrintSupport import QPrinter
from PyQt6.QtWidgets import QLabel, QPushButton

from kymaton.app.path.menus import plate_menu
from kymaton.app.path.scope import Scope, scoped
from kymaton.app.path.telling import plate_told
from kymaton.core.model import Figure, Show
from kymaton.language.script import build
from kymaton.store.showfile import parse_show, read_show, show_bytes
from tests.language.test_suggesting import BY_A_SPLITTER, SEEN_BY_GUS
from tests.shows import DEMO


def texts(widget) -> list[str]:
    return [x.text() for x in widget.findChildren(QLabel)]


def fact(table, name: str) -> int:
    return next(r for r in range(table.rowCount()) if table.item(r, 0).text().startswith(name))


# facts


def test_a_figure_is_typed_with_its_source_and_the_picture_follows(window, qtbot):
    window.go("path")
    window.path.show_device("camera-a")
    qtbot.mouseClick(window.path.tabs["facts"], Qt.MouseButton.LeftButton)
    facts, document = window.path.facts, window.document
    row = fact(facts, "Picture delay")
    before = document.show.device("camera-a").routes[0].delay_ms
    assert facts.item(row, 2).text() == f"{before.source} {before.date}"
    facts.item(row, 1).setText("183 ± 4 measured 2026-11-20")
    assert document.show.device("camera-a").routes[0].delay_ms == Figure(
        value=183.0, plus_minus=4.0, source="measured", date="2026-11-20"
    )
    row = fact(facts, "Picture delay")
    assert (facts.item(row, 1).text(), facts.item(row, 2).text()) == ("183 ± 4 ms", "measured 2026-11-20")
    facts.item(row, 2).setText("stated")
    assert document.show.device("camera-a").routes[0].delay_ms.source == "stated"
    steps = document.stack.count()
    facts.item(fact(facts, "Picture delay"), 1).setText("late")
    assert document.stack.count() == steps and facts.item(row, 1).text() == "183 ± 4 ms"
    facts.item(fact(facts, "Picture delay"), 1).setText("-3")
    assert document.stack.count() == steps and window.notices.count() == 2
    document.stack.undo()
    document.stack.undo()
    assert document.show.device("camera-a").routes[0].delay_ms == before


def test_place_supply_and_ownership_are_typed(window, qtbot):
    window.path.show_device("camera-b")
    facts, document = window.path.facts, window.document
    for name, text in (("Place", "Balcony"), ("Mains", "wall 2"), ("Worn", "yes"), ("Owned", "borrowed")):
        facts.item(fact(facts, name), 1).setText(text)
    device = document.show.device("camera-b")
    place = document.show.place_of(device.place)
    assert place is not None and (place.name, device.mains, device.moves, device.owned) == (
        "Balcony", "wall 2", True, "borrowed",
    )  # fmt: skip
    facts.item(fact(facts, "Owned"), 1).setText("stolen")
    assert document.show.device("camera-b") is device
    qtbot.waitUntil(lambda: document.report is not None)
    assert "plug-can-slip" in {f.id for f in document.report.rig}


# the map


def test_a_place_alone_and_a_place_folded(window, qtbot):
    window.go("path")
    map_ = window.path.map
    every = len(map_.map.plates)
    entries = {a.text(): a for a in window.path.scope_menu().actions()}
    entries["Only Ilse's kitchen"].trigger()
    assert 0 < len(map_.map.plates) < every and window.path.scope.text() == "View: Ilse's kitchen"
    entries = {a.text(): a for a in window.path.scope_menu().actions()}
    entries["Only embedded"].trigger()
    assert "switcher" in map_.map.plates and window.path.scope.text() == "View: Embedded"
    entries = {a.text(): a for a in window.path.scope_menu().actions()}
    entries["Everything"].trigger()
    assert len(map_.map.plates) == every
    entries = {a.text(): a for a in window.path.scope_menu().actions()}
    entries["Fold Tide-gauge museum"].trigger()
    folded = map_.map.plates["fold-museum-picked-up"]
    assert (
        len(map_.map.plates) < every - 10
        and "table mic" in plate_told(map_.document.show, folded, map_.plate_of).lower()
    )
    assert window.document.show.device("table-mic")  # nothing happened to the show
    map_.choose(folded)
    assert len(map_.map.plates) == every and map_.scope.whole


def test_every_lead_of_a_folded_rig_is_still_drawn_once():
    show = read_show(DEMO)
    drawn = scoped(show, Scope(folded=frozenset({"museum"})))
    assert {c.id for c in drawn.show.cables} == {c.id for c in show.cables}
    assert all(c.source in drawn.show.ports or c.source.startswith("sound/") for c in drawn.show.cables)


def test_several_devices_are_put_in_a_place_and_removed_together(window, qtbot):
    window.go("path")
    map_, document = window.path.map, window.document
    for id in ("camera-a", "camera-b"):
        plate = map_.map.plates[id]
        point = QPointF(plate.x + plate.width / 2, plate.middle).toPoint()
        qtbot.mouseClick(map_, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.ControlModifier, point)
    assert map_.marked == {"camera-a", "camera-b"}
    entries = {a.text(): a for a in plate_menu(map_, map_.map.plates["camera-a"]).actions()}
    entries["Put them in a place"].trigger()
    line = window.path.patch
    assert line.line.text() == "put Camera A, Camera B in "
    line.line.setText("put Camera A, Camera B in Balcony")
    line.act()
    assert [document.show.device(d).place for d in ("camera-a", "camera-b")] == ["balcony", "balcony"]
    map_.setFocus()
    qtbot.keyClick(map_, Qt.Key.Key_Delete)
    assert "camera-a" not in {d.id for d in document.show.devices} and not map_.marked
    assert document.stack.undoText() == "remove Camera A and Camera B"


def test_the_map_is_printed_in_the_colours_of_the_day(window, tmp_path):
    from kymaton.app.theme.theme import THEME

    window.go("path")
    THEME.choose("night")
    printer = QPrinter()
    printer.setOutputFileName(str(tmp_path / "map.pdf"))
    window.path.print_map(printer)
    night = THEME.tokens
    THEME.choose("day")
    assert (tmp_path / "map.pdf").read_bytes().startswith(b"%PDF") and night is not THEME.tokens
    assert (tmp_path / "map.pdf").stat().st_size > 5_000


# cues


def test_a_cue_has_its_picture_its_hands_and_its_wishes(window, qtbot):
    window.go("brief")
    brief, document = window.brief, window.document
    row = [c.id for c in document.show.cues].index("song")
    brief.cues.selectRow(row)
    brief.open_cue()
    page = brief.cue
    assert page.isVisible() and document.cue_id == "song" and page.title.text() == "In the cue Song"
    page.hands.setText("Quill turns desk 2 gain to 30, 25 s")
    qtbot.keyClick(page.hands, Qt.Key.Key_Return)
    assert document.show.value("desk/ch2/gain", "song") == 30.0
    assert "Quill turns desk 2 gain to +30 dB, 25 s" in texts(page)
    qtbot.waitUntil(lambda: document.report is not None)
    assert "too-much-by-hand" in {f.id for f in document.report.findings if f.cue == "song"}
    page.time.setText("30")
    page.set_time(document.cue_id)
    qtbot.waitUntil(lambda: document.report is not None)
    assert "too-much-by-hand" not in {f.id for f in document.report.findings if f.cue == "song"}
    page.pictures.setText("Maren must see switcher programme")
    qtbot.keyClick(page.pictures, Qt.Key.Key_Return)
    qtbot.waitUntil(lambda: document.report is not None)
    assert "picture-missing" in {f.id for f in document.report.findings if f.cue == "song"}
    page.on_air.setCurrentIndex(page.on_air.findData("switcher/hdmi2"))
    page.on_air.activated.emit(page.on_air.currentIndex())
    assert document.show.cue("song").on_air == "switcher/hdmi2"
    page.hands.setText("Quill sings")
    qtbot.keyClick(page.hands, Qt.Key.Key_Return)
    assert page.problem.isVisible() and "who does what" in page.problem.text()
    page.remove_action(0)
    assert document.show.value("desk/ch2/gain", "song") != 30.0
    page.remove_wish(document.show.picture_plan[0])
    assert document.show.picture_plan == ()


def test_a_cue_is_dragged_to_its_place(window, qtbot):
    window.go("brief")
    cues, document = window.brief.cues, window.document
    names = [c.name for c in document.show.cues]
    cues.selectRow(0)

    class Dropped(QDropEvent):
        def source(self):
            return cues

    below = cues.visualRect(cues.sheet_model.index(2, 0)).center()
    data = QMimeData()
    event = Dropped(
        QPointF(below.x(), below.y() + 8), Qt.DropAction.MoveAction, data, Qt.MouseButton.LeftButton,
        Qt.KeyboardModifier.NoModifier,
    )  # fmt: skip
    cues.dropEvent(event)
    assert [c.name for c in document.show.cues] == [names[1], names[2], names[0], *names[3:]]
    assert document.stack.count() == 1
    moving = Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.ShiftModifier
    qtbot.keyClick(cues, Qt.Key.Key_Up, moving)
    qtbot.keyClick(cues, Qt.Key.Key_Up, moving)
    assert [c.name for c in document.show.cues] == names
    qtbot.keyClick(cues, Qt.Key.Key_Up, moving)
    assert document.stack.count() == 3
    qtbot.keyClick(cues, Qt.Key.Key_Down, moving)
    assert [c.name for c in document.show.cues][:2] == [names[1], names[0]]


def test_a_column_is_filled_down(window, qtbot):
    window.go("brief")
    sounds, document = window.brief.sounds, window.document
    sounds.setSelectionMode(sounds.SelectionMode.ExtendedSelection)
    first = document.show.sounds[0].level
    sounds.setCurrentIndex(sounds.sheet_model.index(0, 2))
    for row in (1, 2):
        sounds.selectionModel().select(
            sounds.sheet_model.index(row, 2),
            sounds.selectionModel().SelectionFlag.Select | sounds.selectionModel().SelectionFlag.Rows,
        )
    qtbot.keyClick(sounds, Qt.Key.Key_D, Qt.KeyboardModifier.ControlModifier)
    assert [s.level for s in document.show.sounds[:3]] == [first] * 3 and document.stack.count() == 1


def test_the_picture_format_is_typed_in_the_brief(window, qtbot):
    window.go("brief")
    brief, document = window.brief, window.document
    assert brief.picture.text() == "1080p25"
    brief.picture.setText("720p59.94")
    brief.set_picture()
    assert (document.show.picture.height, document.show.picture.rate) == (720, "60000/1001")
    brief.picture.setText("large")
    brief.set_picture()
    assert brief.hint.isVisible() and brief.picture.text() == "720p59.94" and document.stack.count() == 1
    brief.line.setText("Camera C, camera")
    brief.add()
    assert document.show.devices[-1].name == "Camera C"


# people and places


def test_people_and_places_are_made_changed_and_removed(window, qtbot):
    window.go("brief")
    page, document = window.brief.people, window.document
    window.brief.open_page(page)
    page.person.setText("Ode, second camera")
    qtbot.keyClick(page.person, Qt.Key.Key_Return)
    assert document.show.people[-1].role == "second camera"
    page.change_person(document.show.people[-1], "name", "Ode Lind")
    page.place.setText("Quay")
    qtbot.keyClick(page.place, Qt.Key.Key_Return)
    quay = document.show.places[-1]
    page.change_place(quay, air="estimated")
    page.set_distance(document.show.places[-1], "4.5")
    assert (document.show.places[-1].air, document.show.places[-1].distance_m) == ("estimated", 4.5)
    steps = document.stack.count()
    page.set_distance(document.show.places[-1], "far")
    assert document.stack.count() == steps and "'far'" in page.problem.text()
    sounds = window.brief.sounds.sheet_model
    column = [c.title for c in sounds.sheet.columns].index("Place")
    sounds.setData(sounds.index(0, column), "Quay")
    assert document.show.sounds[0].place == "quay" and sounds.data(sounds.index(0, column)) == "Quay"
    page.remove_place(document.show.places[-1])
    assert document.show.sounds[0].place is None
    sounds.setData(sounds.index(0, column), "Attic")
    assert document.show.places[-1].name == "Attic"
    page.remove(next(p for p in document.show.people if p.id == "maren"))
    assert document.show.sound("maren").person is None
    while document.stack.canUndo():
        document.stack.undo()
    assert document.show == read_show(DEMO)


# other ways


def test_another_way_is_weighed_and_taken(window, qtbot):
    window.go("brief")
    page, document = window.brief.ways, window.document
    window.brief.open_page(page)
    assert any("weigh before you take it" in t for t in texts(page))
    page.name.setText("Stream in a box")
    page.add()
    id = document.show.alternatives[0].id
    page.add_line(id, "add encoder box")
    page.add_line(id, "buy encoder box")
    qtbot.waitUntil(lambda: page.table.columnCount() == 2)
    cells = {
        page.table.verticalHeaderItem(r).text(): [page.table.item(r, c).text() for c in (0, 1)]
        for r in range(page.table.rowCount())
    }
    devices = len(document.show.devices)
    assert cells["Devices"] == [str(devices), str(devices + 1)] and cells["To buy"] == ["0", "1"]
    assert cells["Faults"] == ["63", "63"]
    page.add_line(id, "buy moon")
    assert page.problem.isVisible() and "moon" in page.problem.text()
    page.take(id)
    assert document.show.device("encoder-box").owned == "to buy" and not document.show.alternatives
    document.stack.undo()
    assert [a.name for a in document.show.alternatives] == ["Stream in a box"]


def test_a_way_that_is_suggested_is_put_beside_the_rig(make_window, qtbot, tmp_path):
    path = tmp_path / "late.kymaton"
    path.write_bytes(show_bytes(build((*SEEN_BY_GUS, *BY_A_SPLITTER), Show(title="x"))))
    window = make_window(path)
    window.go("brief")
    page, document = window.brief.ways, window.document
    window.brief.open_page(page)
    qtbot.waitUntil(lambda: any("Clean return for Gus" in t for t in texts(page)))
    weigh = next(b for b in page.findChildren(QPushButton) if b.text() == "Weigh it")
    weigh.click()
    assert [a.name for a in document.show.alternatives] == ["Clean return for Gus"]
    qtbot.waitUntil(lambda: page.table.columnCount() == 2)
    assert not [b for b in page.findChildren(QPushButton) if b.text() == "Weigh it" and b.isVisible()]
    document.stack.undo()
    assert not document.show.alternatives


@pytest.mark.parametrize("theme", ["day", "night"])
def test_the_pages_of_an_empty_show_say_what_to_do(make_window, theme):
    from kymaton.app.theme.theme import THEME

    THEME.choose(theme)
    window = make_window(None)
    window.go("brief")
    for page, said in (
        (window.brief.cue, "Add a cue first"),
        (window.brief.ways, "weigh"),
        (window.brief.variants, "rain or shine"),
    ):
        window.brief.open_page(page)
        assert any(said in t for t in texts(page))
    THEME.choose("day")


def test_a_title_that_no_file_could_hold_is_cleaned_and_other_such_edits_are_not_taken(window, qtbot):
    brief, document = window.brief, window.document
    brief.set_fact("title", "An\tevening\u202e")
    assert document.show.title == "An evening"
    before = document.show
    said = []
    document.message.connect(said.append)
    document.edit(before.evolve(title="two\nlines"), "change the title")
    assert document.show is before and said == ["This cannot be taken: title: it is one line of text."]
    assert parse_show(show_bytes(document.show), "x") == document.show


def test_what_is_chosen_is_let_go_with_the_edit_that_brought_it(window):
    document = window.document
    show = document.show
    document.edit(show.evolve(sounds=(*show.sounds, show.sounds[0].evolve(id="ann-x", name="Ann X"))), "add Ann X")
    document.select("audience", "ann-x")
    window.go("path")
    document.stack.undo()
    assert document.sound_id is None and document.listener_id == "audience"
