"""One pass in a real window on a virtual screen: the demo as `make demo` opens it."""

import os
import shutil
import subprocess
import sys

import pytest

SCRIPT = """
import sys
from PyQt6.QtCore import QTimer
from PyQt6.QtWidgets import QApplication
from kymaton.cli.main import main

def look():
    window = next(w for w in QApplication.topLevelWidgets() if w.isVisible() and hasattr(w, "findings"))
    image = window.grab().toImage()
    colours = {image.pixelColor(x, y).name() for x in range(0, image.width(), 40) for y in range(0, image.height(), 40)}
    print(QApplication.platformName(), window.findings.title.text(), len(colours), flush=True)
    window.hearing.table.cycle_wish()
    window.document.select("teo", "click")
    window.hearing.table.cycle_wish()  # unsaved work is kept, quietly
    window.close()

import kymaton.app.run as run
started = run.application

def application():
    made = started()
    QTimer.singleShot(1500, look)
    return made

run.application = application
sys.exit(main(["demo"]))
"""


@pytest.mark.xvfb
@pytest.mark.skipif(shutil.which("xvfb-run") is None, reason="there is no virtual screen here (Debian: xvfb, xauth)")
def test_the_demo_opens_on_a_screen(tmp_path):
    script = tmp_path / "look.py"
    script.write_text(SCRIPT)
    environment = {k: v for k, v in os.environ.items() if k != "QT_QPA_PLATFORM"}
    done = subprocess.run(
        ["xvfb-run", "-a", "-s", "-screen 0 1400x900x24", sys.executable, str(script)],
        env=environment, capture_output=True, text=True, timeout=60,
    )  # fmt: skip
    assert done.returncode == 0 and "Traceback" not in done.stderr, done.stderr
    platform, _, rest = done.stdout.strip().partition(" ")
    assert platform == "xcb" and rest.startswith("Guest talk: 11 faults, 1 caution")
    assert int(rest.rsplit(" ", 1)[1]) > 8


def test_without_a_screen_the_window_is_refused_in_one_line(tmp_path):
    environment = {k: v for k, v in os.environ.items() if k not in ("QT_QPA_PLATFORM", "DISPLAY", "WAYLAND_DISPLAY")}
    done = subprocess.run(
        [sys.executable, "-m", "kymaton", "demo"], env=environment, capture_output=True, text=True, timeout=60
    )
    assert done.returncode == 2 and done.stderr.count("\n") == 1 and "no screen" in done.stderr
