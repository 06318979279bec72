"""The audition against direct sums, loops in closed form, band limits, Stop."""

import numpy as np
import pytest
from hypothesis import given, settings
from msgspec.structs import replace
from scipy.signal import butter, freqz_sos

from kymaton.core.errors import RenderError, Stopped
from kymaton.core.signal.graph import SoundException
from kymaton.core.signal.hearing import solve
from kymaton.core.signal.render import BLOCK, render
from tests.graphs import arrivals_by_enumeration, make_graph, nets

RATE = 48_000


def noise(samples: int, seed: int = 0) -> np.ndarray:
    return np.random.default_rng(seed).normal(size=samples).astype(np.float32)


def test_delay_gain_and_polarity_across_block_borders():
    graph, state = make_graph(3, [0], [2], [(0, 1, -6, 300_000, -1), (1, 2, 0, 700_000, 1)])
    stem = noise(3 * BLOCK + 77)
    heard = render(graph, state, ["l0"], {("s0", 1): stem}, {})["l0"][:, 0]
    assert not heard[:RATE].any()
    np.testing.assert_allclose(heard[RATE : RATE + len(stem)], -(10 ** (-6 / 20)) * stem, rtol=1e-5)
    assert len(heard) == len(stem) + RATE


@given(nets())
@settings(max_examples=30, deadline=None)
def test_a_render_is_the_sum_of_its_arrivals(net):
    graph, state = make_graph(net.nodes, net.sources, net.ears, net.rows)
    stems = {signal: noise(2000, i) for i, signal in enumerate(graph.signals)}
    heard = render(graph, state, ["l0"], stems, {})["l0"][:, 0]
    expected = np.zeros(len(heard))
    for s, signal in enumerate(graph.signals):
        for delay, amplitude in arrivals_by_enumeration(net, net.sources[s], net.ears[0]).items():
            at = round(delay * RATE / 1e6)
            part = stems[signal][: max(0, len(expected) - at)]
            expected[at : at + len(part)] += amplitude * part
    scale = max(1.0, np.abs(expected).max())
    assert np.abs(heard - expected).max() < 2e-3 * scale


def test_a_loop_decays_turn_by_turn():
    rows = [(0, 1, 0, 0, 1), (1, 2, -6, 2_000, 1), (2, 1, 0, 3_000, 1), (2, 3, 0, 0, 1)]
    graph, state = make_graph(4, [0], [3], rows)
    impulse = np.zeros(100, np.float32)
    impulse[0] = 1.0
    heard = render(graph, state, ["l0"], {("s0", 1): impulse}, {})["l0"][:, 0]
    peaks = np.flatnonzero(heard > 1e-3)
    assert peaks[:3].tolist() == [96, 336, 576]
    np.testing.assert_allclose(20 * np.log10(heard[peaks[:5]]), [-6, -12, -18, -24, -30], atol=0.01)


def test_a_loop_that_runs_away_is_held():
    graph, state = make_graph(4, [0], [3], [(0, 1, 0, 0, 1), (1, 2, 6, 1_000, 1), (2, 1, 0, 0, 1), (2, 3, 0, 0, 1)])
    heard = render(graph, state, ["l0"], {("s0", 1): noise(4800)}, {})["l0"]
    assert np.isfinite(heard).all() and np.abs(heard).max() < 1e4


def test_a_loop_without_delay_cannot_be_rendered():
    graph, state = make_graph(4, [0], [3], [(0, 1, 0, 0, 1), (1, 2, -6, 0, 1), (2, 1, 0, 0, 1), (2, 3, 0, 0, 1)])
    with pytest.raises(RenderError, match="without any delay"):
        render(graph, state, ["l0"], {("s0", 1): noise(100)}, {})


def test_a_band_limited_edge_filters_what_goes_through_it_and_nothing_else():
    graph, state = make_graph(3, [0, 1], [2], [(0, 2, 0, 1_000, 1), (1, 2, 0, 0, 1)])
    graph.low_hz[0], graph.high_hz[0] = 300.0, 3400.0
    impulse = np.zeros(RATE, np.float32)
    impulse[0] = 1.0
    heard = render(graph, state, ["l0"], {("s0", 1): impulse}, {})["l0"][:, 0]
    spectrum = np.abs(np.fft.rfft(heard[48 : 48 + RATE]))
    _, expected = freqz_sos(butter(2, (300, 3400), "bandpass", fs=RATE, output="sos"), worN=[100, 1000, 8000], fs=RATE)
    np.testing.assert_allclose(spectrum[[100, 1000, 8000]], np.abs(expected), atol=1e-3)
    other = render(graph, state, ["l0"], {("s1", 1): impulse}, {})["l0"][:, 0]
    np.testing.assert_allclose(other[:RATE], impulse)


def test_exceptions_hold_in_a_graph_that_is_rendered_by_its_edges():
    graph, state = make_graph(4, [0, 1], [3], [(0, 2, 0, 0, 1), (1, 2, 0, 0, 1), (2, 3, 0, 1_000, 1)])
    graph.high_hz[2] = 20_000.0
    state = replace(state, exceptions=(SoundException(2, np.array([True, False]), -40.0, None, None),))
    stems = {("s0", 1): noise(4800), ("s1", 1): noise(4800, 1)}
    loud = render(graph, state, ["l0"], {("s1", 1): stems["s1", 1]}, {})["l0"]
    soft = render(graph, state, ["l0"], {("s0", 1): stems["s0", 1]}, {})["l0"]
    both = render(graph, state, ["l0"], stems, {})["l0"]
    assert 20 * np.log10(np.std(loud[:4800, 0]) / np.std(soft[:4800, 0])) == pytest.approx(40, abs=0.5)
    np.testing.assert_allclose(both, loud + soft, atol=1e-5)
    assert solve(graph, state).gain_db("l0", "s0") == pytest.approx(-40.0)


def test_stop_is_heeded_and_progress_ends_at_one():
    graph, state = make_graph(2, [0], [1], [(0, 1, 0, 0, 1)])
    parts: list[float] = []
    render(graph, state, ["l0"], {("s0", 1): noise(5 * BLOCK)}, {}, progress=lambda p: parts.append(p) or True)
    assert parts == sorted(parts) and parts[-1] == 1.0 and len(parts) > 5
    with pytest.raises(Stopped):
        render(graph, state, ["l0"], {("s0", 1): noise(5 * BLOCK)}, {}, progress=lambda p: p < 0.3)
