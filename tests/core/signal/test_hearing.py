"""The hearing solution against brute force and against the frequency domain, on random graphs."""

import math

import networkx as nx
import numpy as np
import pytest
from hypothesis import assume, given, settings
from hypothesis import strategies as st
from msgspec.structs import replace

from kymaton.core.signal.graph import SoundException
from kymaton.core.signal.hearing import solve
from kymaton.core.signal.loops import find_loops
from kymaton.core.signal.trace import Tracer
from tests.graphs import Net, arrivals_by_enumeration, arrivals_by_turns, make_graph, nets, transfer


def solved(net: Net):
    graph, state = make_graph(net.nodes, net.sources, net.ears, net.rows)
    return graph, state, solve(graph, state, record_dropped=True)


@given(nets())
@settings(max_examples=150, deadline=None)
def test_every_arrival_is_one_that_enumeration_finds(net):
    graph, _, hearing = solved(net)
    for s, (sound, _) in enumerate(graph.signals):
        for e, (listener, _) in enumerate(graph.ears):
            expected = arrivals_by_enumeration(net, net.sources[s], net.ears[e])
            got = {a.delay_us: a.polarity * 10 ** (a.gain_db / 20) for a in hearing.arrivals(listener, sound)}
            strongest = max(map(abs, expected.values()), default=0.0)
            for delay, amplitude in expected.items():
                if abs(amplitude) > strongest * 10 ** (-75 / 20):  # well above where pruning begins
                    assert got[delay] == pytest.approx(amplitude, rel=1e-3, abs=strongest * 1e-4)
            assert set(got) <= set(expected)


@given(nets(loops=True), st.floats(0, 20_000))
@settings(max_examples=150, deadline=None)
def test_arrivals_sum_to_the_transfer_function_within_what_was_dropped(net, f_hz):
    graph, state, hearing = solved(net)
    assume(dies_away(graph, state, 0.9))  # the bound holds for loops that die away
    way, bound = transfer(graph, state, f_hz)
    for s, (sound, _) in enumerate(graph.signals):
        dropped = bound @ hearing.dropped[:, s]
        for e, (listener, _) in enumerate(graph.ears):
            z = sum(
                a.polarity * 10 ** (a.gain_db / 20) * np.exp(-2j * np.pi * f_hz * a.delay_us * 1e-6)
                for a in hearing.arrivals(listener, sound)
            )
            h = way[net.ears[e], net.sources[s]]
            assert abs(z - h) <= dropped[net.ears[e]] + 1e-9 * max(1.0, abs(h))


def held_to_60_db(hearing, graph, net: Net) -> None:
    """Down to 60 dB under the strongest, each arrival to 0.05 dB at its µs, none missing and none made up."""
    for s, (sound, _) in enumerate(graph.signals):
        heard = arrivals_by_turns(net, net.sources[s])
        for e, (listener, _) in enumerate(graph.ears):
            expected = heard[net.ears[e]]
            strongest = max(map(abs, expected.values()), default=0.0)
            if strongest < 1e-3:  # then the enumeration itself is not exact enough
                continue
            limit = strongest * 10 ** (-60 / 20)
            got = {a.delay_us: a.polarity * 10 ** (a.gain_db / 20) for a in hearing.arrivals(listener, sound)}
            for delay, amplitude in expected.items():
                if abs(amplitude) > 1.001 * limit:
                    assert got.get(delay, 0.0) == pytest.approx(amplitude, rel=10 ** (0.05 / 20) - 1)
            for delay, amplitude in got.items():
                if abs(amplitude) > 1.01 * limit:
                    assert expected.get(delay, 0.0) == pytest.approx(amplitude, rel=10 ** (0.05 / 20) - 1)


@given(nets(loops=True))
@settings(max_examples=150, deadline=None)
def test_with_loops_every_arrival_to_60_db_is_one_that_enumeration_finds(net):
    graph, state, hearing = solved(net)
    assume(dies_away(graph, state, 0.8))
    held_to_60_db(hearing, graph, net)


@given(st.lists(st.tuples(st.integers(1, 3), st.integers(1, 3), st.integers(-12, -1), st.integers(1, 6)), max_size=5))
@settings(max_examples=150, deadline=None)
def test_turns_of_several_loops_that_meet_in_one_instant_add_up(inner):
    """Delays of a few ms, so that much comes back at the same time by other ways; each turn is little softer."""
    rows = [(0, 1, 0.0, 0, 1), (1, 4, 0.0, 0, 1), (2, 4, -6.0, 1000, -1), (3, 4, 3.0, 0, 1)]
    rows += [(a, b, float(gain), 1000 * ms, 1 if gain % 3 else -1) for a, b, gain, ms in inner]
    net = Net(5, [0], [4], rows)
    graph, state, hearing = solved(net)
    assume(dies_away(graph, state, 0.85))
    held_to_60_db(hearing, graph, net)


def dies_away(graph, state, most: float) -> bool:
    size = np.zeros((len(graph.nodes), len(graph.nodes)))
    np.add.at(size, (graph.dst, graph.src), 10 ** (state.gain_db / 20))
    return bool(np.abs(np.linalg.eigvals(size)).max() <= most)


def test_same_tick_adds_with_sign():
    graph, state = make_graph(4, [0], [3], [(0, 1, 0, 5, 1), (0, 2, 0, 3, -1), (1, 3, 0, 5, 1), (2, 3, 0, 7, 1)])
    assert solve(graph, state).arrivals("l0", "s0") == ()
    state = replace(state, delay_us=state.delay_us + np.array([0, 0, 0, 1]))
    assert [(a.delay_us, a.polarity) for a in solve(graph, state).arrivals("l0", "s0")] == [(10, 1), (11, -1)]


def test_spread_is_carried_as_root_of_squares():
    graph, state = make_graph(3, [0], [2], [(0, 1, 0, 0, 1), (1, 2, 0, 0, 1)])
    graph.spread_us[:] = (3000.0, 4000.0)
    assert solve(graph, state).arrivals("l0", "s0")[0].plus_minus_ms == pytest.approx(5.0)


def test_an_exception_weakens_only_its_sounds_and_only_within_the_tail():
    rows = [(0, 2, 0, 100, 1), (1, 2, 0, 100, 1), (2, 3, 0, 200_000, 1), (2, 3, -1, 900_000, 1), (3, 4, 0, 50, 1)]
    graph, state = make_graph(5, [0, 1], [4], rows)
    cancel = SoundException(4, np.array([True, False]), -40.0, 2, 256_000)
    hearing = solve(graph, replace(state, exceptions=(cancel,)))
    gains = {s: [a.gain_db for a in hearing.arrivals("l0", s)] for s in ("s0", "s1")}
    assert gains["s0"] == pytest.approx([-40.0, -1.0])
    assert gains["s1"] == pytest.approx([0.0, -1.0])
    ways = Tracer(graph, hearing.state)  # and the routes say the same
    for s in ("s0", "s1"):
        assert sorted(p.gain_db for p in ways.paths("l0", s)) == pytest.approx(sorted(gains[s]))


# loops


def ring(gain_db: float, delay_us: int = 1000):
    return make_graph(4, [0], [3], [(0, 1, 0, 0, 1), (1, 2, gain_db, delay_us, 1), (2, 1, 0, 0, 1), (2, 3, 0, 0, 1)])


def test_the_margin_of_a_single_loop_is_its_loss():
    loop = find_loops(solve(*ring(-6.0)))[0]
    assert loop.single and loop.margin_db == pytest.approx(6.0) and loop.delay_us == 1000
    assert loop.decay_s == pytest.approx(60 / 6 * 0.001)


def test_a_loop_repeats_until_it_has_died_away():
    gains = [a.gain_db for a in solve(*ring(-6.0)).arrivals("l0", "s0")]
    assert gains == pytest.approx([-6.0 * n for n in range(1, len(gains) + 1)]) and len(gains) >= 10


def test_a_loop_that_runs_away_is_cut_off_and_said_so():
    hearing = solve(*ring(1.0))
    assert hearing.truncated and find_loops(hearing)[0].margin_db == pytest.approx(-1.0)


def test_closed_loops_are_no_loops():
    assert find_loops(solve(*ring(-math.inf))) == []


@given(st.lists(st.floats(-30, 3), min_size=2, max_size=5), st.integers(0, 3))
@settings(deadline=None)
def test_margin_is_not_counted_per_edge(gains, extra):
    """A ring of any number of edges has the margin of their sum; the whole matrix's radius would say less."""
    size = len(gains) + 2
    rows = [(0, 1, 0, 0, 1), (1, size - 1, 0, 0, 1)]
    rows += [(1 + i, 1 + (i + 1) % len(gains), g, 10, 1) for i, g in enumerate(gains)]
    rows += [(1, 1 + (i % len(gains)), -math.inf, 5, 1) for i in range(extra)]
    graph, state = make_graph(size, [0], [size - 1], rows)
    # a second entry to each node keeps the ring from being folded into one edge
    loop = find_loops(solve(graph, state))[0]
    assert loop.margin_db == pytest.approx(-sum(gains), abs=1e-6)


@given(nets(loops=True))
@settings(max_examples=80, deadline=None)
def test_loops_are_where_networkx_finds_cycles(net):
    _, _, hearing = solved(net)
    live = nx.DiGraph((a, b) for a, b, g, _, _ in net.rows if g > -math.inf)
    cyclic = [c for c in nx.strongly_connected_components(live) if len(c) > 1 or any(live.has_edge(n, n) for n in c)]
    assert len(find_loops(hearing)) == len(cyclic)
