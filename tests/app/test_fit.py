"""Every view, with the demo and with long names: no text is cut, none lies over another."""

import pytest
from PyQt6.QtWidgets import QApplication, QScrollArea, QWidget

from kymaton.app.guide import LOOKS
from kymaton.language.starters import STARTERS
from tests.app.fit import drawn_badly, lying_over, too_small

SIZES = ((1280, 800), (1024, 700))


def settle() -> None:
    for _ in range(4):
        QApplication.processEvents()


def visits(window, qtbot):
    """Every page of the program, one after the other."""
    document = window.document
    yield "start"
    for _ in LOOKS:
        window.guide.show()
        yield "guide"
        window.guide.next()
    for number in range(len(document.show.cues)):
        window.go("hearing")
        document.choose_cue(document.show.cues[number].id)
        yield f"hearing {number}"
    document.choose_cue("guest-talk")
    document.select("audience", "ilse")
    yield "routes"
    window.propose()
    qtbot.waitUntil(lambda: window.hearing.proposal.apply_all.isEnabled())
    area = window.hearing.proposal.findChild(QScrollArea)
    assert area.horizontalScrollBar().maximum() == 0  # nothing to apply is out of sight
    yield "proposal"
    for listener in document.show.listeners:
        window.go("hearing")
        window.hearing.details.setCurrentIndex(0)
        document.select(listener.id, None)
        yield f"lanes of {listener.name}"
    window.go("brief")
    yield "brief"
    brief = window.brief
    for page in (brief.people, brief.variants, brief.ways, brief.cue):
        brief.open_page(page)
        yield f"brief {type(page).__name__}"
    brief.pages.setCurrentIndex(0)
    window.go("path")
    yield "path"
    document.select("audience", "ilse")
    yield "path of two routes"
    for name in ("controls", "ports", "facts"):
        window.path.show_device("desk")
        window.path._show_below(name)
        yield f"path {name}"
    window.path.show_device(None)
    if not window.findings.isVisible():
        window.toggle_findings()
    for card in window.findings.cards():
        window.findings.open(card)
        yield f"card {card.sentence}"
    for page in ("delays", "recordings", "by eye", "files"):
        window.go_sync(page)
        qtbot.waitUntil(lambda: window.sync.plan is not None)
        yield f"sync {page}"
    document.log("note", "A note that is long enough to be broken into a second line where the window is narrow")
    window.go("log")
    yield "log"
    window.finder.popup()
    yield "finder"
    window.finder.hide()
    window.notice("The demo cannot be opened: a sentence that is as long as such sentences are, and then a little.")
    yield "notice"
    window.document.select("ilse", None)
    window.listen()
    qtbot.waitUntil(lambda: window.listen_bar.audition is not None, timeout=20_000)
    yield "listen"


def troubles(window) -> list[str]:
    found = [*too_small(window), *lying_over(window)]
    for widget in window.findChildren(QWidget):
        paints = type(widget).__module__.startswith("kymaton") and "paintEvent" in type(widget).__dict__
        if paints and widget.isVisible() and not widget.visibleRegion().isEmpty():
            found += drawn_badly(widget)
    return found


@pytest.mark.parametrize("size", SIZES)
def test_every_text_of_the_demo_has_its_room(make_window, qtbot, size):
    window = make_window()
    window.resize(*size)
    found = []
    for page in visits(window, qtbot):
        settle()
        found += [f"{page}: {t}" for t in troubles(window)]
    assert "\n".join(found) == ""


@pytest.mark.parametrize("size", SIZES)
@pytest.mark.parametrize("begin", ["nothing", "hall-with-stream-mix"])
def test_every_text_of_other_shows_has_its_room(make_window, qtbot, size, begin):
    window = make_window(None)
    window.resize(*size)
    if begin != "nothing":
        window.files.start_from(next(s for s in STARTERS if s.id == begin))
    found = []
    for step in ("brief", "path", "hearing", "sync", "log"):
        window.go(step)
        qtbot.waitUntil(lambda: window.document.report is not None)
        settle()
        found += [f"{step}: {t}" for t in troubles(window)]
    assert "\n".join(found) == ""
