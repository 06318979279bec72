"""One cue: the picture on air, what is done by hand and in how much time, who must see what."""

from functools import partial

from PyQt6.QtWidgets import QCheckBox, QComboBox, QHBoxLayout, QLineEdit

from kymaton.app.brief.page import SidePage, typed_line
from kymaton.app.document import Document
from kymaton.app.widgets.basic import button, label
from kymaton.core.edits.cues import put_cue
from kymaton.core.model import Cue, PictureWish, Show, ShowError
from kymaton.core.words import joined, number, sentence
from kymaton.language.hand_actions import add_hand_action, hand_line, recall_line, remove_hand_action, remove_recalls
from kymaton.language.picture_wishes import add_picture_wish, picture_wish_text, remove_picture_wish


def pictures_on_air(show: Show) -> list[str]:
    """Inputs of switchers: what can be on air."""
    return list(dict.fromkeys(f"{r.on_air}" for d in show.devices for r in d.routes if r.on_air is not None))


def by_note(cue: Cue) -> bool:
    """Whether a cue is before air because its note says so."""
    return cue.is_before_air and not cue.before_air


class CuePanel(SidePage):
    """What belongs to the current cue and not to the rig."""

    def __init__(self, document: Document) -> None:
        super().__init__(document, "")
        self.head.addStretch(1)
        self.finish_head()
        self.on_air = QComboBox()
        self.time = QLineEdit()
        self.hands = QLineEdit()
        self.pictures = QLineEdit()
        document.cue_changed.connect(self.refresh)

    def fill(self) -> None:
        show, id = self.document.show, self.document.cue_id
        if id is None:
            self.title.setText("There is no cue yet")
            self.cards.addWidget(label("Add a cue first: then its picture and its actions are told here.", "soft"))
            return
        cue = show.cue(id)
        self.title.setText(f"In the cue {cue.name}")
        self._on_air_card(cue.on_air)
        inside = self.card()
        inside.addWidget(label("By hand", "strong"))
        row = QHBoxLayout()
        row.addWidget(label("Time for the change, s", "small"))
        self.time = QLineEdit(number(cue.change_s))
        self.time.setAccessibleName("Time for the change in seconds")
        self.time.setFixedWidth(70)
        self.time.editingFinished.connect(partial(self.set_time, id))
        row.addWidget(self.time)
        row.addStretch(1)
        inside.addLayout(row)
        for at in range(len(cue.hand_actions)):
            step = QHBoxLayout()
            step.addWidget(label(hand_line(show, id, at), "", wrap=True), 1)
            step.addWidget(button("Remove", partial(self.remove_action, at), "quiet"))
            inside.addLayout(step)
        if cue.recalls:
            step = QHBoxLayout()
            step.addWidget(label(sentence(recall_line(show, cue.recalls)), "", wrap=True), 1)
            step.addWidget(button("Remove", self.remove_recalls, "quiet"))
            inside.addLayout(step)
        left = show.left_by_hand(id)
        if left:
            names = joined(show.control(c).name for c in left)
            inside.addWidget(label(f"As a hand left it before: {names}.", "small", wrap=True))
        self.hands = typed_line(
            "who does what: Quill connects camera b to switcher HDMI 3, 20 s. Also: mutes, moves, turns; recall desk",
            "Add something that is done by hand",
            lambda line: self.add_action(line.text()),
        )
        inside.addWidget(self.hands)
        inside = self.card()
        inside.addWidget(label("Who must see what", "strong"))
        for wish in show.picture_plan:
            if wish.cues and id not in wish.cues:
                continue
            step = QHBoxLayout()
            scope = "in this cue" if wish.cues else "in all cues"
            step.addWidget(label(f"{picture_wish_text(show, wish)}, {scope}", "", wrap=True), 1)
            step.addWidget(button("Remove", partial(self.remove_wish, wish), "quiet"))
            inside.addLayout(step)
        self.pictures = typed_line(
            "who sees what: Ilse must see switcher programme. Or: Teo must not see slides",
            "Add a wish about a picture",
            lambda line: self.add_wish(line.text()),
        )
        inside.addWidget(self.pictures)
        row = QHBoxLayout()
        row.addStretch(1)
        row.addWidget(button("In all cues", lambda: self.add_wish(self.pictures.text(), True), "quiet"))
        inside.addLayout(row)

    def _on_air_card(self, on_air: str | None) -> None:
        show = self.document.show
        inside = self.card()
        row = QHBoxLayout()
        row.addWidget(label("Picture on air", "strong"))
        self.on_air = QComboBox()
        self.on_air.setAccessibleName("Picture on air in this cue")
        self.on_air.addItem("none", None)
        feeding = {c.target: c.source for c in show.cables}
        for port in pictures_on_air(show):
            source = f", {show.port_label(feeding[port])}" if port in feeding else ""
            self.on_air.addItem(f"{show.port_label(port)}{source}", port)
        self.on_air.setCurrentIndex(max(0, self.on_air.findData(on_air)))
        self.on_air.activated.connect(lambda _: self.set_on_air(self.on_air.currentData()))
        row.addWidget(self.on_air, 1)
        inside.addLayout(row)
        self.before_air = QCheckBox("Before air: nobody outside hears the talk yet")
        self.before_air.setChecked(show.cue(self._cue).is_before_air)
        self.before_air.setEnabled(not by_note(show.cue(self._cue)))
        self.before_air.setToolTip("Its note says so" if by_note(show.cue(self._cue)) else "")
        self.before_air.toggled.connect(self.set_before_air)
        inside.addWidget(self.before_air)

    @property
    def _cue(self) -> str:
        assert self.document.cue_id is not None
        return self.document.cue_id

    def set_on_air(self, port: str | None) -> None:
        show = self.document.show
        cue = show.cue(self._cue)
        if port != cue.on_air:
            changed = put_cue(show, cue.evolve(on_air=port))
            self.attempt(lambda: (changed, f"change the picture of {cue.name}"))

    def set_before_air(self, on: bool) -> None:
        show = self.document.show
        cue = show.cue(self._cue)
        after = put_cue(show, cue.evolve(before_air=on))
        self.attempt(lambda: (after, f"{cue.name} is {'before air' if on else 'on air'}"))

    def set_time(self, id: str) -> None:
        """Take the time that was typed for a cue, if that is still there."""
        show, text = self.document.show, self.time.text().strip().removesuffix("s").strip()
        cue = next((c for c in show.cues if c.id == id), None)
        if cue is None:
            return
        if text == number(cue.change_s):
            return

        def edit() -> tuple[Show, str]:
            try:
                seconds = float(text)
            except ValueError:
                raise ShowError(f"'{text}' is not a number of seconds.") from None
            if not 0 <= seconds < 86_400:
                raise ShowError("The time for a change is between 0 s and a day.")
            return put_cue(show, cue.evolve(change_s=seconds)), f"change the time of {cue.name}"

        self.attempt(edit)

    def add_action(self, line: str) -> None:
        self.attempt(lambda: add_hand_action(self.document.show, self._cue, line))

    def remove_action(self, at: int) -> None:
        self.attempt(lambda: (remove_hand_action(self.document.show, self._cue, at), "remove what is done by hand"))

    def remove_recalls(self) -> None:
        self.attempt(lambda: (remove_recalls(self.document.show, self._cue), "recall no scene"))

    def add_wish(self, line: str, everywhere: bool = False) -> None:
        self.attempt(lambda: add_picture_wish(self.document.show, line, None if everywhere else self._cue))

    def remove_wish(self, wish: PictureWish) -> None:
        self.attempt(lambda: (remove_picture_wish(self.document.show, wish), "remove a wish about a picture"))
