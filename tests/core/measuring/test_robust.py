"""Spread among what does not belong, and peaks between samples."""

import numpy as np
import pytest

from kymaton.core.measuring.robust import parabolic_peak, scatter


def test_scatter_is_the_standard_deviation_of_what_is_normal():
    values = np.random.default_rng(1).normal(5.0, 2.0, 20_000)
    assert float(scatter(values)) == pytest.approx(2.0, rel=0.03)
    assert scatter(np.stack([values, 3 * values], axis=1), axis=0) == pytest.approx([2.0, 6.0], rel=0.03)


def test_a_third_that_does_not_belong_hardly_moves_it():
    values = np.random.default_rng(2).normal(0.0, 1.0, 9000)
    values[:3000] = 1e6
    assert float(scatter(values)) < 2.5


@pytest.mark.parametrize("top", [-0.5, -0.2, 0.0, 0.3, 0.5])
def test_a_parabola_is_found_exactly(top):
    at = np.arange(-3, 4)
    assert parabolic_peak(5.0 - 2.0 * (at - top) ** 2, 3) == pytest.approx(top, abs=1e-12)


def test_ends_and_flat_tops_stay_where_they_are():
    assert parabolic_peak(np.array([3.0, 2.0, 1.0]), 0) == 0.0 and parabolic_peak(np.ones(3), 1) == 0.0
    assert parabolic_peak(np.array([0.0, 1.0, 9.0]), 1) == -0.5  # never further than half a step
