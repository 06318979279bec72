"""Every test has its own configuration and state folders, so that none touches a person's."""

import gc
import os
import sys
import threading

import pytest
from hypothesis import settings

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
settings.register_profile("kymaton", deadline=None)  # no test judges by a time
settings.load_profile("kymaton")


GARBAGE_KEPT = 50_000  # objects
LONGEST = (
    "test_real_window.py",
    "test_embed.py",
    "test_fuzz.py",
    "test_measure.py",
    "test_sound_files.py",
    "test_align.py",
    "test_troubles.py",
    "test_files.py",
    "test_build.py",
    "test_journey.py",
    "test_fit.py",
    "test_loadin.py",
    "test_pages.py",
    "test_random_edits.py",
    "test_fixes.py",
    "test_planner.py",
)


@pytest.hookimpl(trylast=True)
def pytest_collection_modifyitems(items):
    """The files that take longest first, so that no worker is left alone with one of them; else in random order."""
    place = {name: number for number, name in enumerate(LONGEST)}
    items.sort(key=lambda item: place.get(item.path.name, len(place)))


@pytest.fixture(autouse=True)
def _own_folders(tmp_path, monkeypatch):
    monkeypatch.setenv("XDG_CONFIG_HOME", str(tmp_path / "config"))
    monkeypatch.setenv("XDG_STATE_HOME", str(tmp_path / "state"))
    monkeypatch.setenv("XDG_DATA_HOME", str(tmp_path / "data"))


@pytest.fixture(autouse=True)
def _garbage():
    """Where the application stands, it collects garbage while its events run, and tests without events do not."""
    yield
    if not gc.isenabled() and gc.get_count()[0] > GARBAGE_KEPT:
        gc.collect()


@pytest.fixture(autouse=True, scope="session")
def _qt_threads_are_traced():
    """Coverage follows the threads that Python starts; those of Qt's pool have to be told to be followed."""
    follow = threading.gettrace()
    if follow is None:
        yield
        return
    from kymaton.app.work import _Runner

    plain = _Runner.run

    def followed(runner):
        sys.settrace(follow)
        plain(runner)

    _Runner.run = followed
    yield
    _Runner.run = plain
