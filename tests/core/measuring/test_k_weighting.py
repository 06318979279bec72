"""K-weighting against the coefficients that ITU-R BS.1770-5 prints for 48 kHz."""

import numpy as np
import pytest
from scipy.signal import sosfreqz

from kymaton.core.measuring.k_weighting import LargestLoudness, k_filter

STAGE_1 = (1.53512485958697, -2.69169618940638, 1.19839281085285, 1.0, -1.69065929318241, 0.73248077421585)
STAGE_2 = (1.0, -2.0, 1.0, 1.0, -1.99004745483398, 0.99007225036621)


def test_the_filters_are_those_of_the_tables():
    made = k_filter(48_000)
    assert made[0] == pytest.approx(STAGE_1, abs=1e-8) and made[1] == pytest.approx(STAGE_2, abs=1e-8)


@pytest.mark.parametrize("rate_hz", [44_100, 96_000])
def test_at_another_rate_they_do_the_same(rate_hz):
    hertz = np.array([50.0, 100.0, 500.0, 1000.0, 2000.0, 6000.0])
    one = np.abs(sosfreqz(k_filter(48_000), hertz, fs=48_000)[1])
    other = np.abs(sosfreqz(k_filter(rate_hz), hertz, fs=rate_hz)[1])
    assert 20 * np.log10(other) == pytest.approx(20 * np.log10(one), abs=0.1)


@pytest.mark.parametrize("block", [100, 4801, 48_000])
def test_blocks_of_any_size_give_the_same(block):
    rng = np.random.default_rng(3)
    samples = (rng.standard_normal((2, 5 * 48_000)) * np.linspace(0.01, 0.2, 5 * 48_000)).astype(np.float32)
    whole, cut = LargestLoudness(48_000, 2), LargestLoudness(48_000, 2)
    whole.add(samples)
    for at in range(0, samples.shape[1], block):
        cut.add(samples[:, at : at + block])
    assert (cut.momentary, cut.short_term) == pytest.approx((whole.momentary, whole.short_term), abs=1e-6)
