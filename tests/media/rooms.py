"""What the tests of `apart` have done in the other process."""

import os
import signal
import time
from pathlib import Path

from kymaton.core.errors import FileError, MeasureError, Progress, Stopped
from kymaton.media.clips import beside


def number(path: Path, progress: Progress) -> int:
    """The number of the process."""
    return os.getpid()


def fall_over(path: Path, progress: Progress) -> None:
    """As a decoder does on what it does not expect."""
    os.kill(os.getpid(), signal.SIGSEGV)


def fall_over_while_writing(path: Path, progress: Progress) -> None:
    beside(path).write_bytes(b"half")
    os.kill(os.getpid(), signal.SIGKILL)


def swell(path: Path, progress: Progress) -> int:
    return len(bytearray(20_000_000_000))


def stand_still(path: Path, progress: Progress) -> None:
    while True:
        time.sleep(1)


def work_on(path: Path, progress: Progress, part: float = 0.5) -> None:
    """Write something until it is told to stop."""
    half = beside(path)
    half.write_bytes(b"half")
    try:
        while progress(part):
            time.sleep(0.01)
        raise Stopped
    finally:
        half.unlink()


def refuse(path: Path, progress: Progress) -> None:
    raise FileError(f"{path.name}: no.") from MeasureError("Too short.")


def err(path: Path, progress: Progress) -> None:
    raise ZeroDivisionError("a mistake")


def want(path: Path, progress: Progress) -> None:
    path.read_bytes()


def echo(what: object, progress: Progress) -> object:
    return what
