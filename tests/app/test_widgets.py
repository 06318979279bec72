"""The widgets one by one: what they say, what they do at their edges."""

import numpy as np
import pytest
from PyQt6.QtCore import QCoreApplication, QEvent, QPointF, Qt
from PyQt6.QtGui import QMouseEvent
from PyQt6.QtWidgets import QApplication, QMenu, QPushButton, QToolTip

from kymaton.app.document import Document
from kymaton.app.hearing.lanes import lanes_of, remark
from kymaton.app.hearing.table import told
from kymaton.app.listen import Player
from kymaton.app.path.drawing import rounded
from kymaton.app.path.menus import offers
from kymaton.app.path.telling import cable_told
from kymaton.app.settings import MOST_RECENT, Settings
from kymaton.app.theme.marks import ICONS, draw_form, icon
from kymaton.app.widgets.basic import empty
from kymaton.app.widgets.findings import evidence_lines
from kymaton.app.widgets.route_strip import routes_of, strip_title
from kymaton.media.audition import Audition
from tests.shows import DEMO, call_show


def hover(widget, x: float, y: float) -> str:
    at = QPointF(x, y)
    move = QMouseEvent(
        QEvent.Type.MouseMove, at, widget.mapToGlobal(at), Qt.MouseButton.NoButton, Qt.MouseButton.NoButton,
        Qt.KeyboardModifier.NoModifier,
    )  # fmt: skip
    QApplication.sendEvent(widget, move)
    return QToolTip.text()


# what is said


def test_cells_are_told_in_words(window):
    document = window.document
    show, cells = document.show, document.cue_report.cells

    def said(listener: str, sound: str) -> str:
        return told(show.listener(listener), show.sound(sound), cells[listener, sound])

    assert said("ilse", "ilse").startswith("Ilse at Ilse is the listener's own voice, coming back, 231.6 ms. ")
    assert said("audience", "maren").endswith("The audience must hear Maren.")
    assert said("audience", "concertina").endswith("(by default).")
    index = window.hearing.table.hearing.index(0, 0)
    tip = window.hearing.table.hearing.data(index, Qt.ItemDataRole.ToolTipRole)
    assert "dBFS" in tip and "Space" in tip


def test_lanes_say_what_is_late_again_missing_or_leaking(window):
    report = window.document.cue_report
    show = window.document.show
    said = {lane.sound.id: remark(lane) for lane in lanes_of(report, show.listener("audience"))}
    assert said["ilse"] == "4.27 s, again 14.5 ms later" and said["phone"].endswith(", leaks")
    missing = {lane.sound.id: remark(lane) for lane in lanes_of(report, show.listener("teo"))}
    assert missing["quill"] == "missing"
    window.document.select("audience", None)
    assert window.hearing.lanes.origin_ms == pytest.approx(4152.7, abs=0.1)
    assert window.hearing.lanes.picture is not None and window.hearing.lanes.picture.camera == "camera-a"
    window.document.select("maren", None)
    assert window.hearing.lanes.origin_ms == 0.0 and window.hearing.lanes.picture is None


def test_a_click_on_a_lane_chooses_its_sound(window, qtbot):
    lanes = window.hearing.lanes
    window.document.select("ilse", None)
    y = 20 + 26 * [lane.sound.id for lane in lanes.lanes].index("nadir") + 10
    qtbot.mouseClick(lanes, Qt.MouseButton.LeftButton, pos=QPointF(200, y).toPoint())
    assert window.document.sound_id == "nadir" and window.hearing.details.currentIndex() == 1


def test_evidence_is_shown_with_units(window):
    lines = dict(evidence_lines(window.findings.cards()[0]))
    assert lines["back after"] == "232 ± 26 ms" and "talker echo, G.107 Idte" in lines
    doubled = next(c for c in window.findings.cards() if c.first.id == "doubled")
    assert dict(evidence_lines(doubled))["arrives after"] == "4.27 s and 4.28 s"
    rig = next(c for c in window.document.report.rig_cards if c.first.id == "run-too-long")
    assert dict(evidence_lines(rig)) == {"length": "11 m", "usual at most": "7.5 m"}


def test_the_strip_tells_where_its_figures_come_from(window):
    window.document.select("audience", "ilse")
    strip = window.hearing.strip
    assert len(strip.routes) == 2 and strip.told(strip.routes[0]).endswith("in all 4.28 s")
    step = strip._step(strip.routes[0])
    text = hover(strip, 8 + step, 24)
    assert text.startswith("Call: ") and "measured 2026-11-21" in text
    window.document.select("ilse", None)
    assert strip_title(window.document) == "Routes"


def test_routes_come_one_for_each_delay_strongest_first(window):
    routes = routes_of(window.document.cue_report, "ilse", "nadir")
    assert [r.total_ms for r in routes] == [98.1, 231.6]
    assert routes[0].path.gain_db > routes[1].path.gain_db


def test_the_map_tells_devices_and_leads(window):
    window.go("path")
    map_ = window.path.map
    plate = map_.map.plates["call"]
    assert "delay 98.0 ± 12.0 ms, measured 2026-11-21" in hover(map_, plate.x + 5, plate.middle)
    assert (
        cable_told(map_.document.show, "camera-a-hdmi-to-switcher-hdmi1")
        == "Camera A HDMI to Switcher HDMI 1: HDMI, 11 m"
    )
    assert (
        cable_told(map_.document.show, "sound-maren-to-table-mic-capsule") == "Maren to Table mic: through air, 0.08 m"
    )
    wire = next(w for w in map_.map.wires if w.source == "desk" and w.target == "loudspeakers")
    x, y = wire.points[len(wire.points) // 2]
    assert map_.wire_at(QPointF(x, y)) is not None


def test_offers_are_what_fits_free_ones_first(window):
    show = window.document.show
    lines = offers(show, "talkback-mic", "desk")
    assert lines[0] == "Talkback mic > Desk 4" and all("Desk 8" not in x for x in lines)
    assert offers(show, "camera-a", "desk") == [] and offers(show, "listener/ilse", "desk") == []
    assert offers(show, "sound/click", "backing-player") == []  # all its inputs are taken


def test_corners_are_rounded_and_ends_kept():
    path = rounded([(0, 0), (50, 0), (50, 40), (90, 40)])
    assert (path.pointAtPercent(0).x(), path.currentPosition().x()) == (0, 90)


@pytest.mark.parametrize("name", sorted(ICONS))
def test_icons_draw_something(qapp, name):
    image = icon(name, "#000000").pixmap(16, 16).toImage()
    assert any(image.pixelColor(x, y).alpha() for x in range(image.width()) for y in range(image.height()))


def test_forms_differ_in_shape_alone(qapp):
    from PyQt6.QtGui import QColor, QImage, QPainter

    seen = {}
    for form in (
        "heard",
        "silent",
        "heard-unasked",
        "missing",
        "leaks",
        "twice",
        "own",
        "dulled",
        "late",
        "soft",
        "one-sided",
        "swapped",
        "cancels",
    ):
        image = QImage(40, 24, QImage.Format.Format_Grayscale8)
        image.fill(255)
        painter = QPainter(image)
        draw_form(painter, form, QPointF(16, 12), QColor("black"))
        painter.end()
        seen[form] = bytes(image.constBits().asarray(image.sizeInBytes()))
    assert len(set(seen.values())) == len(seen)


# work off the thread


def test_without_a_sound_output_the_player_says_so(qapp, monkeypatch):
    from PyQt6.QtMultimedia import QAudioDevice, QMediaDevices

    monkeypatch.setattr(QMediaDevices, "defaultAudioOutput", staticmethod(QAudioDevice))
    player = Player(lambda: None)
    audition = Audition(np.zeros((480, 2), np.float32), 100.0, "dB SPL", 0.0, ())
    assert player.play(audition) == "No sound output was found; the file can be exported."
    assert player.sink is None


# the document


def test_undo_finds_its_report_again_without_work(qapp, qtbot):
    document = Document()
    document.open_copy(DEMO)
    qtbot.waitUntil(lambda: document.report is not None)
    first = document.report
    document.edit(call_show(), "another")
    assert document.report is None
    document.stack.undo()
    assert document.report is first


def test_an_edit_that_changes_nothing_is_none(qapp, qtbot):
    document = Document(call_show())
    document.edit(document.show, "nothing")
    assert document.stack.count() == 0 and document.is_clean
    qtbot.waitUntil(lambda: document.report is not None)


def test_steps_through_cues_stop_at_the_ends(qapp, qtbot):
    document = Document()
    document.open_copy(DEMO)
    document.step_cue(-99)
    assert document.cue_id == "doors"
    document.step_cue(99)
    assert document.cue_id == "close"
    document.choose_cue("song")
    assert document.faults_in("song") == 9
    qtbot.waitUntil(lambda: document.report is not None)
    assert document.faults_in("doors") == 0 and document.readiness("path").faults == 1


def test_recent_files_are_few_and_newest_first(qapp, tmp_path):
    settings = Settings()
    for number in range(MOST_RECENT + 3):
        settings.opened(tmp_path / f"{number}.kymaton")
    settings.opened(tmp_path / "5.kymaton")
    recent = Settings().recent
    assert len(recent) == MOST_RECENT and recent[0].name == "5.kymaton" and recent[1].name == "10.kymaton"
    settings.findings_open = False
    assert not Settings().findings_open and Settings().theme == "desktop"


def test_emptying_a_layout_leaves_nothing(qapp):
    from PyQt6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

    widget = QWidget()
    layout = QVBoxLayout(widget)
    row = QHBoxLayout()
    row.addWidget(QPushButton("a"))
    layout.addLayout(row)
    layout.addWidget(QPushButton("b"))
    layout.addStretch(1)
    empty(layout)
    assert layout.count() == 0


def menus_of(window, qtbot) -> int:
    """Menus that there are when all that is closed is gone."""
    QCoreApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete)
    return len(window.findChildren(QMenu))


def test_menus_that_were_opened_are_gone_when_they_are_closed(window, qtbot):
    """Twenty minutes of work open many."""
    window.go("path")
    main = window.name.menu()

    def once() -> None:
        main.aboutToShow.emit()
        for button_ in (window.path.scope, window.path.add_button):
            button_.click()
            opened = QApplication.activePopupWidget()
            assert isinstance(opened, QMenu)
            opened.close()

    once()
    before = menus_of(window, qtbot)
    for _ in range(5):
        once()
    assert menus_of(window, qtbot) == before
