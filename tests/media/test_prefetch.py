"""Items made ahead in a thread of their own."""

import threading

import pytest

from kymaton.media.prefetch import Prefetcher


def test_items_come_in_order_from_another_thread_which_begins_when_asked_and_is_only_so_far_ahead():
    made = []

    def items():
        for number in range(100):
            made.append((number, threading.current_thread()))
            yield number

    ahead = Prefetcher(items(), most=4)
    assert not made
    assert [next(ahead) for _ in range(10)] == list(range(10))
    assert len(made) <= 10 + 4 + 1
    assert list(ahead) == list(range(10, 100)) and next(ahead, None) is None
    assert threading.current_thread() not in {thread for _, thread in made}


def test_what_goes_wrong_is_raised_after_the_items_before_it():
    def items():
        yield 1
        raise ValueError("no more")

    ahead = Prefetcher(items())
    assert next(ahead) == 1
    with pytest.raises(ValueError, match="no more"):
        next(ahead)
    assert next(ahead, None) is None


@pytest.mark.parametrize("taken", [0, 1, 20])
def test_closing_ends_the_making_and_leaves_no_thread(taken):
    ended = []

    def items():
        try:
            yield from range(1_000_000)
        finally:
            ended.append(True)

    ahead = Prefetcher(items(), most=4)
    for _ in range(taken):
        next(ahead)
    ahead.close()
    assert ended == ([True] if taken else [])
    assert ahead._thread is None or not ahead._thread.is_alive()
