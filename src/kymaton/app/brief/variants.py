"""Variants of the rig: made by lines, shown as differences, compared side by side."""

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QFrame, QHBoxLayout, QLineEdit, QScrollArea, QVBoxLayout, QWidget

from kymaton.app.document import Document
from kymaton.app.theme.theme import THEME
from kymaton.app.widgets.basic import button, empty, label
from kymaton.catalogue.variants import add_difference, add_variant, compare, differences, remove_variant
from kymaton.core.model import ShowError


class VariantPanel(QWidget):
    """A card for each variant: what differs, what it brings and cures, and a line to add a difference."""

    closed = pyqtSignal()

    def __init__(self, document: Document) -> None:
        super().__init__()
        self.document = document
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(8)
        head = QHBoxLayout()
        head.addWidget(label("Variants of this rig", "heading"))
        self.name = QLineEdit()
        self.name.setPlaceholderText("name of a new variant: Venue, Small team")
        self.name.setAccessibleName("Name of a new variant")
        self.name.returnPressed.connect(self.add)
        head.addWidget(self.name, 1)
        head.addWidget(button("Back", self.closed.emit, "quiet", "Back to the tables"))
        layout.addLayout(head)
        self.problem = label("", "problem", wrap=True)
        self.problem.hide()
        layout.addWidget(self.problem)
        area = QScrollArea()
        area.setFrameShape(QFrame.Shape.NoFrame)
        area.setWidgetResizable(True)
        inside = QWidget()
        self.cards = QVBoxLayout(inside)
        self.cards.setContentsMargins(0, 0, 8, 0)
        area.setWidget(inside)
        layout.addWidget(area, 1)
        document.report_changed.connect(self.refresh)
        THEME.changed.connect(self.refresh)

    def refresh(self) -> None:
        if not self.isVisible():
            return
        empty(self.cards)
        show, report = self.document.show, self.document.report
        compared = compare(report) if report is not None else []
        for number, variant in enumerate(show.variants):
            card = QFrame()
            card.setObjectName("card")
            inside = QVBoxLayout(card)
            row = QHBoxLayout()
            row.addWidget(label(variant.name, "strong"))
            row.addStretch(1)
            if number < len(compared):
                beside = compared[number]
                row.addWidget(label(f"{beside.faults} faults, {beside.plain_faults} without it", "figures"))
            row.addWidget(button("Remove", lambda id=variant.id: self.remove(id), "quiet"))
            inside.addLayout(row)
            for line in differences(show, variant) or ["It differs in nothing yet."]:
                inside.addWidget(label(line, "", wrap=True))
            if number < len(compared):
                for word, sentences in (("Brings", compared[number].brings), ("Cures", compared[number].cures)):
                    for sentence in sentences:
                        inside.addWidget(label(f"{word}: {sentence}", "small", wrap=True))
            line_ = QLineEdit()
            line_.setPlaceholderText("what differs: set desk 1 to muted. Or: disconnect camera a")
            line_.setAccessibleName(f"Difference of {variant.name}")
            line_.returnPressed.connect(lambda id=variant.id, line_=line_: self.differ(id, line_.text()))
            inside.addWidget(line_)
            self.cards.addWidget(card)
        if not show.variants:
            text = "A variant is the same rig with a few settings or leads changed: lesson or stream, home or venue."
            self.cards.addWidget(label(text, "soft", wrap=True))
        self.cards.addStretch(1)

    def _try(self, edit, text: str) -> bool:  # type: ignore[no-untyped-def]
        try:
            show = edit()
        except ShowError as error:
            self.problem.setText(str(error))
            self.problem.show()
            return False
        self.problem.hide()
        self.document.edit(show, text)
        return True

    def add(self) -> None:
        name = self.name.text()
        if self._try(lambda: add_variant(self.document.show, name)[0], f"add the variant {name.strip()}"):
            self.name.clear()

    def remove(self, id: str) -> None:
        self._try(lambda: remove_variant(self.document.show, id), "remove a variant")

    def differ(self, id: str, line: str) -> None:
        self._try(lambda: add_difference(self.document.show, id, line), "change a variant")
