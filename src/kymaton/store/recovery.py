"""Unsaved work: written aside while a person edits, offered back after a crash or a close without saving."""

import contextlib
import datetime
import json
import os
import uuid
from collections.abc import Iterable
from pathlib import Path

from msgspec import Struct

from kymaton.core.errors import FileError
from kymaton.core.model import Show
from kymaton.store.atomic import is_running, sweep, write_whole
from kymaton.store.folders import state_folder
from kymaton.store.showfile import SUFFIX, parse_show, read_bytes, show_bytes


def recovery_folder() -> Path:
    """Where unsaved work is kept."""
    return state_folder() / "recovery"


class RecoveredWork(Struct, frozen=True):
    """Unsaved work that was kept: which show, from which file, when."""

    file: Path
    title: str
    original: Path | None
    folder: Path | None
    when: datetime.datetime

    def show(self) -> Show:
        """The show as it was. Raises FileError."""
        return parse_show(read_bytes(self.file), self.file.name)


class Journal:
    """Keeps the unsaved state of one open show."""

    def __init__(self, folder: Path | None = None) -> None:
        self.folder = folder or recovery_folder()
        self.name = f"{os.getpid()}-{uuid.uuid4().hex[:12]}"

    @property
    def file(self) -> Path:
        """The kept show."""
        return self.folder / f"{self.name}{SUFFIX}"

    @property
    def label(self) -> Path:
        """What is known of it: title, file, time."""
        return self.folder / f"{self.name}.json"

    def keep(self, show: Show, original: Path | None, folder: Path | None, now: datetime.datetime) -> None:
        """Write the state aside. Raises FileError."""
        try:
            self.folder.mkdir(parents=True, exist_ok=True, mode=0o700)
        except OSError as error:
            raise FileError(f"{self.folder}: unsaved work cannot be kept there ({error.strerror}).") from error
        about = {
            "title": show.title,
            "original": str(original) if original else None,
            "folder": str(folder) if folder else None,
            "when": now.isoformat(timespec="seconds"),
            "process": os.getpid(),
        }
        write_whole(self.file, show_bytes(show))
        write_whole(self.label, json.dumps(about).encode())

    def forget(self) -> None:
        """Throw away what was kept."""
        for path in (self.label, self.file):
            with contextlib.suppress(OSError):
                path.unlink()


def kept_work(folder: Path | None = None) -> list[RecoveredWork]:
    """What was kept by processes that no longer run, newest first. Labels that cannot be read are passed over.

    Work whose label was not written any more, or not wholly, is there all the same, under its own title.
    """
    folder = folder or recovery_folder()
    found: list[RecoveredWork] = []
    labelled: set[Path] = set()
    for label in folder.glob("*.json") if folder.is_dir() else ():
        with contextlib.suppress(OSError, ValueError, KeyError, TypeError, OverflowError, RecursionError):
            about = json.loads(label.read_text("utf-8"))
            file = label.with_suffix(SUFFIX)
            kept = RecoveredWork(
                file,
                str(about["title"]),
                Path(about["original"]) if about["original"] else None,
                Path(about["folder"]) if about["folder"] else None,
                datetime.datetime.fromisoformat(about["when"]).replace(tzinfo=None),
            )
            runs = _runs(int(about["process"]))
            labelled.add(file)
            if file.is_file() and not runs:
                found.append(kept)
    for file in folder.glob(f"*{SUFFIX}") if folder.is_dir() else ():
        if file not in labelled and not _runs(_process(file)):
            with contextlib.suppress(OSError, FileError):
                when = datetime.datetime.fromtimestamp(file.stat().st_mtime)
                found.append(RecoveredWork(file, parse_show(read_bytes(file), file.name).title, None, None, when))
    return sorted(found, key=lambda k: k.when, reverse=True)


def sweep_left(folders: Iterable[Path] = (), folder: Path | None = None) -> None:
    """Take away what killed Kymatons left: parts of shows in these folders, parts and empty labels of kept work."""
    folder = folder or recovery_folder()
    for own in (folder, state_folder()):
        sweep(own, ".*.part")
    for other in folders:
        sweep(other, f".*{SUFFIX}.*.part")
    for label in folder.glob("*.json") if folder.is_dir() else ():
        if not label.with_suffix(SUFFIX).exists() and not _runs(_process(label)):
            with contextlib.suppress(OSError):
                label.unlink()


def _process(file: Path) -> int:
    """The process that kept this, by the name of the file; 0 where that tells none."""
    number = file.name.partition("-")[0]
    return int(number) if number.isdecimal() else 0


def discard(kept: RecoveredWork) -> None:
    """Throw away work that was offered back."""
    for path in (kept.file.with_suffix(".json"), kept.file):
        with contextlib.suppress(OSError):
            path.unlink()


def _runs(process: int) -> bool:
    """Whether another Kymaton keeps this; the same number after a restart is none: this one has kept nothing yet."""
    return process not in (0, os.getpid()) and is_running(process)
