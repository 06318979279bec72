"""Listening by other means: some sounds, on something else, a passage again and again, two takes, a whole show."""

import numpy as np
import pytest
from PyQt6.QtWidgets import QMenu

from kymaton.app.listen_means import equally_loud
from kymaton.core.signal.heard_on import ALL


@pytest.fixture
def bar(window, qtbot):
    qtbot.waitUntil(lambda: window.document.report is not None)
    window.document.choose_cue("guest-talk")
    window.document.select("ilse", None)
    window.listen()
    found = window.listen_bar
    qtbot.waitUntil(lambda: found.audition is not None, timeout=30_000)
    return found


def again(bar, qtbot, act):
    act()
    qtbot.waitUntil(lambda: bar.audition is not None and bar.job is None, timeout=30_000)
    return bar.audition


def test_one_sound_alone_is_rendered_and_all_again(bar, qtbot):
    every = bar.audition
    alone = again(bar, qtbot, lambda: bar.means.choose(("maren",)))
    assert bar.means.sounds.text() == "Maren" and alone is not every
    assert np.mean(np.square(alone.samples)) < np.mean(np.square(every.samples))
    again(bar, qtbot, lambda: bar.means.turn("maren"))  # the only one cannot be left out
    assert bar.only == ("maren",)
    again(bar, qtbot, lambda: bar.means.turn("ilse"))
    assert bar.only == ("maren", "ilse") and bar.means.sounds.text() == "2 sounds"
    back = again(bar, qtbot, lambda: bar.means.choose(()))
    assert np.array_equal(back.samples, every.samples)


def test_on_a_telephone_a_passage_goes_round(bar, qtbot):
    bar.means.hear_on(ALL[1])
    bar.means.first.setValue(1.0)
    bar.means.last.setValue(2.0)
    bar.means.loop.setChecked(True)
    tape = bar.means.wound()
    assert tape.loop and tape.passage == (48_000, 96_000) and bar.means.device.text() == "Heard on a telephone"
    assert np.array_equal(tape.takes[0][:, 0], tape.takes[0][:, 1])  # mono
    spectrum = np.abs(np.fft.rfft(tape.takes[0][:, 0])) ** 2
    hertz = np.fft.rfftfreq(len(tape.takes[0]), 1 / 48_000)
    assert spectrum[hertz > 7000].sum() < 1e-3 * spectrum.sum()
    bar.means._choose_device()
    menu = bar.means.findChild(QMenu)
    assert [a.text().partition(":")[0] for a in menu.actions()] == [w.name for w in ALL]
    menu.close()


def test_one_way_alone_is_heard_when_it_comes(window, bar, qtbot):
    """Nadir comes to Ilse after 98.1 ms by the call, and again 133.5 ms later by the desk."""
    window.document.select("ilse", "nadir")
    both = again(bar, qtbot, bar.listen)
    bar.means._choose_way()
    menu = bar.means.findChild(QMenu)
    assert [a.text() for a in menu.actions()] == ["All ways", "Nadir after 98.1 ms", "Nadir after 231.6 ms"]
    late = again(bar, qtbot, menu.actions()[2].trigger)
    menu.close()
    early = again(bar, qtbot, lambda: bar.means.solo("Nadir after 98.1 ms", edges_of(window, 98.1)))
    first = [np.flatnonzero(np.abs(a.samples[:, 0]) > 1e-5)[0] for a in (early, late)]
    assert (first[1] - first[0]) / 48 == pytest.approx(133.5, abs=0.1)
    again(bar, qtbot, lambda: bar.means.solo("All ways", None))
    assert bar.only == () and bar.edges is None and both is not None


def edges_of(window, delay_ms):
    paths = window.document.cue_report.view.paths("ilse", "nadir")
    return frozenset(e for p in paths if abs(p.delay_us / 1000 - delay_ms) < 0.1 for e in p.edges)


def test_before_and_after_are_two_takes_changed_without_a_gap(window, bar, qtbot):
    window.propose()
    proposal = window.hearing.proposal
    qtbot.waitUntil(lambda: proposal.proposal is not None and proposal.apply_all.isVisible())
    menu = QMenu()
    window.hearing.beside.fill(menu, proposal.proposal)
    next(a for a in menu.actions() if a.text() == "What is proposed").trigger()
    again(bar, qtbot, bar.listen)
    assert len(bar.takes) == 2 and bar.means.other.isVisible() and bar.means.other.text() == "In what is proposed"
    tape = bar.means.wound()
    bar.means.other.setChecked(True)
    assert tape.take == 1 and not np.array_equal(*tape.takes)
    bar.means.matched.setChecked(True)
    powers = [np.mean(np.square(t, dtype=np.float64)) for t in bar.means.wound().takes]
    assert powers[0] == pytest.approx(powers[1], rel=1e-3)


def test_the_whole_show_is_heard_shortened(bar, qtbot):
    cues = bar.document.show.cues
    whole = again(bar, qtbot, bar.means._walk)
    assert 60 < whole.seconds < 200 and bar.title.text() == "What Ilse hears in the whole show, shortened"
    assert np.abs(whole.samples).max() <= 10 ** (-1 / 20) + 1e-6 and len(cues) == 7
    again(bar, qtbot, bar.means._walk)
    assert bar.title.text() == "What Ilse hears in Guest talk"


def test_equally_loud_turns_nothing_up():
    loud, soft = np.full((10, 2), 0.5, np.float32), np.full((10, 2), 0.1, np.float32)
    silent = np.zeros((10, 2), np.float32)
    found = equally_loud([loud, soft, silent])
    assert np.allclose(found[0], 0.1) and found[1] is not None and np.allclose(found[1], 0.1) and not found[2].any()
    assert equally_loud([silent])[0] is silent
