"""The real window on a show, driven as a person would."""

import pytest
from PyQt6.QtCore import Qt, QThreadPool

from kymaton.app.document import Document
from kymaton.app.run import application
from kymaton.app.settings import Settings
from kymaton.app.theme.theme import THEME
from kymaton.app.window import Window
from tests.shows import DEMO

LONG_MS = 60_000


@pytest.fixture(scope="session")
def qapp():
    made = application()
    THEME.choose("day")
    return made


@pytest.fixture
def qtbot(qtbot):
    """Waits as long as a busy machine needs: what is waited for decides, not a time."""
    wait = qtbot.waitUntil
    qtbot.waitUntil = lambda call, *, timeout=LONG_MS: wait(call, timeout=timeout)
    return qtbot


@pytest.fixture
def make_window(qtbot):
    made = []

    def make(path=DEMO, copy=True) -> Window:
        document = Document()
        if path is not None:
            document.open_copy(path) if copy else document.open(path)
        window = Window(Settings(), document)
        qtbot.addWidget(window)
        window.resize(1280, 800)
        window.show()
        qtbot.waitExposed(window)
        qtbot.keyClick(window, Qt.Key.Key_F24)  # else Qt takes a modifier of an earlier test's last key for pressed
        qtbot.waitUntil(lambda: document.report is not None)
        made.append(window)
        return window

    yield make
    pool = QThreadPool.globalInstance()
    assert pool is not None
    pool.waitForDone()
    for window in made:
        window.document.stack.setClean()
        window.document.restored = False
        window.close()


@pytest.fixture
def window(make_window):
    return make_window()
