"""From nothing to a usable window with the demo; floor: importing PyQt6 and showing an empty window."""

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
OURS = """
from kymaton.app.run import application
from kymaton.app.document import Document
from kymaton.app.settings import Settings
from kymaton.app.theme.theme import THEME
from kymaton.app.window import Window
from kymaton.store.demo import demo_show
running = application()
THEME.choose("day")
document = Document()
document.open_copy(demo_show())
window = Window(document, Settings())
window.show()
running.processEvents()
assert document.cue_report.cards
import os
os._exit(0)
"""


def run() -> list[tuple[str, str, str]]:
    """Both with compiled modules in place, as after the first start."""
    environment = {k: v for k, v in os.environ.items() if k != "PYTHONDONTWRITEBYTECODE"}

    def start(script: str) -> None:
        subprocess.run([sys.executable, "-c", script], check=True, env=environment)

    ours, ratio = against(lambda: start(OURS), lambda: start(FLOOR))
    return [("start to usable window with the demo", f"{ours:.2f} s, {ratio:.1f} × an empty PyQt6 window", "≤ 2.5 ×")]
