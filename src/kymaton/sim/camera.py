"""A simulated camera before a screen that plays a sync clip, and the chain behind it up to a recording.

It films the frames of a real clip, each as long as it stands on the screen. Light is added up over the exposure as
light (not as coded brightness); the time of a frame is when its shutter opens. So the whole round (make a clip, film
it, measure, enter the delay, film again) can be done without hardware.
"""

import math
from collections.abc import Iterator, Mapping
from fractions import Fraction
from pathlib import Path
from typing import TYPE_CHECKING, Any

import numpy as np
from msgspec import Struct, field

from kymaton.core.errors import FileError, Progress, ShowError
from kymaton.core.formats import read_rate
from kymaton.core.measuring.clip_pattern import BEEP_PEAK, add_beep, event_frames, flash_frames, unlike
from kymaton.core.measuring.flashes import GAMMA
from kymaton.media.clips import BRIGHT, CONTAINERS, DARK, SOUND_HZ, Coding, write_film

if TYPE_CHECKING:
    from numpy.typing import NDArray

    Luma = NDArray[np.uint8]
MOST = {"picture_ms": 5000, "sound_ms": 5000, "sound_ppm": 5000, "noise": 100}  # that may be asked for


class Camera(Struct, frozen=True):
    """A camera, its encoder and the sound beside it.

    `picture_ms` and `sound_ms` are how late each is recorded, so the lead is their difference. `exposure` is the part
    of a frame for which the shutter is open (0: an instant). `sound_ppm` is how much too fast the clock of the sound
    runs. `screen` is the part (left, top, right, bottom, 0–1) that the flashing screen fills; `glow` how bright it is
    (from about 0.95 on the picture is overexposed). The clip has `clip_rate` frames a second, or a rate unlike the
    camera's.
    """

    rate: Fraction = Fraction(30)
    seconds: float = 20.0
    width: int = 320
    height: int = 180
    picture_ms: float = 80.0
    sound_ms: float = 0.0
    exposure: float = 0.0
    sound_ppm: float = 0.0
    noise: float = 0.0
    screen: tuple[float, float, float, float] = (0.0, 0.0, 1.0, 1.0)
    glow: float = 0.85
    clip_rate: Fraction | None = None
    moving: float = 0.0
    uneven: float = 0.0
    hidden: frozenset[int] = field(default_factory=frozenset)
    silent: frozenset[int] = field(default_factory=frozenset)
    sound_noise: float = 0.0
    music: float = 0.0
    reverb_s: float = 0.0
    seed: int = 1

    @property
    def lead_ms(self) -> float:
        """The lead of what is recorded, in the middle of it."""
        return self.picture_ms - self.sound_ms

    @property
    def clip(self) -> Fraction:
        """The rate of the clip on the screen."""
        return self.clip_rate or unlike(self.rate)


def flash_times(rate: Fraction, seconds: float) -> list[float]:
    """When the screen flashes: with the frames of the clip."""
    return [float(n / rate) for n in event_frames(rate, seconds)]


def frame_times(camera: Camera) -> list[float]:
    """Presentation times of the frames; with `uneven` they do not stand equally far apart."""
    chance = np.random.default_rng(camera.seed)
    many = round(camera.seconds * camera.rate)
    step = float(1 / camera.rate)
    gaps = step * (1 + camera.uneven * chance.uniform(-1, 1, many))
    return [float(t) for t in np.concatenate([[0.0], np.cumsum(gaps)[:-1]])]


def film(camera: Camera) -> "Iterator[Luma]":
    """Frames as the camera delivers them, as brightness (height, width)."""
    chance = np.random.default_rng(camera.seed + 1)
    flashes = [t for i, t in enumerate(flash_times(camera.clip, camera.seconds)) if i not in camera.hidden]
    frame_s, flash_s = float(1 / camera.rate), float(flash_frames(camera.clip) / camera.clip)
    left, top, right, bottom = camera.screen
    rows = slice(round(top * camera.height), round(bottom * camera.height))
    columns = slice(round(left * camera.width), round(right * camera.width))
    dark, bright = (DARK / 255) ** GAMMA, (DARK + (BRIGHT - DARK) * camera.glow) / 255
    for at in frame_times(camera):
        opens = at - camera.picture_ms / 1000
        lit = _lit(flashes, flash_s, opens, opens + camera.exposure * frame_s)
        light = dark + (bright**GAMMA - dark) * lit
        picture = np.full((camera.height, camera.width), float(DARK), np.float32)
        if camera.moving:
            spot = 0.5 + 0.45 * math.sin(at * 2.1)
            x = round(spot * camera.width)
            picture[:, max(0, x - camera.width // 12) : x + camera.width // 12] += 150 * camera.moving
            picture += 25 * camera.moving * (1 + math.sin(at * 0.7))
        picture[rows, columns] = np.maximum(picture[rows, columns], 255 * light ** (1 / GAMMA))
        if camera.noise:
            picture += chance.normal(0.0, camera.noise, picture.shape)
        yield np.clip(picture, 0, 255).astype(np.uint8)


def _lit(flashes: list[float], flash_s: float, begin: float, end: float) -> float:
    """The part of an exposure for which the screen is bright."""
    if end <= begin:
        return 1.0 if any(t <= begin < t + flash_s for t in flashes) else 0.0
    return sum(max(0.0, min(end, t + flash_s) - max(begin, t)) for t in flashes) / (end - begin)


def hear(camera: Camera) -> "NDArray[np.float32]":
    """The sound beside the camera, mono."""
    chance = np.random.default_rng(camera.seed + 2)
    speed = 1 + camera.sound_ppm * 1e-6
    middle = camera.seconds / 2
    sound = np.zeros(round(camera.seconds * SOUND_HZ), np.float32)
    for index, at in enumerate(flash_times(camera.clip, camera.seconds)):
        if index not in camera.silent:
            when = at + camera.sound_ms / 1000
            add_beep(sound, middle + (when - middle) / speed, SOUND_HZ)
    if camera.reverb_s:
        length = round(camera.reverb_s * SOUND_HZ)
        tail = chance.normal(size=length) * 10 ** (-3 * np.arange(length) / length) * 0.06
        tail[0] = 1.0
        from scipy.signal import fftconvolve

        sound = fftconvolve(sound, tail)[: len(sound)].astype(np.float32)
    t = np.arange(len(sound)) / SOUND_HZ
    if camera.music:
        tune = np.zeros(len(t))
        for f in (220, 277, 330, 880, 1320):
            tune += np.sin(2 * np.pi * f * t + f) * (0.5 + 0.5 * np.sin(2 * np.pi * t * (0.3 + f / 2000)))
        sound = sound + (camera.music * BEEP_PEAK * tune / 5).astype(np.float32)
    if camera.sound_noise:
        sound = sound + chance.normal(0.0, camera.sound_noise, len(sound)).astype(np.float32)
    return sound.astype(np.float32)


def record(
    camera: Camera, path: Path, progress: Progress | None = None, codec: str = "libx264", sound_codec: str = ""
) -> None:
    """Write the recording. Raises FileError, and Stopped."""
    times: list[Fraction] | None = None
    if camera.uneven:
        times = [Fraction(round(t * 90_000), 90_000) for t in frame_times(camera)]
    coding = Coding(camera.rate, codec, sound_codec or CONTAINERS[path.suffix])
    write_film(path, film(camera), hear(camera), coding, progress, round(camera.seconds * camera.rate), times)


def run(out: Path, words: Mapping[str, Any], progress: Progress) -> None:
    """What `kymaton sim camera` does. Raises FileError for what no camera does."""
    try:
        rate = read_rate(words["fps"])
        clip_rate = read_rate(words["clip_fps"]) if words["clip_fps"] else None
    except ShowError as error:
        raise FileError(str(error)) from error
    if any(not abs(words[name]) <= most for name, most in MOST.items()) or not 0 <= words["exposure"] <= 1:
        raise FileError("A simulated camera is late by less than 5 s, with an exposure between 0 and 1.")
    if words["noise"] < 0:
        raise FileError("The noise of a simulated camera is 0 to 100.")
    if not 5 <= rate <= 240 or not 2 <= words["seconds"] <= 3600 or out.suffix not in (".mp4", ".mov", ".mkv"):
        raise FileError(
            "A simulated recording is an .mp4, .mov or .mkv file of 2 s to an hour, 5 to 240 frames a second."
        )
    said = {name: value for name, value in words.items() if name not in ("fps", "clip_fps")}
    record(Camera(rate=rate, clip_rate=clip_rate, **said), out, progress)
