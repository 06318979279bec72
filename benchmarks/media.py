"""Files: measuring against decoding, embedding against a stream copy, aligning against reading."""

import tempfile
from fractions import Fraction
from pathlib import Path

import av
import numpy as np
import soundfile

from benchmarks.timing import best
from kymaton.media.align import align_files
from kymaton.media.clips import Clip, write_clip
from kymaton.media.embed import Embedding, embed
from kymaton.media.measure import measure
from kymaton.media.placing import Track

ALIGNED_S = 1200


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
    paths = folder / "a.flac", folder / "b.flac"
    files = [soundfile.SoundFile(str(p), "w", 48_000, 2, "PCM_16") for p in paths]
    for second in range(ALIGNED_S):
        loud = np.interp(second + np.arange(48_000) / 48_000, np.arange(len(knots)) / 5, knots)
        block = 0.1 * chance.normal(size=48_000) * loud
        for file, noise in zip(files, (0.002, 0.01), strict=True):
            file.write(np.stack([block, block], 1) + chance.normal(0, noise, (48_000, 2)))
    for file in files:
        file.close()
    return paths


def run() -> list[tuple[str, str, str]]:
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        clip = folder / "clip.mp4"
        write_clip(Clip(Fraction(30), 20.0, 1920, 1080), clip)
        decode, ours = best(lambda: _decode(clip), 5), best(lambda: measure(clip), 5)
        sound = folder / "sound.wav"
        soundfile.write(sound, np.random.default_rng(1).normal(0, 0.05, (20 * 48_000, 2)), 48_000)
        job = Embedding(clip, (Track(sound),), folder / "out.mp4", "aac")
        copied = best(lambda: _copy(clip, folder / "copy.mp4"), 5)
        made = best(lambda: embed(job, check=False), 5)
        a, b = _long_takes(folder)
        reading, aligned = best(lambda: _read(a, b), 2), best(lambda: align_files(a, b), 2)
    return [
        (
            "sync measure, 1080p clip of 20 s, sound included",
            f"{ours:.2f} s, {ours / decode:.2f} × decoding its picture",
            "≤ 1.1 ×",
        ),
        (
            f"align two recordings of {ALIGNED_S // 60} min",
            f"{aligned:.2f} s, {aligned / reading:.2f} × reading them",
            "≤ 1.1 ×",
        ),
        (
            "embed, 1080p film of 20 s, sound encoded as AAC",
            f"{made:.2f} s, {made / copied:.1f} × a stream copy",
            "≤ 1.5 ×",
        ),
    ]
