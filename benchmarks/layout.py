"""Placing the path map of the demo."""

from benchmarks.timing import best
from kymaton.app.path.layout import lay_out
from kymaton.store.demo import demo_show
from kymaton.store.showfile import read_show


def run() -> list[tuple[str, str, str]]:
    show = read_show(demo_show())
    seconds = best(lambda: lay_out(show, 780, 500), 5)
    return [("path map of the demo, placed", f"{seconds * 1000:.1f} ms", "≤ 50 ms")]
