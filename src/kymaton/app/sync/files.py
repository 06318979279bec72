"""Sounds laid over a film or over another recording, and put into the film; sound taken out; lists of films."""

import tempfile
from pathlib import Path
from typing import TYPE_CHECKING

from msgspec.structs import replace
from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import (
    QAbstractItemView,
    QCheckBox,
    QComboBox,
    QFileDialog,
    QGridLayout,
    QHBoxLayout,
    QHeaderView,
    QLineEdit,
    QTableWidget,
    QTableWidgetItem,
    QVBoxLayout,
    QWidget,
)

from kymaton.app.document import Document
from kymaton.app.kinds import FILMS, SOUNDS, chooser
from kymaton.app.sync.alignment import AlignmentView, amount, facts
from kymaton.app.sync.laying import Laid, lay_over, lay_sides, make_film, make_films, take_out
from kymaton.app.sync.player import Playing
from kymaton.app.widgets.basic import button, empty, label
from kymaton.app.widgets.working import WorkRow
from kymaton.core.words import number

if TYPE_CHECKING:
    from kymaton.core.measuring.align import Alignment
    from kymaton.media.film.batch import JobResult, Order

CODECS = ("keep", "aac", "flac", "pcm", "opus")
PREVIEW_S = 20.0
FILE, OFFSET, DRIFT, NAME, LANGUAGE, SWAP = range(6)
TITLES = ("Sound", "comes later by, ms", "drift, ppm", "track name", "language", "swap L and R")


class FilesPage(QWidget):
    """A film, or a first recording, and what is to be laid over it."""

    def __init__(self, document: Document, playing: Playing) -> None:
        super().__init__()
        self.document, self.playing = document, playing
        self.sounds: list[Laid] = []
        self.folder: tempfile.TemporaryDirectory[str] | None = None  # for what is only looked at
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(8)
        layout.addLayout(self._film_row())
        layout.addWidget(self._table())
        layout.addLayout(self._sound_row())
        self.work = WorkRow(document)
        layout.addWidget(self.work)
        self.result = QVBoxLayout()
        layout.addLayout(self.result)
        layout.addWidget(self._options())
        layout.addStretch(1)
        self._fill()

    # putting together

    def _film_row(self) -> QVBoxLayout:
        both, row, more = QVBoxLayout(), QHBoxLayout(), QHBoxLayout()
        row.addWidget(label("Film, or first recording", "soft"))
        self.film = QLineEdit()
        self.film.setAccessibleName("Film, or first recording")
        self.film.setPlaceholderText("it stays as it is")
        self.film.textChanged.connect(self._other_film)
        row.addWidget(self.film, 1)
        row.addWidget(button("Choose", self.ask_film, "", "A film, or any recording with sound"))
        tip = "One recording with what is sent on the left and what comes back on the right: echo, round trip"
        more.addWidget(button("Right against left", self.compare_sides, "quiet", tip))
        more.addWidget(button("Extract its sound", self.ask_extract, "quiet", "As a WAV or FLAC file of its own"))
        more.addWidget(button("A list of films", self.ask_list, "quiet", "CSV: picture, sound, out; made one by one"))
        more.addStretch(1)
        both.addLayout(row)
        both.addLayout(more)
        both.setSpacing(2)
        return both

    def _table(self) -> QTableWidget:
        self.table = QTableWidget(0, len(TITLES))
        self.table.setHorizontalHeaderLabels(TITLES)
        self.table.setAccessibleName("Sounds to be laid over it")
        self.table.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectRows)
        side, head = self.table.verticalHeader(), self.table.horizontalHeader()
        assert side is not None and head is not None
        side.hide()
        head.setSectionResizeMode(QHeaderView.ResizeMode.ResizeToContents)
        head.setSectionResizeMode(FILE, QHeaderView.ResizeMode.Stretch)
        head.setDefaultAlignment(Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter)
        self.table.itemChanged.connect(self._typed)
        self.table.currentCellChanged.connect(lambda row, *_: self._tell(row))
        return self.table

    def _sound_row(self) -> QHBoxLayout:
        row = QHBoxLayout()
        row.addWidget(button("Add sounds", self.ask_sounds, "", "Recordings of the same sound; drop them here"))
        row.addWidget(
            button("Its own sound", self.add_own, "", "To shift it, to swap its sides, to bring it to a loudness")
        )
        row.addWidget(button("Remove", self.remove, "quiet", "Take the chosen sound off the table"))
        row.addStretch(1)
        row.addWidget(button("Lay over each other", self.align, "main", "Offset, drift, polarity and level"))
        return row

    def _options(self) -> QWidget:
        self.options = QWidget()
        grid = QGridLayout(self.options)
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
        goals = self.document.show.goals
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
            button(f"Look at {number(PREVIEW_S)} s", self.preview, "", "Makes the beginning and plays it full screen")
        )
        makes.addWidget(button("Embed into a new film", self.ask_embed, "main", "The picture is copied bit for bit"))
        makes.insertStretch(0, 1)
        grid.addLayout(makes, 2, 0, 1, 3)
        return self.options

    # the table

    def ask_film(self) -> None:
        start = str(Path(self.film.text()).parent if self.film.text() else Path.home())
        chosen, _ = QFileDialog.getOpenFileName(self, "Film, or first recording", start)
        if chosen:
            self.film.setText(chosen)

    def _other_film(self) -> None:
        """What was found is not about another film; what was typed stays."""
        self.sounds = [s if s.found is None else Laid(s.path) for s in self.sounds]
        self._fill()

    def ask_sounds(self) -> None:
        start = str(Path(self.film.text()).parent if self.film.text() else Path.home())
        chosen, _ = QFileDialog.getOpenFileNames(self, "Sounds", start, chooser("Sounds", *SOUNDS, *FILMS))
        for path in chosen:
            self.add(Path(path))

    def add(self, path: Path, offset_ms: float | None = None) -> None:
        """One more sound to be laid over the film."""
        self.sounds.append(Laid(path, offset_ms))
        self._fill()
        self.table.setCurrentCell(len(self.sounds) - 1, OFFSET)

    def dropped(self, paths: list[Path]) -> None:
        """The first film, where none is chosen yet; all else are sounds."""
        for path in paths:
            if not self.film.text() and path.suffix.lower() in FILMS:
                self.film.setText(str(path))
            else:
                self.add(path)

    def add_own(self) -> None:
        film = self._chosen()
        if film is not None:
            self.add(film, 0.0)

    def remove(self) -> None:
        row = self.table.currentRow()
        if 0 <= row < len(self.sounds):
            del self.sounds[row]
            self.table.removeRow(row)
            self._fill()

    def _fill(self) -> None:
        """The table from what is known; names, languages and ticks stay in their rows."""
        self.table.blockSignals(True)
        self.table.setRowCount(len(self.sounds))
        for row, sound in enumerate(self.sounds):
            own = sound.path == Path(self.film.text())
            self._put(row, FILE, "the film's own sound" if own else sound.path.name, False)
            self._put(row, OFFSET, "" if sound.offset_ms is None else number(sound.offset_ms, 2))
            self._put(row, DRIFT, number(sound.drift_ppm, 1) if sound.drift_ppm else "")
            for column in (NAME, LANGUAGE, SWAP):
                if self.table.item(row, column) is None:
                    self._put(row, column, "")
        self.table.blockSignals(False)
        shown = min(5, max(2, len(self.sounds)))
        self.table.setFixedHeight(30 + shown * max(30, self.table.rowHeight(0)))
        self._tell(self.table.currentRow())

    def _put(self, row: int, column: int, text: str, editable: bool = True) -> None:
        item = QTableWidgetItem(text)
        if column == SWAP:
            item.setFlags(Qt.ItemFlag.ItemIsEnabled | Qt.ItemFlag.ItemIsUserCheckable)
            item.setCheckState(Qt.CheckState.Unchecked)
        elif not editable:
            item.setFlags(item.flags() & ~Qt.ItemFlag.ItemIsEditable)
            item.setToolTip(str(self.sounds[row].path))
        self.table.setItem(row, column, item)

    def _typed(self, item: QTableWidgetItem) -> None:
        """An offset or a drift by hand."""
        row, column = item.row(), item.column()
        if column not in (OFFSET, DRIFT):
            return
        sound, text = self.sounds[row], item.text().strip().replace("−", "-").replace(",", ".")
        try:
            value = float(text) if text else None
            if value is not None and not abs(value) < (1e8 if column == OFFSET else 5000):
                raise ValueError
        except ValueError:
            self.document.message.emit(f"'{item.text()}' is not a number of {'ms' if column == OFFSET else 'ppm'}.")
        else:
            given = {"offset_ms": value} if column == OFFSET else {"drift_ppm": value or 0.0}
            self.sounds[row] = replace(sound, found=None, **given)
        self._fill()

    # laying over

    def _chosen(self) -> Path | None:
        """The film; where there is none, that is said."""
        text = self.film.text().strip()
        if not text:
            self.document.message.emit("Choose a film, or a first recording, to begin with.")
        return Path(text) if text else None

    def align(self) -> None:
        film, sounds = self._chosen(), list(self.sounds)
        if film is None:
            return
        if sounds:
            self.work.start(lambda job: lay_over(film, sounds, job), "Laying over each other", self._aligned)
        else:
            self.document.message.emit("Add a sound first: a recording of what is heard in the film.")

    def compare_sides(self) -> None:
        """How much later what is on the left comes on the right of the first recording."""
        path = self._chosen()
        if path is None:
            return
        self.work.start(
            lambda job: lay_sides(path, job), f"Laying the sides of {path.name} over each other", self._sides
        )

    def _sides(self, found: "Alignment") -> None:
        empty(self.result)
        name, text = Path(self.film.text()).name, facts(found)
        if found.confidence == "low":
            heading, text = f"The sides of {name} cannot be laid over each other", " ".join(found.remarks)
        else:
            sure = number(found.plus_minus_ms, 2)
            heading = f"What is on the left comes {amount(found)} on the right, ± {sure} ms"
            self.document.log("measured", f"{name}: {heading}. {text}")
        self.result.addWidget(AlignmentView(heading, text, found))

    def _aligned(self, laid: list[Laid]) -> None:
        self.sounds = laid
        self._fill()
        self.table.setCurrentCell(max(0, self.table.currentRow()), OFFSET)
        self._tell(self.table.currentRow())

    def _tell(self, row: int) -> None:
        """What is known of the chosen sound, and what can be made of all of them."""
        empty(self.result)
        sound = self.sounds[row] if 0 <= row < len(self.sounds) else None
        if not self.sounds:
            text = (
                "Choose a film and add the sounds that were recorded apart from it: they are laid over the film by its "
                "own sound. Two recordings without picture can be laid over each other as well."
            )
            self.result.addWidget(label(text, "soft", wrap=True))
        if sound is not None and sound.found is not None:
            self._tell_found(sound, sound.found)
        self.options.setVisible(bool(self.sounds) and all(s.offset_ms is not None for s in self.sounds))

    def _tell_found(self, sound: Laid, found: "Alignment") -> None:
        first, other = Path(self.film.text()).name, sound.path.name
        if found.confidence == "low":
            heading = f"{other} cannot be laid over {first}"
            text = " ".join([*found.remarks, "Type by how much it comes later, or remove it."])
        else:
            sure = number(found.plus_minus_ms, 2)
            heading, text = f"In {other} the sound comes {amount(found)} than in {first}, ± {sure} ms", facts(found)
        self.result.addWidget(AlignmentView(heading, text, found))

    # making

    def order(self, out: Path, most_s: float | None = None) -> "Order":
        """The film to be made, as it stands on this page. Raises ValueError for a loudness that is no number."""
        from kymaton.media.film.batch import Order
        from kymaton.media.film.embed import Embedding
        from kymaton.media.film.placing import Track

        tracks = []
        for row, sound in enumerate(self.sounds):
            name, language, swap = (self.table.item(row, c) for c in (NAME, LANGUAGE, SWAP))
            assert name is not None and language is not None and swap is not None
            swapped = swap.checkState() == Qt.CheckState.Checked
            placed = Track(sound.path, sound.offset_ms or 0.0, sound.drift_ppm)
            tracks.append(replace(placed, name=name.text().strip(), language=language.text().strip(), swap=swapped))
        job = Embedding(
            Path(self.film.text()), tuple(tracks), out, self.codec.currentData(), self.original.isChecked(),
            self.shorter.isChecked(), most_s,
        )  # fmt: skip
        if not self.level.isChecked():
            return Order(job)
        goal, most = (float(x.text().replace("−", "-").replace(",", ".")) for x in (self.loudness, self.peak))
        if not (-70 <= goal <= 0 and -20 <= most <= 3):
            raise ValueError
        return Order(job, False, goal, most)

    def _ordered(self, out: Path, most_s: float | None = None) -> "Order | None":
        try:
            return self.order(out, most_s)
        except ValueError:
            self.document.message.emit("A loudness lies between −70 and 0 LUFS, a true peak between −20 and 3 dBTP.")
            return None

    def ask_embed(self) -> None:
        film = Path(self.film.text())
        start = str(film.with_name(f"{film.stem} with sound{film.suffix}"))
        chosen, _ = QFileDialog.getSaveFileName(self, "Embed into a new film", start)
        if chosen:
            self.embed(Path(chosen))

    def embed(self, out: Path) -> None:
        """Make the new film, with what stands on this page."""
        order = self._ordered(out)
        if order is not None:
            self.work.start(lambda job: make_film(order, job), f"Making {out.name}", self._embedded)

    def _embedded(self, done: "JobResult") -> None:
        from kymaton.media.film.batch import told

        self.document.message.emit(told(done))
        self.document.log("film made", told(done))

    def preview(self) -> None:
        """Only the beginning, made beside everything else, and played."""
        if self.folder is None:
            self.folder = tempfile.TemporaryDirectory(prefix="kymaton-")
        film = Path(self.film.text())
        order = self._ordered(Path(self.folder.name) / f"beginning of {film.stem}{film.suffix}", PREVIEW_S)
        if order is not None:
            self.work.start(
                lambda job: make_film(order, job), "Making the beginning",
                lambda done: self.playing.start(done.order.embedding.out),
            )  # fmt: skip

    def ask_extract(self) -> None:
        film = self._chosen()
        if film is None:
            return
        chosen, _ = QFileDialog.getSaveFileName(
            self, "Extract the sound", str(film.with_suffix(".wav")), "Sound (*.wav *.flac)"
        )
        if chosen:
            self.extract(Path(chosen))

    def extract(self, out: Path) -> None:
        film = Path(self.film.text())
        self.work.start(
            lambda job: take_out(film, out, job), f"Extracting the sound of {film.name}",
            lambda seconds: self.document.message.emit(f"{number(seconds, 1)} s of sound were written to {out}."),
        )  # fmt: skip

    def ask_list(self) -> None:
        chosen, _ = QFileDialog.getOpenFileName(self, "A list of films", str(Path.home()), "Lists (*.csv)")
        if chosen:
            self.make_list(Path(chosen))

    def make_list(self, path: Path) -> None:
        """Make all films of a list; what became of each stands below."""
        self.work.start(lambda job: make_films(path, job), f"Making the films of {path.name}", self._listed)

    def _listed(self, all_done: list["JobResult"]) -> None:
        from kymaton.media.film.batch import told

        empty(self.result)
        made = sum(d.made is not None for d in all_done)
        self.result.addWidget(label(f"{made} of {len(all_done)} films were made", "heading"))
        for done in all_done:
            if done.made is not None:
                self.document.log("film made", told(done))
            name = "" if done.made is not None else f"{done.order.embedding.out.name}: "
            self.result.addWidget(label(f"{name}{told(done)}", "" if done.made is not None else "problem", wrap=True))

    def stop(self) -> None:
        """Nothing that was only looked at stays on the disk."""
        if self.folder is not None:
            self.folder.cleanup()
            self.folder = None
