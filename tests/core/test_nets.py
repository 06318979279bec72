"""Our short graph algorithms against NetworkX, on random nets."""

import itertools

import networkx as nx
from hypothesis import assume, given, settings
from hypothesis import strategies as st

from kymaton.core.nets import (
    back_edges,
    connected_components,
    elementary_cycles,
    net_of,
    preorder,
    reversed_net,
    shortest_ways,
    strong_components,
    topological,
)

SIZE = 8
PAIRS = st.lists(st.tuples(st.integers(0, SIZE - 1), st.integers(0, SIZE - 1)), max_size=24)


def theirs(pairs: list[tuple[int, int]]) -> nx.DiGraph:
    net = nx.DiGraph()
    net.add_nodes_from(range(SIZE))
    net.add_edges_from(pairs)
    return net


def ours(pairs: list[tuple[int, int]]) -> dict[int, dict[int, None]]:
    return net_of(pairs, range(SIZE))


def turned(cycle: list[int]) -> tuple[int, ...]:
    """A way round, told from its smallest node on."""
    at = cycle.index(min(cycle))
    return tuple(cycle[at:] + cycle[:at])


@given(PAIRS)
@settings(deadline=None)
def test_every_elementary_cycle_comes_once(pairs):
    found = [turned(c) for c in elementary_cycles(ours(pairs))]
    assert len(found) == len(set(found))
    assert set(found) == {turned(c) for c in nx.simple_cycles(theirs(pairs))}


@given(PAIRS)
def test_components_are_those_of_networkx(pairs):
    strong = {frozenset(g) for g in strong_components(ours(pairs))}
    assert strong == {frozenset(g) for g in nx.strongly_connected_components(theirs(pairs))}
    groups = connected_components(ours(pairs))
    assert {frozenset(g) for g in groups} == {frozenset(g) for g in nx.weakly_connected_components(theirs(pairs))}
    assert [g[0] for g in groups] == sorted(min(g) for g in groups)


@given(PAIRS)
def test_an_order_exists_where_nothing_goes_round_and_respects_every_edge(pairs):
    order = topological(ours(pairs))
    assert (order is not None) == nx.is_directed_acyclic_graph(theirs(pairs))
    if order is not None:
        assert sorted(order) == list(range(SIZE)) and all(order.index(a) < order.index(b) for a, b in pairs)


@given(PAIRS, st.integers(0, SIZE - 1))
def test_preorder_is_that_of_networkx(pairs, start):
    assert preorder(ours(pairs), start) == list(nx.dfs_preorder_nodes(theirs(pairs), start))
    assert set(preorder(reversed_net(ours(pairs)), start)) - {start} == nx.ancestors(theirs(pairs), start)


@given(st.dictionaries(st.tuples(st.integers(0, SIZE - 1), st.integers(0, SIZE - 1)), st.integers(0, 9), max_size=24))
def test_shortest_ways_are_ways_and_shortest(lengths):
    assume(all(a != b for a, b in lengths))
    net: dict[int, dict[int, int]] = {}
    for (a, b), length in lengths.items():
        net.setdefault(a, {})[b] = length
    graph = nx.DiGraph()
    graph.add_node(0)
    graph.add_weighted_edges_from((a, b, length) for (a, b), length in lengths.items())
    shortest = nx.single_source_dijkstra_path_length(graph, 0)
    found = shortest_ways(net, 0)
    assert found.keys() == shortest.keys()
    for node, way in found.items():
        assert way[0] == 0 and way[-1] == node
        assert sum(lengths[step] for step in itertools.pairwise(way)) == shortest[node]


def test_a_long_chain_needs_no_deep_recursion():
    chain = net_of((i, i + 1) for i in range(20_000))
    assert len(preorder(chain, 0)) == 20_001 and len(strong_components(chain)) == 20_001
    ring = net_of([*((i, i + 1) for i in range(20_000)), (20_000, 0)])
    assert [len(c) for c in elementary_cycles(ring)] == [20_001]


@given(st.lists(st.tuples(st.integers(0, 7), st.integers(0, 7)), max_size=24), st.integers(0, 7))
def test_without_the_edges_that_lead_back_nothing_goes_round(edges, start):
    net = net_of(edges, range(8))
    back = set(back_edges(net, [start, *range(8)]))
    kept = nx.DiGraph([e for e in edges if e not in back])
    assert back <= set(edges) and nx.is_directed_acyclic_graph(kept)
    whole = nx.DiGraph(edges)
    whole.add_nodes_from(range(8))
    kept.add_nodes_from(range(8))
    assert nx.descendants(whole, start) - {start} == nx.descendants(kept, start)  # all is still reached
    assert all(nx.has_path(whole, b, a) for a, b in back)  # each closes a way round


def test_a_start_that_no_edge_touches_leads_nowhere():
    assert set(back_edges(net_of([(1, 2), (2, 1)]), [9, 1])) == {(2, 1)}
