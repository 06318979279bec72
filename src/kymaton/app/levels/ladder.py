"""The level ladder: a sound runs level from stage to stage, between the line at which each clips and its noise."""

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt
from PyQt6.QtGui import QColor, QMouseEvent, QPainter, QPaintEvent, QPen, QPolygonF
from PyQt6.QtWidgets import QSizePolicy, QToolTip, QWidget

from kymaton.app.theme.theme import THEME, colour, figures, tokens, words
from kymaton.core.levels.ladder import Rung, tightest
from kymaton.core.words import number, sentence

NARROW, WIDE, NAMES, FOOT, SIDE = 84, 150, 50, 62, 8  # of a stage, and above and below the drawing
ABOVE_DB, BELOW_DB = 45.0, 75.0  # what is drawn over and under the typical level
FAR_DB = 10.0  # more room than this is told in whole dB
TIGHT_DB = 6.0  # less room than this is marked


class LadderView(QWidget):
    """Stages side by side. The typical level stands at one height; ceiling and floor are drawn around it."""

    def __init__(self, whole: bool = True) -> None:
        """With `whole` these are the stages of one way; else each column stands for itself."""
        super().__init__()
        self.whole = whole
        self.rungs: list[Rung] = []
        self.empty = ""
        self.setMouseTracking(True)
        self.setMinimumHeight(300 if whole else 240)
        self.setSizePolicy(QSizePolicy.Policy.Minimum, QSizePolicy.Policy.Expanding)
        self.setAccessibleName("Level ladder")
        THEME.changed.connect(self.update)

    def show_rungs(self, rungs: list[Rung], empty: str) -> None:
        """Draw these stages; where there are none, say why."""
        self.rungs, self.empty = rungs, empty
        self.setMinimumWidth(2 * SIDE + NARROW * len(rungs))
        self.setAccessibleDescription("; ".join(told(r) for r in rungs) or empty)
        self.update()

    def sizeHint(self) -> QSize:
        return QSize(2 * SIDE + NARROW * max(1, len(self.rungs)), 320)

    @property
    def _wide(self) -> float:
        """How wide a stage is drawn."""
        return min(WIDE, max(NARROW, (self.width() - 2 * SIDE) / max(1, len(self.rungs))))

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        at = int((event.position().x() - SIDE) // self._wide)
        if 0 <= at < len(self.rungs):
            QToolTip.showText(event.globalPosition().toPoint(), told(self.rungs[at]).replace(", ", "\n"), self)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        t = tokens()
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        if not self.rungs:
            painter.setPen(QColor(t.soft))
            painter.setFont(words(13))
            painter.drawText(QRectF(0, 8, self.width(), 60), Qt.TextFlag.TextWordWrap, self.empty)
            return
        self._band(painter)
        self._line(painter, [None if r.clip_db is None else r.clip_db - r.own.typical for r in self.rungs], t.fault)
        self._line(painter, [_noise(r) for r in self.rungs], t.soft, Qt.PenStyle.DotLine)
        worst = tightest(self.rungs)
        for at, rung in enumerate(self.rungs):
            self._words(painter, at, rung, rung is worst)

    def _y(self, over_typical_db: float) -> float:
        """Height of a level that is so far over the typical one."""
        height = self.height() - NAMES - FOOT
        shown = min(ABOVE_DB, max(-BELOW_DB, over_typical_db))
        return NAMES + height * (ABOVE_DB - shown) / (ABOVE_DB + BELOW_DB)

    def _x(self, at: int) -> float:
        return SIDE + self._wide * at

    def _band(self, painter: QPainter) -> None:
        """Typical and peaks, and what all sounds come to besides."""
        t = tokens()
        painter.setPen(Qt.PenStyle.NoPen)
        for at, rung in enumerate(self.rungs):
            own = rung.own.peak - rung.own.typical
            whole = rung.together.peak - rung.own.typical
            for top, bottom, ink, part in (
                (whole, own, t.wave, 0.16),
                (own, 0.0, t.wave, 0.38),
                (0.0, -3.0, t.wave, 1.0),
            ):
                if top > bottom:
                    painter.setBrush(colour(ink, part))
                    painter.drawRect(QRectF(self._x(at), self._y(top), self._wide, self._y(bottom) - self._y(top)))

    def _line(
        self, painter: QPainter, over: list[float | None], ink: str, style: Qt.PenStyle = Qt.PenStyle.SolidLine
    ) -> None:
        """A line through the stages that have a value, stepping from one to the next."""
        painter.setPen(QPen(QColor(ink), 2.0, style))
        points = QPolygonF()
        for at, value in enumerate(over):
            if value is None:
                painter.drawPolyline(points)
                points = QPolygonF()
                continue
            if not self.whole:
                painter.drawPolyline(points)
                points = QPolygonF()
            points.append(QPointF(self._x(at), self._y(value)))
            points.append(QPointF(self._x(at) + self._wide, self._y(value)))
        painter.drawPolyline(points)

    def _words(self, painter: QPainter, at: int, rung: Rung, is_tightest: bool) -> None:
        t, x = tokens(), self._x(at)
        box = QRectF(x + 4, 2, self._wide - 8, NAMES - 6)
        painter.setPen(QColor(t.ink))
        painter.setFont(words(11, 500))
        painter.drawText(box, Qt.TextFlag.TextWordWrap | Qt.AlignmentFlag.AlignBottom, sentence(rung.name))
        painter.setPen(QPen(QColor(t.line), 1))
        painter.drawLine(QPointF(x, NAMES), QPointF(x, self.height() - 6))
        room = rung.headroom_db
        clips = room is not None and room < 0
        tight = room is not None and room < TIGHT_DB
        foot = self.height() - FOOT + 14
        painter.setFont(figures(11))
        painter.setPen(QColor(t.ink))
        painter.drawText(QPointF(x + 4, foot), f"{number(rung.own.typical, 1)} {rung.unit}")
        if room is not None:
            painter.setPen(QColor(t.fault if clips else t.caution if tight else t.soft))
            said = f"{number(-room, 1)} dB over" if clips else f"{number(room, 0 if room >= FAR_DB else 1)} dB room"
            painter.drawText(QPointF(x + 4, foot + 16), said)
        over = rung.over_noise_db
        if over is not None:
            painter.setPen(QColor(t.soft))
            painter.drawText(QPointF(x + 4, foot + 32), f"{number(over)} dB SNR")
        if is_tightest:
            self._tightest(painter, x, rung)

    def _tightest(self, painter: QPainter, x: float, rung: Rung) -> None:
        """A bracket between peaks and ceiling where there is least room."""
        assert rung.clip_db is not None
        t = tokens()
        top = self._y(rung.clip_db - rung.own.typical)
        bottom = self._y(max(rung.own.peak, rung.together.peak) - rung.own.typical)
        right = x + self._wide - 12
        painter.setPen(QPen(QColor(t.ink), 1.4))
        for y in (top, bottom):
            painter.drawLine(QPointF(right - 5, y), QPointF(right + 5, y))
        painter.drawLine(QPointF(right, top), QPointF(right, bottom))
        painter.setFont(words(11, 600))
        painter.drawText(QPointF(right - 58, min(top, bottom) - 5), "least room")


def _noise(rung: Rung) -> float | None:
    over = rung.over_noise_db
    return None if over is None else -over


def told(rung: Rung) -> str:
    """A stage in words: for the tip, and for who hears it read."""
    parts = [rung.name, f"typically {number(rung.own.typical, 1)} {rung.unit}", f"peaks {number(rung.own.peak, 1)}"]
    if rung.together.peak > rung.own.peak + 0.1:
        parts.append(f"all sounds there {number(rung.together.peak, 1)}")
    if rung.clip_db is not None:
        parts.append(f"takes {number(rung.clip_db, 1)}")
    if rung.over_noise_db is not None:
        parts.append(f"noise {number(rung.noise_db, 1)}")
    return ", ".join(parts)
