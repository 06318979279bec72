"""The frames of a recording as they were taken: copies left out, how long each stood, how evenly they came.

A recorder that runs faster than its camera (24 or 25 in 50 or 60) writes frames twice and more. What is measured on
the copies is wrong by up to a frame: a flash that lit a part of a frame seems to have lasted for two.
"""

from typing import TYPE_CHECKING

import numpy as np
from msgspec import Struct

if TYPE_CHECKING:
    from numpy.typing import NDArray

    FloatArray = NDArray[np.float64]
    Cells = NDArray[np.float32]
else:
    FloatArray = Cells = np.ndarray

RATES_HZ = (
    12.0,
    12.5,
    15.0,
    20.0,
    23.976,
    24.0,
    25.0,
    29.97,
    30.0,
    48.0,
    50.0,
)  # of cameras (SMPTE ST 2036-1 and below)
FASTEST = 0.9  # of the file's rate, that a camera in it may have; chosen
PHASES = 4  # of a file's frame, for the camera's clock
STILL = 0.02  # of all change, that may fall on what is held to be copies: coding changes a still a little; chosen
LIVELIER, LEAST_CHANGE = 3.0, 0.02  # times the change from a frame to its copy, and code values more; chosen
AROUND, BETWEEN, WIDE, FEWEST_BETWEEN = 6, 0.1, 20.0, 4  # frames; part of the rise; code values; copies seen; chosen
CHANGE = 1.0  # code values, by which a frame changes that surely is none; chosen
CHANCE = 1e-5  # that all changes fall on a cadence by accident, some hundred of which are tried; chosen


class Footage(Struct, frozen=True):
    """Frames without copies: times (s) in order, brightness (frames, cells); `period_s` from one to the next.

    `uneven_s` is how far frames lie from an even spacing; `of_rate_hz` the camera's rate where copies were left out.
    """

    times_s: FloatArray
    cells: Cells
    period_s: float
    uneven_s: float
    of_rate_hz: float | None = None


def without_copies(times_s: FloatArray, cells: Cells) -> Footage:
    """The frames that are not a copy of the one before, where these come in the cadence of a slower camera."""
    rate_hz = None
    if len(times_s) > 2:
        change = np.abs(np.diff(cells, axis=0)).mean(axis=1)
        rate_hz, new = _cadence(times_s, change)
        if rate_hz is not None and not _are_copies(cells, change, new[1:]):
            rate_hz = None
        if rate_hz is not None:
            times_s, cells = times_s[new], cells[new]
    gaps = np.diff(times_s) if len(times_s) > 1 else np.array([0.04])
    period = float(np.median(gaps))
    uneven = float(np.percentile(np.abs(gaps - period), 90)) / 2
    return Footage(times_s, cells, 1 / rate_hz if rate_hz else period, uneven, rate_hz)


def _are_copies(cells: Cells, change: FloatArray, new: "NDArray[np.bool_]") -> bool:
    """Whether the frames that are held to be copies are: a still scene without noise does not change either.

    What moves or is noisy changes in new frames only; and a frame that is lit in part is never followed by one that is
    lit by the same part, but for its copy.
    """
    if float(np.median(change[new])) > LIVELIER * float(np.median(change[~new])) + LEAST_CHANGE:
        return True
    series = cells[:, int(np.argmax(cells.std(axis=0)))]
    around = np.lib.stride_tricks.sliding_window_view(np.pad(series, AROUND, mode="edge"), 2 * AROUND + 1)
    low, high = around.min(axis=1), around.max(axis=1)
    between = (series > low + BETWEEN * (high - low)) & (series < high - BETWEEN * (high - low)) & (high - low > WIDE)
    return int((between[1:] & (np.abs(np.diff(series)) < LEAST_CHANGE) & ~new).sum()) >= FEWEST_BETWEEN


def _cadence(times_s: FloatArray, change: FloatArray) -> "tuple[float | None, NDArray[np.bool_]]":
    """The rate of the slower camera, if all change falls on its frames, and which frames of the file are new."""
    every = np.ones(len(times_s), np.bool_)
    total = float(change.sum())
    changes = int((change > CHANGE).sum())
    file_hz = 1 / float(np.median(np.diff(times_s)))
    found: tuple[float | None, NDArray[np.bool_]] = (None, every)
    least = STILL * total
    for rate_hz in (r for r in RATES_HZ if r <= FASTEST * file_hz and (r / file_hz) ** changes < CHANCE):
        for phase in np.arange(0, 1 / rate_hz, 1 / file_hz / PHASES):
            number = np.floor((times_s - times_s[0] - phase) * rate_hz + 1e-6)
            new = np.diff(number) > 0
            left = float(change[~new].sum())
            if left < least:
                found, least = (rate_hz, np.concatenate([[True], new])), left
    return found
