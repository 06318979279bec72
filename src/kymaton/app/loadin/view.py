"""The step Load-in: budgets, an uplink over time, the sheets, and what to do when the day changes."""

from PyQt6.QtWidgets import QHBoxLayout, QStackedWidget, QVBoxLayout

from kymaton.app.document import Document
from kymaton.app.loadin.budgets import BudgetsPage
from kymaton.app.loadin.day import DayPage
from kymaton.app.loadin.known import KnownPage
from kymaton.app.loadin.sheets import SheetsPage
from kymaton.app.loadin.uplink import UplinkPage
from kymaton.app.settings import Settings
from kymaton.app.theme.theme import tokens
from kymaton.app.widgets.basic import Page, StepView, head_with_tabs, label
from kymaton.app.widgets.completing import CompletingLine
from kymaton.core.errors import ShowError
from kymaton.language.load_offers import load_offers
from kymaton.language.script import read_any

EXAMPLES = "strip A gives 10 A · stock 4 XLR 10 m · run Stage to Desk 12 m, 2 corners · desk is from Anna"


TABS = (
    ("budgets", "Budgets", "Whether it all fits"),
    ("uplink", "Uplink over time", "What becomes of the stream over a line that varies"),
    ("sheets", "Sheets", "What is printed, ticked and carried"),
    ("known", "What is known", "What was said of strips, runs, leads and sockets"),
    ("day", "The day changes", "How to go on when something did not come or is dead"),
)


class LoadInView(StepView):
    """Tabs above, a line to say what is known, the chosen page below."""

    def __init__(self, document: Document, settings: Settings) -> None:
        super().__init__()
        self.document = document
        layout = QVBoxLayout(self)
        layout.setContentsMargins(20, 12, 16, 10)
        layout.setSpacing(8)
        head, self.tabs = head_with_tabs("Load-in", TABS, self.show_page)
        layout.addLayout(head)
        row = QHBoxLayout()
        row.addWidget(label("Say what you know", "soft"))
        self.say = CompletingLine(lambda text: load_offers(document.show, text))
        self.say.setAccessibleName("Say what you know about the load-in")
        self.say.setPlaceholderText(EXAMPLES)
        self.say.returnPressed.connect(self._said)
        row.addWidget(self.say, 1)
        layout.addLayout(row)
        self.answer = label("", "small", wrap=True)
        self.answer.hide()
        layout.addWidget(self.answer)
        document.show_changed.connect(self.answer.hide)  # what undo takes back is another step then
        self.pages = QStackedWidget()
        self.budgets, self.uplink = BudgetsPage(document), UplinkPage(document, settings)
        self.sheets, self.known, self.day = SheetsPage(document, settings), KnownPage(document), DayPage(document)
        self.known.chosen.connect(self._say_again)
        self.shown: dict[str, Page] = {
            "budgets": self.budgets, "uplink": self.uplink, "sheets": self.sheets, "known": self.known, "day": self.day,
        }  # fmt: skip
        for page in self.shown.values():
            self.pages.addWidget(page)
        layout.addWidget(self.pages, 1)
        self.page = "budgets"
        self.show_page("budgets")

    def show_page(self, page: str) -> None:
        """One of the tabs."""
        self.page = page
        for name, tab in self.tabs.items():
            tab.setChecked(name == page)
        self.pages.setCurrentWidget(self.shown[page])

    def focus_first(self) -> None:
        self.shown[self.page].focus_first()

    def stop(self) -> None:
        """Nothing runs any more: the window is closed."""
        for page in self.shown.values():
            page.stop()

    def _say_again(self, line: str) -> None:
        """A line that was said is put up, to be changed."""
        self.say.setText(line)
        self.say.setFocus()

    def _said(self) -> None:
        """A line that says something of the load-in, or anything that a line can say."""
        document, text = self.document, self.say.text().strip()
        if not text:
            return
        try:
            patch = read_any(document.show, text)
        except ShowError as error:
            self._answer(str(error), wrong=True)
            return
        document.edit(patch.show, patch.text)
        self._answer(f"Said: {patch.text}. Undo takes it back.")
        self.say.clear()

    def _answer(self, text: str, wrong: bool = False) -> None:
        self.answer.setText(text)
        self.answer.setStyleSheet(f"color: {tokens().fault if wrong else tokens().soft};")
        self.answer.show()
