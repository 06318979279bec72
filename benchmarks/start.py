"""From the command to the first picture, then to a usable window with the demo; floor: an empty window of PyQt6.

The floor is the whole run of a program that shows an empty window and ends; also told is the ratio to that program cut
off as soon as its window stands, as ours is.
"""

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
CUT_OFF = (
    FLOOR
    + """
import os
os._exit(0)
"""
)
FIRST = """
import os
import sys
import kymaton.app.run
kymaton.app.run.furnish = lambda window, path: os._exit(0)
import kymaton.start
sys.argv = ["kymaton", "demo"]
kymaton.start.run()
"""
USABLE = """
import os
import sys
import kymaton.app.run
furnish = kymaton.app.run.furnish
def furnished(window, path):
    furnish(window, path)
    kymaton.app.run.QApplication.processEvents()
    assert window.document.cue_report.cards
    os._exit(0)
kymaton.app.run.furnish = furnished
import kymaton.start
sys.argv = ["kymaton", "demo"]
kymaton.start.run()
"""


def run() -> list[tuple[str, str, str]]:
    """Both with compiled modules in place, as after the first start."""
    environment = {k: v for k, v in os.environ.items() if k != "PYTHONDONTWRITEBYTECODE"}

    def start(script: str) -> None:
        subprocess.run([sys.executable, "-c", script], check=True, env=environment, stderr=subprocess.DEVNULL)

    start(USABLE)
    rows = []
    for what, script, most in (
        ("first picture: the show's name and the last verdict", FIRST, 3),
        ("usable window with the demo", USABLE, 5),
    ):
        ours, ratio = against(lambda script=script: start(script), lambda: start(FLOOR), runs=11)
        _, until = against(lambda script=script: start(script), lambda: start(CUT_OFF), runs=11)
        told = f"{ours:.2f} s, {ratio:.1f} × an empty PyQt6 window and its end ({until:.1f} × without its end)"
        rows.append((f"start to the {what}", told, f"≤ {most} ×"))
    return rows
