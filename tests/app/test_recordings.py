"""Recordings in the window: the full round with a simulated camera, measuring, Stop, what cannot be measured."""

from fractions import Fraction

import pytest
from PyQt6.QtCore import QMimeData, QPointF, Qt, QUrl
from PyQt6.QtGui import QDropEvent
from PyQt6.QtWidgets import QLabel, QPushButton, QToolButton

from kymaton.app.sync.plot import Plot
from kymaton.media.clips import Clip, write_clip

LONG_MS = 60_000


def press(qtbot, widget, text: str) -> None:
    found = next(b for b in widget.findChildren(QPushButton) if b.text() == text)
    qtbot.mouseClick(found, Qt.MouseButton.LeftButton)


def texts(widget) -> list[str]:
    return [x.text() for x in widget.findChildren(QLabel)]


@pytest.fixture
def page(window, qtbot):
    window.go("sync")
    window.sync.show_page("recordings")
    qtbot.waitUntil(lambda: bool(window.sync.recordings.rows))
    return window.sync.recordings


def test_the_full_round_from_five_frames_to_inside_five_milliseconds(window, page, qtbot):
    """Film, measure, take over, solve, enter, film again, confirm: with a camera slower than the model believes."""
    document, sync = window.document, window.sync
    row = page.row()
    assert row is not None and row.camera == "camera-a" and row.lead_ms == pytest.approx(199.3, abs=0.1)
    page.truth.setText("201.5")
    press(qtbot, page, "Film and measure")
    qtbot.waitUntil(lambda: len(page.results) == 1, timeout=LONG_MS)
    first = page.results[0].found
    assert first.confidence == "high" and first.lead_ms == pytest.approx(199.3 + 39.5, abs=first.plus_minus_ms)
    assert first.plus_minus_ms < 5 and any("that is 37" in t for t in texts(page))
    plot = page.findChild(Plot)  # each event that is counted is there; a ring where it tells little
    assert len(plot.points) == first.matched == len(plot.sure) and 0 < sum(plot.sure) < first.matched
    assert f"{first.matched} events, confidence high" in texts(page) and "ring" in plot.title
    press(qtbot, page, "Take over for camera A")
    camera = document.show.device("camera-a").routes[0].delay_ms
    assert camera.source == "measured" and camera.value == pytest.approx(201.5, abs=first.plus_minus_ms)
    sync.show_page("delays")
    sync.cues.setCurrentIndex(1)
    sync.cues.activated.emit(1)
    qtbot.waitUntil(lambda: len(sync.boxes) == 4)
    press(qtbot, sync, "Enter the chosen delays")
    assert abs(document.show.value("switcher/mic1/delay", "guest-talk") - 239.0) <= 5.0
    qtbot.waitUntil(lambda: document.report is not None)
    sync.show_page("recordings")
    press(qtbot, page, "Film and measure")
    qtbot.waitUntil(lambda: len(page.results) == 2, timeout=LONG_MS)
    second = page.results[1].found
    assert abs(second.lead_ms) < 5.0 and any(t.endswith("that fits.") for t in texts(page))
    assert "It is in the show." in texts(page)  # the first is not offered twice
    press(qtbot, page, "Keep as a note")
    assert len(document.show.measurements) == 2 and texts(page).count("It is in the show.") == 2
    kinds = [e.kind for e in document.logbook.entries(document.show.title)]
    assert kinds == ["measured", "delays entered", "taken over"]
    while document.stack.canUndo():
        document.stack.undo()
    assert document.show.measurements == ()


def drop(window, *paths) -> None:
    data = QMimeData()
    data.setUrls([QUrl.fromLocalFile(str(p)) for p in paths])
    window.dropEvent(
        QDropEvent(
            QPointF(500, 400), Qt.DropAction.CopyAction, data, Qt.MouseButton.LeftButton,
            Qt.KeyboardModifier.NoModifier,
        )
    )  # fmt: skip


def test_films_that_are_dropped_are_measured_and_told_together(window, page, qtbot, tmp_path):
    takes = [tmp_path / f"take {n}.mp4" for n in (1, 2, 3)]
    for take, lead_ms in zip(takes, (40.0, 40.0, 240.0), strict=True):
        write_clip(Clip(Fraction(25), 8.0, 160, 90, lead_ms), take)
    (tmp_path / "empty.mp4").write_text("no film")
    window.go("hearing")
    drop(window, takes[0], tmp_path / "empty.mp4", takes[1])
    qtbot.waitUntil(lambda: len(page.results) == 2, timeout=LONG_MS)
    assert texts(page).count("Sound is 40.0 ± 0.2 ms (1 frame) early") == 2
    assert any("empty.mp4" in t for t in texts(window))
    assert not any("empty.mp4" in t and "by eye" in t for t in texts(window))  # there is nothing to look at
    assert "2 recordings together: sound 40.0 ± 0.2 ms early" in [t.replace("± 0.1", "± 0.2") for t in texts(page)]
    assert not any("disagree" in t for t in texts(page))
    drop(window, takes[2])
    qtbot.waitUntil(lambda: len(page.results) == 3, timeout=LONG_MS)
    assert any("They disagree" in t for t in texts(page))
    press(qtbot, page, "Take over together")
    assert window.document.show.measurements[-1].file == "3 recordings"
    assert texts(page).count("It is in the show.") == 3
    document = window.document
    document.stack.undo()
    qtbot.waitUntil(lambda: "It is in the show." not in texts(page))
    other = next(b for b in page.findChildren(QToolButton) if b.text() == "for another device")
    next(a for a in other.menu().actions() if a.text() == "Switcher").trigger()
    assert any(r.delay_ms.source == "measured" for r in document.show.device("switcher").routes)
    page.place.setCurrentIndex(1)  # recordings of one place say nothing about another one
    page.refresh()
    assert not any("together" in t or t.startswith("Sound is") for t in texts(page))


def test_what_cannot_be_measured_is_one_sentence(window, page, qtbot, tmp_path):
    (tmp_path / "text.mp4").write_text("no film")
    page.measure([tmp_path / "text.mp4"])
    qtbot.waitUntil(lambda: window.notices.count() == 1)
    assert page.work.job is None and page.results == []
    page.truth.setText("late")
    press(qtbot, page, "Film and measure")
    assert page.work.job is None and window.notices.count() == 2


def test_a_clip_is_made_and_stop_leaves_nothing(window, page, qtbot, tmp_path):
    for line, text, said in (
        (page.clip.format, "720", "'720' is not a picture"),
        (page.clip.seconds, "long", "'long' is not"),
    ):
        line.setText(text)
        page.clip.make_clip(tmp_path / "clip.mp4")
        assert any(said in t for t in texts(window)) and page.work.job is None
        line.setText({"720": "320x180p25", "long": "1200"}[text])
    page.clip.make_clip(tmp_path / "clip.mp4")
    qtbot.waitUntil(lambda: page.work.job is not None and page.work.stop_button.isVisible())
    page.measure([tmp_path / "other.mp4"])
    assert any("One piece of work at a time" in t for t in texts(window))
    press(qtbot, page, "Stop")
    qtbot.waitUntil(lambda: page.work.job is None, timeout=LONG_MS)
    assert [p.name for p in tmp_path.iterdir() if p.name != "state"] == []


@pytest.mark.parametrize(("name", "fails"), [("clip.mp4", False), ("text.mp4", True)])
def test_a_clip_is_played_over_the_screen_or_it_is_said_why_not(window, page, qtbot, tmp_path, name, fails):
    write_clip(Clip(Fraction(25), 20.0, 160, 90), tmp_path / "clip.mp4")
    (tmp_path / "text.mp4").write_text("no film")
    began: list[bool] = []
    page.playing.began.connect(lambda: began.append(True))
    page.clip.play(tmp_path / name)
    assert any("flashes about once a second" in t for t in texts(window))
    process = page.playing.process
    qtbot.waitUntil(lambda: bool(began) or page.playing.process is None, timeout=LONG_MS)
    failed = any("cannot be played here" in t for t in texts(window))
    assert failed == fails and bool(began) != fails
    window.close()
    assert page.playing.process is None and process.state() == process.ProcessState.NotRunning


def test_a_film_that_does_not_tell_enough_can_be_looked_at_by_eye(tmp_path):
    from kymaton.app.sync.measuring import measure_files
    from kymaton.app.work import Job
    from kymaton.sim.camera import Camera, record

    silent = Camera(seconds=5.0, width=64, height=36, silent=frozenset(range(20)))
    record(silent, tmp_path / "silent.mkv")
    said = measure_files([tmp_path / "silent.mkv", tmp_path / "none.mkv"], False, False, Job(lambda job: None))
    assert str(said[0]).endswith("no beeps were found in the sound. It can be looked at by eye.")
    assert str(said[1]).endswith("there is no such file.")
