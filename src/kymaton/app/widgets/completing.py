"""A line to type in; what it may go on as is listed below it, in the window itself and not in one of its own."""

from collections.abc import Callable

from PyQt6.QtCore import QEvent, QPoint, Qt, pyqtSignal
from PyQt6.QtGui import QFocusEvent, QGuiApplication, QKeyEvent, QKeySequence
from PyQt6.QtWidgets import QLineEdit, QListWidget, QWidget

MOST_ROWS, MOST_OFFERS = 9, 60


class CompletingLine(QLineEdit):
    """Enter does what the line says, unless an offer was chosen with the arrows: then that is taken first.

    Tab takes the chosen offer or the first one, a click the one under the mouse, Escape closes the list. Alt+Enter does
    the line the other way, where there are two. Many lines that are pasted at once are done one after the other.
    """

    other_way = pyqtSignal()
    lines_pasted = pyqtSignal(list)

    def __init__(self, offers: Callable[[str], list[str]]) -> None:
        super().__init__()
        self.offers = offers
        self.list = QListWidget()
        self.list.setObjectName("offers")
        self.list.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.list.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.list.setAccessibleName("How the line may go on")
        self.list.hide()
        self.list.itemClicked.connect(lambda item: self.take(item.text()))
        self.textEdited.connect(self.offer)
        self.textChanged.connect(self._emptied)

    def offer(self, text: str) -> None:
        """Show how a text may go on; nothing when there is nothing more to it."""
        found = [o for o in self.offers(text)[:MOST_OFFERS] if o.strip().lower() != text.strip().lower()]
        self.list.clear()
        self.list.addItems(found)
        self.list.setCurrentRow(-1)
        if not found or not text.strip():
            self.list.hide()
            return
        window = self.window()
        assert isinstance(window, QWidget)
        if self.list.parentWidget() is not window:
            self.list.setParent(window)
        self.list.ensurePolished()
        row = self.list.sizeHintForRow(0)
        margins = self.list.contentsMargins()
        frame = margins.top() + margins.bottom()
        width = max(self.list.sizeHintForColumn(0) + 34, 240)
        at = self.mapTo(window, QPoint(-8, self.height() + 4))
        self.list.resize(
            min(width, window.width() - at.x() - 12),
            min(len(found), MOST_ROWS) * row + frame,
        )
        self.list.move(at)
        self.list.show()
        self.list.raise_()

    def take(self, text: str) -> None:
        """Put an offer into the line, to go on from there."""
        self.list.hide()
        self.setText(text if text.endswith(" ") else f"{text} ")

    def take_first(self) -> None:
        """The chosen offer, or else the first one."""
        item = self.list.currentItem() or self.list.item(0)
        if self.list.isVisible() and item is not None:
            self.take(item.text())
        else:
            found = self.offers(self.text())
            if found:
                self.take(found[0])

    def _emptied(self, text: str) -> None:
        if not text:
            self.list.hide()

    def event(self, event: QEvent | None) -> bool:
        if isinstance(event, QKeyEvent):
            pressed = event.type() == QEvent.Type.KeyPress
            if pressed and event.key() == Qt.Key.Key_Tab and self.text():
                self.take_first()
                return True
            if event.key() == Qt.Key.Key_Escape and self.list.isVisible():
                if event.type() == QEvent.Type.ShortcutOverride:
                    event.accept()
                else:
                    self.list.hide()
                return True
        return super().event(event)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        assert event is not None
        if event.matches(QKeySequence.StandardKey.Paste) and self._paste_lines():
            return
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and event.modifiers() & Qt.KeyboardModifier.AltModifier:
            self.list.hide()
            self.other_way.emit()
            return
        shown = self.list.isVisible()
        if shown and event.key() in (Qt.Key.Key_Down, Qt.Key.Key_Up):
            step = 1 if event.key() == Qt.Key.Key_Down else -1
            self.list.setCurrentRow(max(-1, min(self.list.count() - 1, self.list.currentRow() + step)))
            return
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and shown:
            chosen = self.list.currentItem()
            if chosen is not None:
                self.take(chosen.text())
                return
            self.list.hide()
        super().keyPressEvent(event)

    def _paste_lines(self) -> bool:
        clipboard = QGuiApplication.clipboard()
        lines = [line for line in (clipboard.text() if clipboard else "").splitlines() if line.strip()]
        if len(lines) > 1:
            self.lines_pasted.emit(lines)
        return len(lines) > 1

    def focusOutEvent(self, event: QFocusEvent | None) -> None:
        super().focusOutEvent(event)
        if not self.list.underMouse():
            self.list.hide()
