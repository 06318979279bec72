"""Signal graphs made by hand or at random, and slow but obvious solutions to compare with."""

import math
from dataclasses import dataclass

import numpy as np
from hypothesis import strategies as st

from kymaton.core.signal.graph import Edge, EdgeState, SignalGraph

Row = tuple[int, int, float, int, int]  # source, target, gain dB, delay µs, sign


def make_graph(nodes: int, sources: list[int], ears: list[int], rows: list[Row]) -> tuple[SignalGraph, EdgeState]:
    table = np.array(rows, float).reshape(-1, 5)
    nan = np.full(len(rows), math.nan)
    graph = SignalGraph(
        nodes=[(f"device/n{i}", 1) for i in range(nodes)],
        src=table[:, 0].astype(np.int64),
        dst=table[:, 1].astype(np.int64),
        gain_db=table[:, 2],
        delay_us=table[:, 3].astype(np.int64),
        spread_us=np.zeros(len(rows)),
        sign=table[:, 4],
        low_hz=nan,
        high_hz=nan.copy(),
        edges=[Edge(device="device", route=i) for i in range(len(rows))],
        signals=[(f"s{i}", 1) for i in range(len(sources))],
        signal_node=np.array(sources, np.int64),
        ears=[(f"l{i}", 1) for i in range(len(ears))],
        ear_node=np.array(ears, np.int64),
    )
    return graph, EdgeState(graph.gain_db.copy(), graph.delay_us.copy(), ())


@dataclass(frozen=True)
class Net:
    nodes: int
    sources: list[int]
    ears: list[int]
    rows: list[Row]


@st.composite
def nets(draw: st.DrawFn, loops: bool = False) -> Net:
    """Random nets: sources have no edges in, ears none out; with `loops`, some edges lead back, quieter."""
    inner = draw(st.integers(1, 8))
    sources = list(range(draw(st.integers(1, 3))))
    middle = list(range(len(sources), len(sources) + inner))
    ears = list(range(len(sources) + inner, len(sources) + inner + draw(st.integers(1, 2))))
    gain = st.integers(-30, 6).map(float) | st.just(-math.inf)
    delay, sign = st.integers(0, 40_000), st.sampled_from([1, -1])
    rows: list[Row] = []
    for _ in range(draw(st.integers(1, 22))):
        a = draw(st.sampled_from(sources + middle))
        b = draw(st.sampled_from(middle + ears))
        if a < b:
            rows.append((a, b, draw(gain), draw(delay), draw(sign)))
        elif loops:
            rows.append((a, b, draw(st.integers(-40, -14).map(float)), 1 + draw(delay), draw(sign)))
    return Net(len(sources) + inner + len(ears), sources, ears, rows)


def arrivals_by_enumeration(net: Net, source: int, ear: int) -> dict[int, float]:
    """Every path of a loop-free net, one by one: amplitude by delay."""
    found: dict[int, float] = {}

    def walk(node: int, amplitude: float, delay: int) -> None:
        if node == ear:
            found[delay] = found.get(delay, 0.0) + amplitude
        for a, b, gain, step, sign in net.rows:
            if a == node and gain > -math.inf:
                walk(b, amplitude * sign * 10 ** (gain / 20), delay + step)

    walk(source, 1.0, 0)
    return found


def arrivals_by_turns(net: Net, source: int, down_to: float = 1e-9) -> dict[int, dict[int, float]]:
    """What a pulse becomes on its way, edge by edge, until all that is left of it is very small: by node and delay.

    With loops too. What is at one node at one time after as many edges is one; else nothing is left out.
    """
    heard: dict[int, dict[int, float]] = {node: {} for node in range(net.nodes)}
    front = {(source, 0): 1.0}
    while front:
        moved: dict[tuple[int, int], float] = {}
        for (node, at), amplitude in front.items():
            heard[node][at] = heard[node].get(at, 0.0) + amplitude
            for a, b, gain, step, sign in net.rows:
                if a == node and gain > -math.inf:
                    place = (b, at + step)
                    moved[place] = moved.get(place, 0.0) + amplitude * sign * 10 ** (gain / 20)
        front = {place: amplitude for place, amplitude in moved.items() if abs(amplitude) > down_to}
    return heard


def transfer(graph: SignalGraph, state: EdgeState, f_hz: float) -> tuple[np.ndarray, np.ndarray]:
    """(I − A(f))⁻¹ and (I − |A|)⁻¹ as [to, from] over all nodes."""
    size = len(graph.nodes)
    a, magnitude = np.zeros((size, size), complex), np.zeros((size, size))
    gain = graph.sign * 10 ** (state.gain_db / 20)
    np.add.at(a, (graph.dst, graph.src), gain * np.exp(-2j * np.pi * f_hz * state.delay_us * 1e-6))
    np.add.at(magnitude, (graph.dst, graph.src), np.abs(gain))
    return np.linalg.inv(np.eye(size) - a), np.linalg.inv(np.eye(size) - magnitude)
