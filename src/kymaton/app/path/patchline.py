"""The patch line: type what goes where, with completion; Enter does it, undo takes it back."""

from PyQt6.QtWidgets import QFrame, QHBoxLayout, QLabel

from kymaton.app.document import Document
from kymaton.app.theme.theme import THEME, figures, tokens
from kymaton.app.widgets.basic import label
from kymaton.app.widgets.completing import CompletingLine
from kymaton.core.model import ShowError
from kymaton.language.commands import read_command, suggestions
from kymaton.language.patch import Patch

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
        layout.addWidget(self.line, 1)
        self.hint: QLabel = label("", "small")
        layout.addWidget(self.hint)
        self.line.textChanged.connect(lambda _: self._tell())
        self.line.returnPressed.connect(self.act)
        THEME.changed.connect(self._dress)
        self._dress()

    def _dress(self) -> None:
        self.line.setFont(figures(13))
        self.line.setStyleSheet("QLineEdit { background: transparent; border: none; padding: 5px 0; }")
        self.word.setStyleSheet(f"color: {tokens().wave}; font-weight: 600;")

    def read(self) -> Patch | None:
        """What the line would do; None when it is empty or cannot be done, which the hint then says."""
        if not self.line.text().strip():
            return None
        try:
            return read_command(self.document.show, self.line.text(), self.document.cue_id)
        except ShowError:
            return None

    def _tell(self) -> None:
        patch = self.read()
        needs = f"takes {', '.join(patch.needs)}" if patch and patch.needs else ""
        self._say(needs, wrong=False)

    def _say(self, text: str, wrong: bool) -> None:
        self.hint.setText(text)
        self.hint.setStyleSheet(f"color: {tokens().fault if wrong else tokens().soft};")

    def act(self) -> None:
        """Do what the line says; when it cannot be done, say why and leave the line."""
        text = self.line.text()
        if not text.strip():
            return
        try:
            patch = read_command(self.document.show, text, self.document.cue_id)
        except ShowError as error:
            self._go_on(text, str(error))
            return
        self.document.edit(patch.show, patch.text)
        self.line.clear()
        self._say(patch.text[:1].upper() + patch.text[1:], wrong=False)

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
