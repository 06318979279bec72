"""All budgets of the show, with what to plug elsewhere and how fast this computer is."""

import datetime
from functools import partial
from typing import TYPE_CHECKING

from PyQt6 import sip
from PyQt6.QtGui import QColor
from PyQt6.QtWidgets import QComboBox, QHBoxLayout, QLineEdit, QTableWidgetItem

from kymaton.app.document import Document
from kymaton.app.levels.tables import table_of, widen
from kymaton.app.theme.theme import THEME, tokens, words
from kymaton.app.widgets.basic import Page, button, label
from kymaton.app.widgets.working import WorkRow
from kymaton.app.work import Job
from kymaton.core.edits.devices import put_device
from kymaton.core.errors import ShowError
from kymaton.core.loadin.budgets import lines_of
from kymaton.core.loadin.computing import computers_of, profile_text, profiles_of
from kymaton.core.loadin.mains import CAUTION
from kymaton.core.loadin.rates import bits_per_s, said_rate
from kymaton.core.loadin.usb_plan import Plan, moved, needed_plans, told
from kymaton.core.loadin.verdict import Fits
from kymaton.core.model import Show

if TYPE_CHECKING:
    from kymaton.media.encode_speed import Speed

COLUMNS = ("Budget", "Needed", "Verdict", "Why")
MARKS: dict[Fits, str] = {"fits": "", "perhaps": "△ ", "does not fit": "▲ ", "not known": "△ "}


class BudgetsPage(Page):
    """A line for each budget; below it what makes USB fit, and the profiles to keep ready."""

    def __init__(self, document: Document) -> None:
        super().__init__()
        self.document = document
        self.plans: list[Plan] = []
        layout = self.column
        head = QHBoxLayout()
        head.addWidget(label("the line was measured to have", "soft"))
        self.line = QLineEdit()
        self.line.setAccessibleName("What the uplink has, as it was measured")
        self.line.setPlaceholderText("20 Mbit/s")
        self.line.setMaximumWidth(140)
        self.line.editingFinished.connect(self._take_line)
        head.addWidget(self.line)
        head.addStretch(1)
        self.computers = QComboBox()
        self.computers.setAccessibleName("Which computer this one is")
        head.addWidget(label("this computer is", "soft"))
        head.addWidget(self.computers)
        self.measure_button = button("Measure it", self.measure, "", "How fast this computer encodes a test picture")
        head.addWidget(self.measure_button)
        layout.addLayout(head)
        self.work = WorkRow(document)
        layout.addWidget(self.work)
        self.table = table_of(COLUMNS)
        self.table.setAccessibleName("Budgets")
        layout.addWidget(self.table, 1)
        row = QHBoxLayout()
        self.plan_text = label("", "", wrap=True)
        row.addWidget(self.plan_text, 1)
        self.move_button = button("Plug it so", self.move_plugs, "main", "Plugs change places in the show")
        row.addWidget(self.move_button)
        layout.addLayout(row)
        self.profiles = label("", "soft", wrap=True)
        layout.addWidget(self.profiles)
        self.caution = label(CAUTION, "small", wrap=True)
        layout.addWidget(self.caution)
        document.report_changed.connect(self.refresh)
        THEME.changed.connect(self.refresh)

    def focus_first(self) -> None:
        self.line.setFocus()

    def stop(self) -> None:
        """No more measuring."""
        self.work.stop()

    def refresh(self) -> None:
        """All budgets as they are now."""
        if sip.isdeleted(self) or not self.isVisible():
            return
        show = self.document.show
        lines = lines_of(show)
        self.table.setRowCount(len(lines))
        area = ""
        for at, line in enumerate(lines):
            fresh = not line.part and line.area not in (area, line.what)
            title = f"{line.area}: {line.what}" if fresh else line.what
            area = line.area
            verdict = "" if line.part else f"{MARKS[line.fits]}{line.fits}"
            texts = (f"      {line.what}" if line.part else title, line.needed, verdict, line.sentence or line.source)
            for column, text in enumerate(texts):
                item = QTableWidgetItem(text)
                item.setToolTip(f"{text.strip()} ({line.source})" if line.source else text.strip())
                if line.part:
                    item.setForeground(QColor(tokens().soft))
                elif line.fits != "fits" and column == 2:
                    grave = line.fits == "does not fit"
                    item.setForeground(QColor(tokens().fault if grave else tokens().caution))
                    item.setFont(words(13, 600))
                self.table.setItem(at, column, item)
        widen(self.table)
        self.caution.setVisible(any(x.area == "Power" for x in lines))
        there = show.goals.uplink_bit_per_s
        if not self.line.hasFocus():
            self.line.setText(said_rate(there) if there is not None else "")
        self.plans = needed_plans(show)
        self.plan_text.setText(" ".join(told(show, p) for p in self.plans))
        self.plan_text.setVisible(bool(self.plans))
        self.move_button.setVisible(any(p.moves for p in self.plans))
        ready = profiles_of(show)[1:]
        self.profiles.setText("Keep ready, lower: " + "; ".join(map(profile_text, ready)) + "." if ready else "")
        self._fill_computers(show)

    def _fill_computers(self, show: Show) -> None:
        chosen = self.computers.currentData()
        self.computers.clear()
        for each in computers_of(show):
            self.computers.addItem(show.device(each.computer).name, each.computer)
        self.computers.setCurrentIndex(max(0, self.computers.findData(chosen)))
        self.computers.setEnabled(self.computers.count() > 0)
        self.measure_button.setEnabled(self.computers.count() > 0)

    def _take_line(self) -> None:
        """What was measured is typed; nothing typed means that it is not known."""
        if sip.isdeleted(self.document):
            return  # the window is gone, and with it goes the focus
        show, text = self.document.show, self.line.text().strip()
        try:
            rate, said_of_bytes = bits_per_s(text) if text else (None, "")
        except ShowError as error:
            self.document.message.emit(str(error))
            return
        there = show.goals.uplink_bit_per_s
        if (None if rate is None else said_rate(rate)) != (None if there is None else said_rate(there)):
            said = "the uplink is not known" if rate is None else f"the uplink has {said_rate(rate)}"
            self.document.edit(show.evolve(goals=show.goals.evolve(uplink_bit_per_s=rate)), said)
            if said_of_bytes:
                self.document.message.emit(f"{said_of_bytes}: a byte has eight bits.")

    def move_plugs(self) -> None:
        """Make the moves of the plans in the show."""
        self.table.setFocus()  # the button goes when nothing is left to move
        show = self.document.show
        text = " ".join(told(show, p) for p in self.plans if p.moves)
        for plan in self.plans:
            if plan.moves:
                show = moved(show, plan)
        self.document.edit(show, text.rstrip(".").lower() if len(text) < 60 else "plug USB as it fits")

    def measure(self) -> None:
        """Encode the test picture a few times; what comes of it is the speed of the chosen computer."""
        computer = self.computers.currentData()
        if computer is not None:
            self.work.start(_measured, "Encoding a test picture", partial(self._take_speed, str(computer)))

    def _take_speed(self, computer: str, speed: "Speed | None") -> None:
        show = self.document.show
        if speed is None or not any(d.id == computer for d in show.devices):
            return
        device = show.device(computer)
        after = put_device(show, device.evolve(loads={**device.loads, "encodes_mpx_s": speed.mpx_s}))
        figure = speed.mpx_s
        self.document.edit(after, f"{device.name} encodes {figure.value:g} ± {figure.plus_minus:g} Mpx/s, measured")


def _measured(job: Job) -> "Speed | None":
    from kymaton.media.encode_speed import measure  # late: it loads the codecs

    return measure(datetime.date.today().isoformat(), stopped=lambda: job.cancelled)
