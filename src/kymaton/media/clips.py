"""Sync clips: flash and beep at irregular intervals, with a countdown, a frame counter and a code for each event."""

import errno
import glob
import math
import os
import uuid
from collections.abc import Iterator
from fractions import Fraction
from itertools import chain
from pathlib import Path
from typing import TYPE_CHECKING

import av
import numpy as np
from av.audio import AudioStream
from av.container import OutputContainer
from av.video import VideoStream
from msgspec import Struct

from kymaton.core.errors import FileError, Progress, Stopped
from kymaton.core.measuring.clip_pattern import event_frames, flash_frames, pattern_sound
from kymaton.media.reading import opened, why
from kymaton.store.atomic import sweep

if TYPE_CHECKING:
    from numpy.typing import NDArray

DARK, BRIGHT, TEXT = 16, 235, 120
CODE_BITS = 8
CONTAINERS = {".mp4": "aac", ".mov": "pcm_s16le", ".mkv": "flac"}
SOUND_HZ = 48_000
MADE = "Sync clip of Kymaton"  # in the metadata of a clip: what films it does not copy that
TIMES_BASE = Fraction(1, 90_000)  # of frames that do not stand evenly
LONGEST_NAME = 255  # bytes, in most file systems
CHUNK = 1024  # samples of sound at a time
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
    coding = Coding(clip.rate, codec, CONTAINERS[path.suffix.lower()], comment=MADE)
    write_film(path, clip_frames(clip), sound, coding, progress, round(clip.seconds * clip.rate))


def is_made(path: Path) -> bool:
    """Whether a file says of itself that it is a clip of Kymaton, not a film of one. Raises FileError."""
    with opened(path) as file:
        return any(name.lower() == "comment" and value == MADE for name, value in file.metadata.items())


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


class Coding(Struct, frozen=True):
    """How a film is written: frames a second, and the codecs by the names that FFmpeg gives them."""

    rate: Fraction
    codec: str = "libx264"
    sound_codec: str = "flac"
    rate_hz: int = SOUND_HZ
    comment: str = ""


def write_film(
    path: Path,
    frames: "Iterator[NDArray[np.uint8]]",
    sound: "NDArray[np.floating]",
    coding: Coding,
    progress: Progress | None = None,
    many: int = 0,
    times: list[Fraction] | None = None,
) -> None:
    """Write brightness frames (height, width) and mono or (channels, samples) sound; whole or not at all.

    Frames stand evenly, or at `times` (s); `many` is their number, for the progress. Raises FileError, and Stopped when
    progress returns False.
    """
    temporary = beside(path)
    try:
        with av.open(str(temporary), "w", format=container_format(path)) as out:
            if coding.comment:
                out.metadata["comment"] = coding.comment
            first = next(frames)
            video, audio = _video(out, first, coding), out.add_stream(coding.sound_codec, rate=coding.rate_hz)
            assert isinstance(audio, AudioStream)
            if times is not None:
                video.codec_context.time_base = TIMES_BASE
            channels = np.atleast_2d(np.asarray(sound, np.float32))
            audio.layout = "mono" if len(channels) == 1 else "stereo"
            beside_it = _Sound(out, audio, channels, coding.rate_hz)
            for number, current in enumerate(chain([first], frames)):
                frame = av.VideoFrame.from_ndarray(current, format="gray").reformat(format=video.pix_fmt)
                if times is not None:
                    frame.pts, frame.time_base = round(times[number] / TIMES_BASE), TIMES_BASE
                else:
                    frame.pts, frame.time_base = number, 1 / coding.rate
                out.mux(video.encode(frame))
                beside_it.until(float(times[number] if times is not None else (number + 1) / coding.rate))
                if progress is not None and many and not (number + 1) % 16 and not progress((number + 1) / many):
                    raise Stopped
            beside_it.until(math.inf)
            out.mux(video.encode(None))
            out.mux(audio.encode(None))
        temporary.replace(path)
    except (av.FFmpegError, OSError) as error:
        raise FileError(f"{path}: it cannot be written ({why(error)}).") from error
    finally:
        temporary.unlink(missing_ok=True)


def _video(out: OutputContainer, first: "NDArray[np.uint8]", coding: Coding) -> VideoStream:
    video = out.add_stream(coding.codec, rate=coding.rate)
    assert isinstance(video, VideoStream)
    video.width, video.height = first.shape[1], first.shape[0]
    video.pix_fmt = "yuv420p" if coding.codec not in ("mjpeg",) else "yuvj420p"
    if coding.codec == "libx264":
        video.options = {"crf": "18", "preset": "ultrafast", "g": str(max(1, round(coding.rate)))}
    return video


class _Sound:
    """The sound (channels, samples) of a film, encoded as far as its picture is."""

    def __init__(
        self, out: OutputContainer, stream: AudioStream, channels: "NDArray[np.float32]", rate_hz: int
    ) -> None:
        self.out, self.stream, self.channels, self.rate_hz = out, stream, channels, rate_hz
        self.sent = 0

    def until(self, time_s: float) -> None:
        while self.sent < self.channels.shape[1] and self.sent / self.rate_hz < time_s:
            piece = np.ascontiguousarray(self.channels[:, self.sent : self.sent + CHUNK])
            frame = av.AudioFrame.from_ndarray(piece, format="fltp", layout=self.stream.layout.name)
            frame.sample_rate, frame.pts, frame.time_base = self.rate_hz, self.sent, Fraction(1, self.rate_hz)
            self.out.mux(self.stream.encode(frame))
            self.sent += int(piece.shape[1])


def beside(path: Path) -> Path:
    """A free name beside another file, to be renamed to it when what has it is whole. Raises FileError.

    Nothing is there yet: a signal that ends Kymaton now leaves nothing.
    """
    folder, name = path.parent, f".{path.stem}.{os.getpid()}.{uuid.uuid4().hex[:8]}{path.suffix}"
    sweep(folder, f".{glob.escape(path.stem)}.*{path.suffix}")
    trouble = 0
    if not folder.is_dir():
        trouble = errno.ENOTDIR if folder.exists() else errno.ENOENT
    elif not os.access(folder, os.W_OK | os.X_OK):
        trouble = errno.EACCES
    elif len(os.fsencode(name)) > LONGEST_NAME:
        trouble = errno.ENAMETOOLONG
    if trouble:
        raise FileError(f"{path}: it cannot be written ({os.strerror(trouble).lower()}).")
    return folder / name


def container_format(path: Path) -> str:
    """The name of the container for a file name."""
    return {".mp4": "mp4", ".mov": "mov", ".mkv": "matroska"}.get(path.suffix.lower(), path.suffix.lower().lstrip("."))
