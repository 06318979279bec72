"""`open` and `demo`: the window. Only what the first picture needs is loaded here; the rest follows behind it."""

import gc
from typing import Any


def open_show(options: Any) -> int:
    """The window on a show, or on the start page."""
    gc.disable()  # nothing that is loaded is garbage; the window collects its own
    from kymaton.app.run import run

    return run(options.show)


def demo(options: Any) -> int:
    """The window on the demo show."""
    gc.disable()
    from kymaton.app.run import run
    from kymaton.store.demo import demo_show

    return run(demo_show())
