"""Work off the interface thread: with progress, Stop, a result or one sentence.

What belongs to the interface is made, called and freed on its own thread. A thread of the pool knows a job by its
number only and posts what comes of it; and garbage is collected on the interface thread alone (`Collector`). Else the
last thread to let go of a widget frees it, under the hands of the one that draws it.
"""

import contextlib
import functools
import gc
import itertools
from collections.abc import Callable
from typing import Any

from PyQt6 import sip
from PyQt6.QtCore import QObject, QRunnable, QThreadPool, QTimer, pyqtSignal

from kymaton.core.errors import FileError, Progress, RenderError, Stopped
from kymaton.core.scipy_loading import load_scipy

COLLECT_EVERY_MS = 1000


def _nothing(*_: object) -> None:
    pass


class Job:
    """A piece of work, to be run as `work(job)` on a thread of the pool.

    What comes of it is told on the interface thread: `progress(part)` as often as the work reports, and once one of
    `done(result)`, `failed(sentence)`, `stopped()`; not to a method of a widget that was closed meanwhile.
    """

    def __init__(
        self,
        work: "Callable[[Job], Any]",
        done: Callable[[Any], object] = _nothing,
        failed: Callable[[str], object] = _nothing,
        stopped: Callable[[], object] = _nothing,
        progress: Callable[[float], object] = _nothing,
    ) -> None:
        self.work = work
        self.done, self.failed, self.stopped, self.progress = done, failed, stopped, progress
        self.number = next(_numbers)
        self.cancelled = False

    def begin(self) -> None:
        pool = QThreadPool.globalInstance()
        assert pool is not None
        _post_office()
        _running[self.number] = self
        pool.start(_Runner(self.number))

    def stop(self) -> None:
        self.cancelled = True

    def report(self, part: float) -> bool:
        """To be called by the work: how much is done; False means stop."""
        if not self.cancelled:
            _post(self.number, "progress", part)
        return not self.cancelled

    def part(self, number: int, of: int) -> Progress:
        """What one of several equal parts of the work reports to."""
        return lambda done: self.report((number + done) / of)


def stop_all() -> None:
    """Tell all that runs to stop: the window is closed."""
    for job in list(_running.values()):
        job.stop()


def is_gone(call: Callable[..., Any]) -> bool:
    """Whether a call belongs to a widget that was closed meanwhile."""
    if isinstance(call, functools.partial):
        return is_gone(call.func)
    owner = getattr(call, "__self__", None)
    return isinstance(owner, QObject) and sip.isdeleted(owner)


_numbers = itertools.count()
_running: dict[int, Job] = {}


class _PostOffice(QObject):
    """Brings what threads post to the interface thread, where it lives for as long as the program."""

    posted = pyqtSignal(int, str, object)

    def __init__(self) -> None:
        super().__init__()
        self.posted.connect(self._deliver)

    def _deliver(self, number: int, what: str, value: object) -> None:
        job = _running.get(number) if what == "progress" else _running.pop(number)
        if job is None:  # a thread of the work's own told it late
            return
        call = getattr(job, what)
        if not is_gone(call):
            call() if what == "stopped" else call(value)


@functools.cache
def _post_office() -> _PostOffice:
    return _PostOffice()


def _post(number: int, what: str, value: object) -> None:
    with contextlib.suppress(RuntimeError):  # the program is ending, and the post office is gone
        _post_office().posted.emit(number, what, value)


class _Runner(QRunnable):
    def __init__(self, number: int) -> None:
        super().__init__()
        self.number = number

    def run(self) -> None:
        what, value = _outcome(self.number)  # when this has returned, the thread holds nothing of the job's
        _post(self.number, what, value)


def _outcome(number: int) -> tuple[str, object]:
    job = _running[number]
    try:
        load_scipy()
        return "done", job.work(job)
    except Stopped:
        return "stopped", None
    except (FileError, RenderError) as error:
        return "failed", str(error)
    except MemoryError:
        return "failed", "There is not enough memory for this."
    except Exception as error:  # a defect: say so in one line, keep what was there
        return "failed", f"This did not work, by a mistake in Kymaton ({type(error).__name__}: {error})."


class Collector(QObject):
    """Collects garbage on the interface thread, and so takes the place of Python's own, which any thread may set off.

    Once a second, by the thresholds of Python.
    """

    def __init__(self, parent: QObject) -> None:
        super().__init__(parent)
        gc.disable()
        self.timer = QTimer(self)
        self.timer.timeout.connect(self.collect)
        self.timer.start(COLLECT_EVERY_MS)

    def collect(self) -> None:
        counts = zip(gc.get_count(), gc.get_threshold(), strict=True)
        due = [generation for generation, (count, most) in enumerate(counts) if count > most]
        if due:
            gc.collect(due[-1])
