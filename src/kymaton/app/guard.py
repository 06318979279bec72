"""A mistake in Kymaton ends no window: the work is kept, and one line says what happened."""

import contextlib
import sys
import threading
import time
from types import TracebackType
from typing import TYPE_CHECKING

from PyQt6.QtCore import QThread
from PyQt6.QtGui import QPainter

if TYPE_CHECKING:
    from kymaton.app.window import Window

AGAIN_S = 30.0  # until the same mistake is told again: one in painting comes with every picture


class Guard:
    """Takes the place of what Python does with an error that nobody caught, which with Qt is to end the program."""

    def __init__(self, window: "Window") -> None:
        self.window = window
        self.told: dict[str, float] = {}
        sys.excepthook = self.caught
        threading.excepthook = lambda about: self._write(about.exc_type.__name__, about.exc_value)

    def caught(self, kind: type[BaseException], error: BaseException, trace: TracebackType | None) -> None:
        """Keep the work and say what happened. What was being painted is ended, for Qt falls over what is not."""
        place = ""
        while trace is not None:
            place = f"{trace.tb_frame.f_code.co_filename}:{trace.tb_lineno}"
            for value in list(trace.tb_frame.f_locals.values()):
                if isinstance(value, QPainter) and value.isActive():
                    value.end()
            trace = trace.tb_next
        if issubclass(kind, KeyboardInterrupt):
            self.window.close()
            return
        now = time.monotonic()
        if now - self.told.get(place, -AGAIN_S) < AGAIN_S:
            return
        self.told[place] = now
        self._write(kind.__name__, error)
        if self.window.views and QThread.currentThread() is self.window.thread():
            with contextlib.suppress(Exception):  # nothing may come of saying it
                kept = " Your work is kept aside: save it." if self.window.document.keep() else ""
                said = f"{kind.__name__}: {error}"
                self.window.notice(f"This did not work, by a mistake in Kymaton ({said}).{kept}")

    @staticmethod
    def _write(kind: str, error: BaseException | None) -> None:
        with contextlib.suppress(Exception):
            print(f"kymaton: a mistake in Kymaton ({kind}: {error}).", file=sys.stderr)
