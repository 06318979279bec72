"""Reading films: a coarse grid of brightness for each frame, and what is common to all reading of sound.

Times are presentation times: edit lists, start times and codec delay are respected by the demuxer and the decoders;
they are kept as fractions until the end.
"""

import os
from collections.abc import Iterator, Sequence
from fractions import Fraction
from pathlib import Path
from typing import TYPE_CHECKING, TypeVar, overload

import av
import numpy as np
from av.audio import AudioFrame, AudioStream
from av.codec.context import ThreadType
from av.container import InputContainer
from av.packet import Packet
from av.stream import Discard, Disposition, Stream
from av.video import VideoFrame, VideoStream
from av.video.plane import VideoPlane
from msgspec import Struct

from kymaton.core.errors import FileError, Progress, Stopped

if TYPE_CHECKING:
    from numpy.typing import NDArray

    StreamPacket = Packet[Stream]
else:
    StreamPacket = Packet  # PyAV tells what a packet holds to those who read types only

ROWS, COLUMNS, LINES = 12, 16, 6  # cells, and the lines of the picture that are read for each row of them
FINE, FINE_LINES = 640, 3  # dots in a line, from which on not all of them are read, and fewer lines
FULL_RANGE = 2
ONLY_FILES = {  # nothing is read but the file itself: no list of files, no address
    "protocol_whitelist": "file",
    "format_whitelist": "mov,matroska,avi,mpegts,mpeg,mpegvideo,flv,asf,mxf,gxf,dv,h264,hevc,wav,w64,aiff,au,caf,flac,"
    "ogg,mp3,aac,ac3,eac3,amr,ape,wv",
}
PLANES = 8  # of sound, that FFmpeg keeps in a frame itself (AV_NUM_DATA_POINTERS)
MOST_FRAMES = 1_000_000  # that are looked at at once: nine hours
AHEAD = 3  # frames that the decoder may be ahead while one is looked at, besides one for each core


class Picture(Struct, frozen=True):
    """What was seen: frame times (s) in order, and brightness cells (frames, ROWS × COLUMNS)."""

    times_s: "NDArray[np.float64]"
    cells: "NDArray[np.float32]"


def opened(path: Path) -> InputContainer:
    """The file, to be read with `with`. Raises FileError with one sentence."""
    if not path.is_file():
        raise FileError(f"{path}: there is no such file.")
    try:
        return av.open(f"file:{path.resolve()}", metadata_errors="replace", container_options=ONLY_FILES)
    except (av.FFmpegError, OSError, ValueError) as error:
        raise FileError(f"{path.name}: it cannot be read as picture or sound ({why(error)}).") from error


def why(error: Exception) -> str:
    """What went wrong, in a few words for the end of a sentence."""
    text = getattr(error, "strerror", None) or str(error)
    return str(text).lower().rstrip(".")


def read_picture(path: Path, progress: Progress) -> Picture:
    """The picture of a file. Raises FileError, and Stopped when progress returns False.

    Frames that cannot be decoded are left out.
    """
    with opened(path) as container:
        video = picture_of(container, path)
        video.codec_context.thread_count = (os.cpu_count() or 1) + AHEAD
        length = float(container.duration or 0) / av.time_base
        times: list[float] = []
        cells: list[NDArray[np.float32]] = []
        try:
            for frame in frames(video):
                if frame.pts is None:
                    continue
                times.append(_seconds(frame, frame.pts))
                cells.append(brightness(frame))
                if len(times) > MOST_FRAMES:
                    raise FileError(f"{path.name}: it is too long to be measured at once; cut out a few minutes of it.")
                if not len(times) % 32 and not progress(min(1.0, times[-1] / length) if length else 0.0):
                    raise Stopped
        except (av.FFmpegError, OSError) as error:
            if not times:
                raise FileError(f"{path.name}: it cannot be decoded ({why(error)}).") from error
    order = np.argsort(np.array(times), kind="stable")
    grid = np.array(cells, np.float32).reshape(len(cells), ROWS * COLUMNS)
    return Picture(np.array(times)[order], grid[order])


def time_base(of: Stream | StreamPacket | AudioFrame | VideoFrame) -> Fraction:
    """The length of a tick (s); that of FFmpeg where nothing tells it."""
    return of.time_base or Fraction(1, av.time_base)


@overload
def frames(stream: VideoStream) -> Iterator[VideoFrame]: ...
@overload
def frames(stream: AudioStream) -> Iterator[AudioFrame]: ...
def frames(stream: VideoStream | AudioStream) -> Iterator[VideoFrame | AudioFrame]:
    """Frames of a stream that is decoded alone; a damaged packet has none. Raises FFmpegError where none has any."""
    container = stream.container
    assert isinstance(container, InputContainer)
    stream.codec_context.thread_type = ThreadType.AUTO
    for other in container.streams:
        if other.index != stream.index:
            other.discard = Discard.all  # the container need not read it
    found, trouble = False, None
    for packet in container.demux(stream):
        try:
            decoded: list[VideoFrame] | list[AudioFrame] = stream.decode(packet)
        except av.FFmpegError as error:
            trouble = error
            continue
        found = found or bool(decoded)
        yield from decoded
    if trouble is not None and not found:
        raise trouble


def picture_of(container: InputContainer, path: Path) -> VideoStream:
    """The first picture that is part of the programme and can be decoded. Raises FileError where there is none."""
    every = [s for s in container.streams.video if not _is_cover(s)]
    return _first_known(every, every, "picture", path)


def sound_of(container: InputContainer, path: Path) -> AudioStream:
    """The first sound that can be decoded. Raises FileError where there is none."""
    every = container.streams.audio
    return _first_known(every, [s for s in every if not is_known(s) or (s.rate and s.channels)], "sound", path)


S = TypeVar("S", VideoStream, AudioStream)


def _first_known(every: Sequence[S], worth: Sequence[S], what: str, path: Path) -> S:
    known = next((s for s in worth if is_known(s)), None)
    if known is None:
        strange = any(not is_known(s) for s in every)
        why_not = f"its {what} is of a kind that is not known here" if strange else f"there is no {what} in it"
        raise FileError(f"{path.name}: {why_not}.")
    return known


def is_known(stream: Stream) -> bool:
    """Whether there is a codec for a stream."""
    return getattr(stream, "codec_context", None) is not None


def _is_cover(stream: VideoStream) -> bool:
    """A still picture that is no part of the programme."""
    return bool(getattr(stream, "disposition", 0) and Disposition.attached_pic in stream.disposition)


def _seconds(frame: VideoFrame, pts: int) -> float:
    """Presentation time, rounded once."""
    base = time_base(frame)
    return float(pts * base.numerator / base.denominator)


def brightness(frame: VideoFrame) -> "NDArray[np.float32]":
    """Mean brightness (0–255) in a grid of ROWS × COLUMNS, from a few lines of the luma plane for each row."""
    name = frame.format.name
    if not (name.startswith(("yuv", "gray", "nv")) and frame.format.components[0].bits in (8, 10, 12, 16)):
        frame = frame.reformat(format="gray")
    plane, bits = frame.planes[0], frame.format.components[0].bits
    dots = _dots(plane, bits)
    many, wide = dots.shape[0] // ROWS, dots.shape[1] // COLUMNS
    cells = dots[: many * ROWS, : wide * COLUMNS].reshape(ROWS, many, wide * COLUMNS)
    bands = np.add.reduce(cells, axis=1, dtype=np.uint32)
    sums = np.add.reduce(bands.reshape(ROWS, COLUMNS, wide), axis=2, dtype=np.uint32)
    coded = sums / np.float64(many * wide * (1 << (bits - 8)))
    if frame.color_range != FULL_RANGE:  # black is 16 and white 235 (ITU-R BT.709)
        coded = (coded - 16.0) * (255.0 / 219.0)
    return np.asarray(coded, np.float32).ravel()


def _dots(plane: VideoPlane, bits: int) -> "NDArray[np.uint8 | np.uint16 | np.uint32]":
    """Some dots of some lines of a plane."""
    fine = plane.width >= FINE
    step = max(1, plane.height // ((FINE_LINES if fine else LINES) * ROWS))
    if fine and bits == 8 and plane.line_size % 4 == 0:  # every fourth dot, taken as the low byte of four
        fours = np.frombuffer(memoryview(plane), np.dtype("<u4")).reshape(plane.height, -1)
        return np.asarray(fours[::step, : plane.width // 4] & 0xFF, np.uint32)
    kind: np.dtype[np.uint8 | np.uint16] = np.dtype(np.uint16 if bits > 8 else np.uint8)
    lines = np.frombuffer(memoryview(plane), kind).reshape(plane.height, plane.line_size // kind.itemsize)
    return lines[::step, : plane.width]


def all_samples(frame: AudioFrame) -> "NDArray[np.float32]":
    """Samples of a frame of sound as (channels, samples) of float32. Raises FFmpegError for a frame that is damaged."""
    if frame.format.is_planar and frame.layout.nb_channels > PLANES:
        frame = _packed(frame)
    if frame.format.name == "fltp":  # what most decoders give: without a detour
        many = frame.samples
        return np.array([np.frombuffer(memoryview(plane), np.float32, many) for plane in frame.planes])
    samples: np.ndarray = frame.to_ndarray()
    if samples.dtype.kind == "i":
        samples = samples.astype(np.float32) / -float(np.iinfo(samples.dtype).min)
    elif samples.dtype.kind == "u":
        samples = (samples.astype(np.float32) - 128.0) / 128.0
    if not frame.format.is_planar:
        samples = samples.reshape(-1, frame.layout.nb_channels).T
    return np.asarray(samples, np.float32)


def _packed(frame: AudioFrame) -> AudioFrame:
    """The frame with its channels side by side: of planes PyAV sees no more than FFmpeg keeps in the frame itself."""
    packed: AudioFrame = av.AudioResampler(format="flt", layout=frame.layout, rate=frame.sample_rate).resample(frame)[0]
    return packed


def mono_samples(frame: AudioFrame) -> "NDArray[np.float32]":
    """All channels of a frame of sound as one, (samples,) of float32."""
    samples = all_samples(frame)
    if len(samples) == 1:
        only: NDArray[np.float32] = samples[0]
        return only
    return np.asarray(np.add.reduce(samples, axis=0) * np.float32(1 / len(samples)))
