"""Nothing of what libraries print by themselves: the solver of mixed-integer programmes now and then has something."""

import contextlib
import ctypes
import os
import sys
import threading
from collections.abc import Iterator

_one_at_a_time = threading.Lock()


@contextlib.contextmanager
def silence() -> Iterator[None]:
    """What is written to the standard output meanwhile is thrown away."""
    with _one_at_a_time:
        try:
            if sys.stdout is not None:
                sys.stdout.flush()
            kept, nowhere = os.dup(1), os.open(os.devnull, os.O_WRONLY)
        except (OSError, ValueError):  # there is no standard output
            yield
            return
        try:
            os.dup2(nowhere, 1)
            yield
        finally:
            ctypes.CDLL(None).fflush(None)  # or it would come out later
            os.dup2(kept, 1)
            os.close(kept)
            os.close(nowhere)
