"""The patch line: type what goes where, with completion; Enter does it, undo takes it back."""

from PyQt6.QtWidgets import QFrame, QHBoxLayout, QLabel

from kymaton.app.document import Document
from kymaton.app.theme.theme import THEME, figures, tokens
from kymaton.app.widgets.basic import label
from kymaton.app.widgets.completing import CompletingLine
from kymaton.core.model import ShowError
from kymaton.language.commands import ALL, suggestions
from kymaton.language.patch import Patch
from kymaton.language.script import build, read_any

HINT = "type what goes where: table mic > desk 1. Or: add desk 16 in 6 aux"


class PatchLine(QFrame):
    """A line with its hint: the lead it takes, or why it cannot be done."""

    def __init__(self, document: Document) -> None:
        super().__init__()
        self.document = document
        self.setObjectName("card")
        layout = QHBoxLayout(self)
        layout.setContentsMargins(12, 2, 12, 2)
        layout.setSpacing(10)
        self.word = label("patch", "strong")
        layout.addWidget(self.word)
        self.line = CompletingLine(lambda text: suggestions(document.show, text))
        self.line.setFrame(False)
        self.line.setPlaceholderText(HINT)
        self.line.setAccessibleName("Patch line")
        self.line.setToolTip("Patch by typing (Ctrl+P); Tab completes, Enter does it")
        layout.addWidget(self.line, 3)
        self.hint: QLabel = label("", "small")
        self.hint.setWordWrap(True)
        self.hint.hide()
        layout.addWidget(self.hint, 3)
        self.line.textChanged.connect(lambda _: self._tell())
        self.line.returnPressed.connect(self.act)
        self.line.other_way.connect(lambda: self.act(other=True))
        self.line.lines_pasted.connect(self.act_all)
        THEME.changed.connect(self._dress)
        self._dress()

    def _dress(self) -> None:
        self.line.setFont(figures(13))
        self.line.setStyleSheet("QLineEdit { background: transparent; border: none; padding: 5px 0; }")
        self.word.setStyleSheet(f"color: {tokens().wave}; font-weight: 600;")

    def read(self, other: bool = False) -> Patch | None:
        """What the line would do; None when it is empty or cannot be done, which the hint then says."""
        try:
            return self._read(other) if self.line.text().strip() else None
        except ShowError:
            return None

    def _read(self, other: bool) -> Patch:
        """What the line does, or with `other`: in the cue in view instead of in all, or the other way round."""
        show, cue, text = self.document.show, self.document.cue_id, self.line.text()
        patch = read_any(show, text, cue)
        if other and patch.where and cue is not None:
            return read_any(show, text, cue, here=patch.where.startswith(ALL))
        return patch

    def _tell(self) -> None:
        patch = self.read()
        parts = [f"takes {', '.join(patch.needs)}"] if patch and patch.needs else []
        if patch is not None and patch.where:
            parts.append(patch.where)
            other = self.read(other=True)
            if other is not None and other.where != patch.where:
                parts.append(f"Alt+Enter: {other.where}")
        self._say(" \u00b7 ".join(parts), wrong=False)

    def _say(self, text: str, wrong: bool) -> None:
        self.hint.setText(text)
        self.hint.setVisible(bool(text))
        self.hint.setStyleSheet(f"color: {tokens().fault if wrong else tokens().soft};")

    def act(self, other: bool = False) -> None:
        """Do what the line says; when it cannot be done, say why and leave the line."""
        text = self.line.text()
        if not text.strip():
            return
        try:
            patch = self._read(other)
        except ShowError as error:
            self._go_on(text, str(error))
            return
        self._done(patch)

    def _done(self, patch: Patch) -> None:
        self.document.edit(patch.show, f"{patch.text} {patch.where}".strip())
        self.line.clear()
        self._say(f"{patch.text[:1].upper()}{patch.text[1:]} {patch.where}".strip(), wrong=False)

    def act_all(self, lines: list[str]) -> None:
        """Do many lines as one step; when one of them cannot be done, none is."""
        try:
            show = build(lines, self.document.show)
        except ShowError as error:
            self._say(f"Nothing was taken: {error}", wrong=True)
            return
        self._done(Patch(show, f"do {len(lines)} lines"))

    def _go_on(self, text: str, why: str) -> None:
        """What was not understood: done as the one way in which it may go on; else said, and typing replaces it."""
        ways = suggestions(self.document.show, text)
        only = ways[0] if len(ways) == 1 else ""
        if only and only.strip().lower() != text.strip().lower():
            self.line.take(only)
            if not only.endswith(" "):  # else more is to be typed
                self.act()
            return
        self._say(why, wrong=True)
        self.line.selectAll()

    def begin(self, text: str) -> None:
        """Put words into the line, to go on from there."""
        self.line.setText(text)
        self.line.setFocus()
