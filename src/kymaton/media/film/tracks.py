"""How a sound gets into a film: as packets, encoded beside the copying of the picture or copied as they are."""

import math
from collections.abc import Generator
from fractions import Fraction
from itertools import chain
from typing import Literal

import av
import numpy as np
from av.audio import AudioStream
from av.container import InputContainer, OutputContainer

from kymaton.media.film.packets import timed_packets
from kymaton.media.film.placing import LAYOUTS, PlacedSound, Track
from kymaton.media.prefetch import Prefetcher
from kymaton.media.reading import StreamPacket, opened, sound_of, time_base

Packets = list[StreamPacket]
Codec = Literal["keep", "aac", "flac", "pcm", "opus"]
ENCODERS = {"aac": "aac", "flac": "flac", "pcm": "pcm_s24le", "opus": "libopus"}
TAKES = {  # sound codecs that a container takes
    ".mp4": ("aac", "flac", "opus"),
    ".mov": ("aac", "pcm"),
    ".mkv": ("aac", "flac", "pcm", "opus"),
    ".webm": ("opus",),
}
USUAL = {".mp4": "aac", ".mov": "aac", ".mkv": "flac", ".webm": "opus"}
PCM_16 = ("pcm_s16le", "pcm_s16be")  # stays what it is where its samples do not change
COPIED = ("aac", "opus")  # others lose nothing by being decoded and encoded
SILENCE = 1 << 16  # samples at a time


def family(codec: str) -> str:
    """The family of a codec, by which containers judge it."""
    return "pcm" if codec.startswith("pcm") else codec.removeprefix("lib")


def _begins_s(packet: StreamPacket) -> float:
    return float((packet.pts or 0) * time_base(packet))


class PacketSound:
    """A sound on its way into the film, as packets that are muxed as far as the film is."""

    def __init__(
        self, out: OutputContainer, made: "Prefetcher[Packets] | Generator[Packets, None, None]", copied: bool
    ) -> None:
        self.out, self.made, self.copied = out, made, copied
        self.packets = chain.from_iterable(made)
        self.next: StreamPacket | None = None

    def until(self, time_s: float = math.inf) -> None:
        """Mux what begins before this time of the film."""
        packet = self.next if self.next is not None else next(self.packets, None)
        while packet is not None and _begins_s(packet) < time_s:
            self.out.mux(packet)
            packet = next(self.packets, None)
        self.next = packet

    def close(self) -> None:
        """End the thread that makes the packets."""
        self.made.close()


def encoded(sound: PlacedSound, out: OutputContainer, codec: str, end_s: float) -> PacketSound:
    """A sound decoded, placed, corrected and encoded, which goes on beside the copying of the picture."""
    rate_hz = 48_000 if codec == "opus" else sound.rate_hz
    exact = codec == "pcm" and sound.codec in PCM_16 and not sound.track.changed
    stream = out.add_stream("pcm_s16le" if exact else ENCODERS[codec], rate=rate_hz)
    assert isinstance(stream, AudioStream)
    stream.layout = LAYOUTS[sound.channels]
    if codec in ("aac", "opus"):
        stream.bit_rate = 96_000 * sound.channels
    _named(stream, sound.track)
    return PacketSound(out, Prefetcher(_packets(sound, stream, rate_hz, round(end_s * rate_hz))), False)


def _packets(sound: PlacedSound, stream: AudioStream, rate_hz: int, many: int) -> Generator[Packets, None, None]:
    """So many samples of a sound, encoded block by block; silence where it is over."""
    blocks, sent = sound.blocks(rate_hz), 0
    while sent < many:
        block = next(blocks, None)
        if block is None:
            block = np.zeros((sound.channels, SILENCE), np.float32)
        piece = np.ascontiguousarray(block[:, : many - sent])
        frame = av.AudioFrame.from_ndarray(piece, format="fltp", layout=stream.layout.name)
        frame.sample_rate, frame.pts, frame.time_base = rate_hz, sent, Fraction(1, rate_hz)
        yield stream.encode(frame)
        sent += piece.shape[1]
    yield stream.encode(None)


def copied(track: Track, out: OutputContainer) -> PacketSound:
    """A sound whose packets are copied as they are, with other times."""
    file = opened(track.path)
    source = sound_of(file, track.path)
    stream = out.add_stream_from_template(source)
    _named(stream, track)
    return PacketSound(out, _moved(file, source, stream, track), True)


def _moved(
    file: InputContainer, source: AudioStream, stream: AudioStream, track: Track
) -> Generator[Packets, None, None]:
    with file:
        shift = _shift(track, source)
        for packet in timed_packets(file, [source], ""):
            if _shifted(packet, shift):
                packet.stream = stream
                yield [packet]


class OwnSound:
    """The sound of the film itself, copied with other times as the film is read."""

    copied = True

    def __init__(self, track: Track, out: OutputContainer, film: InputContainer) -> None:
        self.out, self.source = out, sound_of(film, track.path)
        self.stream = out.add_stream_from_template(self.source)
        _named(self.stream, track)
        self.shift = _shift(track, self.source)

    def put(self, packet: StreamPacket, last: int) -> None:
        """A packet of the film, where it begins before its last tick."""
        if _shifted(packet, self.shift) and (packet.pts or 0) < last:
            packet.stream = self.stream
            self.out.mux(packet)

    def until(self, time_s: float = math.inf) -> None:
        """Nothing: it comes with the film."""

    def close(self) -> None:
        """Nothing: it ends with the film."""


TrackWriter = PacketSound | OwnSound


def _shift(track: Track, source: AudioStream) -> int:
    """The offset of a track in ticks of its stream."""
    return round(Fraction(track.offset_ms) / 1000 / time_base(source))


def _shifted(packet: StreamPacket, shift: int) -> bool:
    """Make a packet earlier; whether anything of it is left."""
    if packet.pts is None or packet.pts < shift:
        return False
    packet.pts -= shift
    packet.dts = None if packet.dts is None else packet.dts - shift
    return True


def _named(stream: AudioStream, track: Track) -> None:
    if track.name:
        stream.metadata["title"] = track.name
    if track.language:
        stream.metadata["language"] = track.language
