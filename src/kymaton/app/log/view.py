"""The logbook: what was measured, set and made in this show or in all, and notes of one's own."""

import datetime
from pathlib import Path

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QGuiApplication, QKeySequence, QShortcut, QShowEvent
from PyQt6.QtWidgets import (
    QAbstractItemView,
    QCheckBox,
    QFileDialog,
    QHBoxLayout,
    QHeaderView,
    QLineEdit,
    QTableWidget,
    QTableWidgetItem,
    QVBoxLayout,
)

from kymaton.app.document import Document
from kymaton.app.widgets.basic import StepView, button, label
from kymaton.core.errors import FileError
from kymaton.store.logbook import Entry

TITLES = ("When", "Show", "Cue", "What", "")


class LogView(StepView):
    """Lines of the logbook, the newest on top; they are not changed, only forgotten where that is wanted."""

    def __init__(self, document: Document) -> None:
        super().__init__()
        self.document = document
        self.entries: list[Entry] = []
        self.sure = False  # that the chosen lines are to be forgotten
        layout = QVBoxLayout(self)
        layout.setContentsMargins(20, 12, 16, 10)
        layout.setSpacing(8)
        head = QHBoxLayout()
        head.addWidget(label("Logbook", "title"))
        head.addSpacing(8)
        self.about = label("", "small")
        head.addWidget(self.about, 1)
        self.all_shows = QCheckBox("all shows")
        self.all_shows.toggled.connect(lambda _: self.refresh())
        head.addWidget(self.all_shows)
        self.forget_button = button("Forget", self.forget, "quiet", "Take the chosen lines out for good (Delete)")
        head.addWidget(self.forget_button)
        head.addWidget(button("Save as CSV", self.ask_csv, "", "What is shown, and what is older, as a table"))
        layout.addLayout(head)
        row = QHBoxLayout()
        self.note = QLineEdit()
        self.note.setAccessibleName("A note for the logbook")
        self.note.setPlaceholderText("A note: what happened, what to do otherwise next time; Enter keeps it")
        self.note.returnPressed.connect(self.keep_note)
        row.addWidget(self.note)
        layout.addLayout(row)
        self.table = QTableWidget(0, len(TITLES))
        self.table.setHorizontalHeaderLabels(TITLES)
        self.table.setAccessibleName("Lines of the logbook, the newest first")
        self.table.setEditTriggers(QAbstractItemView.EditTrigger.NoEditTriggers)
        self.table.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectRows)
        self.table.setWordWrap(True)
        side, top = self.table.verticalHeader(), self.table.horizontalHeader()
        assert side is not None and top is not None
        side.hide()
        top.setSectionResizeMode(QHeaderView.ResizeMode.ResizeToContents)
        top.setSectionResizeMode(len(TITLES) - 1, QHeaderView.ResizeMode.Stretch)
        top.setDefaultAlignment(Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter)
        top.sectionResized.connect(lambda *_: self.table.resizeRowsToContents())
        layout.addWidget(self.table, 1)
        copy = QShortcut(QKeySequence(QKeySequence.StandardKey.Copy), self.table)
        copy.setContext(Qt.ShortcutContext.WidgetShortcut)
        copy.activated.connect(self.copy)
        delete = QShortcut(QKeySequence(QKeySequence.StandardKey.Delete), self.table)
        delete.setContext(Qt.ShortcutContext.WidgetShortcut)
        delete.activated.connect(self.forget)
        self.table.itemSelectionChanged.connect(self._ask_anew)
        document.logged.connect(self.refresh)
        document.file_changed.connect(self.refresh)

    def showEvent(self, event: QShowEvent | None) -> None:
        super().showEvent(event)
        self.refresh()

    @property
    def only(self) -> str | None:
        """The show whose lines are wanted; None for all."""
        return None if self.all_shows.isChecked() else self.document.show.title

    def refresh(self) -> None:
        if not self.isVisible():
            return
        try:
            self.entries = self.document.logbook.entries(self.only)
        except FileError as error:
            self.entries = []
            self.document.message.emit(str(error))
        self.table.setRowCount(len(self.entries))
        for row, entry in enumerate(self.entries):
            when = entry.date_time.replace("T", "  ")[:17]
            for column, text in enumerate((when, entry.show, entry.cue, entry.kind, entry.text)):
                self.table.setItem(row, column, QTableWidgetItem(text))
        self.table.setColumnHidden(1, self.only is not None)
        self.table.resizeRowsToContents()
        empty = "Nothing is in it yet. What is measured, entered and made stands here by itself."
        many = f"{len(self.entries)} {'line' if len(self.entries) == 1 else 'lines'}"
        self.about.setText(many if self.entries else empty)

    def focus_first(self) -> None:
        """The keyboard where work begins: the line for a note."""
        self.note.setFocus()

    def keep_note(self) -> None:
        text = self.note.text().strip()
        if text:
            self.document.log("note", text)
            self.note.clear()

    def _chosen(self) -> list[Entry]:
        return [self.entries[row] for row in sorted({index.row() for index in self.table.selectedIndexes()})]

    def _ask_anew(self) -> None:
        self.sure = False
        self.forget_button.setText("Forget")

    def forget(self) -> None:
        """Take the chosen lines out for good; asked for twice, as nothing brings them back."""
        chosen = self._chosen()
        if not chosen:
            self.document.message.emit("Choose the lines first that are to be forgotten.")
        elif not self.sure:
            self.sure = True
            many = "this line" if len(chosen) == 1 else f"{len(chosen)} lines"
            self.forget_button.setText(f"Press again: {many}, for good")
        else:
            try:
                self.document.logbook.forget(entry.id for entry in chosen)
            except FileError as error:
                self.document.message.emit(str(error))
            self.refresh()
            self.table.clearSelection()
            self._ask_anew()

    def copy(self) -> None:
        """The chosen lines as text, columns by tabs."""
        lines = ["\t".join(entry.cells) for entry in self._chosen()]
        board = QGuiApplication.clipboard()
        assert board is not None
        board.setText("\n".join(lines))

    def ask_csv(self) -> None:
        name = f"logbook {datetime.date.today().isoformat()}.csv"
        chosen, _ = QFileDialog.getSaveFileName(self, "Save the logbook", str(Path.home() / name), "CSV (*.csv)")
        if chosen:
            self.write_csv(Path(chosen))

    def write_csv(self, path: Path) -> None:
        try:
            many = self.document.logbook.write_csv(path, self.only)
        except FileError as error:
            self.document.message.emit(str(error))
            return
        self.document.message.emit(f"{many} {'line was' if many == 1 else 'lines were'} written to {path}.")
