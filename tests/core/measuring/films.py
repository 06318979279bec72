"""Films worked out from light alone: a screen, a shutter that opens with its frame, a camera's faults; and their sound.

Nothing of the simulated camera is used: light is integrated in closed form over each shutter, in the time of the world.
"""

import math
from collections.abc import Callable
from dataclasses import dataclass, field
from fractions import Fraction

import numpy as np

from kymaton.core.measuring.clip_pattern import beep, event_frames, flash_frames

RATE_HZ = 48_000


@dataclass
class Shot:
    """How a clip is filmed. A frame has the time of its opening; picture and sound are late by what is drawn."""

    rate: Fraction | int = 30
    exposure: float = 0.5
    clip: Fraction | int = 25
    seconds: float = 20.0
    seed: int = 0
    gamma: float = 2.2
    gain: float = 1.0
    noise: float = 0.0
    dims: float = 0.0  # what an automatic exposure takes away while it is bright
    flash_s: float | None = None
    late: tuple[float, float] = field(init=False)
    phase: float = field(init=False)

    def __post_init__(self) -> None:
        chance = np.random.default_rng(self.seed + 100)
        self.late = (float(chance.uniform(0, 0.25)), float(chance.uniform(0, 0.1)))
        self.phase = float(chance.uniform(0, 1 / self.rate))

    @property
    def lead_ms(self) -> float:
        return 1000 * (self.late[0] - self.late[1])

    @property
    def flashes(self) -> list[float]:
        """When the screen flashes, in the time of the world."""
        return [float(Fraction(n) / self.clip) for n in event_frames(Fraction(self.clip), self.seconds)]

    @property
    def heard(self) -> list[float]:
        """When the beeps are in the recording."""
        return [at - self.phase - self.late[0] + self.late[1] for at in self.flashes]

    def picture(self) -> tuple[np.ndarray, np.ndarray]:
        """Times, and code values of 192 cells; the screen fills eight rows of ten."""
        frame_s = 1 / float(self.rate)
        lasts = self.flash_s or float(flash_frames(Fraction(self.clip)) / self.clip)
        begins = np.array(self.flashes)
        many, gain = int(self.seconds / frame_s), self.gain
        open_s = max(self.exposure * frame_s, 1e-7)
        cells = np.full((many, 12, 16), 255 * (0.004 * self.gain) ** (1 / self.gamma), np.float32)
        for number in range(many):
            opens = self.phase + number * frame_s
            both = np.minimum(opens + open_s, begins + lasts) - np.maximum(opens, begins)
            lit = float(np.clip(both, 0, None).sum()) / open_s
            cells[number, 2:10, 3:13] = 255 * min(1.0, (0.004 + 0.746 * lit) * gain) ** (1 / self.gamma)
            gain += 0.35 * (self.gain / (1 + self.dims * lit) - gain)
        cells += np.random.default_rng(self.seed).normal(0, self.noise, cells.shape) if self.noise else 0
        return np.arange(many) * frame_s, np.clip(cells, 0, 255).reshape(many, 192).astype(np.float32)


def sound_of(
    at: list[float], seconds: float = 20.0, tone: np.ndarray | None = None, peak: float = 0.4, seed: int = 1
) -> np.ndarray:
    """A sound at each of these times, over a little noise; placed between samples too."""
    sound = np.random.default_rng(seed).normal(0, 0.001, int(seconds * RATE_HZ))
    padded = np.concatenate([beep(RATE_HZ) if tone is None else tone, np.zeros(64)])
    for when in at:
        first = math.floor(when * RATE_HZ)
        turn = np.exp(-2j * np.pi * np.fft.rfftfreq(len(padded)) * (when * RATE_HZ - first))
        moved = np.fft.irfft(np.fft.rfft(padded) * turn, len(padded))
        begin, end = max(0, -first), min(len(padded), len(sound) - first)
        if end > begin:
            sound[first + begin : first + end] += peak * moved[begin:end]
    return sound


def tone_of(length_s: float, attack_s: float) -> np.ndarray:
    """A tone of 1 kHz that swells."""
    t = np.arange(int(length_s * RATE_HZ)) / RATE_HZ
    return np.sin(2 * np.pi * 1000 * t) * np.minimum(1, t / attack_s) * np.minimum(1, (length_s - t) / 0.01)


def copied(rate_hz: int, camera_hz: int) -> Callable[[np.ndarray], tuple[np.ndarray, np.ndarray]]:
    """A recorder that runs faster than its camera: frames are written again until there is a new one."""

    def write(cells: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
        many = int(20 * rate_hz)
        source = np.floor(np.arange(many) / rate_hz * camera_hz + 1e-9).astype(int)
        return np.arange(many) / rate_hz, cells[np.minimum(source, len(cells) - 1)]

    return write
