"""The pattern of a sync clip: when its flashes and beeps are, and what the beep is.

The intervals are irregular (golden-ratio sequence), so that the events fall everywhere between the frames of a camera
and no shift of the pattern looks like another one.
"""

from collections.abc import Iterator
from fractions import Fraction
from typing import TYPE_CHECKING

import numpy as np

if TYPE_CHECKING:
    from numpy.typing import NDArray

    Audio = NDArray[np.float32]
else:
    Audio = np.ndarray

FIRST_S, SHORTEST_S, SPREAD_S = 1.0, 0.55, 0.5
GOLDEN = 0.6180339887498949
FLASH_S = 0.2  # three frames lit whole at 24 a second: they tell what an automatic exposure does
BEEP_S, BEEP_LOW_HZ, BEEP_HIGH_HZ, BEEP_PEAK = 0.06, 900.0, 3600.0, 0.5


def unlike(rate: Fraction) -> Fraction:
    """A rate for a clip that a camera of this rate films: its flashes fall on many places of the camera's frames.

    25 for 24, 30 and 60, else 30: the two have no great common part, so no flash keeps its place for long.
    """
    near = round(rate)
    return Fraction(25) if near in (24, 30, 48, 60, 120) else Fraction(30)


def event_frames(rate: Fraction, seconds: float) -> list[int]:
    """Frames on which the flashes of a clip begin; the last ends half a second before the clip."""
    return [round(t * rate) for t in event_times(seconds)]


def event_times(seconds: float) -> Iterator[Fraction]:
    """When the events of a clip of this length begin, in s, exact fractions."""
    at, number = FIRST_S, 0
    while at < seconds - 0.5:
        yield Fraction(at).limit_denominator(100_000)
        number += 1
        at += SHORTEST_S + SPREAD_S * ((number * GOLDEN) % 1.0)


def flash_frames(rate: Fraction) -> int:
    """How many frames a flash lasts."""
    return max(2, round(FLASH_S * rate))


def beep(rate_hz: int) -> Audio:
    """A rising tone of 60 ms that can be told from music and noise: a linear sweep with soft ends, peak 1."""
    t = np.arange(round(BEEP_S * rate_hz)) / rate_hz
    sweep = np.sin(2 * np.pi * (BEEP_LOW_HZ * t + (BEEP_HIGH_HZ - BEEP_LOW_HZ) * t**2 / (2 * BEEP_S)))
    edge = round(0.002 * rate_hz)
    shape = np.ones(len(t))
    shape[:edge] = 0.5 - 0.5 * np.cos(np.pi * np.arange(edge) / edge)
    shape[-edge:] = shape[:edge][::-1]
    return (sweep * shape).astype(np.float32)


def pattern_sound(rate: Fraction, seconds: float, rate_hz: int, lead_ms: float = 0.0) -> Audio:
    """The sound of a clip (mono): a beep at each flash, earlier by `lead_ms`; placed to a fraction of a sample."""
    length = round(seconds * rate_hz)
    sound = np.zeros(length, np.float32)
    for frame in event_frames(rate, seconds):
        add_beep(sound, float(frame / rate) - lead_ms / 1000, rate_hz)
    return sound


def add_beep(sound: Audio, at_s: float, rate_hz: int, peak: float = BEEP_PEAK) -> None:
    """Add a beep that begins at this time, also between two samples; what lies outside is left out."""
    whole = int(np.floor(at_s * rate_hz))
    part = at_s * rate_hz - whole
    tone = np.concatenate([beep(rate_hz), np.zeros(64, np.float32)])
    if part:
        turn = np.exp(-2j * np.pi * np.fft.rfftfreq(len(tone)) * part)
        tone = np.fft.irfft(np.fft.rfft(tone) * turn, len(tone)).astype(np.float32)
    first, last = max(0, -whole), min(len(tone), len(sound) - whole)
    if last > first:
        sound[whole + first : whole + last] += peak * tone[first:last]
