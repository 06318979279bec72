"""A page beside the tables of the brief: a title, a line to type, a place where it says what cannot be, cards."""

from collections.abc import Callable

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QFrame, QHBoxLayout, QLineEdit, QScrollArea, QVBoxLayout, QWidget

from kymaton.app.document import Document
from kymaton.app.theme.theme import THEME
from kymaton.app.widgets.basic import button, empty, label
from kymaton.core.model import Show, ShowError


def typed_line(hint: str, name: str, entered: Callable[[QLineEdit], object]) -> QLineEdit:
    """A line that does something when Enter is pressed."""
    line = QLineEdit()
    line.setPlaceholderText(hint)
    line.setAccessibleName(name)
    line.returnPressed.connect(lambda: entered(line))
    return line


class SidePage(QWidget):
    """Fill `cards` in `fill`, which is called whenever the show or what is said of it changes."""

    closed = pyqtSignal()

    def __init__(self, document: Document, title: str) -> None:
        super().__init__()
        self.document = document
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(8)
        self.head = QHBoxLayout()
        self.title = label(title, "heading")
        self.head.addWidget(self.title)
        layout.addLayout(self.head)
        self.problem = label("", "problem", wrap=True)
        self.problem.hide()
        layout.addWidget(self.problem)
        self.area = area = QScrollArea()
        area.setFrameShape(QFrame.Shape.NoFrame)
        area.setWidgetResizable(True)
        inside = QWidget()
        self.cards = QVBoxLayout(inside)
        self.cards.setContentsMargins(0, 0, 8, 0)
        area.setWidget(inside)
        layout.addWidget(area, 1)
        document.report_changed.connect(self.refresh)
        THEME.changed.connect(self.refresh)

    def finish_head(self) -> None:
        """Put the way back at the end of the head."""
        self.head.addWidget(button("Back", self.closed.emit, "quiet", "Back to the tables"))

    def put_in_place_of_cards(self, *widgets: QWidget) -> None:
        """Show these from the top down, the last as large as can be."""
        layout = self.layout()
        assert isinstance(layout, QVBoxLayout)
        self.area.hide()
        for widget in widgets:
            layout.addWidget(widget, 1 if widget is widgets[-1] else 0)

    def refresh(self) -> None:
        if self.isVisible():
            typed = self.focusWidget()
            name = typed.accessibleName() if isinstance(typed, QLineEdit) and typed.hasFocus() else ""
            empty(self.cards)
            self.fill()
            self.cards.addStretch(1)
            again = [x for x in self.findChildren(QLineEdit) if name and x.accessibleName() == name]
            if again:  # the line is a new one: what is typed next goes there
                again[-1].setFocus()

    def fill(self) -> None:
        """Make the cards anew."""

    def card(self) -> QVBoxLayout:
        """One more card."""
        frame = QFrame()
        frame.setObjectName("card")
        inside = QVBoxLayout(frame)
        self.cards.addWidget(frame)
        return inside

    def attempt(self, edit: Callable[[], tuple[Show, str]]) -> bool:
        """Make an edit (the show, and its words for undo); say what is wrong when it cannot be made."""
        try:
            show, text = edit()
        except ShowError as error:
            self.problem.setText(str(error))
            self.problem.show()
            return False
        self.problem.hide()
        self.document.edit(show, text)
        return True
