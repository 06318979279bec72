"""Beeps, claps and other sudden sounds, found without being told where they are.

Times in s, sound as float32. A threshold that is a *choice* holds tests/media/test_measure.py and
tests/core/measuring/test_beeps.py.

1. North, "An analysis of the factors which determine signal/noise discrimination in pulsed-carrier systems", Proc. IEEE
   51 (1963): the matched filter that finds a beep of known form.
2. Huber, Robust Statistics (1981), 5.1: how much is usual.
3. IEC 61260-1: octave bands and parts of them.
"""

from collections.abc import Iterator, Sequence
from typing import TYPE_CHECKING

import numpy as np
from msgspec import Struct

from kymaton.core.measuring.clip_pattern import beep
from kymaton.core.measuring.robust import NORMAL, parabolic_peak

if TYPE_CHECKING:
    from numpy.typing import NDArray

    FloatArray = NDArray[np.float64]
    Audio = NDArray[np.float32]
else:
    FloatArray = Audio = np.ndarray


# beeps of a sync clip
SHORTEST_SOUND = 4  # times the beep
USUAL_EVERY = 31  # samples: so many tell how much is usual as well as all of them
LEAST_LIKENESS, LIKENESS_NOISES = 0.22, 5.0  # of 1, and times what noise alone gives; chosen
LIKE_ITS_LEVEL = (
    0.5  # of the likeness that a beep so far above what was before it has; chosen: a falling sweep has a third
)
BEEP_GAP_S = 0.25  # chosen: half of the shortest interval of a clip
FIRST_WITHIN_S, FIRST_SHARE = 0.04, 0.6  # an earlier, softer arrival is the direct sound, the rest the room; chosen

# claps and clicks
CLICK_HZ, CLICK_STEP_HZ = 300.0, 1000  # above rumble and hum; looked at in steps of 1 ms
GROUND_MS, LOUD_PERCENT, GROUND_SHARE = 401, 99.9, 0.02  # what lies under a click; −34 dB of the loudest; chosen
LEAST_CLICK, CLICK_SHARE, CLICK_APART_MS = 6.0, 0.3, 81  # times the ground; of the highest ones; chosen
ONSET_SHARE, ONSET_MS, SAMPLE_SHARE = 0.35, 60, 0.4  # of its top, back to where it began; chosen
CLICK_GAP_S = 0.15  # chosen: echoes of a room are no claps of their own
ONSET_BEFORE_S, ONSET_TIMES, ONSET_LEAST = 0.3, 4, 0.02  # 12 dB over what was, above −34 dB of the loudest; chosen
AGAIN_FROM_S, AGAIN_TO_S = 0.012, 0.25  # after a beep, where a second way of its sound is looked for; chosen
AGAIN_SHARE = 0.35  # of the first arrival, for a second way to be told (−9 dB); chosen

# any sound that rises at each flash
BANDS = tuple(250.0 * 2 ** (n / 2) for n in range(11))  # middles (Hz) of half-octave bands [3], 250 Hz to 8 kHz
RISE_STEP_S, RISE_BEFORE_S, RISE_AFTER_S = 0.001, 0.12, 0.03  # loudness in ms; what was before, and what comes; chosen
LEAST_RISE_DB, LEAST_LEVEL = 6.0, 1e-4  # chosen: what rises by less, or stays below −80 dBFS, is nothing
RISE_APART_S = 0.25
PLATEAU_S, FOOT, MIDDLE = 0.15, 0.1, 0.5  # of its height, where a rise begins and where it is half over


class Beep(Struct, frozen=True):
    """When a beep or click begins, in s, and how far it stands out (1: as much as can be).

    `slow_s` is how far its beginning is open, where it rises slowly.
    """

    time_s: float
    strength: float
    slow_s: float = 0.0


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
        before = float(local[max(0, peak - len(tone))])
        if size[peak] < LIKE_ITS_LEVEL * np.sqrt(max(0.0, 1.0 - before / float(local[peak]))):
            continue  # loud enough to be a beep, and no beep
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
        foot = first
        while foot > 0 and over[foot - 1] - 1 > FOOT * (over[at] - 1) and at - foot < ONSET_MS:
            foot -= 1
        if not found or when - found[-1].time_s > CLICK_GAP_S:
            found.append(Beep(when, float(over[at] / top), max(0, first - foot - 1) * hop / rate_hz))
    return found


def heard_again(
    sound: Audio, rate_hz: int, beeps: "Sequence[Beep]", start_s: float = 0.0
) -> tuple[float, float] | None:
    """How much later (s), and how strong of the first (0–1), the beeps of a clip come a second time; None: they do not.

    The matched filter is stacked at all beeps: what is at the same distance from each is a second way of the sound.
    """
    from scipy.signal import find_peaks, oaconvolve

    tone = beep(rate_hz)
    if len(beeps) < 3 or len(sound) < SHORTEST_SOUND * len(tone):
        return None
    first, last = round(AGAIN_FROM_S * rate_hz), round(AGAIN_TO_S * rate_hz)
    at = [round((b.time_s - start_s) * rate_hz) for b in beeps]
    pieces = [sound[n : n + last + len(tone) - 1] for n in at if 0 <= n <= len(sound) - last - len(tone)]
    if len(pieces) < 3:
        return None
    likeness = np.abs(oaconvolve(np.stack(pieces), tone[None, ::-1], mode="valid", axes=1))
    usual = np.median(likeness / (likeness[:, :1] + 1e-12), axis=0)
    peaks, about = find_peaks(usual[first:], height=AGAIN_SHARE, distance=first)
    if not len(peaks):
        return None
    best = int(np.argmax(about["peak_heights"]))
    return (first + int(peaks[best])) / rate_hz, float(about["peak_heights"][best])


def heard_in(channels: Audio, rate_hz: int, beeps: "Sequence[Beep]", start_s: float = 0.0) -> FloatArray:
    """How strong the beeps of a clip are in each channel (channels, samples), with the sign of their polarity."""
    tone = beep(rate_hz)
    reach = round(0.001 * rate_hz)
    found = np.zeros((len(channels), len(beeps)))
    for number, each in enumerate(beeps):
        first = round((each.time_s - start_s) * rate_hz) - reach
        piece = channels[:, max(0, first) : max(0, first) + len(tone) + 2 * reach]
        if piece.shape[1] >= len(tone):
            likeness = np.stack([np.correlate(row, tone, mode="valid") for row in piece])
            at = np.abs(likeness).argmax(axis=1)
            found[:, number] = likeness[np.arange(len(piece)), at]
    strong = np.median(np.abs(found), axis=1)
    return np.asarray(np.where(np.median(np.sign(found), axis=1) < 0, -strong, strong), np.float64)


def find_rises(sound: Audio, rate_hz: int, start_s: float = 0.0) -> "Iterator[list[Beep]]":
    """What rises suddenly in each half-octave band, whatever it is: long beeps, claps, tones that swell.

    A rise is compared with what was before it, not with what comes after: so a long tone or a long room does no harm.
    """
    from scipy.signal import butter, sosfilt

    for middle in BANDS:
        if middle * 2**0.25 >= 0.45 * rate_hz:
            break
        edges = (middle * 2**-0.25, middle * 2**0.25)
        sections = butter(2, edges, "bandpass", fs=rate_hz, output="sos")
        found = _rises(np.asarray(sosfilt(sections, sound)), rate_hz, start_s, 0.5 / middle)
        if found:
            yield found


def _rises(band: FloatArray, rate_hz: int, start_s: float, blur_s: float) -> list[Beep]:
    """Rises in the loudness of one band; `blur_s` is how far its filter smears them."""
    from scipy.ndimage import maximum_filter1d

    hop = max(1, round(RISE_STEP_S * rate_hz))
    step = hop / rate_hz
    many = len(band) // hop
    power = np.square(band[: many * hop]).reshape(many, hop).mean(axis=1)
    before, after = round(RISE_BEFORE_S / step), round(RISE_AFTER_S / step)
    if many < 2 * (before + after):
        return []
    total = np.concatenate([[0.0], np.cumsum(power)])
    at = np.arange(before, many - after)
    was = (total[at] - total[at - before]) / before + LEAST_LEVEL**2
    comes = (total[at + after] - total[at]) / after
    rise = 10 * np.log10((comes + 1e-20) / was)
    top = (rise >= LEAST_RISE_DB) & (rise == maximum_filter1d(rise, round(RISE_APART_S / step)))
    found = []
    for place in at[np.flatnonzero(top)]:
        level = np.sqrt(power[max(0, place - before) : place + round(PLATEAU_S / step)])
        ground = float(np.sqrt(was[place - before]))
        height = float(np.percentile(level[min(before, place) :], 90)) - ground
        reached = [_reached(level, ground + part * height, min(before, place)) for part in (FOOT, MIDDLE)]
        foot, half = (max(0, place - before) + n for n in reached)
        slow = max(0.0, (half - foot) * step)
        begin = foot * step - slow * FOOT / (MIDDLE - FOOT)  # a straight rise goes on down to the ground
        found.append(Beep(start_s + begin, float(rise[place - before]), slow / 2 + blur_s + step))
    return found


def _reached(level: FloatArray, limit: float, middle: int) -> int:
    """The step after which the loudness stays over a limit up to the middle of a rise, or first passes it after it."""
    at = middle
    if level[at] <= limit:
        above = np.flatnonzero(level[at:] > limit)
        return at + int(above[0]) if len(above) else at
    while at > 0 and level[at - 1] > limit:
        at -= 1
    return at


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
