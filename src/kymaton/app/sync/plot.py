"""A small plot of what single events tell."""

from collections.abc import Sequence

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt
from PyQt6.QtGui import QColor, QPainter, QPaintEvent, QPen, QPolygonF
from PyQt6.QtWidgets import QSizePolicy, QWidget

from kymaton.app.theme.theme import THEME, colour, figures, tokens, words
from kymaton.core.words import number


class Plot(QWidget):
    """Values over time as dots (rings where `sure` says that one tells little by itself), and what was made of them
    as a line with its uncertainty.

    The line goes through `value` at `at_s` and rises by `drift_ppm` (µs a second, of a value in ms).
    """

    def __init__(
        self, points: Sequence[tuple[float, float]], value: float, plus_minus: float, title: str,
        drift_ppm: float = 0.0, at_s: float = 0.0, sure: Sequence[bool] = (),
    ) -> None:  # fmt: skip
        super().__init__()
        self.sure = list(sure) or [True] * len(points)
        self.points, self.plus_minus, self.title = list(points), plus_minus, title
        self.ends = [value + 1e-3 * drift_ppm * (t - at_s) for t, _ in (self.points[:1] + self.points[-1:])]
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
            min([*values, *(v - self.plus_minus for v in self.ends)]),
            max([*values, *(v + self.plus_minus for v in self.ends)]),
        )
        spare = max(1.0, 0.15 * (high - low))
        low, high = low - spare, high + spare

        def spot(time_s: float, lead_ms: float) -> QPointF:
            span = max(1e-9, times[-1] - times[0])
            x = box.left() + 8 + (time_s - times[0]) / span * (box.width() - 16)
            return QPointF(x, box.bottom() - (lead_ms - low) / (high - low) * box.height())

        first, last = self.ends
        sides = [
            spot(times[0], first + self.plus_minus), spot(times[-1], last + self.plus_minus),
            spot(times[-1], last - self.plus_minus), spot(times[0], first - self.plus_minus),
        ]  # fmt: skip
        painter.setBrush(colour(t.wave, 0.18))
        painter.drawPolygon(QPolygonF(sides))
        painter.setPen(QPen(QColor(t.wave), 1.4))
        painter.drawLine(spot(times[0], first), spot(times[-1], last))
        for time_s, value, sure in zip(times, values, self.sure, strict=True):
            painter.setPen(Qt.PenStyle.NoPen if sure else QPen(QColor(t.soft), 1.2))
            painter.setBrush(QColor(t.ink) if sure else Qt.BrushStyle.NoBrush)
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


class CurveView(QWidget):
    """How alike two things are over an offset: a curve from 0 to 1, the chosen offset as a line."""

    def __init__(self, curve: Sequence[tuple[float, float]], chosen: float, title: str) -> None:
        super().__init__()
        self.curve, self.chosen, self.title = list(curve), chosen, title
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setFixedHeight(76)
        self.setAccessibleName(f"{title}: highest at {number(chosen, 3)} s")
        THEME.changed.connect(self.update)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        t, painter = tokens(), QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        box = QRectF(0, 2, self.width(), self.height() - 22)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(QColor(t.panel))
        painter.drawRoundedRect(box, 4, 4)
        low, high = self.curve[0][0], self.curve[-1][0]

        def spot(at: float, value: float) -> QPointF:
            return QPointF(
                box.left() + (at - low) / (high - low) * box.width(), box.bottom() - 2 - value * (box.height() - 6)
            )

        painter.setPen(QPen(QColor(t.soft), 1))
        painter.drawPolyline(QPolygonF([spot(at, value) for at, value in self.curve]))
        painter.setPen(QPen(QColor(t.wave), 1.4))
        painter.drawLine(spot(self.chosen, 0.0), spot(self.chosen, 1.0))
        painter.setPen(QColor(t.soft))
        painter.setFont(figures(11))
        below = QRectF(0, box.bottom() + 3, self.width(), 16)
        digits = 2 if high - low < 1 else 0
        painter.drawText(below, Qt.AlignmentFlag.AlignLeft, f"{number(low, digits)} s")
        painter.drawText(below, Qt.AlignmentFlag.AlignRight, f"{number(high, digits)} s")
        painter.setFont(words(11))
        painter.drawText(below, Qt.AlignmentFlag.AlignHCenter, self.title)
