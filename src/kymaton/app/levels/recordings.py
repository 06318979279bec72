"""Recordings on the bench: dropped, measured one after the other, held against a goal, and heard where it is wrong."""

from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING

import numpy as np
from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QDragEnterEvent, QDropEvent
from PyQt6.QtWidgets import (
    QComboBox,
    QFileDialog,
    QHBoxLayout,
    QListWidget,
    QListWidgetItem,
    QTableWidgetItem,
    QVBoxLayout,
    QWidget,
)

from kymaton.app.document import Document
from kymaton.app.levels.curve import CurveView
from kymaton.app.levels.tables import table_of
from kymaton.app.listen import Player
from kymaton.app.tape import Tape
from kymaton.app.widgets.basic import button, label
from kymaton.app.widgets.working import WorkRow
from kymaton.app.work import Job
from kymaton.core.errors import FileError
from kymaton.core.levels.goals import GOALS, Goal, against_music, balance, goal_of, verdict
from kymaton.core.measuring.fault_words import clock, spot_text
from kymaton.core.words import number

if TYPE_CHECKING:
    from kymaton.media.bench import Benched

COLUMNS = ("Recording", "LUFS", "Range LU", "Short-term", "Momentary", "True peak", "Against the goal")
BEFORE_S, HEARD_S = 2.0, 15.0


class RecordingsPage(QWidget):
    """A line for each track; below it the curve of the chosen one, and what is wrong with it."""

    added = pyqtSignal()

    def __init__(self, document: Document) -> None:
        super().__init__()
        self.document = document
        self.found: list[Benched] = []
        self.music: set[str] = set()  # names of the recordings that are music
        self.waiting: list[Path] = []
        self.setAcceptDrops(True)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(8)
        row = QHBoxLayout()
        self.open_button = button("Add recordings", self.ask, "main", "Sounds or films; they can be dropped here, too")
        row.addWidget(self.open_button)
        row.addWidget(label("goal", "soft"))
        self.goals = QComboBox()
        self.goals.setAccessibleName("Loudness goal")
        for goal in GOALS:
            self.goals.addItem(f"{number(goal.lufs)} LUFS, {goal.origin}", goal.lufs)
        self._choose_goal()
        self.goals.activated.connect(lambda _: self.refresh())
        row.addWidget(self.goals)
        row.addStretch(1)
        self.music_button = button("Music", self.turn_music, "scope", "The chosen recording is music, not a voice")
        self.music_button.setCheckable(True)
        row.addWidget(self.music_button)
        self.clear_button = button("Clear", self.clear, "quiet", "Take all off the bench; no file is touched")
        self.table_button = button("Save as CSV", self.ask_csv, "quiet", "What was measured, as a table")
        row.addWidget(self.table_button)
        row.addWidget(self.clear_button)
        layout.addLayout(row)
        self.work = WorkRow(document)
        layout.addWidget(self.work)
        self.table = table_of(COLUMNS)
        self.table.setAccessibleName("Recordings on the bench")
        self.table.itemSelectionChanged.connect(self._show_chosen)
        layout.addWidget(self.table)
        self.uneven = label("", "soft", wrap=True)
        layout.addWidget(self.uneven)
        self.curve = CurveView()
        self.curve.picked.connect(self.hear)
        layout.addWidget(self.curve, 2)
        below = QHBoxLayout()
        self.spots = QListWidget()
        self.spots.setAccessibleName("What is wrong with this recording; Enter plays it")
        self.spots.itemActivated.connect(self._hear_spot)
        self.spots.itemClicked.connect(self._hear_spot)
        self.spots.setMaximumHeight(120)
        below.addWidget(self.spots, 1)
        self.stop_button = button("Stop", self.stop, "", "Stop playing")
        below.addWidget(self.stop_button, 0, Qt.AlignmentFlag.AlignTop)
        layout.addLayout(below)
        self.empty = label(
            "Drop recordings here: loudness and true peak of every track by ITU-R BS.1770-5, and silence, clipping, "
            "gaps, hum and sides that are wrong, each with its time.", "soft", wrap=True,
        )  # fmt: skip
        layout.addWidget(self.empty, 3, Qt.AlignmentFlag.AlignTop)
        self.player = Player(self._buttons)
        document.report_changed.connect(self._choose_goal)
        self.refresh()

    @property
    def goal(self) -> Goal:
        """The goal that is chosen."""
        return goal_of(float(self.goals.currentData()))

    def _choose_goal(self) -> None:
        """The goal of the show is chosen, until another one is."""
        lufs = self.document.show.goals.loudness_lufs
        if self.goals.findData(lufs) < 0:
            self.goals.addItem(f"{number(lufs)} LUFS, of this show", lufs)
        if self.goals.property("of the show") != lufs:
            self.goals.setProperty("of the show", lufs)
            self.goals.setCurrentIndex(self.goals.findData(lufs))

    def dragEnterEvent(self, event: QDragEnterEvent | None) -> None:
        data = event.mimeData() if event is not None else None
        if event is not None and data is not None and data.hasUrls():
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent | None) -> None:
        data = event.mimeData() if event is not None else None
        self.add([Path(u.toLocalFile()) for u in data.urls() if u.isLocalFile()] if data is not None else [])

    def ask(self) -> None:
        """Choose files."""
        start = str(self.document.folder or Path.home())
        chosen, _ = QFileDialog.getOpenFileNames(self, "Recordings", start)
        self.add([Path(p) for p in chosen])

    def add(self, paths: list[Path]) -> None:
        """Measure files, one after the other."""
        self.waiting += paths
        self._next()

    def _next(self) -> None:
        if not self.waiting or self.work.job is not None:
            return
        path = self.waiting.pop(0)
        left = f", {len(self.waiting)} more wait" if self.waiting else ""
        self.work.start(partial(_measure, path), f"Measuring {path.name}{left}", partial(self._measured, path))

    def _measured(self, path: Path, found: "list[Benched] | str") -> None:
        if isinstance(found, str):
            self.document.message.emit(found)
        else:
            self.found = [b for b in self.found if b.path != path] + found
            self.music |= {b.name for b in found if _is_music(self.document, path)}
        self.refresh()
        if not self.table.selectedItems() and self.found:
            self.table.selectRow(0)
        self._next()

    def clear(self) -> None:
        """Take all off the bench."""
        self.stop()
        self.waiting = []
        self.work.stop()
        self.found = []
        self.refresh()

    def focus_first(self) -> None:
        """The keyboard to where recordings are added."""
        self.open_button.setFocus()

    def refresh(self) -> None:
        """Show all that was measured, held against the goal."""
        goal, chosen = self.goal, self.table.currentRow()
        self.table.blockSignals(True)
        self.table.setRowCount(len(self.found))
        for row, measured in enumerate(self.found):
            loud = measured.loudness
            judged = verdict(loud.integrated_lufs, loud.true_peak_dbtp, goal)
            name = f"{measured.name}, music" if measured.name in self.music else measured.name
            texts = [
                name, number(loud.integrated_lufs, 1), number(loud.range_lu, 1),
                number(loud.max_short_term_lufs, 1), number(loud.max_momentary_lufs, 1),
                f"{number(loud.true_peak_dbtp, 1)} dBTP", judged.sentence,
            ]  # fmt: skip
            for column, text in enumerate(texts):
                item = QTableWidgetItem(text)
                item.setToolTip(text)
                self.table.setItem(row, column, item)
        self.table.blockSignals(False)
        header = self.table.horizontalHeader()
        rows = sum(self.table.rowHeight(r) for r in range(len(self.found)))
        self.table.setFixedHeight(min(220, rows + (header.height() if header is not None else 30) + 8))
        if 0 <= chosen < len(self.found):
            self.table.selectRow(chosen)
        told = {b.name: b.loudness.integrated_lufs for b in self.found}
        voices = {name: lufs for name, lufs in told.items() if name not in self.music}
        uneven = balance(voices)
        played = against_music(voices.values(), (told[name] for name in told if name in self.music))
        uneven += [played] if played else []
        self.uneven.setText(". ".join(uneven) + "." if uneven else "")
        some = bool(self.found)
        for part in (self.table, self.curve, self.spots, self.clear_button, self.table_button, self.music_button):
            part.setVisible(some)
        self.uneven.setVisible(bool(uneven))
        self.empty.setVisible(not some)
        self._show_chosen()
        self._buttons()

    def turn_music(self) -> None:
        """The chosen recording is music, or a voice again."""
        if self.chosen is not None:
            self.music ^= {self.chosen.name}
            self.refresh()

    @property
    def chosen(self) -> "Benched | None":
        """The track in view."""
        row = self.table.currentRow()
        return self.found[row] if 0 <= row < len(self.found) else None

    def _show_chosen(self) -> None:
        measured = self.chosen
        self.music_button.setChecked(measured is not None and measured.name in self.music)
        self.spots.clear()
        if measured is None:
            self.curve.show_curve((), 0.0, (), self.goal)
            return
        self.curve.show_curve(measured.curve, measured.loudness.seconds, measured.spots, self.goal)
        for spot in measured.spots:
            item = QListWidgetItem(spot_text(spot))
            item.setData(Qt.ItemDataRole.UserRole, spot.from_s)
            self.spots.addItem(item)
        if measured.is_mono:
            self.spots.addItem(QListWidgetItem("Both sides carry the same"))
        if not self.spots.count():
            self.spots.addItem(QListWidgetItem("Nothing else is wrong with it"))

    def _hear_spot(self, item: QListWidgetItem) -> None:
        at = item.data(Qt.ItemDataRole.UserRole)
        if at is not None:
            self.hear(max(0.0, float(at) - BEFORE_S))

    def hear(self, from_s: float) -> None:
        """Play the chosen recording from a time on, for a while."""
        measured = self.chosen
        if measured is None:
            return
        path = measured.path
        what = f"Reading {measured.name} at {clock(from_s)}"
        self.work.start(partial(_excerpt, path, from_s), what, self._play)

    def _play(self, read: "tuple[np.ndarray, int] | str") -> None:
        if isinstance(read, str):
            self.document.message.emit(read)
            return
        samples, rate_hz = read
        trouble = self.player.play(Tape([samples], rate_hz))
        if trouble:
            self.document.message.emit(trouble)
        self._buttons()

    def stop(self) -> None:
        """Nothing plays any more."""
        self.player.stop()
        self._buttons()

    def _buttons(self) -> None:
        self.stop_button.setVisible(self.player.sink is not None)

    def ask_csv(self, path: Path | None = None) -> None:
        """Write the table; asks for the file when none is given."""
        if path is None:
            start = str((self.document.folder or Path.home()) / "loudness.csv")
            name, _ = QFileDialog.getSaveFileName(self, "Save as CSV", start, "CSV (*.csv)")
            if not name:
                return
            path = Path(name)
        from kymaton.media.bench_table import write_table

        try:
            write_table(path, self.found, self.goal)
        except FileError as error:
            self.document.message.emit(str(error))
            return
        self.document.message.emit(f"Written: {path}")


def _is_music(document: Document, path: Path) -> bool:
    """Whether a recording is named as an instrument or a playback of the show is."""
    name = path.stem.lower()
    return any(s.name.lower() in name for s in document.show.sounds if s.kind in ("instrument", "playback"))


def _measure(path: Path, job: Job) -> "list[Benched] | str":
    from kymaton.media import jobs

    try:
        return jobs.bench(path, job.report)
    except FileError as error:
        return str(error)


def _excerpt(path: Path, from_s: float, job: Job) -> "tuple[np.ndarray, int] | str":
    from kymaton.media import jobs

    try:
        return jobs.excerpt(path, from_s, HEARD_S)
    except FileError as error:
        return str(error)
