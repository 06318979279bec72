"""A short run of the fuzzers, always the same seeds."""

from tests.fuzz import kills, media, shows, words


def test_damaged_and_miswired_shows_end_in_a_sentence_or_an_answer(capsys):
    assert shows.main(60, seed=7_000_001) == 0, capsys.readouterr().out


def test_damaged_films_and_sounds_end_in_a_sentence_or_an_answer(capsys):
    assert media.main(40, seed=7_000_001) == 0, capsys.readouterr().out


def test_command_lines_at_random_end_with_a_code_and_one_line(capsys):
    assert words.main(60, seed=7_000_001) == 0, capsys.readouterr().out


def test_killed_while_writing_nothing_is_lost_and_nothing_left(capsys):
    assert kills.main(40, seed=7_000_001) == 0, capsys.readouterr().out
