"""Files in the real window: sounds laid over a film, put in, looked at, taken out, and lists of films."""

import av
import numpy as np
import pytest
import soundfile
from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QPushButton

from kymaton.app.sync.sound_table import DRIFT, LANGUAGE, NAME, OFFSET, SWAP
from kymaton.media.align import align_files
from kymaton.media.loudness import loudness_of
from tests.app.test_recordings import LONG_MS, drop, press, texts
from tests.media.film.test_embed import SECONDS, film, picture_hash, recorder
from tests.media.test_align import RATE, talk


@pytest.fixture(scope="module")
def made(tmp_path_factory):
    """A film, a recorder's sound half a second late, a second one a second late, and one of something else."""
    folder, sound = tmp_path_factory.mktemp("files"), talk(SECONDS + 4)
    film(folder / "film.mp4", sound)
    recorder(folder / "mix.wav", sound, 0.5)
    recorder(folder / "room.wav", sound, 1.0)
    soundfile.write(folder / "other.wav", talk(SECONDS, 77), RATE)
    return folder


@pytest.fixture
def page(window, made):
    window.go("sync")
    window.sync.show_page("files")
    assert any("Choose a film" in t for t in texts(window.sync.files))
    return window.sync.files


def cell(page, row: int, column: int) -> str:
    return page.table.item(row, column).text()


def aligned(page, qtbot) -> None:
    press(qtbot, page, "Lay over each other")
    qtbot.waitUntil(lambda: page.work.job is None, timeout=LONG_MS)


def test_two_sounds_are_dropped_laid_over_named_and_put_in(window, page, qtbot, made, tmp_path):
    drop(window, made / "film.mp4", made / "mix.wav", made / "room.wav")
    assert page.film.text() == str(made / "film.mp4") and not page.options.isVisible()
    aligned(page, qtbot)
    assert [float(cell(page, r, OFFSET)) for r in (0, 1)] == pytest.approx([500.0, 1000.0], abs=0.1)
    page.table.setCurrentCell(0, OFFSET)
    assert "In mix.wav the sound comes 500.00 ms later than in film.mp4, ± 0.01 ms" in texts(page)
    page.table.item(0, NAME).setText("Mix")
    page.table.item(1, NAME).setText("Room")
    page.table.item(1, LANGUAGE).setText("eng")
    page.table.item(1, SWAP).setCheckState(Qt.CheckState.Checked)
    page.options.original.setChecked(True)
    page.options.level.setChecked(True)
    page.options.loudness.setText("−30")
    page.embed(tmp_path / "out.mp4")
    qtbot.waitUntil(lambda: (tmp_path / "out.mp4").exists() and page.work.job is None, timeout=LONG_MS)
    assert picture_hash(tmp_path / "out.mp4")[0] == picture_hash(made / "film.mp4")[0]
    assert abs(align_files(made / "film.mp4", tmp_path / "out.mp4").offset_ms) < 1.0
    assert loudness_of(tmp_path / "out.mp4").integrated_lufs == pytest.approx(-30.0, abs=0.3)
    with av.open(str(tmp_path / "out.mp4")) as container:
        assert len(container.streams.audio) == 3
        assert container.streams.audio[1].metadata["language"] == "eng"
    assert any("the film has −30.0 LUFS" in t for t in texts(window))
    page.embed(made / "film.mp4")
    qtbot.waitUntil(lambda: any("would overwrite" in t for t in texts(window)), timeout=LONG_MS)
    page.options.loudness.setText("loud")
    page.embed(tmp_path / "never.mp4")
    assert any("A loudness lies between" in t for t in texts(window)) and page.work.job is None


def test_what_shares_nothing_needs_an_offset_by_hand(window, page, qtbot, made):
    for name in ("Right against left", "Extract its sound", "Its own sound", "Lay over each other"):
        press(qtbot, page, name)
    assert sum("to begin with" in t for t in texts(window)) >= 1 and page.work.job is None and page.table.sounds == []
    page.film.setText(str(made / "film.mp4"))
    page.add(made / "other.wav")
    aligned(page, qtbot)
    assert (
        "other.wav cannot be laid over film.mp4" in texts(page)
        and cell(page, 0, OFFSET) == ""
        and not page.options.isVisible()
    )
    page.table.item(0, OFFSET).setText("−12,5")
    page.table.item(0, DRIFT).setText("3")
    assert (page.table.sounds[0].offset_ms, page.table.sounds[0].drift_ppm) == (-12.5, 3.0) and page.options.isVisible()
    page.table.item(0, OFFSET).setText("soon")
    assert page.table.sounds[0].offset_ms == -12.5 and any("'soon' is not a number of ms" in t for t in texts(window))
    aligned(page, qtbot)
    assert page.table.sounds[0].offset_ms == -12.5  # what was typed stays
    page.film.setText(str(made / "mix.wav"))
    assert page.table.sounds[0].offset_ms == -12.5
    page.table.setCurrentCell(0, OFFSET)
    press(qtbot, page, "Remove")
    assert page.table.sounds == [] and page.table.rowCount() == 0
    press(qtbot, page, "Lay over each other")
    assert any("Add a sound first" in t for t in texts(window))


def test_the_own_sound_is_shifted_and_its_beginning_looked_at(window, page, qtbot, made, tmp_path, monkeypatch):
    page.film.setText(str(made / "film.mp4"))
    press(qtbot, page, "Its own sound")
    page.table.item(0, OFFSET).setText("-120")
    played: list = []
    monkeypatch.setattr(page.playing, "start", lambda path: played.append((path, path.exists())))
    press(qtbot, page, "Look at 20 s")
    qtbot.waitUntil(lambda: bool(played), timeout=LONG_MS)
    assert played[0][1] and played[0][0].name == "beginning of film.mp4"
    page.embed(tmp_path / "late.mp4")
    qtbot.waitUntil(lambda: (tmp_path / "late.mp4").exists() and page.work.job is None, timeout=LONG_MS)
    assert align_files(made / "film.mp4", tmp_path / "late.mp4").offset_ms == pytest.approx(120.0, abs=0.1)
    assert any("copied bit for bit" in t for t in texts(window))
    window.close()
    assert not played[0][0].exists()  # nothing that was only looked at stays


def test_sound_is_extracted_and_a_list_of_films_made(window, page, qtbot, made, tmp_path):
    page.film.setText(str(made / "film.mp4"))
    page.extract(tmp_path / "sound.flac")
    qtbot.waitUntil(lambda: (tmp_path / "sound.flac").exists() and page.work.job is None, timeout=LONG_MS)
    assert len(soundfile.read(tmp_path / "sound.flac")[0]) == pytest.approx(SECONDS * RATE, abs=2048)
    rows = "picture,sound,out\nfilm.mp4,mix.wav,one.mkv\nfilm.mp4,other.wav,two.mkv\n"
    (made / "films.csv").write_text(rows)
    page.make_list(made / "films.csv")
    qtbot.waitUntil(lambda: page.work.job is None and (made / "one.mkv").exists(), timeout=LONG_MS)
    assert "1 of 2 films were made" in texts(page) and not (made / "two.mkv").exists()
    assert any(t.startswith("two.mkv: other.wav") for t in texts(page))


def test_two_recordings_without_picture_are_compared(page, qtbot, made, tmp_path):
    sound, _ = soundfile.read(made / "mix.wav")
    soundfile.write(tmp_path / "turned.wav", -0.5 * np.concatenate([np.zeros((480, 2)), sound]), RATE)
    page.film.setText(str(made / "mix.wav"))
    page.add(tmp_path / "turned.wav")
    aligned(page, qtbot)
    assert "In turned.wav the sound comes 10.00 ms later than in mix.wav, ± 0.01 ms" in texts(page)
    assert any("6.0 dB softer, turned over" in t for t in texts(page))
    left = np.concatenate([sound[:, 0], np.zeros(1000)])
    right = np.concatenate([np.zeros(1000), 0.1 * sound[:, 0]])
    soundfile.write(tmp_path / "loop.wav", np.stack([left, right], 1), RATE)
    page.film.setText(str(tmp_path / "loop.wav"))
    press(qtbot, page, "Right against left")
    qtbot.waitUntil(lambda: page.work.job is None, timeout=LONG_MS)
    assert "What is on the left comes 20.83 ms later on the right, ± 0.01 ms" in texts(page)
    assert "20.83 ms" in page.document.logbook.entries()[0].text
    assert next(b for b in page.findChildren(QPushButton) if b.text() == "Remove").isEnabled()
