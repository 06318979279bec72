"""The step Levels: ladders and tables of what is to be expected, the soundcheck, and recordings that are measured."""

from pathlib import Path

from PyQt6.QtWidgets import QStackedWidget, QVBoxLayout

from kymaton.app.document import Document
from kymaton.app.levels.expected import ExpectedPage
from kymaton.app.levels.gains import GainsView
from kymaton.app.levels.meter import MeterPage
from kymaton.app.levels.recordings import RecordingsPage
from kymaton.app.levels.soundcheck import SoundcheckPage
from kymaton.app.widgets.basic import StepView, button, head_with_tabs

TABS = (
    ("sound", "One sound", "Its stages, between what clips and what hisses"),
    ("listener", "One listener", "Every sound that comes there"),
    ("device", "One device", "What comes into it, and what it takes"),
    ("soundcheck", "Soundcheck", "Input by input: what to ask for, and where the meter lands"),
    ("meter", "Meter", "Loudness while it sounds"),
    ("recordings", "Recordings", "Loudness of what was recorded, and what is wrong with it"),
)


class LevelsView(StepView):
    """Tabs above, the chosen page below; the gains that are proposed take the place of the page."""

    def __init__(self, document: Document) -> None:
        super().__init__()
        self.document = document
        layout = QVBoxLayout(self)
        layout.setContentsMargins(20, 12, 16, 10)
        layout.setSpacing(8)
        head, self.tabs = head_with_tabs("Levels", TABS, self.show_page)
        self.gains_button = button(
            "Propose gains", self.propose, "", "Gains and faders for which nothing clips or hisses"
        )
        head.addWidget(self.gains_button)
        layout.addLayout(head)
        self.pages = QStackedWidget()
        self.expected = ExpectedPage(document)
        self.gains = GainsView(document)
        self.gains.closed.connect(lambda: self.show_page(self.page))
        self.recordings = RecordingsPage(document)
        self.soundcheck = SoundcheckPage(document)
        self.meter = MeterPage(document)
        self.others: dict[str, RecordingsPage | SoundcheckPage | MeterPage] = {
            "recordings": self.recordings,
            "soundcheck": self.soundcheck,
            "meter": self.meter,
        }
        for widget in (self.expected, self.gains, *self.others.values()):
            self.pages.addWidget(widget)
        layout.addWidget(self.pages, 1)
        self.page = "sound"
        self.expected.sound_opened.connect(lambda: self.show_page("sound"))
        self.show_page("sound")

    def show_page(self, page: str) -> None:
        """One of the tabs."""
        self.page = page
        for name, tab in self.tabs.items():
            tab.setChecked(name == page)
        if page in self.others:
            self.pages.setCurrentWidget(self.others[page])
            self.others[page].refresh()
        else:
            self.pages.setCurrentWidget(self.expected)
            self.expected.show_page(page)

    def focus_first(self) -> None:
        self.others.get(self.page, self.expected).focus_first()

    def dropped(self, paths: list[Path]) -> None:
        """Recordings that were dropped on the window."""
        self.show_page("recordings")
        self.recordings.add(paths)

    def stop(self) -> None:
        """Nothing plays any more: the window is closed."""
        self.recordings.stop()
        self.meter.stop()

    def propose(self) -> None:
        """Look for gains to set."""
        for tab in self.tabs.values():
            tab.setChecked(False)
        self.pages.setCurrentWidget(self.gains)
        self.gains.propose()
