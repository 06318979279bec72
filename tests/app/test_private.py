"""The page of private sounds says what the proof says."""

from kymaton.core.planning.privacy import mistake_text, prove
from tests.app.test_depth import texts
from tests.shows import DEMO, HEALTHY


def test_the_page_says_what_is_out_and_what_one_press_does(make_window, qtbot):
    window = make_window(DEMO)
    panel, document = window.brief.private, window.document
    window.go("brief")
    qtbot.waitUntil(lambda: document.report is not None)
    window.brief.open_page(panel)
    qtbot.waitUntil(lambda: "Out by one press" in texts(panel))
    said = texts(panel)
    proof = prove(document.report)
    for mistake in (m for m in proof.mistakes if len(m.presses) < 2):
        told = mistake_text(document.report.cues[mistake.cue].view, mistake)
        assert f"{document.show.cue(mistake.cue).name}: {told}" in said
    assert "A break that makes it impossible" in said


def test_the_page_follows_an_edit(make_window, qtbot):
    window = make_window(HEALTHY)
    panel = window.brief.private
    window.go("brief")
    window.brief.open_page(panel)
    qtbot.waitUntil(lambda: any(t.startswith("Out by") for t in texts(panel)))
    assert "Out as it is" not in texts(panel)
    window.path._do("set desk 8 to main to 0")
    qtbot.waitUntil(lambda: "Out as it is" in texts(panel), timeout=20_000)
