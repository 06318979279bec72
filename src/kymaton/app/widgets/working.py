"""One piece of long work at a time: what is being done, how far it is, and Stop."""

from collections.abc import Callable
from functools import partial
from typing import Any

from PyQt6.QtWidgets import QHBoxLayout, QProgressBar, QWidget

from kymaton.app.document import Document
from kymaton.app.widgets.basic import button, label
from kymaton.app.work import Job


class WorkRow(QWidget):
    """Hidden while nothing is being done."""

    def __init__(self, document: Document) -> None:
        super().__init__()
        self.document = document
        self.job: Job | None = None
        layout = QHBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        self.what = label("", "small")
        self.progress = QProgressBar()
        self.progress.setRange(0, 1000)
        self.progress.setTextVisible(False)
        self.progress.setFixedHeight(6)
        self.progress.setAccessibleName("Progress of the work")
        self.stop_button = button("Stop", self.stop, "", "Stop; nothing is changed")
        layout.addWidget(self.what)
        layout.addWidget(self.progress, 1)
        layout.addWidget(self.stop_button)
        self.hide()

    def start(self, work: Callable[[Job], Any], what: str, done: Callable[[Any], object]) -> None:
        """Do some work off the interface thread; `done` gets its result. A second piece has to wait."""
        if self.job is not None:
            self.document.message.emit("One piece of work at a time: wait, or press Stop.")
            return
        self.what.setText(what)
        self.progress.setValue(0)
        self.show()
        failed = partial(self._ended, self.document.message.emit)
        self.job = Job(work, partial(self._ended, done), failed, self._stopped, self._progressed)
        self.job.begin()

    def _progressed(self, part: float) -> None:
        self.progress.setValue(round(1000 * part))

    def _stopped(self) -> None:
        self.job = None
        self.hide()

    def _ended(self, then: Callable[[Any], object], result: Any) -> None:
        """The work is over, and in the same go what follows from it, which may begin the next piece."""
        self._stopped()
        then(result)

    def stop(self) -> None:
        if self.job is not None:
            self.job.stop()
