"""The controls of a device, with their values in the current cue; type a value to change it."""

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import (
    QAbstractItemView,
    QFrame,
    QHeaderView,
    QLineEdit,
    QTableWidget,
    QTableWidgetItem,
    QVBoxLayout,
)

from kymaton.app.document import Document
from kymaton.core.model import ShowError
from kymaton.core.planning.fixes import value_text
from kymaton.language.commands import read_command


class ControlTable(QFrame):
    """Controls of one device, filtered by typing; a value that cannot be is refused with a sentence."""

    def __init__(self, document: Document) -> None:
        super().__init__()
        self.document = document
        self.device: str | None = None
        self.filling = False
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(4)
        self.filter = QLineEdit()
        self.filter.setPlaceholderText("Filter the controls: 1 gain, aux 1, mute")
        self.filter.setAccessibleName("Filter the controls")
        self.filter.textChanged.connect(lambda _: self.refresh())
        layout.addWidget(self.filter)
        self.table = QTableWidget(0, 3)
        self.table.setAccessibleName("Controls of the device")
        self.table.setHorizontalHeaderLabels(["Control", "Value", "Holds in"])
        self.table.setFrameShape(QFrame.Shape.NoFrame)
        self.table.setSelectionMode(QAbstractItemView.SelectionMode.SingleSelection)
        header, rows = self.table.horizontalHeader(), self.table.verticalHeader()
        assert header is not None and rows is not None
        header.setSectionResizeMode(0, QHeaderView.ResizeMode.Stretch)
        header.setDefaultAlignment(Qt.AlignmentFlag.AlignLeft)
        rows.hide()
        rows.setDefaultSectionSize(24)
        self.table.cellChanged.connect(self._typed)
        layout.addWidget(self.table)
        document.report_changed.connect(self.refresh)

    def show_device(self, id: str | None) -> None:
        if id != self.device:
            self.device = id
            self.filter.clear()
        self.refresh()

    def refresh(self) -> None:
        show = self.document.show
        if self.device not in [d.id for d in show.devices] or self.device is None:
            self.table.setRowCount(0)
            return
        words = self.filter.text().lower().split()
        controls = [c for c in show.device(self.device).controls if all(w in c.name.lower() for w in words)]
        own = self.document.cue_report.view.cue
        left = show.left_by_hand(own.id) if own is not None else {}
        self.filling = True
        self.table.setRowCount(len(controls))
        for row, control in enumerate(controls):
            value = show.value(control.id, self.document.cue_id)
            here = own is not None and control.id in own.controls
            since = f"as left in {show.cue(left[control.id]).name}" if control.id in left else "all cues"
            where = own.name if here and own is not None else since
            for column, text in enumerate((control.name, value_text(control, value), where)):
                item = QTableWidgetItem(text)
                if column != 1:
                    item.setFlags(item.flags() & ~Qt.ItemFlag.ItemIsEditable)
                item.setData(Qt.ItemDataRole.UserRole, control.id)
                self.table.setItem(row, column, item)
        self.filling = False

    def _typed(self, row: int, column: int) -> None:
        item = self.table.item(row, column)
        if self.filling or item is None or column != 1:
            return
        control = item.data(Qt.ItemDataRole.UserRole)
        try:
            patch = read_command(self.document.show, f"set {control} to {item.text()}", self.document.cue_id)
        except ShowError as error:
            self.document.message.emit(str(error))
            self.refresh()
            return
        self.document.edit(patch.show, patch.text)
