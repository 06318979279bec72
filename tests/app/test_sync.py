"""The step Sync, driven as a person would."""

import pytest
from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtWidgets import QLabel, QPushButton

from kymaton.app.sync.lanes import LANE, TOP
from tests.shows import HEALTHY


def ready(qtbot, window) -> None:
    qtbot.waitUntil(lambda: window.sync.plan is not None and bool(window.sync.lanes.lanes))


def test_five_frames_are_seen_and_cured_and_undone(window, qtbot):
    window.go("sync")
    ready(qtbot, window)
    sync, document = window.sync, window.document
    assert window.rail.buttons["sync"].faults == 8
    assert sync.lanes.told(sync.lanes.lanes[0]) == "Audience with Camera A: 199 ms early, then 33 ms early"
    sync.cues.setCurrentIndex(1)
    sync.cues.activated.emit(1)
    qtbot.waitUntil(lambda: len(sync.boxes) == 4)
    assert "Switcher mic 1 delay: 199 ms in Guest talk (is 0 ms)" in [b.text() for b, _ in sync.boxes]
    sync.boxes[0][0].setChecked(False)
    main = next(b for b in sync.findChildren(QPushButton) if b.text() == "Enter the chosen delays")
    qtbot.mouseClick(main, Qt.MouseButton.LeftButton)
    assert document.show.value("switcher/mic1/delay", "guest-talk") == 199.0
    assert document.stack.undoText() == "enter 3 delays"
    qtbot.waitUntil(lambda: document.report is not None)
    assert document.report.count("fault", step="sync") == 2  # one cue was left out
    document.stack.undo()
    qtbot.waitUntil(lambda: document.report is not None)
    assert document.report.count("fault", step="sync") == 8


def test_the_card_cures_all_cues(window, qtbot):
    window.go("sync")
    ready(qtbot, window)
    card = window.findings.cards()[0]
    assert card.sentence == "Sound is 5 frames early with camera A for the audience and the recorder"
    found = []
    window.document.find_fix(card, found.append)
    qtbot.waitUntil(lambda: bool(found))
    assert found[0].title == "Set switcher mic 1 delay cue by cue" and len(found[0].cures) == 8
    assert not found[0].brings  # one delay for all cues would leave a caution with the other camera


def test_another_window_is_a_choice_of_the_show(window, qtbot):
    window.go("sync")
    ready(qtbot, window)
    sync = window.sync
    sync.windows.setCurrentIndex(sync.windows.findData("BT.1359 acceptable"))
    sync.windows.activated.emit(2)
    assert window.document.show.goals.sync_window == "BT.1359 acceptable"
    qtbot.waitUntil(lambda: sync.plan is not None and sync.plan.window.name == "BT.1359 acceptable")
    window.document.stack.undo()
    assert window.document.show.goals.sync_window == "R 37"


def test_a_lane_leads_to_its_routes(window, qtbot):
    window.go("sync")
    ready(qtbot, window)
    qtbot.mouseClick(window.sync.lanes, Qt.MouseButton.LeftButton, pos=QPointF(300, TOP + LANE * 1.5).toPoint())
    assert (window.document.listener_id, window.document.sound_id) == ("recorder", "maren")


@pytest.mark.parametrize("theme", ["day", "night"])
def test_lanes_are_painted_with_and_without_anything_to_show(make_window, qtbot, theme):
    from kymaton.app.theme.theme import THEME

    THEME.choose(theme)
    for path in (HEALTHY, None):
        window = make_window(path)
        window.go("sync")
        qtbot.waitUntil(lambda window=window: window.sync.plan is not None)
        image = window.sync.lanes.grab().toImage()
        colours = {
            image.pixelColor(x, y).rgb() for x in range(0, image.width(), 3) for y in range(0, image.height(), 3)
        }
        assert len(colours) > 3
        said = [x.text() for x in window.sync.findChildren(QLabel)]
        assert ("No other delay is better than what is set." in said) or window.sync.plan.changes or path is None
    THEME.choose("day")
