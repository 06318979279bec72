"""Variants of the rig: made by lines, shown as differences, compared side by side."""

from functools import partial
from typing import TYPE_CHECKING

from PyQt6.QtWidgets import QHBoxLayout, QLineEdit

from kymaton.app.brief.page import SidePage, typed_line
from kymaton.app.document import Document
from kymaton.app.widgets.basic import button, label
from kymaton.core.checks.report import Card
from kymaton.core.words import counted
from kymaton.language.variants import add_difference, add_variant, compare, differences, remove_variant

if TYPE_CHECKING:
    from kymaton.core.planning.fixes import Fix


class VariantPanel(SidePage):
    """A card for each variant: what differs, what it brings and cures, and a line to add a difference."""

    def __init__(self, document: Document) -> None:
        super().__init__(document, "Variants of this rig")
        self.name = typed_line(
            "name of a new variant: Venue, Small team", "Name of a new variant", lambda _: self.add()
        )
        self.head.addWidget(self.name, 1)
        self.finish_head()

    def fill(self) -> None:
        show, report = self.document.show, self.document.report
        compared = compare(report) if report is not None else []
        for number, variant in enumerate(show.variants):
            inside = self.card()
            row = QHBoxLayout()
            row.addWidget(label(variant.name, "strong"))
            row.addStretch(1)
            if number < len(compared):
                beside = compared[number]
                row.addWidget(label(f"{counted(beside.faults, 'fault')}, {beside.plain_faults} without it", "figures"))
            row.addWidget(button("Remove", partial(self.remove, variant.id), "quiet"))
            inside.addLayout(row)
            for line in differences(show, variant) or ["It differs in nothing yet."]:
                inside.addWidget(label(line, "", wrap=True))
            if number < len(compared):
                for sentence in compared[number].cures:
                    inside.addWidget(label(f"Cures: {sentence}", "small", wrap=True))
            for card in report.cards_of_variants if report is not None else ():
                if card.first.variant == variant.id and card.severity != "note":
                    inside.addLayout(self._brought(card))
            inside.addWidget(
                typed_line(
                    "what differs: set desk 1 to muted. Or: disconnect camera a; add, remove, connect",
                    f"Difference of {variant.name}",
                    partial(self._differ_typed, variant.id),
                )
            )
        if not show.variants:
            text = (
                "A variant is the rig with a few settings, leads or devices changed: lesson or stream, home or venue, "
                "rain or shine."
            )
            self.cards.addWidget(label(text, "soft", wrap=True))

    def _brought(self, card: Card) -> QHBoxLayout:
        """What a variant brings, with a button that cures it there, where something does."""
        row = QHBoxLayout()
        cue = self.document.show.cue(card.first.cue).name if card.first.cue is not None else "Rig"
        row.addWidget(label(f"Brings, {card.severity}: {cue}: {card.sentence}", "small", wrap=True), 1)
        fix = button("", lambda: None, "quiet")
        fix.hide()
        row.addWidget(fix)

        def offer(found: "Fix | None") -> None:
            if found is not None:
                fix.setText(found.title)
                fix.clicked.connect(lambda: self.document.apply(found.changes, found.title))
                fix.show()

        if card.severity == "fault":
            self.document.find_fix(card, offer)
        return row

    def add(self) -> None:
        name = self.name.text()
        if self.attempt(lambda: (add_variant(self.document.show, name)[0], f"add the variant {name.strip()}")):
            self.name.clear()

    def remove(self, id: str) -> None:
        self.attempt(lambda: (remove_variant(self.document.show, id), "remove a variant"))

    def _differ_typed(self, id: str, line: QLineEdit) -> None:
        self.differ(id, line.text())

    def differ(self, id: str, line: str) -> None:
        self.attempt(lambda: (add_difference(self.document.show, id, line), "change a variant"))
