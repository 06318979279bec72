"""The sound of a whole film as one line, to go to a place in it."""

from typing import Any

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QColor, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QPolygonF
from PyQt6.QtWidgets import QWidget

from kymaton.app.theme.theme import THEME, figures, tokens
from kymaton.core.words import number


class Overview(QWidget):
    """Press anywhere to look there; arrows go by a second."""

    chosen = pyqtSignal(float)

    def __init__(self) -> None:
        super().__init__()
        self.peaks: Any = np.zeros(0, np.float32)
        self.length_s = 0.0
        self.at_s = 0.0
        self.marks: list[float] = []
        self.setFixedHeight(46)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("The whole film: arrows go by a second")
        THEME.changed.connect(self.update)

    def show_film(self, length_s: float, peaks: Any) -> None:
        self.length_s, self.peaks = length_s, peaks
        self.update()

    def go(self, at_s: float, marks: list[float]) -> None:
        self.at_s, self.marks = at_s, marks
        self.update()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        t, painter = tokens(), QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        box = QRectF(0, 0, self.width(), self.height() - 16)
        painter.fillRect(box, QColor(t.panel))
        if not self.length_s:
            return
        wide = max(1, self.width())
        if len(self.peaks):
            edges = np.linspace(0, len(self.peaks), wide + 1).astype(int)
            scale = 0.48 * box.height() / max(1e-6, float(self.peaks.max()))
            painter.setPen(QPen(QColor(t.soft), 1))
            for x in range(wide):
                piece = self.peaks[edges[x] : max(edges[x] + 1, edges[x + 1])]
                high = float(piece.max(initial=0.0)) * scale
                painter.drawLine(
                    QPointF(x + 0.5, box.center().y() - high), QPointF(x + 0.5, box.center().y() + high + 0.5)
                )
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(QColor(t.ink))
        for mark in self.marks:
            at = mark / self.length_s * wide
            painter.drawPolygon(QPolygonF([QPointF(at - 4, 0), QPointF(at + 4, 0), QPointF(at, 7)]))
        painter.setPen(QPen(QColor(t.wave), 2))
        at = self.at_s / self.length_s * wide
        painter.drawLine(QPointF(at, 0), QPointF(at, box.bottom()))
        painter.setFont(figures(11))
        painter.setPen(QColor(t.soft))
        low = QRectF(0, box.bottom() + 2, wide, 14)
        painter.drawText(low, Qt.AlignmentFlag.AlignLeft, "0 s")
        painter.drawText(low, Qt.AlignmentFlag.AlignRight, f"{number(self.length_s, 1)} s")
        if self.hasFocus():
            painter.setPen(QPen(QColor(t.ink), 1))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRect(box.adjusted(0.5, 0.5, -0.5, -0.5))

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        if self.length_s:
            self.chosen.emit(min(1.0, max(0.0, event.position().x() / max(1, self.width()))) * self.length_s)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        assert event is not None
        by = {Qt.Key.Key_Left: -1.0, Qt.Key.Key_Right: 1.0}.get(Qt.Key(event.key()), 0.0)
        if by and self.length_s:
            self.chosen.emit(min(self.length_s, max(0.0, self.at_s + by)))
        else:
            super().keyPressEvent(event)
