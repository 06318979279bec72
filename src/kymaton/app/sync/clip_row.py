"""The row that makes and plays a sync clip."""

from fractions import Fraction
from pathlib import Path

from PyQt6.QtWidgets import QFileDialog, QHBoxLayout, QLineEdit, QWidget

from kymaton.app.document import Document
from kymaton.app.kinds import FILMS, chooser
from kymaton.app.sync.measuring import make_clip
from kymaton.app.sync.player import Playing
from kymaton.app.widgets.basic import button, label
from kymaton.app.widgets.working import WorkRow
from kymaton.core.formats import read_format
from kymaton.core.measuring.clip_pattern import unlike
from kymaton.core.model import ShowError


class ClipRow(QWidget):
    """Format and length of a clip, and the buttons that make and play it."""

    def __init__(self, document: Document, work: WorkRow, playing: Playing) -> None:
        super().__init__()
        self.document, self.work, self.playing = document, work, playing
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        self.format, self.seconds = QLineEdit(), QLineEdit("20")
        self.format.setToolTip(
            "A rate unlike the camera's: else all flashes fall on one place of its frames, and tell half a frame only"
        )
        self._suggest()
        document.show_changed.connect(self._suggest)
        row.addWidget(label("Sync clip", "small"))
        for line, name, wide, unit in (
            (self.format, "Picture format of the sync clip: 720p60, 1920x1080p25", 110, ""),
            (self.seconds, "Length of the sync clip in s", 48, "s"),
        ):
            line.setAccessibleName(name)
            line.setFixedWidth(wide)
            row.addWidget(line)
            if unit:
                row.addWidget(label(unit, "small"))
        row.addWidget(button("Make it", self.ask_clip, "quiet", "Flash and beep, to be played before the camera"))
        row.addWidget(button("Play it", self.ask_play, "quiet", "Over the whole of the second screen; it flashes"))
        row.addStretch(1)

    def _suggest(self) -> None:
        """A rate unlike that of the show's picture, until somebody has typed one."""
        if not self.format.isModified():
            rate = unlike(Fraction(self.document.show.picture.rate))
            self.format.setText(f"720p{rate}")

    def ask_clip(self) -> None:
        chosen, _ = QFileDialog.getSaveFileName(
            self, "Make a sync clip", str(Path.home() / "sync clip.mp4"), chooser("Films", *FILMS)
        )
        if chosen:
            self.make_clip(Path(chosen))

    def ask_play(self) -> None:
        chosen, _ = QFileDialog.getOpenFileName(self, "Play a sync clip", str(Path.home()), chooser("Films", *FILMS))
        if chosen:
            self.play(Path(chosen))

    def play(self, path: Path) -> None:
        """Play a clip full screen; where that cannot be, it is said."""
        self.document.message.emit("The clip flashes about once a second: warn those who are in the room.")
        self.playing.start(path)

    def make_clip(self, path: Path) -> None:
        """Write a clip of the format and length that stand on the page."""
        try:
            picture, seconds = read_format(self.format.text()), float(self.seconds.text())
        except ShowError as error:
            self.document.message.emit(str(error))
            return
        except ValueError:
            self.document.message.emit(f"'{self.seconds.text()}' is not a length in seconds.")
            return
        self.work.start(
            lambda job: make_clip(path, picture, seconds, job), f"Making {path.name}",
            lambda made: self.document.message.emit(f"The clip was written to {made}. Play it full screen."),
        )  # fmt: skip
