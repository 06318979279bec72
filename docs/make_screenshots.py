"""Takes one picture of each main view, from the demo shows, into docs/screenshots/."""

import os
import sys
import tempfile
from pathlib import Path

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
for variable in ("XDG_CONFIG_HOME", "XDG_STATE_HOME", "XDG_DATA_HOME"):
    os.environ[variable] = tempfile.mkdtemp()

from PyQt6.QtCore import QThreadPool
from PyQt6.QtWidgets import QApplication

from kymaton.app.document import Document
from kymaton.app.run import application
from kymaton.app.settings import Settings
from kymaton.app.theme.theme import THEME
from kymaton.app.window import Window
from kymaton.store.demo import demo_show

FOLDER = Path(__file__).parent / "screenshots"


def settle() -> None:
    """Let everything that runs off-thread arrive."""
    pool = QThreadPool.globalInstance()
    assert pool is not None
    for _ in range(4):
        pool.waitForDone()
        for _ in range(6):
            QApplication.processEvents()


def shot(window: Window, name: str, folder: Path = FOLDER) -> None:
    settle()
    folder.mkdir(exist_ok=True, parents=True)
    window.grab().save(str(folder / f"{name}.png"))


def main(folder: Path = FOLDER) -> None:
    running = application()  # held, or it is gone
    THEME.choose("day")
    document = Document()
    document.open_copy(demo_show())
    window = Window(document, Settings())
    window.resize(1280, 800)
    window.show()
    shot(window, "hearing-day", folder)
    window.go("brief")
    shot(window, "brief", folder)
    document.choose_cue("song")
    window.brief.open_page(window.brief.cue)
    window.brief.cue.add_action("Quill turns desk 2 gain to 30, 8 s")
    window.brief.cue.add_wish("Teo must see switcher programme")
    shot(window, "brief-cue", folder)
    while document.stack.canUndo():
        document.stack.undo()
    document.choose_cue("guest-talk")
    window.go("path")
    window.path.show_device("camera-a")
    window.path.tabs["facts"].click()
    shot(window, "path-facts", folder)
    window.path.tabs["controls"].click()
    window.path.map.choose(window.path.map.map.plates["desk"])
    window.path.patch.line.setText("call computer headphones > desk 14")
    shot(window, "path-patch", folder)
    window.path.patch.line.clear()
    window.path.show_device(None)
    document.select("audience", "ilse")
    shot(window, "path-day", folder)
    THEME.choose("night")
    shot(window, "path-night", folder)
    window.go("hearing")
    document.select("ilse", None)
    shot(window, "hearing-night", folder)
    THEME.choose("day")
    window.propose()
    shot(window, "proposal", folder)
    window.listen()
    shot(window, "listen", folder)
    window.listen_bar.hide()
    window.go("sync")
    window.sync.cues.setCurrentIndex(1)
    window.sync.refresh()
    shot(window, "sync-delays", folder)
    window.sync.show_page("recordings")
    shot(window, "sync-recording", folder)
    window.sync.recordings.simulate()
    shot(window, "sync-recording", folder)
    window.close()
    running.processEvents()


if __name__ == "__main__":
    main(Path(sys.argv[1]) if len(sys.argv) > 1 else FOLDER)
