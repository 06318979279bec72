"""Two recordings laid over each other, and a recorded sound put into a film."""

from pathlib import Path
from typing import TYPE_CHECKING, Any

from PyQt6.QtWidgets import QCheckBox, QComboBox, QFileDialog, QGridLayout, QHBoxLayout, QLineEdit, QVBoxLayout, QWidget

from kymaton.app.document import Document
from kymaton.app.sync.plot import Plot
from kymaton.app.widgets.basic import button, empty, label
from kymaton.app.widgets.working import WorkRow
from kymaton.app.work import Job
from kymaton.core.words import ms, number

if TYPE_CHECKING:
    from kymaton.core.align import Alignment

CODECS = ("keep", "aac", "flac", "pcm", "opus")


def lay_over(film: Path, sound: Path, job: Job) -> "Alignment":
    """To be run off-thread; FFmpeg is loaded only then."""
    from kymaton.media.align import align_files

    return align_files(film, sound, job.report)


def put_in(film: Path, sound: Path, found: "Alignment", out: Path, options: dict[str, Any], job: Job) -> Any:
    from kymaton.media.embed import Embedding, embed
    from kymaton.media.placing import Track

    track = Track(sound, found.offset_ms, found.drift_ppm, options["name"], options["language"])
    return embed(Embedding(film, (track,), out, options["codec"], options["original"]), job.report)


class FilesPage(QWidget):
    """A film and a sound: by how much they are apart, and a new film in which they are together."""

    def __init__(self, document: Document) -> None:
        super().__init__()
        self.document = document
        self.found: Alignment | None = None
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(8)
        grid = QGridLayout()
        self.film, self.sound = QLineEdit(), QLineEdit()
        for row, (word, line, tip) in enumerate(
            (
                ("Film, or first recording", self.film, "The recording that stays as it is"),
                ("Sound, or second recording", self.sound, "The recording that is laid over it"),
            )
        ):
            grid.addWidget(label(word, "soft"), row, 0)
            line.setAccessibleName(word)
            line.setToolTip(tip)
            line.textChanged.connect(self._forget)
            grid.addWidget(line, row, 1)
            grid.addWidget(button("Choose", lambda line=line, word=word: self._choose(line, word), "", tip), row, 2)
        layout.addLayout(grid)
        begin = QHBoxLayout()
        begin.addWidget(button("Lay over each other", self.align, "main", "Offset, drift, polarity and level"))
        begin.addStretch(1)
        layout.addLayout(begin)
        self.work = WorkRow(document)
        layout.addWidget(self.work)
        self.result = QVBoxLayout()
        layout.addLayout(self.result)
        self.options = QWidget()
        making = QGridLayout(self.options)
        making.setContentsMargins(0, 0, 0, 0)
        self.codec, self.name, self.language = QComboBox(), QLineEdit(), QLineEdit()
        self.codec.setAccessibleName("Codec of the new sound")
        for codec in CODECS:
            self.codec.addItem("codec as it is" if codec == "keep" else codec.upper(), codec)
        self.name.setPlaceholderText("name of the new track")
        self.language.setPlaceholderText("its language: eng, deu")
        self.name.setAccessibleName("Name of the new track")
        self.language.setAccessibleName("Language of the new track")
        self.original = QCheckBox("keep the film's own sound as a second track")
        for column, widget in enumerate((self.codec, self.name, self.language)):
            making.addWidget(widget, 0, column)
        making.addWidget(self.original, 1, 0, 1, 2)
        making.addWidget(
            button("Embed into a new film", self.ask_embed, "main", "The picture is copied bit for bit"), 1, 2
        )
        layout.addWidget(self.options)
        self.options.hide()
        layout.addStretch(1)

    def _choose(self, line: QLineEdit, word: str) -> None:
        chosen, _ = QFileDialog.getOpenFileName(
            self, word, str(Path(line.text()).parent if line.text() else Path.home())
        )
        if chosen:
            line.setText(chosen)

    def _forget(self) -> None:
        """Other files: what was found is no longer about them."""
        self.found = None
        empty(self.result)
        self.options.hide()

    def align(self) -> None:
        film, sound = Path(self.film.text()), Path(self.sound.text())
        self.work.start(lambda job: lay_over(film, sound, job), "Laying over each other", self._aligned)

    def _aligned(self, found: "Alignment") -> None:
        self._forget()
        self.found = found
        way = "later" if found.offset_ms >= 0 else "earlier"
        sure = number(found.plus_minus_ms, 2)
        text = f"The sound comes {ms(abs(found.offset_ms))} {way} in the second recording, ± {sure} ms"
        self.result.addWidget(label(text, "heading", wrap=True))
        turned = ", turned over" if found.polarity < 0 else ""
        side = "stronger" if found.level_db >= 0 else "softer"
        facts = f"Confidence {found.confidence}; {number(abs(found.level_db), 1)} dB {side}{turned}."
        if found.drift_ppm:
            facts += f" It drifts by {number(found.drift_ppm, 1)} ppm."
        self.result.addWidget(label(facts, "", wrap=True))
        for remark in found.remarks:
            self.result.addWidget(label(remark, "soft", wrap=True))
        points = [(s.time_s, 1000 * s.offset_s) for s in found.spots]
        if points and found.confidence != "low":
            self.result.addWidget(
                Plot(points, found.offset_ms, found.plus_minus_ms, "offset in ms, over the recording")
            )
        self.options.setVisible(found.confidence != "low")

    def ask_embed(self) -> None:
        film = Path(self.film.text())
        start = str(film.with_name(f"{film.stem} with sound{film.suffix}"))
        chosen, _ = QFileDialog.getSaveFileName(self, "Embed into a new film", start)
        if chosen:
            self.embed(Path(chosen))

    def embed(self, out: Path) -> None:
        """Make the new film, with what was found."""
        if self.found is None:
            return
        film, sound, found = Path(self.film.text()), Path(self.sound.text()), self.found
        options = {
            "codec": self.codec.currentData(), "original": self.original.isChecked(), "name": self.name.text().strip(),
            "language": self.language.text().strip(),
        }  # fmt: skip
        self.work.start(lambda job: put_in(film, sound, found, out, options, job), f"Making {out.name}", self._embedded)

    def _embedded(self, made: Any) -> None:
        left = "" if made.residual_ms is None else f" Measured again: {number(abs(made.residual_ms), 2)} ms are left."
        self.document.trouble.emit(f"The film was written to {made.out}.{left}")
