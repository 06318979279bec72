"""Writing a file whole: at every moment the old or the new content is there, never half of either."""

import contextlib
import glob
import os
import stat
from pathlib import Path

from kymaton.core.errors import FileError


def write_whole(path: Path, data: bytes, keep_previous: bool = False) -> None:
    """Write a file so that the old or the new content is there, whole, whatever happens meanwhile.

    A link stays one, and what it names is written; a file that is there keeps its mode. Raises FileError, also for what
    is write-protected or no regular file.
    """
    try:
        path = path.resolve()
        beside = path.with_name(f".{path.name}.{os.getpid()}.part")
        there = path.stat() if path.exists() else None
    except (OSError, ValueError, RuntimeError) as error:
        reason = getattr(error, "strerror", None) or "no file can have such a name"
        raise FileError(f"{str(path)!r}: it cannot be written ({reason.lower()}).") from error
    sweep(path.parent, f".{glob.escape(path.name)}.*.part")
    if there is not None and not stat.S_ISREG(there.st_mode):
        raise FileError(f"{path}: it cannot be written (it is no regular file).")
    if there is not None and not there.st_mode & 0o222:
        raise FileError(f"{path}: it cannot be written (it is write-protected).")
    try:
        with beside.open("wb") as file:
            file.write(data)
            file.flush()
            os.fsync(file.fileno())
            if there is not None:
                os.fchmod(file.fileno(), stat.S_IMODE(there.st_mode))
        if keep_previous and path.exists():
            _keep(path)
        beside.replace(path)
        _sync_folder(path.parent)
    except OSError as error:
        with contextlib.suppress(OSError):
            beside.unlink()
        raise FileError(f"{path}: it cannot be written ({(error.strerror or 'unknown reason').lower()}).") from error


def sweep(folder: Path, pattern: str) -> None:
    """Take away what was begun here and never ended: files `.….PID.….` of processes that do not run any more."""
    with contextlib.suppress(OSError):
        for left in folder.glob(pattern):
            number = next((part for part in reversed(left.name.split(".")) if part.isdigit()), "")
            if number and not is_running(int(number)):
                with contextlib.suppress(OSError):
                    left.unlink()


def is_running(process: int) -> bool:
    """Whether a process of this number runs, and is a Kymaton."""
    try:
        os.kill(process, 0)
    except (ProcessLookupError, OverflowError):
        return False
    except PermissionError:
        pass
    with contextlib.suppress(OSError):
        return b"kymaton" in Path(f"/proc/{process}/cmdline").read_bytes() or process == os.getpid()
    return True


def _keep(path: Path) -> None:
    previous = path.with_name(f"{path.name}.previous")
    beside = path.with_name(f".{path.name}.previous.{os.getpid()}.part")
    with contextlib.suppress(FileNotFoundError):
        beside.unlink()
    try:
        os.link(path, beside)
    except OSError:
        import shutil  # late: where links cannot be made

        shutil.copy2(path, beside)
    beside.replace(previous)


def _sync_folder(folder: Path) -> None:
    handle = os.open(folder, os.O_RDONLY)
    try:
        os.fsync(handle)
    finally:
        os.close(handle)
