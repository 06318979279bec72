"""Unsaved work comes back after a crash; stems move along."""

import datetime
import os
import subprocess
import sys

from kymaton.core.model import Show
from kymaton.store.recovery import Journal, discard, kept_work, sweep_left
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


def test_work_whose_label_was_not_written_any_more_is_offered_by_its_own_title(tmp_path):
    for title, label in (("Whole", None), ("Half", "{"), ("Odd", '{"process": "x"}')):
        journal = Journal(tmp_path)
        journal.keep(Show(title=title), None, None, NOW)
        journal.label.unlink() if label is None else journal.label.write_text(label)
    (tmp_path / "12-broken.kymaton").write_text("{")
    kept = kept_work(tmp_path)
    assert {k.title for k in kept} == {"Whole", "Half", "Odd"}
    assert all(k.original is None and abs((k.when - datetime.datetime.now()).total_seconds()) < 60 for k in kept)
    assert {k.show().title for k in kept} == {"Whole", "Half", "Odd"}


def test_what_killed_ones_left_is_taken_away_and_nothing_else(tmp_path):
    gone = subprocess.Popen([sys.executable, "-c", "pass"])
    gone.wait()
    mine, shows = tmp_path / "mine", tmp_path / "shows"
    mine.mkdir()
    shows.mkdir()
    left = [
        mine / f".a.kymaton.{gone.pid}.part", mine / f"{gone.pid}-abc.json", shows / f".e.kymaton.{gone.pid}.part",
    ]  # fmt: skip
    stay = [
        mine / f".a.kymaton.{os.getpid()}.part", shows / "e.kymaton", shows / f".other.{gone.pid}.part",
        shows / f".e.kymaton.{os.getpid()}.part", mine / f"{gone.pid}-def.json", mine / f"{gone.pid}-def.kymaton",
    ]  # fmt: skip
    for path in (*left, *stay):
        path.write_text("x")
    sweep_left([shows, tmp_path / "nowhere"], mine)
    assert sorted(p for p in tmp_path.rglob("*") if p.is_file()) == sorted(stay)


def test_stems_move_along_and_stay_inside(tmp_path):
    show = read_show(DEMO)
    assert copy_stems(show, DEMO.parent, tmp_path) == len(show.sounds)
    assert (tmp_path / "stems" / "ilse.flac").read_bytes() == (DEMO.parent / "stems" / "ilse.flac").read_bytes()
    assert copy_stems(show, DEMO.parent, tmp_path) == 0
    outside = show.sounds[0].evolve(stem=show.sounds[0].stem.evolve(file="../x.flac"))
    assert copy_stems(show.evolve(sounds=(outside,)), DEMO.parent, tmp_path / "deep") == 0
