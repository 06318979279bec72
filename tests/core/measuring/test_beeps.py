"""Beeps, claps and other sounds in arrays whose truth is known."""

import numpy as np
import pytest

from kymaton.core.measuring.beeps import find_beeps, find_clicks, next_onset
from kymaton.core.measuring.clip_pattern import add_beep
from tests.core.measuring.recordings import happenings

RATE = 48_000


def sound_of(when: np.ndarray, seconds: float = 20.0, noise: float = 0.0, peak: float = 0.5) -> np.ndarray:
    sound = noise * np.random.default_rng(2).normal(size=round(seconds * RATE)).astype(np.float32)
    for at in when:
        add_beep(sound, float(at), RATE, peak)
    return sound.astype(np.float32)


@pytest.mark.parametrize(("noise", "within_s"), [(0.0, 2e-6), (0.05, 3e-5), (0.3, 2e-4)])
def test_beeps_are_found_where_they_begin_under_noise_too(noise, within_s):
    when = happenings(16)
    found = find_beeps(sound_of(when, noise=noise), RATE)
    assert len(found) == 16
    assert np.abs(np.array([b.time_s for b in found]) - when).max() < within_s
    assert all(0.22 < b.strength <= 1.0 + 1e-6 for b in found)
    later = find_beeps(sound_of(when, noise=noise), RATE, start_s=100.0)
    assert [b.time_s - 100 for b in later] == pytest.approx([b.time_s for b in found])


def test_the_direct_sound_is_taken_not_a_stronger_reflection():
    when = happenings(10)
    sound = sound_of(when, peak=0.35)
    for at in when:
        add_beep(sound, float(at) + 0.021, RATE, 0.5)
    assert np.abs(np.array([b.time_s for b in find_beeps(sound, RATE)]) - when).max() < 5e-4


def test_noise_and_other_sounds_are_no_beeps():
    chance = np.random.default_rng(4)
    for sound in (chance.normal(size=10 * RATE), np.sin(2 * np.pi * 1000 * np.arange(10 * RATE) / RATE)):
        assert len(find_beeps(0.3 * sound.astype(np.float32), RATE)) <= 1
    assert find_beeps(np.zeros(5 * RATE, np.float32), RATE) == [] == find_beeps(np.zeros(100, np.float32), RATE)


def clap(at: float, sound: np.ndarray, size: float, seed: int) -> None:
    first, many = round(at * RATE), 1500
    burst = np.random.default_rng(seed).normal(size=many) * np.exp(-np.arange(many) / 200)
    sound[first : first + many] += (size * burst).astype(np.float32)


def test_claps_are_found_where_they_begin_and_their_echoes_are_not():
    when = happenings(12)
    sound = 0.002 * np.random.default_rng(5).normal(size=20 * RATE).astype(np.float32)
    for number, at in enumerate(when):
        clap(at, sound, 0.6, number)
        clap(at + 0.11, sound, 0.35, 50 + number)
    found = find_clicks(sound, RATE, 7.0)
    assert len(found) == 12
    assert np.abs(np.array([b.time_s for b in found]) - 7.0 - when).max() < 0.0012
    assert find_clicks(sound[: RATE // 5], RATE) == []


def test_hum_and_rumble_are_no_clicks():
    t = np.arange(10 * RATE) / RATE
    hum = 0.4 * np.sin(2 * np.pi * 50 * t) * (1 + 0.5 * np.sin(2 * np.pi * 0.7 * t))
    assert find_clicks(hum.astype(np.float32), RATE) == []


def test_the_next_sudden_sound():
    peaks = np.full(1000, 0.02, np.float32)
    peaks[400:420] = 0.5
    peaks[700:] = 0.07
    assert next_onset(peaks, 100, 0.0) == pytest.approx(4.0)
    assert next_onset(peaks, 100, 3.99) == pytest.approx(4.0) and next_onset(peaks, 100, 4.0) is None
    assert next_onset(peaks, 100, 20.0) is None
    peaks[700:] = 0.085  # more than four times what was
    assert next_onset(peaks, 100, 4.0) == pytest.approx(7.0)
