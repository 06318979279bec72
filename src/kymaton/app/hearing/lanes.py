"""What one listener hears, and when: a lane for each sound, a dot for each arrival, the picture as a band."""

import math
from collections.abc import Callable

from msgspec import Struct
from PyQt6.QtCore import QPointF, QRectF, QSize, Qt
from PyQt6.QtGui import QColor, QMouseEvent, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QSizePolicy, QWidget

from kymaton.app.document import Document
from kymaton.app.theme.marks import draw_form
from kymaton.app.theme.theme import THEME, colour, figures, tokens, words
from kymaton.core.checks.report import Cell, CueReport
from kymaton.core.model import Listener, Sound
from kymaton.core.signal.cue_solution import Burst
from kymaton.core.signal.picture import PictureWay, picture_arrival
from kymaton.core.words import lowered, ms, number

LANE, NAMES, LEVELS, TOP, FOOT = 26, 146, 84, 20, 20
LATE_FROM_MS = 600.0  # later than this, time is told from shortly before the first arrival
TICKS_MS = (1, 2, 5, 10, 20, 50, 100, 200, 500, 1000, 2000, 5000, 10_000, 20_000)


class Lane(Struct, frozen=True):
    """A sound at a listener: its arrivals (loudest per delay), the cell that judges it."""

    sound: Sound
    bursts: list[Burst]
    cell: Cell


def lanes_of(report: CueReport, listener: Listener) -> list[Lane]:
    """Sounds that arrive above the listener's floor, and those that are missed."""
    found = []
    for sound in report.view.show.sounds:
        cell = report.cells[listener.id, sound.id]
        bursts = [b for b in report.view.bursts(listener, sound) if sound.level + b.gain_db > listener.floor]
        by_delay = {b.delay_us: b for b in sorted(bursts, key=lambda b: b.gain_db)}
        if bursts or cell.form == "missing":
            found.append(Lane(sound, [by_delay[d] for d in sorted(by_delay)], cell))
    return found


def remark(lane: Lane) -> str:
    """What stands beside the dots of a lane."""
    if lane.cell.form == "missing":
        return "missing"
    first = lane.bursts[0]
    if lane.cell.form == "own":
        return f"own voice, {lane.cell.figure} late"
    if lane.cell.form == "twice":
        return f"{ms(first.delay_ms)}, again {lane.cell.figure} later"
    word = {
        "dulled": ", dulled by the call",
        "leaks": ", leaks",
        "soft": ", too soft",
        "late": ", too late",
        "one-sided": ", on one side",
        "swapped": ", sides swapped",
        "cancels": ", cancels in mono",
    }
    return ms(first.delay_ms) + word.get(lane.cell.form, "")


class LanesView(QWidget):
    """Lanes of the chosen listener. A click on a lane chooses its sound."""

    def __init__(self, document: Document, beside: Callable[[], CueReport | None] | None = None) -> None:
        super().__init__()
        self.document = document
        self.beside = beside  # of which solved cue, where it is not the one in view
        self.lanes: list[Lane] = []
        self.picture: PictureWay | None = None
        self.listener: Listener | None = None
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        document.report_changed.connect(self.refresh)
        document.selection_changed.connect(self.refresh)
        THEME.changed.connect(self.update)
        self.refresh()

    def refresh(self) -> None:
        report = self.document.cue_report
        if self.beside is not None:
            report = self.beside() or report
        show = report.view.show
        ids = [x.id for x in show.listeners]
        self.listener = show.listener(self.document.listener_id) if self.document.listener_id in ids else None
        self.lanes = lanes_of(report, self.listener) if self.listener else []
        self.picture = picture_arrival(show, report.view.cue, self.listener.id) if self.listener else None
        self.setFixedHeight(TOP + LANE * max(1, len(self.lanes)) + FOOT)
        told = "; ".join(f"{lane.sound.name} {remark(lane)}" for lane in self.lanes)
        self.setAccessibleName(f"What {self.listener.name} hears: {told}" if self.listener else "No listener chosen")
        self.update()

    def sizeHint(self) -> QSize:
        return QSize(600, self.height())

    @property
    def origin_ms(self) -> float:
        """Where the time axis begins: 0, or 10 ms before the first arrival when all are late."""
        first = min((b.delay_ms for lane in self.lanes for b in lane.bursts), default=0.0)
        return first - 10.0 if first > LATE_FROM_MS else 0.0

    def _span(self) -> tuple[float, float]:
        times = [b.delay_ms - self.origin_ms for lane in self.lanes for b in lane.bursts]
        if self.picture is not None:
            times.append(self.picture.delay_ms - self.origin_ms)
        times = [max(t, 0.5) for t in times] or [10.0, 100.0]
        return min(times) / 2.2, max(max(times) * 3.5, min(times) * 20)

    def _x(self, time_ms: float, left: float, right: float) -> float:
        low, high = self._span()
        part = math.log(max(time_ms - self.origin_ms, low) / low) / math.log(high / low)
        return left + min(1.0, max(0.0, part)) * (right - left)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        t = tokens()
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        left, right = float(NAMES), float(self.width() - LEVELS)
        bottom = TOP + LANE * len(self.lanes)
        if not self.lanes:
            painter.setPen(QColor(t.soft))
            painter.setFont(words(13))
            text = "Nothing arrives here in this cue." if self.listener else "Choose a listener above."
            painter.drawText(QPointF(0, TOP + 16), text)
            return
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(QColor(t.panel))
        painter.drawRoundedRect(QRectF(left, TOP, right - left, bottom - TOP), 5, 5)
        self._axis(painter, left, right, bottom)
        if self.picture is not None:
            self._picture(painter, self.picture, left, right, bottom)
        for number_, lane in enumerate(self.lanes):
            self._lane(painter, lane, TOP + LANE * number_, left, right)

    def _axis(self, painter: QPainter, left: float, right: float, bottom: float) -> None:
        t = tokens()
        low, high = self._span()
        painter.setFont(figures(11))
        for tick in TICKS_MS:
            if not low * 1.05 <= tick <= high * 0.9:
                continue
            x = self._x(tick + self.origin_ms, left, right)
            painter.setPen(QPen(QColor(t.line), 1))
            painter.drawLine(QPointF(x, TOP), QPointF(x, bottom))
            painter.setPen(QColor(t.soft))
            text = f"{'+' if self.origin_ms else ''}{tick}"
            painter.drawText(QRectF(x - 30, bottom + 3, 60, 16), Qt.AlignmentFlag.AlignHCenter, text)
        painter.setPen(QColor(t.soft))
        painter.drawText(QRectF(right - 24, bottom + 3, 30, 16), Qt.AlignmentFlag.AlignRight, "ms")

    def _picture(self, painter: QPainter, picture: PictureWay, left: float, right: float, bottom: float) -> None:
        t = tokens()
        spread = picture.plus_minus_ms if not self.origin_ms else 0.0
        low = self._x(picture.delay_ms - spread, left, right)
        high = self._x(picture.delay_ms + spread, left, right)
        x = self._x(picture.delay_ms, left, right)
        painter.fillRect(QRectF(low, TOP, max(2.0, high - low), bottom - TOP), colour(t.wave, 0.16))
        painter.setPen(QPen(QColor(t.wave), 1.4, Qt.PenStyle.DashLine))
        painter.drawLine(QPointF(x, TOP), QPointF(x, bottom))
        painter.setFont(words(11, 500))
        painter.setPen(QColor(t.wave))
        name = self.document.show.device(picture.camera).name
        when = f"{ms(picture.delay_ms)} ± {number(picture.plus_minus_ms)} ms"
        text = f"picture, {lowered(name)}, {when}"
        width = painter.fontMetrics().horizontalAdvance(text)
        start = min(max(left, x - width / 2), right - width)
        painter.drawText(QPointF(start, TOP - 6), text)

    def _lane(self, painter: QPainter, lane: Lane, top: float, left: float, right: float) -> None:
        t = tokens()
        middle = top + LANE / 2
        ink = {"fault": t.fault, "caution": t.caution}.get(lane.cell.severity or "", t.wave)
        chosen = lane.sound.id == self.document.sound_id
        painter.setFont(words(13, 600 if lane.cell.form == "own" or chosen else 500))
        painter.setPen(QColor(ink if lane.cell.severity else t.ink))
        painter.drawText(QRectF(0, top, NAMES - 8, LANE), Qt.AlignmentFlag.AlignVCenter, lane.sound.name)
        painter.setPen(QPen(QColor(t.line), 1))
        painter.drawLine(QPointF(0, top + LANE), QPointF(self.width(), top + LANE))
        if not lane.bursts:
            draw_form(painter, "missing", QPointF(left + 16, middle), QColor(ink), 11)
            painter.setPen(QColor(ink))
            painter.setFont(words(12, 500))
            painter.drawText(QRectF(left + 28, top, 200, LANE), Qt.AlignmentFlag.AlignVCenter, remark(lane))
            return
        loudest = max(b.gain_db for b in lane.bursts)
        spots = [self._x(b.delay_ms, left, right) for b in lane.bursts]
        if len(spots) > 1:
            painter.setPen(QPen(QColor(ink), 1.4))
            painter.drawLine(QPointF(spots[0], middle), QPointF(spots[-1], middle))
        for burst, x in zip(lane.bursts, spots, strict=True):
            size = max(5.0, 13.0 - 0.4 * (loudest - burst.gain_db) - 0.12 * -min(0.0, lane.cell.relative_db))
            form = "dulled" if lane.cell.form == "dulled" else "heard"
            if lane.cell.form == "twice" and burst is not lane.bursts[0]:
                painter.setPen(QPen(QColor(ink), 1.6))
                painter.setBrush(QColor(t.panel))
                painter.drawEllipse(QPointF(x, middle), size / 2, size / 2)
            else:
                draw_form(painter, form, QPointF(x, middle), QColor(ink), size)
        text = remark(lane)
        painter.setFont(words(12, 500) if lane.cell.severity else figures(12))
        width = painter.fontMetrics().horizontalAdvance(text)
        start = spots[-1] + 12
        if start + width > right - 4:
            start = spots[0] - 12 - width
        if start >= left:
            box = QRectF(start - 3, middle - 9, width + 6, 18)
            if self.picture is not None and box.left() < self._x(self.picture.delay_ms, left, right) < box.right():
                painter.fillRect(box, QColor(t.panel))
            painter.setPen(QColor(ink))
            painter.drawText(QRectF(start, top, width + 4, LANE), Qt.AlignmentFlag.AlignVCenter, text)
        assert self.listener is not None
        painter.setFont(figures(12))
        painter.setPen(QColor(t.soft))
        level = f"{number(lane.sound.level + loudest)} {self.listener.unit}"
        side = Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight
        painter.drawText(QRectF(right, top, LEVELS, LANE), side, level)

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        row = int((event.position().y() - TOP) // LANE)
        if self.listener is not None and 0 <= row < len(self.lanes):
            self.document.select(self.listener.id, self.lanes[row].sound.id)
