"""Best time of several runs, in seconds."""

import time
from collections.abc import Callable


def best(work: Callable[[], object], runs: int = 5) -> float:
    times = []
    for _ in range(runs):
        begin = time.perf_counter()
        work()
        times.append(time.perf_counter() - begin)
    return min(times)
