"""How few buses do: colours counted by trying them all, and bounds where that would take too long."""

import random

import networkx as nx
from hypothesis import given
from hypothesis import strategies as st

from kymaton.core.planning.sharing import Feed, colouring, fewest_colours


@given(st.integers(0, 7), st.sets(st.tuples(st.integers(0, 6), st.integers(0, 6))))
def test_fewest_colours_is_exact(size, pairs):
    graph = nx.Graph()
    graph.add_nodes_from(map(str, range(size)))
    graph.add_edges_from((str(a), str(b)) for a, b in pairs if a != b and a < size and b < size)

    def colourable(k: int, node: int = 0, colours: tuple[int, ...] = ()) -> bool:
        if node == size:
            return True
        near = {colours[int(m)] for m in graph[str(node)] if int(m) < node}
        return any(colourable(k, node + 1, (*colours, c)) for c in range(k) if c not in near)

    found = fewest_colours(graph)
    assert found.many == found.at_least == next(k for k in range(size + 1) if colourable(k))
    assert all(found.colours[a] != found.colours[b] for a, b in graph.edges)


def test_of_many_listeners_there_is_a_number_and_a_bound():
    for seed in range(6):
        rng = random.Random(seed)
        graph = nx.gnp_random_graph(28, 0.1 + 0.15 * seed, seed=seed)
        graph = nx.relabel_nodes(graph, {n: str(n) for n in graph})
        found = fewest_colours(graph)
        largest = max(map(len, nx.find_cliques(graph)))
        greedy = max(nx.greedy_color(graph, "DSATUR").values()) + 1
        assert found.at_least <= found.many <= greedy and found.many >= largest
        assert all(found.colours[a] != found.colours[b] for a, b in graph.edges) and rng


def test_who_collide_in_one_cue_only_collide():
    one = Feed("a", ("x",), frozenset({("talk", "s")}), frozenset())
    other = Feed("b", ("y",), frozenset(), frozenset({("song", "s")}))
    assert colouring([one, other]).many == 1
    assert colouring([one, Feed("b", ("y",), frozenset(), frozenset({("talk", "s")}))]).many == 2
    assert Feed("c", ("x", "y"), one.needs, one.needs).at_odds and not one.at_odds
