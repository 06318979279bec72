"""How a signal ends a command: what was begun is taken away again."""

import contextlib
import signal
import sys
from types import FrameType

_asked: list[BaseException] = []
_told = sys.unraisablehook


def heed_signals() -> None:
    """From now on Ctrl+C, unless it is to be ignored, and what a shell or a system sends at its end, end a command."""
    _asked.clear()
    sys.unraisablehook = _not_told
    with contextlib.suppress(ValueError):  # not the main thread
        for number in (signal.SIGTERM, signal.SIGHUP):
            signal.signal(number, _end)
        if signal.getsignal(signal.SIGINT) is signal.default_int_handler:
            signal.signal(signal.SIGINT, _end)


def _not_told(about: "sys.UnraisableHookArgs") -> None:
    """What a handler raises while an object is taken away, Python would tell as a mistake."""
    if about.exc_value not in _asked:
        _told(about)


def end_if_asked() -> None:
    """End now if it was asked for: what a handler raises while an object is taken away, Python forgets."""
    if _asked:
        raise _asked[0]


def _end(number: int, frame: FrameType | None) -> None:
    _asked.append(KeyboardInterrupt() if number == signal.SIGINT else SystemExit(128 + number))
    end_if_asked()
