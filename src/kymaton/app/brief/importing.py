"""Preview of an input list: what each column means, then all of it in one edit."""

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QComboBox, QHBoxLayout, QHeaderView, QTableWidget, QTableWidgetItem, QVBoxLayout, QWidget

from kymaton.app.document import Document
from kymaton.app.widgets.basic import button, label
from kymaton.core.model import ShowError
from kymaton.store.inputlist import FIELDS, InputList, add_inputs

IGNORED = "(ignored)"


class ImportPanel(QWidget):
    """The rows of a list under combos that say what each column means."""

    closed = pyqtSignal()

    def __init__(self, document: Document) -> None:
        super().__init__()
        self.document = document
        self.inputs: InputList | None = None
        self.combos: list[QComboBox] = []
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(8)
        head = QHBoxLayout()
        self.title = label("", "heading")
        head.addWidget(self.title)
        head.addWidget(label("Each row becomes a sound, a pick-up and a lead to the desk.", "small"), 1)
        self.add_button = button("Add", self.add, "main")
        head.addWidget(self.add_button)
        head.addWidget(button("Cancel", self.closed.emit, "quiet"))
        layout.addLayout(head)
        self.problem = label("", "problem", wrap=True)
        self.problem.hide()
        layout.addWidget(self.problem)
        self.table = QTableWidget()
        self.table.setAccessibleName("Rows of the input list, their meaning in the first row")
        layout.addWidget(self.table, 1)

    def preview(self, inputs: InputList) -> None:
        """Show a list before anything is done with it."""
        self.inputs = inputs
        self.problem.hide()
        many = len(inputs.rows)
        self.title.setText(f"{many} input{'' if many == 1 else 's'}")
        self.add_button.setText(f"Add {many} input{'' if many == 1 else 's'}")
        self.table.clear()
        self.table.setColumnCount(len(inputs.titles))
        self.table.setRowCount(many + 1)
        self.table.setHorizontalHeaderLabels(list(inputs.titles))
        header = self.table.horizontalHeader()
        assert header is not None
        header.setSectionResizeMode(QHeaderView.ResizeMode.Stretch)
        self.combos = []
        for column, meaning in enumerate(inputs.meaning):
            combo = QComboBox()
            combo.setAccessibleName(f"Meaning of the column {inputs.titles[column]}")
            combo.addItems([IGNORED, *FIELDS])
            combo.setCurrentText(meaning or IGNORED)
            combo.activated.connect(lambda _, column=column: self._changed(column))
            self.table.setCellWidget(0, column, combo)
            self.combos.append(combo)
        for row, cells in enumerate(inputs.rows, 1):
            for column, cell in enumerate(cells):
                self.table.setItem(row, column, QTableWidgetItem(cell))

    def _changed(self, column: int) -> None:
        assert self.inputs is not None
        said = self.combos[column].currentText()
        self.inputs = self.inputs.with_meaning(column, None if said == IGNORED else said)
        for combo, meaning in zip(self.combos, self.inputs.meaning, strict=True):
            combo.setCurrentText(meaning or IGNORED)

    def add(self) -> None:
        """All rows in one edit, or none and the reason."""
        if self.inputs is None:
            return
        try:
            show = add_inputs(self.document.show, self.inputs)
        except ShowError as error:
            self.problem.setText(str(error))
            self.problem.show()
            return
        self.document.edit(show, f"add {len(self.inputs.rows)} inputs from a list")
        self.closed.emit()
