"""EBU Tech 3341 (cases 1–6 and 9–23) and 3342 (cases 1–4), from signals made to their description.

Cases 7 and 8 of the one and 5 and 6 of the other are recordings of programmes, which nobody can make here.
"""

import math

import numpy as np
import pytest
from scipy.signal import firwin, upfirdn

from kymaton.media.loudness import Loudness, Meter

RATE_HZ = 48_000


def tone(dbfs: float, seconds: float) -> np.ndarray:
    return 10 ** (dbfs / 20) * np.sin(2 * np.pi * 1000 * np.arange(round(seconds * RATE_HZ)) / RATE_HZ)


def measured(*channels: np.ndarray, each: bool = False) -> tuple[Loudness, list[float]]:
    meter = Meter(RATE_HZ, len(channels), each=each)
    samples = np.stack(channels).astype(np.float32)
    for at in range(0, samples.shape[1], RATE_HZ):
        meter.add(samples[:, at : at + RATE_HZ])
    return meter.result(), meter.curve or []


def stereo(*parts: tuple[float, float]) -> Loudness:
    mono = np.concatenate([tone(level, seconds) for level, seconds in parts])
    return measured(mono, mono)[0]


@pytest.mark.parametrize(
    ("case", "parts"),
    [
        (1, ((-23.0, 20.0),)),
        (2, ((-33.0, 20.0),)),
        (3, ((-36.0, 10.0), (-23.0, 60.0), (-36.0, 10.0))),
        (4, ((-72.0, 10.0), (-36.0, 10.0), (-23.0, 60.0), (-36.0, 10.0), (-72.0, 10.0))),
        (5, ((-26.0, 20.0), (-20.0, 20.1), (-26.0, 20.0))),
    ],
)
def test_integrated(case, parts):
    assert stereo(*parts).integrated_lufs == pytest.approx(-33.0 if case == 2 else -23.0, abs=0.1)


def test_case_6_five_channels():
    left, centre, low, behind = tone(-28, 20), tone(-24, 20), np.zeros(20 * RATE_HZ), tone(-30, 20)
    found, _ = measured(left, left, centre, low, behind, behind)
    assert found.integrated_lufs == pytest.approx(-23.0, abs=0.1)


def test_case_9_short_term_stands_still():
    mono = np.concatenate([tone(-20, 1.34), tone(-30, 1.66)] * 5)
    _, curve = measured(mono, mono, each=True)
    assert len(curve) > 100 and max(abs(x + 23.0) for x in curve[:-1]) <= 0.1


@pytest.mark.parametrize("segment", range(20))
def test_cases_10_and_13_a_tone_that_begins_anywhere(segment):
    short = np.concatenate([np.zeros(round(segment * 0.15 * RATE_HZ)), tone(-23, 3.0), np.zeros(RATE_HZ)])
    assert measured(short, short)[0].max_short_term_lufs == pytest.approx(-23.0, abs=0.1)
    momentary = np.concatenate([np.zeros(round(segment * 0.02 * RATE_HZ)), tone(-23, 0.4), np.zeros(RATE_HZ)])
    assert measured(momentary, momentary)[0].max_momentary_lufs == pytest.approx(-23.0, abs=0.1)


@pytest.mark.parametrize("segment", range(20))
def test_cases_11_and_14_a_tone_of_any_level(segment):
    level = -38.0 + segment
    short = np.concatenate([np.zeros(round(segment * 0.15 * RATE_HZ)), tone(level, 3.0), np.zeros(RATE_HZ)])
    assert measured(short, short)[0].max_short_term_lufs == pytest.approx(level, abs=0.1)
    momentary = np.concatenate([np.zeros(round(segment * 0.02 * RATE_HZ)), tone(level, 0.4), np.zeros(RATE_HZ)])
    assert measured(momentary, momentary)[0].max_momentary_lufs == pytest.approx(level, abs=0.1)


def test_case_12_momentary_is_the_same_at_its_largest():
    mono = np.concatenate([tone(-20, 0.18), tone(-30, 0.22)] * 25)
    assert measured(mono, mono)[0].max_momentary_lufs == pytest.approx(-23.0, abs=0.1)


@pytest.mark.parametrize(
    ("case", "part_of_rate", "amplitude", "degrees", "expected"),
    [(15, 4, 0.5, 0.0, -6.0), (16, 4, 0.5, 45.0, -6.0), (17, 6, 0.5, 60.0, -6.0), (18, 8, 0.5, 67.5, -6.0),
     (19, 4, 1.41, 45.0, 3.0)],
)  # fmt: skip
def test_true_peak_of_sines(case, part_of_rate, amplitude, degrees, expected):
    at = np.arange(2 * RATE_HZ)
    soft = np.clip(np.minimum(at, at[::-1]) / 4800, 0, 1)  # its ends are not to ring
    wave = soft * amplitude * np.sin(2 * np.pi * at / part_of_rate + math.radians(degrees))
    found = measured(wave, wave)[0].true_peak_dbtp
    assert expected - 0.4 <= found <= expected + 0.2


@pytest.mark.parametrize("offset", range(4))
def test_cases_20_to_23_a_peak_between_samples(offset):
    """A burst of a sixth of the rate, made at four times the rate and taken at each of its four samples."""
    at = np.arange(-4800, 4800)
    burst = np.cos(2 * np.pi * at / 24) * np.clip(1.2 - np.abs(at) / 4000, 0, 1)
    low = firwin(601, 0.24)
    fine = np.convolve(burst, low, mode="same")
    fine /= np.abs(fine).max()
    wave = np.concatenate([np.zeros(RATE_HZ // 2), fine[offset::4], np.zeros(RATE_HZ)])
    found = measured(wave, wave)[0].true_peak_dbtp
    assert -0.4 <= found <= 0.2
    again = upfirdn(low * 4, wave, up=4)  # the peak is there, by a filter that is not the meter's
    assert np.abs(again).max() == pytest.approx(1.0, abs=0.01)


@pytest.mark.parametrize(
    ("levels", "range_lu"),
    [((-20, -30), 10.0), ((-20, -15), 5.0), ((-40, -20), 20.0), ((-50, -35, -20, -35, -50), 15.0)],
)
def test_loudness_range(levels, range_lu):
    assert stereo(*((float(level), 20.0) for level in levels)).range_lu == pytest.approx(range_lu, abs=1.0)
