"""Tables of the brief: sounds, listeners, cues, the hearing plan. Every cell that can be typed in is an edit."""

from collections.abc import Callable
from typing import Any, get_args

from msgspec import Struct
from PyQt6.QtCore import QAbstractTableModel, QModelIndex, Qt
from PyQt6.QtGui import QDropEvent, QGuiApplication, QKeyEvent, QKeySequence
from PyQt6.QtWidgets import QAbstractItemView, QFrame, QHeaderView, QTableView

from kymaton.app.document import Document
from kymaton.app.theme.theme import THEME
from kymaton.app.widgets.basic import plain_tip
from kymaton.core.edits.cues import add_cue, move_cue, put_cue, remove_cue
from kymaton.core.edits.people import place_called, put_listener, put_sound, remove_listener, remove_sound
from kymaton.core.model import Show, ShowError
from kymaton.core.model.people import ListenerKind, SoundKind
from kymaton.core.words import number
from kymaton.language.people import read_brief

YES, NO = ("yes", "y", "true", "1"), ("no", "n", "false", "0", "")


class Column(Struct, frozen=True):
    """A column: its title, how a field is read and typed; `name` and `place` where that takes the rest of the show.

    What is typed may be several fields at once, as a dict.
    """

    title: str
    field: str
    show: Callable[[Any], str] = str
    read: Callable[[str], Any] = str
    name: Callable[[Show, Any], str] | None = None
    place: Callable[[Show, str], tuple[Show, Any]] | None = None

    def text(self, show: Show, item: Any) -> str:
        """What stands in the cell of an item."""
        value = getattr(item, self.field)
        return self.show(value) if self.name is None else self.name(show, value)

    def taken(self, show: Show, text: str) -> tuple[Show, Any]:
        """What is typed, as a value; and the show, which may have got what it names. Raises ShowError."""
        return (show, self.read(text)) if self.place is None else self.place(show, text)


def yes_no(text: str) -> bool:
    said_ = text.strip().lower()
    if said_ not in YES + NO:
        raise ShowError(f"'{text}' is neither yes nor no.")
    return said_ in YES


def sides_said(text: str) -> dict[str, Any]:
    """Fields of a sound from `no`, `yes` or how far its sides differ: `40 %`."""
    share = text.strip().removesuffix("%")
    if share == text.strip():
        return {"channels": 2 if yes_no(text) else 1, "width": None}
    if not 0.0 <= figure(share) <= 100.0:
        raise ShowError(f"'{text}' is not between 0 % (the same on both sides) and 100 % (nothing in common).")
    return {"channels": 2, "width": figure(share) / 100.0}


def figure(text: str) -> float:
    try:
        return float(text.replace("\N{MINUS SIGN}", "-"))
    except ValueError:
        raise ShowError(f"'{text}' is not a number.") from None


def one_of(kinds: tuple[str, ...]) -> Callable[[str], str]:
    def read(text: str) -> str:
        if text.strip().lower() not in kinds:
            raise ShowError(f"'{text}' is not one of {', '.join(kinds)}.")
        return text.strip().lower()

    return read


def place_name(show: Show, id: str | None) -> str:
    place = show.place_of(id)
    return place.name if place else ""


def placed(show: Show, text: str) -> tuple[Show, str | None]:
    return place_called(show, text) if text.strip() else (show, None)


def some_name(text: str) -> str:
    if not text.strip():
        raise ShowError("A name is needed.")
    return text.strip()


class Sheet(Struct, frozen=True):
    """What a table shows of a show, and how an item is put back and taken away."""

    what: str
    items: Callable[[Show], tuple[Any, ...]]
    columns: tuple[Column, ...]
    put: Callable[[Show, Any], Show]
    remove: Callable[[Show, str], Show]
    add: Callable[[Show, list[str]], Show]  # from the cells of a pasted line
    move: Callable[[Show, str, int], Show] | None = None  # an item to another place in the order


def _by_brief(show: Show, cells: list[str]) -> Show:
    return read_brief(show, ", ".join(c.replace(",", " ").strip() for c in cells[:2])).show


def _cue_of(show: Show, cells: list[str]) -> Show:
    return add_cue(show, cells[0].strip() or "Cue")[0]


SOUNDS = Sheet(
    "sounds",
    lambda show: show.sounds,
    (
        Column("Sound", "name", read=some_name),
        Column("Kind", "kind", read=one_of(get_args(SoundKind))),
        Column("Level", "level", lambda v: number(v), figure),
        Column("Stereo", "sides", read=sides_said),
        Column("Private", "private", lambda v: "yes" if v else "no", yes_no),
        Column("Place", "place", name=place_name, place=placed),
    ),
    put_sound,
    remove_sound,
    _by_brief,
)
LISTENERS = Sheet(
    "listeners",
    lambda show: show.listeners,
    (
        Column("Listener", "name", read=some_name),
        Column("Kind", "kind", read=one_of(get_args(ListenerKind))),
        Column("Detail", "detail"),
        Column("Place", "place", name=place_name, place=placed),
    ),
    put_listener,
    remove_listener,
    _by_brief,
)
CUES = Sheet(
    "cues",
    lambda show: show.cues,
    (
        Column("Cue", "name", read=some_name),
        Column("Min", "minutes", lambda v: number(v), figure),
        Column("Note", "note"),
    ),
    put_cue,
    remove_cue,
    _cue_of,
    move_cue,
)


class SheetModel(QAbstractTableModel):
    """A sheet of the open show."""

    def __init__(self, document: Document, sheet: Sheet) -> None:
        super().__init__()
        self.document, self.sheet = document, sheet

    def rowCount(self, parent: QModelIndex | None = None) -> int:
        return len(self.sheet.items(self.document.show))

    def columnCount(self, parent: QModelIndex | None = None) -> int:
        return len(self.sheet.columns)

    def data(self, index: QModelIndex, role: int = Qt.ItemDataRole.DisplayRole) -> object:
        shown = (Qt.ItemDataRole.DisplayRole, Qt.ItemDataRole.EditRole, Qt.ItemDataRole.ToolTipRole)
        if role not in shown:
            return None
        column = self.sheet.columns[index.column()]
        text = column.text(self.document.show, self.sheet.items(self.document.show)[index.row()])
        return plain_tip(text) if role == Qt.ItemDataRole.ToolTipRole else text

    def with_cell(self, show: Show, row: int, number_: int, text: str) -> Show:
        """The show with another text in one cell. Raises ShowError."""
        column, item = self.sheet.columns[number_], self.sheet.items(show)[row]
        if text == column.text(show, item):
            return show
        try:
            show, value = column.taken(show, text)
            fields = value if isinstance(value, dict) else {column.field: value}
            new = type(item).checked(**{**item.fields(), **fields})
        except ShowError:
            raise
        except ValueError:
            raise ShowError(f"'{text}' cannot be the {column.title.lower()} of {item.name}.") from None
        return self.sheet.put(show, new)

    def setData(self, index: QModelIndex, value: object, role: int = Qt.ItemDataRole.EditRole) -> bool:
        column = self.sheet.columns[index.column()]
        item = self.sheet.items(self.document.show)[index.row()]
        try:
            show = self.with_cell(self.document.show, index.row(), index.column(), str(value))
        except ShowError as error:
            self.document.message.emit(str(error))
            return False
        if show is self.document.show:
            return False
        self.document.edit(show, f"change the {column.title.lower()} of {item.name}")
        return True

    def flags(self, index: QModelIndex) -> Qt.ItemFlag:
        if not index.isValid():
            return Qt.ItemFlag.ItemIsDropEnabled
        drag = Qt.ItemFlag.ItemIsDragEnabled if self.sheet.move is not None else Qt.ItemFlag.NoItemFlags
        return super().flags(index) | Qt.ItemFlag.ItemIsEditable | drag

    def headerData(self, section: int, orientation: Qt.Orientation, role: int = Qt.ItemDataRole.DisplayRole) -> object:
        if role == Qt.ItemDataRole.DisplayRole and orientation == Qt.Orientation.Horizontal:
            return self.sheet.columns[section].title
        return None

    def refresh(self) -> None:
        self.beginResetModel()
        self.endResetModel()


class SheetTable(QTableView):
    """A table that is typed in; Delete removes the chosen rows, Ctrl+C copies them as text.

    Ctrl+D gives the chosen rows what stands in the first of them, in the current column. Rows of a sheet that can be
    reordered are dragged, or moved by Ctrl+Shift and an arrow.
    """

    def __init__(self, document: Document, sheet: Sheet) -> None:
        super().__init__()
        self.document, self.sheet = document, sheet
        self.sheet_model = SheetModel(document, sheet)
        self.setModel(self.sheet_model)
        self.setAccessibleName(sheet.what.capitalize())
        self.setFrameShape(QFrame.Shape.NoFrame)
        self.setShowGrid(False)
        self.setHorizontalScrollMode(QAbstractItemView.ScrollMode.ScrollPerPixel)
        self.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectRows)
        self.setTabKeyNavigation(False)
        header, rows = self.horizontalHeader(), self.verticalHeader()
        assert header is not None and rows is not None
        header.setDefaultAlignment(Qt.AlignmentFlag.AlignLeft)
        header.setSectionResizeMode(QHeaderView.ResizeMode.ResizeToContents)
        header.setStretchLastSection(True)
        header.setStyleSheet("QHeaderView::section { padding: 3px 3px; font-size: 11px; }")
        rows.hide()
        rows.setDefaultSectionSize(24)
        if sheet.move is not None:
            self.setDragDropMode(QAbstractItemView.DragDropMode.InternalMove)
            self.setDragDropOverwriteMode(False)
        document.show_changed.connect(self.refresh)
        THEME.changed.connect(self.refresh)

    def refresh(self) -> None:
        at = self.currentIndex()
        row, column = at.row(), at.column()
        self.sheet_model.refresh()
        if 0 <= row < self.sheet_model.rowCount():
            self.setCurrentIndex(self.sheet_model.index(row, column))

    def chosen(self) -> list[Any]:
        selection = self.selectionModel()
        rows = sorted({i.row() for i in selection.selectedIndexes()}) if selection is not None else []
        items = self.sheet.items(self.document.show)
        return [items[r] for r in rows if r < len(items)]

    def remove_chosen(self) -> None:
        items, show = self.chosen(), self.document.show
        for item in items:
            show = self.sheet.remove(show, item.id)
        if items:
            text = f"remove {items[0].name}" if len(items) == 1 else f"remove {len(items)} {self.sheet.what}"
            self.document.edit(show, text)

    def fill(self) -> None:
        """Give all chosen rows what the first of them has in the current column."""
        selection = self.selectionModel()
        rows = sorted({i.row() for i in selection.selectedIndexes()}) if selection is not None else []
        if len(rows) < 2:
            return
        at, show = self.currentIndex().column(), self.document.show
        column = self.sheet.columns[at]
        first = self.sheet.items(show)[rows[0]]
        text = column.text(show, first)
        try:
            for row in rows[1:]:
                show = self.sheet_model.with_cell(show, row, at, text)
        except ShowError as error:
            self.document.message.emit(str(error))
            return
        if show is not self.document.show:
            self.document.edit(show, f"fill {len(rows)} {self.sheet.what} with {text}")

    def move_rows_to(self, to: int) -> None:
        """The chosen row before the row `to`, counted as they stand now."""
        items = self.chosen()
        if self.sheet.move is None or len(items) != 1:
            return
        ids = [x.id for x in self.sheet.items(self.document.show)]
        at = ids.index(items[0].id)
        target = max(0, min(len(ids) - 1, to - 1 if to > at else to))
        if target != at:
            self.document.edit(self.sheet.move(self.document.show, items[0].id, target), f"move {items[0].name}")
            self.setCurrentIndex(self.sheet_model.index(target, 0))

    def dropEvent(self, event: QDropEvent | None) -> None:
        assert event is not None
        if event.source() is not self or self.sheet.move is None:
            event.ignore()
            return
        index = self.indexAt(event.position().toPoint())
        row = index.row() if index.isValid() else self.sheet_model.rowCount()
        below = index.isValid() and event.position().y() > self.visualRect(index).center().y()
        self.setState(QAbstractItemView.State.NoState)
        event.setDropAction(Qt.DropAction.IgnoreAction)  # the table moves the row itself, as an edit
        event.accept()
        self.move_rows_to(row + (1 if below else 0))

    def copy(self) -> None:
        show = self.document.show
        lines = ["\t".join(c.text(show, item) for c in self.sheet.columns) for item in self.chosen()]
        board = QGuiApplication.clipboard()
        if board is not None and lines:
            board.setText("\n".join(lines))

    def paste(self) -> None:
        """Lines of cells, from the current cell on; lines beyond the last row add what they name. All or nothing."""
        board = QGuiApplication.clipboard()
        lines = [x.split("\t") for x in (board.text() if board is not None else "").splitlines() if x.strip()]
        at = self.currentIndex()
        row, column = (at.row(), at.column()) if at.isValid() else (self.sheet_model.rowCount(), 0)
        show = self.document.show
        try:
            for offset, cells in enumerate(lines):
                if row + offset >= len(self.sheet.items(show)):
                    show, column = self.sheet.add(show, cells), 0
                for number_, text in enumerate(cells[: len(self.sheet.columns) - column]):
                    show = self.sheet_model.with_cell(show, row + offset, column + number_, text.strip())
        except ShowError as error:
            self.document.message.emit(str(error))
            return
        if show is not self.document.show:
            self.document.edit(show, f"paste {len(lines)} lines into the {self.sheet.what}")

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        assert event is not None
        moving = Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.ShiftModifier
        if event.key() == Qt.Key.Key_Delete:
            self.remove_chosen()
        elif event.key() == Qt.Key.Key_D and event.modifiers() == Qt.KeyboardModifier.ControlModifier:
            self.fill()
        elif event.key() in (Qt.Key.Key_Up, Qt.Key.Key_Down) and event.modifiers() == moving:
            row = self.currentIndex().row()
            self.move_rows_to(row - 1 if event.key() == Qt.Key.Key_Up else row + 2)
        elif event.matches(QKeySequence.StandardKey.Paste):
            self.paste()
        elif event.matches(QKeySequence.StandardKey.Copy):
            self.copy()
        else:
            super().keyPressEvent(event)
