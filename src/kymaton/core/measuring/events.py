"""Flashes in pictures and beeps in sound, found without being told where they are.

Brightness in 8-bit code values (0 to 255), times in s, sound as float32. A threshold that is a *choice* holds
tests/media/test_measure.py (filmed clips, codecs, noise) and tests/core/measuring/test_events.py.

1. North, "An analysis of the factors which determine signal/noise discrimination in pulsed-carrier systems", Proc. IEEE
   51 (1963): the matched filter that finds a beep of known form.
2. Huber, Robust Statistics (1981), 5.1: the noise of each cell.
3. ITU-R BT.709-6 and BT.1886: pictures are coded nearly as the eye sees.
"""

from typing import TYPE_CHECKING

import numpy as np
from msgspec import Struct

from kymaton.core.measuring.clip_pattern import beep
from kymaton.core.measuring.robust import parabolic_peak, scatter

if TYPE_CHECKING:
    from numpy.typing import NDArray

    FloatArray = NDArray[np.float64]
    Cells = NDArray[np.float32]
    Audio = NDArray[np.float32]
else:
    FloatArray = Cells = Audio = np.ndarray


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
GAMMA = 2.2  # of coded pictures [3]; light itself adds up

# beeps
SHORTEST_SOUND = 4  # times the beep
USUAL_EVERY = 31  # samples: so many tell how much is usual as well as all of them
NORMAL = 0.6745  # the middle of |x| is that of normal x with a deviation of 1 [2]
LEAST_LIKENESS, LIKENESS_NOISES = 0.22, 5.0  # of 1, and times what noise alone gives; chosen
BEEP_GAP_S = 0.25  # chosen: half of the shortest interval of a clip
FIRST_WITHIN_S, FIRST_SHARE = 0.04, 0.6  # an earlier, softer arrival is the direct sound, the rest the room; chosen

# claps and clicks
CLICK_HZ, CLICK_STEP_HZ = 300.0, 1000  # above rumble and hum; looked at in steps of 1 ms
GROUND_MS, LOUD_PERCENT, GROUND_SHARE = 401, 99.9, 0.02  # what lies under a click; −34 dB of the loudest; chosen
LEAST_CLICK, CLICK_SHARE, CLICK_APART_MS = 6.0, 0.3, 81  # times the ground; of the highest ones; chosen
ONSET_SHARE, ONSET_MS, SAMPLE_SHARE = 0.35, 60, 0.4  # of its top, back to where it began; chosen
CLICK_GAP_S = 0.15  # chosen: echoes of a room are no claps of their own
ONSET_BEFORE_S, ONSET_TIMES, ONSET_LEAST = 0.3, 4, 0.02  # 12 dB over what was, above −34 dB of the loudest; chosen


class Flash(Struct, frozen=True):
    """A flash: its first frame that is lit at all (time in s), the time of the frame before, and how much of the
    first frame is lit: `part` of the way from dark to bright as coded, `light` as light.
    """

    time_s: float
    before_s: float
    part: float
    light: float
    strength: float


class Beep(Struct, frozen=True):
    """When a beep or click begins, in s, and how far it stands out (1: as much as can be)."""

    time_s: float
    strength: float


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
            found.append(_flashes_in(times_s, series, ground[:, alike].mean(axis=1), frame_s))
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
    return _flashes_in(times_s, above @ share, ground @ share, frame_s)


def _flashes_in(times_s: FloatArray, series: FloatArray, floor: FloatArray, frame_s: float) -> list[Flash]:
    """Flashes in one series of brightness above its ground."""
    quiet = float(scatter(series)) + LEAST_QUIET
    peaks = _peaks(series, frame_s)
    if not len(peaks):
        return []
    usual = float(np.median(series[peaks]))
    if usual < max(LEAST_FLASH, FLASH_NOISES * quiet):
        return []
    edges = (_edge(times_s, series, floor, int(peak), usual, quiet) for peak in peaks)
    return [flash for flash in edges if flash is not None]


def _peaks(series: FloatArray, frame_s: float) -> "NDArray[np.int64]":
    """Frames at which the series is highest around, and high enough to be one of the same kind."""
    from scipy.signal import find_peaks

    top = np.sort(series)[-max(TOP_FRAMES, len(series) // TOP_OF) :]
    height = PEAK_SHARE * float(np.median(top))
    padded = np.concatenate([[series.min()], series, [series.min()]])
    peaks, _ = find_peaks(padded, height=max(height, 1e-6), distance=max(1, round(SHORTEST_GAP_S / frame_s)))
    return np.asarray(peaks - 1, np.int64)


def _edge(
    times_s: FloatArray, series: FloatArray, floor: FloatArray, peak: int, usual: float, quiet: float
) -> Flash | None:
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
    full = float(np.median(series[bright + 1 : last])) if last - bright >= 2 else level
    dark = float(np.median(series[max(0, bright - DARK_FRAMES) : bright - 1]))
    rise = full - dark
    if rise < LEAST_RISE * usual:
        return None
    before = (float(series[bright - 1]) - dark) / rise
    first = bright - 1 if before > max(LEAST_PART, PART_NOISES * quiet / rise) else bright
    if (float(series[first - 1]) - dark) / rise > SLOW:
        return None
    part = float(np.clip((float(series[first]) - dark) / rise, 0.0, 1.0))
    if last == first:
        part = 1.0
    low = max(0.0, float(floor[first]) + dark)
    coded = low + part * rise
    light = (coded**GAMMA - low**GAMMA) / ((low + rise) ** GAMMA - low**GAMMA)
    return Flash(float(times_s[first]), float(times_s[first - 1]), part, float(light), level)


def find_beeps(sound: Audio, rate_hz: int, start_s: float = 0.0) -> list[Beep]:
    """Beeps of a sync clip in a recording: the sweep is looked for, under noise, music and reverberation."""
    from scipy.signal import find_peaks, oaconvolve

    tone = beep(rate_hz)
    if len(sound) < SHORTEST_SOUND * len(tone):
        return []
    likeness = np.asarray(oaconvolve(sound, tone[::-1], mode="valid"))
    squares = np.cumsum(np.square(sound), dtype=np.float64)
    local = likeness.copy()  # energy of the sound under the tone
    local[0] = squares[len(tone) - 1]
    np.subtract(squares[len(tone) :], squares[: -len(tone)], out=local[1:], casting="same_kind")
    local += 1e-6 * float(local.max()) + 1e-12
    np.abs(likeness, out=likeness)
    size = likeness / np.sqrt(local * float(tone @ tone))
    usual = float(np.median(size[::USUAL_EVERY])) / NORMAL  # of what is only noise
    height = max(LEAST_LIKENESS, LIKENESS_NOISES * usual)
    peaks, _ = find_peaks(size, height=height, distance=round(BEEP_GAP_S * rate_hz))
    found = []
    for peak in peaks:
        first = _earliest(size, int(peak), rate_hz)
        found.append(Beep(start_s + (first + parabolic_peak(size, first)) / rate_hz, float(size[peak])))
    return found


def _earliest(size: FloatArray, peak: int, rate_hz: int) -> int:
    """The first arrival of a beep: a peak shortly before the strongest that is not much weaker."""
    from scipy.signal import find_peaks

    begin = max(1, peak - round(FIRST_WITHIN_S * rate_hz))
    before, _ = find_peaks(size[begin : peak + 1], height=FIRST_SHARE * float(size[peak]))
    return begin + int(before[0]) if len(before) else peak


def find_clicks(sound: Audio, rate_hz: int, start_s: float = 0.0) -> list[Beep]:
    """Claps, clicks and beeps of any kind: sudden rises of what is above 300 Hz."""
    from scipy.ndimage import maximum_filter1d, median_filter
    from scipy.signal import butter, sosfilt

    if len(sound) < rate_hz // 4:
        return []
    high = np.abs(sosfilt(butter(2, CLICK_HZ, "highpass", fs=rate_hz, output="sos"), sound))
    hop = max(1, rate_hz // CLICK_STEP_HZ)
    many = len(high) // hop
    loud = high[: many * hop].reshape(many, hop).max(axis=1) + 1e-9
    ground = median_filter(loud, size=GROUND_MS, mode="nearest")
    over = loud / (ground + GROUND_SHARE * float(np.percentile(loud, LOUD_PERCENT)) + 1e-9)
    top = float(np.sort(over)[-max(3, many // 2000) :].mean())
    limit = max(LEAST_CLICK, CLICK_SHARE * top)
    rising = (over >= limit) & (over == maximum_filter1d(over, CLICK_APART_MS))
    found: list[Beep] = []
    for at in np.flatnonzero(rising):
        first = int(at)
        while first > 0 and over[first - 1] > ONSET_SHARE * over[at] and at - first < ONSET_MS:
            first -= 1
        begin = max(0, (first - 1) * hop)
        piece = high[begin : (first + 3) * hop]
        reached = np.flatnonzero(piece >= SAMPLE_SHARE * float(piece.max()))
        when = start_s + (begin + int(reached[0])) / rate_hz
        if not found or when - found[-1].time_s > CLICK_GAP_S:
            found.append(Beep(when, float(over[at] / top)))
    return found


def next_onset(peaks: Audio, per_s: int, after_s: float) -> float | None:
    """When the sound next rises suddenly (s): four times over the loudest of the 0.3 s before. None: not any more.

    `peaks` are the loudest samples of equal pieces, `per_s` of them a second.
    """
    many = max(1, round(ONSET_BEFORE_S * per_s))
    first = max(1, int(after_s * per_s) + 1)
    if first >= len(peaks):
        return None
    known = np.concatenate([np.zeros(many, np.float32), peaks])[first:]  # what lies before the first, then all others
    before = np.lib.stride_tricks.sliding_window_view(known[:-1], many).max(axis=1)
    rises = peaks[first:] > np.maximum(ONSET_LEAST * float(peaks.max()), ONSET_TIMES * before)
    return (first + int(np.argmax(rises))) / per_s if rises.any() else None
