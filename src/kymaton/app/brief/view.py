"""The step Brief: who makes sounds, who listens, the cues, and who must hear what."""

import datetime
from functools import partial
from pathlib import Path

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import (
    QComboBox,
    QHBoxLayout,
    QLabel,
    QLineEdit,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from kymaton.app.brief.cue import CuePanel
from kymaton.app.brief.importing import ImportPanel
from kymaton.app.brief.page import SidePage
from kymaton.app.brief.people import PeoplePanel
from kymaton.app.brief.plan import PlanTable
from kymaton.app.brief.private import PrivatePanel
from kymaton.app.brief.rules import RulesPanel
from kymaton.app.brief.sounding import SoundingPanel
from kymaton.app.brief.tables import CUES, LISTENERS, SOUNDS, SheetTable
from kymaton.app.brief.variants import VariantPanel
from kymaton.app.brief.ways import WaysPanel
from kymaton.app.document import Document
from kymaton.app.theme.marks import icon
from kymaton.app.theme.theme import THEME, tokens
from kymaton.app.widgets.basic import StepView, button, label
from kymaton.core.edits.cues import add_cue, move_cue
from kymaton.core.formats import format_text, read_format
from kymaton.core.model import ShowError
from kymaton.core.model.policy import POLICIES, PolicyName
from kymaton.language.script import read_any
from kymaton.store.inputlist import read_input_list

BEGIN = (
    "Nobody takes part yet. Type a line and press Enter: the name first, then what they make and how they listen.\n"
    "Maren, voice, host \u00b7 Ilse, voice, guest, headphones \u00b7 Effects, playback, stereo \u00b7 Audience\n"
    "What comes of it stands in the tables, and can be changed there. Then wire it in Path."
)
POLICY_SAID: dict[PolicyName, str] = {
    "talk": "as in a talk", "music": "as in music", "lesson": "as in a lesson", "meeting": "as in a meeting",
}  # fmt: skip

HEAD = 30  # pixels: as high as a button, so that tables beside each other begin alike


def _heading(text: str) -> QHBoxLayout:
    row = QHBoxLayout()
    heading = label(text, "heading")
    heading.setMinimumHeight(HEAD)
    row.addWidget(heading)
    return row


class BriefView(StepView):
    """The brief of the open show."""

    def __init__(self, document: Document) -> None:
        super().__init__()
        self.document = document
        self.follows_cue = True
        layout = QVBoxLayout(self)
        layout.setContentsMargins(20, 12, 16, 10)
        layout.setSpacing(8)
        head = QHBoxLayout()
        head.addWidget(label("Who takes part", "title"))
        head.addSpacing(8)
        self.line = QLineEdit()
        self.line.setPlaceholderText("type a line: Maren, voice, host")
        self.line.setToolTip("Or: Effects, playback, stereo. Or: Camera A, camera. Enter adds it")
        self.line.setAccessibleName("Add a person, a sound or a listener")
        self.line.returnPressed.connect(self.add)
        head.addWidget(self.line, 1)
        head.addWidget(
            button(
                "People", lambda: self.open_page(self.people), "quiet", "People and places, and who hears whom in them"
            )
        )
        tip = "Groups of microphones, what cameras show, how late a sound may be, who controls what"
        tip_private = "By how few presses something private could get out, and how to make that impossible"
        head.addWidget(button("Private", lambda: self.open_page(self.private), "quiet", tip_private))
        head.addWidget(button("Rules", lambda: self.open_page(self.rules), "quiet", tip))
        head.addWidget(
            button("Variants", lambda: self.open_page(self.variants), "quiet", "The same rig with a few things changed")
        )
        head.addWidget(
            button("Other ways", lambda: self.open_page(self.ways), "quiet", "Weigh another way to solve something")
        )
        layout.addLayout(head)
        facts = QHBoxLayout()
        self.title, self.venue, self.date = QLineEdit(), QLineEdit(), QLineEdit()
        for word, line, field, width in (
            ("Title", self.title, "title", 230),
            ("Venue", self.venue, "venue", 220),
            ("Date", self.date, "date", 110),
        ):
            facts.addWidget(label(word, "small"))
            line.setAccessibleName(f"{word} of the show")
            line.setMaximumWidth(width)
            line.editingFinished.connect(lambda line=line, field=field: self.set_fact(field, line.text()))
            facts.addWidget(line, width)
        self.date.setPlaceholderText("2026-12-12")
        self.picture = QLineEdit()
        self.picture.setAccessibleName("Picture format of the show")
        self.picture.setToolTip("Height and frame rate: 1080p25, 720p59.94")
        self.picture.setMaximumWidth(96)
        self.picture.editingFinished.connect(self.set_picture)
        facts.addWidget(label("Picture", "small"))
        facts.addWidget(self.picture, 90)
        facts.addStretch(1)
        layout.addLayout(facts)
        self.hint: QLabel = label("", "small")
        self.hint.hide()
        layout.addWidget(self.hint)
        self.begin = label(BEGIN, "soft", wrap=True)
        layout.addWidget(self.begin)
        self.sounds, self.listeners = SheetTable(document, SOUNDS), SheetTable(document, LISTENERS)
        self.cues, self.plan = SheetTable(document, CUES), PlanTable(document)
        tables = QWidget()
        rows = QVBoxLayout(tables)
        rows.setContentsMargins(0, 0, 0, 0)
        rows.setSpacing(6)
        who = (self._headed(self._sound_head(), self.sounds), self._headed(_heading("Listeners"), self.listeners))
        what = (self._headed(self._cue_head(), self.cues), self._headed(self._plan_head(), self.plan))
        legend = label("In italics: by default. Space decides, Delete goes back.", "small", wrap=True)
        what[1].addWidget(legend)
        for (left, right), parts in ((who, (6, 5)), (what, (4, 6))):
            row = QHBoxLayout()
            row.setSpacing(18)
            row.addLayout(left, parts[0])
            row.addLayout(right, parts[1])
            rows.addLayout(row, 1)
        self.pages = QStackedWidget()
        self.importing = ImportPanel(document)
        self.importing.closed.connect(lambda: self.pages.setCurrentIndex(0))
        self.pages.addWidget(tables)
        self.pages.addWidget(self.importing)
        self.variants, self.ways, self.cue = VariantPanel(document), WaysPanel(document), CuePanel(document)
        self.people, self.sounding, self.rules = PeoplePanel(document), SoundingPanel(document), RulesPanel(document)
        self.private = PrivatePanel(document)
        for page in (self.people, self.sounding, self.rules, self.private, self.variants, self.ways, self.cue):
            page.closed.connect(lambda: self.pages.setCurrentIndex(0))
            self.pages.addWidget(page)
        layout.addWidget(self.pages, 1)
        document.show_changed.connect(self.refresh)
        document.cue_changed.connect(self.refresh)
        THEME.changed.connect(self.refresh)
        self.refresh()

    def focus_first(self) -> None:
        """The keyboard where work begins: the line that adds who takes part."""
        self.line.setFocus()

    def import_list(self, path: Path) -> None:
        """Show a CSV input list before it is taken in. Raises FileError."""
        self.importing.preview(read_input_list(path))
        self.pages.setCurrentWidget(self.importing)

    def _choose_scope(self) -> None:
        """All cues, or one: then the plan goes along when another cue is chosen above."""
        cue = self.scope.currentData()
        self.follows_cue = cue is not None
        if cue is not None and cue != self.document.cue_id:
            self.document.choose_cue(cue)
        self.plan.set_cue(cue)

    def open_page(self, page: SidePage) -> None:
        """Show a page in place of the tables."""
        self.pages.setCurrentWidget(page)
        page.refresh()

    def open_cue(self) -> None:
        """The page of the chosen cue, which becomes the current one."""
        for cue in self.cues.chosen()[:1]:
            self.document.choose_cue(cue.id)
        self.open_page(self.cue)

    def _headed(self, head: QHBoxLayout, table: QWidget) -> QVBoxLayout:
        column = QVBoxLayout()
        column.setSpacing(4)
        column.addLayout(head)
        column.addWidget(table, 1)
        return column

    def _sound_head(self) -> QHBoxLayout:
        row = _heading("Sounds")
        row.addStretch(1)
        tip = "Whether each sound sounds, may sound or is silent in each cue"
        row.addWidget(button("Who sounds when", lambda: self.open_page(self.sounding), "quiet", tip))
        return row

    def _cue_head(self) -> QHBoxLayout:
        row = _heading("Cues")
        row.setSpacing(2)
        row.addStretch(1)
        for text, act, tip in (
            ("Open", self.open_cue, "Picture on air, what is done by hand, who must see what"),
            ("Add", self.add_cue, "A cue at the end"),
            ("Copy", self.duplicate_cue, "A copy behind the chosen cue, its wishes too"),
        ):
            row.addWidget(button(text, act, "quiet", tip))
        self.arrows = {}
        for name, by, tip in (
            ("up", -1, "The chosen cue one place earlier (Ctrl+Shift+Up)"),
            ("down", 1, "The chosen cue one place later (Ctrl+Shift+Down)"),
        ):
            arrow = button("", partial(self.move_cue, by), "quiet", tip)
            arrow.setAccessibleName(tip)
            self.arrows[name] = arrow
            row.addWidget(arrow)
        return row

    def _plan_head(self) -> QHBoxLayout:
        row = _heading("Must hear")
        row.addStretch(1)
        self.policy, self.scope = QComboBox(), QComboBox()
        self.policy.setAccessibleName("What is expected by default, until somebody decides")
        for name, policy in POLICIES.items():
            self.policy.addItem(POLICY_SAID[name], name)
            self.policy.setItemData(self.policy.count() - 1, policy.about, Qt.ItemDataRole.ToolTipRole)
        self.policy.activated.connect(lambda _: self.set_policy(self.policy.currentData()))
        self.scope.setAccessibleName("Cue that the plan is shown for")
        self.scope.activated.connect(self._choose_scope)
        for box in (self.policy, self.scope):
            box.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
            box.setMinimumContentsLength(11)
            row.addWidget(box)
        return row

    def set_policy(self, name: PolicyName) -> None:
        """What is expected where nobody has decided."""
        show = self.document.show
        if name != show.policy:
            self.document.edit(show.evolve(policy=name), f"expect {POLICY_SAID[name].removeprefix('as in ')}")

    def refresh(self) -> None:
        show = self.document.show
        cue_id = self.document.cue_id if self.follows_cue else self.plan.plan.cue
        kept = cue_id if cue_id in [c.id for c in show.cues] else None
        self.scope.clear()
        self.scope.addItem("in all cues", None)
        for cue in show.cues:
            self.scope.addItem(f"in {cue.name}", cue.id)
        self.scope.setCurrentIndex(max(0, self.scope.findData(kept)))
        if kept != self.plan.plan.cue:
            self.plan.set_cue(kept)
        self.begin.setVisible(not show.sounds and not show.listeners)
        self.policy.setCurrentIndex(self.policy.findData(show.policy))
        self.policy.setToolTip(POLICIES[show.policy].about)
        for name, arrow in self.arrows.items():
            arrow.setIcon(icon(name, tokens().wave))
        facts = (show.title, show.venue, show.date, format_text(show.picture))
        for line, text in zip((self.title, self.venue, self.date, self.picture), facts, strict=True):
            if not line.hasFocus() or not line.isModified():
                line.setText(text)
                line.setCursorPosition(0)
        self.hint.setStyleSheet(f"color: {tokens().fault};")

    def _say(self, text: str) -> None:
        self.hint.setText(text)
        self.hint.setVisible(bool(text))

    def add(self) -> None:
        """Add what the line says; when it says too little, say so and leave it."""
        try:
            made = read_any(self.document.show, self.line.text())
        except ShowError as error:
            self._say(str(error))
            return
        self._say("")
        self.document.edit(made.show, made.text)
        self.line.clear()

    def add_cue(self) -> None:
        show, id = add_cue(self.document.show, f"Cue {len(self.document.show.cues) + 1}")
        self.document.edit(show, "add a cue")
        self._choose_cue(id)

    def duplicate_cue(self) -> None:
        for cue in self.cues.chosen()[:1]:
            show, id = add_cue(self.document.show, f"{cue.name} again", like=cue.id)
            self.document.edit(show, f"duplicate {cue.name}")
            self._choose_cue(id)

    def move_cue(self, by: int) -> None:
        for cue in self.cues.chosen()[:1]:
            at = [c.id for c in self.document.show.cues].index(cue.id)
            show = move_cue(self.document.show, cue.id, at + by)
            if [c.id for c in show.cues] != [c.id for c in self.document.show.cues]:
                self.document.edit(show, f"move {cue.name}")
            self._choose_cue(cue.id)

    def _choose_cue(self, id: str) -> None:
        row = [c.id for c in self.document.show.cues].index(id)
        self.cues.setCurrentIndex(self.cues.sheet_model.index(row, 0))

    def set_picture(self) -> None:
        """The picture format; one that is none is said and not taken."""
        show = self.document.show
        if self.picture.text().strip() == format_text(show.picture):
            return
        try:
            picture = read_format(self.picture.text())
        except ShowError as error:
            self._say(str(error))
            self.picture.setText(format_text(show.picture))
            return
        self._say("")
        self.document.edit(show.evolve(picture=picture), f"change the picture to {format_text(picture)}")

    def set_fact(self, field: str, text: str) -> None:
        """Title, venue or date of the show. A date that is none is said and not taken."""
        text = "".join(c if c.isprintable() else " " for c in text).strip()
        text = text or ("Untitled show" if field == "title" else "")
        if text == getattr(self.document.show, field):
            return
        if field == "date" and text:
            try:
                datetime.date.fromisoformat(text)
            except ValueError:
                self._say(f"'{text}' is not a date like 2026-12-12.")
                self.date.setText(self.document.show.date)
                return
        self._say("")
        self.document.edit(self.document.show.evolve(**{field: text}), f"change the {field}")
