"""The cues as a thread: each with its faults, the current one inked."""

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import (
    QColor,
    QFontMetricsF,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
)
from PyQt6.QtWidgets import QSizePolicy, QToolTip, QWidget

from kymaton.app.document import Document
from kymaton.app.theme.theme import THEME, colour, figures, tokens, words

GAP, PAD = 16.0, 10.0
FADE = 24  # px over which the row goes under the edge


class CueBar(QWidget):
    """A row of cues. Click or arrow keys choose; when the room is too small it slides to the current one."""

    chosen = pyqtSignal(str)

    def __init__(self, document: Document) -> None:
        super().__init__()
        self.document = document
        self.boxes: list[tuple[QRectF, str]] = []
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setFixedHeight(40)
        self.setMinimumWidth(120)
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.setMouseTracking(True)
        document.report_changed.connect(self._tell)
        document.cue_changed.connect(self._tell)
        THEME.changed.connect(self.update)
        self._tell()

    def _tell(self) -> None:
        cue = self.document.cue_report.view.cue
        self.setAccessibleName(f"Cues, current: {cue.name}" if cue else "No cues")
        self.update()

    def sizeHint(self) -> QSize:
        return QSize(600, 40)

    def _lay_out(self) -> list[tuple[QRectF, str, str, int | None]]:
        name_font, count_font = words(13, 600), figures(11, 600)
        name_width, count_width = QFontMetricsF(name_font), QFontMetricsF(count_font)
        x, items = 0.0, []
        current = (0.0, 0.0)
        for cue in self.document.show.cues:
            faults = self.document.faults_in(cue.id)
            width = name_width.horizontalAdvance(cue.name) + 2 * PAD
            if faults:
                width += count_width.horizontalAdvance(str(faults)) + 8
            if cue.id == self.document.cue_id:
                current = (x, x + width)
            items.append((QRectF(x, 5, width, 30), cue.id, cue.name, faults))
            x += width + GAP
        total = x - GAP
        shift = 0.0
        if total > self.width():
            shift = min(max(0.0, (current[0] + current[1] - self.width()) / 2), total - self.width())
        return [(box.translated(-shift, 0), id, name, faults) for box, id, name, faults in items]

    def paintEvent(self, event: QPaintEvent | None) -> None:
        t = tokens()
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        items = self._lay_out()
        self.boxes = [(box, id) for box, id, _, _ in items]
        before: QRectF | None = None
        for box, id, name, faults in items:
            if before is not None:
                painter.setPen(QPen(QColor(t.faint), 1.4))
                painter.drawLine(QPointF(before.right() + 4, 20), QPointF(box.left() - 4, 20))
            before = box
            now = id == self.document.cue_id
            if now:
                painter.setPen(Qt.PenStyle.NoPen)
                painter.setBrush(QColor(t.ink))
                painter.drawRoundedRect(box, 6, 6)
                if self.hasFocus():
                    painter.setPen(QPen(QColor(t.wave), 2))
                    painter.setBrush(Qt.BrushStyle.NoBrush)
                    painter.drawRoundedRect(box.adjusted(-1, -1, 1, 1), 7, 7)
            painter.setFont(words(13, 600 if now else 500))
            painter.setPen(QColor(t.ground if now else t.ink))
            painter.drawText(box.adjusted(PAD, 0, -PAD, 0), Qt.AlignmentFlag.AlignVCenter, name)
            if faults:
                painter.setFont(figures(11, 600))
                painter.setPen(QColor(t.ground if now else t.fault))
                painter.drawText(
                    box.adjusted(0, 0, -PAD, 0),
                    Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight,
                    str(faults),
                )
        if items and (items[0][0].left() < 0 or items[-1][0].right() > self.width()):
            self._fade(painter, items[0][0].left() < 0, items[-1][0].right() > self.width())

    def _fade(self, painter: QPainter, left: bool, right: bool) -> None:
        for x in range(FADE):
            veil = colour(tokens().panel, 1.0 - x / FADE)
            if left:
                painter.fillRect(QRectF(x, 0, 1, self.height()), veil)
            if right:
                painter.fillRect(QRectF(self.width() - 1 - x, 0, 1, self.height()), veil)

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        for box, id in self.boxes:
            if event is not None and box.contains(event.position()):
                self.chosen.emit(id)

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        for box, id in self.boxes:
            if box.contains(event.position()):
                cue = self.document.show.cue(id)
                QToolTip.showText(
                    event.globalPosition().toPoint(), f"{cue.name}: {cue.note}\nCtrl+Left, Ctrl+Right", self
                )

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        assert event is not None
        if event.key() in (Qt.Key.Key_Left, Qt.Key.Key_Right):
            self.document.step_cue(-1 if event.key() == Qt.Key.Key_Left else 1)
        else:
            super().keyPressEvent(event)
