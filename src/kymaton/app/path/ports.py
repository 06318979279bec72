"""The ports of a device as a table, for those who prefer one to the map."""

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent
from PyQt6.QtWidgets import QAbstractItemView, QFrame, QHeaderView, QTableWidget, QTableWidgetItem

from kymaton.app.document import Document
from kymaton.core.edits.cables import disconnect, taken_by

TITLES = ("Port", "Way", "Connector", "Channels", "Connected to")


class PortTable(QTableWidget):
    """Enter or a double click takes a port into the patch line; Delete disconnects it."""

    wanted = pyqtSignal(str)

    def __init__(self, document: Document) -> None:
        super().__init__(0, len(TITLES))
        self.document = document
        self.device: str | None = None
        self.setAccessibleName("Ports of the device")
        self.setHorizontalHeaderLabels(list(TITLES))
        self.setFrameShape(QFrame.Shape.NoFrame)
        self.setEditTriggers(QAbstractItemView.EditTrigger.NoEditTriggers)
        self.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectRows)
        header, rows = self.horizontalHeader(), self.verticalHeader()
        assert header is not None and rows is not None
        header.setDefaultAlignment(Qt.AlignmentFlag.AlignLeft)
        header.setStretchLastSection(True)
        header.setSectionResizeMode(QHeaderView.ResizeMode.ResizeToContents)
        rows.hide()
        rows.setDefaultSectionSize(24)
        self.itemDoubleClicked.connect(lambda item: self.take(item.row()))
        document.report_changed.connect(self.refresh)

    def show_device(self, id: str | None) -> None:
        self.device = id
        self.refresh()

    def refresh(self) -> None:
        show = self.document.show
        ports = show.device(self.device).ports if self.device in [d.id for d in show.devices] and self.device else ()
        self.setRowCount(len(ports))
        for row, port in enumerate(ports):
            id = f"{self.device}/{port.id}"
            others = [c.target if c.source == id else c.source for c in taken_by(show, id)]
            cells = (
                port.name or port.id,
                "input" if port.direction == "in" else "output",
                port.connector or port.signal,
                ("picture, " if port.picture else "") + str(port.channels),
                ", ".join(show.port_label(o) for o in others) or "free",
            )
            for column, text in enumerate(cells):
                item = QTableWidgetItem(text)
                item.setData(Qt.ItemDataRole.UserRole, id)
                self.setItem(row, column, item)

    def _port(self, row: int) -> str | None:
        item = self.item(row, 0)
        return None if item is None else str(item.data(Qt.ItemDataRole.UserRole))

    def take(self, row: int) -> None:
        """Begin a patch line with a port: before the arrow an output, behind it an input."""
        id = self._port(row)
        if id is not None:
            label = self.document.show.port_label(id)
            out = self.document.show.port(id).direction == "out"
            self.wanted.emit(f"{label} > " if out else f" > {label}")

    def disconnect_chosen(self) -> None:
        show = self.document.show
        chosen = {self._port(i.row()) for i in self.selectedIndexes()}
        leads = [c.id for c in show.cables if c.source in chosen or c.target in chosen]
        if leads:
            text = "disconnect a lead" if len(leads) == 1 else f"disconnect {len(leads)} leads"
            self.document.edit(disconnect(show, leads), text)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        assert event is not None
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.take(self.currentRow())
        elif event.key() == Qt.Key.Key_Delete:
            self.disconnect_chosen()
        else:
            super().keyPressEvent(event)
