"""The hearing solution: 64 sounds, 64 listeners, 5,000 routes; and against plain path enumeration."""

import math

import networkx as nx
import numpy as np

from benchmarks.timing import best
from kymaton.core.signal.graph import Edge, EdgeState, SignalGraph
from kymaton.core.signal.hearing import fold_for, solve


def rig(
    sounds: int,
    listeners: int,
    buses: int,
    chain: int,
    per_bus: int,
    ways: int,
    seed: int = 1,
    parallel: tuple[int, int] = (1, 1),
) -> tuple[SignalGraph, EdgeState]:
    """Sounds through chains of devices into buses, buses through chains to listeners, each sound by `ways` buses."""
    random = np.random.default_rng(seed)
    rows: list[tuple[int, int]] = []
    count = 0

    def new() -> int:
        nonlocal count
        count += 1
        return count - 1

    sources = [new() for _ in range(sounds)]
    ears = [new() for _ in range(listeners)]
    bus_in = [new() for _ in range(buses)]
    bus_out = []
    for source in sources:
        node = source
        for _ in range(chain):
            following = new()
            rows.append((node, following))
            node = following
        rows += [(node, int(b)) for b in random.choice(bus_in, per_bus, replace=False)] * parallel[0]
    for bus in bus_in:
        node = bus
        for _ in range(chain):
            following = new()
            rows.append((node, following))
            node = following
        bus_out.append(node)
    for ear in ears:
        rows += [(int(b), ear) for b in random.choice(bus_out, ways, replace=False)] * parallel[1]
    size = len(rows)
    nan = np.full(size, math.nan)
    graph = SignalGraph(
        nodes=[(f"d/n{i}", 1) for i in range(count)],
        src=np.array([a for a, _ in rows]),
        dst=np.array([b for _, b in rows]),
        gain_db=random.uniform(-12, 0, size),
        delay_us=random.integers(0, 40_000, size),
        spread_us=np.zeros(size),
        sign=np.ones(size),
        low_hz=nan,
        high_hz=nan.copy(),
        edges=[Edge() for _ in range(size)],
        signals=[(f"s{i}", 1) for i in range(sounds)],
        signal_node=np.array(sources),
        ears=[(f"l{i}", 1) for i in range(listeners)],
        ear_node=np.array(ears),
    )
    return graph, EdgeState(graph.gain_db.copy(), graph.delay_us.copy(), ())


def enumerate_paths(graph: SignalGraph, state: EdgeState) -> int:
    """Plain path enumeration with NetworkX: every simple path, its delay and gain."""
    net: nx.MultiDiGraph = nx.MultiDiGraph()
    for number, (a, b) in enumerate(zip(graph.src.tolist(), graph.dst.tolist(), strict=True)):
        net.add_edge(a, b, key=number)
    found = 0
    for source in graph.signal_node.tolist():
        for path in nx.all_simple_edge_paths(net, source, set(graph.ear_node.tolist())):
            sum(float(state.gain_db[key]) for _, _, key in path)
            sum(int(state.delay_us[key]) for _, _, key in path)
            found += 1
    return found


def run() -> list[tuple[str, str, str]]:
    rows = []
    rigs = (
        (rig(64, 64, 24, 28, 22, 16), "≤ 20 ms"),
        (rig(64, 64, 14, 14, 14, 14, parallel=(2, 3)), "≤ 80 ms"),
    )
    for (graph, state), goal in rigs:
        folding = fold_for(graph, state)
        hearing = solve(graph, state, folding)
        pairs = len(hearing.at_ears) / 64 / 64
        seconds = best(lambda g=graph, s=state, f=folding: solve(g, s, f), 9)
        fresh = best(lambda g=graph, s=state: solve(g, s), 5)
        rows.append(
            (
                f"hearing, 64 × 64, {len(graph.src)} routes, {pairs:.0f} arrivals a pair",
                f"{seconds * 1000:.1f} ms ({fresh * 1000:.1f} ms when what is open changed)",
                goal,
            )
        )
    graph, state = rigs[0][0]
    folding = fold_for(graph, state)
    random = np.random.default_rng(2)
    states = [
        EdgeState(state.gain_db + random.uniform(-3, 0, len(state.gain_db)), state.delay_us, ()) for _ in range(50)
    ]
    seconds = best(lambda: [solve(graph, s, folding) for s in states], 2)
    rows.append((f"hearing, 50 cues of the first, {len(graph.src)} routes", f"{seconds:.2f} s", "≤ 1 s"))
    graph, state = rigs[0][0]
    found = enumerate_paths(graph, state)
    plain = best(lambda: enumerate_paths(graph, state), 1)
    ours = best(lambda: solve(graph, state), 5)
    rows.append((f"hearing against plain enumeration of {found} paths", f"{plain / ours:.0f} × faster", "≥ 100 ×"))
    return rows
