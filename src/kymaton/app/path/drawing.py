"""Draws the path map: plates and wires from their layout; the chosen routes are inked, all else fades."""

from msgspec import Struct, field
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QColor, QPainter, QPainterPath, QPen

from kymaton.app.path.layout import STAGE_NAMES, Map, Plate, Wire
from kymaton.app.path.plate_text import plate_lines
from kymaton.app.theme.theme import colour, tokens, words

CORNER = 6.0


class Ink(Struct):
    """What stands out on the map. Without anything `chosen` all plates are lit."""

    chosen: bool = False
    cables: dict[str, int] = field(default_factory=dict)  # cable → number of the route that inks it
    uses: dict[str, str] = field(default_factory=dict)  # plate → what is used of it
    lit: set[str] = field(default_factory=set)  # plates on an inked route
    selected: frozenset[str] = frozenset()  # plates of the chosen sound and listener
    framed: frozenset[str] = frozenset()  # plates with the dashed frame
    faulty: frozenset[str] = frozenset()  # plates with the dot of a fault


def draw_map(painter: QPainter, map_: Map, ink: Ink, part: QRectF | None = None) -> None:
    """Draw the map, or what of it can be seen in this part."""
    t = tokens()
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.setFont(words(12, 600))
    for (x, width), name in zip(map_.columns, STAGE_NAMES, strict=True):
        painter.setPen(QColor(t.soft))
        painter.drawText(QRectF(x, 2, width, 18), Qt.AlignmentFlag.AlignVCenter, name)
        painter.setPen(QPen(QColor(t.line), 1))
        painter.drawLine(QPointF(x, 22), QPointF(x + width, 22))
    if not map_.plates:
        painter.setPen(QColor(t.soft))
        painter.setFont(words(13))
        painter.drawText(QPointF(0, 52), "Nothing is here yet. Type a device into the patch line: add desk 4 in 1 aux")
    wires = [w for w in map_.wires if part is None or part.intersects(_around(w))]
    inked = [w for w in wires if any(c in ink.cables for c in w.cables)]
    lit_wires = {id(w) for w in inked}
    for wire in wires:
        if id(wire) not in lit_wires:
            faint = colour(t.faint, 0.45 if ink.chosen else 0.9)
            _wire(painter, wire, faint, 1.0)
    for wire in sorted(inked, key=lambda w: min(ink.cables[c] for c in w.cables if c in ink.cables)):
        routes = {ink.cables[c] for c in wire.cables if c in ink.cables}
        _wire(painter, wire, QColor(t.wave if 0 in routes else t.fault), 2.2)
    for plate in map_.plates.values():
        if part is None or part.intersects(QRectF(plate.x, plate.y, plate.width, plate.height)):
            _plate(painter, plate, ink)


def _wire(painter: QPainter, wire: Wire, ink: QColor, width: float) -> None:
    path = rounded(wire.points)
    painter.setBrush(Qt.BrushStyle.NoBrush)
    if wire.picture:  # a double line: picture, with sound inside
        pen = QPen(ink, width + 2.4)
        painter.setPen(pen)
        painter.drawPath(path)
        painter.setPen(QPen(QColor(tokens().ground), width + 0.4))
        painter.drawPath(path)
    else:
        painter.setPen(QPen(ink, width + (0.8 if len(wire.cables) > 1 else 0.0)))
        painter.drawPath(path)
    if width > 2:
        painter.fillPath(_arrow(wire.points[-2], wire.points[-1]), ink)


def _plate(painter: QPainter, plate: Plate, ink: Ink) -> None:
    t = tokens()
    box = QRectF(plate.x, plate.y, plate.width, plate.height)
    selected, lit = plate.id in ink.selected, plate.id in ink.lit or not ink.chosen
    painter.setPen(QPen(QColor(t.wave if selected else t.ink if lit and ink.chosen else t.line), 1.4))
    painter.setBrush(QColor(t.wash if selected else t.raised if lit else t.panel))
    painter.drawRoundedRect(box, 5, 5)
    if plate.id in ink.framed:
        painter.setPen(QPen(QColor(t.wave), 1, Qt.PenStyle.DashLine))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawRoundedRect(box.adjusted(-3, -3, 3, 3), 7, 7)
    inner = box.adjusted(8, 4, -5, -4)
    top = inner.top() - 1 if plate.height <= 40 else inner.top() + 2
    uses = ink.uses.get(plate.id, "") if lit else ""
    for row, (text, font, soft) in enumerate(plate_lines(plate, uses, inner.width())):
        painter.setFont(font)
        painter.setPen(QColor(t.soft if soft or not lit else t.ink))
        place = QRectF(inner.left(), top + 16 * row, inner.width(), 16)
        painter.drawText(place, Qt.AlignmentFlag.AlignVCenter, text)
    if plate.id in ink.faulty:
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(QColor(t.fault))
        painter.drawEllipse(QPointF(box.right() - 1, box.top() + 1), 5, 5)


def rounded(points: list[tuple[float, float]]) -> QPainterPath:
    """A line with right angles, its corners rounded."""
    path = QPainterPath(QPointF(*points[0]))
    for before, corner, after in zip(points, points[1:], points[2:], strict=False):
        a = _towards(corner, before)
        b = _towards(corner, after)
        path.lineTo(a)
        path.quadTo(QPointF(*corner), b)
    path.lineTo(QPointF(*points[-1]))
    return path


def _around(wire: Wire) -> QRectF:
    """The box that a wire needs."""
    xs, ys = [x for x, _ in wire.points], [y for _, y in wire.points]
    return QRectF(QPointF(min(xs), min(ys)), QPointF(max(xs), max(ys))).adjusted(-5, -5, 5, 5)


def _arrow(before: tuple[float, float], tip: tuple[float, float]) -> QPainterPath:
    dx, dy = tip[0] - before[0], tip[1] - before[1]
    length = abs(dx) + abs(dy) or 1.0
    ux, uy = dx / length, dy / length
    path = QPainterPath(QPointF(*tip))
    path.lineTo(tip[0] - 6 * ux + 3.6 * uy, tip[1] - 6 * uy + 3.6 * ux)
    path.lineTo(tip[0] - 6 * ux - 3.6 * uy, tip[1] - 6 * uy - 3.6 * ux)
    path.closeSubpath()
    return path


def _towards(corner: tuple[float, float], other: tuple[float, float]) -> QPointF:
    dx, dy = other[0] - corner[0], other[1] - corner[1]
    length = abs(dx) + abs(dy)
    step = min(CORNER, length / 2)
    return QPointF(*corner) if length == 0 else QPointF(corner[0] + dx / length * step, corner[1] + dy / length * step)
