"""The rail: the steps in working order, each with its faults."""

from dataclasses import dataclass

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QColor, QPainter, QPaintEvent
from PyQt6.QtWidgets import QAbstractButton, QSizePolicy, QVBoxLayout, QWidget

from kymaton.app.theme.marks import draw_wave, icon
from kymaton.app.theme.theme import THEME, colour, figures, tokens, words

WIDE, NARROW = 148, 64


@dataclass(frozen=True)
class Step:
    """A step of the work: its number stays the same whichever steps are there."""

    id: str
    name: str
    number: int


class StepButton(QAbstractButton):
    """One step: number, name, count of its faults over all cues or a tick."""

    def __init__(self, step: Step) -> None:
        super().__init__()
        self.step = step
        self.faults: int | None = None
        self.setCheckable(True)
        self.setAutoExclusive(True)
        self.setFixedHeight(36)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.setToolTip(f"{step.name} (Alt+{step.number})")
        self.setAccessibleName(step.name)

    def set_faults(self, faults: int | None) -> None:
        self.faults = faults
        told = "" if faults is None else f", {faults} faults" if faults else ", no faults"
        self.setAccessibleName(f"{self.step.name}{told}")
        self.update()

    def sizeHint(self) -> QSize:
        return QSize(WIDE, 36)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        t = tokens()
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        chosen, narrow = self.isChecked(), self.width() < 100
        ground = t.ground if chosen else t.rail
        painter.fillRect(self.rect(), QColor(ground))
        if self.underMouse() and not chosen:
            painter.fillRect(self.rect(), colour(t.rail_text, 0.07))
        painter.setFont(figures(12))
        painter.setPen(QColor(t.soft if chosen else t.rail_soft))
        painter.drawText(QRectF(18, 0, 14, self.height()), Qt.AlignmentFlag.AlignVCenter, str(self.step.number))
        painter.setFont(words(13, 600 if chosen else 400))
        painter.setPen(QColor(t.ink if chosen else t.rail_text))
        if not narrow:
            painter.drawText(QRectF(42, 0, 70, self.height()), Qt.AlignmentFlag.AlignVCenter, self.step.name)
        middle = self.height() / 2
        if self.faults:
            text = str(self.faults)
            painter.setFont(figures(11, 600))
            width = max(20.0, painter.fontMetrics().horizontalAdvance(text) + 10.0)
            box = QRectF(self.width() - width - (8 if narrow else 14), middle - 8, width, 16)
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(QColor(t.fault))
            painter.drawRoundedRect(box, 8, 8)
            painter.setPen(QColor(t.on_wave))
            painter.drawText(box, Qt.AlignmentFlag.AlignCenter, text)
        elif self.faults == 0:
            mark = icon("tick", t.soft if chosen else t.rail_soft).pixmap(16, 16)
            painter.drawPixmap(QPointF(self.width() - 16 - (8 if narrow else 16), middle - 8), mark)
        if self.hasFocus():
            painter.setPen(QColor(t.wave))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRect(self.rect().adjusted(1, 1, -2, -2))


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
