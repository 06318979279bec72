"""A short run of the fuzzers, always the same seeds."""

from tests.fuzz import shows


def test_damaged_and_miswired_shows_end_in_a_sentence_or_an_answer(capsys):
    assert shows.main(60, seed=7_000_001) == 0, capsys.readouterr().out
