"""Flashes and beeps as a camera would give them, worked out from the geometry of exposures alone, without any video."""

import math

import numpy as np

from kymaton.core.measuring.beeps import Beep
from kymaton.core.measuring.flashes import Flash
from kymaton.core.measuring.lead_estimate import Circumstances

GAMMA = 2.2
MADE = Circumstances(made=True)
LEAST_PART = 0.06  # of the way from dark to bright that can be seen at all


def happenings(many: int, gap_s: float = 0.8, spread_s: float = 0.37, seed: int = 1) -> np.ndarray:
    """When something flashes and beeps at once (s): irregular, so that it falls everywhere between frames."""
    gaps = gap_s + spread_s * np.random.default_rng(seed).uniform(-1, 1, many)
    return 2.0 + np.cumsum(gaps)


def seen(at_s: float, frame_s: float, exposure: float, phase_s: float = 0.0) -> Flash:
    """A flash that begins at `at_s` and stays, filmed with an exposure of this part of a frame.

    The time of a frame is when its shutter opens. Its light is the part of the exposure that the flash lasted.
    """
    open_s = exposure * frame_s
    number = math.ceil((at_s - open_s - phase_s) / frame_s - 1e-12)  # the first frame that is lit when it closes
    time = phase_s + number * frame_s
    light = 1.0 if exposure == 0 else min(1.0, (time + open_s - at_s) / open_s)
    if light ** (1 / GAMMA) < LEAST_PART:  # too little to be seen: the next frame is the first, and wholly lit
        return Flash(time + frame_s, time, 1.0, 1.0, 100.0)
    return Flash(time, time - frame_s, light ** (1 / GAMMA), light, 100.0)


def filmed(
    lead_s: float, many: int = 16, frame_s: float = 0.04, exposure: float = 0.5, drift: float = 0.0, seed: int = 1
) -> tuple[list[Flash], list[Beep]]:
    """What is seen and heard when sound comes `lead_s` early, more so by `drift` (s a second) from the middle on."""
    when = happenings(many, seed=seed)
    heard = when - lead_s - drift * (when - when.mean())
    phase_s = float(np.random.default_rng(seed + 1000).uniform(0, frame_s))
    return [seen(float(t), frame_s, exposure, phase_s) for t in when], [Beep(float(t), 1.0) for t in heard]


def made(
    lead_s: float, many: int = 16, frame_s: float = 0.04, drift: float = 0.0, jitter_s: float = 0.0, seed: int = 1
):
    """A clip that was made, not filmed: each flash begins with its frame (to be told with MADE)."""
    chance = np.random.default_rng(seed)
    frames = np.round(happenings(many, seed=seed) / frame_s) * frame_s
    heard = frames - lead_s - drift * (frames - frames.mean()) + jitter_s * chance.normal(size=many)
    return [Flash(t, t - frame_s, 1.0, 1.0, 100.0) for t in frames.tolist()], [Beep(t, 1.0) for t in heard.tolist()]
