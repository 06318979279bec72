"""The whole journey in the real window: see, show, listen, propose, apply, undo, save, open again."""

import numpy as np
import pytest
import soundfile
from PyQt6.QtCore import QPoint, QPointF, Qt
from PyQt6.QtWidgets import QPushButton

from kymaton.app.widgets.route_strip import routes_of
from kymaton.core.checks.report import Report
from kymaton.core.errors import Stopped
from kymaton.core.planning.planner import propose
from kymaton.media import jobs
from kymaton.store.showfile import read_show
from tests.shows import DEMO, HEALTHY


def cards(window) -> list[str]:
    return [c.sentence for c in window.findings.cards()]


def press(window, qtbot, text: str) -> None:
    shown = [b for b in window.findChildren(QPushButton) if b.text() == text and b.isVisible() and b.isEnabled()]
    assert len(shown) == 1, (text, [b.text() for b in window.findChildren(QPushButton) if b.isVisible()])
    qtbot.mouseClick(shown[0], Qt.MouseButton.LeftButton)


def cell(window, listener: str, sound: str):
    return window.document.cue_report.cells[listener, sound]


def click_cell(window, qtbot, listener: str, sound: str) -> None:
    show, table = window.document.show, window.hearing.table
    row = [s.id for s in show.sounds].index(sound)
    column = [x.id for x in show.listeners].index(listener)
    box = table.visualRect(table.hearing.index(row, column))
    qtbot.mouseClick(table.viewport(), Qt.MouseButton.LeftButton, pos=box.center())


def test_it_opens_on_hearing_in_guest_talk_and_says_what_is_wrong(window):
    assert window.current == "hearing" and window.document.cue_id == "guest-talk"
    assert cards(window)[:4] == [
        "Ilse and Nadir hear themselves",
        "Ilse and Nadir reach the audience and the recorder twice",
        "Ilse and Nadir hear each other twice",
        "The phone can be heard on the stream",
    ]
    assert "Teo does not hear Quill" in cards(window)
    assert (cell(window, "ilse", "ilse").form, cell(window, "ilse", "ilse").figure) == ("own", "231.6 ms")
    assert (cell(window, "audience", "nadir").form, cell(window, "audience", "nadir").figure) == ("twice", "14.5 ms")
    assert cell(window, "teo", "quill").form == "missing" and cell(window, "audience", "phone").form == "leaks"


def test_figures_agree_everywhere(window, qtbot):
    document = window.document
    report = document.report
    assert window.rail.buttons["hearing"].faults == report.count("fault", step="hearing") == 50
    assert window.findings.title.text() == "Guest talk: 11 faults, 1 caution"
    assert window.findings.everywhere.text() == "All cues, 50"
    assert sum(document.faults_in(c.id) for c in document.show.cues) == 58
    listener, sound = document.show.listener("ilse"), "ilse"
    click_cell(window, qtbot, "ilse", "ilse")
    total = window.hearing.strip.routes[0].total_ms
    burst = document.cue_report.view.bursts(listener, document.show.sound(sound))[0]
    assert cell(window, "ilse", "ilse").figure == f"{burst.delay_ms:.1f} ms" == f"{total:.1f} ms"
    assert "231.6 ms" in window.hearing.lanes.accessibleName()
    stops = window.hearing.strip.routes[0]
    assert sum(round(10 * a) for a in stops.added_ms) == round(10 * stops.total_ms)


def test_a_name_shows_lanes_and_a_cell_shows_routes(window, qtbot):
    header = window.hearing.table.horizontalHeader()
    middle = header.sectionViewportPosition(2) + header.sectionSize(2) // 2
    qtbot.mouseClick(header.viewport(), Qt.MouseButton.LeftButton, pos=QPoint(middle, 12))
    assert window.document.listener_id == "nadir" and window.hearing.details.currentIndex() == 0
    assert window.hearing.lanes_title.text() == "What Nadir hears, and when"
    assert [lane.sound.id for lane in window.hearing.lanes.lanes] == ["maren", "teo-voice", "ilse", "nadir", "effects"]
    click_cell(window, qtbot, "audience", "ilse")
    assert window.hearing.details.currentIndex() == 1
    assert window.hearing.strip_title.text() == "Ilse to Audience: 2 routes, 14.5 ms apart, first notch 34 Hz"
    assert len(window.hearing.strip.routes) == 2
    press(window, qtbot, "All that is heard")
    assert window.hearing.details.currentIndex() == 0


def test_show_the_path_inks_the_routes_on_the_map(window, qtbot):
    click_cell(window, qtbot, "audience", "ilse")
    qtbot.mouseClick(
        next(b for b in window.hearing.findChildren(QPushButton) if b.text() == "Show the path"),
        Qt.MouseButton.LeftButton,
    )
    assert window.current == "path"
    inked = window.path.map.inked
    assert "desk-main-to-switcher-mic1" in inked and "call-computer-hdmi-to-switcher-hdmi2" in inked
    assert "camera-a-hdmi-to-switcher-hdmi1" not in inked
    assert set(inked.values()) == {0, 1}
    routes = routes_of(window.document.cue_report, "audience", "ilse")
    assert [r.total_ms for r in window.path.strip.routes] == [r.total_ms for r in routes] == [4282.6, 4268.1]


def test_the_map_is_chosen_on_by_mouse_and_keyboard(window, qtbot):
    window.go("path")
    map_ = window.path.map
    plate = map_.map.plates["sound/click"]
    qtbot.mouseClick(map_, Qt.MouseButton.LeftButton, pos=QPointF(plate.x + 8, plate.middle).toPoint())
    assert window.document.sound_id == "click"
    qtbot.keyClick(map_, Qt.Key.Key_Escape)
    assert (window.document.listener_id, window.document.sound_id) == (None, None) and map_.inked == {}
    for key in (Qt.Key.Key_Right,) * 5:
        qtbot.keyClick(map_, key)
    assert map_.at is not None and map_.at.startswith("listener/")
    qtbot.keyClick(map_, Qt.Key.Key_Return)
    assert window.document.listener_id == map_.at.removeprefix("listener/") and map_.inked


def test_a_fix_cures_at_once_and_undo_brings_it_back(window, qtbot):
    qtbot.waitUntil(lambda: window.findings.views[0].fix_button.isEnabled())
    before = cards(window)
    press(window, qtbot, "Pull down both sends")
    assert "Ilse and Nadir hear themselves" not in cards(window)
    assert cell(window, "ilse", "ilse").form == "silent"
    qtbot.waitUntil(lambda: window.rail.buttons["hearing"].faults == 34)
    assert window.document.stack.undoText() == "pull down both sends"
    window.actions_["undo"].trigger()
    assert cards(window) == before and cell(window, "ilse", "ilse").figure == "231.6 ms"
    window.actions_["redo"].trigger()
    assert "Ilse and Nadir hear themselves" not in cards(window)


def test_the_proposal_is_applied_line_by_line_saved_and_the_same_when_opened_again(window, qtbot, tmp_path):
    press(window, qtbot, "Propose settings")
    view = window.hearing.proposal
    qtbot.waitUntil(lambda: view.proposal is not None and view.title.text().startswith("Proposed: 6"))
    for left in (5, 4, 3, 2, 1, 0):
        qtbot.waitUntil(lambda: any(b.text() == "Apply" and b.isVisible() for b in view.findChildren(QPushButton)))
        apply_one = next(b for b in view.findChildren(QPushButton) if b.text() == "Apply" and b.isVisible())
        qtbot.mouseClick(apply_one, Qt.MouseButton.LeftButton)
        wanted = f"Proposed: {left} change" if left else "Nothing that can be set is wrong"
        qtbot.waitUntil(lambda wanted=wanted: view.title.text().startswith(wanted))
    expected = propose(Report(read_show(DEMO)))
    assert window.document.stack.count() == 6
    assert {c.control: window.document.show.value(c.control, c.cue) for c in expected.changes} == {
        c.control: c.after for c in expected.changes
    }
    path = tmp_path / "evening.kymaton"
    window.files.save_to(path)
    assert window.document.is_clean and "edited" not in window.windowTitle()
    shown = cards(window)
    window.files.new()
    window.files.open(path)
    qtbot.waitUntil(lambda: window.document.report is not None)
    window.document.choose_cue("guest-talk")
    assert cards(window) == shown
    assert read_show(path).devices == window.document.show.devices


def test_apply_all_is_one_step_to_undo(window, qtbot):
    window.actions_["propose"].trigger()
    view = window.hearing.proposal
    qtbot.waitUntil(lambda: view.apply_all.isVisible() and view.apply_all.isEnabled())
    press(window, qtbot, "Apply all")
    assert window.document.stack.count() == 1
    assert not [c for c in window.document.cue_report.cards if c.first.id == "own-voice-back" and c.severity == "fault"]


def test_listen_renders_and_exports_the_echo(window, qtbot, tmp_path):
    window.document.select("ilse", None)
    window.actions_["listen"].trigger()
    qtbot.waitUntil(lambda: window.listen_bar.audition is not None, timeout=20_000)
    assert window.listen_bar.title.text() == "What Ilse hears in Guest talk"
    for name in ("a.wav", "a.flac"):
        window.listen_bar.export(tmp_path / name)
        qtbot.waitUntil(lambda name=name: window.listen_bar.note.text() == f"Written: {tmp_path / name}")
        samples, rate = soundfile.read(tmp_path / name)
        assert rate == 48_000 and np.abs(samples).max() > 0.01
    window.listen_bar.export(tmp_path / "a.mp3")
    qtbot.waitUntil(lambda: "wav or .flac" in window.listen_bar.note.text())
    window.document.choose_cue("song")
    assert window.listen_bar.audition is None and not window.listen_bar.export_button.isVisible()


def test_listen_can_be_stopped(window, qtbot, monkeypatch):
    seen = []

    def endless(show, folder, cue, listener, only, progress, stand_ins, edges):
        while progress(0.5):
            seen.append(1)
        raise Stopped

    monkeypatch.setattr(jobs, "make_audition", endless)
    window.actions_["listen"].trigger()
    qtbot.waitUntil(lambda: len(seen) > 3)
    press(window, qtbot, "Stop")
    qtbot.waitUntil(lambda: window.listen_bar.note.text() == "Stopped.")
    assert window.listen_bar.audition is None


@pytest.mark.parametrize("path", [HEALTHY])
def test_a_healthy_show_says_so(make_window, path):
    window = make_window(path)
    assert window.rail.buttons["hearing"].faults == 0
    assert window.findings.title.text() == "Guest talk: 0 faults"
