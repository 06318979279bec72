"""Facts of a device: its figures with their source, its place and supply, and whether it is owned; typed in place."""

from collections.abc import Callable
from functools import partial

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QFrame, QHeaderView, QTableWidget, QTableWidgetItem

from kymaton.app.document import Document
from kymaton.core.edits.devices import put_device
from kymaton.core.edits.figures import (
    DeviceFigure,
    figure_text,
    figures_of,
    put_figure,
    read_figure,
    read_source,
    source_text,
)
from kymaton.core.edits.people import place_called
from kymaton.core.model import Device, Figure, Show, ShowError
from kymaton.language.script import read_any

OWNED = ("owned", "borrowed", "to buy")
Read = Callable[[str], Show]  # a typed text to the show after it; raises ShowError


class FactTable(QTableWidget):
    """A row for each fact; what cannot be is refused with a sentence."""

    def __init__(self, document: Document) -> None:
        super().__init__(0, 3)
        self.document = document
        self.device: str | None = None
        self.filling = False
        self.reads: dict[tuple[int, int], Read] = {}
        self.setAccessibleName("Facts of the device")
        self.setHorizontalHeaderLabels(["Fact", "Value", "Source"])
        self.setFrameShape(QFrame.Shape.NoFrame)
        header, rows = self.horizontalHeader(), self.verticalHeader()
        assert header is not None and rows is not None
        header.setSectionResizeMode(0, QHeaderView.ResizeMode.Stretch)
        header.setSectionResizeMode(1, QHeaderView.ResizeMode.ResizeToContents)
        header.setMinimumSectionSize(170)
        header.setDefaultAlignment(Qt.AlignmentFlag.AlignLeft)
        rows.hide()
        rows.setDefaultSectionSize(24)
        self.cellChanged.connect(self._typed)
        document.report_changed.connect(self.refresh)

    def show_device(self, id: str | None) -> None:
        self.device = id
        self.refresh()

    def refresh(self) -> None:
        show = self.document.show
        self.reads.clear()
        if self.device is None or self.device not in [d.id for d in show.devices]:
            self.setRowCount(0)
            return
        device = show.device(self.device)
        self.filling = True
        self.setRowCount(0)
        for at in figures_of(device):
            self._row(
                (at.name, figure_text(at.figure, at.unit), source_text(at.figure)),
                partial(_typed, show, device.id, at, partial(read_figure, unit=at.unit)),
                partial(_typed, show, device.id, at, read_source),
            )
        place = show.place_of(device.place)
        self._row(("Place", place.name if place else "not said", ""), lambda text: _placed(show, device, text))
        self._row(("Mains", device.mains or "not said", ""), lambda text: _with(show, device, mains=text.strip()))
        moves = "yes" if device.moves else "no"
        self._row(("Worn, carried or pushed about", moves, ""), lambda text: _moving(show, device, text))
        self._row(("Owned, borrowed or to buy", device.owned, ""), lambda text: _owned(show, device, text))
        gear = device.gear
        if device.owned == "borrowed":
            whose = f"{gear.lender}, back {gear.back}" if gear.back else gear.lender
            self._row(("From whom, and when it goes back", whose or "not said", ""),
                      lambda text: _said(show, f"{device.name} is from {text.strip()}"))  # fmt: skip
        self._row(("Travels in", gear.case or "not said", ""),
                  lambda text: _with(show, device, gear=gear.evolve(case=text.strip())))  # fmt: skip
        if any(p.signal == "network" for p in device.ports) or device.address:
            self._row(("Address in the network", device.address or "not said", ""),
                      lambda text: _said(show, f"{device.name} has address {text.strip() or 'nothing'}"))  # fmt: skip
        self.filling = False

    def _row(self, texts: tuple[str, str, str], *reads: Read) -> None:
        row = self.rowCount()
        self.insertRow(row)
        for column, text in enumerate(texts):
            item = QTableWidgetItem(text)
            if 1 <= column <= len(reads):
                self.reads[row, column] = reads[column - 1]
            else:
                item.setFlags(item.flags() & ~Qt.ItemFlag.ItemIsEditable)
            self.setItem(row, column, item)

    def _typed(self, row: int, column: int) -> None:
        item, name = self.item(row, column), self.item(row, 0)
        if self.filling or item is None or name is None or (row, column) not in self.reads or self.device is None:
            return
        device = self.document.show.device(self.device).name
        try:
            show = self.reads[row, column](item.text())
        except ShowError as error:
            self.document.message.emit(str(error))
            self.refresh()
            return
        self.document.edit(show, f"change {name.text().lower()} of {device}")


def _with(show: Show, device: Device, **fields: object) -> Show:
    return put_device(show, device.evolve(**fields))


def _placed(show: Show, device: Device, text: str) -> Show:
    """In a place by its name; a new name makes a place."""
    if text.strip().lower() in ("", "not said"):
        return _with(show, device, place=None)
    show, id = place_called(show, text)
    return _with(show, show.device(device.id), place=id)


def _moving(show: Show, device: Device, text: str) -> Show:
    if text.strip().lower() not in ("yes", "no"):
        raise ShowError(f"'{text}' is neither yes nor no.")
    return _with(show, device, moves=text.strip().lower() == "yes")


def _said(show: Show, line: str) -> Show:
    """What a line does, typed in a cell."""
    return read_any(show, line).show


def _owned(show: Show, device: Device, text: str) -> Show:
    if text.strip().lower() not in OWNED:
        raise ShowError(f"'{text}' is not one of {', '.join(OWNED)}.")
    return _with(show, device, owned=text.strip().lower())


def _typed(show: Show, device: str, at: DeviceFigure, read: Callable[[str, Figure], Figure], text: str) -> Show:
    """The show with a figure as it was typed."""
    return put_figure(show, device, at, read(text, at.figure))
