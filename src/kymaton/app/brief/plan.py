"""Tables of decisions: a cell for each pair, gone through by Space, given back to the default by Delete."""

from PyQt6.QtCore import QAbstractTableModel, QModelIndex, Qt
from PyQt6.QtGui import QColor, QFont, QKeyEvent
from PyQt6.QtWidgets import QAbstractItemView, QFrame, QHeaderView, QTableView

from kymaton.app.document import Document
from kymaton.app.theme.theme import THEME, tokens, words
from kymaton.app.widgets.basic import plain_tip
from kymaton.core.edits.wishes import clear_want, set_want
from kymaton.core.model import Show, Want
from kymaton.core.words import said, sentence

Cell = tuple[int, int]  # row, column
NEXT = {Want.MUST: Want.MUST_NOT, Want.MUST_NOT: Want.ANY, Want.ANY: Want.MUST}
SAID = {Want.MUST: "must", Want.MUST_NOT: "not", Want.ANY: ""}


class DecisionModel(QAbstractTableModel):
    """What is decided of each pair; what nobody has decided is in italics."""

    def __init__(self, document: Document) -> None:
        super().__init__()
        self.document = document

    def text(self, cell: Cell) -> str:
        """What stands in a cell."""
        raise NotImplementedError

    def told(self, cell: Cell) -> str:
        """A cell as a sentence."""
        raise NotImplementedError

    def is_decided(self, cell: Cell) -> bool:
        """Whether somebody has decided it."""
        raise NotImplementedError

    def is_strong(self, cell: Cell) -> bool:
        """Whether it stands out among what is decided."""
        raise NotImplementedError

    def next(self, show: Show, cells: list[Cell], at: Cell) -> Show:
        """The show with all the cells decided as what follows that of one of them."""
        raise NotImplementedError

    def default(self, show: Show, cell: Cell) -> Show:
        """The show with a cell undecided."""
        raise NotImplementedError

    def data(self, index: QModelIndex, role: int = Qt.ItemDataRole.DisplayRole) -> object:
        cell = (index.row(), index.column())
        if role == Qt.ItemDataRole.DisplayRole:
            return self.text(cell)
        if role == Qt.ItemDataRole.TextAlignmentRole:
            return Qt.AlignmentFlag.AlignCenter
        decided = self.is_decided(cell)
        if role == Qt.ItemDataRole.FontRole:
            font = QFont(words(12, 500 if decided else 400))
            font.setItalic(not decided)
            return font
        if role == Qt.ItemDataRole.ForegroundRole:
            t = tokens()
            return QColor(t.soft if not decided else t.wave if self.is_strong(cell) else t.ink)
        if role in (Qt.ItemDataRole.ToolTipRole, Qt.ItemDataRole.AccessibleTextRole):
            back = " Delete goes back to the default." if decided else ""
            text = f"{self.told(cell)} Space changes it.{back}"
            return plain_tip(text) if role == Qt.ItemDataRole.ToolTipRole else text
        return None

    def refresh(self) -> None:
        self.beginResetModel()
        self.endResetModel()


class DecisionTable(QTableView):
    """Space or a double click decides, for all chosen cells, what follows in the current one; Delete undecides."""

    def __init__(self, document: Document, model: DecisionModel, name: str, one: str, several: str) -> None:
        super().__init__()
        self.document, self.decisions = document, model
        self.one, self.several = one, several
        self.setModel(model)
        self.setAccessibleName(name)
        self.setFrameShape(QFrame.Shape.NoFrame)
        self.setTabKeyNavigation(False)
        self.setEditTriggers(QAbstractItemView.EditTrigger.NoEditTriggers)
        header, rows = self.horizontalHeader(), self.verticalHeader()
        assert header is not None and rows is not None
        header.setSectionResizeMode(QHeaderView.ResizeMode.Stretch)
        header.setMinimumSectionSize(46)
        rows.setDefaultSectionSize(24)
        rows.setFixedWidth(88)
        self.setMinimumWidth(320)
        header.setStyleSheet("QHeaderView::section { padding: 3px 1px; font-size: 11px; }")
        self.doubleClicked.connect(lambda _: self.cycle())
        document.show_changed.connect(self.refresh)
        THEME.changed.connect(self.refresh)

    def _chosen(self) -> list[Cell]:
        selection = self.selectionModel()
        return [(i.row(), i.column()) for i in selection.selectedIndexes()] if selection is not None else []

    def refresh(self) -> None:
        kept, at = self._chosen(), (self.currentIndex().row(), self.currentIndex().column())
        self.decisions.refresh()
        selection = self.selectionModel()
        if selection is not None and at[0] >= 0:
            self.setCurrentIndex(self.decisions.index(*at))
            for row, column in kept:
                selection.select(self.decisions.index(row, column), selection.SelectionFlag.Select)

    def cycle(self) -> None:
        """Decide all chosen cells as what follows in the current one."""
        index, cells = self.currentIndex(), self._chosen()
        if index.isValid() and cells:
            show = self.decisions.next(self.document.show, cells, (index.row(), index.column()))
            self.document.edit(show, self.one if len(cells) == 1 else f"change {len(cells)} {self.several}")

    def undecide(self) -> None:
        """Let the default hold again for all chosen cells."""
        show = self.document.show
        for cell in self._chosen():
            show = self.decisions.default(show, cell)
        if show != self.document.show:
            self.document.edit(show, "go back to the default")

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        assert event is not None
        if event.key() == Qt.Key.Key_Space:
            self.cycle()
        elif event.key() in (Qt.Key.Key_Delete, Qt.Key.Key_Backspace):
            self.undecide()
        else:
            super().keyPressEvent(event)


class PlanModel(DecisionModel):
    """Who must hear what: for all cues (cue None) or for one; sounds down, listeners across."""

    cue: str | None = None

    def rowCount(self, parent: QModelIndex | None = None) -> int:
        return len(self.document.show.sounds)

    def columnCount(self, parent: QModelIndex | None = None) -> int:
        return len(self.document.show.listeners)

    def _pair(self, cell: Cell) -> tuple[str, str]:
        return self.document.show.listeners[cell[1]].id, self.document.show.sounds[cell[0]].id

    def text(self, cell: Cell) -> str:
        want = self.document.show.want(*self._pair(cell), self.cue)
        return "may" if want is Want.ANY and self.is_decided(cell) else SAID[want]

    def told(self, cell: Cell) -> str:
        show, pair = self.document.show, self._pair(cell)
        verb = {Want.MUST: "must hear", Want.MUST_NOT: "must not hear", Want.ANY: "may or may not hear"}[
            show.want(*pair, self.cue)
        ]
        source = "chosen" if self.is_decided(cell) else "by default"
        return f"{sentence(said(show.listener(pair[0])))} {verb} {said(show.sound(pair[1]))} ({source})."

    def is_decided(self, cell: Cell) -> bool:
        return self.document.show.wish(*self._pair(cell), self.cue) is not None

    def is_strong(self, cell: Cell) -> bool:
        return self.document.show.want(*self._pair(cell), self.cue) is Want.MUST

    def next(self, show: Show, cells: list[Cell], at: Cell) -> Show:
        now = show.want(*self._pair(at), self.cue)
        for cell in cells:
            show = set_want(show, *self._pair(cell), self.cue, NEXT[now])
        return show

    def default(self, show: Show, cell: Cell) -> Show:
        return clear_want(show, *self._pair(cell), self.cue)

    def headerData(self, section: int, orientation: Qt.Orientation, role: int = Qt.ItemDataRole.DisplayRole) -> object:
        if role != Qt.ItemDataRole.DisplayRole:
            return None
        show = self.document.show
        across = orientation == Qt.Orientation.Horizontal
        return show.listeners[section].name if across else show.sounds[section].name


class PlanTable(DecisionTable):
    """The hearing plan: must, must not, don't mind."""

    def __init__(self, document: Document) -> None:
        self.plan = PlanModel(document)
        super().__init__(document, self.plan, "Hearing plan: sounds down, listeners across", "change a wish", "wishes")

    def set_cue(self, cue: str | None) -> None:
        self.plan.cue = cue
        self.refresh()
