"""Fold a signal graph for one set of open edges: what leads nowhere is dropped, single-input nodes are passed over.

What remains is put in order: components (loops are one component [1]) in levels, each fed by earlier levels only.
A folded edge holds the product of the gains (as factors, with sign), the sum of the delays (µs) and the sum of their
variances (µs²) along its chain.

1. Tarjan, "Depth-first search and linear graph algorithms", SIAM J. Comput. 1 (1972), as SciPy's csgraph has it.
"""

import numpy as np
from msgspec import Struct

from kymaton.core.nets import net_of, strong_components
from kymaton.core.signal.graph import BoolArray, EdgeState, FloatArray, IntArray, SignalGraph


class Level(Struct, frozen=True):
    """Nodes solved together. `entering` are folded edges from earlier levels; `inner` those inside a loop."""

    nodes: IntArray
    entering: IntArray
    inner: IntArray

    @property
    def is_loop(self) -> bool:
        """Whether these nodes feed each other."""
        return len(self.inner) > 0


class Folding(Struct, frozen=True):
    """Which original edge each folded edge ends with, and the chain of single-input nodes before it."""

    last_edge: IntArray
    src: IntArray
    dst: IntArray
    jumps: tuple[IntArray, ...]
    own_edge: IntArray  # per node: the only edge into a folded node, −1 elsewhere
    levels: tuple[Level, ...]


class FoldedEdges(Struct, frozen=True):
    """Values of the folded edges in one cue: amplitude with sign, delay and variance of the delay (µs²)."""

    amplitude: FloatArray
    delay_us: IntArray
    variance: FloatArray


def reachable(count: int, src: IntArray, dst: IntArray, starts: IntArray) -> BoolArray:
    """Nodes that can be reached from any of the starts, the starts included."""
    seen = np.zeros(count, np.bool_)
    seen[starts] = True
    ahead = ~seen[dst]
    src, dst = src[ahead], dst[ahead]
    while True:
        step = seen[src]
        seen[dst[step]] = True
        ahead = ~step & ~seen[dst]
        if not step.any():
            return seen
        src, dst = src[ahead], dst[ahead]


def fold(graph: SignalGraph, open_edges: BoolArray, pinned: IntArray) -> Folding:
    """Fold the graph for a set of open edges; `pinned` nodes stay (sources and ears always do)."""
    count = len(graph.nodes)
    src, dst = graph.src[open_edges], graph.dst[open_edges]
    live_node = reachable(count, src, dst, graph.signal_node) & reachable(count, dst, src, graph.ear_node)
    numbers = np.flatnonzero(open_edges & live_node[graph.src] & live_node[graph.dst])
    src, dst = graph.src[numbers], graph.dst[numbers]

    foldable = np.bincount(dst, minlength=count) == 1
    foldable[graph.signal_node] = foldable[graph.ear_node] = foldable[pinned] = False
    own_edge = np.full(count, -1, np.int64)
    into = foldable[dst]
    own_edge[dst[into]] = numbers[into]
    parent = np.arange(count)
    parent[dst[into]] = src[into]
    jumps = []
    while True:
        jumps.append(parent)
        further = parent[parent]
        if np.array_equal(further, parent):
            break
        parent = further
    kept = ~foldable[dst]
    last, folded_src, folded_dst = numbers[kept], parent[src[kept]], dst[kept]
    return Folding(
        last, folded_src, folded_dst, tuple(jumps), own_edge, _levels(count, folded_src, folded_dst, live_node)
    )


def _levels(count: int, src: IntArray, dst: IntArray, live: BoolArray) -> tuple[Level, ...]:
    present = np.zeros(count, np.bool_)
    present[src] = present[dst] = True
    present &= live
    component = _components(count, src, dst)
    inner = component[src] == component[dst]
    looped = np.zeros(count, np.bool_)  # by component
    looped[component[src[inner]]] = True
    rank = _ranks(count, component[src[~inner]], component[dst[~inner]])
    node_rank = np.where(present, rank[component], -1)
    is_looped = looped[component]
    levels: list[Level] = []
    edge_rank, edge_looped = rank[component[dst]], is_looped[dst]
    for number in range(int(node_rank.max(initial=-1)) + 1):
        here = node_rank == number
        nodes = np.flatnonzero(here & ~is_looped)
        if len(nodes):
            entering = np.flatnonzero((edge_rank == number) & ~inner & ~edge_looped)
            levels.append(Level(nodes, entering, np.zeros(0, np.int64)))
        for group in sorted(set(component[here & is_looped].tolist())):
            into = component[dst] == group
            levels.append(
                Level(
                    np.flatnonzero(here & (component == group)),
                    np.flatnonzero(into & ~inner),
                    np.flatnonzero(into & inner),
                )
            )
    return tuple(levels)


def _components(count: int, src: IntArray, dst: IntArray) -> IntArray:
    """A number for each strongly connected component; nodes that are in no loop have one of their own."""
    while len(src):  # peel off what nothing leads to, then what leads nowhere: loops remain
        kept = (np.bincount(dst, minlength=count) > 0)[src] & (np.bincount(src, minlength=count) > 0)[dst]
        if kept.all():
            break
        src, dst = src[kept], dst[kept]
    if not len(src):
        return np.arange(count)
    found = np.arange(count)
    for group in strong_components(net_of(zip(src.tolist(), dst.tolist(), strict=True))):
        found[group] = min(group)
    return found


def _ranks(count: int, src: IntArray, dst: IntArray) -> IntArray:
    """Length of the longest way to each node of a graph without loops."""
    rank = np.zeros(count, np.int64)
    while True:
        better = rank.copy()
        np.maximum.at(better, dst, rank[src] + 1)
        if np.array_equal(better, rank):
            return rank
        rank = better


def folded_values(graph: SignalGraph, state: EdgeState, folding: Folding) -> FoldedEdges:
    """Products of gains and sums of delays along each folded edge."""
    edge_amplitude = graph.sign * np.power(10.0, state.gain_db / 20.0)
    edge_variance = graph.spread_us**2
    own = folding.own_edge
    has = np.flatnonzero(own >= 0)
    amplitude, delay, variance = np.ones(len(own)), np.zeros(len(own), np.int64), np.zeros(len(own))
    amplitude[has] = edge_amplitude[own[has]]
    delay[has] = state.delay_us[own[has]]
    variance[has] = edge_variance[own[has]]
    for parent in folding.jumps[:-1]:
        moved = parent != np.arange(len(parent))
        up = parent[moved]
        amplitude[moved], delay[moved], variance[moved] = (
            amplitude[moved] * amplitude[up],
            delay[moved] + delay[up],
            variance[moved] + variance[up],
        )
    last = folding.last_edge
    at = graph.src[last]
    return FoldedEdges(
        amplitude[at] * edge_amplitude[last],
        delay[at] + state.delay_us[last],
        variance[at] + edge_variance[last],
    )
