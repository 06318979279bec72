"""What every text that is shown needs, against the room that it has; and texts that lie over each other."""

from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass

from PyQt6.QtCore import QPoint, QPointF, QRect, QRectF, Qt
from PyQt6.QtGui import QFontMetrics, QFontMetricsF, QPainter, QPixmap, QRegion
from PyQt6.QtWidgets import (
    QAbstractButton,
    QAbstractItemView,
    QComboBox,
    QHeaderView,
    QLabel,
    QLineEdit,
    QPushButton,
    QTableView,
    QWidget,
)

from kymaton.app.widgets.basic import Aside
from kymaton.app.widgets.finder import Finder

CUT = "\N{HORIZONTAL ELLIPSIS}"
SLACK = 1.5


@dataclass(frozen=True)
class Drawn:
    """A text as it was drawn by a widget that paints itself: where, and how much room it had and needed."""

    text: str
    has: QRectF | None
    needs: QRectF


@contextmanager
def listening() -> Iterator[list[Drawn]]:
    """Take down every text that Python draws meanwhile."""
    drawn: list[Drawn] = []
    draw = QPainter.__dict__["drawText"]

    def listened(painter: QPainter, *where: object) -> object:
        text = next(str(w) for w in reversed(where) if isinstance(w, str))
        metrics = QFontMetricsF(painter.font())
        if isinstance(where[0], QRectF | QRect):
            box, flags = QRectF(where[0]), where[1] if not isinstance(where[1], str) else Qt.AlignmentFlag.AlignLeft
            needs = metrics.boundingRect(box, int(getattr(flags, "value", flags)), text)
            drawn.append(Drawn(text, painter.transform().mapRect(box), painter.transform().mapRect(needs)))
        elif isinstance(where[0], QPointF | QPoint):
            needs = metrics.boundingRect(text).translated(QPointF(where[0]))
            drawn.append(Drawn(text, None, painter.transform().mapRect(needs)))
        return draw.__get__(painter, QPainter)(*where)

    QPainter.drawText = listened  # type: ignore[method-assign]
    try:
        yield drawn
    finally:
        QPainter.drawText = draw  # type: ignore[method-assign]


def told_whole(widget: QWidget, text: str) -> bool:
    """Whether what is cut is to be read whole in a tool tip."""
    return text.rstrip(CUT)[:12] in widget.toolTip()


def too_small(window: QWidget) -> Iterator[str]:
    """Texts of the widgets of a window that have less room than they need."""
    for widget in window.findChildren(QWidget):
        if not widget.isVisible() or widget.visibleRegion().isEmpty() or isinstance(widget, QHeaderView):
            continue
        name = f"{type(widget).__name__} {widget.accessibleName() or widget.objectName()}".strip()
        if isinstance(widget, QLabel) and widget.text() and not isinstance(widget, Aside):
            yield from (f"{name}: {why}" for why in _label(widget))
        elif isinstance(widget, QPushButton) and widget.text() and type(widget) is QPushButton:
            if widget.sizeHint().width() > widget.width() + SLACK and not told_whole(widget, widget.text()):
                yield f"{name}: {widget.text()!r} needs {widget.sizeHint().width()}, has {widget.width()}"
        elif (
            isinstance(widget, QAbstractButton) and widget.text() and widget.sizeHint().width() > widget.width() + SLACK
        ):
            if type(widget).paintEvent is QAbstractButton.paintEvent:
                yield f"{name}: {widget.text()!r} needs {widget.sizeHint().width()}, has {widget.width()}"
        elif isinstance(widget, QComboBox):
            needs = widget.fontMetrics().horizontalAdvance(widget.currentText()) + 36
            if needs > widget.width() and not told_whole(widget, widget.currentText()):
                yield f"{name}: {widget.currentText()!r} needs {needs}, has {widget.width()}"
        elif isinstance(widget, QLineEdit) and not isinstance(widget.parent(), QComboBox):
            text = widget.text() or widget.placeholderText()
            needs = widget.fontMetrics().horizontalAdvance(text) + 12
            if needs > widget.width() and len(text) < 60:
                yield f"{name}: {text!r} needs {needs}, has {widget.width()}"
        elif isinstance(widget, QTableView):
            yield from (f"{name}: {why}" for why in _table(widget))


def _label(label: QLabel) -> Iterator[str]:
    metrics = QFontMetrics(label.font())
    if label.wordWrap():
        box = metrics.boundingRect(QRect(0, 0, label.width(), 9999), int(Qt.TextFlag.TextWordWrap.value), label.text())
        if box.height() > label.height() + SLACK or box.width() > label.width() + SLACK:
            yield f"{label.text()!r} needs {box.width()}x{box.height()}, has {label.width()}x{label.height()}"
        return
    needs = max(metrics.horizontalAdvance(line) for line in label.text().split("\n"))
    if needs > label.contentsRect().width() + SLACK and not told_whole(label, label.text()):
        yield f"{label.text()!r} needs {needs}, has {label.contentsRect().width()}"


def _table(table: QTableView) -> Iterator[str]:
    model = table.model()
    assert model is not None
    header = table.horizontalHeader()
    assert header is not None
    for column in range(model.columnCount()):
        wide = table.columnWidth(column)
        if not wide:  # hidden
            continue
        title = str(model.headerData(column, Qt.Orientation.Horizontal) or "")
        if header.isVisible() and type(header) is QHeaderView:
            needs = QFontMetrics(header.font()).horizontalAdvance(title)
            if needs > wide + SLACK:
                yield f"head {title!r} needs {needs}, has {wide}"
        for row in range(model.rowCount()):
            index = model.index(row, column)
            box = table.visualRect(index)
            text = model.data(index)
            if not isinstance(text, str) or not text or not table.viewport().rect().intersects(box):  # type: ignore[union-attr]
                continue
            if (
                type(table.itemDelegate()).paint is not QAbstractItemView.itemDelegate
                and header.__class__ is QHeaderView
            ):
                needs = table.fontMetrics().horizontalAdvance(text)
                whole = model.data(index, Qt.ItemDataRole.ToolTipRole)
                wraps = table.wordWrap() and table.rowHeight(row) > 2 * table.fontMetrics().height()
                if needs > wide and not wraps and not (isinstance(whole, str) and text[:12] in whole):
                    yield f"cell {text!r} needs {needs}, has {wide}"


def drawn_badly(widget: QWidget) -> Iterator[str]:
    """Texts that a widget paints itself and that are cut, stand out of their room, or lie over each other."""
    with listening() as drawn:
        alone = QWidget.RenderFlag.DrawWindowBackground  # without what is in it
        widget.render(QPixmap(widget.size()), QPoint(), QRegion(), alone)
    shown = [d for d in drawn if d.text.strip()]
    for d in shown:
        if d.text.endswith(CUT) and not told_whole(widget, d.text):
            yield f"{type(widget).__name__}: {d.text!r} is cut"
        if d.has is not None and (d.needs.width() > d.has.width() + SLACK or d.needs.height() > d.has.height() + 4):
            yield f"{type(widget).__name__}: {d.text!r} needs {d.needs.width():.0f}, has {d.has.width():.0f}"
    for at, one in enumerate(shown):
        for other in shown[at + 1 :]:
            over = one.needs.adjusted(1, 3, -1, -3).intersected(other.needs.adjusted(1, 3, -1, -3))
            if over.width() > 1 and over.height() > 1 and one != other:
                yield f"{type(widget).__name__}: {one.text!r} lies over {other.text!r}"


def lying_over(window: QWidget) -> Iterator[str]:
    """Labels and buttons of a window that cover each other."""
    found = [
        (w, QRect(w.mapTo(window, QPoint(0, 0)), w.size()).intersected(
            w.visibleRegion().boundingRect().translated(w.mapTo(window, QPoint(0, 0)))))
        for w in window.findChildren(QWidget)
        if isinstance(w, QLabel | QPushButton | QLineEdit | QComboBox) and w.isVisible()
        and not w.visibleRegion().isEmpty() and not isinstance(w.parent(), QComboBox | QAbstractItemView)
    ]  # fmt: skip
    for at, (one, box) in enumerate(found):
        for other, there in found[at + 1 :]:
            over = box.intersected(there)
            related = one.isAncestorOf(other) or other.isAncestorOf(one) or one.window() is not other.window()
            related = related or any(floats(w) for w in (one, other))
            if over.width() > 2 and over.height() > 2 and not related:
                yield f"{_named(one)} lies over {_named(other)}"


def floats(widget: QWidget | None) -> bool:
    """Whether a widget belongs to what is laid over the window on purpose."""
    while widget is not None:
        if isinstance(widget, Finder) or widget.objectName() == "offers":
            return True
        widget = widget.parentWidget()
    return False


def _named(widget: QWidget) -> str:
    text = widget.text() if hasattr(widget, "text") else ""
    return f"{type(widget).__name__} {text!r}"
