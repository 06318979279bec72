"""Three frames of a film and the sound beneath them, with one place in each: for judging sync by eye."""

from typing import TYPE_CHECKING

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QColor, QImage, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QPolygonF, QWheelEvent
from PyQt6.QtWidgets import QSizePolicy, QWidget

from kymaton.app.theme.theme import THEME, colour, figures, tokens, words
from kymaton.core.words import number

if TYPE_CHECKING:
    from kymaton.media.frames import Look, Still

WAVE, GAP, AXIS, TITLE = 110, 12, 20, 22
SHORTEST_S, LONGEST_S = 0.0005, 2.0


class FilmStrip(QWidget):
    """The frame in the middle is the one that is meant; the upright line in the sound is where it is heard."""

    moved = pyqtSignal()
    wanted = pyqtSignal(float)  # a time that is not in what was read

    def __init__(self) -> None:
        super().__init__()
        self.look: Look | None = None
        self.images: list[QImage] = []
        self.at = 0
        self.sound_s = 0.0
        self.span_s = 0.4
        self.left_s = 0.0
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setMinimumHeight(WAVE + 150)
        self.setAccessibleName("Frames and sound: arrows step by frame, with Shift the sound by the finest step shown")
        THEME.changed.connect(self.update)

    def sizeHint(self) -> QSize:
        return QSize(760, WAVE + 210)

    # what is shown

    def show_look(self, look: "Look", at_s: float, sound_s: float | None = None) -> None:
        """Show what was read, with the frame of a time in the middle."""
        self.look = look
        self.images = [_image(s) for s in look.stills]
        times = [s.time_s for s in look.stills]
        self.at = max(0, int(np.searchsorted(times, at_s + 1e-6)) - 1)
        self.sound_s = times[self.at] if sound_s is None else sound_s
        self._centre()
        self._told()

    @property
    def still(self) -> "Still | None":
        return self.look.stills[self.at] if self.look is not None else None

    @property
    def before_s(self) -> float:
        """Time of the frame before; the first frame of all has one as far away as the one after it."""
        assert self.look is not None
        times = [s.time_s for s in self.look.stills]
        if self.at:
            return times[self.at - 1]
        return times[0] - (times[1] - times[0] if len(times) > 1 else 0.04)

    def step_frame(self, by: int) -> None:
        if self.look is None:
            return
        to = self.at + by
        if not 0 <= to < len(self.look.stills):
            times = [s.time_s for s in self.look.stills]
            frame_s = (times[-1] - times[0]) / max(1, len(times) - 1) if len(times) > 1 else 0.04
            self.wanted.emit(times[self.at] + by * frame_s)
            return
        self.at = to
        time_s = self.look.stills[to].time_s
        if not self.left_s + 0.1 * self.span_s <= time_s <= self.left_s + 0.9 * self.span_s:
            self._centre()
        self._told()

    def step_sound(self, by: int) -> None:
        """One dot of the drawing to either side, one sample at the finest."""
        if self.look is None:
            return
        self.put_sound(self.sound_s + by * max(1 / self.look.rate_hz, self.span_s / max(1, self.width())))

    def put_sound(self, at_s: float) -> None:
        """Hear it at this time, on the nearest sample."""
        assert self.look is not None
        rate = self.look.rate_hz
        end_s = self.look.sound_s + len(self.look.sound) / rate
        self.sound_s = round(min(max(at_s, self.look.sound_s), end_s) * rate) / rate
        if not self.left_s <= self.sound_s <= self.left_s + self.span_s:
            self.left_s = self.sound_s - self.span_s / 2
        self._told()

    def zoom(self, factor: float, around_s: float | None = None) -> None:
        around = self.sound_s if around_s is None else around_s
        part = (around - self.left_s) / self.span_s
        self.span_s = min(LONGEST_S, max(SHORTEST_S, self.span_s * factor))
        self.left_s = around - part * self.span_s
        self.update()

    def _centre(self) -> None:
        still = self.still
        if still is not None:
            self.left_s = still.time_s - self.span_s / 2

    def _told(self) -> None:
        still = self.still
        if still is not None:
            text = f"frame at {number(still.time_s, 3)} s, sound at {number(self.sound_s, 4)} s"
            self.setAccessibleDescription(text)
        self.update()
        self.moved.emit()

    # drawing

    def _boxes(self) -> list[QRectF]:
        wide = (self.width() - 2 * GAP) / 3
        shape = self.images[0].height() / self.images[0].width() if self.images else 9 / 16
        high = min(self.height() - WAVE - AXIS - TITLE - GAP, wide * shape)
        return [QRectF(n * (wide + GAP), TITLE, wide, high) for n in range(3)]

    def _wave_box(self) -> QRectF:
        """All that the frames leave."""
        top = self._boxes()[0].bottom() + GAP
        return QRectF(0, top, self.width(), self.height() - top - AXIS)

    def _x(self, time_s: float) -> float:
        return (time_s - self.left_s) / self.span_s * self.width()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        t, painter = tokens(), QPainter(self)
        painter.setRenderHints(QPainter.RenderHint.Antialiasing | QPainter.RenderHint.SmoothPixmapTransform)
        if self.look is None:
            return
        titles = ("frame before", "first seen on", "frame after")
        for box, number_of, title in zip(self._boxes(), (self.at - 1, self.at, self.at + 1), titles, strict=True):
            meant = number_of == self.at
            painter.setPen(QColor(t.wave if meant else t.soft))
            painter.setFont(words(12, 600 if meant else 400))
            painter.drawText(QRectF(box.left(), 0, box.width(), 20), Qt.AlignmentFlag.AlignLeft, title)
            painter.fillRect(box, QColor(t.panel))
            if 0 <= number_of < len(self.images):
                painter.setPen(QColor(t.soft))
                painter.setFont(figures(12))
                when = f"{number(self.look.stills[number_of].time_s, 3)} s"
                painter.drawText(QRectF(box.left(), 0, box.width(), 20), Qt.AlignmentFlag.AlignRight, when)
                image = self.images[number_of]
                scale = min(box.width() / image.width(), box.height() / image.height())
                size = (image.width() * scale, image.height() * scale)
                inner = QRectF(box.center().x() - size[0] / 2, box.center().y() - size[1] / 2, *size)
                painter.drawImage(inner, image)
            if meant:
                painter.setPen(QPen(QColor(t.wave), 3))
                painter.setBrush(Qt.BrushStyle.NoBrush)
                painter.drawRect(box.adjusted(1, 1, -1, -1))
        self._draw_wave(painter)
        if self.hasFocus():
            painter.setPen(QPen(QColor(t.ink), 1))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRect(self._wave_box().adjusted(0.5, 0.5, -0.5, -0.5))

    def _draw_wave(self, painter: QPainter) -> None:
        assert self.look is not None
        t, box = tokens(), self._wave_box()
        painter.fillRect(box, QColor(t.panel))
        times = [s.time_s for s in self.look.stills]
        for at, time_s in enumerate(times):
            end_s = times[at + 1] if at + 1 < len(times) else 2 * time_s - times[at - 1] if at else time_s + 0.04
            left, right = self._x(time_s), self._x(end_s)
            if right < 0 or left > self.width():
                continue
            if at == self.at:
                painter.fillRect(QRectF(left, box.top(), right - left, box.height()), colour(t.wave, 0.16))
            painter.setPen(QPen(QColor(t.line), 1))
            painter.drawLine(QPointF(left, box.top()), QPointF(left, box.bottom()))
        self._draw_samples(painter, box)
        x = self._x(self.sound_s)
        painter.setPen(QPen(QColor(t.ink), 1.6))
        painter.drawLine(QPointF(x, box.top() - 4), QPointF(x, box.bottom() + 4))
        painter.setFont(figures(11))
        painter.setPen(QColor(t.soft))
        text = f"sound at {number(self.sound_s, 4)} s"
        painter.drawText(QRectF(0, box.bottom() + 4, self.width(), AXIS - 4), Qt.AlignmentFlag.AlignLeft, text)
        span = self.span_s * 1000
        text = f"{number(span, 0 if span >= 20 else 1)} ms are shown"
        painter.drawText(QRectF(0, box.bottom() + 4, self.width(), AXIS - 4), Qt.AlignmentFlag.AlignRight, text)

    def _draw_samples(self, painter: QPainter, box: QRectF) -> None:
        """Each sample where there is room, else the highest and lowest of each dot."""
        assert self.look is not None
        look, wide = self.look, self.width()
        edges = (self.left_s + np.arange(wide + 1) / wide * self.span_s - look.sound_s) * look.rate_hz
        edges = np.clip(np.round(edges).astype(int), 0, len(look.sound))
        shown = look.sound[edges[0] : edges[-1]]
        if not len(shown):
            return
        scale = 0.46 * box.height() / max(0.01, float(np.abs(shown).max()))
        middle = box.center().y()
        painter.setPen(QPen(QColor(tokens().wave), 1))
        if len(shown) <= 2 * wide:
            first_s = look.sound_s + edges[0] / look.rate_hz
            line = [
                QPointF(self._x(first_s + n / look.rate_hz), middle - float(v) * scale) for n, v in enumerate(shown)
            ]
            painter.drawPolyline(QPolygonF(line))
            if len(shown) < wide / 6:
                for spot in line:
                    painter.drawEllipse(spot, 1.8, 1.8)
            return
        for x in range(wide):
            piece = look.sound[edges[x] : edges[x + 1]]
            if len(piece):
                high, low = float(piece.max()), float(piece.min())
                painter.drawLine(QPointF(x, middle - high * scale), QPointF(x, middle - low * scale + 0.5))

    # hands

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        assert event is not None
        shift = bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
        by = {Qt.Key.Key_Left: -1, Qt.Key.Key_Right: 1}.get(Qt.Key(event.key()), 0)
        if by and shift:
            self.step_sound(by)
        elif by:
            self.step_frame(by)
        elif event.key() in (Qt.Key.Key_Up, Qt.Key.Key_Down):
            self.zoom(0.5 if event.key() == Qt.Key.Key_Up else 2.0)
        else:
            super().keyPressEvent(event)

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        self.setFocus()
        spot = event.position()
        if self.look is None:
            return
        if self._wave_box().contains(spot):
            self.put_sound(self.left_s + spot.x() / max(1, self.width()) * self.span_s)
            return
        for by, box in zip((-1, 0, 1), self._boxes(), strict=True):
            if by and box.contains(spot):
                self.step_frame(by)

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        if self.look is not None and self._wave_box().contains(event.position()):
            self.put_sound(self.left_s + event.position().x() / max(1, self.width()) * self.span_s)

    def wheelEvent(self, event: QWheelEvent | None) -> None:
        assert event is not None
        if self.look is None:
            return
        if self._wave_box().contains(event.position()):
            around = self.left_s + event.position().x() / max(1, self.width()) * self.span_s
            self.zoom(0.8 if event.angleDelta().y() > 0 else 1.25, around)
        elif event.angleDelta().y():
            self.step_frame(-1 if event.angleDelta().y() > 0 else 1)


def _image(still: "Still") -> QImage:
    image = QImage(still.rgb, still.width, still.height, 3 * still.width, QImage.Format.Format_RGB888)
    return image.copy()  # of its own, whatever becomes of the bytes
