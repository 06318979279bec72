"""Unsaved work comes back after a crash; stems move along."""

import datetime
import os
import subprocess
import sys

from kymaton.core.model import Show
from kymaton.store.recovery import Journal, discard, kept_work
from kymaton.store.showfile import read_show
from kymaton.store.stems import copy_stems
from tests.shows import DEMO

NOW = datetime.datetime(2026, 11, 24, 21, 40)


def test_kept_work_is_offered_once_its_process_is_gone(tmp_path):
    script = (
        "import datetime, pathlib\n"
        "from kymaton.core.model import Show\n"
        "from kymaton.store.recovery import Journal\n"
        f"Journal(pathlib.Path({str(tmp_path)!r})).keep(Show(title='Evening'), pathlib.Path('/shows/e.kymaton'), None,"
        " datetime.datetime(2026, 11, 24, 21, 40))\n"
    )
    subprocess.run([sys.executable, "-c", script], check=True)
    kept = kept_work(tmp_path)[0]
    assert (kept.title, kept.when, str(kept.original)) == ("Evening", NOW, "/shows/e.kymaton")
    assert kept.show() == Show(title="Evening")
    discard(kept)
    assert kept_work(tmp_path) == [] and list(tmp_path.iterdir()) == []


def test_work_of_a_running_process_is_left_alone(tmp_path):
    other = subprocess.Popen([sys.executable, "-c", "import sys; sys.stdin.read()  # kymaton"], stdin=subprocess.PIPE)
    journal = Journal(tmp_path)
    journal.keep(Show(title="Mine"), None, None, NOW)
    text = journal.label.read_text().replace(f'"process": {os.getpid()}', f'"process": {other.pid}')
    journal.label.write_text(text)
    assert kept_work(tmp_path) == []
    other.communicate()
    assert [k.title for k in kept_work(tmp_path)] == ["Mine"]


def test_broken_labels_are_passed_over(tmp_path):
    Journal(tmp_path).keep(Show(title="Good"), None, None, NOW)
    (tmp_path / "bad.json").write_text("{")
    (tmp_path / "odd.json").write_text('{"process": "x"}')
    assert [k.title for k in kept_work(tmp_path)] == ["Good"]


def test_stems_move_along_and_stay_inside(tmp_path):
    show = read_show(DEMO)
    assert copy_stems(show, DEMO.parent, tmp_path) == len(show.sounds)
    assert (tmp_path / "stems" / "ilse.flac").read_bytes() == (DEMO.parent / "stems" / "ilse.flac").read_bytes()
    assert copy_stems(show, DEMO.parent, tmp_path) == 0
    outside = show.sounds[0].evolve(stem=show.sounds[0].stem.evolve(file="../x.flac"))
    assert copy_stems(show.evolve(sounds=(outside,)), DEMO.parent, tmp_path / "deep") == 0
