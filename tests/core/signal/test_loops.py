"""Loops against brute force: how far from running away, which goes round strongest, what is cut."""

import itertools
import math

import networkx as nx
import numpy as np
import pytest
from hypothesis import assume, given, settings
from hypothesis import strategies as st

from kymaton.core.signal.hearing import solve
from kymaton.core.signal.loops import _cut_once, find_loops
from tests.graphs import make_graph

Ends = tuple[int, int]
MIDDLE = st.integers(1, 4)
EDGES = st.dictionaries(st.tuples(MIDDLE, MIDDLE), st.tuples(st.floats(-18, -3), st.integers(1, 900)), max_size=8)


def rig(edges: dict[Ends, tuple[float, int]]):
    """Nodes 1 to 4 that feed each other, each heard from source 0 and at ear 5, so that none is folded away."""
    rows = [(0, n, 0.0, 0, 1) for n in range(1, 5)] + [(n, 5, 0.0, 0, 1) for n in range(1, 5)]
    rows += [(a, b, gain, delay, 1) for (a, b), (gain, delay) in edges.items()]
    return solve(*make_graph(6, [0], [5], rows))


def parts(edges: dict[Ends, tuple[float, int]]) -> list[dict[Ends, tuple[float, int]]]:
    """The edges of each part that goes round."""
    net = nx.DiGraph(list(edges))
    groups = [c for c in nx.strongly_connected_components(net) if len(c) > 1 or any(net.has_edge(n, n) for n in c)]
    return [{e: v for e, v in edges.items() if set(e) <= group} for group in groups]


def cycles_of(edges: dict[Ends, tuple[float, int]]) -> list[list[Ends]]:
    return [list(zip(c, [*c[1:], c[0]], strict=True)) for c in nx.simple_cycles(nx.DiGraph(list(edges)))]


def cut_by_hand(edges: dict[Ends, tuple[float, int]]) -> tuple[Ends, ...] | None:
    """The first smallest set of edges that is in every cycle exactly once, by trying all."""
    cycles = cycles_of(edges)
    for many in range(1, len(edges) + 1):
        for some in itertools.combinations(edges, many):
            if all(sum(e in some for e in cycle) == 1 for cycle in cycles):
                return some
    return None


def margin_by_hand(edges: dict[Ends, tuple[float, int]], cut: tuple[Ends, ...]) -> float:
    """How much more gain on the cut edges makes the whole go round undiminished: found by halving, in dB."""

    def radius(more_db: float) -> float:
        matrix = np.zeros((6, 6))
        for (a, b), (gain, _) in edges.items():
            matrix[b, a] = 10 ** ((gain + (more_db if (a, b) in cut else 0.0)) / 20)
        return float(np.abs(np.linalg.eigvals(matrix)).max())

    low, high = -60.0, 120.0
    for _ in range(60):
        middle = (low + high) / 2
        low, high = (middle, high) if radius(middle) < 1 else (low, middle)
    return (low + high) / 2


@given(EDGES)
@settings(deadline=None, max_examples=150)
def test_the_margin_of_several_loops_is_what_brings_them_to_go_round_undiminished(edges):
    several = parts(edges)
    assume(several)
    cuts = [cut_by_hand(part) for part in several]
    assume(all(cut is not None for cut in cuts))
    expected = sorted(margin_by_hand(part, cut) for part, cut in zip(several, cuts, strict=True) if cut)
    found = find_loops(rig(edges))
    assert sorted(x.margin_db for x in found) == pytest.approx(expected, abs=1e-5)
    assert sorted(x.single for x in found) == sorted(len(cycles_of(part)) == 1 for part in several)


@given(EDGES)
@settings(deadline=None, max_examples=150)
def test_the_strongest_way_round_is_the_one_that_is_shown(edges):
    several = parts(edges)
    assume(several)
    hearing = rig(edges)
    found = {frozenset(edge_ends(hearing, x)): x for x in find_loops(hearing)}
    expected = {}
    for part in several:
        weighed = sorted(((sum(part[e][0] for e in c), c) for c in cycles_of(part)), key=lambda w: -w[0])
        assume(len(weighed) == 1 or weighed[0][0] - weighed[1][0] > 1e-6)
        expected[frozenset(weighed[0][1])] = sum(part[e][1] for e in weighed[0][1])
    assert {ends: loop.delay_us for ends, loop in found.items()} == expected
    for loop in found.values():
        walked = edge_ends(hearing, loop)
        assert all(a[1] == b[0] for a, b in itertools.pairwise([*walked, walked[0]]))  # in the order of the sound


def edge_ends(hearing, loop) -> list[Ends]:
    return [(int(hearing.graph.src[e]), int(hearing.graph.dst[e])) for e in loop.edges]


def test_ways_side_by_side_add_up_and_the_stronger_is_shown():
    both = {(1, 2): (-10.0, 100), (2, 1): (0.0, 0)}
    rows = [(0, 1, 0.0, 0, 1), (0, 2, 0.0, 0, 1), (1, 3, 0.0, 0, 1), (2, 3, 0.0, 0, 1)]
    rows += [(a, b, g, d, 1) for (a, b), (g, d) in both.items()] + [(1, 2, -13.0, 700, -1)]
    [loop] = find_loops(solve(*make_graph(4, [0], [3], rows)))
    together = 10 ** (-10 / 20) + 10 ** (-13 / 20)  # sizes, so at the worst phase
    assert loop.margin_db == pytest.approx(-20 * math.log10(together)) and loop.delay_us == 100 and loop.single


def test_a_loop_is_told_with_all_that_it_goes_through_in_the_order_of_the_sound():
    """Nodes 2 to 4 have one input each: they are passed over in the solution, not in what is told."""
    rows = [(2, 3, -1.0, 10, 1), (4, 1, -2.0, 20, 1), (3, 4, -3.0, 40, 1), (1, 2, -4.0, 80, 1)]
    hearing = solve(*make_graph(6, [0], [5], [*rows, (0, 1, 0.0, 0, 1), (1, 5, 0.0, 0, 1)]))
    [loop] = find_loops(hearing)
    assert loop.margin_db == pytest.approx(10.0) and loop.delay_us == 150
    walked = edge_ends(hearing, loop)
    assert sorted(walked) == [(1, 2), (2, 3), (3, 4), (4, 1)]
    assert all(a[1] == b[0] for a, b in itertools.pairwise([*walked, walked[0]]))


def test_more_ways_round_than_were_listed_are_all_cut():
    every = [(a, b) for a in range(4) for b in range(4)]
    net = nx.DiGraph(every)
    net.remove_edges_from(_cut_once(every, [[(0, 1), (1, 0)]]))
    assert nx.is_directed_acyclic_graph(net) and net.number_of_edges() == 6  # not more than every second one


def test_two_loops_apart_are_two():
    found = find_loops(rig({(1, 2): (-6.0, 10), (2, 1): (0.0, 0), (3, 4): (-9.0, 20), (4, 3): (-1.0, 0)}))
    assert sorted((round(x.margin_db, 6), x.delay_us) for x in found) == [(6.0, 10), (10.0, 20)]


def test_a_loop_says_how_long_it_rings_and_through_what():
    hearing = rig({(1, 2): (-6.0, 3000), (2, 1): (0.0, 0)})
    [loop] = find_loops(hearing)
    assert loop.decay_s == pytest.approx(60 / 6 * 0.003) and not loop.without_delay
    assert sorted(loop.ports(hearing.graph)) == ["device/n1", "device/n2"]
    [still] = find_loops(rig({(1, 2): (0.0, 0), (2, 1): (0.0, 0)}))
    assert still.decay_s == math.inf and still.without_delay and still.margin_db == pytest.approx(0.0, abs=1e-9)


@given(st.sets(st.tuples(st.integers(0, 5), st.integers(0, 5)), max_size=14))
@settings(deadline=None, max_examples=150)
def test_the_cut_meets_every_way_round_once_where_that_can_be_and_with_fewest_edges(pairs):
    edges = dict.fromkeys(sorted(pairs), (0.0, 0))
    cycles = cycles_of(edges)
    assume(0 < len(cycles) < 60)
    cut = _cut_once(list(edges), cycles)
    once = cut_by_hand(edges)
    met = [sum(e in cut for e in cycle) for cycle in cycles]
    assert min(met) >= 1
    if once is not None:
        assert max(met) == 1 and len(cut) == len(once)


@pytest.mark.parametrize("size", [4, 7])
def test_everything_that_feeds_everything_still_has_a_margin_on_the_safe_side(size):
    """Seven that all feed each other go round in more ways than are listed; no cut meets each only once."""
    inner = range(1, size + 1)
    rows = [(0, n, 0.0, 0, 1) for n in inner] + [(n, size + 1, 0.0, 0, 1) for n in inner]
    rows += [(a, b, -40.0, 1000, 1) for a in inner for b in inner if a != b]
    [loop] = find_loops(solve(*make_graph(size + 2, [0], [size + 1], rows)))
    matrix = 0.01 * (np.ones((size, size)) - np.eye(size))
    whole = -20 * math.log10(float(np.abs(np.linalg.eigvals(matrix)).max()))  # all gains raised alike
    assert not loop.single and loop.delay_us in (2000, 3000)
    assert whole <= loop.margin_db <= 2 * whole + 1  # cut edges alone are raised: later, by at most as often as met


# a loop that runs away

LOUD = st.dictionaries(
    st.tuples(MIDDLE, MIDDLE), st.tuples(st.floats(-6, 30), st.integers(1, 900)), min_size=1, max_size=9
)


@given(LOUD)
@settings(deadline=None, max_examples=150)
def test_where_a_part_runs_away_it_is_opened(edges):
    """What arrives is finite, each by a way that meets no node twice; and what needs no loop is there."""
    loops = find_loops(rig(edges))
    assume(loops and all(loop.margin_db <= 0 for loop in loops))
    hearing = rig(edges)
    found = hearing.arrivals("l0", "s0")
    whole = nx.DiGraph([*((0, n) for n in range(1, 5)), *((n, 5) for n in range(1, 5)), *edges])
    ways = nx.all_simple_paths(whole, 0, 5)
    delays = {sum(edges[e][1] for e in itertools.pairwise(way) if e in edges) for way in ways}
    assert hearing.truncated and {a.delay_us for a in found} <= delays
    assert min(a.delay_us for a in found) == 0 and all(math.isfinite(a.gain_db) for a in found)


@pytest.mark.parametrize(("feeds", "heard"), [(False, True), (True, False), (False, False)])
def test_a_loop_that_no_sound_enters_or_that_nobody_hears_is_found(feeds, heard):
    """Noise is enough to start it. Nodes 1 to 3 go round; one of them may be fed, and one heard."""
    rows = [(1, 2, -2.0, 100, 1), (2, 3, 1.0, 20, 1), (3, 1, -4.0, 3, 1), (0, 4, 0.0, 0, 1), (4, 5, 0.0, 0, 1)]
    rows += [(0, 1, 0.0, 0, 1)] if feeds else []
    rows += [(3, 5, 0.0, 0, 1)] if heard else []
    [loop] = find_loops(solve(*make_graph(6, [0], [5], rows)))
    assert loop.margin_db == pytest.approx(5.0) and loop.delay_us == 123 and loop.single
    assert sorted(loop.edges) == [0, 1, 2]
    assert (
        find_loops(solve(*make_graph(6, [0], [5], [r if r[:2] != (3, 1) else (3, 1, -math.inf, 3, 1) for r in rows])))
        == []
    )
