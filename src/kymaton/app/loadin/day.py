"""The day changes: choose what did not come or is dead, look at the ways on, take one. One step that can be undone."""

from functools import partial

from PyQt6.QtWidgets import QComboBox, QHBoxLayout, QTableWidgetItem

from kymaton.app.document import Document
from kymaton.app.levels.tables import table_of
from kymaton.app.widgets.basic import Page, button, label
from kymaton.app.widgets.working import WorkRow
from kymaton.app.work import Job
from kymaton.core.loadin.gear import is_carried
from kymaton.core.planning.day import DayWay, told, ways_without
from kymaton.core.words import sentence

COLUMNS = ("Way on", "Faults left", "What is lost")
MOST_LOST = 4


class DayPage(Page):
    """A device above, ways on below, the best first."""

    def __init__(self, document: Document) -> None:
        super().__init__()
        self.document = document
        self.ways: list[DayWay] = []
        self.gone = ""
        layout = self.column
        row = QHBoxLayout()
        self.devices = QComboBox()
        self.devices.setAccessibleName("What did not come, or is dead")
        row.addWidget(self.devices)
        row.addWidget(label("did not come, or is dead", "soft"))
        row.addWidget(button("Look for ways on", self.look, "main", "From what is there, each proved like the rig"))
        row.addStretch(1)
        self.take_button = button("Take this way", self.take, "", "One step, which undo takes back")
        self.take_button.setEnabled(False)
        row.addWidget(self.take_button)
        layout.addLayout(row)
        self.work = WorkRow(document)
        layout.addWidget(self.work)
        self.about = label("", "soft", wrap=True)
        layout.addWidget(self.about)
        self.table = table_of(COLUMNS)
        self.table.setAccessibleName("Ways on")
        self.table.setWordWrap(True)
        self.table.currentCellChanged.connect(lambda *_: self.take_button.setEnabled(self.table.currentRow() >= 0))
        self.table.doubleClicked.connect(self.take)
        layout.addWidget(self.table, 1)
        note = "For another room type: Small room instead of Hall. A step of undo takes either back."
        layout.addWidget(label(note, "small", wrap=True))
        document.report_changed.connect(self.refresh)

    def focus_first(self) -> None:
        self.devices.setFocus()

    def stop(self) -> None:
        """No more looking."""
        self.work.stop()

    def refresh(self) -> None:
        """The devices as they are now; ways of another rig are gone."""
        show, chosen = self.document.show, self.devices.currentData()
        self.devices.clear()
        for device in show.devices:
            if is_carried(device):
                self.devices.addItem(device.name, device.id)
        self.devices.setCurrentIndex(max(0, self.devices.findData(chosen)))
        self._show([])

    def look(self) -> None:
        """Try the ways, off the interface thread."""
        device = self.devices.currentData()
        if device is None:
            return
        self.gone = str(device)
        show = self.document.show
        name = show.device(self.gone).name

        def work(job: Job) -> list[DayWay]:
            return ways_without(show, str(device), job.report)

        self.work.start(work, f"Looking for ways on without {name}", partial(self._found, show))

    def _found(self, show: object, ways: list[DayWay]) -> None:
        if self.document.show is show:
            self._show(ways)

    def _show(self, ways: list[DayWay]) -> None:
        self.ways = ways
        self.table.setRowCount(len(ways))
        for row, way in enumerate(ways):
            more = f" and {len(way.lost) - MOST_LOST} more" if len(way.lost) > MOST_LOST else ""
            lost = f"{'; '.join(way.lost[:MOST_LOST])}{more}" if way.lost else "nothing that was asked for"
            for column, text in enumerate((sentence(told(way)), str(way.faults), lost)):
                item = QTableWidgetItem(text)
                item.setToolTip("\n".join(way.lost) if column == 2 and way.lost else text)
                self.table.setItem(row, column, item)
        self.table.resizeRowsToContents()
        if ways:
            self.table.setCurrentCell(0, 0)
            best = ways[0]
            show = self.document.show
            to_buy = self.gone in {d.id for d in show.devices if d.owned == "to buy"}
            self.about.setText(f"Best: {told(best)}." if not best.lost else f"Best, with a loss: {told(best)}.")
            if to_buy and not best.lost:
                self.about.setText(f"{self.about.text()} It need not be bought: nothing is lost without it.")
        else:
            self.about.setText(
                "Choose what is missing. Something of its kind that stands unused, something in use with sockets free, "
                "or no device at all: each is tried, with the settings that it takes, and judged by what is lost."
            )
        self.take_button.setEnabled(bool(ways))

    def take(self) -> None:
        """The chosen way becomes the rig."""
        at = self.table.currentRow()
        if not 0 <= at < len(self.ways) or not any(d.id == self.gone for d in self.document.show.devices):
            return
        way, name = self.ways[at], self.document.show.device(self.gone).name
        self.document.edit(way.show, f"go on without {name}: {told(way)}")
