"""Flashes in pictures, found without being told where they are.

Brightness in 8-bit code values (0 to 255), times in s. A threshold that is a *choice* holds tests/media/test_measure.py
(filmed clips, codecs, noise) and tests/core/measuring/test_flashes.py.

1. Huber, Robust Statistics (1981), 5.1: the noise of each cell.
2. ITU-R BT.709-6 and BT.1886: pictures are coded nearly as the eye sees.
"""

from typing import TYPE_CHECKING

import numpy as np
from msgspec import Struct
from msgspec.structs import replace

from kymaton.core.measuring.robust import scatter

if TYPE_CHECKING:
    from numpy.typing import NDArray

    FloatArray = NDArray[np.float64]
    Cells = NDArray[np.float32]
else:
    FloatArray = Cells = np.ndarray


# flashes
FEWEST_FRAMES = 8
BASELINE_S = 0.9  # chosen: what stays longer than half of this is not a flash
LONGEST_FLASH_S, SHORTEST_GAP_S = 0.45, 0.18  # chosen: a clip's flash lasts 0.12 s, its events lie 0.55 s apart
LEAST_NOISE, LEAST_QUIET = 0.6, 1e-3  # code values: a clean picture still rounds
TOP_PERCENT, TOP_FRAMES, TOP_SHARE = 99.0, 4, 0.5  # how high a cell goes: its top hundredth, or half of its top four
STANDS_OUT = 8.0  # times its noise, for a cell to flash; chosen
ALIKE = 0.5  # correlation of the rises of cells that flash together; chosen
REGIONS, SMALLEST_REGION = 16, 2  # that may flash apart from each other; in cells; chosen
DARK_PERCENT = 30  # of a region's cells: where something passes, it lights a part; a flash lights all; chosen
WEIGHINGS, LEAST_WEIGHT = 3, 0.1  # rounds; share of the heaviest cell below which one is left out; chosen
LEAST_FLASH, FLASH_NOISES = 4.0, 6.0  # code values, and times the noise; chosen
TOP_OF, PEAK_SHARE = 60, 0.45  # one frame in so many is taken for bright; peaks of half that height count; chosen
LEVEL_LOW, LEVEL_HIGH = 0.5, 1.8  # times the usual level of flashes; chosen
HALF = 0.5  # of its level: where a flash begins and ends
DARK_FRAMES = 5  # before a flash, that tell its ground; chosen
LEAST_RISE = 0.4  # of the usual level; chosen
LEAST_PART, PART_NOISES = 0.06, 3.5  # of the rise, in the frame before the first bright one: lit in part; chosen
SLOW = 0.3  # of the rise, one frame before that: no flash rises over three frames; chosen
GAMMA = 2.2  # of coded pictures [2]; light itself adds up
WHOLE_OF = 3  # frames lit, of which the second is lit whole
STEADY = 0.95  # of its height that a flash keeps from its second to its third frame; below, the exposure moves; chosen
OWN_WHOLE = 0.8  # of what is common, from which on a flash's own second frame counts; chosen
CLIPPED, CLIPPED_PERCENT = 248.0, 90  # code values of the brightest tenth of its cells: white that may hold more light


class Flash(Struct, frozen=True):
    """A flash: its first frame that is lit at all (time in s), the time of the frame before, and how much of the
    first frame is lit: `part` of the way from dark to bright as coded, `light` as light.

    These tell nothing where `tells` is false: the picture is overexposed, its exposure moves, or no frame is known to
    be lit whole. `ground` is what was coded before, of the rise: with it light can be read by other curves.
    """

    time_s: float
    before_s: float
    part: float
    light: float
    strength: float
    tells: bool = True
    ground: float = 0.0


def find_flashes(times_s: FloatArray, cells: Cells) -> list[list[Flash]]:
    """What may be the flashes of a recording, the likeliest first: of all that jumps, then of regions that jump alike.

    `cells` is the mean brightness (0–255) of a coarse grid for each frame, (frames, cells). The region that flashes is
    found by itself; where other things move as well, what belongs together with the sound has to be chosen.
    """
    if len(times_s) < FEWEST_FRAMES:
        return []
    frame_s = float(np.median(np.diff(times_s)))
    window = max(5, 2 * round(BASELINE_S / frame_s / 2) + 1)
    ground = _usual(cells, window)
    above = cells - ground
    noise = scatter(above, axis=0) + LEAST_NOISE
    top = np.sort(above, axis=0)[-TOP_FRAMES:].mean(axis=0)
    high = np.maximum(np.percentile(above, TOP_PERCENT, axis=0), TOP_SHARE * top)
    found = [_flashes_of(times_s, ground, above, high / noise**2, noise, frame_s)]
    left = high / noise > STANDS_OUT
    rises = np.clip(above[2:] - above[:-2], 0.0, None)
    for _ in range(REGIONS):
        if not left.any():
            break
        seed = int(np.argmax(np.where(left, high / noise, 0.0)))
        alike = (high / noise > STANDS_OUT) & (_likeness(rises, seed) > ALIKE)
        left &= ~alike
        left[seed] = False
        if alike.sum() >= SMALLEST_REGION:
            series = np.percentile(above[:, alike], DARK_PERCENT, axis=1)
            found.append(_flashes_in(times_s, series, ground[:, alike].mean(axis=1), frame_s, cells[:, alike]))
    return [flashes for flashes in found if len(flashes) > 1]


def _usual(cells: Cells, window: int) -> Cells:
    """The running median of each cell; one after the other, for which SciPy has a faster way than for all at once."""
    from scipy.ndimage import median_filter

    columns = [median_filter(column, size=window, mode="nearest") for column in np.ascontiguousarray(cells.T)]
    return np.stack(columns, axis=1)


def _likeness(rises: Cells, seed: int) -> FloatArray:
    """How much each cell rises when one of them does (correlation)."""
    centred = rises - rises.mean(axis=0)
    size = np.sqrt((centred**2).sum(axis=0)) + 1e-9
    return np.asarray(centred.T @ centred[:, seed] / (size * size[seed]), np.float64)


def _flashes_of(
    times_s: FloatArray, ground: Cells, above: Cells, weight: FloatArray, noise: FloatArray, frame_s: float
) -> list[Flash]:
    """Flashes of the cells that count: they are weighed anew by how much they jump together."""
    within = weight > 0
    for _ in range(WEIGHINGS):
        weight = np.maximum(weight, 0.0)
        if not weight.any():
            return []
        series = above @ (weight / weight.sum())
        peaks = _peaks(series, frame_s)
        if len(peaks) < 2:
            break
        weight = np.where(within, np.median(above[peaks], axis=0) / noise**2, 0.0)
    used = weight > LEAST_WEIGHT * weight.max()
    share = weight * used / (weight * used).sum()
    return _flashes_in(times_s, above @ share, ground @ share, frame_s, (ground + above)[:, used])


def _flashes_in(
    times_s: FloatArray, series: FloatArray, floor: FloatArray, frame_s: float, cells: Cells
) -> list[Flash]:
    """Flashes in one series of brightness above its ground; `cells` are those that it is made of."""
    quiet = float(scatter(series)) + LEAST_QUIET
    peaks = _peaks(series, frame_s)
    if not len(peaks):
        return []
    usual = float(np.median(series[peaks]))
    if usual < max(LEAST_FLASH, FLASH_NOISES * quiet):
        return []
    rises = [rise for rise in (_rise(times_s, series, int(peak), usual, quiet) for peak in peaks) if rise is not None]
    whole = [rise.whole for rise in rises if rise.lit >= WHOLE_OF]
    common = float(np.median(whole)) if 2 * len(whole) > len(rises) else None  # that of most flashes
    clipped = float(np.percentile(np.median(cells[peaks], axis=0), CLIPPED_PERCENT)) >= CLIPPED
    kept = [rise.kept for rise in rises if rise.lit > WHOLE_OF]
    steady = not kept or float(np.median(kept)) > STEADY
    found = [_flash(times_s, series, floor, rise, common, usual) for rise in rises]
    return [replace(f, tells=steady and not clipped and common is not None) for f in found if f is not None]


def _peaks(series: FloatArray, frame_s: float) -> "NDArray[np.int64]":
    """Frames at which the series is highest around, and high enough to be one of the same kind."""
    from scipy.signal import find_peaks

    top = np.sort(series)[-max(TOP_FRAMES, len(series) // TOP_OF) :]
    height = PEAK_SHARE * float(np.median(top))
    padded = np.concatenate([[series.min()], series, [series.min()]])
    peaks, _ = find_peaks(padded, height=max(height, 1e-6), distance=max(1, round(SHORTEST_GAP_S / frame_s)))
    return np.asarray(peaks - 1, np.int64)


class _Rise(Struct, frozen=True):
    """The beginning of a flash: its first frame that is lit at all, how bright it was before, how bright in the frame
    after the first one and what is left of that (0–1) in the next, and how many frames are lit.
    """

    first: int
    dark: float
    whole: float
    kept: float
    lit: int
    level: float


def _rise(times_s: FloatArray, series: FloatArray, peak: int, usual: float, quiet: float) -> _Rise | None:
    """The beginning of the flash that has its peak there; None for what rises slowly or stays."""
    level = float(series[peak])
    if not LEVEL_LOW * usual < level < LEVEL_HIGH * usual:
        return None
    bright = peak
    while bright > 0 and series[bright - 1] > HALF * level:
        bright -= 1
    last = peak
    while last + 1 < len(series) and series[last + 1] > HALF * level:
        last += 1
    if bright < 3 or times_s[last] - times_s[bright] > LONGEST_FLASH_S:
        return None
    dark = float(np.median(series[max(0, bright - DARK_FRAMES) : bright - 1]))
    height = max(level - dark, LEAST_RISE * usual)
    before = (float(series[bright - 1]) - dark) / height
    first = bright - 1 if before > max(LEAST_PART, PART_NOISES * quiet / height) else bright
    if (float(series[first - 1]) - dark) / height > SLOW:
        return None
    second, third = (float(series[min(first + n, last)]) for n in (1, 2))
    return _Rise(first, dark, second, (third - dark) / max(second - dark, 1e-6), last - first + 1, level)


def _flash(
    times_s: FloatArray, series: FloatArray, floor: FloatArray, rise: _Rise, common: float | None, usual: float
) -> Flash | None:
    """The flash, with the share of its first frame that was lit: of the frame after it, which is lit whole.

    Not of the brightest ones: an automatic exposure turns them down. Where that frame is darker than is common, the
    flash ended in it.
    """
    whole = rise.level if common is None else rise.whole if rise.whole > OWN_WHOLE * common else common
    height = whole - rise.dark
    if rise.lit > WHOLE_OF and STEADY < rise.kept < 1.0:
        height /= rise.kept  # it was turned down by as much before
    if height < LEAST_RISE * usual:
        return None
    first = rise.first
    part = float(np.clip((float(series[first]) - rise.dark) / height, 0.0, 1.0))
    low = max(0.0, float(floor[first]) + rise.dark)
    coded = low + part * height
    light = (coded**GAMMA - low**GAMMA) / ((low + height) ** GAMMA - low**GAMMA)
    return Flash(
        time_s=float(times_s[first]),
        before_s=float(times_s[first - 1]),
        part=part,
        light=float(light),
        strength=rise.level,
        ground=low / height,
    )
