"""Packets of a film copied as they are: which kinds a container takes, and the times that a file does not tell."""

from collections.abc import Iterator, Sequence
from pathlib import Path

import av
from av.container import InputContainer, OutputContainer
from av.stream import Stream

from kymaton.media.clips import container_format
from kymaton.media.reading import StreamPacket, time_base

# kinds that FFmpeg calls possible, but refuses when the file is begun
NEVER = {".mov": ("vp8", "vp9", "opus", "vorbis", "flac"), ".mp4": ("vorbis",)}
NO_EDIT_LIST = (".mkv", ".webm")


def film_out(temporary: Path, path: Path) -> OutputContainer:
    """The film to be written. Edit lists of MP4 and MOV count in steps that a shift of sound fits into."""
    options = {"movie_timescale": "48000"} if path.suffix.lower() in (".mp4", ".mov") else {}
    return av.open(str(temporary), "w", format=container_format(path), options=options)


def is_taken(out: OutputContainer, stream: Stream, suffix: str) -> bool:
    """Whether a container takes a stream of this kind."""
    codec = stream.codec_context.codec
    names = {codec.name, codec.canonical_name}
    return bool(names & out.supported_codecs) and not names & set(NEVER.get(suffix, ()))


def timed_packets(film: InputContainer, streams: Sequence[Stream], suffix: str) -> Iterator[StreamPacket]:
    """All packets of some streams, each with a decoding time.

    Matroska tells no decoding times; for the first frames of a picture with frames out of order they are worked out
    backwards. Where a container has no edit lists, what a sound codec needs to begin before 0 is left out: all other
    times would have to be moved for it.
    """
    waiting: dict[int, list[StreamPacket]] = {}
    no_priming = suffix in NO_EDIT_LIST
    for packet in film.demux(list(streams)):
        if packet.dts is None:
            if packet.size and packet.pts is not None:
                waiting.setdefault(packet.stream.index, []).append(packet)
            continue
        if waiting and packet.stream.index in waiting:
            yield from _worked_out(waiting.pop(packet.stream.index), packet.dts, packet.stream)
        if no_priming and packet.dts < 0 and packet.stream.type == "audio":
            continue
        yield packet
    for packets in waiting.values():
        for packet in packets:
            packet.dts = packet.pts
            yield packet


def _worked_out(packets: list[StreamPacket], known: int, stream: Stream) -> list[StreamPacket]:
    """Packets before the first with a known time: a frame apart, up to it."""
    rate = stream.average_rate if stream.type == "video" else None
    frame = round(1 / (rate * time_base(stream))) if rate else 1
    for back, packet in enumerate(reversed(packets), start=1):
        packet.dts = known - back * max(1, frame)
    return packets
