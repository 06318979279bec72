"""An uplink as it was over time: typed, pasted, or one of three; how full the encoder's buffer gets, who stalls."""

from functools import partial

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt
from PyQt6.QtGui import QColor, QPainter, QPaintEvent, QPen, QPolygonF
from PyQt6.QtWidgets import QDoubleSpinBox, QHBoxLayout, QPlainTextEdit, QSizePolicy, QWidget

from kymaton.app.document import Document
from kymaton.app.settings import Settings
from kymaton.app.theme.theme import THEME, colour, figures, tokens, words
from kymaton.app.widgets.basic import Page, button, label
from kymaton.core.errors import ShowError
from kymaton.core.loadin.budgets import STORE_S
from kymaton.core.loadin.rates import said_rate
from kymaton.core.loadin.send_buffer import Sent, send
from kymaton.core.loadin.trace import pieces_of, told
from kymaton.core.loadin.traces import TRACES, as_text
from kymaton.core.loadin.uplink import stream_rate
from kymaton.core.words import number

EXAMPLE = "20 s 8 Mbit/s, 10 s 2 Mbit/s, 60 s 8 Mbit/s"


class UplinkPage(Page):
    """The trace above, the curve of the buffer below, and in words what became of it."""

    def __init__(self, document: Document, settings: Settings) -> None:
        super().__init__()
        self.document = document
        layout = self.column
        row = QHBoxLayout()
        row.addWidget(label("try", "soft"))
        self.ready = {
            name: button(name.capitalize(), partial(self.take, name), "quiet", about)
            for name, (about, _) in TRACES.items()
        }
        for each in self.ready.values():
            row.addWidget(each)
        row.addStretch(1)
        row.addWidget(label("viewers have in store", "soft"))
        self.store = QDoubleSpinBox()
        self.store.setRange(0.0, 600.0)
        self.store.setDecimals(1)
        self.store.setValue(settings.number("viewers have in store", STORE_S))
        self.store.valueChanged.connect(partial(settings.keep, "viewers have in store"))
        self.store.setSuffix(" s")
        self.store.setAccessibleName("Seconds that viewers have in store")
        row.addWidget(self.store)
        self.rate = label("", "soft")
        row.addWidget(self.rate)
        row.addWidget(button("Send over it", self.send, "main", "What becomes of the stream over this uplink"))
        layout.addLayout(row)
        self.trace = QPlainTextEdit()
        self.trace.setAccessibleName("An uplink over time")
        self.trace.setPlaceholderText(f"{EXAMPLE}. Or pasted: lines of seconds and Mbit/s")
        self.trace.setMaximumHeight(72)
        self.trace.setTabChangesFocus(True)
        layout.addWidget(self.trace)
        self.curve = BufferCurve()
        layout.addWidget(self.curve, 1)
        self.answer = label("", "", wrap=True)
        layout.addWidget(self.answer)
        document.report_changed.connect(self.refresh)

    def focus_first(self) -> None:
        self.trace.setFocus()

    def refresh(self) -> None:
        """The rate of the show's stream."""
        self.rate.setText(f"the stream has {said_rate(stream_rate(self.document.show).value)}")

    def take(self, name: str) -> None:
        """One of the traces that come with the program."""
        self.trace.setPlainText(as_text(TRACES[name][1]))
        self.send()

    def send(self) -> None:
        """Send the stream of this show over the uplink that is typed."""
        try:
            rate = stream_rate(self.document.show).value
            pieces = pieces_of(self.trace.toPlainText())
            _, lines = told(rate, pieces, self.store.value())
        except ShowError as error:
            self.answer.setText(str(error))
            self.curve.show_sent(None, 0.0)
            return
        self.curve.show_sent(send(rate, pieces, self.store.value()), self.store.value())
        self.answer.setText(" ".join(f"{line}." for line in lines))


class BufferCurve(QWidget):
    """How old what is sent is, over time, against what viewers have in store; where they have nothing is shaded."""

    def __init__(self) -> None:
        super().__init__()
        self.sent: Sent | None = None
        self.store_s = 0.0
        self.setMinimumHeight(120)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setAccessibleName("The send buffer over time")
        THEME.changed.connect(self.update)

    def show_sent(self, sent: Sent | None, store_s: float) -> None:
        """What to draw; None for nothing."""
        self.sent, self.store_s = sent, store_s
        stalls = [] if sent is None else [f"{number(a)} to {number(b)} s" for a, b in sent.stalls]
        self.setAccessibleDescription(f"Viewers stall {', '.join(stalls)}" if stalls else "Nobody stalls")
        self.update()

    def sizeHint(self) -> QSize:
        return QSize(600, 220)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        t, painter = tokens(), QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        box = QRectF(52, 8, max(10, self.width() - 60), max(10, self.height() - 34))
        painter.fillRect(box, QColor(t.panel))
        if self.sent is None:
            painter.setPen(QColor(t.soft))
            painter.setFont(words(13))
            painter.drawText(box, int(Qt.AlignmentFlag.AlignCenter), "Type an uplink, or try one of the three.")
            return
        end = self.sent.curve[-1].at_s
        top = 1.15 * max(self.store_s, max(m.behind_s for m in self.sent.curve), 1.0)

        def at(seconds: float, behind: float) -> QPointF:
            return QPointF(box.left() + box.width() * seconds / end, box.bottom() - box.height() * behind / top)

        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(colour(t.fault, 0.25))
        for a, b in self.sent.stalls:
            painter.drawRect(QRectF(at(a, 0).x(), box.top(), max(2.0, at(b, 0).x() - at(a, 0).x()), box.height()))
        painter.setPen(QPen(QColor(t.caution), 1.4, Qt.PenStyle.DashLine))
        painter.drawLine(at(0, self.store_s), at(end, self.store_s))
        painter.setPen(QPen(QColor(t.wave), 2.0))
        painter.drawPolyline(QPolygonF([at(m.at_s, m.behind_s) for m in self.sent.curve]))
        painter.setPen(QColor(t.soft))
        painter.setFont(figures(11))
        for behind, text in ((0.0, "0 s"), (self.store_s, f"{number(self.store_s)} s")):
            painter.drawText(QRectF(0, at(0, behind).y() - 8, 46, 16), int(Qt.AlignmentFlag.AlignRight), text)
        painter.drawText(QRectF(box.left(), box.bottom() + 4, 200, 16), int(Qt.AlignmentFlag.AlignLeft), "0 s")
        painter.drawText(QRectF(box.right() - 100, box.bottom() + 4, 100, 16), int(Qt.AlignmentFlag.AlignRight),
                         f"{number(end)} s")  # fmt: skip
        painter.setFont(words(11))
        painter.drawText(QRectF(box.left() + 8, at(0, self.store_s).y() - 18, 300, 16),
                         int(Qt.AlignmentFlag.AlignLeft), "in store at the viewers")  # fmt: skip
        painter.drawText(QRectF(box.left(), box.bottom() + 4, box.width(), 16), int(Qt.AlignmentFlag.AlignHCenter),
                         "how old what is sent is, over time")  # fmt: skip
