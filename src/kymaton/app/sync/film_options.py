"""How a film is made from the sounds laid over it: codec, tracks, loudness."""

from pathlib import Path
from typing import TYPE_CHECKING

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QCheckBox, QComboBox, QGridLayout, QHBoxLayout, QLineEdit, QWidget

from kymaton.app.widgets.basic import button, label
from kymaton.core.model.show import Goals
from kymaton.core.words import number

if TYPE_CHECKING:
    from kymaton.media.film.batch import Order
    from kymaton.media.film.placing import Track

CODECS = ("keep", "aac", "flac", "pcm", "opus")
PREVIEW_S = 20.0
LOUDNESS_LUFS, TRUE_PEAK_DBTP = (-70.0, 0.0), (-20.0, 3.0)  # that may be asked for


class FilmOptions(QWidget):
    """The choices, and the buttons that make the beginning or the whole film."""

    preview_wanted = pyqtSignal()
    film_wanted = pyqtSignal()

    def __init__(self, goals: Goals) -> None:
        super().__init__()
        grid = QGridLayout(self)
        grid.setContentsMargins(0, 0, 0, 0)
        self.codec = QComboBox()
        self.codec.setAccessibleName("Codec of the new sound")
        for codec in CODECS:
            self.codec.addItem("sound as it is, where it can be" if codec == "keep" else codec.upper(), codec)
        self.original = QCheckBox("keep the film's own sound")
        self.shorter = QCheckBox("end with the shorter")
        self.shorter.setToolTip("Else what is too short is filled up with silence, and the picture decides the length")
        self.level = QCheckBox("bring to")
        self.loudness, self.peak = QLineEdit(), QLineEdit()
        for line, name, value in (
            (self.loudness, "Loudness in LUFS", goals.loudness_lufs),
            (self.peak, "Highest true peak in dBTP", goals.true_peak_dbtp),
        ):
            line.setAccessibleName(name)
            line.setText(f"{value:g}")
            line.setFixedWidth(52)
        levels = QHBoxLayout()
        for part in (self.level, self.loudness, label("LUFS, at most"), self.peak, label("dBTP")):
            levels.addWidget(part)
        levels.addStretch(1)
        grid.addWidget(self.codec, 0, 0)
        grid.addWidget(self.original, 0, 1)
        grid.addWidget(self.shorter, 0, 2)
        grid.addLayout(levels, 1, 0, 1, 3)
        makes = QHBoxLayout()
        makes.addWidget(
            button(f"Look at {number(PREVIEW_S)} s", self._look, "", "Makes the beginning and plays it full screen")
        )
        makes.addWidget(button("Embed into a new film", self._make, "main", "The picture is copied bit for bit"))
        makes.insertStretch(0, 1)
        grid.addLayout(makes, 2, 0, 1, 3)

    def _look(self) -> None:
        self.preview_wanted.emit()

    def _make(self) -> None:
        self.film_wanted.emit()

    def order(self, film: Path, tracks: "tuple[Track, ...]", out: Path, most_s: float | None = None) -> "Order":
        """The film to be made. Raises ValueError for a loudness that is no number, or out of reach."""
        from kymaton.media.film.batch import Order
        from kymaton.media.film.embed import Embedding

        job = Embedding(
            picture=film,
            tracks=tracks,
            out=out,
            codec=self.codec.currentData(),
            keep_original=self.original.isChecked(),
            shorter=self.shorter.isChecked(),
            most_s=most_s,
        )
        if not self.level.isChecked():
            return Order(job)
        goal, most = (float(x.text().replace("−", "-").replace(",", ".")) for x in (self.loudness, self.peak))
        if not (LOUDNESS_LUFS[0] <= goal <= LOUDNESS_LUFS[1] and TRUE_PEAK_DBTP[0] <= most <= TRUE_PEAK_DBTP[1]):
            raise ValueError
        return Order(job, False, goal, most)
