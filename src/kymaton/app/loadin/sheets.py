"""The sheets in the window: looked through, ticked, written as PDF, CSV or a page for a telephone; ticks read back."""

import csv
import datetime
import io
from functools import partial
from pathlib import Path

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QResizeEvent
from PyQt6.QtWidgets import (
    QFileDialog,
    QHBoxLayout,
    QInputDialog,
    QListWidget,
    QSpinBox,
    QTableWidgetItem,
    QVBoxLayout,
)

from kymaton.app.document import Document
from kymaton.app.levels.tables import BETWEEN_ROWS, table_of
from kymaton.app.settings import Settings
from kymaton.app.theme.theme import words
from kymaton.app.widgets.basic import Page, button, label
from kymaton.core.errors import FileError, ShowError
from kymaton.core.loadin.sheet import Sheet
from kymaton.core.loadin.sheets import HANDS, sheets_of
from kymaton.core.loadin.table_text import rows_of
from kymaton.core.loadin.ticks import compared, page_of, read_ticks, title_of, with_ticks
from kymaton.core.model import Tick
from kymaton.core.words import counted, joined
from kymaton.store.atomic import write_whole
from kymaton.store.csvfile import harmless

MOST_NAMED = 6
TICKED = 70  # px for a column with boxes


class SheetsPage(Page):
    """The list of sheets at the left, the chosen one at the right with its boxes to tick."""

    def __init__(self, document: Document, settings: Settings) -> None:
        super().__init__()
        self.document, self.settings = document, settings
        self.sheets: list[Sheet] = []
        layout = self.column
        row = QHBoxLayout()
        row.addWidget(button("Write the PDF", self.ask_pdf, "main", "All sheets on A4"))
        row.addWidget(button("Page for a telephone", self.ask_page, "", "One page to tick, whose ticks come back"))
        row.addWidget(button("Read ticks", self.ask_ticks, "", "What was ticked on the page"))
        row.addWidget(button("Labels", self.ask_labels, "", "For both ends of every lead"))
        row.addWidget(button("CSV", self.ask_csv, "quiet", "All sheets as one table"))
        row.addStretch(1)
        row.addWidget(label("hands", "soft"))
        self.hands = QSpinBox()
        self.hands.setRange(1, 20)
        self.hands.setValue(round(settings.number("hands", HANDS)))
        self.hands.valueChanged.connect(partial(settings.keep, "hands"))
        self.hands.setAccessibleName("How many people work")
        self.hands.valueChanged.connect(self.refresh)
        row.addWidget(self.hands)
        layout.addLayout(row)
        body = QHBoxLayout()
        self.names = QListWidget()
        self.names.setAccessibleName("Sheets")
        self.names.setMaximumWidth(190)
        self.names.currentRowChanged.connect(self._show)
        body.addWidget(self.names)
        side = QVBoxLayout()
        self.note = label("", "soft", wrap=True)
        side.addWidget(self.note)
        self.table = table_of(("",))
        self.table.setAccessibleName("The chosen sheet")
        self.table.setWordWrap(True)
        self.table.itemChanged.connect(self._ticked)
        side.addWidget(self.table, 1)
        body.addLayout(side, 1)
        layout.addLayout(body, 1)
        document.report_changed.connect(self.refresh)

    def focus_first(self) -> None:
        self.names.setFocus()

    def refresh(self) -> None:
        """All sheets as the show is now."""
        report = self.document.report
        if not self.isVisible() or report is None:
            return
        chosen = self.names.currentItem()
        before = chosen.text() if chosen is not None else ""
        self.sheets = sheets_of(self.document.show, self.hands.value(), report)
        titles = [s.title for s in self.sheets]
        self.names.blockSignals(True)
        self.names.clear()
        self.names.addItems(titles)
        self.names.setCurrentRow(titles.index(before) if before in titles else 0 if titles else -1)
        self.names.blockSignals(False)
        self._show(self.names.currentRow())

    def _show(self, at: int) -> None:
        table = self.table
        table.blockSignals(True)
        scrolled = table.verticalScrollBar()
        where = scrolled.value() if scrolled is not None else 0
        table.clear()
        if not 0 <= at < len(self.sheets):
            table.setRowCount(0)
            self.note.setText("There is no rig yet: devices are added at Path.")
            table.blockSignals(False)
            return
        sheet = self.sheets[at]
        self.note.setText(sheet.note)
        self.note.setVisible(bool(sheet.note))
        table.setColumnCount(len(sheet.columns))
        table.setHorizontalHeaderLabels([name for name, _ in sheet.columns])
        table.setRowCount(len(sheet.rows))
        known = {(t.sheet, t.item) for t in self.document.show.ticks}
        for row, content in enumerate(sheet.rows):
            for column, text in enumerate(content.cells):
                item = QTableWidgetItem(text.strip())
                item.setToolTip(text.strip())
                flags = Qt.ItemFlag.ItemIsEnabled | Qt.ItemFlag.ItemIsSelectable
                if content.heading:
                    item.setFont(words(13, 600))
                if column == 0 and content.key and sheet.tick:
                    flags |= Qt.ItemFlag.ItemIsUserCheckable
                    done = (sheet.tick, content.key) in known
                    item.setCheckState(Qt.CheckState.Checked if done else Qt.CheckState.Unchecked)
                item.setFlags(flags)
                table.setItem(row, column, item)
            if content.heading:
                table.setSpan(row, 0, 1, len(sheet.columns))
            elif table.columnSpan(row, 0) > 1:
                table.setSpan(row, 0, 1, 1)
        self._widen(sheet)
        if scrolled is not None:
            scrolled.setValue(where)
        table.blockSignals(False)

    def _widen(self, sheet: Sheet) -> None:
        """Columns by their shares of the width, as on paper; rows as high as their text."""
        table, head = self.table, self.table.horizontalHeader()
        view = table.viewport()
        if head is None or view is None:
            return
        shares = [share for _, share in sheet.columns]
        first = max(TICKED, round(view.width() * shares[0] / sum(shares)))
        for column, share in enumerate(shares):
            head.setSectionResizeMode(column, head.ResizeMode.Fixed)
            rest = (view.width() - first) * share / max(sum(shares[1:]), 1e-9)
            table.setColumnWidth(column, int(rest) if column else first)
        head.setSectionResizeMode(len(shares) - 1, head.ResizeMode.Stretch)
        table.resizeRowsToContents()
        for row in range(table.rowCount()):
            table.setRowHeight(row, table.rowHeight(row) + BETWEEN_ROWS)

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        if 0 <= self.names.currentRow() < len(self.sheets):
            self._widen(self.sheets[self.names.currentRow()])

    def _ticked(self, item: QTableWidgetItem) -> None:
        sheet = self.sheets[self.names.currentRow()]
        row = sheet.rows[item.row()]
        if item.column() or not row.key or not sheet.tick:
            return
        show, done = self.document.show, item.checkState() == Qt.CheckState.Checked
        rest = tuple(t for t in show.ticks if (t.sheet, t.item) != (sheet.tick, row.key))
        tick = Tick.checked(sheet=sheet.tick, item=row.key, date=datetime.date.today().isoformat())
        text = joined(c.strip() for c in row.cells[:3] if c.strip())
        self.document.edit(show.evolve(ticks=(*rest, tick) if done else rest), f"{'tick' if done else 'untick'} {text}")

    # files

    def _ask(self, title: str, name: str, kinds: str) -> Path | None:
        start = str((self.document.folder or Path.home()) / name)
        path, _ = QFileDialog.getSaveFileName(self, title, start, kinds)
        return Path(path) if path else None

    def _written(self, path: Path, more: str = "") -> None:
        self.document.message.emit(f"Written: {path}{more}")

    def ask_pdf(self, path: Path | None = None) -> None:
        """Write all sheets; asks for the file when none is given."""
        path = path or self._ask("The sheets as PDF", "load-in.pdf", "PDF (*.pdf)")
        if path is None:
            return
        from kymaton.app.loadin.paper import write_sheets  # late: the window opens without

        try:
            pages = write_sheets(self.document.show, self.sheets, path)
        except FileError as error:
            self.document.message.emit(str(error))
            return
        self._written(path, f", {counted(pages, 'page')}")

    def ask_labels(self, path: Path | None = None, size: str = "") -> None:
        """Write labels of a size that is typed; asks for what is not given."""
        from kymaton.app.loadin.paper import read_label_size, write_labels  # late: see above

        if not size:
            size, given = QInputDialog.getText(self, "Labels", "How wide and high is one label, in mm?",
                                              text=self.settings.text("label size", "60x24"))  # fmt: skip
            if not given:
                return
        try:
            sheet = read_label_size(size)
            self.settings.keep("label size", size)
            path = path or self._ask("Labels as PDF", "labels.pdf", "PDF (*.pdf)")
            if path is None:
                return
            pages = write_labels(self.document.show, sheet, path)
        except (ShowError, FileError) as error:
            self.document.message.emit(str(error))
            return
        self._written(path, f", {counted(pages, 'page')}")

    def ask_csv(self, path: Path | None = None) -> None:
        """Write all sheets as rows; asks for the file when none is given."""
        path = path or self._ask("The sheets as CSV", "load-in.csv", "CSV (*.csv)")
        if path is not None:
            text = io.StringIO(newline="")
            csv.writer(text).writerows([harmless(c) for c in row] for row in rows_of(self.sheets))
            self._write(path, text.getvalue())

    def ask_page(self, path: Path | None = None) -> None:
        """Write the page for a telephone; asks for the file when none is given."""
        path = path or self._ask("A page for a telephone", "load-in.html", "Web page (*.html)")
        if path is not None:
            self._write(path, page_of(self.document.show, self.sheets))

    def _write(self, path: Path, text: str) -> None:
        try:
            write_whole(path, text.encode("utf-8"))
        except FileError as error:
            self.document.message.emit(str(error))
            return
        self._written(path)

    def ask_ticks(self, path: Path | None = None) -> None:
        """Read ticks back; asks for the file when none is given."""
        if path is None:
            start = str(self.document.folder or Path.home())
            name, _ = QFileDialog.getOpenFileName(self, "What was ticked", start, "Ticks (*.json *.txt)")
            if not name:
                return
            path = Path(name)
        show = self.document.show
        try:
            text = path.read_text(encoding="utf-8")
            ticks, title = read_ticks(text), title_of(text)
        except (OSError, UnicodeDecodeError):
            self.document.message.emit(f"{path.name} cannot be read.")
            return
        except ShowError as error:
            self.document.message.emit(f"{path.name}: {error}")
            return
        after = with_ticks(show, ticks)
        self.document.edit(after, f"read {counted(len(ticks), 'tick')}")
        said = [f"{counted(len(ticks), 'tick')} read"]
        if title != show.title:
            said.append(f"they are of '{title}'")
        for names, what in zip(compared(after), ("not packed", "did not come back"), strict=True):
            if names:
                more = f" and {len(names) - MOST_NAMED} more" if len(names) > MOST_NAMED else ""
                said.append(f"{what}: {', '.join(names[:MOST_NAMED])}{more}")
        self.document.message.emit(f"{'; '.join(said)}.")
