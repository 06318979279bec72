"""Writing a file whole: at every moment the old or the new content is there, never half of either."""

import contextlib
import os
from pathlib import Path

from kymaton.core.errors import FileError


def write_whole(path: Path, data: bytes, keep_previous: bool = False) -> None:
    """Write a file so that the old or the new content is there, whole, whatever happens meanwhile."""
    beside = path.with_name(f".{path.name}.{os.getpid()}.part")
    try:
        with beside.open("wb") as file:
            file.write(data)
            file.flush()
            os.fsync(file.fileno())
        if keep_previous and path.exists():
            _keep(path)
        beside.replace(path)
        _sync_folder(path.parent)
    except OSError as error:
        with contextlib.suppress(OSError):
            beside.unlink()
        raise FileError(f"{path}: it cannot be written ({(error.strerror or 'unknown reason').lower()}).") from error


def _keep(path: Path) -> None:
    previous = path.with_name(f"{path.name}.previous")
    beside = path.with_name(f".{path.name}.{os.getpid()}.previous")
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
