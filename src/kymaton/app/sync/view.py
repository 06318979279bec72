"""The step Sync: where sound lies against picture, and which delay to enter on which device."""

from functools import partial
from pathlib import Path

from PyQt6.QtGui import QShowEvent
from PyQt6.QtWidgets import QCheckBox, QComboBox, QHBoxLayout, QStackedWidget, QVBoxLayout, QWidget

from kymaton.app.document import Document
from kymaton.app.kinds import SOUNDS
from kymaton.app.sync.eye import EyePage
from kymaton.app.sync.files import FilesPage
from kymaton.app.sync.lanes import SyncLanes
from kymaton.app.sync.measuring import Measured
from kymaton.app.sync.recordings import RecordingsPage
from kymaton.app.widgets.basic import Aside, StepView, button, empty, label, scrolled
from kymaton.core.edits.controls import Change
from kymaton.core.model.tolerance import WINDOWS
from kymaton.core.planning.sync_delays import SyncPlan, plan_sync, setting_text
from kymaton.core.words import sentence


class SyncView(StepView):
    """Lanes of the current cue, and below them the delays to enter."""

    def __init__(self, document: Document) -> None:
        super().__init__()
        self.document = document
        self.plan: SyncPlan | None = None
        self.boxes: list[tuple[QCheckBox, Change]] = []
        layout = QVBoxLayout(self)
        layout.setContentsMargins(20, 12, 16, 10)
        layout.setSpacing(8)
        head = QHBoxLayout()
        head.addWidget(label("Sound and picture", "title"))
        head.addSpacing(8)
        self.about = Aside()
        head.addWidget(self.about, 1)
        self.tabs = {
            name: button(name.capitalize(), partial(self.show_page, name), "scope", tip)
            for name, tip in (
                ("delays", "What to enter where"),
                ("recordings", "Measure, confirm, take over"),
                ("by eye", "Frame by frame, with marks by hand"),
                ("files", "Lay two recordings over each other, embed sound into a film"),
            )
        }
        for tab in self.tabs.values():
            tab.setCheckable(True)
            head.addWidget(tab)
        layout.addLayout(head)
        self.pages = QStackedWidget()
        self.recordings = RecordingsPage(document)
        first = QWidget()
        self.pages.addWidget(first)
        self.files = FilesPage(document, self.recordings.playing)
        self.eye = EyePage(document, self._use)
        self.pages.addWidget(self.recordings)
        self.pages.addWidget(self.eye)
        self.pages.addWidget(self.files)
        layout.addWidget(self.pages, 1)
        layout = QVBoxLayout(first)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(8)
        self.cues, self.cameras, self.windows = QComboBox(), QComboBox(), QComboBox()
        for box, name, entries in (
            (
                self.cues,
                "One delay or one for each cue",
                (("one delay for all cues", False), ("a delay in each cue", True)),
            ),
            (self.cameras, "Which cameras count", (("what is on air", False), ("every camera", True))),
            (self.windows, "How early or late sound may be", tuple((w, w) for w in WINDOWS)),
        ):
            box.setAccessibleName(name)
            for text, value in entries:
                box.addItem(text, value)
        choices = QHBoxLayout()
        for word, box in (("Solve for", self.cameras), ("with", self.cues), ("judge by", self.windows)):
            choices.addWidget(label(word, "soft"))
            choices.addWidget(box)
        choices.addStretch(1)
        layout.addLayout(choices)
        self.cues.activated.connect(lambda _: self.refresh())
        self.cameras.activated.connect(lambda _: self.refresh())
        self.windows.activated.connect(lambda _: self.choose_window(self.windows.currentData()))
        self.lanes = SyncLanes(document)
        content = QWidget()
        inside = QVBoxLayout(content)
        inside.setContentsMargins(0, 0, 0, 0)
        inside.setSpacing(10)
        inside.addWidget(self.lanes)
        self.below = QVBoxLayout()
        self.below.setSpacing(4)
        inside.addLayout(self.below)
        layout.addWidget(scrolled(content), 1)
        document.report_changed.connect(self.refresh)
        document.cue_changed.connect(self.refresh)
        self.show_page("delays")
        self.refresh()

    def showEvent(self, event: QShowEvent | None) -> None:
        super().showEvent(event)
        self.refresh()

    def show_page(self, name: str) -> None:
        """Delays to enter, or recordings."""
        self.pages.setCurrentIndex(list(self.tabs).index(name))
        for other, tab in self.tabs.items():
            tab.setChecked(other == name)
        self.focus_first()

    def focus_first(self) -> None:
        """The keyboard where work begins on the page that is shown: its lanes, its place, its strip, its film."""
        page = list(self.tabs)[self.pages.currentIndex()]
        parts = {"delays": self.lanes, "recordings": self.recordings.place, "by eye": self.eye.open_button,
                 "files": self.files.film}  # fmt: skip
        parts[page].setFocus()

    def dropped(self, paths: list[Path]) -> None:
        """Films and sounds that were dropped: to look at, to put together, else to measure."""
        if self.pages.currentWidget() is self.eye:
            self.eye.open(paths[0])
        elif self.pages.currentWidget() is self.files or all(p.suffix.lower() in SOUNDS for p in paths):
            self.show_page("files")
            self.files.dropped(paths)
        else:
            self.show_page("recordings")
            self.recordings.measure(paths)

    def stop(self) -> None:
        """Nothing plays any more: the window is closed."""
        self.recordings.playing.stop()
        self.files.stop()

    def _use(self, measured: Measured) -> None:
        """Marks by hand stand with the other measurements."""
        self.show_page("recordings")
        self.recordings.add(measured)

    def choose_window(self, name: str) -> None:
        show = self.document.show
        if name != show.goals.sync_window:
            goals = show.goals.evolve(sync_window=name)
            self.document.edit(show.evolve(goals=goals), f"judge sync by {name}")

    def refresh(self) -> None:
        """Work out the plan for what is chosen; what stood here stays until it is there. Nothing is done unseen."""
        if not self.isVisible():
            return
        show = self.document.show
        self.windows.setCurrentIndex(self.windows.findData(show.goals.sync_window))
        per_cue, every = bool(self.cues.currentData()), bool(self.cameras.currentData())
        cue = self.document.cue_report.view.cue
        self.about.setText(f"in {cue.name}, {show.picture.rate.removesuffix('/1')} frames a second" if cue else "")
        self.document.work_out(("sync", per_cue, every), lambda job: plan_sync(show, per_cue, every), self._show)

    def _show(self, plan: SyncPlan) -> None:
        self.plan = plan
        self.lanes.show_plan(plan)
        empty(self.below)
        self.boxes = []
        show = self.document.show
        cues = {c.id: c.name for c in show.cues}
        if plan.changes:
            self.below.addWidget(label("Enter these delays", "heading"))
        for change in plan.changes:
            control = show.control(change.control)
            where = f"in {cues[change.cue]}" if change.cue else "in all cues"
            now, then = (setting_text(show, control, float(v)) for v in (change.before, change.after))
            box = QCheckBox(f"{sentence(control.name)}: {then} {where} (is {now})")
            box.setChecked(True)
            self.boxes.append((box, change))
            self.below.addWidget(box)
        if not plan.changes and plan.before:
            self.below.addWidget(label("No other delay is better than what is set.", "soft"))
        for remark in plan.remarks:
            self.below.addWidget(label(remark, "soft", wrap=True))
        if plan.changes:
            row = QHBoxLayout()
            row.addWidget(
                button("Enter the chosen delays", self.apply, "main", "Set them in the show; undo takes them back")
            )
            row.addStretch(1)
            self.below.addLayout(row)

    def apply(self) -> None:
        chosen = tuple(change for box, change in self.boxes if box.isChecked())
        if chosen:
            text = "enter a delay" if len(chosen) == 1 else f"enter {len(chosen)} delays"
            told = ", ".join(box.text() for box, _ in self.boxes if box.isChecked())
            self.document.apply(chosen, text)
            self.document.log("delays entered", told)
