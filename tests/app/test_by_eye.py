"""Sync judged by eye in the real window: frames, the line in the sound, marks, and what becomes of them."""

from fractions import Fraction

import pytest
from PyQt6.QtCore import QPoint, Qt

from kymaton.core.measuring.clip_pattern import event_frames
from kymaton.media.clips import Clip, write_clip
from tests.app.test_recordings import LONG_MS, press, texts

RATE = Fraction(25)


@pytest.fixture(scope="module")
def take(tmp_path_factory):
    path = tmp_path_factory.mktemp("eye") / "take 3.mp4"
    write_clip(Clip(RATE, 10.0, 320, 180, 100.0), path)
    return path


@pytest.fixture
def page(window, qtbot, take):
    window.go("sync")
    window.sync.show_page("by eye")
    page = window.sync.eye
    assert any("± 21.0 ms" in t for t in texts(page))  # how to do it, while nothing is open
    page.open(take)
    qtbot.waitUntil(lambda: page.film is not None and page.work.job is None, timeout=LONG_MS)
    return page


def test_a_clap_is_found_marked_and_taken_over(window, page, qtbot):
    strip = page.strip
    assert strip.isVisible() and not any("± 21.0 ms" in t for t in texts(page))
    press(qtbot, page, "Next sound")
    qtbot.waitUntil(lambda: page.reading is None and strip.sound_s > 0.5, timeout=LONG_MS)
    event_s = float(event_frames(RATE, 10.0)[0] / RATE)
    assert strip.sound_s == pytest.approx(event_s - 0.1, abs=0.003)  # on the beginning of the beep
    while strip.still.time_s < event_s:
        qtbot.keyClick(strip, Qt.Key.Key_Right)
    qtbot.keyClick(strip, Qt.Key.Key_M)
    assert [m.picture_s for m in page.marks] == [event_s]
    assert abs(page.marks[0].lead_ms - 80.0) < 2.0  # half a frame before the first that shows it
    assert f"Sound is {page.marks[0].lead_ms:.0f} ± 21 ms (2 frames) early" in texts(page)
    press(qtbot, page, "Next sound")
    second_s = float(event_frames(RATE, 10.0)[1] / RATE)
    qtbot.waitUntil(lambda: page.reading is None and abs(strip.sound_s - second_s + 0.1) < 0.01, timeout=LONG_MS)
    qtbot.keyClick(strip, Qt.Key.Key_Left)
    while strip.still.time_s < second_s:
        qtbot.keyClick(strip, Qt.Key.Key_Right)
    press(qtbot, page, "Mark")
    press(qtbot, page, "Use as a measurement")
    recordings = window.sync.recordings
    found = recordings.results[-1].found
    assert found.matched == 2 and found.confidence == "medium"
    assert abs(found.lead_ms - 80.0) <= 22.0 and abs(found.lead_ms - 100.0) <= found.plus_minus_ms + 1.0
    press(qtbot, recordings, "Take over for camera A")
    assert window.document.show.device("camera-a").routes[0].delay_ms.source == "measured"


def test_frames_are_stepped_and_the_line_moves_by_samples(page, qtbot):
    strip = page.strip
    first = strip.still.time_s
    qtbot.keyClick(strip, Qt.Key.Key_Right)
    assert strip.still.time_s == pytest.approx(first + 0.04)
    qtbot.mouseClick(strip, Qt.MouseButton.LeftButton, pos=strip._boxes()[0].center().toPoint())
    assert strip.still.time_s == first
    for _ in range(12):
        qtbot.keyClick(strip, Qt.Key.Key_Up)
    before = strip.sound_s
    qtbot.keyClick(strip, Qt.Key.Key_Right, Qt.KeyboardModifier.ShiftModifier)
    assert strip.sound_s == pytest.approx(before + 1 / 48_000, abs=1e-9)
    assert page.grab().toImage().width() > 100  # single samples are drawn
    for _ in range(12):
        qtbot.keyClick(strip, Qt.Key.Key_Down)
    box = strip._wave_box()
    qtbot.mouseClick(strip, Qt.MouseButton.LeftButton, pos=QPoint(round(0.75 * strip.width()), round(box.center().y())))
    assert strip.sound_s == pytest.approx(strip.left_s + 0.75 * strip.span_s, abs=0.004)
    qtbot.keyClick(strip, Qt.Key.Key_Left)  # before the first frame there is none
    assert strip.still.time_s == first
    qtbot.waitUntil(lambda: page.reading is None, timeout=LONG_MS)
    assert strip.still.time_s == first


def test_another_place_is_chosen_and_a_mark_forgotten(page, qtbot):
    overview = page.overview
    qtbot.mouseClick(overview, Qt.MouseButton.LeftButton, pos=QPoint(overview.width() // 2, 10))
    qtbot.waitUntil(lambda: page.reading is None and page.strip.still.time_s > 4.0, timeout=LONG_MS)
    assert page.strip.still.time_s == pytest.approx(5.0, abs=0.1)
    for at_s in (1.0, 2.0, 5.0):  # while one place is read, the last that was wanted counts
        page.go(at_s)
    qtbot.waitUntil(lambda: page.reading is None and page.next is None, timeout=LONG_MS)
    assert page.strip.still.time_s == pytest.approx(5.0, abs=0.1)
    press(qtbot, page, "Mark")
    assert len(page.marks) == 1 and overview.marks == [page.marks[0].picture_s]
    page.forget(page.marks[0])
    assert page.marks == [] and not any(t.startswith("Sound is") for t in texts(page))
    page.go(9.99)
    qtbot.waitUntil(lambda: page.reading is None, timeout=LONG_MS)
    page.strip.put_sound(9.9)
    press(qtbot, page, "Next sound")
    assert page.reading is None  # there is none any more, and that is said


def test_the_pages_are_found_by_typing(window, qtbot):
    for words, page in (("frame by frame", "eye"), ("sounds over a film", "files"), ("measure a rec", "recordings")):
        window.finder.popup()
        qtbot.keyClicks(window.finder.line, words)
        qtbot.keyClick(window.finder.line, Qt.Key.Key_Return)
        assert window.sync.pages.currentWidget() is getattr(window.sync, page)


def test_the_clap_board_is_a_sheet_of_its_own(window, page, tmp_path, qtbot):
    page.save_board(tmp_path / "board.pdf")
    data = (tmp_path / "board.pdf").read_bytes()
    assert data.startswith(b"%PDF") and len(data) > 3000
    page.save_board(tmp_path / "nowhere" / "board.pdf")
    assert any("nowhere" in t for t in texts(window))
