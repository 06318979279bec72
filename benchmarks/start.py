"""From nothing to the first picture, then to a usable window with the demo; floor: an empty window of PyQt6."""

import os
import subprocess
import sys

from benchmarks.timing import against

FLOOR = """
import sys
from PyQt6.QtWidgets import QApplication, QWidget
application = QApplication(sys.argv)
window = QWidget()
window.show()
application.processEvents()
"""
FIRST = """
import gc
gc.disable()
from kymaton.app.run import application, first_paint, furnish
from kymaton.store.demo import demo_show
running = application()
window = first_paint(demo_show())
"""
USABLE = """
furnish(window, demo_show())
running.processEvents()
assert window.document.cue_report.cards
"""
END = """
import os
os._exit(0)
"""


def run() -> list[tuple[str, str, str]]:
    """Both with compiled modules in place, as after the first start."""
    environment = {k: v for k, v in os.environ.items() if k != "PYTHONDONTWRITEBYTECODE"}

    def start(script: str) -> None:
        subprocess.run([sys.executable, "-c", script + END], check=True, env=environment, stderr=subprocess.DEVNULL)

    start(FIRST + USABLE)
    rows = []
    for what, script, most in (
        ("first picture: the show's name and the last verdict", FIRST, 3),
        ("usable window with the demo", FIRST + USABLE, 5),
    ):
        ours, ratio = against(lambda script=script: start(script), lambda: start(FLOOR), runs=11)
        rows.append((f"start to the {what}", f"{ours:.2f} s, {ratio:.1f} × an empty PyQt6 window", f"≤ {most} ×"))
    return rows
