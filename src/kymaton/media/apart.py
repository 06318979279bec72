"""Work on foreign media in a process of its own: what a decoder does not survive, the window and the show do.

The process takes one call after another. It may fill a part of the memory only, and what nothing is heard of for
minutes is ended. When the one that called is gone it stops too, and takes away what it began to write.
"""

import atexit
import contextlib
import glob
import importlib
import os
import queue
import resource
import subprocess
import sys
import threading
import time
import traceback
from collections.abc import Iterator
from multiprocessing.connection import Connection, Pipe
from pathlib import Path
from typing import Any

from msgspec import Struct

from kymaton.core.errors import FileError, KymatonError, Progress, Stopped
from kymaton.store.atomic import sweep

MOST_BYTES, SHARE = 8_000_000_000, 0.75  # of memory: in all, and of what the computer has; chosen
SILENT_S = 300.0  # chosen: no step of any work lasts as long on films of hours
STOP_S = 3.0  # in which work has to stop when it is told to
LOOK_S = 0.1  # between two looks whether it is to stop
TOLD_S = 0.05  # between two reports of progress


class Call(Struct, frozen=True):
    """What is to be done: `work` is `module:function`, which takes `progress` as well."""

    number: int
    work: str
    arguments: tuple[Any, ...]
    named: dict[str, Any]


def apart(work: str, *arguments: Any, progress: Progress | None = None, **named: Any) -> Any:
    """What a function (`module:function`) returns that is called in a process of its own.

    Raises what it raises, Stopped when progress returns False, and FileError when the process does not survive it.
    """
    room = _taken()
    try:
        result = room.call(work, arguments, named, progress)
    except (KymatonError, Stopped):
        _given_back(room)
        raise
    except BaseException:
        room.end(STOP_S)
        raise
    finally:
        if not room.alive:
            for path in _paths((arguments, named)):
                sweep(path.parent, f".{glob.escape(path.name)}.*.part")
                sweep(path.parent, f".{glob.escape(path.stem)}.*{glob.escape(path.suffix)}")
    _given_back(room)
    return result


class Room:
    """A process that works, seen from outside."""

    def __init__(self) -> None:
        self.line, theirs = Pipe()
        with theirs:
            self.process = subprocess.Popen(
                [sys.executable, "-P", "-m", "kymaton.media.apart", str(theirs.fileno())],
                pass_fds=(theirs.fileno(),),
                stdin=subprocess.DEVNULL,
                stdout=subprocess.DEVNULL,
                stderr=subprocess.DEVNULL,
                start_new_session=True,  # Ctrl+C in the terminal is for the one that called
            )
        self.calls = 0
        self.alive = True

    def call(self, work: str, arguments: tuple[Any, ...], named: dict[str, Any], progress: Progress | None) -> Any:
        """One call. Raises what the function raises, Stopped, and FileError when the process does not survive it."""
        self.calls += 1
        part, heard_s, asked_s = 0.0, time.monotonic(), 0.0
        try:
            self.line.send(Call(self.calls, work, arguments, named))
            while True:
                if self.line.poll(LOOK_S):
                    kind, value = self.line.recv()
                    heard_s = time.monotonic()
                    if kind == "done":
                        return value
                    if kind == "raised":
                        error, cause = value
                        raise error from cause
                    part = value
                now_s = time.monotonic()
                if now_s - heard_s > SILENT_S:
                    self.end(0.0)
                    minutes = f"{SILENT_S / 60:.0f} minutes"
                    raise FileError(f"{_names(arguments)}: nothing came of reading it for {minutes}, so it was ended.")
                if asked_s and now_s - asked_s > STOP_S:
                    self.end(0.0)
                    raise Stopped
                if not asked_s and progress is not None and not progress(part):
                    asked_s = now_s
                    self.line.send(self.calls)
        except (EOFError, ConnectionError):
            self.end(0.0)
            raise FileError(f"{_names(arguments)}: it is damaged in a way that reading does not survive.") from None

    def end(self, patience_s: float) -> None:
        """No more calls; what runs has some time to stop by itself."""
        self.alive = False
        self.line.close()
        try:
            self.process.wait(patience_s)
        except subprocess.TimeoutExpired:
            self.process.kill()
            self.process.wait()


_free: list[Room] = []
_lock = threading.Lock()


def _taken() -> Room:
    with _lock:
        while _free:
            room = _free.pop()
            if room.process.poll() is None:
                return room
            room.end(0.0)
    return Room()


def _given_back(room: Room) -> None:
    """One process waits for the next call; more are not kept."""
    if not room.alive:
        return
    with _lock:
        if not _free:
            _free.append(room)
            return
    room.end(STOP_S)


@atexit.register
def end_all() -> None:
    """End the process that waits."""
    with _lock:
        while _free:
            _free.pop().end(STOP_S)


def _paths(value: object) -> Iterator[Path]:
    """Every path in the arguments of a call."""
    if isinstance(value, Path):
        yield value
    elif isinstance(value, dict):
        yield from _paths(tuple(value.values()))
    elif isinstance(value, list | tuple):
        for item in value:
            yield from _paths(item)
    elif isinstance(value, Struct):
        yield from _paths(tuple(getattr(value, name) for name in value.__struct_fields__))


def _names(arguments: object) -> str:
    return " or ".join(dict.fromkeys(p.name for p in _paths(arguments))) or "the file"


# inside


def serve(line: Connection) -> None:
    """Answer calls until the one that calls is gone."""
    waiting: queue.SimpleQueue[Call | None] = queue.SimpleQueue()
    stopped = _StopMark()
    threading.Thread(target=_listen, args=(line, waiting, stopped), daemon=True).start()
    while (call := waiting.get()) is not None:
        answer = _answer(call, line, stopped)
        try:
            line.send(answer)
        except (OSError, ValueError):
            return


class _StopMark:
    """The last call that is not wanted any more."""

    number = 0


def _listen(line: Connection, waiting: "queue.SimpleQueue[Call | None]", stopped: _StopMark) -> None:
    with contextlib.suppress(EOFError, OSError):
        while True:
            told = line.recv()
            if isinstance(told, Call):
                waiting.put(told)
            else:
                stopped.number = told
    stopped.number = sys.maxsize
    waiting.put(None)
    time.sleep(STOP_S)
    os._exit(1)  # it did not stop


def _answer(call: Call, line: Connection, stopped: _StopMark) -> tuple[str, Any]:
    told_s = 0.0

    def progress(part: float) -> bool:
        nonlocal told_s
        if time.monotonic() - told_s > TOLD_S:
            told_s = time.monotonic()
            with contextlib.suppress(OSError):
                line.send(("progress", part))
        return call.number > stopped.number

    module, _, name = call.work.partition(":")
    try:
        function = getattr(importlib.import_module(module), name)
        return "done", function(*call.arguments, progress=progress, **call.named)
    except (KymatonError, Stopped, OSError, MemoryError) as error:
        cause = error.__cause__ if isinstance(error.__cause__, KymatonError) else None
        return "raised", (error if isinstance(error, KymatonError | Stopped) else _plain(error), cause)
    except Exception as error:
        told = RuntimeError(f"{type(error).__name__}: {error}")
        told.add_note(traceback.format_exc())
        return "raised", (told, None)


def _plain(error: OSError | MemoryError) -> Exception:
    """The error as Python's own kind, which can be sent whatever library made it."""
    if isinstance(error, MemoryError):
        return MemoryError(str(error))
    return OSError(error.errno, error.strerror or str(error), error.filename)


def main() -> None:
    """The process itself; its one argument is the number of the line to the one that calls."""
    with contextlib.suppress(ValueError, OSError):
        most = int(min(MOST_BYTES, SHARE * os.sysconf("SC_PHYS_PAGES") * os.sysconf("SC_PAGE_SIZE")))
        resource.setrlimit(resource.RLIMIT_DATA, (most, most))
        resource.setrlimit(resource.RLIMIT_CORE, (0, 0))
    serve(Connection(int(sys.argv[1])))


if __name__ == "__main__":
    from kymaton.media import apart as whole

    whole.main()
