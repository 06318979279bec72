"""Our own graph routines against NetworkX, and folding against the plain graph."""

import math

import networkx as nx
import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from kymaton.core.signal.folding import _components, _ranks, fold, folded_values, reachable
from tests.graphs import make_graph, nets

PAIRS = st.lists(st.tuples(st.integers(0, 9), st.integers(0, 9)), max_size=30)
SIZE = 10


def ends(pairs: list[tuple[int, int]]) -> tuple[np.ndarray, np.ndarray]:
    table = np.array(pairs, np.int64).reshape(-1, 2)
    return table[:, 0], table[:, 1]


def net_of(pairs: list[tuple[int, int]]) -> nx.DiGraph:
    net = nx.DiGraph()
    net.add_nodes_from(range(SIZE))
    net.add_edges_from(pairs)
    return net


@given(PAIRS, st.sets(st.integers(0, 9), min_size=1))
def test_reachable_is_what_networkx_reaches(pairs, starts):
    src, dst = ends(pairs)
    found = set(np.flatnonzero(reachable(SIZE, src, dst, np.array(sorted(starts)))).tolist())
    net = net_of(pairs)
    assert found == set().union(*({s} | nx.descendants(net, s) for s in starts))


@given(PAIRS)
@settings(deadline=None)
def test_components_are_the_strongly_connected_ones(pairs):
    src, dst = ends(pairs)
    numbers = _components(SIZE, src, dst)
    found = {frozenset(np.flatnonzero(numbers == n).tolist()) for n in set(numbers.tolist())}
    assert found == {frozenset(c) for c in nx.strongly_connected_components(net_of(pairs))}


@given(PAIRS)
def test_ranks_are_longest_ways(pairs):
    forward = [(a, b) for a, b in pairs if a < b]
    ranks = _ranks(SIZE, *ends(forward))
    net = net_of(forward)
    for node in range(SIZE):
        longest = max((len(p) - 1 for s in range(node) for p in nx.all_simple_paths(net, s, node)), default=0)
        assert ranks[node] == longest


@given(nets(loops=True))
@settings(deadline=None, max_examples=80)
def test_folded_edges_keep_gain_and_delay_of_their_chains(net):
    graph, state = make_graph(net.nodes, net.sources, net.ears, net.rows)
    folding = fold(graph, state.gain_db > -math.inf, np.zeros(0, np.int64))
    values = folded_values(graph, state, folding)
    for number, last in enumerate(folding.last_edge.tolist()):
        edges = [last]
        while (before := int(folding.own_edge[graph.src[edges[0]]])) >= 0:
            edges.insert(0, before)
        assert graph.src[edges[0]] == folding.src[number] and graph.dst[last] == folding.dst[number]
        size = math.prod(float(graph.sign[e]) * 10 ** (state.gain_db[e] / 20) for e in edges)
        assert math.isclose(values.amplitude[number], size, rel_tol=1e-9)
        assert values.delay_us[number] == sum(int(state.delay_us[e]) for e in edges)


@given(nets(loops=True))
@settings(deadline=None, max_examples=80)
def test_levels_come_in_an_order_in_which_they_can_be_solved(net):
    graph, state = make_graph(net.nodes, net.sources, net.ears, net.rows)
    folding = fold(graph, state.gain_db > -math.inf, np.zeros(0, np.int64))
    solved: set[int] = set()
    seen: list[int] = []
    for level in folding.levels:
        assert all(int(folding.src[e]) in solved for e in level.entering)
        assert not level.is_loop or set(folding.src[level.inner].tolist()) <= set(level.nodes.tolist())
        seen += [*level.entering.tolist(), *level.inner.tolist()]
        solved |= set(level.nodes.tolist())
    assert sorted(seen) == list(range(len(folding.last_edge)))
