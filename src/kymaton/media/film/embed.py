"""Put separately recorded or mastered sound into a film: picture copied bit for bit, offset and drift corrected.

An offset is told as by `align`: > 0 when the same sound comes later in the sound file than in the film. Placed sound is
measured again in the result.
"""

import math
import shutil
from contextlib import ExitStack
from pathlib import Path

import av
from av.container import InputContainer, OutputContainer
from av.stream import Stream
from msgspec import Struct

from kymaton.core.errors import FileError, Progress, Stopped
from kymaton.media.align import align_files
from kymaton.media.clips import beside
from kymaton.media.film.packets import film_out, is_taken, timed_packets
from kymaton.media.film.placing import PlacedSound, Track
from kymaton.media.film.tracks import COPIED, TAKES, USUAL, Codec, OwnSound, TrackWriter, copied, encoded, family
from kymaton.media.reading import is_known, opened, time_base, why

EVERY = 32  # packets between looks at the clock


class Embedding(Struct, frozen=True):
    """What is to be made. The sound is cut or padded to the length of the picture.

    With `shorter` the film ends with the shortest sound; `most_s` makes only its beginning. With `keep` a sound whose
    samples are not touched is copied bit for bit, where the container takes it.
    """

    picture: Path
    tracks: tuple[Track, ...]
    out: Path
    codec: Codec = "keep"
    keep_original: bool = False
    shorter: bool = False
    most_s: float | None = None


class Embedded(Struct, frozen=True):
    """What was made; `residual_ms` is what is left between the film's own sound and the new one (None: not known).

    `copied` says that the first sound was copied bit for bit; `left_out` are codecs of the film's own sounds and
    subtitles that the container does not take.
    """

    out: Path
    offset_ms: float
    drift_ppm: float
    residual_ms: float | None
    residual_drift_ppm: float | None
    copied: bool
    left_out: tuple[str, ...] = ()


def found_offset(picture: Path, track: Track, progress: Progress | None = None) -> Track:
    """The track placed where its sound is the same as the film's own. Raises FileError when that is not sure."""
    found = align_files(picture, track.path, progress)
    if found.confidence == "low":
        remark = found.remarks[0] if found.remarks else "The offset is not sure."
        raise FileError(f"{track.path.name}: {remark[:1].lower()}{remark[1:]} Give the offset yourself.")
    return track.at(found.offset_ms, found.drift_ppm)


def embed(job: Embedding, progress: Progress | None = None, check: bool = True) -> Embedded:
    """Make the file: whole or not at all. Raises FileError with one sentence; Stopped leaves nothing behind."""
    suffix = checked(job)
    placed = [PlacedSound(track) for track in job.tracks]
    codecs = [_codec(job, sound, suffix) for sound in placed]
    temporary = beside(job.out)
    try:
        with opened(job.picture) as film, film_out(temporary, job.out) as out, ExitStack() as ways:
            end_s, sounds = _end_s(job, film, placed), list[TrackWriter]()
            for sound, codec in zip(placed, codecs, strict=True):
                sounds.append(_sound(job, film, sound, out, codec, end_s))
                ways.callback(sounds[-1].close)  # no thread encodes into a film that is closed
            left_out = _written(job, film, out, sounds, end_s, progress)
        temporary.replace(job.out)
    except (av.FFmpegError, OSError, ValueError) as error:
        raise FileError(f"{job.out}: it cannot be written ({why(error)}).") from error
    finally:
        temporary.unlink(missing_ok=True)
    residual = _residual(job) if check else None
    left_ms, left_ppm = residual or (None, None)
    first = job.tracks[0]
    return Embedded(
        out=job.out,
        offset_ms=first.offset_ms,
        drift_ppm=first.drift_ppm,
        residual_ms=left_ms,
        residual_drift_ppm=left_ppm,
        copied=sounds[0].copied,
        left_out=tuple(left_out),
    )


def checked(job: Embedding) -> str:
    """The suffix of the result, when nothing speaks against it. Raises FileError."""
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


def _codec(job: Embedding, sound: PlacedSound, suffix: str) -> str:
    """The codec of a sound in the result."""
    if job.codec == "keep":
        wanted = family(sound.codec)
        return wanted if wanted in TAKES[suffix] else USUAL[suffix]
    if job.codec not in TAKES[suffix]:
        raise FileError(f"{job.out.name}: a {suffix} file takes {', '.join(TAKES[suffix])}, not {job.codec}.")
    return job.codec


def _sound(
    job: Embedding, film: InputContainer, sound: PlacedSound, out: OutputContainer, codec: str, end_s: float
) -> TrackWriter:
    """How a sound gets into the film: copied where nothing is lost by that, else decoded and encoded."""
    same = job.codec == "keep" and not sound.track.changed and family(sound.codec) == codec
    if same and codec in COPIED and sound.has_header:
        own = sound.track.path.samefile(job.picture) and not job.keep_original and len(job.tracks) == 1
        return OwnSound(sound.track, out, film) if own else copied(sound.track, out)
    return encoded(sound, out, codec, end_s)


def _copies(job: Embedding, film: InputContainer, out: OutputContainer) -> tuple[dict[int, Stream], list[str]]:
    """Streams of the result for those of the film that are copied, by index; and the kinds that had to be left out."""
    videos, suffix = list(film.streams.video), job.out.suffix.lower()
    if not videos:
        raise FileError(f"{job.picture.name}: there is no picture in it.")
    copied: dict[int, Stream] = {}
    left_out: list[str] = []
    streams: tuple[Stream, ...] = (*videos, *(film.streams.audio if job.keep_original else ()), *film.streams.subtitles)
    for stream in streams:
        if not is_known(stream):
            if stream.type == "video":
                raise FileError(f"{job.picture.name}: its picture is of a kind that is not known here.")
            left_out.append(f"{stream.type} of an unknown kind")
            continue
        name = stream.codec_context.codec.canonical_name
        if is_taken(out, stream, suffix):
            copied[stream.index] = out.add_stream_from_template(stream)
            copied[stream.index].metadata.update(stream.metadata)
        elif stream.type == "video":
            raise FileError(f"{job.out.name}: a {suffix} file does not take its picture ({name}).")
        else:
            left_out.append(name)
    return copied, left_out


def _written(
    job: Embedding,
    film: InputContainer,
    out: OutputContainer,
    sounds: list[TrackWriter],
    end_s: float,
    progress: Progress | None,
) -> list[str]:
    """Copy and encode; gives the kinds of streams that had to be left out."""
    copied, left_out = _copies(job, film, out)
    out.metadata.update(film.metadata)
    out.set_chapters([c for c in film.chapters() if float(c["start"] * (c["time_base"] or 1)) < end_s])
    cut = job.shorter or job.most_s is not None
    own = next((s for s in sounds if isinstance(s, OwnSound)), None)
    read = [s for s in film.streams if s.index in copied or (own is not None and s is own.source)]
    last = {s.index: math.ceil(end_s / time_base(s)) for s in read}  # in ticks, as packets count
    own_index, pictures = own.source.index if own is not None else -1, 0
    out.start_encoding()  # before a thread encodes
    for count, packet in enumerate(timed_packets(film, read, job.out.suffix.lower())):
        index = packet.stream.index
        if not count % EVERY:
            now_s = float((packet.dts or 0) * time_base(packet))
            for sound in sounds:
                sound.until(min(now_s, end_s))
            if progress is not None and not progress(max(0.0, min(0.9, 0.9 * now_s / max(end_s, 0.1)))):
                raise Stopped
        if own is not None and index == own_index:
            own.put(packet, last[index])
        elif (packet.dts or 0) < last[index] or not cut:
            pictures += packet.stream.type == "video"
            packet.stream = copied[index]
            out.mux(packet)
    if not pictures:
        raise FileError(f"{job.picture.name}: there is no picture in it.")
    for sound in sounds:
        sound.until(end_s)
    return left_out


def length_s(job: Embedding) -> float:
    """How long the film will be. Raises FileError."""
    with opened(job.picture) as film:
        return _end_s(job, film, [PlacedSound(t) for t in job.tracks])


def _end_s(job: Embedding, film: InputContainer, sounds: list[PlacedSound]) -> float:
    ends = [sound.length_s for sound in sounds] if job.shorter else []
    return min(end for end in (_length_s(film), *ends, job.most_s) if end is not None)


def _length_s(film: InputContainer) -> float:
    """When the picture ends, in the time of the film."""
    ends = []
    for stream in film.streams.video:
        if stream.duration is not None:
            ends.append(float((stream.start_time or 0) + stream.duration) * float(time_base(stream)))
    if film.duration:
        ends.append(float(film.duration + max(0, film.start_time or 0)) / av.time_base)
    return ends[0] if ends else 0.0


def _residual(job: Embedding) -> tuple[float, float] | None:
    """What is left between the film's own sound and the new one, measured in the result.

    A sound that was moved against itself is to be where it was moved to.
    """
    with opened(job.picture) as film:
        if not film.streams.audio:
            return None
    first = job.tracks[0]
    try:
        found = align_files(job.picture, job.out)
    except FileError:  # silent, or too short to tell
        return None
    moved_ms = first.offset_ms if first.path.samefile(job.picture) else 0.0
    return (found.offset_ms + moved_ms, found.drift_ppm) if found.confidence != "low" else None
