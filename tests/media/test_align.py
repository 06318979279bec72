"""Two recordings of the same sound: offset and drift against known truth, and what must not be believed."""

import subprocess
import sys
from fractions import Fraction

import numpy as np
import pytest
import soundfile
from scipy.signal import butter, fftconvolve, resample_poly, sosfilt

from kymaton.cli.main import main
from kymaton.core.errors import FileError
from kymaton.media.align import align_files, align_sides
from kymaton.media.clips import Clip, Coding, clip_frames, write_clip, write_film

RATE = 48_000


def talk(seconds: float, seed: int = 1) -> np.ndarray:
    """Noise in the band of speech, with pauses as speech has them."""
    chance = np.random.default_rng(seed)
    many = round(seconds * RATE)
    voiced = sosfilt(butter(2, (150, 4000), "bandpass", fs=RATE, output="sos"), chance.normal(size=many))
    knots = int(seconds * 5) + 2
    loud = np.interp(np.arange(many) / RATE, np.arange(knots) / 5, np.clip(chance.normal(0.3, 0.5, knots), 0, None))
    return 0.3 * voiced * loud


def moved(sound: np.ndarray, offset_s: float, ppm: float = 0.0) -> np.ndarray:
    """The same sound later by an offset that grows by `ppm`."""
    at = (np.arange(len(sound)) / RATE - offset_s) / (1 + ppm * 1e-6)
    fine = resample_poly(sound, 6, 1)
    return np.interp(at * RATE * 6, np.arange(len(fine)), fine, left=0.0, right=0.0)


def laid(tmp_path, a: np.ndarray, b: np.ndarray, rate_b: int = RATE, kind: str = "FLOAT", suffix: str = "wav"):
    one, two = tmp_path / f"a.{suffix}", tmp_path / f"b.{suffix}"
    soundfile.write(one, a, RATE, subtype=kind)
    soundfile.write(two, b, rate_b, subtype=kind)
    return align_files(one, two)


@pytest.mark.parametrize("offset_s", [0.0, 1.2345678, -7.7000301, 11.99])
def test_clean_recordings(tmp_path, offset_s):
    sound = talk(24.0)
    found = laid(tmp_path, sound, moved(sound, offset_s))
    assert abs(found.offset_ms - 1000 * offset_s) <= 0.05 and found.confidence == "high"
    assert found.drift_ppm == 0.0 or abs(found.drift_ppm) < 2.0
    assert found.polarity == 1 and abs(found.level_db) < 0.5


def test_polarity_and_level(tmp_path):
    sound = talk(30.0)
    found = laid(tmp_path, sound, -0.25 * moved(sound, 0.5))
    assert found.polarity == -1 and found.level_db == pytest.approx(-12.04, abs=0.3)


def test_noise_as_loud_as_the_sound_on_both(tmp_path):
    sound, chance = talk(24.0), np.random.default_rng(5)
    noise = [chance.normal(size=len(sound)) * np.std(sound) for _ in range(2)]
    found = laid(tmp_path, sound + noise[0], moved(sound, 0.5) + noise[1])
    assert abs(found.offset_ms - 500.0) <= 1.0 and found.confidence == "high"


def test_a_reverberant_room_and_another_equalisation(tmp_path):
    sound, chance = talk(24.0), np.random.default_rng(6)
    room = chance.normal(size=RATE) * 10 ** (-3 * np.arange(RATE) / 40_000) * 0.05
    room[0] = 1.0
    far = fftconvolve(moved(sound, 2.0), room)[: len(sound)]
    far = sosfilt(butter(1, 900, "lowpass", fs=RATE, output="sos"), far)
    assert abs(laid(tmp_path, sound, far).offset_ms - 2000.0) <= 1.0


@pytest.mark.parametrize("ppm", [-150.0])
def test_drift_over_ten_minutes(tmp_path, ppm):
    import soxr

    sound = talk(600.0, 3)
    slow = soxr.resample(sound, RATE, RATE * (1 + ppm * 1e-6), quality="VHQ")
    found = laid(tmp_path, sound, np.concatenate([np.zeros(RATE // 4), slow]))
    assert abs(found.drift_ppm - ppm) <= 2.0 and abs(found.offset_ms - 250.0) <= 0.2 and found.confidence == "high"


def test_rates_and_kinds_of_files_may_differ(tmp_path):
    import soxr

    sound = talk(20.0)
    late = soxr.resample(moved(sound, 0.75), RATE, 44_100, quality="VHQ")
    found = laid(tmp_path, sound, late, 44_100, "PCM_16", "flac")
    assert abs(found.offset_ms - 750.0) <= 0.05 and found.confidence == "high"


def test_the_sound_of_a_film_against_a_recorder(tmp_path):
    """AAC in MP4 with its priming, against the same sound as WAV."""
    sound = talk(12.0).astype(np.float32)
    clip = Clip(Fraction(25), 12.0, 160, 90)
    write_film(tmp_path / "film.mp4", clip_frames(clip), sound, Coding(clip.rate, "libx264", "aac"))
    soundfile.write(tmp_path / "recorder.wav", moved(sound, 0.3), RATE, subtype="PCM_24")
    found = align_files(tmp_path / "film.mp4", tmp_path / "recorder.wav")
    assert abs(found.offset_ms - 300.0) <= 0.05 and found.confidence == "high"


@pytest.mark.parametrize("seed", range(3))
def test_recordings_that_share_nothing_are_never_believed(tmp_path, seed):
    found = laid(tmp_path, talk(30.0, seed), talk(30.0, seed + 50))
    assert found.confidence == "low" and any("little or nothing" in r for r in found.remarks)


def test_a_loop_without_a_passage_of_its_own_is_ambiguous(tmp_path):
    loop = np.tile(talk(2.0, 5), 9)
    found = laid(tmp_path, loop, np.concatenate([np.zeros(RATE // 2), loop])[: len(loop)])
    assert found.confidence == "low" and any("ambiguous" in r for r in found.remarks)


def test_a_loop_with_a_passage_of_its_own_is_not(tmp_path):
    loop = np.tile(talk(2.0, 5), 15)
    loop[5 * RATE : 12 * RATE] += talk(7.0, 8)
    found = laid(tmp_path, loop, moved(loop, 0.5))
    assert abs(found.offset_ms - 500.0) <= 0.05


def test_an_echo_on_the_way_back_is_told_with_its_level(tmp_path):
    """What was sent against what came back: the delay of the return path, and how loud the echo is."""
    sent = talk(30.0)
    back = 0.1 * moved(sent, 0.2316) + talk(30.0, 77) * 0.02
    found = laid(tmp_path, sent, back)
    assert abs(found.offset_ms - 231.6) <= 0.1 and found.level_db == pytest.approx(-20.0, abs=0.5)


def test_the_round_trip_of_an_interface_is_told_from_the_sides_of_one_recording(tmp_path, capsys):
    sent = talk(12.0)
    loop = np.stack([sent, -0.5 * moved(sent, 0.01234)], axis=1)
    soundfile.write(tmp_path / "loop.wav", loop, RATE, "PCM_24")
    clip = Clip(Fraction(25), 12.0, 64, 64)
    sides = loop.T.astype(np.float32)
    write_film(tmp_path / "loop.mkv", clip_frames(clip), sides, Coding(clip.rate))
    for name, within in (("loop.wav", 0.02), ("loop.mkv", 0.02)):
        found = align_sides(tmp_path / name)
        assert abs(found.offset_ms - 12.34) <= within and found.polarity == -1 and found.confidence == "high"
        assert found.level_db == pytest.approx(-6.02, abs=0.2)
        assert max(found.detail, key=lambda p: p[1])[0] == pytest.approx(0.01234, abs=0.0005)
        assert max(found.overview, key=lambda p: p[1])[0] == pytest.approx(0.0, abs=0.1)
    assert main(["sync", "align", str(tmp_path / "loop.wav")]) == 0
    assert "12.34 ms later" in capsys.readouterr().out
    soundfile.write(tmp_path / "mono.wav", sent, RATE)
    assert main(["sync", "align", str(tmp_path / "mono.wav")]) == 2
    assert "has 1 channel only" in capsys.readouterr().err


def test_a_fresh_program_lays_over_and_measures(tmp_path):
    """Several threads load what they need for the first time."""
    sound = talk(12.0)
    soundfile.write(tmp_path / "a.wav", sound, RATE)
    soundfile.write(tmp_path / "b.flac", moved(sound, 0.25), RATE)
    write_clip(Clip(Fraction(25), 8.0, 160, 90, 40.0), tmp_path / "c.mp4")
    for words, said in ((("align", "a.wav", "b.flac"), "250.00 ms later"), (("measure", "c.mp4"), "40.0 ± ")):
        ran = subprocess.run(
            [sys.executable, "-m", "kymaton", "sync", *words], cwd=tmp_path, capture_output=True, text=True, timeout=60
        )
        assert ran.returncode == 0 and said in ran.stdout, ran.stderr


def test_what_cannot_be_laid_over_each_other_is_said(tmp_path):
    sound = talk(5.0)
    for name, data in (("silent.wav", np.zeros(RATE * 5)), ("short.wav", sound[: RATE // 2]), ("good.wav", sound)):
        soundfile.write(tmp_path / name, data, RATE)
    (tmp_path / "text.wav").write_text("no sound")
    for name, said in (
        ("silent.wav", "silent"),
        ("short.wav", "shorter"),
        ("text.wav", "read"),
        ("gone.wav", "no such"),
    ):
        with pytest.raises(FileError, match=said):
            align_files(tmp_path / "good.wav", tmp_path / name)
