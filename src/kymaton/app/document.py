"""The open show: its state, what can be undone, and what Kymaton says of it."""

import datetime
from collections import Counter, OrderedDict
from collections.abc import Callable
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING, Any

from msgspec import Struct, field
from PyQt6.QtCore import QObject, QTimer, pyqtSignal
from PyQt6.QtGui import QUndoCommand, QUndoStack

from kymaton.app.work import Job, is_gone
from kymaton.core.checks import Finding
from kymaton.core.checks.readiness import Readiness, readiness
from kymaton.core.checks.report import Card, CueReport, Report
from kymaton.core.edits.controls import Change, apply
from kymaton.core.errors import ChangedFile, FileError
from kymaton.core.model import Show, ShowError, Want
from kymaton.core.model.show import validated
from kymaton.core.signal.cue_solution import CueSolution
from kymaton.store.last_verdict import remember
from kymaton.store.logbook import Entry, Logbook
from kymaton.store.recovery import Journal
from kymaton.store.showfile import identity, read_show, write_show
from kymaton.store.stems import copy_stems

if TYPE_CHECKING:
    from kymaton.core.planning.by_hand import Cure
    from kymaton.core.planning.fixes import Fix

KEEP_AFTER_MS = 800
EXAMINE_AFTER_MS = 30  # an edit that follows at once is not examined in vain
OPENED_AFTER_MS = 300  # the window draws first
STATES_KEPT = 40
HEADLINES_KEPT = 6


class _Known(Struct):
    """What has been worked out about one state of the show; holds the show, so that its id stays taken."""

    show: Show
    report: Report | None = None
    steps: dict[str, Readiness | None] = field(default_factory=dict)
    worked: dict[object, Any] = field(default_factory=dict)


class _Edit(QUndoCommand):
    def __init__(self, document: "Document", show: Show, text: str) -> None:
        super().__init__(text)
        self.document, self.before, self.after = document, document.show, show

    def redo(self) -> None:
        self.document._set_show(self.after)

    def undo(self) -> None:
        self.document._set_show(self.before)


def opening_cue(show: Show) -> str | None:
    """The busiest cue: the one with most must-hear wishes, or else the first; None without cues."""
    must = Counter(cue for wish in show.plan if wish.want is Want.MUST for cue in wish.cues)
    return max((c.id for c in show.cues), key=lambda c: must[c], default=None)


class Document(QObject):
    """One show. Every edit goes through `edit`; everything that is shown comes from `report` and `cue_report`.

    The report of the current cue is there at once; that of the other cues follows from another thread.
    """

    show_changed = pyqtSignal()
    report_changed = pyqtSignal()
    cue_changed = pyqtSignal()
    selection_changed = pyqtSignal()
    file_changed = pyqtSignal()
    message = pyqtSignal(str)
    logged = pyqtSignal()

    def __init__(self, show: Show | None = None) -> None:
        super().__init__()
        self.show = show or Show()
        self.path: Path | None = None
        self.read_from: Path | None = None  # the file that holds the show as it is now, saved or only opened
        self.seen: tuple[int, int, int] | None = None  # the file of `path` as it was read or written here
        self.folder: Path | None = None
        self.stack = QUndoStack(self)
        self.stack.cleanChanged.connect(self._clean_changed)
        self.journal = Journal()
        self.logbook = Logbook()
        self.restored = False
        self.cue_id: str | None = None
        self.listener_id: str | None = None
        self.sound_id: str | None = None
        self.pointed: tuple[str, ...] = ()  # ports or devices that a finding of the rig is about
        self._current: CueReport | None = None
        self._known: OrderedDict[int, _Known] = OrderedDict()
        self._keep_timer = QTimer(self)
        self._keep_timer.setSingleShot(True)
        self._keep_timer.setInterval(KEEP_AFTER_MS)
        self._keep_timer.timeout.connect(self.keep)
        self._examine_timer = QTimer(self)
        self._examine_timer.setSingleShot(True)
        self._examine_timer.timeout.connect(self._examine)
        self._take(self.show)

    # opening and saving

    def open(self, path: Path) -> None:
        """Open a file. Raises FileError, and keeps what was open."""
        self.replace(read_show(path), path)

    def open_copy(self, path: Path) -> None:
        """Open a file as a new, unnamed show, its recordings still found beside the file."""
        self.replace(read_show(path), None, path.parent)
        self.read_from = path

    def replace(
        self,
        show: Show,
        path: Path | None,
        folder: Path | None = None,
        restored: bool = False,
        worked_out: CueReport | None = None,
    ) -> None:
        """Make another show the open one. Unsaved work on the one before is kept aside.

        `worked_out` is the report of its `opening_cue`, where that is known already.
        """
        self.keep()
        if self.is_clean:
            self.journal.forget()
        self.journal = Journal()
        self.path, self.read_from, self.folder = path, path, path.parent if path else folder
        self.seen = identity(path) if path is not None else None
        self.restored = restored
        self.cue_id = self.listener_id = self.sound_id = None
        self.stack.clear()
        self._take(show, OPENED_AFTER_MS, worked_out)
        self.file_changed.emit()
        self.cue_changed.emit()
        if restored:
            self._keep_timer.start()

    def save(self, path: Path | None = None, over: bool = False) -> None:
        """Save to a file (the one it was opened from by default). Raises FileError, and ChangedFile unless `over`."""
        target = path or self.path
        if target is None:
            raise FileError("This show has no file yet.")
        there = identity(target)
        if target == self.path and not over and there is not None and there != self.seen:
            raise ChangedFile(
                f"{target.name}: another program has changed it since it was opened here, so nothing was written."
            )
        write_show(self.show, target)
        if self.folder is not None:
            copy_stems(self.show, self.folder, target.parent)
        self.path, self.read_from, self.folder = target, target, target.parent
        self.seen = identity(target)
        self.restored = False
        self.stack.setClean()
        self._keep_timer.stop()
        self.journal.forget()
        if self.report is not None:
            self._remember(self.report)
        self.file_changed.emit()

    def _clean_changed(self, clean: bool) -> None:
        self.file_changed.emit()

    @property
    def is_clean(self) -> bool:
        return self.stack.isClean() and not self.restored

    def keep(self) -> bool:
        """Write unsaved work aside; whether there was any, and it is kept."""
        self._keep_timer.stop()
        if self.is_clean:
            return False
        try:
            self.journal.keep(self.show, self.path, self.folder, datetime.datetime.now())
        except FileError as error:
            self.message.emit(str(error))
            return False
        return True

    # editing

    def edit(self, show: Show, text: str) -> None:
        """Replace the show by an edited one; `text` names the edit for undo.

        What could not be opened again is not taken: the reason is said, and everything shows what it was.
        """
        if show is self.show:
            return
        try:
            self.stack.push(_Edit(self, validated(show), text))
        except ShowError as error:
            self.message.emit(f"This cannot be taken: {error}.")
            self.show_changed.emit()

    def apply(self, changes: tuple[Change, ...], text: str) -> None:
        self.edit(apply(self.show, changes), text)

    def _set_show(self, show: Show) -> None:
        self._take(show)
        self._keep_timer.start()

    def _take(self, show: Show, examine_after_ms: int = EXAMINE_AFTER_MS, worked_out: CueReport | None = None) -> None:
        self.show = show
        if self.cue_id not in [c.id for c in show.cues]:
            self.cue_id = opening_cue(show)
        if self.listener_id not in [x.id for x in show.listeners]:
            self.listener_id = None
        if self.sound_id not in [s.id for s in show.sounds]:
            self.sound_id = None
        self._current = worked_out
        self._known.setdefault(id(show), _Known(show))
        self._known.move_to_end(id(show))
        while len(self._known) > STATES_KEPT:
            self._known.popitem(last=False)
        if self.report is None:
            self._examine_timer.start(examine_after_ms)
        self.show_changed.emit()
        self.report_changed.emit()

    # what Kymaton says

    def _examine(self) -> None:
        """Look at all cues, on another thread, once the interface has drawn what it has."""
        show = self.show

        def work(job: Job) -> Report:
            report = Report(show)
            report.cards_of_variants  # noqa: B018  # worked out here, so that nobody waits for it at the window
            return report

        Job(work, partial(self._examined, show), self.message.emit).begin()

    def _examined(self, show: Show, report: Report) -> None:
        if show is self.show:
            self._known[id(show)].report, self._current = report, None
            self._remember(report)
            self.report_changed.emit()

    def _remember(self, report: Report) -> None:
        """Keep what was found in a file for the next start."""
        if self.read_from is not None and self.is_clean:
            headlines = [card.sentence for card in self.cue_report.cards[:HEADLINES_KEPT]]
            remember(self.read_from, self.show.title, report.verdict, headlines, datetime.datetime.now())

    @property
    def report(self) -> Report | None:
        """The report of all cues, None while it is being worked out."""
        return self._known[id(self.show)].report

    @property
    def cue_report(self) -> CueReport:
        """What is said of the current cue; computed at once when the full report is still on its way."""
        if self._current is None:
            if self.report is not None and self.cue_id in self.report.cues:
                self._current = self.report.cues[self.cue_id]
            else:
                self._current = CueReport(CueSolution(self.show, self.cue_id))
        return self._current

    def faults_in(self, cue: str | None) -> int | None:
        """Number of faults of the plain rig in a cue; None while it is not known yet."""
        if cue == self.cue_id:
            return self.cue_report.count("fault")
        return None if self.report is None else self.report.count("fault", cue=cue, variants=False)

    def log(self, kind: str, text: str) -> None:
        """One line in the logbook, of now, this show and this cue."""
        cue = self.show.cue(self.cue_id).name if self.cue_id is not None else ""
        now = datetime.datetime.now().isoformat(timespec="seconds")
        try:
            self.logbook.add(Entry(now, self.show.title, cue, kind, text))
        except FileError as error:
            self.message.emit(str(error))
        self.logged.emit()

    def readiness(self, step: str) -> Readiness | None:
        """How far a step is; None while it is not known, or where there is nothing to examine."""
        known = self._known[id(self.show)]
        if known.report is None:
            return None
        if step not in known.steps:
            known.steps[step] = readiness(known.report, step)
        return known.steps[step]

    def find_fix(self, card: Card, found: "Callable[[Fix | None], object]") -> None:
        """Look for a fix of a card, off-thread; `found(fix or None)` is called unless the show changed meanwhile.

        Without the report of all cues nothing is done: ask again when it is there (`report_changed`).
        """
        report = self._known[id(self.show)].report
        if report is not None:
            from kymaton.core.planning.fixes import find_fix  # late: no fix is wanted before the report is there

            self.work_out(card.key, lambda job: find_fix(report, card.findings), found)

    def find_cure(self, card: Card, found: "Callable[[Cure | None], object]") -> None:
        """Look for what a hand can do about a card of the load-in, as `find_fix` does for settings."""
        from kymaton.core.planning.by_hand import cure_of  # late: see above

        show = self.show
        self.work_out((*card.key, "by hand"), lambda job: cure_of(show, card.first), found)

    def work_out(self, key: object, work: Callable[[Job], Any], found: Callable[[Any], object]) -> None:
        """Work something out about the show, off-thread, once; `found` is called unless the show changed meanwhile."""
        known = self._known[id(self.show)]
        if key in known.worked:
            found(known.worked[key])
            return

        def done(result: Any) -> None:
            known.worked[key] = result
            if known.show is self.show and not is_gone(found):
                found(result)

        Job(work, done, self.message.emit).begin()

    # what is looked at

    def choose_cue(self, cue: str | None) -> None:
        if cue != self.cue_id:
            self.cue_id, self._current = cue, None
            self.cue_changed.emit()
            self.report_changed.emit()

    def step_cue(self, by: int) -> None:
        cues = [c.id for c in self.show.cues]
        if cues:
            index = cues.index(self.cue_id) if self.cue_id in cues else 0
            self.choose_cue(cues[max(0, min(len(cues) - 1, index + by))])

    def select(self, listener: str | None, sound: str | None) -> None:
        """Choose a listener, a sound, or both: what the views show in detail."""
        if (listener, sound) != (self.listener_id, self.sound_id) or self.pointed:
            self.listener_id, self.sound_id, self.pointed = listener, sound, ()
            self.selection_changed.emit()

    def point(self, ports: tuple[str, ...]) -> None:
        """Show a place of the rig: what a finding without a listener is about."""
        self.listener_id, self.sound_id, self.pointed = None, None, ports
        self.selection_changed.emit()

    def select_finding(self, finding: Finding) -> None:
        if finding.cue is not None:
            self.choose_cue(finding.cue)
        if finding.ports:
            self.point(finding.ports)
        else:
            self.select(finding.listener, finding.sound)
