"""The day changes: choose what did not come or is dead, look at the ways on, take one. One step that can be undone."""

from functools import partial

from msgspec import Struct
from PyQt6.QtWidgets import QComboBox, QHBoxLayout, QTableWidgetItem

from kymaton.app.document import Document
from kymaton.app.levels.tables import table_of, widen
from kymaton.app.widgets.basic import Page, button, label
from kymaton.app.widgets.working import WorkRow
from kymaton.core.loadin.gear import is_carried
from kymaton.core.model import Show
from kymaton.core.planning.day import DayWay, told, ways_without
from kymaton.core.words import sentence
from kymaton.language.missing import Missing, missing_of, told_missing

WAYS = ("Way on", "Faults left", "What is lost")
TO_BUY = ("What is to be bought, and the ways to do", "To pay", "What is lost")
ALL = ""  # no device has this id
LOST, MOST_LOST = 2, 4


class Choice(Struct, frozen=True):
    """A row: its cells, what is lost in full, and the rig with it, with what the step is called; None to keep ours."""

    way: str
    figure: str
    lost: tuple[str, ...]
    show: Show | None
    step: str

    @property
    def cells(self) -> tuple[str, str, str]:
        """What stands in the columns."""
        more = f" and {len(self.lost) - MOST_LOST} more" if len(self.lost) > MOST_LOST else ""
        lost = f"{'; '.join(self.lost[:MOST_LOST])}{more}" if self.lost else "nothing that was asked for"
        return self.way, self.figure, lost


def of_ways(show: Show, device: str, ways: list[DayWay]) -> tuple[list[Choice], str]:
    """The ways on without a device, the best first, and in words what is best."""
    name = show.device(device).name
    choices = [
        Choice(sentence(told(w)), str(w.faults), w.lost, w.show, f"go on without {name}: {told(w)}") for w in ways
    ]
    best = ways[0]
    about = f"Best: {told(best)}." if not best.lost else f"Best, with a loss: {told(best)}."
    if show.device(device).owned == "to buy" and not best.lost:
        about += " It need not be bought: nothing is lost without it."
    return choices, about


def of_missing(show: Show, every: list[Missing]) -> tuple[list[Choice], str]:
    """What may be done about each device that is to be bought, the cheapest that loses nothing first; and the sum."""
    choices = []
    for missing in every:
        name = show.device(missing.device).name
        choices += [Choice(f"{name}: {o.name}", o.cost, o.lost, o.show, f"{name}: {o.name}") for o in missing.options]
    return choices, told_missing(show, every)


class DayPage(Page):
    """A device above, ways on below, the best first."""

    def __init__(self, document: Document) -> None:
        super().__init__()
        self.document = document
        self.choices: list[Choice] = []
        self.of = document.show  # the rig that they are ways of
        layout = self.column
        row = QHBoxLayout()
        self.devices = QComboBox()
        self.devices.setAccessibleName("What did not come, or is dead")
        row.addWidget(self.devices)
        self.gone = label("did not come, or is dead", "soft")
        self.devices.currentIndexChanged.connect(lambda: self.gone.setVisible(self.devices.currentData() != ALL))
        row.addWidget(self.gone)
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
        self.table = table_of(WAYS)
        self.table.setAccessibleName("Ways on")
        self.table.setWordWrap(True)
        self.table.currentCellChanged.connect(self._chosen)
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
        if any(d.owned == "to buy" for d in show.devices):
            self.devices.addItem("All that is to be bought", ALL)
        self.devices.setCurrentIndex(max(0, self.devices.findData(chosen)))
        self._show([])

    def look(self) -> None:
        """Try the ways, off the interface thread."""
        chosen, show = self.devices.currentData(), self.document.show
        if chosen is None:
            return
        if chosen == ALL:
            self.work.start(
                lambda job: of_missing(show, missing_of(show, job.report)),
                "Looking for what need not be bought", partial(self._found, show, TO_BUY),
            )  # fmt: skip
            return
        self.work.start(
            lambda job: of_ways(show, chosen, ways_without(show, chosen, job.report)),
            f"Looking for ways on without {show.device(chosen).name}", partial(self._found, show, WAYS),
        )  # fmt: skip

    def _found(self, show: Show, titles: tuple[str, ...], found: tuple[list[Choice], str]) -> None:
        if self.document.show is show:
            self.table.setHorizontalHeaderLabels(titles)
            self._show(*found)

    def _show(self, choices: list[Choice], about: str = "") -> None:
        self.choices, self.of = choices, self.document.show
        self.table.setRowCount(len(choices))
        for row, choice in enumerate(choices):
            for column, text in enumerate(choice.cells):
                item = QTableWidgetItem(text)
                item.setToolTip("\n".join(choice.lost) if column == LOST and choice.lost else text)
                self.table.setItem(row, column, item)
        widen(self.table)
        if choices:
            self.table.setCurrentCell(0, 0)
        self.about.setText(
            about
            or "Choose what is missing. Something of its kind that stands unused, something in use with sockets free, "
            "or no device at all: each is tried, with the settings that it takes, and judged by what is lost."
        )
        self._chosen()

    def _chosen(self) -> None:
        at = self.table.currentRow()
        self.take_button.setEnabled(0 <= at < len(self.choices) and self.choices[at].show is not None)

    def take(self) -> None:
        """The chosen way becomes the rig."""
        at = self.table.currentRow()
        if 0 <= at < len(self.choices) and self.document.show is self.of:
            choice = self.choices[at]
            if choice.show is not None:
                self.document.edit(choice.show, choice.step)
