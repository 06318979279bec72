"""Spread of values among which some do not belong, and the top of a peak between its samples."""

import numpy as np

from kymaton.core.signal.graph import FloatArray

NORMAL = 0.674489750196082  # the middle of |x|, where x is normally distributed with a deviation of 1 (Huber 1981, 5.1)


def scatter(values: np.ndarray, axis: int | None = None) -> FloatArray:
    """Standard deviation of the values, as the median of their distances from their median tells it.

    Scaled so that it is the standard deviation where the values are normally distributed (Huber 1981, 5.1); up to half
    of them may be anything. Along `axis`, or over all; in the unit of the values.
    """
    middle = np.median(values, axis=axis, keepdims=True)
    return np.asarray(np.median(np.abs(values - middle), axis=axis) / NORMAL)


def parabolic_peak(values: FloatArray, at: int) -> float:
    """Where the parabola through three values has its top, in steps from the middle one (−0.5 to 0.5).

    The usual estimate of a peak between samples (Jacobsen and Kootsookos 2007). 0 at the ends and on a flat top.
    """
    if not 0 < at < len(values) - 1:
        return 0.0
    before, middle, after = values[at - 1], values[at], values[at + 1]
    bend = before - 2 * middle + after
    return 0.0 if bend == 0 else float(np.clip(0.5 * (before - after) / bend, -0.5, 0.5))
