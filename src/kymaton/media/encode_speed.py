"""How fast this computer encodes: its own test picture, with the encoder and preset that a stream would use."""

import time
from collections.abc import Callable
from fractions import Fraction

import av
import numpy as np
from msgspec import Struct

from kymaton.core.model import Figure

WIDTH, HEIGHT = 1280, 720
FRAMES = 60  # kept and sent round: two seconds at 30 frames/s
CODEC, PRESET = "libx264", "veryfast"


class Speed(Struct, frozen=True):
    """Picture points a second, in millions, with half the spread of the runs as ±; None where it was stopped."""

    mpx_s: Figure
    seconds: float


def test_picture(number: int) -> np.ndarray:
    """A frame that moves as people and slides do: a slow gradient, a bar that wanders, some grain; shape (h, w, 3)."""
    x = np.linspace(0, 1, WIDTH, dtype=np.float32)[None, :]
    y = np.linspace(0, 1, HEIGHT, dtype=np.float32)[:, None]
    base = 90 + 60 * np.sin(6 * (x + 0.01 * number)) * np.cos(4 * y)
    left = (number * 12) % (WIDTH - 200)
    base[200:500, left : left + 200] = 210
    grain = np.random.default_rng(number).integers(-6, 7, (HEIGHT, WIDTH))
    luma = np.clip(base + grain, 0, 255).astype(np.uint8)
    return np.stack([luma, np.roll(luma, 40, 1), luma[::-1]], axis=2)


def measure(date: str, runs: int = 3, stopped: Callable[[], bool] = lambda: False) -> Speed | None:
    """Encode the test picture a few times, and tell the median. None when it was stopped."""
    frames = [av.VideoFrame.from_ndarray(test_picture(n), "rgb24").reformat(format="yuv420p") for n in range(FRAMES)]
    began, found = time.monotonic(), list[float]()
    for _ in range(runs):
        context = av.CodecContext.create(CODEC, "w")
        assert isinstance(context, av.VideoCodecContext)
        context.width, context.height, context.pix_fmt = WIDTH, HEIGHT, "yuv420p"
        context.time_base = Fraction(1, 30)
        context.bit_rate = 4_500_000
        context.options = {"preset": PRESET, "tune": "zerolatency"}
        start = time.perf_counter()
        for number, frame in enumerate(frames):
            if stopped():
                return None
            frame.pts = number
            context.encode(frame)
        context.encode(None)
        took = time.perf_counter() - start
        found.append(FRAMES * WIDTH * HEIGHT / took / 1e6)
    middle = float(np.median(found))
    spread = (max(found) - min(found)) / 2
    figure = Figure(value=round(middle, 1), plus_minus=round(spread, 1), source="measured", date=date)
    return Speed(figure, time.monotonic() - began)
