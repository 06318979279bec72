"""Flashes in pictures and beeps in sound, found without being told where they are."""

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

BASELINE_S = 0.9  # what stays longer than half of this is not a flash
LONGEST_FLASH_S = 0.45
SHORTEST_GAP_S = 0.18
REGIONS, SMALLEST_REGION = 16, 2  # that may flash apart from each other; in cells
USUAL_EVERY = 31  # samples: so many tell how much is usual as well as all of them
GAMMA = 2.2  # pictures are coded nearly as the eye sees; light itself adds up


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
    if len(times_s) < 8:
        return []
    frame_s = float(np.median(np.diff(times_s)))
    window = max(5, 2 * round(BASELINE_S / frame_s / 2) + 1)
    ground = _usual(cells, window)
    above = cells - ground
    noise = scatter(above, axis=0) + 0.6
    high = np.maximum(np.percentile(above, 99.0, axis=0), np.sort(above, axis=0)[-4:].mean(axis=0) * 0.5)
    found = [_flashes_of(times_s, ground, above, high / noise**2, noise, frame_s)]
    left = high / noise > 8.0
    rises = np.clip(above[2:] - above[:-2], 0.0, None)
    for _ in range(REGIONS):
        if not left.any():
            break
        seed = int(np.argmax(np.where(left, high / noise, 0.0)))
        alike = (high / noise > 8.0) & (_likeness(rises, seed) > 0.5)
        left &= ~alike
        left[seed] = False
        if alike.sum() >= SMALLEST_REGION:  # where something passes, it lights a part; a flash lights all
            series = np.percentile(above[:, alike], 30, axis=1)
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
    for _ in range(3):
        weight = np.maximum(weight, 0.0)
        if not weight.any():
            return []
        series = above @ (weight / weight.sum())
        peaks = _peaks(series, frame_s)
        if len(peaks) < 2:
            break
        weight = np.where(within, np.median(above[peaks], axis=0) / noise**2, 0.0)
    used = weight > 0.1 * weight.max()
    share = weight * used / (weight * used).sum()
    return _flashes_in(times_s, above @ share, ground @ share, frame_s)


def _flashes_in(times_s: FloatArray, series: FloatArray, floor: FloatArray, frame_s: float) -> list[Flash]:
    """Flashes in one series of brightness above its ground."""
    quiet = float(scatter(series)) + 1e-3
    peaks = _peaks(series, frame_s)
    if not len(peaks):
        return []
    usual = float(np.median(series[peaks]))
    if usual < max(4.0, 6.0 * quiet):
        return []
    edges = (_edge(times_s, series, floor, int(peak), usual, quiet) for peak in peaks)
    return [flash for flash in edges if flash is not None]


def _peaks(series: FloatArray, frame_s: float) -> "NDArray[np.int64]":
    """Frames at which the series is highest around, and high enough to be one of the same kind."""
    from scipy.signal import find_peaks

    top = np.sort(series)[-max(4, len(series) // 60) :]
    height = 0.45 * float(np.median(top))
    padded = np.concatenate([[series.min()], series, [series.min()]])
    peaks, _ = find_peaks(padded, height=max(height, 1e-6), distance=max(1, round(SHORTEST_GAP_S / frame_s)))
    return peaks - 1


def _edge(
    times_s: FloatArray, series: FloatArray, floor: FloatArray, peak: int, usual: float, quiet: float
) -> Flash | None:
    """The beginning of the flash that has its peak there; None for what rises slowly or stays."""
    level = float(series[peak])
    if not 0.5 * usual < level < 1.8 * usual:
        return None
    bright = peak
    while bright > 0 and series[bright - 1] > 0.5 * level:
        bright -= 1
    last = peak
    while last + 1 < len(series) and series[last + 1] > 0.5 * level:
        last += 1
    if bright < 3 or times_s[last] - times_s[bright] > LONGEST_FLASH_S:
        return None
    full = float(np.median(series[bright + 1 : last])) if last - bright >= 2 else level
    dark = float(np.median(series[max(0, bright - 5) : bright - 1]))
    rise = full - dark
    if rise < 0.4 * usual:
        return None
    before = (float(series[bright - 1]) - dark) / rise
    first = bright - 1 if before > max(0.06, 3.5 * quiet / rise) else bright
    if (float(series[first - 1]) - dark) / rise > 0.3:  # no flash rises over three frames
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
    if len(sound) < 4 * len(tone):
        return []
    likeness = np.asarray(oaconvolve(sound, tone[::-1], mode="valid"))
    squares = np.cumsum(np.square(sound), dtype=np.float64)
    local = likeness.copy()  # energy of the sound under the tone
    local[0] = squares[len(tone) - 1]
    np.subtract(squares[len(tone) :], squares[: -len(tone)], out=local[1:], casting="same_kind")
    local += 1e-6 * float(local.max()) + 1e-12
    np.abs(likeness, out=likeness)
    size = likeness / np.sqrt(local * float(tone @ tone))
    usual = float(np.median(size[::USUAL_EVERY])) / 0.6745  # of what is only noise
    peaks, _ = find_peaks(size, height=max(0.22, 5.0 * usual), distance=round(0.25 * rate_hz))
    found = []
    for peak in peaks:
        first = _earliest(size, int(peak), rate_hz)
        found.append(Beep(start_s + (first + parabolic_peak(size, first)) / rate_hz, float(size[peak])))
    return found


def _earliest(size: FloatArray, peak: int, rate_hz: int) -> int:
    """The first arrival of a beep: a peak up to 40 ms before the strongest that is not much weaker."""
    from scipy.signal import find_peaks

    begin = max(1, peak - round(0.04 * rate_hz))
    before, _ = find_peaks(size[begin : peak + 1], height=0.6 * float(size[peak]))
    return begin + int(before[0]) if len(before) else peak


def find_clicks(sound: Audio, rate_hz: int, start_s: float = 0.0) -> list[Beep]:
    """Claps, clicks and beeps of any kind: sudden rises of what is above 300 Hz."""
    from scipy.ndimage import maximum_filter1d, median_filter
    from scipy.signal import butter, sosfilt

    if len(sound) < rate_hz // 4:
        return []
    high = np.abs(sosfilt(butter(2, 300.0, "highpass", fs=rate_hz, output="sos"), sound))
    hop = max(1, rate_hz // 1000)
    many = len(high) // hop
    loud = high[: many * hop].reshape(many, hop).max(axis=1) + 1e-9
    ground = median_filter(loud, size=401, mode="nearest")
    over = loud / (ground + 0.02 * float(np.percentile(loud, 99.9)) + 1e-9)
    top = float(np.sort(over)[-max(3, many // 2000) :].mean())
    limit = max(6.0, 0.3 * top)
    rising = (over >= limit) & (over == maximum_filter1d(over, 81))
    found: list[Beep] = []
    for at in np.flatnonzero(rising):
        first = int(at)
        while first > 0 and over[first - 1] > 0.35 * over[at] and at - first < 60:
            first -= 1
        begin = max(0, (first - 1) * hop)
        piece = high[begin : (first + 3) * hop]
        reached = np.flatnonzero(piece >= 0.4 * float(piece.max()))
        when = start_s + (begin + int(reached[0])) / rate_hz
        if not found or when - found[-1].time_s > 0.15:
            found.append(Beep(when, float(over[at] / top)))
    return found


def next_onset(peaks: Audio, per_s: int, after_s: float) -> float | None:
    """When the sound next rises suddenly (s): four times over the loudest of the 0.3 s before. None: not any more.

    `peaks` are the loudest samples of equal pieces, `per_s` of them a second.
    """
    many = max(1, round(0.3 * per_s))
    first = max(1, int(after_s * per_s) + 1)
    if first >= len(peaks):
        return None
    known = np.concatenate([np.zeros(many, np.float32), peaks])[first:]  # what lies before the first, then all others
    before = np.lib.stride_tricks.sliding_window_view(known[:-1], many).max(axis=1)
    rises = peaks[first:] > np.maximum(0.02 * float(peaks.max()), 4 * before)
    return (first + int(np.argmax(rises))) / per_s if rises.any() else None
