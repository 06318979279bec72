"""The window: rail, top bar, views, findings, and everything that can be done from anywhere."""

from pathlib import Path
from typing import TYPE_CHECKING

from PyQt6.QtCore import QSize, Qt
from PyQt6.QtGui import QAction, QCloseEvent, QDragEnterEvent, QDropEvent, QFontMetrics, QKeySequence, QResizeEvent
from PyQt6.QtWidgets import (
    QFrame,
    QHBoxLayout,
    QMainWindow,
    QSizePolicy,
    QStackedWidget,
    QToolButton,
    QVBoxLayout,
    QWidget,
)

from kymaton.app.document import Document
from kymaton.app.filework import FileWork
from kymaton.app.guide import Guide
from kymaton.app.hearing.view import HearingView
from kymaton.app.kinds import FILMS, SOUNDS
from kymaton.app.listen import ListenBar
from kymaton.app.menu import MenuButton, ShowMenu
from kymaton.app.settings import Settings
from kymaton.app.theme.marks import icon
from kymaton.app.theme.theme import THEME, tokens, words
from kymaton.app.widgets.basic import StepView, button, label
from kymaton.app.widgets.cue_bar import CueBar
from kymaton.app.widgets.finder import Entry, Finder
from kymaton.app.widgets.findings import WIDTH, FindingsPanel
from kymaton.app.widgets.rail import Rail, Step
from kymaton.core.checks.report import Card
from kymaton.store.showfile import SUFFIX

if TYPE_CHECKING:
    from kymaton.app.brief.view import BriefView
    from kymaton.app.log.view import LogView
    from kymaton.app.path.view import PathView
    from kymaton.app.sync.view import SyncView

STEPS = [
    Step("brief", "Brief", 1), Step("path", "Path", 2), Step("hearing", "Hearing", 3), Step("sync", "Sync", 4),
    Step("log", "Log", 5),
]  # fmt: skip
NARROW_BELOW = 1120
WITH_FINDINGS = ("path", "hearing", "sync")  # steps in which something can be found
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
    "log": (
        "Everything that is measured, entered and made is written here by itself, with its time, show and cue. A note "
        "of your own takes one line. Nothing here is changed by undo, and nothing leaves this machine."
    ),
    "path": (
        "Type in the patch line what goes where, or drag from plate to plate. Choose a sound and a listener: their "
        "routes are inked, and shown below with level and added delay. A double line carries picture with sound inside."
    ),
}


class Window(FileWork, QMainWindow):
    """One window, one show."""

    def __init__(self, document: Document, settings: Settings) -> None:
        super().__init__()
        self.document, self.settings = document, settings
        self.setMinimumSize(QSize(960, 620))
        self.resize(1280, 800)
        self.setAcceptDrops(True)
        self.panel_in_narrow_path = False
        self.actions_: dict[str, QAction] = {}
        self._make_actions()
        self.rail = Rail(STEPS)
        self.views: dict[str, StepView] = {}
        self.stack = QStackedWidget()
        self.findings = FindingsPanel(document)
        self.listen_bar = ListenBar(document)
        self.listen_bar.hide()
        self.guide = Guide(self)
        self.guide.closed.connect(self._close_guide)
        self.notices = QVBoxLayout()
        self.notices.setSpacing(0)
        self._put_together()
        self.finder = Finder(self, self._entries)
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
        self._tell()

    # views are made when they are first wanted, so that the window opens at once

    @property
    def hearing(self) -> "HearingView":
        return self._view("hearing")  # type: ignore[return-value]

    @property
    def path(self) -> "PathView":
        return self._view("path")  # type: ignore[return-value]

    @property
    def brief(self) -> "BriefView":
        return self._view("brief")  # type: ignore[return-value]

    @property
    def sync(self) -> "SyncView":
        return self._view("sync")  # type: ignore[return-value]

    @property
    def log(self) -> "LogView":
        return self._view("log")  # type: ignore[return-value]

    def _view(self, step: str) -> StepView:
        if step not in self.views:
            makers = {
                "brief": self._make_brief,
                "path": self._make_path,
                "hearing": self._make_hearing,
                "sync": self._make_sync,
                "log": self._make_log,
            }
            made = makers[step]()
            self.views[step] = made
            self.stack.addWidget(made)
        return self.views[step]

    def _make_hearing(self) -> StepView:
        view = HearingView(self.document)
        view.path_wanted.connect(lambda: self.go("path"))
        view.demo_wanted.connect(self.open_demo)
        view.open_wanted.connect(self.ask_open)
        view.starter_wanted.connect(self.start_from)
        return view

    def _make_path(self) -> StepView:
        from kymaton.app.path.view import PathView

        return PathView(self.document)

    def _make_brief(self) -> StepView:
        from kymaton.app.brief.view import BriefView

        return BriefView(self.document)

    def _make_sync(self) -> StepView:
        from kymaton.app.sync.view import SyncView

        return SyncView(self.document)

    def _make_log(self) -> StepView:
        from kymaton.app.log.view import LogView

        return LogView(self.document)

    # putting together

    def _put_together(self) -> None:
        self.top = QFrame()
        self.top.setObjectName("top")
        self.top.setFixedHeight(54)
        bar = QHBoxLayout(self.top)
        bar.setContentsMargins(12, 0, 14, 0)
        bar.setSpacing(10)
        menu = ShowMenu(self.actions_, lambda: self.settings.recent, self.open, self.start_from)  # type: ignore[arg-type]
        self.name = MenuButton(menu.fill)
        self.facts = label("", "small")
        self.facts.setContentsMargins(8, 0, 0, 0)
        named = QVBoxLayout()
        named.setContentsMargins(0, 4, 0, 6)
        named.setSpacing(0)
        named.addWidget(self.name, 0, Qt.AlignmentFlag.AlignLeft)
        named.addWidget(self.facts)
        bar.addLayout(named)
        self.cue_bar = CueBar(self.document)
        bar.addWidget(self.cue_bar, 1)
        self.listen_button = button("Listen", self.listen, "main", "Hear what the chosen listener hears (Ctrl+L)")
        self.panel_button = QToolButton()
        self.panel_button.setProperty("kind", "quiet")
        self.panel_button.setDefaultAction(self.actions_["findings"])
        bar.addWidget(self.listen_button)
        bar.addWidget(self.panel_button)
        right = QWidget()
        column = QVBoxLayout(right)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addWidget(self.top)
        column.addLayout(self.notices)
        middle = QHBoxLayout()
        middle.setSpacing(0)
        middle.addWidget(self.stack, 1)
        middle.addWidget(self.findings)
        column.addLayout(middle, 1)
        column.addWidget(self.guide)
        column.addWidget(self.listen_bar)
        whole = QWidget()
        row = QHBoxLayout(whole)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(0)
        row.addWidget(self.rail)
        row.addWidget(right, 1)
        self.setCentralWidget(whole)
        self.findings.setVisible(self.settings.findings_open)

    def _action(self, id: str, text: str, act, *keys: str) -> QAction:  # type: ignore[no-untyped-def]
        action = QAction(text, self)
        action.setShortcuts([QKeySequence(k) for k in keys])
        action.setShortcutContext(Qt.ShortcutContext.WindowShortcut)
        action.triggered.connect(lambda: act())
        if keys:
            action.setToolTip(f"{text} ({keys[0]})")
        self.actions_[id] = action
        self.addAction(action)
        return action

    def _make_actions(self) -> None:
        document = self.document
        self._action("new", "New show", self.new, "Ctrl+N")
        self._action("next-show", "New show from this one", self.start_from_this)
        self._action("rename", "Title of the show", self.rename_show)
        self._action("open", "Open", self.ask_open, "Ctrl+O")
        self._action("demo", "Open the demo", self.open_demo)
        self._action("save", "Save", self.save, "Ctrl+S")
        self._action("save-as", "Save as", self.ask_save, "Ctrl+Shift+S")
        self._action("export-map", "Export the map as SVG", self.ask_export_map)
        self._action("print-map", "Print the map", self.ask_print_map)
        self._action("import", "Import an input list", self.ask_import)
        self._action("export", "Export the input list", self.ask_export)
        undo = document.stack.createUndoAction(self, "Undo")
        redo = document.stack.createRedoAction(self, "Redo")
        assert undo is not None and redo is not None
        undo.setShortcut("Ctrl+Z")
        redo.setShortcuts([QKeySequence("Ctrl+Shift+Z"), QKeySequence("Ctrl+Y")])
        for id, action in (("undo", undo), ("redo", redo)):
            self.actions_[id] = action
            self.addAction(action)
        self._action("find", "Find anything", lambda: self.finder.popup(), "Ctrl+K")
        self._action("listen", "Listen", self.listen, "Ctrl+L")
        self._action("propose", "Propose mix-minus sends", self.propose, "Ctrl+M")
        self._action("patch", "Patch by typing", self.patch, "Ctrl+P")
        for id, text, page in (
            ("measure", "Measure a recording", "recordings"),
            ("by-eye", "Look at a recording frame by frame", "by eye"),
            ("films", "Lay sounds over a film, embed, extract", "files"),
        ):
            self._action(id, text, lambda page=page: self.go_sync(page))
        self._action("next-finding", "Next finding", lambda: self._step_finding(1), "F8")
        self._action("previous-finding", "Previous finding", lambda: self._step_finding(-1), "Shift+F8")
        self._action("next-cue", "Next cue", lambda: document.step_cue(1), "Ctrl+Right")
        self._action("previous-cue", "Previous cue", lambda: document.step_cue(-1), "Ctrl+Left")
        self._action("findings", "Show or hide the findings", self.toggle_findings, "F9")
        for name, text in (("day", "Day"), ("night", "Night"), ("desktop", "Day or night as the desktop")):
            self._action(f"theme-{name}", text, lambda name=name: self.choose_theme(name))
        self._action("help", "Help on this view", self.help, "F1")
        self._action("guide", "The first day: five things to look at", self.show_guide)
        for step in STEPS:
            self._action(f"go-{step.id}", f"Go to {step.name}", lambda id=step.id: self.go(id), f"Alt+{step.number}")
        self._action("menu", "Menu of the show", lambda: self.name.showMenu(), "Alt+F")
        self._action("quit", "Quit", self.close, "Ctrl+Q")

    # telling

    def _tell(self) -> None:
        document, show = self.document, self.document.show
        title = show.title
        mark = "" if document.is_clean else ", edited"
        width = 250 if self.width() < NARROW_BELOW else 300
        metrics = QFontMetrics(words(15, 600))
        self.name.setText(metrics.elidedText(title, Qt.TextElideMode.ElideRight, width - 40))
        self.name.setToolTip(f"{title}: what can be done with the show (Alt+F)")
        facts = [show.date] if show.date else []
        picture = show.picture
        rate = picture.rate.removesuffix("/1")
        facts += [f"{picture.height}p{rate}", f"{show.sample_rate_hz / 1000:g} kHz"]
        self.facts.setText(", ".join(facts) + mark)
        file = f"{document.path.name}, " if document.path else ""
        self.setWindowTitle(f"{file}{title}{mark} \N{EN DASH} Kymaton")
        for id, step in self.rail.buttons.items():
            step.set_ready(document.readiness(id))

    def _dress(self) -> None:
        t = tokens()
        self.listen_button.setIcon(icon("play", t.on_wave))
        self.actions_["findings"].setIcon(icon("panel", t.soft))

    def notice(self, text: str, *actions: tuple[str, object]) -> None:
        """A bar under the top bar that says something and goes away when it is closed."""
        bar = QFrame()
        bar.setObjectName("notice")
        row = QHBoxLayout(bar)
        row.setContentsMargins(20, 6, 12, 6)
        words = label(text, "", wrap=True)
        words.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Minimum)
        row.addWidget(words, 1)

        def close() -> None:
            bar.hide()
            bar.deleteLater()

        for name, act in actions:
            row.addWidget(button(name, lambda act=act: (close(), act()), "quiet"))
        row.addWidget(button("Close", close, "quiet"))
        while self.notices.count() > 2:
            item = self.notices.takeAt(0)
            if item is not None and item.widget() is not None:
                item.widget().deleteLater()  # type: ignore[union-attr]
        self.notices.addWidget(bar)

    def help(self) -> None:
        self.notice(HELP[self.current])

    # going about

    @property
    def current(self) -> str:
        return next(id for id, view in self.views.items() if view is self.stack.currentWidget())

    def go(self, step: str) -> None:
        """Enter a step; its main line or table has the keyboard."""
        view = self._view(step)
        self.stack.setCurrentWidget(view)
        self.rail.show_step(step)
        self.findings.set_step(step)
        self.findings.setVisible(self._panel_wanted(step))
        view.focus_first()

    def _panel_wanted(self, step: str) -> bool:
        """Whether the findings stand beside a step; in a narrow window the map needs their room, until asked for."""
        if step == "path" and self.width() < NARROW_BELOW:
            return self.panel_in_narrow_path
        return step in WITH_FINDINGS and self.settings.findings_open

    def go_sync(self, page: str) -> None:
        """One of the pages of the step Sync."""
        self.go("sync")
        self.sync.show_page(page)

    def show_path(self, card: Card) -> None:
        """The routes of a card on the map; the findings stay those of the card's step."""
        self.go("path")
        self.path.show_device(None)
        self.findings.set_step(card.step)
        self.document.select_finding(card.first)

    def _step_finding(self, by: int) -> None:
        """The next card of this step; from a step in which nothing can be found, to those of Hearing."""
        if self.current not in WITH_FINDINGS:
            self.go("hearing")
        self.findings.show()
        self.findings.step_finding(by)

    def toggle_findings(self) -> None:
        shown = not self.findings.isVisible()
        self.findings.setVisible(shown)
        if self.current == "path" and self.width() < NARROW_BELOW:
            self.panel_in_narrow_path = shown
        else:
            self.settings.findings_open = shown

    def patch(self) -> None:
        self.go("path")

    def rename_show(self) -> None:
        """Type another title for the show."""
        self.go("brief")
        self.brief.title.setFocus()
        self.brief.title.selectAll()

    def propose(self) -> None:
        self.go("hearing")
        self.hearing.show_proposal()

    def listen(self) -> None:
        self.listen_bar.listen()

    def show_guide(self) -> None:
        """The guide through the demo, which is opened for it unless it is open already."""
        if not self._shows_demo():
            self.open_demo()
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

    def _entries(self) -> list[Entry]:
        document, show = self.document, self.document.show
        entries = [
            Entry(a.text().replace("&", ""), a.shortcut().toString(), a.trigger, a.isEnabled())
            for id, a in self.actions_.items()
            if id != "find"
        ]
        from kymaton.language.starters import STARTERS

        entries += [Entry(s.title, "start from this rig", lambda s=s: self.start_from(s)) for s in STARTERS]
        entries += [Entry(c.name, "cue", lambda c=c: document.choose_cue(c.id)) for c in show.cues]
        entries += [
            Entry(x.name, "listener", lambda x=x: (self.go("hearing"), document.select(x.id, None)))
            for x in show.listeners
        ]
        entries += [
            Entry(s.name, "sound", lambda s=s: (self.go("path"), document.select(None, s.id))) for s in show.sounds
        ]
        entries += [Entry(d.name, "device", lambda d=d: self._show_device(d.id)) for d in show.devices]
        return entries

    def _show_device(self, id: str) -> None:
        self.go("path")
        self.path.map.at = id
        self.path.map.setFocus()
        plate = self.path.map.map.plates[id]
        self.path.area.ensureVisible(round(plate.x + plate.width / 2), round(plate.middle), 120, 120)
        self.path.map.update()

    # the window itself

    def dragEnterEvent(self, event: QDragEnterEvent | None) -> None:
        assert event is not None
        data = event.mimeData()
        if data is not None and any(
            u.toLocalFile().lower().endswith((SUFFIX, ".csv", *FILMS, *SOUNDS)) for u in data.urls()
        ):
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent | None) -> None:
        assert event is not None
        data = event.mimeData()
        paths = [Path(u.toLocalFile()) for u in data.urls()] if data is not None else []
        media = [p for p in paths if p.suffix.lower() in (*FILMS, *SOUNDS)]
        if media:
            self.go("sync")
            self.sync.dropped(media)
            return
        for path in paths:
            if path.suffix.lower() == ".csv":
                self.import_list(path)
                return
            if path.suffix == SUFFIX:
                self.open(path)
                return

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        narrow = self.width() < NARROW_BELOW
        self.rail.set_narrow(narrow)
        self.findings.setFixedWidth(272 if narrow else WIDTH)
        if self.views:
            self.findings.setVisible(self._panel_wanted(self.current))
        self._tell()

    def closeEvent(self, event: QCloseEvent | None) -> None:
        """Unsaved work is kept and offered back at the next start."""
        self.document.keep()
        if self.document.is_clean:
            self.document.journal.forget()
        self.listen_bar.stop()
        if "sync" in self.views:
            self.sync.stop()
        self.settings.geometry = self.saveGeometry()
        self.settings.sync()
        super().closeEvent(event)
