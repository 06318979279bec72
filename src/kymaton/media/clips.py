"""Sync clips: flash and beep at irregular intervals, with a countdown, a frame counter and a code for each event."""

import os
import tempfile
from collections.abc import Iterator
from fractions import Fraction
from pathlib import Path
from typing import TYPE_CHECKING, Any

import av
import numpy as np
from msgspec import Struct

from kymaton.core.errors import FileError, Progress, Stopped
from kymaton.core.measuring.clip_pattern import event_frames, flash_frames, pattern_sound
from kymaton.media.reading import why

if TYPE_CHECKING:
    from numpy.typing import NDArray

DARK, BRIGHT, TEXT = 16, 235, 120
CODE_BITS = 8
CONTAINERS = {".mp4": "aac", ".mov": "pcm_s16le", ".mkv": "flac"}
SOUND_HZ = 48_000
GLYPHS = {  # five rows of three dots
    "0": (7, 5, 5, 5, 7), "1": (2, 6, 2, 2, 7), "2": (7, 1, 7, 4, 7), "3": (7, 1, 7, 1, 7), "4": (5, 5, 7, 1, 1),
    "5": (7, 4, 7, 1, 7), "6": (7, 4, 7, 5, 7), "7": (7, 1, 1, 1, 1), "8": (7, 5, 7, 5, 7), "9": (7, 5, 7, 1, 7),
}  # fmt: skip


class Clip(Struct, frozen=True):
    """What a clip is like. `lead_ms` > 0 puts the beeps before their flashes."""

    rate: Fraction = Fraction(30)
    seconds: float = 20.0
    width: int = 1280
    height: int = 720
    lead_ms: float = 0.0


def write_clip(clip: Clip, path: Path, progress: Progress | None = None, codec: str = "libx264") -> None:
    """Write a clip as MP4, MOV or MKV. Raises FileError; Stopped leaves nothing behind."""
    if path.suffix.lower() not in CONTAINERS:
        raise FileError(f"{path.name}: a clip is an .mp4, .mov or .mkv file.")
    if not 5 <= clip.rate <= 240 or not 4 <= clip.seconds <= 3600:
        raise FileError("A clip has 5 to 240 frames a second and lasts 4 s to an hour.")
    sound = pattern_sound(clip.rate, clip.seconds, SOUND_HZ, clip.lead_ms)
    write_film(path, clip_frames(clip), clip.rate, sound, SOUND_HZ, codec, CONTAINERS[path.suffix.lower()], progress,
               round(clip.seconds * clip.rate))  # fmt: skip


def clip_frames(clip: Clip) -> "Iterator[NDArray[np.uint8]]":
    """The frames of a clip as brightness (height, width)."""
    events = event_frames(clip.rate, clip.seconds)
    lasts = flash_frames(clip.rate)
    lit = {n + k for n in events for k in range(lasts)}
    size = max(2, clip.height // 60)
    for number in range(round(clip.seconds * clip.rate)):
        frame = np.full((clip.height, clip.width), BRIGHT if number in lit else DARK, np.uint8)
        ink = 90 if number in lit else TEXT
        coming = next((i for i, n in enumerate(events) if n + lasts > number), len(events))
        if coming < len(events):
            left = max(0.0, float((events[coming] - number) / clip.rate))
            write_digits(frame, f"{left:.1f}".replace(".", ""), clip.width // 12, clip.height // 10, size, ink)
            _code(frame, coming, clip.width // 12, clip.height // 10 + 8 * size, size, ink)
        write_digits(frame, f"{number:05d}", clip.width // 12, clip.height - clip.height // 10 - 5 * size, size, ink)
        yield frame


def write_digits(frame: "NDArray[np.uint8]", text: str, x: int, y: int, size: int, ink: int) -> None:
    """Digits of dots, three wide and five high."""
    for place, digit in enumerate(text):
        for row, dots in enumerate(GLYPHS[digit]):
            for column in range(3):
                if dots & (4 >> column):
                    left, top = x + (place * 4 + column) * size, y + row * size
                    frame[top : top + size, left : left + size] = ink


def _code(frame: "NDArray[np.uint8]", number: int, x: int, y: int, size: int, ink: int) -> None:
    """The number of the coming event as a row of blocks, the highest bit first."""
    for bit in range(CODE_BITS):
        if number & (1 << (CODE_BITS - 1 - bit)):
            left = x + bit * 3 * size
            frame[y : y + 2 * size, left : left + 2 * size] = ink


def write_film(
    path: Path, frames: "Iterator[NDArray[np.uint8]]", rate: Fraction, sound: Any, rate_hz: int, codec: str,
    sound_codec: str, progress: Progress | None = None, many: int = 0, times: list[Fraction] | None = None,
) -> None:  # fmt: skip
    """Write brightness frames (height, width) and mono or (channels, samples) sound; whole or not at all.

    Frames stand `rate` apart, or at `times` (s). Raises FileError, and Stopped when progress returns False.
    """
    temporary = beside(path)
    try:
        with av.open(str(temporary), "w", format=container_format(path)) as out:
            first = next(frames)
            video: Any = out.add_stream(codec, rate=rate)
            video.width, video.height = first.shape[1], first.shape[0]
            video.pix_fmt = "yuv420p" if codec not in ("mjpeg",) else "yuvj420p"
            if times is not None:
                video.codec_context.time_base = Fraction(1, 90_000)
            if codec == "libx264":
                video.options = {"crf": "18", "preset": "ultrafast", "g": str(max(1, round(rate)))}
            audio: Any = out.add_stream(sound_codec, rate=rate_hz)
            channels = np.atleast_2d(np.asarray(sound, np.float32))
            audio.layout = "mono" if len(channels) == 1 else "stereo"
            _encode(out, video, audio, first, frames, rate, channels, rate_hz, progress, many, times)
        temporary.replace(path)
    except (av.FFmpegError, OSError) as error:
        raise FileError(f"{path}: it cannot be written ({why(error)}).") from error
    finally:
        temporary.unlink(missing_ok=True)


def beside(path: Path) -> Path:
    """A free name beside another file, to be renamed to it when what has it is whole. Raises FileError.

    The empty file that proves the folder can be written is taken away again: file systems flush one that is
    overwritten when it is closed, and only its owner could read it.
    """
    try:
        handle, name = tempfile.mkstemp(dir=path.parent, prefix=f".{path.stem}-", suffix=path.suffix)
        os.close(handle)
        Path(name).unlink()
    except OSError as error:
        raise FileError(f"{path}: it cannot be written ({(error.strerror or str(error)).lower()}).") from error
    return Path(name)


def container_format(path: Path) -> str:
    """The name of the container for a file name."""
    return {".mp4": "mp4", ".mov": "mov", ".mkv": "matroska"}.get(path.suffix.lower(), path.suffix.lower().lstrip("."))


def _encode(
    out: Any, video: Any, audio: Any, first: Any, frames: Any, rate: Fraction, channels: Any, rate_hz: int,
    progress: Progress | None, many: int, times: list[Fraction] | None,
) -> None:  # fmt: skip
    number, sent, chunk = 0, 0, 1024
    current = first
    while current is not None:
        frame = av.VideoFrame.from_ndarray(current, format="gray").reformat(format=video.pix_fmt)
        if times is not None:
            frame.pts, frame.time_base = round(times[number] * 90_000), Fraction(1, 90_000)
        else:
            frame.pts, frame.time_base = number, 1 / rate
        out.mux(video.encode(frame))
        number += 1
        until = float(times[number - 1]) if times is not None else float(number / rate)
        while sent < channels.shape[1] and sent / rate_hz < until:
            sent = _send(out, audio, channels, sent, chunk, rate_hz)
        if progress is not None and many and not number % 16 and not progress(number / many):
            raise Stopped
        current = next(frames, None)
    while sent < channels.shape[1]:
        sent = _send(out, audio, channels, sent, chunk, rate_hz)
    out.mux(video.encode(None))
    out.mux(audio.encode(None))


def _send(out: Any, audio: Any, channels: Any, sent: int, chunk: int, rate_hz: int) -> int:
    piece = np.ascontiguousarray(channels[:, sent : sent + chunk])
    frame = av.AudioFrame.from_ndarray(piece, format="fltp", layout=audio.layout.name)
    frame.sample_rate, frame.pts, frame.time_base = rate_hz, sent, Fraction(1, rate_hz)
    out.mux(audio.encode(frame))
    return sent + int(piece.shape[1])
