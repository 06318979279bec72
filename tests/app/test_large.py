"""A large show is opened beside what is open: it can be seen how far it is, and be stopped."""

import threading

import pytest
from PyQt6.QtWidgets import QLabel

from kymaton.app import file_actions
from kymaton.app.run import first_paint, furnish
from kymaton.core.checks.report import CueReport
from kymaton.store import showfile
from kymaton.store.showfile import read_show, write_show
from tests.shows import DEMO


@pytest.fixture
def large(tmp_path, monkeypatch):
    """A file that counts as large."""
    path = tmp_path / "evening.kymaton"
    write_show(read_show(DEMO).evolve(title="A long evening"), path)
    monkeypatch.setattr(showfile, "LARGE_FILE", 1000)
    return path


@pytest.fixture
def held(monkeypatch):
    """Reading waits here, so that what stands meanwhile can be looked at."""
    going = threading.Event()
    read = file_actions.read_show
    monkeypatch.setattr(file_actions, "read_show", lambda path: (going.wait(60), read(path))[1])
    yield going
    going.set()


def test_what_was_open_stays_until_the_large_show_is_there_solved(large, held, make_window, qtbot, monkeypatch):
    window = make_window()
    window.files.open(large)
    assert window.work_row.isVisible() and "Opening evening.kymaton" in window.work_row.what.text()
    assert window.document.show.title != "A long evening"
    held.set()
    qtbot.waitUntil(lambda: window.document.show.title == "A long evening")
    known = window.document._current
    assert isinstance(known, CueReport) and known.cards == CueReport(known.view).cards and "cells" in known.__dict__
    assert window.document.path == large and window.current == "hearing" and window.document.cue_id == "guest-talk"
    assert not window.work_row.isVisible() and str(large) in map(str, window.settings.recent)


def test_stopped_it_leaves_everything_as_it_was(large, held, make_window, qtbot):
    window = make_window()
    before = window.document.show
    window.files.open(large)
    window.work_row.stop_button.click()
    held.set()
    qtbot.waitUntil(lambda: not window.work_row.isVisible())
    assert window.document.show is before and window.document.path is None


def test_a_large_file_that_is_no_show_and_one_of_a_newer_version(large, make_window, qtbot):
    window = make_window()
    before = window.document.show
    large.write_bytes(DEMO.read_bytes()[:50_000])
    window.files.open(large)

    def said(text):
        return any(text in x.text() for x in window.findChildren(QLabel) if x.isVisible())

    qtbot.waitUntil(lambda: said("damaged or cut off"))
    assert window.document.show is before
    large.write_bytes(DEMO.read_bytes().replace(b'"version": 1,', b'"version": 9,'))
    window.files.open(large)
    qtbot.waitUntil(lambda: said("shown as a copy"))
    assert window.document.path is None and window.document.show.title == before.title


def test_the_start_with_a_large_show_has_a_window_at_once(large, held, qtbot, qapp):
    window = first_paint(large)
    qtbot.addWidget(window)
    furnish(window, large)
    assert window.work_row.isVisible() and not window.document.show.sounds
    held.set()
    qtbot.waitUntil(lambda: window.document.show.title == "A long evening")
    window.close()
