"""What is wrong with a recording: each put into one, and found where it is; and not found in one that is whole."""

from functools import cache

import numpy as np
import pytest

from kymaton.core.measuring.fault_words import clock, spot_text
from kymaton.core.measuring.sound_faults import SoundFaults, Spot

RATE_HZ = 48_000
SECONDS = 40


def found(samples: np.ndarray, block: int = 10_007) -> tuple[Spot, ...]:
    faults = SoundFaults(RATE_HZ, len(samples))
    for at in range(0, samples.shape[1], block):
        faults.add(samples[:, at : at + block].astype(np.float32))
    return faults.result()


def harmonics(phase: np.ndarray, many: int) -> np.ndarray:
    """The sum of sin(n φ) / n: by sin(n φ) = 2 cos φ sin((n − 1) φ) − sin((n − 2) φ)."""
    before, now, twice = np.zeros(len(phase)), np.sin(phase), 2 * np.cos(phase)
    wave = now.copy()
    for n in range(2, many + 1):
        before, now = now, twice * now - before
        wave += now / n
    return wave


@cache
def speech(seed: int = 1, seconds: float = SECONDS) -> np.ndarray:
    """Noise in syllables with pauses, coloured as voices are, about −23 dBFS, with a voice's pitch that moves."""
    rng = np.random.default_rng(seed)
    count = round(seconds * RATE_HZ)
    at = np.arange(count) / RATE_HZ
    pitch = 110 + 25 * np.sin(2 * np.pi * 0.31 * at) + 12 * np.sin(2 * np.pi * 1.7 * at)
    phase = 2 * np.pi * np.cumsum(pitch) / RATE_HZ
    voice = harmonics(phase, 24) + 0.1 * rng.standard_normal(count)
    syllables = np.clip(np.sin(2 * np.pi * 2.1 * at) + 0.3, 0, 1) * (np.sin(2 * np.pi * 0.13 * at) > -0.6)
    smooth = np.convolve(syllables, np.hanning(960) / np.hanning(960).sum(), mode="same")
    wave = voice * smooth + 1e-4 * rng.standard_normal(count)
    wave *= 10 ** (-23 / 20) / np.sqrt(2 * np.mean(np.square(wave)))
    wave.flags.writeable = False  # one for all tests
    return wave


def both(mono: np.ndarray) -> np.ndarray:
    return np.stack([mono, 0.8 * mono + 0.01 * np.random.default_rng(9).standard_normal(len(mono))])


@cache
def hum(hertz: float, dbfs: float, many: int = 1, seconds: float = SECONDS) -> np.ndarray:
    at = np.arange(round(seconds * RATE_HZ)) / RATE_HZ
    wave = 10 ** (dbfs / 20) * harmonics(2 * np.pi * hertz * at + 1, many)
    wave.flags.writeable = False
    return wave


def test_a_recording_that_is_whole_has_nothing():
    assert found(both(speech())) == ()


@pytest.mark.parametrize("mains", [50.0, 60.0])
@pytest.mark.parametrize("off_hz", [0.0, 0.12])
def test_hum_under_speech(mains, off_hz):
    """−50 dBFS, 27 dB under the speech, and the mains is never quite at its frequency."""
    (spot,) = found(both(speech()) + hum(mains + off_hz, -50.0))
    assert (spot.kind, spot.hertz) == ("hum", mains) and spot.level == pytest.approx(-50.0, abs=1.5)
    assert spot.from_s == 0.0 and spot.to_s > SECONDS - 5


def test_buzz_is_hum_with_many_harmonics():
    dimmer = sum(hum(50.0 * n, -45.0) for n in range(1, 16))  # as strong at each of them
    (spot,) = found(both(speech()) + dimmer)
    assert (spot.kind, spot.hertz) == ("buzz", 50.0)


@pytest.mark.parametrize(
    "note_hz", [48.999, 51.913, 55.0, 58.27, 61.735, 98.0, 103.83, 123.47]
)  # G1 to B1, G2, G♯2, B2
def test_bass_notes_are_no_hum(note_hz):
    """Each held for two seconds with its harmonics, and another one in between; at −20 dBFS."""
    at = np.arange(SECONDS * RATE_HZ) / RATE_HZ
    plays = (at % 4 < 2).astype(float)
    wave = hum(note_hz, -20.0, 8) * plays + hum(note_hz * 4 / 3, -20.0, 8) * (1 - plays)
    assert not [s for s in found(both(wave)) if s.kind in ("hum", "buzz")]


def test_a_drone_that_is_held_is_no_hum_where_it_is_no_mains():
    assert not [s for s in found(both(hum(55.0, -20.0, 8))) if s.kind in ("hum", "buzz")]


def test_hum_that_begins_later_is_told_from_when_on():
    wave = both(speech(seconds=120.0)) + np.where(np.arange(120 * RATE_HZ) > 64 * RATE_HZ, 1, 0) * hum(
        50, -45, 1, 120.0
    )
    (spot,) = found(wave)
    assert 55 < spot.from_s < 70 and spot.to_s > 110


def test_silence_of_two_seconds_and_more():
    wave = both(speech())
    wave[:, 10 * RATE_HZ : 14 * RATE_HZ] = 0
    wave[:, 20 * RATE_HZ : round(20.9 * RATE_HZ)] *= 1e-6
    (spot,) = (s for s in found(wave) if s.kind == "silence")
    assert (spot.from_s, spot.to_s) == (10.0, 14.0)


def test_clipping_is_counted_on_its_channel():
    wave = both(speech()) * 0.3
    at = np.arange(480) / RATE_HZ
    wave[1, 7 * RATE_HZ : 7 * RATE_HZ + 480] = np.clip(3 * np.sin(2 * np.pi * 500 * at), -1, 1)
    (spot,) = (s for s in found(wave) if s.kind == "clipping")
    assert spot.channel == 2 and spot.from_s == pytest.approx(7.0, abs=0.01) and spot.level > 100
    loud = both(speech())
    loud[0, RATE_HZ] = 1.0  # a single sample at full scale is none
    assert not [s for s in found(loud) if s.kind == "clipping"]


@pytest.mark.parametrize("ms", [6, 20, 100])
def test_a_dropout_is_found_to_its_millisecond(ms):
    at = np.arange(SECONDS * RATE_HZ) / RATE_HZ
    wave = both(0.2 * np.sin(2 * np.pi * 440 * at))
    start = round(12.345 * RATE_HZ)
    wave[0, start : start + ms * 48] = 0.0
    (spot,) = found(wave)
    assert spot.kind == "dropout" and spot.channel == 1
    assert spot.from_s == pytest.approx(12.345, abs=0.003) and spot.to_s - spot.from_s == pytest.approx(
        ms / 1000, abs=0.004
    )


def test_pauses_between_words_are_no_dropouts():
    """Faded out and in within 15 ms, with nothing at all in between, as a noise gate does it."""
    at = np.arange(SECONDS * RATE_HZ) / RATE_HZ
    gate = np.convolve((at % 0.4 < 0.3).astype(float), np.hanning(720) / np.hanning(720).sum(), mode="same")
    gate[gate < 1e-3] = 0
    assert not [s for s in found(both(0.2 * np.sin(2 * np.pi * 440 * at)) * gate) if s.kind == "dropout"]


def test_one_side_and_turned_round():
    wave = both(speech())
    wave[1, 5 * RATE_HZ : 15 * RATE_HZ] *= 1e-3
    wave[1, 20 * RATE_HZ : 30 * RATE_HZ] *= -1
    spots = {s.kind: s for s in found(wave)}
    assert spots["one side"].channel == 1 and 4 <= spots["one side"].from_s <= 6
    assert (
        19 <= spots["turned round"].from_s <= 23 and 27 <= spots["turned round"].to_s <= 31
    )  # it speaks from 22 to 28


def test_one_that_is_mono_is_told():
    faults = SoundFaults(RATE_HZ, 2)
    faults.add(np.stack([speech(), speech()]).astype(np.float32))
    assert faults.is_mono
    other = SoundFaults(RATE_HZ, 2)
    other.add(both(speech()).astype(np.float32))
    assert not other.is_mono


@pytest.mark.parametrize("block", [997, 48_000, 400_000])
def test_how_it_is_cut_into_blocks_changes_nothing(block):
    wave = both(speech()) + hum(50.0, -45.0)
    wave[0, 10 * RATE_HZ : 10 * RATE_HZ + 960] = 0.0
    assert found(wave, block) == found(wave)


def test_it_is_said_in_words():
    assert clock(65.24) == "1:05.2" and clock(3723.0) == "1:02:03.0"
    assert spot_text(Spot("hum", 0.0, 20.0, 0, -50.2, 50.0)) == "Hum of 50 Hz at −50 dBFS from 0:00.0 to 0:20.0"
    assert spot_text(Spot("dropout", 3.2, 3.22, 2)) == "A gap of 20 ms on the right at 0:03.2"
