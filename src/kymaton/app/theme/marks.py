"""Marks drawn for Kymaton: the forms of the hearing table, and a few icons. 1.6 px strokes."""

import math
from functools import cache

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt
from PyQt6.QtGui import QColor, QIcon, QPainter, QPainterPath, QPen, QPixmap

STROKE = 1.6


def _pen(colour: QColor, style: Qt.PenStyle = Qt.PenStyle.SolidLine) -> QPen:
    pen = QPen(colour, STROKE, style)
    pen.setCapStyle(Qt.PenCapStyle.RoundCap)
    pen.setJoinStyle(Qt.PenJoinStyle.RoundJoin)
    return pen


def draw_form(painter: QPainter, form: str, centre: QPointF, colour: QColor, size: float = 12.0) -> None:
    """The form of a cell: what is heard, told by shape alone."""
    painter.save()
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.setPen(_pen(colour))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    x, y, r = centre.x(), centre.y(), size / 2
    if form in ("heard", "late", "soft"):
        painter.setBrush(colour)
        radius = r - 2.5 if form == "soft" else r
        painter.drawEllipse(centre, radius, radius)
        if form == "late":
            painter.drawLine(QPointF(x + r + 3, y - r), QPointF(x + r + 3, y + r))
    elif form == "silent":
        painter.drawLine(QPointF(x - 4, y), QPointF(x + 4, y))
    elif form == "heard-unasked":
        painter.drawEllipse(centre, r - 1, r - 1)
    elif form == "missing":
        pen = _pen(colour)
        pen.setDashPattern([0.2, 2.3])
        pen.setWidthF(2.0)
        painter.setPen(pen)
        painter.drawEllipse(centre, r, r)
    elif form == "leaks":
        painter.setBrush(colour)
        path = QPainterPath(QPointF(x, y - r))
        path.lineTo(x + r, y + r - 1)
        path.lineTo(x - r, y + r - 1)
        path.closeSubpath()
        painter.drawPath(path)
    elif form == "twice":
        painter.setBrush(colour)
        painter.drawEllipse(QPointF(x - r * 0.6, y), r * 0.72, r * 0.72)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawEllipse(QPointF(x + r * 0.75, y), r * 0.72, r * 0.72)
    elif form == "own":
        path = QPainterPath(QPointF(x - r, y - r * 0.6))
        path.lineTo(x + r * 0.2, y - r * 0.6)
        path.arcTo(QRectF(x - r * 0.4, y - r * 0.6, r * 1.3, r * 1.3), 90, -180)
        path.lineTo(x - r, y + r * 0.7)
        painter.drawPath(path)
        painter.drawLine(QPointF(x - r, y + r * 0.7), QPointF(x - r * 0.45, y + r * 0.2))
        painter.drawLine(QPointF(x - r, y + r * 0.7), QPointF(x - r * 0.45, y + r * 1.2))
    elif form in ("one-sided", "swapped"):
        painter.drawEllipse(centre, r, r)
        painter.setBrush(colour)
        painter.drawPie(QRectF(x - r, y - r, size, size), 90 * 16, (180 if form == "one-sided" else 90) * 16)
        if form == "swapped":
            painter.drawPie(QRectF(x - r, y - r, size, size), 270 * 16, 90 * 16)
    elif form == "cancels":
        painter.drawEllipse(centre, r, r)
        painter.drawLine(QPointF(x - r * 0.7, y + r * 0.7), QPointF(x + r * 0.7, y - r * 0.7))
        painter.drawLine(QPointF(x - r * 0.7, y - r * 0.7), QPointF(x + r * 0.7, y + r * 0.7))
    elif form == "dulled":
        painter.setBrush(colour)
        painter.drawRoundedRect(QRectF(x - r + 1, y - r + 1, size - 2, size - 2), 2.5, 2.5)
    painter.restore()


def draw_wave(painter: QPainter, box: QRectF, colour: QColor) -> None:
    """The Kymaton wave: small, tall, middling."""
    painter.save()
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    pen = _pen(colour)
    pen.setWidthF(2.2)
    painter.setPen(pen)
    path = QPainterPath()
    for i in range(61):
        t = i / 60
        height = math.sin(t * math.pi * 3.4) * math.exp(-((t - 0.55) ** 2) * 9)
        point = QPointF(box.left() + t * box.width(), box.center().y() - height * box.height() / 2)
        path.lineTo(point) if i else path.moveTo(point)
    painter.drawPath(path)
    painter.restore()


def _play(p: QPainter, c: QColor) -> None:
    p.setBrush(c)
    path = QPainterPath(QPointF(5, 3))
    path.lineTo(13, 8)
    path.lineTo(5, 13)
    path.closeSubpath()
    p.drawPath(path)


def _stop(p: QPainter, c: QColor) -> None:
    p.setBrush(c)
    p.drawRoundedRect(QRectF(4, 4, 8, 8), 1, 1)


def _arrow(p: QPainter, c: QColor) -> None:
    p.drawLine(QPointF(2.5, 8), QPointF(13, 8))
    p.drawLine(QPointF(9.5, 4.5), QPointF(13, 8))
    p.drawLine(QPointF(9.5, 11.5), QPointF(13, 8))


def _down(p: QPainter, c: QColor) -> None:
    p.drawLine(QPointF(4, 6.5), QPointF(8, 10.5))
    p.drawLine(QPointF(12, 6.5), QPointF(8, 10.5))


def _up(p: QPainter, c: QColor) -> None:
    p.drawLine(QPointF(4, 9.5), QPointF(8, 5.5))
    p.drawLine(QPointF(12, 9.5), QPointF(8, 5.5))


def _tick(p: QPainter, c: QColor) -> None:
    p.drawLine(QPointF(3, 8.5), QPointF(6.5, 12))
    p.drawLine(QPointF(13, 4.5), QPointF(6.5, 12))


def _close(p: QPainter, c: QColor) -> None:
    p.drawLine(QPointF(4.5, 4.5), QPointF(11.5, 11.5))
    p.drawLine(QPointF(11.5, 4.5), QPointF(4.5, 11.5))


def _panel(p: QPainter, c: QColor) -> None:
    p.drawRoundedRect(QRectF(2.5, 3, 11, 10), 1.5, 1.5)
    p.drawLine(QPointF(9.5, 3), QPointF(9.5, 13))


def _find(p: QPainter, c: QColor) -> None:
    p.drawEllipse(QPointF(7, 7), 4, 4)
    p.drawLine(QPointF(10, 10), QPointF(13.5, 13.5))


def _half(p: QPainter, c: QColor) -> None:
    p.drawEllipse(QPointF(8, 8), 5.5, 5.5)
    p.setBrush(c)
    path = QPainterPath(QPointF(8, 2.5))
    path.arcTo(QRectF(2.5, 2.5, 11, 11), 90, 180)
    p.drawPath(path)


# the steps of the work


def _brief(p: QPainter, c: QColor) -> None:
    """A sheet with what was agreed: a word, a longer one, a shorter one."""
    p.drawRoundedRect(QRectF(3, 1.8, 10, 12.4), 1.5, 1.5)
    for y, end in ((5.3, 9.0), (8.1, 10.6), (10.9, 7.6)):
        p.drawLine(QPointF(5.6, y), QPointF(end, y))


def _path(p: QPainter, c: QColor) -> None:
    """Two ways that meet in one plate and go on as one."""
    p.drawLine(QPointF(1.8, 3.5), QPointF(6.2, 7.0))
    p.drawLine(QPointF(1.8, 12.5), QPointF(6.2, 9.0))
    p.drawRoundedRect(QRectF(6.2, 5.5, 4.2, 5), 1, 1)
    p.drawLine(QPointF(10.4, 8), QPointF(14.2, 8))


def _hearing(p: QPainter, c: QColor) -> None:
    """What arrives: a disc heard, a ring, a dash that stays silent."""
    p.drawEllipse(QPointF(12, 4.2), 2.2, 2.2)
    p.drawLine(QPointF(10, 11.8), QPointF(14, 11.8))
    p.setBrush(c)
    p.drawEllipse(QPointF(4, 4.2), 2.2, 2.2)
    p.drawEllipse(QPointF(4, 11.8), 2.2, 2.2)


def _levels(p: QPainter, c: QColor) -> None:
    p.drawLine(QPointF(2.5, 3.5), QPointF(8, 3.5))
    p.drawLine(QPointF(8, 3.5), QPointF(13.5, 6))
    p.drawLine(QPointF(2.5, 8.5), QPointF(13.5, 8.5))
    p.drawLine(QPointF(2.5, 13), QPointF(8, 12))
    p.drawLine(QPointF(8, 12), QPointF(13.5, 12))


def _loadin(p: QPainter, c: QColor) -> None:
    p.drawRect(QRectF(2.5, 7, 11, 6.5))
    p.drawLine(QPointF(8, 2), QPointF(8, 10.5))
    p.drawLine(QPointF(5.5, 8), QPointF(8, 10.5))
    p.drawLine(QPointF(10.5, 8), QPointF(8, 10.5))


def _sync(p: QPainter, c: QColor) -> None:
    """Two ticks on one line of time, apart."""
    p.drawLine(QPointF(1.8, 12.2), QPointF(14.2, 12.2))
    p.drawLine(QPointF(5, 3), QPointF(5, 12.2))
    p.drawLine(QPointF(11, 6), QPointF(11, 12.2))
    p.drawLine(QPointF(7, 4.4), QPointF(9.4, 4.4))


def _log(p: QPainter, c: QColor) -> None:
    """Line after line, each with its time."""
    for y in (4.0, 8.0, 12.0):
        p.drawLine(QPointF(2.2, y), QPointF(2.3, y))
        p.drawLine(QPointF(5.6, y), QPointF(13.8, y))


ICONS = {
    "brief": _brief,
    "path": _path,
    "hearing": _hearing,
    "levels": _levels,
    "load-in": _loadin,
    "sync": _sync,
    "log": _log,
    "play": _play,
    "stop": _stop,
    "arrow": _arrow,
    "down": _down,
    "up": _up,
    "tick": _tick,
    "close": _close,
    "panel": _panel,
    "find": _find,
    "daynight": _half,
}


def draw_icon(painter: QPainter, name: str, at: QPointF, colour: str, size: float = 16.0) -> None:
    """An icon in one colour; `at` is its upper left corner."""
    painter.save()
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.translate(at)
    painter.scale(size / 16, size / 16)
    painter.setPen(_pen(QColor(colour)))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    ICONS[name](painter, QColor(colour))
    painter.restore()


@cache
def icon(name: str, colour: str, size: int = 16) -> QIcon:
    """An icon for buttons, sharp at twice the size too."""
    result = QIcon()
    for scale in (1, 2):
        pixmap = QPixmap(QSize(size * scale, size * scale))
        pixmap.fill(Qt.GlobalColor.transparent)
        painter = QPainter(pixmap)
        draw_icon(painter, name, QPointF(0, 0), colour, size * scale)
        painter.end()
        pixmap.setDevicePixelRatio(scale)
        result.addPixmap(pixmap)
    return result
