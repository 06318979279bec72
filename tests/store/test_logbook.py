"""The logbook: what was written is there, whatever happens; a file that is none is kept and told."""

import csv
import os
import signal
import sqlite3
import subprocess
import sys

import pytest

from kymaton.core.errors import FileError
from kymaton.store.logbook import Entry, Logbook


def line(text: str, show: str = "Harbour") -> Entry:
    return Entry("2026-12-12T19:30:00", show, "Song", "note", text)


def test_lines_come_back_newest_first_and_by_show(tmp_path):
    book = Logbook(tmp_path / "deep" / "logbook.sqlite")
    assert book.entries() == []
    for text, show in (("one", "Harbour"), ("two", "Quay"), ("three", "Harbour")):
        book.add(line(text, show))
    assert [e.text for e in book.entries()] == ["three", "two", "one"]
    assert [e.cells for e in book.entries("Harbour")] == [line("three").cells, line("one").cells] and book.entries(
        "None"
    ) == []
    assert [e.text for e in book.entries(most=1)] == ["three"]
    with pytest.raises(ValueError):
        book.add(Entry("", "", "", "gossip", ""))
    book.add(line("x" * 10_000))
    assert len(book.entries()[0].text) == 4000


def test_csv_is_harmless_to_a_spreadsheet(tmp_path):
    book = Logbook(tmp_path / "l.sqlite")
    book.add(line("=HYPERLINK(1)"))
    book.add(line('a "quoted", line'))
    assert book.write_csv(tmp_path / "l.csv") == 2
    rows = list(csv.reader((tmp_path / "l.csv").read_text().splitlines()))
    assert rows[0][0] == "date_time" and rows[1][-1] == "'=HYPERLINK(1)" and rows[2][-1] == 'a "quoted", line'
    with pytest.raises(FileError):
        book.write_csv(tmp_path / "nowhere" / "l.csv")


@pytest.mark.parametrize(
    "content", [b"not a database at all, but long enough to be looked at" * 40, b"SQLite format 3\0"]
)
def test_a_file_that_is_no_logbook_is_kept_aside_and_a_new_one_begun(tmp_path, content):
    path = tmp_path / "logbook.sqlite"
    path.write_bytes(content)
    book = Logbook(path)
    with pytest.raises(FileError, match=r"kept as logbook\.broken-1\.sqlite"):
        book.add(line("one"))
    assert (tmp_path / "logbook.broken-1.sqlite").read_bytes() == content
    book.add(line("two"))
    assert [e.text for e in book.entries()] == ["two"]


def test_a_folder_in_its_place_and_a_locked_book_are_one_sentence(tmp_path):
    (tmp_path / "l.sqlite").mkdir()
    with pytest.raises(FileError, match="cannot be"):
        Logbook(tmp_path / "l.sqlite").add(line("one"))
    book = Logbook(tmp_path / "b.sqlite")
    book.add(line("one"))
    other = sqlite3.connect(tmp_path / "b.sqlite", isolation_level=None)
    other.execute("BEGIN EXCLUSIVE")
    book.wait_s = 0.2
    with pytest.raises(FileError, match="cannot be used now"):
        book.add(line("two"))
    other.execute("ROLLBACK")
    other.close()
    assert [e.text for e in book.entries()] == ["one"]


def test_what_was_written_survives_a_kill(tmp_path):
    script = (
        "import sys; from pathlib import Path; from kymaton.store.logbook import *\n"
        "book = Logbook(Path(sys.argv[1]))\n"
        "for n in range(100_000):\n"
        "    book.add(Entry('t', 's', 'c', 'note', str(n)))\n"
        "    print(n, flush=True)\n"
    )
    child = subprocess.Popen([sys.executable, "-c", script, tmp_path / "l.sqlite"], stdout=subprocess.PIPE, text=True)
    assert child.stdout is not None
    last = -1
    for told in child.stdout:
        last = int(told)
        if last == 20:
            os.kill(child.pid, signal.SIGKILL)
    child.wait()
    child.stdout.close()
    texts = [int(e.text) for e in Logbook(tmp_path / "l.sqlite").entries()]
    assert texts == list(range(len(texts) - 1, -1, -1)) and texts[0] in (last, last + 1)


def test_lines_are_forgotten_for_good(tmp_path):
    book = Logbook(tmp_path / "l.sqlite")
    for text in ("keep", "Ilse had a cold, poor her", "keep too"):
        book.add(line(text))
    book.forget(e.id for e in book.entries() if "Ilse" in e.text)
    assert [e.text for e in book.entries()] == ["keep too", "keep"]
    assert b"poor her" not in (tmp_path / "l.sqlite").read_bytes()
    book.forget([99])
    assert len(book.entries()) == 2
