"""Sounds laid over a film or over another recording, and put into the film; sound taken out; lists of films."""

import tempfile
from pathlib import Path
from typing import TYPE_CHECKING

from PyQt6.QtWidgets import QFileDialog, QHBoxLayout, QLineEdit, QVBoxLayout, QWidget

from kymaton.app.document import Document
from kymaton.app.kinds import FILMS, SOUNDS, chooser
from kymaton.app.sync.alignment import AlignmentView, amount, facts
from kymaton.app.sync.film_options import PREVIEW_S, FilmOptions
from kymaton.app.sync.laying import Laid, lay_over, lay_sides, make_film, make_films, take_out
from kymaton.app.sync.player import Playing
from kymaton.app.sync.sound_table import OFFSET, SoundTable
from kymaton.app.widgets.basic import button, empty, label
from kymaton.app.widgets.working import WorkRow
from kymaton.core.words import number

if TYPE_CHECKING:
    from kymaton.core.measuring.align import Alignment
    from kymaton.media.film.batch import JobResult, Order


class FilesPage(QWidget):
    """A film, or a first recording, and what is to be laid over it."""

    def __init__(self, document: Document, playing: Playing) -> None:
        super().__init__()
        self.document, self.playing = document, playing
        self.folder: tempfile.TemporaryDirectory[str] | None = None  # for what is only looked at
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(8)
        layout.addLayout(self._film_row())
        self.table = SoundTable(lambda: self.film.text())
        self.table.filled.connect(self._tell)
        self.table.refused.connect(document.message)
        self.table.currentCellChanged.connect(lambda *_: self._tell())
        layout.addWidget(self.table)
        layout.addLayout(self._sound_row())
        self.work = WorkRow(document)
        layout.addWidget(self.work)
        self.result = QVBoxLayout()
        layout.addLayout(self.result)
        self.options = FilmOptions(document.show.goals)
        self.options.preview_wanted.connect(self.preview)
        self.options.film_wanted.connect(self.ask_embed)
        layout.addWidget(self.options)
        layout.addStretch(1)
        self.table.fill()

    # putting together

    def _film_row(self) -> QVBoxLayout:
        both, row, more = QVBoxLayout(), QHBoxLayout(), QHBoxLayout()
        row.addWidget(label("Film, or first recording", "soft"))
        self.film = QLineEdit()
        self.film.setAccessibleName("Film, or first recording")
        self.film.setPlaceholderText("it stays as it is")
        self.film.textChanged.connect(lambda: self.table.forget_found())
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

    def _sound_row(self) -> QHBoxLayout:
        row = QHBoxLayout()
        row.addWidget(button("Add sounds", self.ask_sounds, "", "Recordings of the same sound; drop them here"))
        row.addWidget(
            button("Its own sound", self.add_own, "", "To shift it, to swap its sides, to bring it to a loudness")
        )
        row.addWidget(button("Remove", self.table.remove_chosen, "quiet", "Take the chosen sound off the table"))
        row.addStretch(1)
        row.addWidget(button("Lay over each other", self.align, "main", "Offset, drift, polarity and level"))
        return row

    # the table

    def ask_film(self) -> None:
        start = str(Path(self.film.text()).parent if self.film.text() else Path.home())
        chosen, _ = QFileDialog.getOpenFileName(self, "Film, or first recording", start)
        if chosen:
            self.film.setText(chosen)

    def ask_sounds(self) -> None:
        start = str(Path(self.film.text()).parent if self.film.text() else Path.home())
        chosen, _ = QFileDialog.getOpenFileNames(self, "Sounds", start, chooser("Sounds", *SOUNDS, *FILMS))
        for path in chosen:
            self.add(Path(path))

    def add(self, path: Path, offset_ms: float | None = None) -> None:
        """One more sound to be laid over the film."""
        self.table.add(Laid(path, offset_ms))

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

    # laying over

    def _chosen(self) -> Path | None:
        """The film; where there is none, that is said."""
        text = self.film.text().strip()
        if not text:
            self.document.message.emit("Choose a film, or a first recording, to begin with.")
        return Path(text) if text else None

    def align(self) -> None:
        film, sounds = self._chosen(), list(self.table.sounds)
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
        self.table.set_sounds(laid)
        self.table.setCurrentCell(max(0, self.table.currentRow()), OFFSET)
        self._tell()

    def _tell(self) -> None:
        """What is known of the chosen sound, and what can be made of all of them."""
        empty(self.result)
        sound = self.table.chosen
        if not self.table.sounds:
            text = (
                "Choose a film and add the sounds that were recorded apart from it: they are laid over the film by its "
                "own sound. Two recordings without picture can be laid over each other as well."
            )
            self.result.addWidget(label(text, "soft", wrap=True))
        if sound is not None and sound.found is not None:
            self._tell_found(sound, sound.found)
        self.options.setVisible(self.table.are_placed)

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

    def _ordered(self, out: Path, most_s: float | None = None) -> "Order | None":
        try:
            return self.options.order(Path(self.film.text()), self.table.tracks(), out, most_s)
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
        from kymaton.media.film.batch import describe

        self.document.message.emit(describe(done))
        self.document.log("film made", describe(done))

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
        from kymaton.media.film.batch import describe

        empty(self.result)
        made = sum(d.made is not None for d in all_done)
        self.result.addWidget(label(f"{made} of {len(all_done)} films were made", "heading"))
        for done in all_done:
            if done.made is not None:
                self.document.log("film made", describe(done))
            said = describe(done) if done.made is not None else f"{done.order.embedding.out.name}: {describe(done)}"
            self.result.addWidget(label(said, "" if done.made is not None else "problem", wrap=True))

    def stop(self) -> None:
        """Nothing that was only looked at stays on the disk."""
        if self.folder is not None:
            self.folder.cleanup()
            self.folder = None
