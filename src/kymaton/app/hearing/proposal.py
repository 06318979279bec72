"""What the planner proposes, as a readable difference: applied together or line by line; and ways out."""

from collections.abc import Callable
from functools import partial

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QFrame, QGridLayout, QHBoxLayout, QPushButton, QScrollArea, QSpinBox, QVBoxLayout, QWidget

from kymaton.app.document import Document
from kymaton.app.theme.theme import THEME
from kymaton.app.widgets.basic import button, empty, label
from kymaton.app.work import Job
from kymaton.core.checks.report import Report
from kymaton.core.edits.controls import Change
from kymaton.core.model import Show
from kymaton.core.planning.fixes import describe, place_of, rig_of, value_text
from kymaton.core.planning.planner import Proposal, propose
from kymaton.core.planning.search import MOST_SOLVED
from kymaton.core.planning.send_levels import MUSIC_UNDER_DB, even_out
from kymaton.core.planning.ways_out import Way
from kymaton.core.words import counted, lowered, said, sentence


class ProposalView(QWidget):
    """Works out a proposal off-thread and shows it; goes stale and is worked out anew when the show changes."""

    closed = pyqtSignal()

    def __init__(self, document: Document) -> None:
        super().__init__()
        self.document = document
        self.proposal: Proposal | None = None
        self.made_for: Show | None = None
        self.job: Job | None = None
        self.number = 0  # of the search
        self.listener: str | None = None  # for whom sends are evened out
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(8)
        head = QHBoxLayout()
        self.title = label("", "heading")
        head.addWidget(self.title)
        self.note = label("", "small")
        head.addWidget(self.note, 1)
        self.apply_all = button("Apply all", self._apply_all, "main")
        head.addWidget(self.apply_all)
        self.music_below = QSpinBox()
        self.music_below.setRange(0, 40)
        self.music_below.setValue(round(MUSIC_UNDER_DB))
        self.music_below.setPrefix("music ")
        self.music_below.setSuffix(" dB below")
        self.music_below.setAccessibleName("How far music is to be below voices")
        self.music_below.valueChanged.connect(lambda _: self.work_out())
        self.music_below.hide()
        head.addWidget(self.music_below)
        self.stop_button = button("Stop", self.stop, "", "Stop looking; nothing is changed")
        self.stop_button.hide()
        head.addWidget(self.stop_button)
        head.addWidget(button("Close", self.closed.emit, "quiet", "Back to the lanes (Esc)"))
        layout.addLayout(head)
        area = QScrollArea()
        area.setFrameShape(QFrame.Shape.NoFrame)
        area.setWidgetResizable(True)
        inside = QWidget()
        self.grid = QGridLayout(inside)
        self.grid.setContentsMargins(0, 0, 8, 0)
        self.grid.setHorizontalSpacing(14)
        self.grid.setVerticalSpacing(4)
        area.setWidget(inside)
        layout.addWidget(area, 1)
        document.report_changed.connect(self._stale)
        THEME.changed.connect(self._show)

    def _stale(self) -> None:
        if self.isVisible() and self.document.report is not None:
            self.work_out()

    def even_out(self, listener: str) -> None:
        """Look for sends with which a listener hears voices equally loud, and music below."""
        self.listener = listener
        self.work_out()

    nothing = "Nothing that can be set is wrong"

    @staticmethod
    def search(report: Report, going: Callable[[], bool]) -> Proposal:
        """What is looked for, on a thread of its own: what ends all faults."""
        return propose(report, MOST_SOLVED, going)

    def propose(self) -> None:
        """Look for what is to be set."""
        self.listener = None
        self.work_out()

    def work_out(self) -> None:
        """Start (again) to look for a proposal."""
        document, show = self.document, self.document.show
        self.stop()
        self.music_below.setVisible(self.listener is not None)
        self.title.setText("Working out what to set")
        self.note.setText("")
        self.apply_all.hide()
        self.stop_button.show()
        report = document.report
        self.number += 1
        number = self.number
        listener, cue, below_db = self.listener, document.cue_id, float(self.music_below.value())

        def work(job: Job) -> Proposal:
            if listener is None:
                return self.search(report or Report(show), lambda: job.report(0.0))
            found = even_out(report or Report(show), cue, [listener], below_db)
            return Proposal(found.changes, (), said=found.remarks)

        self.job = Job(
            work,
            partial(self._found, number, show),
            partial(self._ended, number),
        )
        self.job.begin()

    def stop(self) -> None:
        """End the search, if one goes on."""
        if self.job is not None:
            self.job.stop()

    def _ended(self, number: int, text: str) -> bool:
        if number != self.number:
            return False  # another search was begun meanwhile
        self.job = None
        self.stop_button.hide()
        self.title.setText(text)
        return True

    def _found(self, number: int, show: Show, proposal: Proposal) -> None:
        if self._ended(number, "") and show is self.document.show:
            self.proposal, self.made_for = proposal, show
            self._show()

    def _show(self) -> None:
        empty(self.grid)
        show, proposal = self.document.show, self.proposal
        self.apply_all.hide()
        if proposal is None or self.made_for is not show:  # another show was opened: nothing of this one is its
            return
        many = len(proposal.changes)
        nothing = "No setting does it" if proposal.impossible else self.nothing
        if self.listener is not None:
            nothing = f"{sentence(said(show.listener(self.listener)))} hears all as loud as it should be"
        if proposal.bounded:
            nothing = "Nothing is proposed"
        self.title.setText(f"Proposed: {counted(many, 'change')}" if many else nothing)
        vanish = counted(len(proposal.cured), "finding vanishes", "findings vanish")
        worse = "nothing gets worse in any cue or variant" if not proposal.brings else "what it leaves is said below"
        if self.listener is not None:
            vanish = f"Voices equally loud at {said(show.listener(self.listener))}"
        self.note.setText(f"{vanish}, and {worse}" if many else "")
        self.apply_all.setVisible(many > 0)
        row = 0
        for change in proposal.changes:
            rig = rig_of(show, change)
            control = rig.control(change.control)
            self.grid.addWidget(label(describe(rig, change), "strong", wrap=True), row, 0)
            before, after = value_text(control, change.before), value_text(control, change.after)
            self.grid.addWidget(label(f"{before} to {after}", "figures"), row, 1)
            self.grid.addWidget(label(place_of(show, change), "soft"), row, 2)
            self.grid.addWidget(label(change.why, "soft", wrap=True), row, 3)
            self.grid.addWidget(
                self._button(f"Apply: {describe(rig, change)}", partial(self._apply, (change,))), row, 4
            )
            row += 1
        for problem in proposal.impossible:
            where = show.cue(problem.cue).name if problem.cue else "All cues"
            self.grid.addWidget(label(f"Not possible, {where}: {problem.sentence}.", "soft", wrap=True), row, 0, 1, 5)
            row += 1
            for way in problem.ways:
                self.grid.addWidget(label(f"A way out: {lowered(way.sentence)}", "strong", wrap=True), row, 0, 1, 4)
                do = self._button(f"Apply: {lowered(way.sentence)}", partial(self._take_way, way))
                self.grid.addWidget(do, row, 4)
                row += 1
        for remark in proposal.remarks:
            self.grid.addWidget(label(remark, "soft", wrap=True), row, 0, 1, 5)
            row += 1
        self.grid.setRowStretch(row, 1)
        self.grid.setColumnStretch(0, 2)
        self.grid.setColumnStretch(3, 3)

    def _button(self, name: str, act: Callable[[], object]) -> QPushButton:
        made = button("Apply", act, "quiet")
        made.setAccessibleName(name)
        return made

    def _take_way(self, way: Way) -> None:
        if self.made_for is self.document.show:  # else it is being worked out anew
            self.document.edit(way.show, lowered(way.sentence))

    def _apply_all(self) -> None:
        if self.proposal is not None:
            self._apply(self.proposal.changes)

    def _apply(self, changes: tuple[Change, ...]) -> None:
        if self.made_for is not self.document.show:
            return  # it is being worked out anew
        text = (
            describe(rig_of(self.document.show, changes[0]), changes[0])
            if len(changes) == 1
            else "apply what is proposed"
        )
        self.document.apply(changes, text[:1].lower() + text[1:])
