"""Small widgets and helpers that every view uses."""

from collections.abc import Callable, Iterable
from functools import partial

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QPaintEvent, QShowEvent
from PyQt6.QtWidgets import (
    QFrame,
    QHBoxLayout,
    QLabel,
    QLayout,
    QMenu,
    QPushButton,
    QScrollArea,
    QSizePolicy,
    QVBoxLayout,
    QWidget,
)

AS_WRITTEN = str.maketrans({"&": "&amp;", "<": "&lt;", ">": "&gt;"})


class StepView(QWidget):
    """The view of a step of the work."""

    def focus_first(self) -> None:
        """Give the keyboard to where work begins in this step: its main line or table."""
        raise NotImplementedError


class Page(QWidget):
    """A page of a step: a column to put things into. It is worked out anew when it is shown."""

    def __init__(self) -> None:
        super().__init__()
        self.column = QVBoxLayout(self)
        self.column.setContentsMargins(0, 0, 0, 0)
        self.column.setSpacing(8)

    def showEvent(self, event: QShowEvent | None) -> None:
        super().showEvent(event)
        self.refresh()

    def refresh(self) -> None:
        """As the show is now."""
        raise NotImplementedError

    def focus_first(self) -> None:
        """Give the keyboard to where work begins on this page."""
        raise NotImplementedError

    def stop(self) -> None:
        """Nothing runs any more: the window is closed."""


class Aside(QLabel):
    """A small remark that is left out, not cut, where there is no room for it; its tool tip has it still."""

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("small")
        self.setTextFormat(Qt.TextFormat.PlainText)
        self.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        if self.fontMetrics().horizontalAdvance(self.text()) <= self.contentsRect().width():
            super().paintEvent(event)


def label(text: str = "", name: str = "", wrap: bool = False) -> QLabel:
    """A label in one of the styles of the style sheet: title, heading, strong, soft, small, figures."""
    result = QLabel(text)
    result.setObjectName(name)
    result.setWordWrap(wrap)
    result.setTextFormat(Qt.TextFormat.PlainText)
    if wrap:
        result.setSizePolicy(QSizePolicy.Policy.Preferred, QSizePolicy.Policy.Minimum)
    return result


def plain_tip(text: str) -> str:
    """A tool tip that says what stands there: Qt would read a name with tags in it as HTML, and fetch what it names."""
    return f"<qt>{text.translate(AS_WRITTEN)}</qt>" if "<" in text else text


def button(text: str, pressed: Callable[[], object], kind: str = "", tip: str = "") -> QPushButton:
    result = QPushButton(text)
    result.setProperty("kind", kind)
    result.setAutoDefault(False)
    result.clicked.connect(lambda: pressed())
    result.setCursor(Qt.CursorShape.PointingHandCursor)
    if tip:
        result.setToolTip(plain_tip(tip))
    return result


def head_with_tabs(
    title: str, tabs: Iterable[tuple[str, str, str]], show_page: Callable[[str], object]
) -> tuple[QHBoxLayout, dict[str, QPushButton]]:
    """The head of a step: its title, and a button for each page of it: (name, text, tip)."""
    head = QHBoxLayout()
    head.addWidget(label(title, "title"))
    head.addSpacing(8)
    found = {name: button(text, partial(show_page, name), "scope", tip) for name, text, tip in tabs}
    for tab in found.values():
        tab.setCheckable(True)
        head.addWidget(tab)
    head.addStretch(1)
    return head, found


def passing_menu(parent: QWidget) -> QMenu:
    """A menu that is opened once: it is gone when it is closed, not when its parent is."""
    menu = QMenu(parent)
    menu.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
    return menu


def scrolled(widget: QWidget) -> QScrollArea:
    """A widget that scrolls up and down where it is higher than its room."""
    area = QScrollArea()
    area.setFrameShape(QFrame.Shape.NoFrame)
    area.setWidgetResizable(True)
    area.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
    area.setFocusPolicy(Qt.FocusPolicy.NoFocus)
    inside = QWidget()
    layout = QVBoxLayout(inside)
    layout.setContentsMargins(0, 0, 6, 0)
    layout.addWidget(widget)
    layout.addStretch(1)
    area.setWidget(inside)
    return area


def empty(layout: QLayout) -> None:
    """Remove everything from a layout, at once out of sight."""
    while (item := layout.takeAt(0)) is not None:
        widget = item.widget()
        if widget is not None:
            widget.hide()
            widget.setParent(None)
            widget.deleteLater()
        elif (inner := item.layout()) is not None:
            empty(inner)


def named(widget: QWidget, name: str, description: str = "") -> QWidget:
    """Give a widget its name for screen readers."""
    widget.setAccessibleName(name)
    if description:
        widget.setAccessibleDescription(description)
    return widget
