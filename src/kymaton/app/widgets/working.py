"""One piece of long work at a time: what is being done, how far it is, and Stop."""

from collections.abc import Callable
from typing import Any

from PyQt6.QtWidgets import QHBoxLayout, QProgressBar, QWidget

from kymaton.app.document import Document
from kymaton.app.widgets.basic import button, label
from kymaton.app.work import Job, is_gone


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
        self.job = job = Job(work)
        self.what.setText(what)
        self.progress.setValue(0)
        self.show()
        job.progress.connect(lambda part: self.progress.setValue(round(1000 * part)))
        job.done.connect(lambda result: self._ended(lambda: done(result)))
        job.failed.connect(lambda text: self._ended(lambda: self.document.message.emit(text)))
        job.stopped.connect(self._ended)
        job.begin()

    def _ended(self, then: Callable[[], object] | None = None) -> None:
        """The work is over, and in the same go what follows from it, which may begin the next piece."""
        if is_gone(self._ended):
            return
        self.job = None
        self.hide()
        if then is not None:
            then()

    def stop(self) -> None:
        if self.job is not None:
            self.job.stop()
