"""The loudness of a recording over time, with the band of the goal, and where something is wrong."""

import math
from collections.abc import Sequence

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QColor, QMouseEvent, QPainter, QPaintEvent, QPen, QPolygonF
from PyQt6.QtWidgets import QSizePolicy, QToolTip, QWidget

from kymaton.app.theme.theme import THEME, colour, figures, tokens, words
from kymaton.core.levels.goals import Goal
from kymaton.core.measuring.fault_words import clock, spot_text
from kymaton.core.measuring.k_weighting import SHORT_TERM_S
from kymaton.core.measuring.sound_faults import Spot
from kymaton.core.words import number

STEP_S = 0.1
LOWEST, HIGHEST = -50.0, 0.0  # LUFS that are drawn


class CurveView(QWidget):
    """Short-term loudness. A click says at which time, to hear it from there."""

    picked = pyqtSignal(float)

    def __init__(self) -> None:
        super().__init__()
        self.curve: Sequence[float] = ()
        self.spots: Sequence[Spot] = ()
        self.goal: Goal | None = None
        self.seconds = 0.0
        self.setMouseTracking(True)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.setMinimumHeight(150)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setAccessibleName("Short-term loudness over time")
        THEME.changed.connect(self.update)

    def show_curve(self, curve: Sequence[float], seconds: float, spots: Sequence[Spot], goal: Goal | None) -> None:
        self.curve, self.seconds, self.spots, self.goal = curve, seconds, spots, goal
        self.setAccessibleDescription("; ".join(spot_text(s) for s in spots))
        self.update()

    def sizeHint(self) -> QSize:
        return QSize(600, 190)

    @property
    def _box(self) -> QRectF:
        return QRectF(46, 8, max(10, self.width() - 54), max(10, self.height() - 32))

    def _at(self, seconds: float, lufs: float) -> QPointF:
        box = self._box
        shown = min(HIGHEST, max(LOWEST, lufs if math.isfinite(lufs) else LOWEST))
        y = box.top() + box.height() * (HIGHEST - shown) / (HIGHEST - LOWEST)
        return QPointF(box.left() + box.width() * seconds / max(self.seconds, 1e-9), y)

    def time_at(self, x: float) -> float:
        """The time that stands at this place, in s."""
        box = self._box
        return min(self.seconds, max(0.0, (x - box.left()) / box.width() * self.seconds))

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        if self.seconds:
            self.picked.emit(self.time_at(event.position().x()))

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        if self.seconds:
            at = self.time_at(event.position().x())
            here = [spot_text(s) for s in self.spots if s.from_s - 0.5 <= at <= s.to_s + 0.5]
            index = int((at - SHORT_TERM_S) / STEP_S)
            lufs = f"{number(self.curve[index], 1)} LUFS" if 0 <= index < len(self.curve) else ""
            QToolTip.showText(event.globalPosition().toPoint(), "\n".join(filter(None, (clock(at), lufs, *here))), self)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        t = tokens()
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        box = self._box
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(QColor(t.panel))
        painter.drawRect(box)
        if self.goal is not None:
            top = self._at(0, self.goal.lufs + self.goal.tolerance_lu).y()
            low = self._at(0, self.goal.lufs - self.goal.tolerance_lu).y()
            painter.setBrush(colour(t.wave, 0.22))
            painter.drawRect(QRectF(box.left(), top, box.width(), max(2.0, low - top)))
        painter.setFont(figures(11))
        for lufs in range(int(LOWEST) + 10, 0, 10):
            y = self._at(0, lufs).y()
            painter.setPen(QPen(QColor(t.line), 1))
            painter.drawLine(QPointF(box.left(), y), QPointF(box.right(), y))
            painter.setPen(QColor(t.soft))
            painter.drawText(QRectF(0, y - 8, 40, 16), Qt.AlignmentFlag.AlignRight, number(lufs))
        if not self.seconds:
            return
        for spot in self.spots:
            left, right = self._at(spot.from_s, 0).x(), self._at(spot.to_s, 0).x()
            grave = spot.kind in ("clipping", "dropout", "turned round")
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(colour(t.fault if grave else t.caution, 0.25))
            painter.drawRect(QRectF(left, box.top(), max(2.0, right - left), box.height()))
        painter.setPen(QPen(QColor(t.wave), 1.6))
        step = max(1, len(self.curve) // 2000)
        line = QPolygonF(
            [
                self._at(SHORT_TERM_S + n * STEP_S, max(self.curve[n : n + step]))
                for n in range(0, len(self.curve), step)
            ]
        )
        painter.drawPolyline(line)
        painter.setPen(QColor(t.soft))
        painter.setFont(words(11))
        painter.drawText(QPointF(box.left(), box.bottom() + 16), "0:00")
        end = clock(self.seconds)
        painter.drawText(QRectF(box.right() - 80, box.bottom() + 3, 80, 16), Qt.AlignmentFlag.AlignRight, end)
