"""Who hears what: sounds down, listeners across; every state has its own shape."""

from collections.abc import Callable

from PyQt6.QtCore import QAbstractTableModel, QModelIndex, QPointF, QRect, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import (
    QColor,
    QDragEnterEvent,
    QDragMoveEvent,
    QDropEvent,
    QFocusEvent,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QResizeEvent,
)
from PyQt6.QtWidgets import (
    QAbstractItemView,
    QFrame,
    QHeaderView,
    QStyledItemDelegate,
    QStyleOptionViewItem,
    QTableView,
)

from kymaton.app.document import Document
from kymaton.app.hearing.beside import Beside
from kymaton.app.theme.marks import draw_form
from kymaton.app.theme.theme import THEME, colour, figures, pen, tokens, words
from kymaton.app.theme.tokens import Tokens
from kymaton.app.widgets.basic import plain_tip
from kymaton.core.checks.comparing import cell_text
from kymaton.core.checks.report import Cell
from kymaton.core.edits.wishes import clear_want, set_want
from kymaton.core.model import Listener, Sound, Want
from kymaton.core.words import number, said, sentence

RECORDINGS = (".wav", ".flac", ".ogg", ".aif", ".aiff")
ROW, HEADER, NAMES, NARROWEST = 34, 46, 146, 62
SAME = 0.3  # how strongly what is the same in both is drawn, beside what differs
WIDE_ENOUGH = 46  # pixels: for a figure under its form
TOLD = {
    "heard": "is heard, as planned",
    "silent": "is silent, as planned",
    "heard-unasked": "is heard; the plan does not mind",
    "empty": "is not heard; the plan does not mind",
    "missing": "is missing",
    "soft": "is too soft",
    "late": "is too late",
    "leaks": "leaks",
    "own": "is the listener's own voice, coming back",
    "twice": "arrives twice",
    "dulled": "is dulled by voice processing",
    "one-sided": "is heard by one side only",
    "swapped": "is heard with left and right swapped",
    "cancels": "cancels where both sides are added",
}
NEXT_WANT = {Want.MUST: Want.MUST_NOT, Want.MUST_NOT: Want.ANY, Want.ANY: Want.MUST}
WANT_SAID = {Want.MUST: "must hear", Want.MUST_NOT: "must not hear", Want.ANY: "may or may not hear"}


def told(listener: Listener, sound: Sound, cell: Cell) -> str:
    """A cell in words, for tool tips and screen readers."""
    figure = f", {cell.figure}" if cell.figure and cell.figure[-1].isalpha() and " " in cell.figure else ""
    wish = f"{said(listener)} {WANT_SAID[cell.want]} {said(sound)}"
    return f"{sound.name} at {listener.name} {TOLD[cell.form]}{figure}. {sentence(wish)}" + (
        "." if cell.chosen else " (by default)."
    )


class HearingModel(QAbstractTableModel):
    """Cells of the current cue."""

    def __init__(self, document: Document, beside: Beside) -> None:
        super().__init__()
        self.document, self.beside = document, beside

    def rowCount(self, parent: QModelIndex | None = None) -> int:
        return len(self.document.show.sounds)

    def columnCount(self, parent: QModelIndex | None = None) -> int:
        return len(self.document.show.listeners)

    def pair(self, index: QModelIndex) -> tuple[Listener, Sound]:
        show = self.document.show
        return show.listeners[index.column()], show.sounds[index.row()]

    def cell(self, index: QModelIndex) -> Cell:
        listener, sound = self.pair(index)
        return self.document.cue_report.cells[listener.id, sound.id]

    def other(self, index: QModelIndex) -> Cell | None:
        """The cell as it is in what is compared with, where it differs."""
        comparison = self.beside.comparison
        listener, sound = self.pair(index)
        difference = comparison.cell(listener.id, sound.id) if comparison is not None else None
        return None if difference is None else difference.other

    def data(self, index: QModelIndex, role: int = Qt.ItemDataRole.DisplayRole) -> object:
        cell = self.cell(index)
        if role == Qt.ItemDataRole.DisplayRole:
            return cell.figure or cell.form
        if role in (Qt.ItemDataRole.ToolTipRole, Qt.ItemDataRole.AccessibleTextRole):
            text = told(*self.pair(index), cell)
            other = self.other(index)
            if other is not None:
                text += f" In {self.beside.name}: {cell_text(other)}."
            if role == Qt.ItemDataRole.ToolTipRole:
                if cell.level > -200:
                    listener = self.pair(index)[0]
                    level = f"{number(cell.level, 1)} {listener.unit}, {number(cell.relative_db)} dB to the loudest"
                    text += f"\n{level}"
                text = plain_tip(text + "\nSpace: must, must not, don't mind. Delete: by default")
            return text
        return None

    def headerData(self, section: int, orientation: Qt.Orientation, role: int = Qt.ItemDataRole.DisplayRole) -> object:
        show = self.document.show
        if role == Qt.ItemDataRole.DisplayRole:
            if orientation == Qt.Orientation.Horizontal:
                listener = show.listeners[section]
                return f"{listener.name}\n{listener.detail or listener.kind}"
            sound = show.sounds[section]
            return f"{sound.name}\n{describe_sound(sound)}"
        return None

    def refresh(self) -> None:
        self.beginResetModel()
        self.endResetModel()


def describe_sound(sound: Sound) -> str:
    """Second line of a sound's name: its kind, L R when stereo, private."""
    kind = "click track" if sound.kind == "click" else sound.kind
    return kind + (" L R" if sound.channels == 2 else "") + (", private" if sound.private else "")


class CellDelegate(QStyledItemDelegate):
    def __init__(self, document: Document, chosen: Callable[[QModelIndex], bool]) -> None:
        super().__init__()
        self.document, self.chosen = document, chosen

    def paint(self, painter: QPainter | None, option: QStyleOptionViewItem, index: QModelIndex) -> None:
        assert painter is not None
        t = tokens()
        model = index.model()
        assert isinstance(model, HearingModel)
        cell = model.cell(index)
        rect = option.rect
        painter.save()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        if cell.listener == self.document.listener_id:
            painter.fillRect(rect, colour(t.wash))
        painter.setPen(pen(t.line))
        line = rect.bottom() + 1.0
        painter.drawLine(QPointF(rect.left(), line), QPointF(rect.right() + 1.0, line))
        inner = QRectF(rect).adjusted(3, 3, -3, -3)
        other = model.other(index)
        if other is not None:
            half = inner.width() / 2
            for side, box in ((cell, inner.adjusted(0, 0, -half, 0)), (other, inner.adjusted(half, 0, 0, 0))):
                draw_cell(painter, side, box.adjusted(1, 0, -1, 0))
            painter.setPen(pen(t.line))
            painter.drawLine(inner.center() - QPointF(0, 9), inner.center() + QPointF(0, 9))
        else:
            painter.setOpacity(SAME if model.beside.name else 1.0)
            draw_cell(painter, cell, inner)
            painter.setOpacity(1.0)
        if self.chosen(index):
            painter.setPen(pen(t.ink, 1.5))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRoundedRect(inner, 5, 5)
        painter.restore()


def draw_cell(painter: QPainter, cell: Cell, box: QRectF) -> None:
    """A cell in its box: the shape of its state, and its figure or word."""
    t = tokens()
    if cell.severity in ("fault", "caution"):
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(colour(t.fault_wash if cell.severity == "fault" else t.caution_wash))
        painter.drawRoundedRect(box, 5, 5)
    ink = colour(_ink(t, cell))
    if cell.figure and box.width() >= WIDE_ENOUGH:
        draw_figure(painter, cell, box, ink)
    else:
        draw_form(painter, cell.form, box.center(), ink)


def _ink(t: Tokens, cell: Cell) -> str:
    """The colour of a cell's form and figure."""
    if cell.severity is None:
        return t.wave if cell.form.startswith("heard") else t.faint
    return {"fault": t.fault, "caution": t.caution, "note": t.soft}[cell.severity]


def draw_figure(painter: QPainter, cell: Cell, box: QRectF, ink: QColor) -> None:
    """The form of a cell and its figure or word beside it; below it where the cell is too narrow for that."""
    text = cell.figure
    fonts = [figures(12, 500), figures(11, 500), words(11, 500)] if text[0].isdigit() else [words(12, 500), words(11)]
    painter.setPen(ink)
    for font in fonts:
        painter.setFont(font)
        if painter.fontMetrics().horizontalAdvance(text) <= box.width() - 27:
            draw_form(painter, cell.form, QPointF(box.left() + 12, box.center().y()), ink, 11)
            right = Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight
            painter.drawText(box.adjusted(22, 0, -4, 0), right, text)
            return
    draw_form(painter, cell.form, QPointF(box.center().x(), box.top() + 7), ink, 9)
    painter.setFont(words(11, 500))
    below = Qt.AlignmentFlag.AlignBottom | Qt.AlignmentFlag.AlignHCenter
    painter.drawText(box.adjusted(-2, 0, 2, -2), below, text)


class _Header(QHeaderView):
    """Names in two lines: the name, and softly what it is."""

    def __init__(self, orientation: Qt.Orientation, document: Document) -> None:
        super().__init__(orientation)
        self.document = document
        self.setSectionsClickable(True)
        self.setHighlightSections(False)
        self.setFocusPolicy(Qt.FocusPolicy.NoFocus)

    def sizeHint(self) -> QSize:
        return QSize(NAMES, HEADER)

    def paintSection(self, painter: QPainter | None, rect: QRect, section: int) -> None:
        assert painter is not None
        t = tokens()
        across = self.orientation() == Qt.Orientation.Horizontal
        show = self.document.show
        painter.save()
        painter.fillRect(rect, colour(t.ground))
        if across and show.listeners[section].id == self.document.listener_id:
            painter.fillRect(rect, colour(t.wash))
        model = self.model()
        assert model is not None
        name, _, detail = str(model.headerData(section, self.orientation())).partition("\n")
        box = QRectF(rect)
        side = Qt.AlignmentFlag.AlignHCenter if across else Qt.AlignmentFlag.AlignLeft
        top = box.adjusted(0, 6, 0, 0) if across else box.adjusted(0, 2, -4, 0)
        for text, font, ink, dy in ((name, words(13, 600), t.ink, 0.0), (detail, words(11), t.soft, 16.0)):
            painter.setFont(font)
            painter.setPen(colour(ink))
            shown = painter.fontMetrics().elidedText(text, Qt.TextElideMode.ElideRight, int(top.width()))
            painter.drawText(
                top.adjusted(0, dy if across else dy * 0.94, 0, 0), side | Qt.AlignmentFlag.AlignTop, shown
            )
        painter.setPen(pen(t.line))
        painter.drawLine(QPointF(box.left(), box.bottom()), QPointF(box.right(), box.bottom()))
        painter.restore()


class HearingTable(QTableView):
    """The table. Arrow keys and clicks choose a cell; a click on a name at the top chooses the listener."""

    recording_dropped = pyqtSignal(str, str)  # the sound's id, the file

    def __init__(self, document: Document, beside: Beside) -> None:
        super().__init__()
        self.document = document
        self.hearing = HearingModel(document, beside)
        self.setModel(self.hearing)
        self.setItemDelegate(CellDelegate(document, self._is_chosen))
        self.setHorizontalHeader(_Header(Qt.Orientation.Horizontal, document))
        self.setVerticalHeader(_Header(Qt.Orientation.Vertical, document))
        self.setAccessibleName("Who hears what: sounds down, listeners across")
        self.setShowGrid(False)
        self.setFrameShape(QFrame.Shape.NoFrame)
        self.setCornerButtonEnabled(False)
        self.setSelectionMode(QAbstractItemView.SelectionMode.SingleSelection)
        self.setHorizontalScrollMode(QAbstractItemView.ScrollMode.ScrollPerPixel)
        self.setVerticalScrollMode(QAbstractItemView.ScrollMode.ScrollPerPixel)
        self.setTabKeyNavigation(False)
        columns, rows = self.horizontalHeader(), self.verticalHeader()
        assert columns is not None and rows is not None
        columns.setSectionResizeMode(QHeaderView.ResizeMode.Stretch)
        columns.setMinimumSectionSize(NARROWEST)
        columns.setFixedHeight(HEADER)
        rows.setDefaultSectionSize(ROW)
        rows.setSectionResizeMode(QHeaderView.ResizeMode.Fixed)
        rows.setFixedWidth(NAMES)
        columns.sectionClicked.connect(self._choose_listener)
        document.report_changed.connect(self.refresh)
        document.selection_changed.connect(self._follow)
        beside.changed.connect(self.refresh)
        THEME.changed.connect(self.refresh)
        self._following = False
        self.setAcceptDrops(True)

    def dragEnterEvent(self, event: QDragEnterEvent | None) -> None:
        if event is not None and self._recording(event) is not None:
            event.acceptProposedAction()

    def dragMoveEvent(self, event: QDragMoveEvent | None) -> None:
        if event is not None and self._recording(event) is not None and self._row(event) >= 0:
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent | None) -> None:
        """A recording that is dropped on the row of a sound stands for it from then on."""
        path = self._recording(event) if event is not None else None
        if event is None or path is None or self._row(event) < 0:
            return
        event.acceptProposedAction()
        self.recording_dropped.emit(self.document.show.sounds[self._row(event)].id, path)

    @staticmethod
    def _recording(event: QDropEvent) -> str | None:
        data = event.mimeData()
        paths = [u.toLocalFile() for u in data.urls()] if data is not None else []
        return paths[0] if len(paths) == 1 and paths[0].lower().endswith(RECORDINGS) else None

    def _row(self, event: QDropEvent) -> int:
        return self.rowAt(round(event.position().y()))

    def sizeHint(self) -> QSize:
        return QSize(600, HEADER + ROW * max(1, self.hearing.rowCount()) + 2)

    def refresh(self) -> None:
        self._following = True
        self.hearing.refresh()
        self._following = False
        columns = self.horizontalHeader()
        assert columns is not None
        many = len(self.document.show.listeners)
        room = self.width() - NAMES
        fits = many * NARROWEST <= room
        columns.setSectionResizeMode(QHeaderView.ResizeMode.Stretch if fits else QHeaderView.ResizeMode.Fixed)
        if not fits:
            columns.setDefaultSectionSize(NARROWEST + 6)
        self._follow()

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        self.refresh()

    def _follow(self) -> None:
        """Show the document's choice."""
        show, document = self.document.show, self.document
        self._following = True
        listeners, sounds = [x.id for x in show.listeners], [s.id for s in show.sounds]
        if document.listener_id in listeners and document.sound_id in sounds:
            self.setCurrentIndex(
                self.hearing.index(sounds.index(document.sound_id), listeners.index(document.listener_id))
            )
        else:
            self.clearSelection()
            if document.listener_id in listeners:
                self.scrollTo(self.hearing.index(max(0, self.rowAt(0)), listeners.index(document.listener_id)))
        self._following = False
        for part in (self.viewport(), self.horizontalHeader()):
            if part is not None:
                part.update()

    def focusInEvent(self, event: QFocusEvent | None) -> None:
        """Coming here chooses nothing by itself."""
        self._following = True
        super().focusInEvent(event)
        if self.document.sound_id is None:
            self.setCurrentIndex(QModelIndex())
        self._following = False

    def _is_chosen(self, index: QModelIndex) -> bool:
        selection = self.selectionModel()
        return selection is not None and selection.isSelected(index)

    def _choose_listener(self, column: int) -> None:
        self.document.select(self.document.show.listeners[column].id, None)

    def currentChanged(self, current: QModelIndex, previous: QModelIndex) -> None:
        super().currentChanged(current, previous)
        if current.isValid() and not self._following:
            listener, sound = self.hearing.pair(current)
            self.document.select(listener.id, sound.id)

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        super().mousePressEvent(event)
        index = self.currentIndex()
        if index.isValid() and event is not None and self.indexAt(event.position().toPoint()) == index:
            listener, sound = self.hearing.pair(index)
            self.document.select(listener.id, sound.id)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        assert event is not None
        if event.key() == Qt.Key.Key_Space and self.currentIndex().isValid():
            self.cycle_wish()
        elif event.key() == Qt.Key.Key_Delete and self.currentIndex().isValid():
            self.undecide()
        elif event.key() == Qt.Key.Key_Escape and self.document.sound_id is not None:
            self.document.select(self.document.listener_id, None)
        else:
            super().keyPressEvent(event)

    def undecide(self) -> None:
        """Let the default hold again for the current cell, in this cue or, where all were decided, in all."""
        listener, sound = self.hearing.pair(self.currentIndex())
        show, cue = self.document.show, self.document.cue_id
        for scope in (cue, None):
            without = clear_want(show, listener.id, sound.id, scope)
            if without.plan != show.plan:
                self.document.edit(without, f"{said(listener)} and {said(sound)} by default")
                return

    def cycle_wish(self) -> None:
        """Change the wish of the current cell in the current cue: must, must not, don't mind."""
        index = self.currentIndex()
        if not index.isValid():
            return
        listener, sound = self.hearing.pair(index)
        want = NEXT_WANT[self.hearing.cell(index).want]
        cue = self.document.cue_id
        show = set_want(self.document.show, listener.id, sound.id, cue, want)
        self.document.edit(show, f"{said(listener)} {WANT_SAID[want]} {said(sound)}")
