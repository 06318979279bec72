"""A recording of one's own, dropped on the row of a sound, stands for it: measured, copied, undone."""

import numpy as np
import soundfile
from PyQt6.QtCore import QMimeData, QPointF, Qt, QUrl
from PyQt6.QtGui import QDropEvent

from kymaton.store.showfile import read_show
from tests.shows import DEMO


def drop(window, path, row: int) -> None:
    table = window.hearing.table
    data = QMimeData()
    data.setUrls([QUrl.fromLocalFile(str(path))])
    y = table.rowViewportPosition(row) + 10
    event = QDropEvent(
        QPointF(200, y), Qt.DropAction.CopyAction, data, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier
    )
    table.dropEvent(event)


def test_a_dropped_recording_stands_for_its_sound(make_window, qtbot, tmp_path):
    mine = tmp_path / "mine.wav"
    tone = 0.1 * np.sin(2 * np.pi * 440 * np.arange(96_000) / 48_000)
    soundfile.write(mine, tone, 48_000)
    window = make_window()
    told: list[str] = []
    window.document.message.connect(told.append)
    drop(window, mine, 0)
    assert told == ["Save the show first: its recordings stand beside it."]
    saved = tmp_path / "evening" / "evening.kymaton"
    saved.parent.mkdir()
    window.files.save_to(saved)
    before = window.document.show
    for turn, name in ((1, "stems/maren.wav"), (2, "stems/maren-2.wav")):
        drop(window, mine, 0)
        qtbot.waitUntil(lambda name=name: window.document.show.sounds[0].stem.file == name)
        assert (saved.parent / name).read_bytes() == mine.read_bytes() and turn
    stem = window.document.show.sounds[0].stem
    assert abs(stem.level_dbfs + 20.0) < 0.15 and told[-1] == "mine.wav stands for Maren: \N{MINUS SIGN}20.0 dBFS."
    window.document.stack.undo()
    window.document.stack.undo()
    assert window.document.show == before
    bad = tmp_path / "bad.wav"
    bad.write_bytes(b"nothing")
    drop(window, bad, 0)
    qtbot.waitUntil(lambda: "bad.wav: it cannot be read as a sound." in told)
    drop(window, tmp_path / "a.txt", 0)  # not taken
    drop(window, mine, 99)  # below the last row
    assert window.document.show == before and read_show(DEMO).sounds == before.sounds
