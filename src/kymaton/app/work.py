"""Work off the interface thread: with progress, Stop, a result or one sentence."""

import contextlib
from collections.abc import Callable
from typing import Any

from PyQt6 import sip
from PyQt6.QtCore import QObject, QRunnable, QThreadPool, pyqtSignal

from kymaton.core.errors import FileError, Progress, RenderError, Stopped
from kymaton.core.scipy_loading import load_scipy


class Job(QObject):
    """A piece of work, to be run as `work(job)` on a thread of the pool.

    Connect its signals, which arrive on the thread that made it, then `begin`; keep the job while it runs.
    """

    progress = pyqtSignal(float)
    done = pyqtSignal(object)
    failed = pyqtSignal(str)
    stopped = pyqtSignal()

    def __init__(self, work: "Callable[[Job], Any]") -> None:
        super().__init__()
        self.work = work
        self.cancelled = False

    def begin(self) -> None:
        pool = QThreadPool.globalInstance()
        assert pool is not None
        pool.start(_Runner(self))

    def stop(self) -> None:
        self.cancelled = True

    def report(self, part: float) -> bool:
        """To be called by the work: how much is done; False means stop."""
        if not self.cancelled:
            self.progress.emit(part)
        return not self.cancelled

    def part(self, number: int, of: int) -> Progress:
        """What one of several equal parts of the work reports to."""
        return lambda done: self.report((number + done) / of)


def is_gone(call: Callable[..., Any]) -> bool:
    """Whether a call belongs to a widget that was closed meanwhile."""
    owner = getattr(call, "__self__", None)
    return isinstance(owner, QObject) and sip.isdeleted(owner)


class _Runner(QRunnable):
    def __init__(self, job: Job) -> None:
        super().__init__()
        self.job = job

    def run(self) -> None:
        try:
            load_scipy()
            result = self.job.work(self.job)
        except Stopped:
            self._tell("stopped")
        except (FileError, RenderError) as error:
            self._tell("failed", str(error))
        except MemoryError:
            self._tell("failed", "There is not enough memory for this.")
        except Exception as error:  # a defect: say so in one line, keep what was there
            self._tell("failed", f"This did not work, by a mistake in Kymaton ({type(error).__name__}: {error}).")
        else:
            self._tell("done", result)

    def _tell(self, signal: str, *values: Any) -> None:
        with contextlib.suppress(RuntimeError):  # the window, and the job with it, is gone
            getattr(self.job, signal).emit(*values)
