"""A small plot of what single events tell."""

from collections.abc import Sequence

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt
from PyQt6.QtGui import QColor, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QSizePolicy, QWidget

from kymaton.app.theme.theme import THEME, colour, figures, tokens, words
from kymaton.core.words import number


class Plot(QWidget):
    """Values over time as dots, and what was made of them as a line with its uncertainty."""

    def __init__(self, points: Sequence[tuple[float, float]], value: float, plus_minus: float, title: str) -> None:
        super().__init__()
        self.points, self.value, self.plus_minus, self.title = list(points), value, plus_minus, title
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setFixedHeight(92)
        self.setAccessibleName(f"{len(self.points)} values over time: {title}")
        THEME.changed.connect(self.update)

    def sizeHint(self) -> QSize:
        return QSize(420, 92)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        t = tokens()
        if not self.points:
            return
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        box = QRectF(58, 6, self.width() - 66, self.height() - 26)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(QColor(t.ground))
        painter.drawRoundedRect(box, 4, 4)
        values = [v for _, v in self.points]
        times = [at for at, _ in self.points]
        low, high = (
            min([*values, self.value - self.plus_minus]),
            max([*values, self.value + self.plus_minus]),
        )
        spare = max(1.0, 0.15 * (high - low))
        low, high = low - spare, high + spare

        def spot(time_s: float, lead_ms: float) -> QPointF:
            span = max(1e-9, times[-1] - times[0])
            x = box.left() + 8 + (time_s - times[0]) / span * (box.width() - 16)
            return QPointF(x, box.bottom() - (lead_ms - low) / (high - low) * box.height())

        first, last = (
            spot(times[0], self.value + self.plus_minus),
            spot(times[-1], self.value - self.plus_minus),
        )
        painter.fillRect(QRectF(first, last), colour(t.wave, 0.18))
        painter.setPen(QPen(QColor(t.wave), 1.4))
        painter.drawLine(spot(times[0], self.value), spot(times[-1], self.value))
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(QColor(t.ink))
        for time_s, value in zip(times, values, strict=True):
            painter.drawEllipse(spot(time_s, value), 2.4, 2.4)
        painter.setPen(QColor(t.soft))
        painter.setFont(figures(11))
        for value, y in ((high, box.top() + 6), (low, box.bottom() - 2)):
            painter.drawText(QRectF(0, y - 8, 54, 16), Qt.AlignmentFlag.AlignRight, number(value, 1))
        painter.setFont(words(11))
        painter.drawText(QRectF(box.left(), box.bottom() + 3, 300, 16), Qt.AlignmentFlag.AlignLeft, self.title)
        painter.setFont(figures(11))
        text = f"{number(times[-1] - times[0], 1)} s"
        painter.drawText(QRectF(box.right() - 80, box.bottom() + 3, 80, 16), Qt.AlignmentFlag.AlignRight, text)
