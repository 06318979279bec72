"""Momentary and short-term loudness at their largest, wherever that begins (ITU-R BS.1770-5, EBU Tech 3341).

A meter that looks every tenth of a second may miss the largest by half a decibel; here windows begin every few ms. The
two filters are those of BS.1770-5, annex 1, told by what they do, so that they hold at any rate [1].

1. De Man, "Evaluation of implementations of the EBU R 128 loudness measurement", AES Convention 137 (2014).
"""

import math
from typing import TYPE_CHECKING

import numpy as np

if TYPE_CHECKING:
    from numpy.typing import NDArray

    Audio = NDArray[np.float32]
    FloatArray = NDArray[np.float64]
else:
    Audio = FloatArray = np.ndarray

SHELF_HZ, SHELF_DB, SHELF_Q = 1681.974450955533, 3.999843853973347, 0.7071752369554196
HIGH_PASS_HZ, HIGH_PASS_Q = 38.13547087602444, 0.5003270373238773
OFFSET_LU = -0.691
HOP_S = 0.005
MOMENTARY_S, SHORT_TERM_S = 0.4, 3.0
WEIGHTS = {1: (1.0,), 2: (1.0, 1.0), 6: (1.0, 1.0, 1.0, 0.0, 1.41, 1.41)}  # left, right, centre, low, surrounds
WEIGHTS[8] = (*WEIGHTS[6], 1.41, 1.41)


def k_filter(rate_hz: float) -> FloatArray:
    """The K-weighting as second-order sections, (2, 6), for this rate."""
    k = math.tan(math.pi * SHELF_HZ / rate_hz)
    high = 10 ** (SHELF_DB / 20)
    middle = high**0.4996667741545416
    low = 1.0 + k / SHELF_Q + k * k
    shelf = [
        (high + middle * k / SHELF_Q + k * k) / low,
        2.0 * (k * k - high) / low,
        (high - middle * k / SHELF_Q + k * k) / low,
        1.0,
        2.0 * (k * k - 1.0) / low,
        (1.0 - k / SHELF_Q + k * k) / low,
    ]
    k = math.tan(math.pi * HIGH_PASS_HZ / rate_hz)
    low = 1.0 + k / HIGH_PASS_Q + k * k
    high_pass = [1.0, -2.0, 1.0, 1.0, 2.0 * (k * k - 1.0) / low, (1.0 - k / HIGH_PASS_Q + k * k) / low]
    return np.array([shelf, high_pass])


class LargestLoudness:
    """Feed it blocks (channels, samples); `momentary` and `short_term` are the largest until then, in LUFS."""

    def __init__(self, rate_hz: int, channels: int) -> None:
        self.weights = np.array(WEIGHTS[channels])
        self.sections = k_filter(rate_hz)
        self.memory = np.zeros((2, channels, 2))
        self.step = max(1, round(rate_hz * HOP_S))
        self.rest = np.zeros(0)
        self.sizes = {s: round(s / HOP_S) for s in (MOMENTARY_S, SHORT_TERM_S)}
        self.hops = np.zeros(0)
        self.largest = dict.fromkeys(self.sizes, 0.0)

    def add(self, block: Audio) -> None:
        """More samples."""
        from scipy.signal import sosfilt  # late: most of the program needs none

        filtered, self.memory = sosfilt(self.sections, block, axis=1, zi=self.memory)
        power = np.concatenate([self.rest, self.weights @ np.square(filtered)])
        many = len(power) // self.step
        self.rest = power[many * self.step :]
        hops = np.concatenate([self.hops, power[: many * self.step].reshape(many, self.step).mean(axis=1)])
        sums = np.concatenate([[0.0], np.cumsum(hops)])
        for seconds, size in self.sizes.items():
            if len(hops) >= size:
                means = (sums[size:] - sums[:-size]) / size
                self.largest[seconds] = max(self.largest[seconds], float(means.max()))
        self.hops = hops[-(max(self.sizes.values()) - 1) :]

    @property
    def momentary(self) -> float:
        """In LUFS; −∞ while there was less than a window of it."""
        return _lufs(self.largest[MOMENTARY_S])

    @property
    def short_term(self) -> float:
        """In LUFS; −∞ while there was less than a window of it."""
        return _lufs(self.largest[SHORT_TERM_S])


def _lufs(power: float) -> float:
    return OFFSET_LU + 10 * math.log10(power) if power > 0 else -math.inf
