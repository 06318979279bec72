"""The logbook: what was measured, set and made, and notes, over all shows; kept apart from them in SQLite.

It is not changed by undo, and stays when a show is deleted. It lies on this machine only.
"""

import contextlib
from collections.abc import Iterable, Iterator
from pathlib import Path
from typing import TYPE_CHECKING

from msgspec import Struct

from kymaton.core.errors import FileError
from kymaton.store.atomic import write_whole
from kymaton.store.csvfile import harmless
from kymaton.store.folders import data_folder

if TYPE_CHECKING:
    import sqlite3

SCHEMA = (
    "CREATE TABLE IF NOT EXISTS entries (id INTEGER PRIMARY KEY, date_time TEXT NOT NULL, show TEXT NOT NULL, "
    "cue TEXT NOT NULL, kind TEXT NOT NULL, text TEXT NOT NULL)"
)
KINDS = ("measured", "taken over", "delays entered", "film made", "note")
TITLES = ("date_time", "show", "cue", "kind", "text")
LONGEST = 4000
SHOWN = 2000


class Entry(Struct, frozen=True):
    """One line: when (local time, ISO 8601), in which show and cue, of which kind; `id` once it is written."""

    date_time: str
    show: str
    cue: str
    kind: str
    text: str
    id: int = 0

    @property
    def cells(self) -> tuple[str, ...]:
        """What can be read of it."""
        return (self.date_time, self.show, self.cue, self.kind, self.text)


def logbook_file() -> Path:
    """The file of the logbook."""
    return data_folder() / "logbook.sqlite"


class Logbook:
    """Entries, the newest first. Each is on the disk as soon as `add` is over."""

    def __init__(self, path: Path | None = None) -> None:
        self.path = path or logbook_file()
        self.wait_s = 5.0  # for another Kymaton that writes

    @contextlib.contextmanager
    def _open(self) -> "Iterator[sqlite3.Connection]":
        import sqlite3  # late: most starts write no line

        try:
            self.path.parent.mkdir(parents=True, exist_ok=True, mode=0o700)
            book = sqlite3.connect(self.path, timeout=self.wait_s)
        except (OSError, sqlite3.Error) as error:
            raise FileError(f"{self.path}: the logbook cannot be opened ({_why(error)}).") from error
        try:
            with book:
                book.execute(SCHEMA)
                yield book
        except sqlite3.OperationalError as error:
            raise FileError(f"{self.path}: the logbook cannot be used now ({_why(error)}).") from error
        except sqlite3.DatabaseError as error:
            book.close()
            raise FileError(f"{self.path}: {self._set_aside(error)}") from error
        finally:
            book.close()

    def _set_aside(self, error: Exception) -> str:
        """A file that is no logbook is kept under another name, so that the next entry begins a new one."""
        number = 1
        while (aside := self.path.with_name(f"{self.path.stem}.broken-{number}.sqlite")).exists():
            number += 1
        with contextlib.suppress(OSError):
            self.path.rename(aside)
            return f"it is no logbook any more ({_why(error)}); it was kept as {aside.name}, and a new one begun."
        return f"it is no logbook any more ({_why(error)})."

    def add(self, entry: Entry) -> None:
        """Write one line. Raises FileError; then nothing was written."""
        if entry.kind not in KINDS:
            raise ValueError(f"'{entry.kind}' is no kind of entry")
        values = tuple(v[:LONGEST] for v in entry.cells)
        with self._open() as book:
            book.execute("INSERT INTO entries (date_time, show, cue, kind, text) VALUES (?, ?, ?, ?, ?)", values)

    def entries(self, only: str | None = None, most: int = SHOWN) -> list[Entry]:
        """The newest lines of one show, or of all. Raises FileError."""
        if not self.path.exists():
            return []
        where, values = ("WHERE show = ?", (only,)) if only is not None else ("", ())
        with self._open() as book:
            rows = book.execute(
                f"SELECT date_time, show, cue, kind, text, id FROM entries {where} ORDER BY id DESC LIMIT ?",
                (*values, most),
            ).fetchall()
        return [
            Entry(str(when), str(show), str(cue), str(kind), str(text), int(n))
            for when, show, cue, kind, text, n in rows
        ]

    def forget(self, ids: Iterable[int]) -> None:
        """Take lines out for good: what is said of people in them may have to go. Raises FileError."""
        with self._open() as book:
            book.execute("PRAGMA secure_delete = ON")
            book.executemany("DELETE FROM entries WHERE id = ?", [(id,) for id in ids])

    def write_csv(self, path: Path, show: str | None = None) -> int:
        """All lines as CSV, the oldest first; how many. Raises FileError."""
        import csv
        import io

        out = io.StringIO()
        writer = csv.writer(out, lineterminator="\n")
        writer.writerow(TITLES)
        found = self.entries(show, most=-1)[::-1]
        for entry in found:
            writer.writerow([harmless(cell) for cell in entry.cells])
        write_whole(path, out.getvalue().encode())
        return len(found)


def _why(error: Exception) -> str:
    return (getattr(error, "strerror", None) or str(error)).lower().rstrip(".")
