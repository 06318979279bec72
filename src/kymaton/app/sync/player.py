"""A film over a whole screen, the second one where there is one, in a process of its own.

Playing takes the machine's own libraries and drivers; whatever these do, the show in the window is not touched.
"""

import os
import sys
from collections.abc import Sequence
from pathlib import Path
from typing import Any

from PyQt6.QtCore import QObject, QProcess, Qt, QUrl, pyqtSignal
from PyQt6.QtGui import QCloseEvent, QGuiApplication, QKeyEvent
from PyQt6.QtWidgets import QApplication, QVBoxLayout, QWidget

PLAYS = "plays"


class Playing(QObject):
    """Plays one film at a time, and says when that could not be."""

    began = pyqtSignal()
    ended = pyqtSignal()
    failed = pyqtSignal(str)

    def __init__(self, parent: QObject) -> None:
        super().__init__(parent)
        self.process: QProcess | None = None

    def start(self, path: Path) -> None:
        """Play a film; one that plays already is stopped."""
        self.stop()
        self.process = process = QProcess(self)
        process.readyReadStandardOutput.connect(self.began)
        process.finished.connect(lambda code, _: self._finished(process, path, code))
        process.errorOccurred.connect(lambda _: None if process.processId() else self._finished(process, path, 1))
        process.start(sys.executable, ["-P", "-m", "kymaton.app.sync.player", str(path)])

    def stop(self) -> None:
        """At once, whatever the player is doing."""
        if self.process is not None:
            process, self.process = self.process, None
            process.kill()
            process.waitForFinished(2000)

    def _finished(self, process: QProcess, path: Path, code: int) -> None:
        if process is not self.process:  # it was stopped
            return
        self.process = None
        if code:
            why = process.readAllStandardError().data().decode(errors="replace").strip().splitlines()
            reason = f" ({why[-1]})" if why and why[-1].startswith("it ") else ""
            self.failed.emit(f"{path.name} cannot be played here{reason}. Any player will do, full screen.")
        self.ended.emit()


class ClipPlayer(QWidget):
    """Plays a film once and closes; Esc closes it before, Space begins anew."""

    def __init__(self, path: Path) -> None:
        super().__init__()
        from PyQt6.QtMultimedia import QAudioOutput, QMediaPlayer
        from PyQt6.QtMultimediaWidgets import QVideoWidget

        self.setWindowTitle(f"{path.name}: Esc closes")
        self.setStyleSheet("background: black;")
        self.setCursor(Qt.CursorShape.BlankCursor)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        self.video: Any = QVideoWidget()
        layout.addWidget(self.video)
        self.player: Any = QMediaPlayer()
        self.output: Any = QAudioOutput()
        self.player.setAudioOutput(self.output)
        self.player.setVideoOutput(self.video)
        self.player.errorOccurred.connect(lambda _, text: _leave(1, f"it says: {text.lower().rstrip('.')}"))
        self.player.positionChanged.connect(lambda at: _tell(PLAYS) if at else None)
        ended = QMediaPlayer.MediaStatus.EndOfMedia
        self.player.mediaStatusChanged.connect(lambda status: _leave(0) if status == ended else None)
        self.player.setSource(QUrl.fromLocalFile(str(path)))

    def begin(self) -> None:
        """Over the whole of the last screen."""
        screens = QGuiApplication.screens()
        self.setGeometry(screens[-1].geometry())
        self.showFullScreen()
        self.player.play()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        assert event is not None
        if event.key() == Qt.Key.Key_Escape:
            self.close()
        elif event.key() == Qt.Key.Key_Space:
            self.player.setPosition(0)
            self.player.play()
        else:
            super().keyPressEvent(event)

    def closeEvent(self, event: QCloseEvent | None) -> None:
        self.hide()
        _leave(0)


def _tell(text: str) -> None:
    print(text, flush=True)


def _leave(code: int, why: str = "") -> None:
    """The end of this process, without waiting for what a driver may still be busy with."""
    if why:
        print(why, file=sys.stderr, flush=True)
    os._exit(code)


def main(arguments: Sequence[str]) -> None:
    """Play the file that is named."""
    application = QApplication(["kymaton"])
    try:
        player = ClipPlayer(Path(arguments[0]))
    except ImportError:
        _leave(1, "it has no library to play films")
    player.begin()
    application.exec()


if __name__ == "__main__":
    main(sys.argv[1:])
