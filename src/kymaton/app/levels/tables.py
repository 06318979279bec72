"""The tables of this step: read only, a row is chosen as a whole."""

from collections.abc import Sequence

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QAbstractItemView, QHeaderView, QTableWidget


def table_of(titles: Sequence[str]) -> QTableWidget:
    """A table with these columns, of which the last takes what room there is."""
    table = QTableWidget(0, len(titles))
    table.setHorizontalHeaderLabels(list(titles))
    table.setEditTriggers(QAbstractItemView.EditTrigger.NoEditTriggers)
    table.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectRows)
    table.setShowGrid(False)
    side, top = table.verticalHeader(), table.horizontalHeader()
    assert side is not None and top is not None
    side.hide()
    top.setSectionResizeMode(QHeaderView.ResizeMode.ResizeToContents)
    top.setSectionResizeMode(len(titles) - 1, QHeaderView.ResizeMode.Stretch)
    top.setDefaultAlignment(Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter)
    return table


BETWEEN, BETWEEN_ROWS = 18, 6  # px between columns, between rows


def widen(table: QTableWidget) -> None:
    """Columns as wide as what is in them and a gap; rows as high as the last column needs."""
    top = table.horizontalHeader()
    if top is None:
        return
    for column in range(table.columnCount() - 1):
        top.setSectionResizeMode(column, QHeaderView.ResizeMode.Fixed)
        table.setColumnWidth(column, max(table.sizeHintForColumn(column), top.sectionSizeHint(column)) + BETWEEN)
    table.setWordWrap(True)
    table.resizeRowsToContents()
    for row in range(table.rowCount()):
        table.setRowHeight(row, table.rowHeight(row) + BETWEEN_ROWS)
