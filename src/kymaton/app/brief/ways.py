"""Other ways to solve something, weighed beside the rig as it is."""

from functools import partial

from PyQt6 import sip
from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import (
    QAbstractItemView,
    QFrame,
    QHBoxLayout,
    QHeaderView,
    QLineEdit,
    QTableWidget,
    QTableWidgetItem,
)

from kymaton.app.brief.page import SidePage, typed_line
from kymaton.app.document import Document
from kymaton.app.widgets.basic import button, label
from kymaton.core.model import Alternative
from kymaton.core.words import number, plain
from kymaton.language.alternatives import (
    ROWS,
    Weighed,
    add_alternative,
    add_line,
    cheapest,
    remove_alternative,
    remove_line,
    take,
    weigh_all,
)
from kymaton.language.suggesting import suggested


class WaysPanel(SidePage):
    """A table with a column for each way, and a card for each other way with the lines that lead there."""

    def __init__(self, document: Document) -> None:
        super().__init__(document, "Other ways")
        self.name = typed_line(
            "name of another way: Sound through the camera", "Name of another way", lambda _: self.add()
        )
        self.head.addWidget(self.name, 1)
        self.finish_head()
        self.table = QTableWidget(len(ROWS), 0)

    def fill(self) -> None:
        show = self.document.show
        report = self.document.report
        for way in suggested(report) if report is not None else ():
            inside = self.card()
            row = QHBoxLayout()
            row.addWidget(label(f"Suggested: {way.name}", "strong"))
            row.addStretch(1)
            row.addWidget(button("Weigh it", partial(self.enter, way), "", "Put it beside the rig as another way"))
            inside.addLayout(row)
            for line in way.lines:
                inside.addWidget(label(line, "soft", wrap=True))
        if not show.alternatives:
            text = (
                "Another way is a change of this rig that you weigh before you take it: a delay in a box, or sound "
                "through the camera. Both are computed and stand beside each other."
            )
            self.cards.addWidget(label(text, "soft", wrap=True))
            return
        self.table = _table()
        self.cards.addWidget(self.table)
        self.cheapest = label("", "soft", wrap=True)
        self.cards.addWidget(self.cheapest)
        self.document.work_out("ways", lambda job: weigh_all(show, lambda: job.cancelled), self._show_weighed)
        for way in show.alternatives:
            inside = self.card()
            row = QHBoxLayout()
            row.addWidget(label(way.name, "strong"))
            row.addStretch(1)
            row.addWidget(button("Take this way", partial(self.take, way.id), "", "It becomes the rig"))
            row.addWidget(button("Remove", partial(self.remove, way.id), "quiet"))
            inside.addLayout(row)
            for at, line in enumerate(way.lines):
                step = QHBoxLayout()
                step.addWidget(label(line, "", wrap=True), 1)
                step.addWidget(button("Remove", partial(self.remove_line, way.id, at), "quiet"))
                inside.addLayout(step)
            inside.addWidget(
                typed_line(
                    "what is done: add delay 80 ms. Or: desk main > delay. Or: buy delay",
                    f"Next line of {way.name}",
                    partial(self._add_typed, way.id),
                )
            )

    def _show_weighed(self, ways: list[Weighed]) -> None:
        self.table.setColumnCount(len(ways))
        self.table.setHorizontalHeaderLabels([w.name for w in ways])
        for column, way in enumerate(ways):
            for row, (_, read) in enumerate(ROWS):
                value = read(way)
                decimals = 1 if isinstance(value, float) else 0
                text = "" if value is None or way.trouble else number(value, decimals)
                item = QTableWidgetItem(text)
                item.setTextAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
                self.table.setItem(row, column, item)
        best = cheapest(ways)
        if best is not None and not sip.isdeleted(self.cheapest):
            self.cheapest.setText(f"The cheapest with the fewest faults: {best.name}, {plain(best.to_pay, 2)} to pay.")
        for way in ways:
            if way.trouble:
                self.problem.setText(way.trouble)
                self.problem.show()

    def add(self) -> None:
        name = self.name.text()
        if self.attempt(lambda: (add_alternative(self.document.show, name)[0], f"add the way {name.strip()}")):
            self.name.clear()

    def enter(self, way: Alternative) -> None:
        """A way that was suggested becomes one of the show's."""
        show = self.document.show
        kept = show.evolve(alternatives=(*show.alternatives, way))
        self.attempt(lambda: (kept, f"add the way {way.name}"))

    def add_line(self, id: str, line: str) -> None:
        self.attempt(lambda: (add_line(self.document.show, id, line), "change another way"))

    def _add_typed(self, id: str, line: QLineEdit) -> None:
        self.add_line(id, line.text())

    def remove_line(self, id: str, at: int) -> None:
        self.attempt(lambda: (remove_line(self.document.show, id, at), "change another way"))

    def remove(self, id: str) -> None:
        self.attempt(lambda: (remove_alternative(self.document.show, id), "remove another way"))

    def take(self, id: str) -> None:
        name = next(a.name for a in self.document.show.alternatives if a.id == id)
        self.attempt(lambda: (take(self.document.show, id), f"take the way {name}"))


def _table() -> QTableWidget:
    table = QTableWidget(len(ROWS), 0)
    table.setAccessibleName("Ways beside each other")
    table.setVerticalHeaderLabels([title for title, _ in ROWS])
    table.setFrameShape(QFrame.Shape.NoFrame)
    table.setEditTriggers(QAbstractItemView.EditTrigger.NoEditTriggers)
    header, rows = table.horizontalHeader(), table.verticalHeader()
    assert header is not None and rows is not None
    header.setSectionResizeMode(QHeaderView.ResizeMode.ResizeToContents)
    header.setMinimumSectionSize(120)
    rows.setDefaultSectionSize(24)
    table.setFixedHeight(24 * len(ROWS) + 30)
    return table
