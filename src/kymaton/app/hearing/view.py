"""The step Hearing: the table, and below it lanes, routes or the proposal."""

from functools import cached_property, partial
from pathlib import Path
from typing import TYPE_CHECKING

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent, QShowEvent
from PyQt6.QtWidgets import (
    QGridLayout,
    QHBoxLayout,
    QLabel,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from kymaton.app.document import Document
from kymaton.app.hearing.beside import Beside
from kymaton.app.hearing.lanes import LanesView
from kymaton.app.hearing.table import HEADER, ROW, HearingTable
from kymaton.app.widgets.basic import Aside, StepView, button, label, passing_menu, plain_tip, scrolled
from kymaton.app.widgets.route_strip import RouteStrip, strip_title
from kymaton.app.work import Job
from kymaton.core.checks.comparing import all_cues, cell_text
from kymaton.core.model import Show
from kymaton.core.words import ms, number, said

if TYPE_CHECKING:
    from kymaton.app.hearing.answer import AnswerView
    from kymaton.app.hearing.proposal import ProposalView


class HearingView(StepView):
    """Who hears what in the current cue."""

    path_wanted = pyqtSignal()
    demo_wanted = pyqtSignal()
    open_wanted = pyqtSignal()
    starter_wanted = pyqtSignal(object)

    def __init__(self, document: Document) -> None:
        super().__init__()
        self.document = document
        layout = QVBoxLayout(self)
        layout.setContentsMargins(20, 12, 16, 10)
        layout.setSpacing(8)
        head = QHBoxLayout()
        head.addWidget(label("Who hears what", "title"))
        self.about = Aside()
        head.addSpacing(8)
        head.addWidget(self.about, 1)
        self.propose = button(
            "Propose settings", self.show_proposal, "", "The fewest changes that end all faults: mix-minus and more"
        )
        self.beside = Beside(document)
        self.beside.changed.connect(self.refresh)
        self.compare = button(
            "Compare", self._ask_beside, "quiet", "Beside another cue, a variant, or what is proposed"
        )
        self.ask = button("Ask", self.show_question, "quiet", "Who hears what and why, in words (Ctrl+I)")
        head.addWidget(self.ask)
        head.addWidget(self.compare)
        head.addWidget(self.propose)
        layout.addLayout(head)
        self.table = HearingTable(document, self.beside)
        self.table.recording_dropped.connect(self.take_recording)
        layout.addWidget(self.table)
        self.details = QStackedWidget()
        self.details.setMinimumHeight(190)
        layout.addWidget(self.details, 1)
        self.lanes = LanesView(document)
        self.lanes_title, self.lanes_note = label("", "heading"), Aside()
        both = QWidget()
        lanes = QVBoxLayout(both)
        lanes.setContentsMargins(0, 0, 0, 0)
        lanes.addWidget(self.lanes)
        self.other_title = label("", "heading")
        self.other_lanes = LanesView(document, lambda: self.beside.report)
        self.beside.changed.connect(self.other_lanes.refresh)
        lanes.addWidget(self.other_title)
        lanes.addWidget(self.other_lanes)
        self.even = button("Even out", self._even_out, "quiet", "Sends with which voices are equally loud here")
        self.details.addWidget(self._page(self.lanes_title, self.lanes_note, both, [self.even]))
        self.strip = RouteStrip(document)
        self.strip_title, self.strip_note = label("", "heading", wrap=True), Aside()
        self.strip_note.setText("level and added delay at each station")
        self.all_lanes = button("All that is heard", self._all_lanes, "quiet", "Back to the lanes (Esc)")
        every_cue = button("In all cues", self._all_cues, "quiet", "This sound at this listener in every cue")
        on_map = button("Show the path", self.path_wanted.emit, "quiet", "These routes on the map")
        self.details.addWidget(
            self._page(self.strip_title, self.strip_note, self.strip, [self.all_lanes, every_cue, on_map])
        )
        self.empty: QWidget | None = None
        document.report_changed.connect(self.refresh)
        document.selection_changed.connect(self.refresh)
        self.refresh()

    def _page(self, title: QLabel, note: QWidget, content: QWidget, actions: list[QWidget]) -> QWidget:
        page = QWidget()
        layout = QVBoxLayout(page)
        layout.setContentsMargins(0, 4, 0, 0)
        layout.setSpacing(4)
        head = QHBoxLayout()
        head.addWidget(title, 3 if title.wordWrap() else 0)  # what may be broken takes what room there is first
        head.addSpacing(8)
        head.addWidget(note, 1)
        for action in actions:
            head.addWidget(action)
        layout.addLayout(head)
        layout.addWidget(scrolled(content), 1)
        return page

    def _empty_state(self) -> QWidget:
        page = QWidget()
        layout = QVBoxLayout(page)
        layout.setContentsMargins(0, 40, 0, 0)
        layout.setSpacing(12)
        layout.addWidget(label("Nobody makes a sound yet", "heading"))
        text = (
            "Open a show to see what each of its listeners will hear, or look at the demo: an evening with two guests."
        )
        layout.addWidget(label(text, "soft", wrap=True))
        row = QHBoxLayout()
        self.demo_button = button("Open the demo", self.demo_wanted.emit, "main")
        row.addWidget(self.demo_button)
        row.addWidget(button("Open a show", self.open_wanted.emit, "", "Ctrl+O"))
        row.addStretch(1)
        layout.addLayout(row)
        layout.addSpacing(16)
        layout.addWidget(label("Or start from a rig that is complete and healthy", "heading"))
        rigs = QGridLayout()
        rigs.setHorizontalSpacing(14)
        rigs.setVerticalSpacing(2)
        rigs.setColumnStretch(1, 1)
        from kymaton.language.starters import STARTERS  # late: most shows are not empty

        for number_, starter in enumerate(STARTERS):
            choose = button(starter.title, partial(self.starter_wanted.emit, starter), "quiet")
            choose.setStyleSheet("text-align: left;")
            about = label(starter.about, "small", wrap=True)
            rigs.addWidget(choose, number_, 0)
            rigs.addWidget(about, number_, 1)
        inside = QWidget()
        inside.setLayout(rigs)
        layout.addWidget(scrolled(inside), 1)
        return page

    def refresh(self) -> None:
        document = self.document
        show, report = document.show, document.cue_report
        filled = bool(show.sounds and show.listeners)
        for part in (self.table, self.details, self.propose, self.compare, self.ask):
            part.setVisible(filled)
        if not filled and self.empty is None:
            self.empty = self._empty_state()
            whole = self.layout()
            assert isinstance(whole, QVBoxLayout)
            whole.addWidget(self.empty, 1)
        if self.empty is not None:
            self.empty.setVisible(not filled)
        cue = report.view.cue
        facts = []
        if cue is not None:
            facts.append(cue.name)
            if cue.minutes:
                facts.append(f"{number(cue.minutes)} min")
            if cue.on_air:
                facts.append(f"on air: {on_air_name(document)}")
        if self.beside.name:
            facts.append(f"on the right: {self.beside.name}")
        self.about.setText(", ".join(facts))
        self.about.setToolTip(plain_tip(cue.note if cue else ""))
        if not filled:
            return
        if document.listener_id not in [x.id for x in show.listeners]:
            if self.isVisible():
                first = next((c.first.listener for c in report.cards if c.first.listener), None)
                heard = (x.id for x in show.listeners if any(report.view.level(x, s) > x.floor for s in show.sounds))
                document.select(first or next(heard, show.listeners[0].id), None)
            return
        self.table.setMaximumHeight(HEADER + ROW * len(show.sounds) + 4)
        self.table.setMinimumHeight(min(HEADER + ROW * len(show.sounds) + 4, HEADER + 6 * ROW))
        listener = show.listener(document.listener_id)
        self.lanes_title.setText(f"What {said(listener)} hears, and when")
        self.other_title.setVisible(self.beside.report is not None)
        self.other_lanes.setVisible(self.beside.report is not None)
        self.other_title.setText(f"In {self.beside.name}")
        origin = self.lanes.origin_ms
        self.lanes_note.setText(
            f"+0 is {ms(origin)} after a sound is made; size is level"
            if origin
            else "each dot is an arrival, its size the level"
        )
        self.strip_title.setText(strip_title(document))
        if not self.shows_proposal and not self.shows_answer:
            self.details.setCurrentIndex(0 if document.sound_id is None else 1)

    def showEvent(self, event: QShowEvent | None) -> None:
        super().showEvent(event)
        self.refresh()

    def focus_first(self) -> None:
        """Keyboard focus where work begins: the table, or the first button of an empty show."""
        (self.table if self.document.show.sounds else self.demo_button).setFocus()

    @cached_property
    def proposal(self) -> "ProposalView":
        """Made when it is first wanted: with the planner behind it, it takes a while to load."""
        from kymaton.app.hearing.proposal import ProposalView

        made = ProposalView(self.document)
        made.closed.connect(self._leave_proposal)
        self.details.addWidget(made)
        return made

    @property
    def shows_proposal(self) -> bool:
        return "proposal" in vars(self) and self.details.currentWidget() is self.proposal

    @cached_property
    def answer(self) -> "AnswerView":
        """Made when something is first asked."""
        from kymaton.app.hearing.answer import AnswerView

        made = AnswerView(self.document)
        made.closed.connect(self._leave_proposal)
        self.details.addWidget(made)
        return made

    @property
    def shows_answer(self) -> bool:
        return "answer" in vars(self) and self.details.currentWidget() is self.answer

    def show_question(self, question: str = "") -> None:
        """The line to ask in, with an answer where a question is given."""
        self.details.setCurrentWidget(self.answer)
        self.answer.line.setFocus()
        self.answer.ask(question)

    def _ask_beside(self) -> None:
        menu = passing_menu(self)
        self.beside.fill(menu, self.proposal.proposal if "proposal" in vars(self) else None)
        menu.popup(self.compare.mapToGlobal(self.compare.rect().bottomLeft()))

    def _all_cues(self) -> None:
        """A cell in every cue; choosing one goes there."""
        document = self.document
        report, listener, sound = document.report, document.listener_id, document.sound_id
        if report is None or listener is None or sound is None:
            return
        menu = passing_menu(self)
        for cue, (name, cell) in zip(report.cues, all_cues(report, listener, sound), strict=True):
            menu.addAction(f"{name}: {cell_text(cell)}", partial(document.choose_cue, cue))
        menu.popup(self.strip_title.mapToGlobal(self.strip_title.rect().bottomLeft()))

    def take_recording(self, sound: str, path: str) -> None:
        """A recording of one's own for a sound: measured, and copied beside the show."""
        document, show, folder = self.document, self.document.show, self.document.folder
        if folder is None or document.path is None:
            document.message.emit("Save the show first: its recordings stand beside it.")
            return

        def work(job: Job) -> Show:
            from kymaton.media.jobs import stem_level
            from kymaton.store.stems import take_stem

            return take_stem(show, folder, sound, Path(path), stem_level(Path(path), job.report))

        def done(made: Show) -> None:
            if show is document.show:  # else it was changed meanwhile
                stem = made.sound(sound).stem
                assert stem is not None
                document.edit(made, f"take {Path(path).name} for {said(show.sound(sound))}")
                level = number(stem.level_dbfs, 1)
                document.message.emit(f"{Path(path).name} stands for {said(show.sound(sound))}: {level} dBFS.")

        Job(work, done, document.message.emit).begin()

    def show_proposal(self) -> None:
        self.details.setCurrentWidget(self.proposal)
        self.proposal.propose()

    def _even_out(self) -> None:
        if self.document.listener_id is not None:
            self.details.setCurrentWidget(self.proposal)
            self.proposal.even_out(self.document.listener_id)

    def _leave_proposal(self) -> None:
        self.details.setCurrentIndex(0)
        self.refresh()

    def _all_lanes(self) -> None:
        self.document.select(self.document.listener_id, None)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        assert event is not None
        if event.key() == Qt.Key.Key_Escape:
            self._leave_proposal()
            self._all_lanes()
        else:
            super().keyPressEvent(event)


def on_air_name(document: Document) -> str:
    """The device whose picture is on air in the current cue."""
    cue = document.cue_report.view.cue
    if cue is None or cue.on_air is None:
        return ""
    lead = next((c for c in document.show.cables if c.target == cue.on_air), None)
    name = document.show.device(lead.source.partition("/")[0]).name if lead else document.show.port_label(cue.on_air)
    return name[:1].lower() + name[1:]
