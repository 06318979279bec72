"""Start: the frame stands with what is remembered, before anything that computes is loaded."""

import datetime
import os
import subprocess
import sys

import pytest
from PyQt6.QtWidgets import QLabel

from kymaton.app.run import first_paint, furnish
from kymaton.app.widgets.front import remembered
from kymaton.store.last_verdict import LastVerdict, last_verdict, remember
from kymaton.store.showfile import read_show, write_show
from tests.shows import DEMO

WHEN = datetime.datetime(2026, 11, 26, 21, 4)
LATE = (
    "argparse",
    "numpy",
    "scipy",
    "kymaton.core.model",
    "kymaton.app.document",
    "kymaton.catalogue",
    "kymaton.language",
)


@pytest.mark.parametrize("words", [["kymaton", "demo"], ["kymaton", "open", str(DEMO)], ["kymaton"]])
def test_the_first_picture_loads_nothing_that_computes(words):
    """As a person starts it: from the words of the command line to the frame on the screen."""
    script = (
        "import sys, os, kymaton.app.run\n"
        f"def furnish(window, path): print([m for m in {LATE!r} if m in sys.modules], flush=True); os._exit(0)\n"
        f"kymaton.app.run.furnish = furnish\nsys.argv = {words!r}\n"
        "import kymaton.start\nkymaton.start.run()"
    )
    done = subprocess.run([sys.executable, "-c", script], capture_output=True, text=True, timeout=120, check=True)
    assert done.stdout.strip() == "[]"


def test_the_words_of_the_command_line_load_nothing_that_computes():
    script = f"import sys\nimport kymaton.cli.main\nprint([m for m in {LATE!r} if m in sys.modules])"
    done = subprocess.run([sys.executable, "-c", script], capture_output=True, text=True, timeout=120, check=True)
    assert done.stdout.strip() == "[]"


def test_what_is_remembered_is_said_to_be_a_memory():
    known = LastVerdict("Evening", "3 faults", ("Ilse hears herself",), WHEN, True)
    assert remembered(known)[0] == "3 faults when last examined, 26 Nov, 21:04."
    changed = LastVerdict("Evening", "3 faults", (), WHEN, False)
    assert "3 faults" not in " ".join(remembered(changed)) and "has changed since" in remembered(changed)[0]
    assert remembered(None) == ["Being opened."]


def test_a_start_shows_the_memory_and_then_the_show_and_remembers_it_anew(qtbot, qapp, tmp_path):
    path = tmp_path / "evening.kymaton"
    write_show(read_show(DEMO), path)
    remember(path, "Harbour Almanac Live", "1 fault", ["Somebody hears nothing"], WHEN)
    window = first_paint(path)
    qtbot.addWidget(window)
    said = " ".join(x.text() for x in window.findChildren(QLabel) if x.isVisible())
    assert "1 fault when last examined, 26 Nov, 21:04." in said and "Somebody hears nothing" in said
    assert window.name.text().startswith("Harbour Almanac")
    furnish(window, path)
    assert window.current == "hearing" and window.document.path == path
    qtbot.waitUntil(lambda: window.document.report is not None)
    known = last_verdict(path)
    assert known is not None and known.current and known.verdict == "63 faults, 19 cautions" and known.when > WHEN
    assert known.headlines[0] == window.document.cue_report.cards[0].sentence
    window.close()


def test_a_frame_that_is_closed_before_it_is_furnished_closes(qtbot, qapp):
    window = first_paint(None)
    qtbot.addWidget(window)
    window.resize(980, 640)
    window.close()
    assert not window.isVisible()


def test_equations_are_solved_by_one_thread():
    """Threads that share a small system wait for each other longer than they compute."""
    script = (
        "import os, kymaton, numpy as np\n"
        "np.linalg.solve(np.eye(600) + np.ones((600, 600)), np.ones((600, 200)))\n"
        "print(len(os.listdir('/proc/self/task')))"
    )
    environment = {k: v for k, v in os.environ.items() if k != "OPENBLAS_NUM_THREADS"}
    done = subprocess.run([sys.executable, "-c", script], capture_output=True, text=True, check=True, env=environment)
    assert done.stdout.strip() == "1"
