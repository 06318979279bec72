"""Start: the frame of the window stands on the screen before what computes is loaded behind it."""

import gc
import os
import signal
import sys
from pathlib import Path

from PyQt6.QtCore import QEventLoop, QThreadPool, QTimer
from PyQt6.QtGui import QGuiApplication, QIcon
from PyQt6.QtWidgets import QApplication

from kymaton.app.guard import Guard
from kymaton.app.settings import Settings
from kymaton.app.theme.theme import ASSETS, THEME
from kymaton.app.widgets.front import Front
from kymaton.app.window import Window
from kymaton.app.work import Collector, stop_all
from kymaton.core.errors import FileError
from kymaton.store.demo import demo_show
from kymaton.store.last_verdict import last_verdict

SWEEP_AFTER_MS = 2000  # the window stands, and the show is examined
PATIENCE_MS = 4000  # for work to stop at the end


def has_screen() -> bool:
    return any(os.environ.get(name) for name in ("DISPLAY", "WAYLAND_DISPLAY", "QT_QPA_PLATFORM"))


def application() -> QApplication:
    """The application with its fonts; made once."""
    existing = QApplication.instance()
    if isinstance(existing, QApplication):
        return existing
    QGuiApplication.setDesktopFileName("org.kymaton.Kymaton")
    made = QApplication([*sys.argv[:1], "-style", "fusion"])
    made.setApplicationName("Kymaton")
    Collector(made)
    THEME.load_fonts()
    return made


def first_paint(path: Path | None) -> Window:
    """The frame of the window on the screen, with the name of the show and what was last found in it."""
    settings = Settings()
    THEME.choose(settings.theme)
    window = Window(settings)
    if path is not None:
        known = last_verdict(path)
        title = known.title if known is not None else path.stem
        window.tell_name(title, "")
        window.stack.addWidget(Front(title, known))
    if not settings.geometry.isEmpty():
        window.restoreGeometry(settings.geometry)
    window.show()
    QApplication.processEvents(QEventLoop.ProcessEventsFlag.ExcludeUserInputEvents)
    return window


def furnish(window: Window, path: Path | None) -> None:
    """Read the show and put in all that works on it. Raises FileError when the file cannot be read."""
    from kymaton.app.document import Document
    from kymaton.store.showfile import is_large

    document = Document()
    is_demo = path is not None and path.resolve() == demo_show().resolve()
    later = path is not None and is_large(path)
    if is_demo and path is not None:
        document.open_copy(path)
    elif path is not None and not later:
        document.open(path)
        window.settings.opened(path)
    window.furnish(document)
    if is_demo:
        window.offer_guide()
    if later and path is not None:
        window.files.open(path)


def run(path: Path | None = None) -> int:
    """Open the window on a show, or on an empty one. Raises FileError when the file cannot be read."""
    if not has_screen():
        raise FileError("there is no screen to open a window on; `kymaton check` and the other commands work without.")
    if path is not None and not path.exists():
        raise FileError(f"{path}: it cannot be read (no such file or directory).")
    sys.setswitchinterval(0.001)  # work on other threads gives way to the interface soon
    made = application()
    window = first_paint(path)
    Guard(window)
    try:
        furnish(window, path)
    except FileError:
        window.close()
        raise
    finally:
        gc.freeze()  # what was loaded is no garbage
    QTimer.singleShot(0, window.files.offer_kept)
    QTimer.singleShot(SWEEP_AFTER_MS, window.files.sweep)
    QTimer.singleShot(0, lambda: made.setWindowIcon(QIcon(str(ASSETS / "kymaton.svg"))))
    signal.signal(signal.SIGINT, lambda *_: window.close())
    wake = QTimer()
    wake.timeout.connect(lambda: None)  # lets Python see Ctrl+C
    wake.start(400)
    hints = made.styleHints()
    if hints is not None:
        hints.colorSchemeChanged.connect(lambda _: THEME.choose(window.settings.theme))
    code = made.exec()
    stop_all()
    pool = QThreadPool.globalInstance()
    if pool is not None and not pool.waitForDone(PATIENCE_MS):
        os._exit(code)  # Qt would wait for what does not stop; all that was unsaved is kept
    return code
