"""The audition: 16 sounds, 8 listeners, 60 s, about 190 arrivals; floor: a matrix product in the same blocks."""

import numpy as np

from benchmarks.hearing import rig
from benchmarks.timing import against
from kymaton.core.signal.hearing import solve
from kymaton.core.signal.render import BLOCK, render

RATE_HZ = 48_000


def run() -> list[tuple[str, str, str]]:
    graph, state = rig(16, 16, 4, 4, 3, 1, seed=3)
    graph.ears = [(f"l{i // 2}", 1 + i % 2) for i in range(16)]  # 8 listeners with two ears each
    arrivals = len(solve(graph, state).at_ears)
    random = np.random.default_rng(0)
    length = 60 * RATE_HZ
    stems = {signal: random.normal(size=length).astype(np.float32) for signal in graph.signals}
    listeners = list(dict.fromkeys(x for x, _ in graph.ears))
    matrix = random.normal(size=(16, 16)).astype(np.float32)
    samples = np.stack(list(stems.values()))

    def floor() -> None:
        out = np.empty((16, length + RATE_HZ), np.float32)  # the render has to make its output too
        for start in range(0, length, BLOCK):
            stop = min(start + BLOCK, length)
            np.matmul(matrix, samples[:, start:stop], out=out[:, start:stop])

    ours, ratio = against(lambda: render(graph, state, listeners, stems, {}, RATE_HZ), floor)
    return [
        (
            f"audition, 16 sounds, 8 listeners with two ears, 60 s, {arrivals} arrivals",
            f"{ours:.2f} s, {ratio:.1f} × one float32 matrix product",
            "≤ 2 ×",
        )
    ]
