"""The rail: the steps in working order, each with its faults."""

from typing import TYPE_CHECKING

from msgspec import Struct
from PyQt6.QtCore import QPointF, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QColor, QPainter, QPaintEvent
from PyQt6.QtWidgets import QAbstractButton, QSizePolicy, QVBoxLayout, QWidget

from kymaton.app.theme.marks import draw_icon, draw_wave
from kymaton.app.theme.theme import THEME, colour, figures, tokens, words

if TYPE_CHECKING:
    from kymaton.core.checks.readiness import Readiness

WIDE, NARROW = 148, 64


class Step(Struct, frozen=True):
    """A step of the work, in working order; Alt and its number go there."""

    id: str
    name: str
    number: int


class StepButton(QAbstractButton):
    """One step: its mark, number and name, and how far it is: faults over all cues, a tick, or nothing there yet."""

    def __init__(self, step: Step) -> None:
        super().__init__()
        self.step = step
        self.ready: Readiness | None = None
        self.setCheckable(True)
        self.setAutoExclusive(True)
        self.setFixedHeight(40)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.set_ready(None)

    @property
    def faults(self) -> int:
        return self.ready.faults if self.ready is not None else 0

    def set_ready(self, ready: "Readiness | None") -> None:
        self.ready = ready
        told = ""
        if ready is not None:
            many = f"{ready.faults} fault{'' if ready.faults == 1 else 's'}"
            told = {"nothing": "nothing there yet", "good": "examined and good", "faults": many}[ready.state]
        name = ", ".join(filter(None, (self.step.name, told)))
        self.setAccessibleName(name)
        self.setToolTip(f"{name} (Alt+{self.step.number})")
        self.update()

    def sizeHint(self) -> QSize:
        return QSize(WIDE, 40)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        t = tokens()
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        chosen, narrow = self.isChecked(), self.width() < 100
        painter.fillRect(self.rect(), QColor(t.ground if chosen else t.rail))
        if self.underMouse() and not chosen:
            painter.fillRect(self.rect(), colour(t.rail_text, 0.07))
        soft, ink = (t.soft, t.ink) if chosen else (t.rail_soft, t.rail_text)
        painter.setFont(figures(11))
        painter.setPen(QColor(soft))
        middle = self.height() / 2
        painter.drawText(QRectF(8, 0, 10, self.height()), Qt.AlignmentFlag.AlignVCenter, str(self.step.number))
        draw_icon(painter, self.step.id, QPointF(22, middle - 9), ink, 18)
        if not narrow:
            painter.setFont(words(13, 600 if chosen else 400))
            painter.setPen(QColor(ink))
            painter.drawText(QRectF(48, 0, 64, self.height()), Qt.AlignmentFlag.AlignVCenter, self.step.name)
        if self.ready is not None:
            self._draw_state(painter, self.ready, QPointF(self.width() - (11 if narrow else 24), middle), soft, narrow)
        if self.hasFocus():
            painter.setPen(QColor(t.wave))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRect(self.rect().adjusted(1, 1, -2, -2))

    def _draw_state(self, painter: QPainter, ready: "Readiness", at: QPointF, soft: str, narrow: bool) -> None:
        t = tokens()
        painter.setPen(Qt.PenStyle.NoPen)
        if ready.state == "nothing":
            painter.setBrush(QColor(soft))
            for dx in (-5.0, 0.0, 5.0):
                painter.drawEllipse(QPointF(at.x() + dx * (0.6 if narrow else 1), at.y() + 1), 1.2, 1.2)
        elif ready.state == "good":
            draw_icon(painter, "tick", QPointF(at.x() - 8, at.y() - 8), soft)
        else:
            painter.setFont(figures(11, 600))
            text = str(ready.faults) if ready.faults < 1000 else f"{ready.faults // 1000}k+"  # the tip tells all
            width = max(20.0, painter.fontMetrics().horizontalAdvance(text) + (8.0 if narrow else 10.0))
            box = QRectF(self.width() - width - (2 if narrow else 14), at.y() - 8, width, 16)
            if narrow:
                box.moveTop(2)
            painter.setBrush(QColor(t.fault))
            painter.drawRoundedRect(box, 8, 8)
            painter.setPen(QColor(t.on_wave))
            painter.drawText(box, Qt.AlignmentFlag.AlignCenter, text)


class Rail(QWidget):
    """All steps that do something."""

    chosen = pyqtSignal(str)

    def __init__(self, steps: list[Step]) -> None:
        super().__init__()
        self.setFixedWidth(WIDE)
        self.buttons = {s.id: StepButton(s) for s in steps}
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 62, 0, 0)
        layout.setSpacing(4)
        for name, button in self.buttons.items():
            layout.addWidget(button)
            button.clicked.connect(lambda _, name=name: self.chosen.emit(name))
        layout.addStretch(1)
        THEME.changed.connect(self.update)

    def set_narrow(self, narrow: bool) -> None:
        self.setFixedWidth(NARROW if narrow else WIDE)

    def show_step(self, id: str) -> None:
        self.buttons[id].setChecked(True)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        t = tokens()
        painter = QPainter(self)
        painter.fillRect(self.rect(), QColor(t.rail))
        draw_wave(painter, QRectF(18, 18, 28, 22), QColor(t.rail_text))
        painter.setPen(QColor(t.rail_text))
        if self.width() >= 100:
            painter.setFont(words(15, 600))
            painter.drawText(QRectF(58, 14, 90, 30), Qt.AlignmentFlag.AlignVCenter, "Kymaton")
            painter.setFont(words(11))
            painter.setPen(QColor(t.rail_soft))
            foot = QRectF(18, self.height() - 34, self.width() - 20, 20)
            painter.drawText(foot, Qt.AlignmentFlag.AlignVCenter, "Ctrl+K find anything")
