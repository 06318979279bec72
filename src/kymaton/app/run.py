"""Start the window."""

import gc

gc.disable()  # loading makes many objects and no garbage; `application` switches it on again

import os
import signal
import sys
from pathlib import Path

from PyQt6.QtCore import QThreadPool, QTimer
from PyQt6.QtGui import QGuiApplication, QIcon
from PyQt6.QtWidgets import QApplication

from kymaton.app.document import Document
from kymaton.app.settings import Settings
from kymaton.app.theme.theme import THEME
from kymaton.app.window import Window
from kymaton.core.errors import FileError
from kymaton.store.demo import demo_show


def has_screen() -> bool:
    return any(os.environ.get(name) for name in ("DISPLAY", "WAYLAND_DISPLAY", "QT_QPA_PLATFORM"))


def application() -> QApplication:
    """The application with its fonts; made once."""
    gc.freeze()
    gc.enable()
    existing = QApplication.instance()
    if isinstance(existing, QApplication):
        return existing
    QGuiApplication.setDesktopFileName("org.kymaton.Kymaton")
    made = QApplication(sys.argv[:1])
    made.setApplicationName("Kymaton")
    made.setStyle("Fusion")
    made.setWindowIcon(QIcon(str(Path(__file__).parent / "assets" / "kymaton.svg")))
    THEME.load_fonts()
    return made


def run(path: Path | None = None) -> int:
    """Open the window on a show, or on an empty one. Raises FileError when the file cannot be read."""
    if not has_screen():
        raise FileError("there is no screen to open a window on; `kymaton check` and the other commands work without.")
    sys.setswitchinterval(0.001)  # work on other threads gives way to the interface soon
    made = application()
    settings = Settings()
    THEME.choose(settings.theme)
    document = Document()
    demo = path is not None and path.resolve() == demo_show().resolve()
    if path is not None:
        if demo:
            document.open_copy(path)
        else:
            document.open(path)
            settings.opened(path)
    window = Window(document, settings)
    if not settings.geometry.isEmpty():
        window.restoreGeometry(settings.geometry)
    window.show()
    if demo:
        window.offer_guide()
    QTimer.singleShot(0, window.offer_kept)
    signal.signal(signal.SIGINT, lambda *_: window.close())
    wake = QTimer()
    wake.timeout.connect(lambda: None)  # lets Python see Ctrl+C
    wake.start(400)
    hints = made.styleHints()
    if hints is not None:
        hints.colorSchemeChanged.connect(lambda _: THEME.choose(settings.theme))
    code = made.exec()
    pool = QThreadPool.globalInstance()
    if pool is not None:
        pool.waitForDone(3000)
    return code
