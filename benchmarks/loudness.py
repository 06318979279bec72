"""Loudness of an hour of stereo against FFmpeg's own filter over the same file, and the bench with all it looks for."""

import resource
import tempfile
from collections.abc import Iterator
from pathlib import Path

import av
import numpy as np
import soundfile

from benchmarks.timing import against
from kymaton.media.bench import measure
from kymaton.media.loudness import loudness_of

SECONDS, RATE_HZ = 3600, 48_000


def _hour(path: Path) -> None:
    """Noise that comes and goes, on two sides."""
    chance = np.random.default_rng(5)
    with soundfile.SoundFile(path, "w", RATE_HZ, 2, "PCM_16") as file:
        for n in range(SECONDS):
            file.write(0.05 * (1.2 + np.sin(n / 7)) * chance.standard_normal((RATE_HZ, 2)).astype(np.float32))


def _ffmpeg(path: Path) -> None:
    """The filter alone, as FFmpeg's own tool feeds it."""
    with av.open(str(path)) as file:
        stream = file.streams.audio[0]
        graph = av.filter.Graph()
        source = graph.add_abuffer(template=stream)
        meter, sink = graph.add("ebur128", "metadata=1:peak=true"), graph.add("abuffersink")
        source.link_to(meter)
        meter.link_to(sink)
        graph.configure()
        for frame in file.decode(stream):
            source.push(frame)
            try:
                while True:
                    sink.pull()
            except (av.BlockingIOError, av.EOFError):
                pass


def run() -> Iterator[tuple[str, str, str]]:
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "hour.wav"
        _hour(path)
        ours, ratio = against(lambda: loudness_of(path), lambda: _ffmpeg(path), 2)
        memory = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss // 1024
        yield "loudness of an hour of stereo", f"{ours:.1f} s, {ratio:.2f} × FFmpeg's filter, {memory} MB", "≤ 1.3 ×"
        ours, ratio = against(lambda: measure(path), lambda: _ffmpeg(path), 1)
        yield "the same on the bench, with what is wrong", f"{ours:.1f} s, {ratio:.2f} × FFmpeg's filter", "-"
