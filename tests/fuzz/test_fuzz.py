"""A short run of the fuzzers, always the same seeds."""

import os
import subprocess
import sys

from tests.fuzz import kills, media, shows, words


def test_damaged_and_miswired_shows_end_in_a_sentence_or_an_answer(capsys):
    assert shows.main(60, seed=7_000_001) == 0, capsys.readouterr().out


def test_damaged_films_and_sounds_end_in_a_sentence_or_an_answer(capsys):
    assert media.main(40, seed=7_000_001) == 0, capsys.readouterr().out


def test_command_lines_at_random_end_with_a_code_and_one_line(capsys):
    assert words.main(60, seed=7_000_001) == 0, capsys.readouterr().out


def test_killed_while_writing_nothing_is_lost_and_nothing_left(capsys):
    assert kills.main(40, seed=7_000_001) == 0, capsys.readouterr().out


def test_a_hand_without_sense_at_the_window_breaks_nothing():
    """In a process of its own: it changes what dialogs and menus do."""
    environment = {**os.environ, "QT_QPA_PLATFORM": "offscreen"}
    words = [sys.executable, "-m", "tests.fuzz.window", "150", "7000001"]
    done = subprocess.run(words, capture_output=True, text=True, env=environment, timeout=200)
    assert done.returncode == 0, done.stdout + done.stderr
