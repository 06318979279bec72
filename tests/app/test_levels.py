"""The step Levels: ladders, tables, gains that are proposed, recordings on the bench."""

import numpy as np
import pytest
import soundfile
from PyQt6.QtCore import Qt

from kymaton.core.checks.levels import levels_of
from kymaton.core.levels.ladder import condensed, ladder

RATE_HZ = 48_000


@pytest.fixture
def view(window, qtbot):
    window.go("levels")
    qtbot.waitUntil(lambda: window.document.report is not None)
    return window.levels


def cells(table):
    return [
        [table.item(r, c).text() if table.item(r, c) else "" for c in range(table.columnCount())]
        for r in range(table.rowCount())
    ]


def test_the_ladder_of_a_sound_is_what_the_core_says(view, window):
    document = window.document
    document.select("audience", "maren")
    rungs = condensed(ladder(levels_of(document.cue_report.view), "audience", "maren"))
    drawn = view.expected.ladder
    assert drawn.rungs == rungs and len(rungs) >= 6
    assert [r.name for r in rungs][:2] == ["Maren", "Table mic"] and rungs[-1].name.endswith("to Audience")
    assert "desk 1 gain" in drawn.accessibleDescription() and "takes 22.0" in drawn.accessibleDescription()
    assert view.expected.note.text().startswith("least room at ")
    drawn.grab()  # is drawn without a mistake
    document.select("quill", "maren")
    assert drawn.rungs != rungs and view.expected.listeners.currentText() == "Quill"


def test_a_sound_that_does_not_come_is_said(view, window):
    window.document.select("audience", "quill")
    assert view.expected.ladder.rungs == [] and "does not come to Audience" in view.expected.ladder.empty
    view.expected.ladder.grab()


def test_all_at_a_listener_and_a_device(view, window, qtbot):
    qtbot.mouseClick(view.tabs["listener"], Qt.MouseButton.LeftButton)
    window.document.select("ilse", None)
    rows = cells(view.expected.at_listener)
    assert {"Maren", "Teo, voice"} <= {r[0] for r in rows} and all("dB SPL" in r[1] for r in rows)
    view.expected.at_listener.cellActivated.emit(0, 0)
    assert view.page == "sound" and window.document.sound_id is not None
    view.show_page("device")
    rows = cells(view.expected.at_device)
    assert rows[0][:2] == ["Desk 1", "Maren"] and rows[1][0] == "Desk 1 gain" and rows[1][4] == "22.0"
    view.expected.devices.setCurrentIndex(view.expected.devices.findText("Switcher"))
    view.expected.devices.activated.emit(view.expected.devices.currentIndex())
    assert any(r[0].startswith("Switcher mic 1") for r in cells(view.expected.at_device))
    assert view.expected.side_by_side.rungs and view.expected.beside.isVisible()
    view.expected.side_by_side.grab()
    view.show_page("listener")
    names = {r[0] for r in cells(view.expected.at_listener)}
    assert all(any(r.name.startswith(f"{n}, ") for n in names) for r in view.expected.side_by_side.rungs)


def test_gains_are_proposed_applied_and_undone(view, window, qtbot):
    document = window.document
    before = document.show
    view.gains_button.click()
    qtbot.waitUntil(lambda: view.gains.apply_all.isVisible(), timeout=20_000)
    assert view.gains.title.text().startswith("Proposed: ")
    clips = document.report.count("caution", step="levels")
    view.gains.apply_all.click()
    qtbot.waitUntil(lambda: document.report is not None and document.report.count("caution", step="levels") < clips)
    document.stack.undo()
    assert document.show == before
    view.gains.closed.emit()
    assert view.pages.currentWidget() is view.expected


def tone(path, dbfs, hertz=1000.0, seconds=12.0):
    wave = 10 ** (dbfs / 20) * np.sin(2 * np.pi * hertz * np.arange(round(seconds * RATE_HZ)) / RATE_HZ)
    wave[4 * RATE_HZ : 4 * RATE_HZ + 960] = 0.0
    soundfile.write(path, np.stack([wave, 0.5 * wave], 1), RATE_HZ, "PCM_24")
    return path


def test_recordings_are_measured_judged_and_looked_at(view, window, qtbot, tmp_path):
    page = view.recordings
    view.show_page("recordings")
    assert page.empty.isVisible() and not page.table.isVisible()
    loud, soft = tone(tmp_path / "ada.wav", -12.0), tone(tmp_path / "bea.wav", -24.0)
    bad = tmp_path / "bad.wav"
    bad.write_bytes(b"nothing")
    told = []
    window.document.message.connect(told.append)
    view.dropped([loud, bad, soft])
    qtbot.waitUntil(lambda: len(page.found) == 2 and page.work.job is None, timeout=30_000)
    rows = cells(page.table)
    assert [r[0] for r in rows] == ["ada.wav", "bea.wav"] and "LU louder than −16 LUFS" in rows[0][6]
    assert page.uneven.text() == "bea.wav is 12.0 LU softer than ada.wav." and any("bad.wav" in t for t in told)
    page.table.selectRow(0)
    assert [page.spots.item(i).text() for i in range(page.spots.count())][:1] == [
        "A gap of 20 ms on the left at 0:04.0"
    ]
    page.goals.setCurrentIndex(page.goals.findData(-14.0))
    page.goals.activated.emit(page.goals.currentIndex())
    assert "LUFS" in cells(page.table)[0][6] and page.curve.goal.lufs == -14.0
    page.curve.grab()
    out = tmp_path / "table.csv"
    page.ask_csv(out)
    assert out.read_text("utf-8").splitlines()[1].startswith("ada.wav,1,")
    page._hear_spot(page.spots.item(0))  # there is no sound output here: that is said
    qtbot.waitUntil(lambda: any("sound output" in t for t in told), timeout=20_000)
    page.table.selectRow(1)
    page.music_button.click()
    assert page.uneven.text() == "Music is 12.0 LU under the voices." and cells(page.table)[1][0] == "bea.wav, music"
    page.clear()
    assert page.empty.isVisible() and page.found == []


@pytest.mark.parametrize("theme", ["day", "night"])
def test_an_empty_show_says_where_to_begin(make_window, theme):
    from kymaton.app.theme.theme import THEME

    THEME.choose(theme)
    window = make_window(None)
    window.go("levels")
    for page in ("sound", "listener", "device", "recordings"):
        window.levels.show_page(page)
        window.levels.grab()
    assert "type who takes part in Brief" in window.levels.expected.ladder.empty
    THEME.choose("day")


def test_a_soundcheck_is_ticked_and_what_is_seen_is_taken_over(view, window, qtbot):
    page, document = view.soundcheck, window.document
    view.show_page("soundcheck")
    rows = cells(page.table)
    assert rows[0][:4] == ["Desk 1 gain", "Maren", "−12", "−13"] and "laugh" in rows[0][7]
    assert rows[0][5:7] == ["−9", "5"]  # −9 VU, 5 over alignment
    page.table.item(0, 0).setCheckState(Qt.CheckState.Checked)
    assert [c.control for c in document.show.soundcheck] == ["desk/ch1/gain"]
    maren = document.show.sound("maren").level
    qtbot.waitUntil(lambda: page.checks[0].done)
    page.table.item(0, 4).setText("−6")  # 6.8 dB louder than expected
    changed = document.show.sound("maren")
    assert changed.level == pytest.approx(maren + 6.8, abs=0.1) and changed.level_source == "measured"
    qtbot.waitUntil(lambda: page.table.item(0, 3).text() == "−6, turn down 6")
    page.table.item(0, 4).setText("loud")
    assert document.show.sound("maren") == changed
    document.stack.undo()
    document.stack.undo()
    assert document.show.soundcheck == () and document.show.sound("maren").level == maren


def test_the_meter_says_that_there_is_no_input_and_measures_what_is_rendered(view, window, qtbot):
    page = view.meter
    view.show_page("meter")
    assert page.note.text().startswith("No sound input was found here") and page.inputs.count() == 1
    window.document.select("audience", None)
    page.start()
    qtbot.waitUntil(lambda: page.is_running, timeout=30_000)
    page.timer.stop()
    while page.at + 4800 < len(page.samples):
        page._rendered()
    from kymaton.media.loudness import Meter

    whole = Meter(RATE_HZ, 2)
    whole.add(np.ascontiguousarray(page.samples[: page.at].T))
    assert page.meter.now.integrated_lufs == pytest.approx(whole.now.integrated_lufs, abs=0.05)
    assert "Integrated" in page.strips.accessibleDescription() and "dBTP in 0:" in page.peak.text()
    page.strips.grab()
    page.stop()
    assert not page.is_running and page.strips.now is not None  # what was measured stays


def test_the_meter_takes_what_an_input_gives(view):
    page = view.meter
    page._new_meter(RATE_HZ, 2)
    page.channels = 2
    tone = 10 ** (-20 / 20) * np.sin(2 * np.pi * 1000 * np.arange(4 * RATE_HZ) / RATE_HZ)
    data = np.repeat(tone, 2).astype("<f4").tobytes()
    for at in range(0, len(data), 7003):  # an input cuts where it likes, not between frames
        page.take(data[at : at + 7003])
    assert page.meter.now.short_term_lufs == pytest.approx(-20.0, abs=0.2)


def test_a_recording_of_an_input_tells_its_peak(view, window, qtbot, tmp_path):
    page, document = view.soundcheck, window.document
    view.show_page("soundcheck")
    maren = document.show.sound("maren").level
    page.take_recording(0, tone(tmp_path / "desk 1.wav", -6.0))
    qtbot.waitUntil(lambda: bool(document.show.soundcheck), timeout=20_000)
    assert document.show.soundcheck[0].peak == pytest.approx(-6.0, abs=0.1)
    assert document.show.sound("maren").level == pytest.approx(maren + 6.8, abs=0.2)
    told = []
    document.message.connect(told.append)
    page.take_recording(1, tmp_path / "none.wav")
    qtbot.waitUntil(lambda: bool(told), timeout=20_000)
    assert "none.wav" in told[0]
