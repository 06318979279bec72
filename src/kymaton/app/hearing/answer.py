"""Questions in words, answered by the solver: who hears what, why, and what would be if."""

from functools import partial

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from kymaton.app.document import Document
from kymaton.app.widgets.basic import button, label, scrolled
from kymaton.app.widgets.completing import CompletingLine
from kymaton.app.work import Job
from kymaton.core.checks.report import Report
from kymaton.core.errors import ShowError
from kymaton.language.asking import Answer, ask, suggestions


class AnswerView(QWidget):
    """A line to ask in, and the answer below it; for `what if` the change can be made."""

    closed = pyqtSignal()

    def __init__(self, document: Document) -> None:
        super().__init__()
        self.document = document
        self.answer: Answer | None = None
        self.asked: tuple[str, str | None] | None = None
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 4, 0, 0)
        layout.setSpacing(6)
        head = QHBoxLayout()
        self.line = CompletingLine(self._offers)
        self.line.setPlaceholderText("who hears, what does hear, why does hear, when does hear, what if")
        self.line.setAccessibleName("Ask about who hears what")
        self.line.returnPressed.connect(lambda: self.ask(self.line.text()))
        head.addWidget(self.line, 1)
        self.make_so = button("Make it so", self._make_so, "main", "Change the show like that")
        self.make_so.hide()
        head.addWidget(self.make_so)
        head.addWidget(button("Close", self.closed.emit, "quiet", "Back to the lanes (Esc)"))
        layout.addLayout(head)
        self.title = label("", "heading", wrap=True)
        layout.addWidget(self.title)
        self.text = label("", "", wrap=True)
        layout.addWidget(scrolled(self.text), 1)
        document.report_changed.connect(self._again)

    def _offers(self, text: str) -> list[str]:
        words = text.lower().split()
        every = suggestions(self.document.show)
        begins = [s for s in every if s.lower().startswith(text.lower().strip())]
        return begins or [s for s in every if all(w in s.lower() for w in words)]

    def ask(self, question: str) -> None:
        """Answer a question about the cue in view."""
        if not question.strip():
            return
        self.line.setText(question)
        document = self.document
        self.asked = (question, document.cue_id)
        report, show, cue = document.report, document.show, document.cue_id

        def work(_: Job) -> Answer | ShowError:
            try:
                return ask(report or Report(show), question, cue)
            except ShowError as error:
                return error

        self.title.setText("Working it out")
        self.text.setText("")
        self.make_so.hide()
        document.work_out(("answer", *self.asked), work, partial(self._answered, self.asked))

    def _answered(self, asked: tuple[str, str | None], answer: Answer | ShowError) -> None:
        if asked != self.asked:
            return  # something else was asked meanwhile
        if isinstance(answer, ShowError):
            self.answer = None
            self.title.setText(str(answer))
            self.text.setText("")
            self.make_so.hide()
            return
        self.answer = answer
        self.title.setText(f"{self.answer.title}.")
        self.text.setText("\n".join(f"{line.rstrip('.')}." for line in self.answer.lines))
        self.make_so.setVisible(self.answer.show is not None and bool(self.answer.lines))

    def _again(self) -> None:
        """The show has changed: an answer that stands there is worked out anew."""
        if self.isVisible() and self.answer is not None and self.document.report is not None:
            self.ask(self.line.text())

    def _make_so(self) -> None:
        if self.answer is not None and self.answer.show is not None:
            changed = self.answer.show
            self.answer = None
            self.make_so.hide()
            self.document.edit(changed, self.line.text().strip().removeprefix("what if ").rstrip("?"))
