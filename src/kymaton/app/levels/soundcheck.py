"""The soundcheck sheet: one line for each input, with what to ask for, where its meter lands, and what was seen."""

import csv
import datetime
import io
import math
from functools import partial
from pathlib import Path

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QDragEnterEvent, QDropEvent, QGuiApplication
from PyQt6.QtWidgets import (
    QAbstractItemView,
    QFileDialog,
    QHBoxLayout,
    QHeaderView,
    QTableWidgetItem,
    QVBoxLayout,
    QWidget,
)

from kymaton.app.document import Document
from kymaton.app.levels.tables import table_of
from kymaton.app.widgets.basic import button, label
from kymaton.app.widgets.working import WorkRow
from kymaton.app.work import Job
from kymaton.core.errors import FileError
from kymaton.core.levels.soundcheck import FEW_DB, Check, checks_of, lines_of, seen, ticked
from kymaton.core.words import number, sentence
from kymaton.store.atomic import write_whole
from kymaton.store.csvfile import harmless

COLUMNS = ("Input", "Sound", "Peaks to", "Expected", "Seen", "VU about", "PPM about", "Ask for")
SEEN = 4
TICK = 28  # what a tick takes beside its word, px
SCALES = (
    "Peaks in dB under full scale of the input, as a meter of samples shows them. VU: 0 is +4 dBu, the mean of some "
    "300 ms. PPM: dB over the alignment level of 0 dBu (EBU R 68: −18 dBFS; SMPTE RP 155 has +4 dBu at −20 dBFS)."
)


class SoundcheckPage(QWidget):
    """A tick says that an input was looked at; a peak that is typed is taken for how loud its sound is."""

    def __init__(self, document: Document) -> None:
        super().__init__()
        self.document = document
        self.checks: list[Check] = []
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(8)
        row = QHBoxLayout()
        self.about = label("", "soft", wrap=True)
        row.addWidget(self.about, 1)
        row.addWidget(button("Copy", self.copy, "quiet", "The sheet as text"))
        row.addWidget(button("Save as CSV", self.ask_csv, "quiet", "The sheet as a table"))
        layout.addLayout(row)
        self.table = table_of(COLUMNS)
        self.table.setAccessibleName("Soundcheck")
        self.table.setEditTriggers(
            QAbstractItemView.EditTrigger.DoubleClicked
            | QAbstractItemView.EditTrigger.EditKeyPressed
            | QAbstractItemView.EditTrigger.AnyKeyPressed
        )
        self.table.itemChanged.connect(self._changed)
        layout.addWidget(self.table, 1)
        layout.addWidget(label(SCALES, "small", wrap=True))
        document.report_changed.connect(self.refresh)
        self.work = WorkRow(document)
        layout.insertWidget(1, self.work)
        self.setAcceptDrops(True)

    def dragEnterEvent(self, event: QDragEnterEvent | None) -> None:
        data = event.mimeData() if event is not None else None
        if event is not None and data is not None and data.hasUrls():
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent | None) -> None:
        """A recording of an input, dropped on its line."""
        data = event.mimeData() if event is not None else None
        viewport = self.table.viewport()
        if event is None or data is None or viewport is None:
            return
        at = self.table.indexAt(viewport.mapFrom(self, event.position().toPoint())).row()
        paths = [Path(u.toLocalFile()) for u in data.urls() if u.isLocalFile()]
        if paths and 0 <= at < len(self.checks):
            self.take_recording(at, paths[0])

    def take_recording(self, row: int, path: Path) -> None:
        """The true peak of a recording of an input is what its meter showed."""
        self.work.start(partial(_peak_of, path), f"Measuring {path.name}", partial(self._recorded, self.checks[row]))

    def _recorded(self, check: Check, peak: float | str) -> None:
        if isinstance(peak, str):
            self.document.message.emit(peak)
            return
        today = datetime.date.today().isoformat()
        text = f"{number(peak)} dB recorded at {check.name}"
        self.document.edit(seen(self.document.show, check, peak, today), text)

    def focus_first(self) -> None:
        """The keyboard to the first input that was not looked at."""
        self.table.setFocus()
        row = next((n for n, c in enumerate(self.checks) if not c.done), 0)
        self.table.setCurrentCell(row, SEEN)

    def refresh(self) -> None:
        """All inputs, as far as they are known."""
        report = self.document.report
        if not self.isVisible() or report is None:
            return
        self.checks = checks_of(report)
        at = self.table.currentRow(), self.table.currentColumn()
        self.table.blockSignals(True)
        self.table.setRowCount(len(self.checks))
        for row, check in enumerate(self.checks):
            for column, text in enumerate(self._texts(check)):
                item = QTableWidgetItem(text)
                flags = Qt.ItemFlag.ItemIsEnabled | Qt.ItemFlag.ItemIsSelectable
                if column == 0:
                    flags |= Qt.ItemFlag.ItemIsUserCheckable
                    item.setCheckState(Qt.CheckState.Checked if check.done else Qt.CheckState.Unchecked)
                if column == SEEN:
                    flags |= Qt.ItemFlag.ItemIsEditable
                    item.setToolTip("Type the peak that the meter shows: −14")
                item.setFlags(flags)
                self.table.setItem(row, column, item)
        header = self.table.horizontalHeader()
        if header is not None:
            header.setSectionResizeMode(0, QHeaderView.ResizeMode.Fixed)
            self.table.setColumnWidth(0, self.table.sizeHintForColumn(0) + TICK)
        self.table.setCurrentCell(*at)
        self.table.blockSignals(False)
        done = sum(c.done for c in self.checks)
        some = (
            f"{done} of {len(self.checks)} inputs looked at. Type under Seen what the meter shows: the levels follow."
        )
        self.about.setText(some if self.checks else "No input has a gain and a sound that must be heard yet.")

    def _texts(self, check: Check) -> list[str]:
        show = self.document.show
        away = check.now - check.lands
        turn = "" if abs(away) <= FEW_DB else f", turn {'down' if away > 0 else 'up'} {number(abs(away))}"
        return [
            sentence(check.name), show.sound(check.sound).name, number(check.lands), f"{number(check.now)}{turn}",
            "" if check.seen is None else number(check.seen), "" if check.vu is None else number(check.vu),
            "" if check.ppm is None else number(check.ppm), check.ask,
        ]  # fmt: skip

    def _changed(self, item: QTableWidgetItem) -> None:
        check = self.checks[item.row()]
        document, today = self.document, datetime.date.today().isoformat()
        if item.column() == 0:
            done = item.checkState() == Qt.CheckState.Checked
            document.edit(ticked(document.show, check.control, done, today), f"look at {check.name}")
            return
        text = item.text().strip().replace("\N{MINUS SIGN}", "-").replace(",", ".").removesuffix("dB").strip()
        try:
            changed = seen(document.show, check, float(text), today)
        except ValueError:
            document.message.emit(f"'{item.text().strip()}' is no peak: type −120 to 24, as the meter shows it.")
            self.refresh()
            return
        document.edit(changed, f"{number(float(text))} dB seen at {check.name}")

    def _rows(self) -> list[list[str]]:
        return list(lines_of(self.checks, self.document.show))

    def copy(self) -> None:
        """The sheet as text with tabs."""
        clipboard = QGuiApplication.clipboard()
        if clipboard is not None:
            clipboard.setText("\n".join("\t".join(row) for row in self._rows()))
            self.document.message.emit("The sheet is copied as text.")

    def ask_csv(self, path: Path | None = None) -> None:
        """Write the sheet; asks for the file when none is given."""
        if path is None:
            start = str((self.document.folder or Path.home()) / "soundcheck.csv")
            name, _ = QFileDialog.getSaveFileName(self, "Save as CSV", start, "CSV (*.csv)")
            if not name:
                return
            path = Path(name)
        text = io.StringIO(newline="")
        writer = csv.writer(text)
        for row in self._rows():
            writer.writerow([harmless(x) if not x.lstrip("-").isdigit() else x for x in row])
        try:
            write_whole(path, text.getvalue().encode("utf-8"))
        except FileError as error:
            self.document.message.emit(str(error))
            return
        self.document.message.emit(f"Written: {path}")


def _peak_of(path: Path, job: Job) -> float | str:
    """The true peak of the first sound of a file, in dBTP; a sentence where there is none."""
    from kymaton.media import jobs

    try:
        peak = jobs.loudness_of(path, job.report).true_peak_dbtp
    except FileError as error:
        return str(error)
    return peak if math.isfinite(peak) else f"{path.name}: it is silent."
