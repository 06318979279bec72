"""Sync lanes: for each destination and camera where the sound lies against its picture, now and with the delays."""

from msgspec import Struct
from PyQt6.QtCore import QPointF, QRectF, QSize, Qt
from PyQt6.QtGui import QColor, QMouseEvent, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QSizePolicy, QWidget

from kymaton.app.document import Document
from kymaton.app.theme.theme import THEME, colour, figures, tokens, words
from kymaton.core.model import Show
from kymaton.core.planning.sync_delays import SyncPlan, frames_text
from kymaton.core.signal.av_offset import AVOffset, frame_ms
from kymaton.core.words import ms, number

NAMES, RESULT, LANE, TOP, BOTTOM = 172, 222, 40, 40, 26
LABEL = 46.0  # px that the label of a tick needs
HOLLOW, FILLED = 5.0, 6.0


class SyncLane(Struct, frozen=True):
    """One destination and camera: the lead now, and with the proposed delays (None: nothing is proposed)."""

    title: str
    detail: str
    now: AVOffset
    then: AVOffset | None


def lanes_of(document: Document, plan: SyncPlan, cue: str | None) -> list[SyncLane]:
    """The lanes of one cue; pictures on air first."""
    show = document.show
    after = {(r.destination, r.source): r for r in plan.after if r.cue == cue} if plan.changes else {}
    return [
        SyncLane(
            show.listener(r.destination).name,
            _picture_name(show, r) + ("" if r.on_air else ", off air"),
            r,
            after.get((r.destination, r.source)),
        )
        for r in sorted((r for r in plan.before if r.cue == cue), key=lambda r: not r.on_air)
    ]


def _picture_name(show: Show, row: AVOffset) -> str:
    """The camera; in a call, whose."""
    device = show.device(row.camera)
    return show.port_label(row.source) if device.kind == "call" else device.name


class SyncLanes(QWidget):
    """Time runs from left (sound early) to right (sound late); the picture stands at 0, its window as a bracket.

    A ring is the sound as it is, a disc the sound with the proposed delays, the whisker its ±.
    """

    def __init__(self, document: Document) -> None:
        super().__init__()
        self.document = document
        self.plan: SyncPlan | None = None
        self.lanes: list[SyncLane] = []
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Minimum)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Sync lanes: sound against picture at each destination, now and with the delays")
        THEME.changed.connect(self.update)

    def show_plan(self, plan: SyncPlan | None) -> None:
        self.plan = plan
        self.lanes = lanes_of(self.document, plan, self.document.cue_id) if plan is not None else []
        self.setAccessibleDescription("; ".join(self.told(lane) for lane in self.lanes))
        self.updateGeometry()
        self.update()

    def sizeHint(self) -> QSize:
        return QSize(560, TOP + LANE * max(1, len(self.lanes)) + BOTTOM)

    def minimumSizeHint(self) -> QSize:
        return self.sizeHint()

    def told(self, lane: SyncLane) -> str:
        """A lane in words, for who cannot see it."""
        then = f", then {self._amount(lane.then)}" if lane.then is not None else ""
        return f"{lane.title} with {lane.detail}: {self._amount(lane.now)}{then}"

    def _amount(self, row: AVOffset) -> str:
        return f"{ms(abs(row.lead_ms), row.plus_minus_ms)} {'early' if row.lead_ms >= 0 else 'late'}"

    def span_ms(self) -> tuple[float, float]:
        """Left and right end of the axis: the window and all that is shown."""
        assert self.plan is not None
        rows = [r for lane in self.lanes for r in (lane.now, lane.then) if r is not None]
        early = max([self.plan.window.early_ms, *(r.lead_ms + min(r.plus_minus_ms, 100.0) for r in rows)])
        late = max([self.plan.window.late_ms, *(-r.lead_ms + min(r.plus_minus_ms, 100.0) for r in rows)])
        return -early * 1.08 - 4, late * 1.08 + 4

    def _x(self, at_ms: float) -> float:
        """Where a time against the picture stands; sound that is early stands left."""
        low, high = self.span_ms()
        left, right = float(NAMES), float(self.width() - RESULT)
        return left + (at_ms - low) / (high - low) * (right - left)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        t = tokens()
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        if self.plan is None or not self.lanes:
            painter.setPen(QColor(t.soft))
            painter.setFont(words(13))
            text = (
                "Working it out"
                if self.plan is None
                else ("No destination is sent a picture in this cue that shows what is heard there. Patch one in Path.")
            )
            painter.drawText(QPointF(0, TOP + 8), text)
            return
        left, right = float(NAMES), float(self.width() - RESULT)
        bottom = TOP + LANE * len(self.lanes)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(QColor(t.panel))
        painter.drawRoundedRect(QRectF(left, TOP, right - left, bottom - TOP), 5, 5)
        self._axis(painter, bottom)
        for row, lane in enumerate(self.lanes):
            self._lane(painter, lane, TOP + LANE * row)

    def _axis(self, painter: QPainter, bottom: float) -> None:
        assert self.plan is not None
        t, window = tokens(), self.plan.window
        first, last = self._x(-window.early_ms), self._x(window.late_ms)
        painter.fillRect(QRectF(first, TOP, last - first, bottom - TOP), colour(t.wave, 0.10))
        painter.setPen(QPen(QColor(t.wave), 1.4))
        for x, inward in ((first, 5), (last, -5)):
            painter.drawLine(QPointF(x, TOP - 4), QPointF(x, bottom + 4))
            painter.drawLine(QPointF(x, TOP - 4), QPointF(x + inward, TOP - 4))
            painter.drawLine(QPointF(x, bottom + 4), QPointF(x + inward, bottom + 4))
        low, high = self.span_ms()
        frame = frame_ms(self.document.show)
        step = next(n for n in (1, 2, 5, 10, 25, 50, 125, 250, 1250) if (high - low) / (n * frame) <= 14 or n == 1250)
        painter.setFont(figures(11))
        apart = abs(self._x(step * frame) - self._x(0))
        every = next(n for n in (1, 2, 5, 10, 20) if n * apart >= LABEL or n == 20)
        for n in range(int(low / frame / step) - 1, int(high / frame / step) + 2):
            at = n * step * frame
            if not low < at < high:
                continue
            x = self._x(at)
            painter.setPen(QPen(QColor(t.line if n else t.ink), 1 if n else 1.6))
            painter.drawLine(QPointF(x, TOP), QPointF(x, bottom))
            painter.setPen(QColor(t.soft))
            text = number(at) if n else "picture"
            if n % every == 0:
                painter.drawText(QRectF(x - 40, bottom + 6, 80, 16), Qt.AlignmentFlag.AlignHCenter, text)
        painter.setFont(words(11, 500))
        painter.setPen(QColor(t.soft))
        painter.drawText(QRectF(NAMES, 0, 200, 16), Qt.AlignmentFlag.AlignLeft, "sound early")
        right = float(self.width() - RESULT)
        painter.drawText(QRectF(right - 200, 0, 200, 16), Qt.AlignmentFlag.AlignRight, "sound late, ms")
        painter.setPen(QColor(t.wave))
        painter.drawText(QRectF(first - 60, 18, last - first + 120, 16), Qt.AlignmentFlag.AlignHCenter, window.name)
        painter.setPen(QColor(t.soft))
        name = "lines stand a frame apart" if step == 1 else f"lines stand {step} frames apart"
        painter.drawText(QRectF(0, bottom + 6, NAMES - 8, 16), Qt.AlignmentFlag.AlignLeft, name)

    def _lane(self, painter: QPainter, lane: SyncLane, top: float) -> None:
        assert self.plan is not None
        t = tokens()
        middle = top + LANE / 2
        ink = {"outside": t.fault, "perhaps": t.caution, "inside": t.wave}
        painter.setPen(QColor(t.ink if lane.now.on_air else t.soft))
        painter.setFont(words(13, 600))
        painter.drawText(QRectF(0, top + 3, NAMES - 10, 18), Qt.AlignmentFlag.AlignVCenter, lane.title)
        painter.setFont(words(12))
        painter.setPen(QColor(t.soft))
        painter.drawText(QRectF(0, top + 19, NAMES - 10, 17), Qt.AlignmentFlag.AlignVCenter, lane.detail)
        painter.setPen(QPen(QColor(t.line), 1))
        painter.drawLine(QPointF(0, top + LANE), QPointF(self.width(), top + LANE))
        last = lane.then or lane.now
        shade = QColor(ink[last.verdict])
        if lane.then is not None and abs(lane.then.lead_ms - lane.now.lead_ms) > 0.05:
            painter.setPen(QPen(colour(t.soft, 0.8), 1, Qt.PenStyle.DotLine))
            painter.drawLine(QPointF(self._x(-lane.now.lead_ms), middle), QPointF(self._x(-lane.then.lead_ms), middle))
        if self.plan is not None and last.window != self.plan.window:  # where another tolerance holds: its edges
            painter.setPen(QPen(colour(t.soft, 0.8), 1))
            for edge_ms in (-last.window.early_ms, last.window.late_ms):
                painter.drawLine(QPointF(self._x(edge_ms), top + 8), QPointF(self._x(edge_ms), top + LANE - 8))
        self._whisker(painter, last, middle, shade)
        if lane.then is not None:
            painter.setPen(QPen(QColor(ink[lane.now.verdict]), 1.8))
            painter.setBrush(QColor(t.panel))
            painter.drawEllipse(QPointF(self._x(-lane.now.lead_ms), middle), HOLLOW, HOLLOW)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(shade)
        if last.verdict == "outside":
            x = self._x(-last.lead_ms)
            painter.drawPolygon(QPointF(x, middle - 7), QPointF(x + 7, middle + 5), QPointF(x - 7, middle + 5))
        else:
            painter.drawEllipse(QPointF(self._x(-last.lead_ms), middle), FILLED, FILLED)
        self._result(painter, lane, last, shade, top)

    def _whisker(self, painter: QPainter, row: AVOffset, middle: float, shade: QColor) -> None:
        low = max(self._x(-row.lead_ms - row.plus_minus_ms), float(NAMES))
        high = min(self._x(-row.lead_ms + row.plus_minus_ms), float(self.width() - RESULT))
        painter.setPen(QPen(shade, 1.4))
        painter.drawLine(QPointF(low, middle), QPointF(high, middle))
        for x in (low, high):
            painter.drawLine(QPointF(x, middle - 4), QPointF(x, middle + 4))

    def _result(self, painter: QPainter, lane: SyncLane, last: AVOffset, shade: QColor, top: float) -> None:
        assert self.plan is not None
        left = self.width() - RESULT + 12
        verdict = {"inside": "inside surely", "perhaps": "inside perhaps", "outside": "outside"}
        painter.setPen(shade)
        painter.setFont(words(12, 600))
        text = f"{self._amount(last)}, {verdict[last.verdict]}"
        painter.drawText(QRectF(left, top + 3, RESULT - 12, 18), Qt.AlignmentFlag.AlignVCenter, text)
        painter.setFont(figures(11))
        painter.setPen(QColor(tokens().soft))
        was = f", was {self._amount(lane.now)}" if lane.then is not None else ""
        frames = frames_text(self.document.show, abs(last.lead_ms))
        below = f"{frames}, ± {number(last.plus_minus_ms)} ms" if not was else f"± {number(last.plus_minus_ms)} ms{was}"
        painter.drawText(QRectF(left, top + 19, RESULT - 12, 17), Qt.AlignmentFlag.AlignVCenter, below)

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        """A click shows the picture's way and the sound's way on the map."""
        assert event is not None
        row = int((event.position().y() - TOP) // LANE)
        if 0 <= row < len(self.lanes):
            lead = self.lanes[row].now
            self.document.select(lead.destination, lead.sound)
