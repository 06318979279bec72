"""Peaks: what a sound comes to at every socket where all its arrivals meet, each with its full pressure.

Then delays play no part, and the amplitude at a socket is the sum of those before it times their gains: one set of
linear equations, A = S + |G| A, for all sounds together.
"""

import numpy as np

from kymaton.core.signal.graph import EdgeState, FloatArray, SignalGraph

MOST_AT_ONCE = 700  # sockets whose equations are solved at once; beyond it is round by round, which large rigs gain by
MOST_ROUNDS = 400
STILL = 1e-9


def peak_gains(graph: SignalGraph, state: EdgeState) -> FloatArray:
    """Amplitude at each node of each signal, relative to where it is made: (nodes, signals).

    Of what runs away in a loop the first MOST_ROUNDS turns. A canceller acts on what it knows, whenever it comes.
    """
    count, signals = len(graph.nodes), len(graph.signals)
    start = np.zeros((count, signals))
    start[graph.signal_node, np.arange(signals)] = 1.0
    gains = np.where(np.isfinite(state.gain_db), 10.0 ** (state.gain_db / 20.0), 0.0)
    found = _solved(graph, gains, start)
    known = np.zeros(signals, bool)
    for exception in state.exceptions:
        known |= exception.signals
    if known.any():
        less = gains.copy()
        for exception in state.exceptions:
            less[exception.edge] *= 10.0 ** (exception.gain_db / 20.0)
        found[:, known] = _solved(graph, less, start)[:, known]
    return found


def _solved(graph: SignalGraph, gains: FloatArray, start: FloatArray) -> FloatArray:
    count = len(start)
    if count <= MOST_AT_ONCE:
        matrix = np.zeros((count, count))
        np.add.at(matrix, (graph.dst, graph.src), gains)
        solved = _direct(matrix, start)
        if solved is not None:
            return solved
    amplitude = start
    for _ in range(MOST_ROUNDS):
        found = start.copy()
        np.add.at(found, graph.dst, amplitude[graph.src] * gains[:, None])
        if np.allclose(found, amplitude, rtol=STILL, atol=0.0):
            break
        amplitude = np.minimum(found, 1e12)
    return amplitude


def _direct(matrix: FloatArray, start: FloatArray) -> FloatArray | None:
    """The solution at once; None where something runs away, which has none."""
    try:
        solved = np.linalg.solve(np.eye(len(start)) - matrix, start)
    except np.linalg.LinAlgError:
        return None
    return np.maximum(solved, 0.0) if float(solved.min(initial=0.0)) > -1e-6 else None
