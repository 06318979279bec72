"""How long work takes, in seconds, alone and against a floor."""

import time
from collections.abc import Callable
from statistics import median

Work = Callable[[], object]


def best(work: Work, runs: int = 5) -> float:
    """The best time of several runs."""
    return min(_once(work) for _ in range(runs))


def against(work: Work, floor: Work, runs: int = 7, before: Work = int) -> tuple[float, float]:
    """The best time, and the middle one of the ratios to a floor that is run in turn with it.

    A machine that others use as well has slow and fast moments; run in turn, both have their share of them. What is
    done `before` each is not counted.
    """

    def timed(one: Work) -> float:
        before()
        return _once(one)

    pairs = [(timed(floor), timed(work)) for _ in range(runs)]
    return min(ours for _, ours in pairs), median(ours / plain for plain, ours in pairs)


def _once(work: Work) -> float:
    begin = time.perf_counter()
    work()
    return time.perf_counter() - begin
