"""Put separately recorded or mastered sound into a film: picture copied bit for bit, offset and drift corrected.

An offset is told as by `align`: > 0 when the same sound comes later in the sound file than in the film. Placed sound is
measured again in the result.
"""

import shutil
from collections.abc import Iterator
from dataclasses import dataclass
from fractions import Fraction
from pathlib import Path
from typing import TYPE_CHECKING, Any, Literal

import av
import numpy as np

from kymaton.core.render import Stopped
from kymaton.media.align import align_files
from kymaton.media.clips import beside, container_format
from kymaton.media.reading import Progress, all_samples, opened
from kymaton.media.sounds import first_sample
from kymaton.store.showfile import FileError

if TYPE_CHECKING:
    from numpy.typing import NDArray

    Audio = NDArray[np.float32]
else:
    Audio = np.ndarray

Codec = Literal["keep", "aac", "flac", "pcm", "opus"]
ENCODERS = {"aac": "aac", "flac": "flac", "pcm": "pcm_s24le", "opus": "libopus"}
TAKES = {  # sound codecs that a container takes
    ".mp4": ("aac", "flac", "opus"),
    ".mov": ("aac", "pcm"),
    ".mkv": ("aac", "flac", "pcm", "opus"),
    ".webm": ("opus",),
}
USUAL = {".mp4": "aac", ".mov": "aac", ".mkv": "flac", ".webm": "opus"}
CHUNK = 1024


@dataclass(frozen=True)
class Track:
    """One sound to be put in, with how it is placed. `swap` exchanges left and right; `gain_db` is added."""

    path: Path
    offset_ms: float = 0.0
    drift_ppm: float = 0.0
    name: str = ""
    language: str = ""
    gain_db: float = 0.0
    swap: bool = False


@dataclass(frozen=True)
class Embedding:
    """What is to be made. The sound is cut or padded to the length of the picture."""

    picture: Path
    tracks: tuple[Track, ...]
    out: Path
    codec: Codec = "keep"
    keep_original: bool = False


@dataclass(frozen=True)
class Embedded:
    """What was made; `residual_ms` is what is left between the film's own sound and the new one (None: it has none)."""

    out: Path
    offset_ms: float
    drift_ppm: float
    residual_ms: float | None
    residual_drift_ppm: float | None


def found_offset(picture: Path, track: Track, progress: Progress | None = None) -> Track:
    """The track placed where its sound is the same as the film's own. Raises FileError when that is not sure."""
    found = align_files(picture, track.path, progress)
    if found.confidence == "low":
        remark = found.remarks[0] if found.remarks else "The offset is not sure."
        raise FileError(f"{track.path.name}: {remark[:1].lower()}{remark[1:]} Give the offset yourself.")
    return Track(track.path, found.offset_ms, found.drift_ppm, track.name, track.language, track.gain_db, track.swap)


def embed(job: Embedding, progress: Progress | None = None, check: bool = True) -> Embedded:
    """Make the file: whole or not at all. Raises FileError with one sentence; Stopped leaves nothing behind."""
    suffix = _checked(job)
    codec = _codec(job, suffix)
    temporary = beside(job.out)
    try:
        with opened(job.picture) as film, av.open(str(temporary), "w", format=container_format(job.out)) as out:
            _written(job, film, out, codec, progress)
        temporary.replace(job.out)
    except (av.FFmpegError, OSError, ValueError) as error:
        raise FileError(f"{job.out}: it cannot be written ({str(error).lower()}).") from error
    finally:
        temporary.unlink(missing_ok=True)
    residual = _residual(job) if check else None
    first = job.tracks[0]
    return Embedded(job.out, first.offset_ms, first.drift_ppm, *(residual or (None, None)))


def _checked(job: Embedding) -> str:
    """The suffix of the result, when nothing speaks against it."""
    suffix = job.out.suffix.lower()
    if suffix not in TAKES:
        raise FileError(f"{job.out.name}: a film is an {', '.join(TAKES)} file.")
    if not job.tracks:
        raise FileError(f"{job.picture.name}: no sound was given for it.")
    sources = [job.picture, *(t.path for t in job.tracks)]
    for source in sources:
        if not source.is_file():
            raise FileError(f"{source}: there is no such file.")
        if job.out.exists() and job.out.samefile(source):
            raise FileError(f"{job.out.name}: this would overwrite {source.name}, which it is made of.")
    if not job.out.parent.is_dir():
        raise FileError(f"{job.out}: the folder does not exist.")
    needed = sum(s.stat().st_size for s in dict.fromkeys(sources)) + 10_000_000
    free = shutil.disk_usage(job.out.parent).free
    if free < needed:
        raise FileError(
            f"{job.out}: there is no room: {needed // 1_000_000} MB are needed, {free // 1_000_000} MB are free."
        )
    for track in job.tracks:
        if not abs(track.offset_ms) < 1e9 or not abs(track.drift_ppm) <= 5000:
            raise FileError(f"{track.path.name}: an offset of {track.offset_ms} ms makes no sense.")
    return suffix


def _codec(job: Embedding, suffix: str) -> str:
    if job.codec == "keep":
        kept = {"aac": "aac", "flac": "flac", "opus": "opus", "libopus": "opus"}
        with opened(job.tracks[0].path) as file:
            name = file.streams.audio[0].codec_context.name if file.streams.audio else ""
        wanted = "pcm" if name.startswith("pcm") else kept.get(name, "")
        return wanted if wanted in TAKES[suffix] else USUAL[suffix]
    if job.codec not in TAKES[suffix]:
        raise FileError(f"{job.out.name}: a {suffix} file takes {', '.join(TAKES[suffix])}, not {job.codec}.")
    return job.codec


def _written(job: Embedding, film: Any, out: Any, codec: str, progress: Progress | None) -> None:
    videos = list(film.streams.video)
    if not videos:
        raise FileError(f"{job.picture.name}: there is no picture in it.")
    copied = {s.index: out.add_stream_from_template(s) for s in videos}
    for stream in videos:
        copied[stream.index].metadata.update(stream.metadata)
    sounds = [_Sound(track, out, codec) for track in job.tracks]
    others = [*(film.streams.audio if job.keep_original else ()), *film.streams.subtitles]
    for stream in others:
        try:
            copied[stream.index] = out.add_stream_from_template(stream)
        except (ValueError, av.FFmpegError):  # a kind that this container does not take
            continue
        copied[stream.index].metadata.update(stream.metadata)
    out.metadata.update(film.metadata)
    out.set_chapters(film.chapters())
    length_s = _length_s(film)
    for packet in film.demux([s for s in film.streams if s.index in copied]):
        if packet.dts is None:
            continue
        now_s = float(packet.dts * packet.time_base)
        packet.stream = copied[packet.stream.index]
        out.mux(packet)
        for sound in sounds:
            sound.until(min(now_s, length_s))
        if progress is not None and not progress(min(0.9, 0.9 * now_s / max(length_s, 0.1))):
            raise Stopped
    for sound in sounds:
        sound.close(length_s)


def _length_s(film: Any) -> float:
    """When the picture ends, in the time of the film."""
    ends = []
    for stream in film.streams.video:
        if stream.duration is not None:
            ends.append(float((stream.start_time or 0) + stream.duration) * float(stream.time_base))
    if film.duration:
        ends.append(float(film.duration + max(0, film.start_time or 0)) / av.time_base)
    return ends[0] if ends else 0.0


class _Sound:
    """A sound on its way into the film: decoded, placed, corrected, encoded, as far as it is wanted."""

    def __init__(self, track: Track, out: Any, codec: str) -> None:
        self.track, self.out = track, out
        self.samples = _Samples(track)
        self.rate_hz = self.samples.rate_hz
        if codec == "opus":
            self.rate_hz = 48_000
        self.stream = out.add_stream(ENCODERS[codec], rate=self.rate_hz)
        self.stream.layout = {1: "mono", 2: "stereo", 6: "5.1", 8: "7.1"}.get(self.samples.channels, "stereo")
        if codec in ("aac", "opus"):
            self.stream.bit_rate = 96_000 * self.samples.channels
        if track.name:
            self.stream.metadata["title"] = track.name
        if track.language:
            self.stream.metadata["language"] = track.language
        self.placed = self.samples.placed(self.rate_hz)
        self.rest = np.zeros((self.samples.channels, 0), np.float32)
        self.sent = 0

    def until(self, time_s: float) -> None:
        """Encode whole chunks up to this time of the film; silence where the sound is over."""
        while self.sent + CHUNK <= time_s * self.rate_hz:
            self._send(self._take(CHUNK))

    def _take(self, many: int) -> Audio:
        while self.rest.shape[1] < many:
            block = next(self.placed, None)
            if block is None:
                block = np.zeros((self.samples.channels, many), np.float32)
            self.rest = np.concatenate([self.rest, block], axis=1)
        piece, self.rest = self.rest[:, :many], self.rest[:, many:]
        return piece

    def _send(self, piece: Audio) -> None:
        frame = av.AudioFrame.from_ndarray(np.ascontiguousarray(piece), format="fltp", layout=self.stream.layout.name)
        frame.sample_rate, frame.pts, frame.time_base = self.rate_hz, self.sent, Fraction(1, self.rate_hz)
        self.out.mux(self.stream.encode(frame))
        self.sent += piece.shape[1]

    def close(self, time_s: float) -> None:
        """The rest, up to the end of the film."""
        self.until(time_s)
        rest = round(time_s * self.rate_hz) - self.sent
        if rest > 0:
            self._send(self._take(rest))
        self.out.mux(self.stream.encode(None))


class _Samples:
    """All channels of a sound, placed by its offset and with its drift taken out."""

    def __init__(self, track: Track) -> None:
        self.track = track
        with opened(track.path) as file:
            if not file.streams.audio:
                raise FileError(f"{track.path.name}: there is no sound in it.")
            stream = file.streams.audio[0]
            self.rate_hz = int(stream.rate)
            self.channels = int(stream.channels)
        if self.channels not in (1, 2, 6, 8):
            self.channels = 2 if self.channels > 2 else 1

    def placed(self, rate_hz: int) -> Iterator[Audio]:
        """Blocks (channels, samples) at this rate, the first of them at the beginning of the film."""
        import soxr

        factor = 10 ** (self.track.gain_db / 20)
        speed = 1 + self.track.drift_ppm * 1e-6
        resampler = None
        if rate_hz != self.rate_hz or self.track.drift_ppm:
            resampler = soxr.ResampleStream(
                self.rate_hz * speed, rate_hz, self.channels, dtype="float32", quality="VHQ"
            )
        for block, last in _with_last(self._from_offset()):
            block = block[::-1] if self.track.swap and self.channels == 2 else block
            if resampler is not None:
                block = resampler.resample_chunk(np.ascontiguousarray(block.T), last=last).T
            if block.shape[1]:
                yield np.asarray(factor * block, np.float32)

    def _from_offset(self) -> Iterator[Audio]:
        """The decoded sound with what comes before the film cut off, or silence put before it."""
        skip = round(self.track.offset_ms / 1000 * self.rate_hz)
        if skip < 0:
            silence = -skip
            while silence > 0:
                yield np.zeros((self.channels, min(silence, 1 << 16)), np.float32)
                silence -= 1 << 16
            skip = 0
        with opened(self.track.path) as file:
            stream = file.streams.audio[0]
            stream.thread_type = "AUTO"
            at = 0
            for frame in file.decode(stream):
                block = all_samples(frame)[: self.channels]
                begin = first_sample(frame, self.rate_hz)
                if begin - at > 0.02 * self.rate_hz:  # a hole, or a track that begins later than its file
                    block = np.concatenate([np.zeros((self.channels, begin - at), np.float32), block], axis=1)
                at += block.shape[1]
                cut = min(skip, block.shape[1])
                skip -= cut
                if cut < block.shape[1]:
                    yield block[:, cut:]


def _with_last(blocks: Iterator[Audio]) -> Iterator[tuple[Audio, bool]]:
    """Each block, and whether it is the last."""
    before = next(blocks, None)
    if before is None:
        return
    for block in blocks:
        yield before, False
        before = block
    yield before, True


def _residual(job: Embedding) -> tuple[float, float] | None:
    """What is left between the film's own sound and the new one, measured in the result."""
    with opened(job.picture) as film:
        if not film.streams.audio:
            return None
    found = align_files(job.picture, job.out)
    return (found.offset_ms, found.drift_ppm) if found.confidence != "low" else None
