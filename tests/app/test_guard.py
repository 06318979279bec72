"""Mistakes in the program, in a process of its own: the window stays, the work is kept, one line says so."""

import os
import subprocess
import sys

from kymaton.core.edits.cues import remove_cue

SCRIPT = """
import sys
from PyQt6.QtCore import QThreadPool, QTimer
from PyQt6.QtGui import QPainter
from PyQt6.QtWidgets import QApplication, QWidget
from kymaton.app import run as running
from kymaton.app.run import application
from kymaton.app.settings import Settings
from kymaton.app.window import Window
from kymaton.app.document import Document
from kymaton.app.guard import Guard
from kymaton.app.work import stop_all
from kymaton.store.demo import demo_show
from kymaton.store.recovery import recovery_folder

app = application()
document = Document()
document.open_copy(demo_show())
window = Window(Settings(), document)
Guard(window)
window.resize(1280, 800)
window.show()

class Broken(QWidget):
    def paintEvent(self, event):
        painter = QPainter(self)
        painter.drawLine(0, 0, 5, 5)
        raise KeyError("paint")

broken = Broken(window)
broken.resize(50, 50)
broken.show()
document.edit(document.show.evolve(title="Edited"), "title")

def slot():
    raise ValueError("slot")

QTimer.singleShot(50, slot)
for n in range(8):
    QTimer.singleShot(60 + 20 * n, broken.update)

def end():
    kept = list(recovery_folder().glob("*.kymaton"))
    print("alive", window.isVisible(), len(kept), window.notices.count())
    document.stack.setClean()
    app.quit()

QTimer.singleShot(700, end)
app.exec()
stop_all()  # as the program ends: nothing is still worked out when Python goes
QThreadPool.globalInstance().waitForDone()
"""


def test_an_error_in_a_slot_or_in_painting_ends_nothing():
    done = subprocess.run(
        [sys.executable, "-c", SCRIPT], capture_output=True, text=True, timeout=120, env={**os.environ}
    )
    assert done.returncode == 0, done.stderr
    assert done.stdout.strip() == "alive True 1 2", done.stderr
    assert done.stderr.count("a mistake in Kymaton (ValueError: slot)") == 1
    assert done.stderr.count("a mistake in Kymaton (KeyError: 'paint')") == 1  # not with every picture
    assert "Traceback" not in done.stderr


def test_a_proposal_of_a_show_that_is_gone_does_nothing(window, qtbot):
    from tests.shows import call_show

    window.propose()
    page = window.hearing.proposal
    qtbot.waitUntil(lambda: page.proposal is not None and bool(page.proposal.changes))
    changes = page.proposal.changes
    window.document.replace(call_show(), None)
    window.choose_theme("night")
    window.choose_theme("day")
    page._apply(changes)
    assert window.document.show is not None and not window.document.stack.canUndo()
    qtbot.waitUntil(lambda: window.document.report is not None)


def test_a_time_for_a_cue_that_is_gone_is_dropped(window, qtbot):
    window.go("brief")
    window.brief.open_cue()
    page = window.brief.cue
    gone = window.document.cue_id
    page.time.setText("7")
    window.document.edit(remove_cue(window.document.show, gone), "remove a cue")
    before = window.document.show
    page.set_time(gone)
    assert window.document.show is before
