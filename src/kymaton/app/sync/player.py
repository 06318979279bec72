"""The sync clip over a whole screen, the second one where there is one."""

from collections.abc import Callable
from pathlib import Path
from typing import Any

from PyQt6.QtCore import Qt, QUrl
from PyQt6.QtGui import QGuiApplication, QKeyEvent
from PyQt6.QtWidgets import QVBoxLayout, QWidget


class ClipPlayer(QWidget):
    """Plays a clip once and closes; Esc closes it before, Space begins anew. QtMultimedia is loaded only here."""

    def __init__(self, path: Path, trouble: Callable[[str], object]) -> None:
        super().__init__()
        from PyQt6.QtMultimedia import QAudioOutput, QMediaPlayer
        from PyQt6.QtMultimediaWidgets import QVideoWidget

        self.setWindowTitle(f"{path.name}: Esc closes")
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self.setStyleSheet("background: black;")
        self.setCursor(Qt.CursorShape.BlankCursor)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        self.video: Any = QVideoWidget()
        self.video.setAspectRatioMode(Qt.AspectRatioMode.IgnoreAspectRatio)
        layout.addWidget(self.video)
        self.player: Any = QMediaPlayer()
        self.output: Any = QAudioOutput()
        self.player.setAudioOutput(self.output)
        self.player.setVideoOutput(self.video)
        self.player.errorOccurred.connect(lambda _, text: self._failed(path, text, trouble))
        ended = QMediaPlayer.MediaStatus.EndOfMedia
        self.player.mediaStatusChanged.connect(lambda status: self.close() if status == ended else None)
        self.player.setSource(QUrl.fromLocalFile(str(path)))

    def _failed(self, path: Path, text: str, trouble: Callable[[str], object]) -> None:
        trouble(f"{path.name} cannot be played here ({text.lower().rstrip('.')}). Any player will do, full screen.")
        self.close()

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

    def closeEvent(self, event: Any) -> None:
        self.player.stop()
        super().closeEvent(event)
