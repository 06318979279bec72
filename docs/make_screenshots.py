"""Takes one picture of each main view, from the demo shows, into docs/screenshots/."""

import os
import sys
import tempfile
from fractions import Fraction
from pathlib import Path

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
for variable in ("XDG_CONFIG_HOME", "XDG_STATE_HOME", "XDG_DATA_HOME"):
    os.environ[variable] = tempfile.mkdtemp()

import numpy as np
import soundfile
from PyQt6.QtCore import QThreadPool
from PyQt6.QtWidgets import QApplication, QFrame

from kymaton.app.document import Document
from kymaton.app.run import application
from kymaton.app.settings import Settings
from kymaton.app.theme.theme import THEME
from kymaton.app.window import Window
from kymaton.media.clips import Coding, write_film
from kymaton.store.demo import demo_show

FOLDER = Path(__file__).resolve().parent / "screenshots"


def settle() -> None:
    """Let everything that runs off-thread arrive."""
    pool = QThreadPool.globalInstance()
    assert pool is not None
    for _ in range(4):
        pool.waitForDone()
        for _ in range(6):
            QApplication.processEvents()


def shot(window: Window, name: str, folder: Path = FOLDER) -> None:
    while window.document.report is None:  # it begins when the window has been drawn
        QApplication.processEvents()
    settle()
    folder.mkdir(exist_ok=True, parents=True)
    window.grab().save(str(folder / f"{name}.png"))


def shot_files(window: Window, folder: Path) -> None:
    """A clap looked at, and a sound laid over the film it belongs to; both are made in the current folder."""
    film, mix = Path("rehearsal.mp4"), Path("desk mix.wav")
    write_clap(film, mix)
    for bar in window.findChildren(QFrame, "notice"):
        bar.hide()
    window.sync.show_page("by eye")
    eye = window.sync.eye
    eye.open(film)
    settle()
    eye.next_sound()
    settle()
    eye.strip.step_frame(5)
    eye.mark()
    shot(window, "sync-by-eye", folder)
    window.sync.show_page("files")
    files = window.sync.files
    files.film.setText(str(film))
    files.add(mix)
    files.align()
    settle()
    files.table.setCurrentCell(0, 1)
    shot(window, "sync-files", folder)


def shot_recordings(window: Window, folder: Path) -> None:
    """Two tracks of a talk on the bench: one is softer, hums and misses a side for a while."""
    rate, seconds = 48_000, 90
    at = np.arange(seconds * rate) / rate
    pitch = 2 * np.pi * np.cumsum(115 + 25 * np.sin(2 * np.pi * 0.31 * at)) / rate
    turns = (np.sin(2 * np.pi * 0.06 * at) > 0) * np.clip(np.sin(2 * np.pi * 2.1 * at) + 0.3, 0, 1)
    talk = 0.16 * turns * sum(np.sin(n * pitch) / n for n in range(1, 20)) + 1e-4 * np.random.default_rng(2).normal(
        size=len(at)
    )
    hum = 10 ** (-46 / 20) * np.sin(2 * np.pi * 50 * at)
    guest = np.stack([0.4 * talk + hum, 0.35 * talk + hum], axis=1)
    guest[60 * rate : 70 * rate, 1] *= 1e-3
    soundfile.write("Maren.wav", np.stack([talk, 0.9 * talk], axis=1), rate, "PCM_24")
    soundfile.write("Ilse.wav", guest, rate, "PCM_24")
    page = window.levels.recordings
    window.levels.dropped([Path("Maren.wav"), Path("Ilse.wav")])
    while len(page.found) < 2:
        QApplication.processEvents()
    page.table.selectRow(1)
    shot(window, "levels-recordings", folder)


def write_clap(film: Path, mix: Path) -> None:
    """A film in which two hands meet now and then, its sound 150 ms early, and the same sound from a desk."""
    rate, seconds, hertz = Fraction(25), 16, 48_000
    claps = [Fraction(n, 10) for n in (15, 41, 63, 92, 119, 144)]
    chance = np.random.default_rng(4)
    sound = 0.004 * chance.normal(size=seconds * hertz)
    for clap in claps:
        first = round((clap - Fraction(15, 100)) * hertz)
        sound[first : first + 4800] += 0.5 * chance.normal(size=4800) * np.exp(-np.arange(4800) / 500)
    apart = (min(abs(n / rate - c - Fraction(1, 25)) for c in claps) for n in range(seconds * int(rate)))
    frames = (drawn_hands(float(a)) for a in apart)
    write_film(film, frames, sound.astype(np.float32), Coding(rate, sound_codec="aac", rate_hz=hertz))
    desk = np.concatenate([np.zeros(round(0.73 * hertz)), 0.6 * sound]) + 0.001 * chance.normal(
        size=len(sound) + 35_040
    )
    soundfile.write(mix, np.stack([desk, desk], axis=1), hertz, "PCM_24")


def drawn_hands(apart_s: float) -> np.ndarray:
    """Two hands, so far from their clap."""
    frame = np.full((360, 640), 46, np.uint8)
    down, across = np.mgrid[0:360, 0:640]
    frame[(down - 120) ** 2 + (across - 320) ** 2 < 52**2] = 120
    frame[(abs(across - 320) < 90) & (down > 180)] = 84
    away = 13 + min(1.0, 4 * max(0.0, apart_s - 0.02)) * 130
    for side in (-1, 1):
        frame[((down - 230) / 46) ** 2 + ((across - 320 - side * away) / 15) ** 2 < 1] = 200
    return frame


def main(folder: Path = FOLDER) -> None:
    running = application()  # held, or it is gone
    THEME.choose("day")
    document = Document()
    document.open_copy(demo_show())
    window = Window(Settings(), document)
    window.resize(1280, 800)
    window.show()
    shot(window, "hearing-day", folder)
    window.go("brief")
    shot(window, "brief", folder)
    window.go("path")
    window.path.map.choose(window.path.map.map.plates["desk"])
    window.path.patch.line.setText("desk aux 6 > desk 14")
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
    proposal = window.hearing.proposal.proposal
    assert proposal is not None
    window.hearing.beside.with_proposal(proposal)
    window.hearing.show_question("why does Ilse hear herself")
    shot(window, "compare-and-ask", folder)
    window.hearing.beside.leave()
    window.go("levels")
    document.select("audience", "maren")
    shot(window, "levels-ladder", folder)
    window.levels.show_page("soundcheck")
    shot(window, "levels-soundcheck", folder)
    shot_recordings(window, folder)
    window.go("sync")
    window.sync.cues.setCurrentIndex(1)
    window.sync.refresh()
    shot(window, "sync-delays", folder)
    window.sync.show_page("recordings")
    shot(window, "sync-recording", folder)
    window.sync.recordings.simulate()
    shot(window, "sync-recording", folder)
    window.sync.recordings.take_over(window.sync.recordings.results[0])
    shot_files(window, folder)
    window.go("load-in")
    shot(window, "load-in-budgets", folder)
    window.loadin.show_page("sheets")
    window.loadin.sheets.names.setCurrentRow(2)
    shot(window, "load-in-sheets", folder)
    document.log("note", "Camera A was changed for another one of the same kind; measured again after the rehearsal.")
    window.go("log")
    shot(window, "log", folder)
    window.close()
    running.processEvents()


if __name__ == "__main__":
    wanted = (Path(sys.argv[1]) if len(sys.argv) > 1 else FOLDER).resolve()
    with tempfile.TemporaryDirectory() as made:
        os.chdir(made)  # so that no folder of this machine is in a picture; before the process for media begins here
        main(wanted)
        os.chdir(wanted)
