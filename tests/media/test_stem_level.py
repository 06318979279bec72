"""The level of a recording: held against tones of known level, with and without pauses."""

import numpy as np
import pytest
import soundfile

from kymaton.core.errors import FileError, Stopped
from kymaton.media.stem_level import stem_level

RATE_HZ = 44_100


def written(path, samples):
    soundfile.write(path, samples, RATE_HZ, subtype="FLOAT")
    return path


def tone(seconds: float, peak: float) -> np.ndarray:
    return (peak * np.sin(2 * np.pi * 997 * np.arange(round(seconds * RATE_HZ)) / RATE_HZ)).astype(np.float32)


@pytest.mark.parametrize("peak_dbfs", [0.0, -6.0, -23.0])
def test_a_sine_is_as_loud_as_its_peak(tmp_path, peak_dbfs):
    """AES17: a full-scale sine is 0 dBFS."""
    path = written(tmp_path / "a.wav", tone(3.0, 10 ** (peak_dbfs / 20)))
    assert stem_level(path) == pytest.approx(peak_dbfs, abs=0.1)


def test_pauses_do_not_count_and_both_channels_do(tmp_path):
    speech = np.concatenate([tone(2.0, 0.1), np.zeros(RATE_HZ * 6, np.float32), tone(2.0, 0.1)])
    assert stem_level(written(tmp_path / "a.wav", speech)) == pytest.approx(-20.0, abs=0.15)
    one_side = np.stack([tone(2.0, 0.1), np.zeros(RATE_HZ * 2, np.float32)], axis=1)
    assert stem_level(written(tmp_path / "b.wav", one_side)) == pytest.approx(-23.0, abs=0.15)


def test_what_cannot_be_used_is_one_sentence(tmp_path):
    (tmp_path / "no.wav").write_bytes(b"no sound")
    with pytest.raises(FileError, match=r"no\.wav: it cannot be read as a sound\."):
        stem_level(tmp_path / "no.wav")
    with pytest.raises(FileError, match="it is silent"):
        stem_level(written(tmp_path / "silent.wav", np.zeros(1000, np.float32)))
    with pytest.raises(FileError, match="not numbers"):
        stem_level(written(tmp_path / "nan.wav", np.full(1000, np.nan, np.float32)))
    with pytest.raises(Stopped):
        stem_level(written(tmp_path / "long.wav", tone(3.0, 0.1)), lambda part: False)
