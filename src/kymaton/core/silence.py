"""Nothing of what libraries print by themselves: the solver of mixed-integer programmes now and then has something."""

import contextlib
import ctypes
import os
import sys
import threading
from collections.abc import Iterator


@contextlib.contextmanager
def silence() -> Iterator[None]:
    """Throw away what is written to the standard output meanwhile, where a command waits for it: on its main thread.

    On other threads nothing is done: there the output belongs to others at the same time.
    """
    kept = nowhere = -1
    if threading.current_thread() is threading.main_thread():
        with contextlib.suppress(OSError, ValueError):  # there is no standard output
            if sys.stdout is not None:
                sys.stdout.flush()
            nowhere = os.open(os.devnull, os.O_WRONLY)
            kept = os.dup(1)
            os.dup2(nowhere, 1)
    try:
        yield
    finally:
        if kept >= 0:
            ctypes.CDLL(None).fflush(None)  # or it would come out later
            os.dup2(kept, 1)
        for one in (kept, nowhere):
            if one >= 0:
                os.close(one)
