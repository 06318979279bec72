"""The window: the steps with their views, the findings beside them, and the ways between them."""

from functools import cached_property
from pathlib import Path
from typing import TYPE_CHECKING, TypeVar

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QCloseEvent, QDragEnterEvent, QDropEvent, QResizeEvent
from PyQt6.QtWidgets import QToolButton

from kymaton.app.frame import Frame
from kymaton.app.settings import Settings
from kymaton.app.theme.marks import icon
from kymaton.app.theme.theme import THEME, tokens
from kymaton.app.widgets.basic import StepView, button

if TYPE_CHECKING:
    from kymaton.app.brief.view import BriefView
    from kymaton.app.document import Document
    from kymaton.app.hearing.view import HearingView
    from kymaton.app.levels.view import LevelsView
    from kymaton.app.listen import ListenBar
    from kymaton.app.loadin.view import LoadInView
    from kymaton.app.log.view import LogView
    from kymaton.app.path.view import PathView
    from kymaton.app.sync.view import SyncView
    from kymaton.app.widgets.finder import Finder
    from kymaton.app.widgets.working import WorkRow
    from kymaton.core.checks.report import Card

View = TypeVar("View", bound=StepView)
WITH_FINDINGS = ("path", "hearing", "levels", "sync", "load-in")  # steps in which something can be found
HELP = {
    "brief": (
        "Type a line to add who takes part: a name, what they make, how they listen. All tables can be typed in; "
        "Delete removes. The plan says who must hear what, for all cues or for one."
    ),
    "hearing": (
        "Sounds go down, listeners across. A disc is heard as planned, a dash silent as planned, a ring heard unasked; "
        "every other shape is a finding. Space changes the wish of a cell in this cue. A name above opens its lanes."
    ),
    "sync": (
        "The picture stands at 0. A ring is the sound as it is, a disc the sound with the proposed delays; the whisker "
        "is its uncertainty, the bracket the window that is allowed. Sound that is early is cured by delaying it. "
        "Recordings are measured and taken over; by eye, a clap is marked on its frame; files are put together."
    ),
    "levels": (
        "The sound runs level from left to right; above it the line at which each stage clips, below it its noise. The "
        "darker band is typical, the lighter one peaks. Where the ceiling comes down, there is little room. Propose "
        "gains looks for what to set; nothing that is heard gets worse by it."
    ),
    "load-in": (
        "Whether it all fits, runs, reaches and arrives. Say in the line what you know of strips, runs, cases and "
        "leads; all else is worked out. The sheets go on paper, or as one page on a telephone, whose ticks are read "
        "back. When the day changes, ways on are tried from what is there."
    ),
    "log": (
        "Everything that is measured, entered and made is written here by itself, with its time, show and cue. A note "
        "of your own takes one line. Nothing here is changed by undo, and nothing leaves this machine."
    ),
    "path": (
        "Type in the patch line what goes where, or drag from plate to plate. Choose a sound and a listener: their "
        "routes are inked, and shown below with level and added delay. A double line carries picture with sound inside."
    ),
}


class Window(Frame):
    """One window, one show. Without a document it is the frame alone, until `furnish` is called."""

    def __init__(self, settings: Settings, document: "Document | None" = None) -> None:
        super().__init__(settings)
        self.views: dict[str, StepView] = {}
        self.panel_in_narrow_path = False
        if document is not None:
            self.furnish(document)

    def furnish(self, document: "Document") -> None:
        """Put in all that works on a show. What it needs is loaded here, behind the frame that can be seen already."""
        from kymaton.app.actions import make_actions
        from kymaton.app.file_actions import FileActions
        from kymaton.app.guide import Guide
        from kymaton.app.menu import ShowMenu
        from kymaton.app.widgets.cue_bar import CueBar
        from kymaton.app.widgets.findings import FindingsPanel

        self.document = document
        self.setAcceptDrops(True)
        self.files = FileActions(self)
        self.actions_ = make_actions(self)
        menu = ShowMenu(self.actions_, lambda: self.settings.recent, self.files.open, self.files.start_from)
        self.name.set_filling(menu.fill)
        self.cue_bar = CueBar(document)
        self.listen_button = button("Listen", self.listen, "main", "Hear what the chosen listener hears (Ctrl+L)")
        self.panel_button = QToolButton()
        self.panel_button.setProperty("kind", "quiet")
        self.panel_button.setDefaultAction(self.actions_["findings"])
        self.bar.addWidget(self.cue_bar, 1)
        self.bar.addWidget(self.listen_button)
        self.bar.addWidget(self.panel_button)
        self.findings = FindingsPanel(document)
        self.findings.set_narrow(self.is_narrow)
        self.findings.set_step("hearing")  # filled before it is put in: shown once, not card by card
        self.findings.setVisible(self.settings.findings_open)
        self.middle.addWidget(self.findings)
        self.guide = Guide(self)
        self.foot.addWidget(self.guide)
        self.guide.closed.connect(self._close_guide)
        self.rail.chosen.connect(self.go)
        self.cue_bar.chosen.connect(document.choose_cue)
        self.findings.path_wanted.connect(self.show_path)
        document.report_changed.connect(self._tell)
        document.file_changed.connect(self._tell)
        document.file_changed.connect(lambda: self.guide.setVisible(self.guide.isVisible() and self._shows_demo()))
        document.message.connect(self.notice)
        THEME.changed.connect(self._dress)
        self._dress()
        self.go("hearing")
        self._fit()

    # views and bars are made when they are first wanted, so that the window opens at once

    @cached_property
    def finder(self) -> "Finder":
        from kymaton.app.actions import entries, questions
        from kymaton.app.widgets.finder import Finder

        return Finder(self, lambda: entries(self), lambda text: questions(self, text))

    @cached_property
    def work_row(self) -> "WorkRow":
        """What is being opened, with Stop, under the top bar."""
        from kymaton.app.widgets.working import WorkRow

        made = WorkRow(self.document)
        made.setObjectName("notice")
        made.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        made.setContentsMargins(20, 6, 12, 6)
        self.foot.addWidget(made)
        return made

    @cached_property
    def listen_bar(self) -> "ListenBar":
        from kymaton.app.listen import ListenBar

        made = ListenBar(self.document)
        made.beside = self.hearing.beside.to_hear
        self.foot.addWidget(made)
        return made

    @cached_property
    def hearing(self) -> "HearingView":
        from kymaton.app.hearing.view import HearingView

        view = HearingView(self.document)
        view.path_wanted.connect(lambda: self.go("path"))
        view.demo_wanted.connect(self.files.open_demo)
        view.open_wanted.connect(self.files.ask_open)
        view.starter_wanted.connect(self.files.start_from)
        return self._placed("hearing", view)

    @cached_property
    def path(self) -> "PathView":
        from kymaton.app.path.view import PathView

        return self._placed("path", PathView(self.document))

    @cached_property
    def brief(self) -> "BriefView":
        from kymaton.app.brief.view import BriefView

        return self._placed("brief", BriefView(self.document))

    @cached_property
    def sync(self) -> "SyncView":
        from kymaton.app.sync.view import SyncView

        return self._placed("sync", SyncView(self.document))

    @cached_property
    def levels(self) -> "LevelsView":
        from kymaton.app.levels.view import LevelsView

        return self._placed("levels", LevelsView(self.document))

    @cached_property
    def loadin(self) -> "LoadInView":
        from kymaton.app.loadin.view import LoadInView

        return self._placed("load-in", LoadInView(self.document, self.settings))

    @cached_property
    def log(self) -> "LogView":
        from kymaton.app.log.view import LogView

        return self._placed("log", LogView(self.document))

    def _placed(self, step: str, view: View) -> View:
        self.views[step] = view
        self.stack.addWidget(view)
        return view

    # telling

    def _tell(self) -> None:
        document, show = self.document, self.document.show
        mark = "" if document.is_clean else ", edited"
        rate = show.picture.rate.removesuffix("/1")
        facts = [show.date] if show.date else []
        facts += [f"{show.picture.height}p{rate}", f"{show.sample_rate_hz / 1000:g} kHz"]
        self.tell_name(show.title, ", ".join(facts) + mark)
        file = f"{document.path.name}, " if document.path else ""
        self.setWindowTitle(f"{file}{show.title}{mark} \N{EN DASH} Kymaton")
        for id, step in self.rail.buttons.items():
            step.set_ready(document.readiness(id))

    def _dress(self) -> None:
        t = tokens()
        self.listen_button.setIcon(icon("play", t.on_wave))
        self.actions_["findings"].setIcon(icon("panel", t.soft))

    def help(self) -> None:
        self.notice(HELP[self.current])

    # going about

    @property
    def current(self) -> str:
        return next(id for id, view in self.views.items() if view is self.stack.currentWidget())

    def go(self, step: str) -> None:
        """Enter a step; its main line or table has the keyboard."""
        view: StepView = getattr(self, step.replace("-", ""))  # made now where it is first wanted
        self.stack.setCurrentWidget(view)
        self.rail.show_step(step)
        self.findings.set_step(step)
        self.findings.setVisible(self._panel_wanted(step))
        view.focus_first()

    def _panel_wanted(self, step: str) -> bool:
        """Whether the findings stand beside a step; in a narrow window the map needs their room, until asked for."""
        if step == "path" and self.is_narrow:
            return self.panel_in_narrow_path
        return step in WITH_FINDINGS and self.settings.findings_open

    def go_sync(self, page: str) -> None:
        """One of the pages of the step Sync."""
        self.go("sync")
        self.sync.show_page(page)

    def show_path(self, card: "Card") -> None:
        """The routes of a card on the map; the findings stay those of the card's step."""
        self.go("path")
        self.path.show_device(None)
        self.findings.set_step(card.step)
        self.document.select_finding(card.first)

    def step_finding(self, by: int) -> None:
        """The next card of this step; from a step in which nothing can be found, to those of Hearing."""
        if self.current not in WITH_FINDINGS:
            self.go("hearing")
        self.findings.show()
        self.findings.step_finding(by)

    def toggle_findings(self) -> None:
        shown = not self.findings.isVisible()
        self.findings.setVisible(shown)
        if self.current == "path" and self.is_narrow:
            self.panel_in_narrow_path = shown
        else:
            self.settings.findings_open = shown

    def rename_show(self) -> None:
        """Type another title for the show."""
        self.go("brief")
        self.brief.title.setFocus()
        self.brief.title.selectAll()

    def propose(self) -> None:
        self.go("hearing")
        self.hearing.show_proposal()

    def ask(self, question: str = "") -> None:
        """The line to ask in, or the answer to a question."""
        self.go("hearing")
        self.hearing.show_question(question)

    def listen(self) -> None:
        self.listen_bar.listen()

    def show_guide(self) -> None:
        """The guide through the demo, which is opened for it unless it is open already."""
        if not self._shows_demo():
            self.files.open_demo()
        self.guide.begin()

    def _shows_demo(self) -> bool:
        """Whether what the guide talks about is there."""
        return {"song", "guest-talk"} <= {c.id for c in self.document.show.cues}

    def offer_guide(self) -> None:
        """On the demo, until somebody has closed it."""
        if not self.settings.guide_closed:
            self.guide.begin()

    def _close_guide(self) -> None:
        self.settings.guide_closed = True

    def choose_theme(self, name: str) -> None:
        self.settings.theme = name
        THEME.choose(name)

    def show_device(self, id: str) -> None:
        """A device on the map, in sight and with the keyboard on it."""
        self.go("path")
        self.path.show_plate(id)

    # the window itself

    def dragEnterEvent(self, event: QDragEnterEvent | None) -> None:
        data = event.mimeData() if event is not None else None
        if event is not None and data is not None and any(self.files.takes(Path(u.toLocalFile())) for u in data.urls()):
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent | None) -> None:
        data = event.mimeData() if event is not None else None
        self.files.dropped([Path(u.toLocalFile()) for u in data.urls()] if data is not None else [])

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        if self.views:
            self._fit()

    def _fit(self) -> None:
        """As much as there is room for."""
        self.findings.set_narrow(self.is_narrow)
        self.findings.setVisible(self._panel_wanted(self.current))
        self._tell()

    def closeEvent(self, event: QCloseEvent | None) -> None:
        """Unsaved work is kept and offered back at the next start."""
        if self.views:
            self.document.keep()
            if self.document.is_clean:
                self.document.journal.forget()
            if "listen_bar" in vars(self):
                self.listen_bar.stop()
            if "sync" in self.views:
                self.sync.stop()
            if "levels" in self.views:
                self.levels.stop()
            if "load-in" in self.views:
                self.loadin.stop()
            self.settings.geometry = self.saveGeometry()
            self.settings.sync()
        super().closeEvent(event)
