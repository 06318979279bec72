"""Sound of more channels than FFmpeg keeps in a frame itself; names that are addresses; lists of files."""

from fractions import Fraction

import av
import numpy as np
import pytest

from kymaton.core.errors import FileError
from kymaton.media.loudness import loudness_of
from kymaton.media.reading import all_samples, opened
from kymaton.media.sounds import SoundFile


@pytest.fixture
def sixteen(tmp_path):
    """Sixteen tones in Opus, which decodes to planes; each of its own height and level."""
    path, t = tmp_path / "sixteen.mkv", np.arange(48_000) / 48_000
    tones = np.stack([0.02 * (n + 1) * np.sin(2 * np.pi * 200 * (n + 1) * t) for n in range(16)]).astype(np.float32)
    with av.open(str(path), "w") as out:
        stream = out.add_stream("libopus", rate=48_000)
        stream.layout, stream.format, stream.options = "hexadecagonal", "flt", {"mapping_family": "255"}
        for first in range(0, 48_000, 960):
            packed = np.ascontiguousarray(tones[:, first : first + 960].T).reshape(1, -1)
            frame = av.AudioFrame.from_ndarray(packed, format="flt", layout="hexadecagonal")
            frame.sample_rate, frame.pts, frame.time_base = 48_000, first, Fraction(1, 48_000)
            out.mux(stream.encode(frame))
        out.mux(stream.encode(None))
    return path


def test_sixteen_planar_channels_are_read_each_as_it_is(sixteen):
    whole = np.concatenate([block for _, block in SoundFile(sixteen).timed(all_samples)], axis=1)
    assert whole.shape[0] == 16 and abs(whole.shape[1] - 48_000) < 1500
    middle = whole[:, 12_000:36_000]
    heights = np.abs(np.fft.rfft(middle, axis=1)).argmax(axis=1) * 2
    assert heights.tolist() == [200 * (n + 1) for n in range(16)]
    levels = np.sqrt(2) * middle.std(axis=1)
    assert np.abs(levels / (0.02 * np.arange(1, 17)) - 1).max() < 0.1
    assert loudness_of(sixteen).integrated_lufs > -40


def test_addresses_and_lists_are_not_followed(tmp_path, monkeypatch):
    monkeypatch.chdir(tmp_path)
    from pathlib import Path

    (tmp_path / "http:x.mp4").write_bytes(b"no film")
    (tmp_path / "a.m3u8").write_text("#EXTM3U\n#EXTINF:1,\nfile:///etc/hostname\n")
    (tmp_path / "list.txt").write_text("ffconcat version 1.0\nfile a.wav\n")
    for name in ("http:x.mp4", "a.m3u8", "list.txt"):
        with pytest.raises(FileError, match="cannot be read as picture or sound"):
            opened(Path(name))
