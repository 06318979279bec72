"""What the table stands beside: another cue, the rig in a variant, or what is proposed; chosen from a menu."""

from collections.abc import Callable
from functools import partial
from typing import TYPE_CHECKING

from PyQt6.QtCore import QObject, pyqtSignal
from PyQt6.QtWidgets import QMenu

from kymaton.app.document import Document
from kymaton.core.checks.comparing import Comparison, compare
from kymaton.core.checks.report import CueReport, Report
from kymaton.core.edits.controls import apply
from kymaton.core.model import Show

if TYPE_CHECKING:
    from kymaton.core.planning.planner import Proposal


class Beside(QObject):
    """The second of two solved cues; `name` is empty while there is none. What the show changes is followed."""

    changed = pyqtSignal()

    def __init__(self, document: Document) -> None:
        super().__init__()
        self.document = document
        self.name = ""
        self._find: Callable[[], CueReport | None] | None = None
        self._report: CueReport | None = None
        self._comparison: Comparison | None = None
        self._made_for: CueReport | None = None

    @property
    def report(self) -> CueReport | None:
        """The second one, None where there is none or it is still worked out."""
        here = self.document.cue_report
        if self._find is not None and self._made_for is not here:
            self._report, self._made_for = self._find(), here
            self._comparison = None if self._report is None else compare(here, self._report)
        return self._report

    @property
    def comparison(self) -> Comparison | None:
        """What differs between the cue in view and the second one."""
        return self._comparison if self.report is not None else None

    def to_hear(self) -> tuple[str, Show, str | None] | None:
        """The second one as it is to be listened to: its name, its show and its cue; None where there is none."""
        report = self.report
        return None if report is None else (self.name, report.view.show, report.view.cue_id)

    def leave(self) -> None:
        """Compare no more."""
        self._set("", None)

    def with_cue(self, cue: str) -> None:
        """Beside another cue of the same show."""

        def found() -> CueReport | None:
            report = self.document.report
            return report.cues.get(cue) if report is not None else None

        self._set(self.document.show.cue(cue).name, found)

    def with_variant(self, variant: str) -> None:
        """Beside this cue in a variant of the rig."""

        def found() -> CueReport | None:
            report = self.document.report
            rig = report.variants.get(variant) if report is not None else None
            return rig.cues.get(self.document.cue_id) if rig is not None else None

        name = next(v.name for v in self.document.show.variants if v.id == variant)
        self._set(f"the variant {name}", found)

    def with_proposal(self, proposal: "Proposal") -> None:
        """Beside this cue as it would be with all that is proposed."""
        show = self.document.show
        after = apply(show, proposal.changes)

        def found() -> CueReport | None:
            return Report(after, only=self.document.cue_id).cues[self.document.cue_id]

        self._set("what is proposed", lambda: found() if self.document.show is show else None)

    def _set(self, name: str, find: Callable[[], CueReport | None] | None) -> None:
        self.name, self._find = name, find
        self._report = self._comparison = self._made_for = None
        self.changed.emit()

    def fill(self, menu: QMenu, proposal: "Proposal | None") -> None:
        """What can be compared with."""
        show = self.document.show
        for cue in show.cues:
            if cue.id != self.document.cue_id:
                menu.addAction(cue.name, partial(self.with_cue, cue.id))
        for variant in show.variants:
            menu.addAction(f"Variant {variant.name}", partial(self.with_variant, variant.id))
        if proposal is not None and proposal.changes:
            menu.addAction("What is proposed", partial(self.with_proposal, proposal))
        if self.name:
            menu.addSeparator()
            menu.addAction("Compare no more", self.leave)
        if menu.isEmpty():
            nothing = menu.addAction("There is no other cue or variant")
            assert nothing is not None
            nothing.setEnabled(False)
