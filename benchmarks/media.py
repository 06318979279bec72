"""Files: measuring against decoding, embedding against a stream copy, aligning against reading."""

import subprocess
import sys
import tempfile
from collections.abc import Iterator
from fractions import Fraction
from pathlib import Path
from typing import Any

import av
import numpy as np
import soundfile

from benchmarks.timing import against
from kymaton.media.align import align_files
from kymaton.media.clips import Clip, write_clip
from kymaton.media.film.embed import Embedding, embed
from kymaton.media.film.placing import Track
from kymaton.media.measure import measure
from kymaton.sim.camera import Camera, record

ALIGNED_S, FILM_S, FILM_TIMES = 7200, 20, 30
MEMORY = (  # as the kernel counts it for this program alone (not for what began it)
    "import sys; from pathlib import Path; from kymaton.media.align import align_files\n"
    "found = align_files(Path(sys.argv[1]), Path(sys.argv[2]))\n"
    "print(next(line.split()[1] for line in open('/proc/self/status') if line.startswith('VmHWM')))"
)


def _decode(path: Path) -> None:
    """The picture of a file, and nothing else."""
    with av.open(str(path)) as container:
        stream = container.streams.video[0]
        stream.thread_type = "AUTO"
        for _ in container.decode(stream):
            pass


def _copy(path: Path, out: Path) -> None:
    with av.open(str(path)) as a, av.open(str(out), "w") as b:
        streams = {s.index: b.add_stream_from_template(s) for s in a.streams}
        for packet in a.demux():
            if packet.dts is not None:
                packet.stream = streams[packet.stream.index]
                b.mux(packet)


def _read(*paths: Path) -> None:
    for path in paths:
        with soundfile.SoundFile(str(path)) as file:
            for _ in file.blocks(1 << 18, dtype="float32"):
                pass


def _long_takes(folder: Path) -> tuple[Path, Path]:
    chance = np.random.default_rng(0)
    knots = np.clip(chance.normal(0.3, 0.5, ALIGNED_S * 5 + 2), 0, None)
    noise = chance.standard_normal((1 << 22, 2)).astype(np.float32)
    paths = folder / "a.flac", folder / "b.flac"
    files = [soundfile.SoundFile(str(p), "w", 48_000, 2, "PCM_16") for p in paths]
    for second in range(ALIGNED_S):
        loud = np.interp(second + np.arange(48_000) / 48_000, np.arange(len(knots)) / 5, knots).astype(np.float32)
        one, two, three = (noise[n : n + 48_000] for n in chance.integers(0, len(noise) - 48_000, 3))
        block = np.float32(0.1) * one[:, :1] * loud[:, None]
        for file, other, level in zip(files, (two, three), (np.float32(0.002), np.float32(0.01)), strict=True):
            file.write(block + level * other)
    for file in files:
        file.close()
    return paths


def _memory(*paths: Path) -> str:
    """Largest resident memory (MB) of a process that lays two recordings over each other."""
    ran = subprocess.run([sys.executable, "-c", MEMORY, *map(str, paths)], capture_output=True, text=True, check=True)
    return f"{int(ran.stdout) // 1024} MB"


def run() -> Iterator[tuple[str, str, str]]:
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        filmed, archive = folder / "filmed.mp4", folder / "archive.mp4"
        for path, noise in ((filmed, 3.0), (archive, 1.0)):
            record(Camera(seconds=20.0, width=1920, height=1080, exposure=0.5, noise=noise), path)
        plain = folder / "clip.mp4"
        write_clip(Clip(Fraction(30), 20.0, 1920, 1080), plain)
        cases = (
            (filmed, "as a camera records it", "≤ 1.1 ×"),
            (archive, "as an archive", "≤ 1.1 ×"),
            (plain, "the clip itself: two flat colours", "≤ 1.25 ×"),
        )
        for path, what, goal in cases:
            ours, ratio = against(lambda path=path: measure(path), lambda path=path: _decode(path))
            text = f"{ours:.2f} s, {ratio:.2f} × decoding its picture"
            rate = 8e-6 * path.stat().st_size / 20
            yield f"sync measure, 1080p, sound included, {what} ({rate:.1f} Mbit/s)", text, goal
        yield from _embedding(folder, archive)
        a, b = _long_takes(folder)
        aligned, ratio = against(lambda: align_files(a, b), lambda: _read(a, b), 2)
        text = f"{aligned:.1f} s, {ratio:.2f} × reading them, {_memory(a, b)}"
        yield f"align two recordings of {ALIGNED_S // 3600} h", text, "≤ 1.1 ×, 300 MB"


def _encode(sound: Path, out: Path) -> None:
    """A sound as AAC, and nothing else."""
    with soundfile.SoundFile(str(sound)) as file, av.open(str(out), "w", format="mp4") as made:
        stream = made.add_stream("aac", rate=file.samplerate)
        stream.layout, stream.bit_rate = "stereo", 192_000
        for number, block in enumerate(file.blocks(1 << 14, dtype="float32")):
            frame = av.AudioFrame.from_ndarray(np.ascontiguousarray(block.T), format="fltp", layout="stereo")
            frame.sample_rate, frame.pts = file.samplerate, number << 14
            made.mux(stream.encode(frame))
        made.mux(stream.encode(None))


def _again(path: Path, out: Path, times: int) -> None:
    """A film that shows another one so many times."""
    with av.open(str(out), "w") as b:
        streams: dict[int, Any] = {}
        for turn in range(times):
            with av.open(str(path)) as a:
                streams = streams or {s.index: b.add_stream_from_template(s) for s in a.streams}
                for packet in a.demux():
                    if packet.dts is not None and packet.pts is not None:
                        later = round(turn * (FILM_S + 1) / packet.time_base)
                        packet.pts, packet.dts = packet.pts + later, packet.dts + later
                        packet.stream = streams[packet.stream.index]
                        b.mux(packet)


def _embedding(folder: Path, short: Path) -> Iterator[tuple[str, str, str]]:
    """The film's own sound shifted (copied), and a recorder's sound as PCM and as AAC."""
    film, sound = folder / "film.mp4", folder / "sound.wav"
    _again(short, film, FILM_TIMES)
    seconds = (FILM_S + 1) * FILM_TIMES
    soundfile.write(sound, np.random.default_rng(1).normal(0, 0.05, (seconds * 48_000, 2)), 48_000)
    for what, track, out, codec, runs in (
        ("its own sound shifted", Track(film, -80.0), folder / "out.mp4", "keep", 7),
        ("another sound as PCM", Track(sound), folder / "out.mov", "pcm", 7),
        ("another sound as AAC", Track(sound), folder / "out.mp4", "aac", 1),
    ):
        job, copy = Embedding(film, (track,), out, codec), folder / f"copy{out.suffix}"

        def ours(job: Embedding = job) -> None:
            embed(job, check=False)

        def away(out: Path = out, copy: Path = copy) -> None:  # to overwrite a file is not what is measured
            for path in (out, copy):
                path.unlink(missing_ok=True)

        made, ratio = against(ours, lambda copy=copy: _copy(film, copy), runs, away)
        text = f"{made:.2f} s, {ratio:.2f} × a stream copy"
        if codec == "aac":
            alone = against(ours, lambda: _encode(sound, folder / "sound.m4a"), 1, away)[1]
            text += f", {alone:.2f} × encoding that sound alone"
        away()
        size = film.stat().st_size / 1e6
        yield f"embed, film of {seconds // 60} min and {size:.0f} MB: {what}", text, "≤ 1.5 ×"
