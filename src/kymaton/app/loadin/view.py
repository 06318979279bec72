"""Budgets of the show: the uplink, the mains, and a stream over an uplink that varies."""

from PyQt6 import sip
from PyQt6.QtWidgets import QDoubleSpinBox, QHBoxLayout, QLineEdit, QPlainTextEdit, QTableWidgetItem, QVBoxLayout

from kymaton.app.document import Document
from kymaton.app.levels.tables import table_of
from kymaton.app.widgets.basic import StepView, button, label
from kymaton.core.errors import ShowError
from kymaton.core.loadin.budgets import lines_of
from kymaton.core.loadin.mains import CAUTION
from kymaton.core.loadin.rates import bits_per_s, said_rate
from kymaton.core.loadin.trace import pieces_of, told
from kymaton.core.loadin.uplink import stream_rate
from kymaton.core.loadin.verdict import Fits

COLUMNS = ("Budget", "Needed", "Verdict", "")
SAID: dict[Fits, str] = {
    "fits": "fits", "perhaps": "perhaps", "does not fit": "does not fit", "not known": "measure the line",
}  # fmt: skip
EXAMPLE = "20 s 8 Mbit/s, 10 s 2 Mbit/s, 60 s 8 Mbit/s"


class LoadInView(StepView):
    """A line for each budget; below it the uplink as it was over time."""

    def __init__(self, document: Document) -> None:
        super().__init__()
        self.document = document
        layout = QVBoxLayout(self)
        layout.setContentsMargins(20, 12, 16, 10)
        layout.setSpacing(8)
        head = QHBoxLayout()
        head.addWidget(label("Load-in", "title"))
        head.addSpacing(12)
        head.addWidget(label("the line was measured to have", "soft"))
        self.line = QLineEdit()
        self.line.setAccessibleName("What the uplink has, as it was measured")
        self.line.setPlaceholderText("20 Mbit/s")
        self.line.setMaximumWidth(160)
        self.line.editingFinished.connect(self._take_line)
        head.addWidget(self.line)
        head.addStretch(1)
        layout.addLayout(head)
        self.table = table_of(COLUMNS)
        self.table.setAccessibleName("Budgets")
        layout.addWidget(self.table, 1)
        self.caution = label(CAUTION, "small", wrap=True)
        layout.addWidget(self.caution)
        row = QHBoxLayout()
        row.addWidget(label("An uplink over time", "heading"))
        row.addStretch(1)
        row.addWidget(label("viewers have in store", "soft"))
        self.store = QDoubleSpinBox()
        self.store.setRange(0.0, 600.0)
        self.store.setValue(6.0)
        self.store.setSuffix(" s")
        self.store.setAccessibleName("Seconds that viewers have in store")
        row.addWidget(self.store)
        row.addWidget(button("Send over it", self.send, "", "What becomes of the stream over this uplink"))
        layout.addLayout(row)
        self.trace = QPlainTextEdit()
        self.trace.setAccessibleName("An uplink over time")
        self.trace.setPlaceholderText(f"{EXAMPLE}. Or pasted: lines of seconds and Mbit/s")
        self.trace.setMaximumHeight(80)
        self.trace.setTabChangesFocus(True)
        layout.addWidget(self.trace)
        self.answer = label("", "", wrap=True)
        layout.addWidget(self.answer)
        layout.addStretch(1)
        document.report_changed.connect(self.refresh)
        self.refresh()

    def focus_first(self) -> None:
        self.line.setFocus()

    def refresh(self) -> None:
        """All budgets as they are now."""
        show = self.document.show
        lines = lines_of(show)
        rows = [
            (f"  {x.what}" if x.part else f"{x.area}: {x.what}", x.needed, "" if x.part else SAID[x.fits], x.sentence)
            for x in lines
        ]
        self.table.setRowCount(len(rows))
        for at, texts in enumerate(rows):
            for column, text in enumerate(texts):
                item = QTableWidgetItem(text)
                item.setToolTip(text)
                self.table.setItem(at, column, item)
        self.caution.setVisible(any(x.area == "Power" for x in lines))
        there = show.goals.uplink_bit_per_s
        if not self.line.hasFocus():
            self.line.setText(said_rate(there) if there is not None else "")

    def _take_line(self) -> None:
        """What was measured is typed; nothing typed means that it is not known."""
        if sip.isdeleted(self.document):
            return  # the window is gone, and with it goes the focus
        show, text = self.document.show, self.line.text().strip()
        try:
            rate = bits_per_s(text)[0] if text else None
        except ShowError as error:
            self.document.message.emit(str(error))
            return
        there = show.goals.uplink_bit_per_s
        if (None if rate is None else said_rate(rate)) != (None if there is None else said_rate(there)):
            said = "the uplink is not known" if rate is None else f"the uplink has {said_rate(rate)}"
            self.document.edit(show.evolve(goals=show.goals.evolve(uplink_bit_per_s=rate)), said)

    def send(self) -> None:
        """Send the stream of this show over the uplink that is typed."""
        try:
            rate = stream_rate(self.document.show).value
            _, lines = told(rate, pieces_of(self.trace.toPlainText()), self.store.value())
        except ShowError as error:
            self.answer.setText(str(error))
            return
        self.answer.setText(" ".join(f"{line}." for line in lines))
