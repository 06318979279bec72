"""Loudness and true peak of sound: ITU-R BS.1770-5, EBU Tech 3341 (momentary, short-term) and 3342 (range).

The measuring is FFmpeg's, but for the largest momentary and short-term loudness: it looks ten times a second only.
"""

import math
from fractions import Fraction
from pathlib import Path
from typing import TYPE_CHECKING

import av
import numpy as np
from msgspec import Struct

from kymaton.core.errors import FileError, Progress, Stopped
from kymaton.core.measuring.k_weighting import SHORT_TERM_S, LargestLoudness
from kymaton.media.film.placing import LAYOUTS, PlacedSound, Track

if TYPE_CHECKING:
    from numpy.typing import NDArray

SHOWN_LUFS = -120.0  # what FFmpeg says of silence
GATE_LUFS = -70.0  # BS.1770-5: quieter blocks do not count; integrated loudness is never below


class Loudness(Struct, frozen=True):
    """What a meter would have shown at the end. `integrated_lufs` is −inf when all of it lies below the gate."""

    integrated_lufs: float
    range_lu: float
    true_peak_dbtp: float
    max_short_term_lufs: float
    max_momentary_lufs: float
    seconds: float

    def gain_db(self, goal_lufs: float, most_dbtp: float) -> float:
        """Gain that brings the loudness to its goal, or as near as the true peak allows. Raises ValueError."""
        if not math.isfinite(self.integrated_lufs):
            raise ValueError("it is silent: no gain brings it to a loudness")
        return min(goal_lufs - self.integrated_lufs, most_dbtp - self.true_peak_dbtp)


class Running(Struct, frozen=True):
    """What a meter shows while it runs: LUFS, the largest true peak until now (dBTP), and for how long it has run."""

    momentary_lufs: float
    short_term_lufs: float
    integrated_lufs: float
    true_peak_dbtp: float
    seconds: float


class Meter:
    """Feed it blocks (channels, samples) of float32, then ask for what it found.

    With `each` the short-term loudness of every tenth of a second is kept in `curve`.
    """

    def __init__(self, rate_hz: int, channels: int, each: bool = False) -> None:
        self.rate_hz, self.layout, self.sent = rate_hz, LAYOUTS[channels], 0
        self.curve: list[float] | None = [] if each else None
        graph = av.filter.Graph()
        self.source = graph.add_abuffer(
            sample_rate=rate_hz, format="fltp", layout=self.layout, time_base=Fraction(1, rate_hz)
        )
        meter, self.sink = graph.add("ebur128", "metadata=1:peak=true"), graph.add("abuffersink")
        self.source.link_to(meter)
        meter.link_to(self.sink)
        graph.configure()
        self.graph = graph
        self.last: dict[str, str] = {}
        self.largest = LargestLoudness(rate_hz, channels)

    def add(self, block: "NDArray[np.float32]") -> None:
        """More samples, (channels, samples) of float32."""
        self.largest.add(block)
        self._send(block)

    def _send(self, block: "NDArray[np.float32]") -> None:
        frame = av.AudioFrame.from_ndarray(np.ascontiguousarray(block), format="fltp", layout=self.layout)
        frame.sample_rate, frame.pts, frame.time_base = self.rate_hz, self.sent, Fraction(1, self.rate_hz)
        self.sent += block.shape[1]
        self.source.push(frame)
        self._drain()

    def _drain(self) -> None:
        while True:
            try:
                frame = self.sink.pull()
            except (av.BlockingIOError, av.EOFError):
                return
            assert isinstance(frame, av.AudioFrame) and frame.pts is not None
            self.last = dict(frame.metadata)
            now_s = (frame.pts + frame.samples) / self.rate_hz
            if now_s >= SHORT_TERM_S and self.curve is not None:
                self.curve.append(float(self.last["lavfi.r128.S"]))

    @property
    def now(self) -> "Running":
        """What the meter shows at this moment; −∞ where it has nothing yet."""
        shown = {key: float(self.last.get(f"lavfi.r128.{key}", "-inf")) for key in ("M", "S", "I", "true_peak")}
        peak = shown["true_peak"]
        return Running(
            momentary_lufs=shown["M"] if shown["M"] > SHOWN_LUFS else -math.inf,
            short_term_lufs=shown["S"] if shown["S"] > SHOWN_LUFS else -math.inf,
            integrated_lufs=shown["I"] if shown["I"] > GATE_LUFS else -math.inf,
            true_peak_dbtp=20 * math.log10(peak) if peak > 0 else -math.inf,
            seconds=self.sent / self.rate_hz,
        )

    def result(self) -> Loudness:
        """What was found; the last tenth of a second is filled up. Raises ValueError when there was nothing."""
        seconds, channels = self.sent / self.rate_hz, av.AudioLayout(self.layout).nb_channels
        if not self.sent:
            raise ValueError("there is no sound in it")
        step = self.rate_hz // 10
        self._send(np.zeros((channels, step - self.sent % step), np.float32))
        self.source.push(None)
        self._drain()
        peak = float(self.last["lavfi.r128.true_peak"])
        integrated = float(self.last["lavfi.r128.I"])
        return Loudness(
            integrated if integrated > GATE_LUFS else -math.inf,
            float(self.last["lavfi.r128.LRA"]),
            20 * math.log10(peak) if peak > 0 else -math.inf,
            self.largest.short_term,
            self.largest.momentary,
            seconds,
        )


def measure_loudness(track: Track, most_s: float | None = None, progress: Progress | None = None) -> Loudness:
    """Loudness of a sound as it is placed (with its gain), up to a time. Raises FileError, and Stopped."""
    sound = PlacedSound(track)
    meter = Meter(sound.rate_hz, sound.channels)
    length_s = min(most_s or math.inf, sound.length_s or math.inf)
    for block in sound.blocks(sound.rate_hz):
        left = block.shape[1] if most_s is None else min(block.shape[1], round(most_s * sound.rate_hz) - meter.sent)
        if left <= 0:
            break
        meter.add(block[:, :left])
        part = meter.sent / sound.rate_hz / length_s if math.isfinite(length_s) else 0.0
        if progress is not None and not progress(min(1.0, part)):
            raise Stopped
    try:
        return meter.result()
    except ValueError as error:
        raise FileError(f"{track.path.name}: {error}.") from error


def to_goal(
    track: Track, goal_lufs: float, most_dbtp: float, most_s: float | None = None, progress: Progress | None = None
) -> Track:
    """The track brought to a loudness, true-peak safe. Raises FileError, and Stopped."""
    before = measure_loudness(track, most_s, progress)
    try:
        gain_db = before.gain_db(goal_lufs, most_dbtp)
    except ValueError as error:
        raise FileError(f"{track.path.name}: {error}.") from error
    return track.louder(gain_db)


def loudness_of(path: Path, progress: Progress | None = None) -> Loudness:
    """Loudness of the first sound track of a file. Raises FileError, and Stopped."""
    return measure_loudness(Track(path), None, progress)
