"""Who sounds when: sounds down, cues across. What is silent in a cue is missed by nobody there."""

from PyQt6.QtCore import QModelIndex, Qt

from kymaton.app.brief.page import SidePage
from kymaton.app.brief.plan import Cell, DecisionModel, DecisionTable
from kymaton.app.document import Document
from kymaton.app.widgets.basic import label
from kymaton.core.edits.cues import set_sounding
from kymaton.core.model import Show
from kymaton.core.model.cues import Sounding

NEXT: dict[Sounding | None, Sounding] = {
    None: "sounds", "sounds": "may sound", "may sound": "silent", "silent": "sounds",
}  # fmt: skip
SAID: dict[Sounding | None, str] = {"sounds": "sounds", "may sound": "may", "silent": "silent", None: "\N{EN DASH}"}
TOLD: dict[Sounding | None, str] = {
    "sounds": "{} sounds in {}: whoever must hear it has to hear it.",
    "may sound": "{} may sound in {}: not to hear it is a caution, not a fault.",
    "silent": "{} is silent in {}: nobody misses it, and nothing of it leaks.",
    None: "Nobody has said whether {} sounds in {}: it is missed where some hear it and others do not.",
}
HINT = "Space says whether a sound sounds, may sound or is silent in a cue; Delete takes it back."
NOTHING = "Add sounds and cues first: then it is told here who sounds when."


class SoundingModel(DecisionModel):
    """Whether each sound sounds in each cue."""

    def rowCount(self, parent: QModelIndex | None = None) -> int:
        return len(self.document.show.sounds)

    def columnCount(self, parent: QModelIndex | None = None) -> int:
        return len(self.document.show.cues)

    def _now(self, show: Show, cell: Cell) -> Sounding | None:
        return show.sounding(show.sounds[cell[0]].id, show.cues[cell[1]].id)

    def text(self, cell: Cell) -> str:
        return SAID[self._now(self.document.show, cell)]

    def told(self, cell: Cell) -> str:
        show = self.document.show
        return TOLD[self._now(show, cell)].format(show.sounds[cell[0]].name, show.cues[cell[1]].name)

    def is_decided(self, cell: Cell) -> bool:
        return self._now(self.document.show, cell) is not None

    def is_strong(self, cell: Cell) -> bool:
        return self._now(self.document.show, cell) == "sounds"

    def next(self, show: Show, cells: list[Cell], at: Cell) -> Show:
        told = NEXT[self._now(show, at)]
        for row, column in cells:
            show = set_sounding(show, show.cues[column].id, [show.sounds[row].id], told)
        return show

    def default(self, show: Show, cell: Cell) -> Show:
        return set_sounding(show, show.cues[cell[1]].id, [show.sounds[cell[0]].id], None)

    def headerData(self, section: int, orientation: Qt.Orientation, role: int = Qt.ItemDataRole.DisplayRole) -> object:
        if role != Qt.ItemDataRole.DisplayRole:
            return None
        show = self.document.show
        return (show.cues if orientation == Qt.Orientation.Horizontal else show.sounds)[section].name


class SoundingPanel(SidePage):
    """The table, in place of the tables of the brief."""

    def __init__(self, document: Document) -> None:
        super().__init__(document, "Who sounds when")
        self.head.addStretch(1)
        self.finish_head()
        self.hint = label(HINT, "small", wrap=True)
        self.table = DecisionTable(
            document,
            SoundingModel(document),
            "Who sounds when: sounds down, cues across",
            "say whether a sound sounds",
            "sounds in cues",
        )
        self.put_in_place_of_cards(self.hint, self.table)

    def refresh(self) -> None:
        cues, sounds = self.document.show.cues, self.document.show.sounds
        self.table.setVisible(bool(cues and sounds))
        self.hint.setText(
            HINT if cues and sounds else "Add sounds and cues first: then it is told here who sounds when."
        )
