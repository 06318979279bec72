"""Flashes in grids of brightness and beeps in sound, from arrays whose truth is known."""

import numpy as np
import pytest

from kymaton.core.measuring.clip_pattern import add_beep
from kymaton.core.measuring.events import find_beeps, find_clicks, find_flashes, next_onset
from tests.core.measuring.recordings import happenings

FRAME_S, RATE = 0.04, 48_000


def pictures(
    when: np.ndarray, cells: slice = slice(6, 12), dark: float = 40.0, bright: float = 180.0, seconds: float = 20.0,
    noise: float = 0.0,
) -> tuple[np.ndarray, np.ndarray]:  # fmt: skip
    """Frames of 24 cells; those that flash are bright for three frames from the first one after each event."""
    times = np.arange(round(seconds / FRAME_S)) * FRAME_S
    grid = np.full((len(times), 24), dark, np.float32)
    for at in when:
        first = int(np.ceil(at / FRAME_S - 1e-9))
        grid[first : first + 3, cells] = bright
    grid += noise * np.random.default_rng(1).normal(size=grid.shape).astype(np.float32)
    return times, grid


def seen(found: list[list], number: int = 0) -> list[float]:
    return [round(f.time_s, 6) for f in found[number]]


def expected(when: np.ndarray) -> list[float]:
    return [round(float(np.ceil(t / FRAME_S - 1e-9) * FRAME_S), 6) for t in when]


@pytest.mark.parametrize("noise", [0.0, 2.0])
def test_each_flash_begins_with_its_first_bright_frame(noise):
    when = happenings(16)
    found = find_flashes(*pictures(when, noise=noise))
    assert seen(found) == expected(when)
    assert all(f.before_s == pytest.approx(f.time_s - FRAME_S) and f.part > 0.95 for f in found[0])
    assert all(120 < f.strength < 160 for f in found[0])


@pytest.mark.parametrize("light", [0.2, 0.5, 0.8])
def test_a_frame_that_is_lit_in_part_is_the_first_and_tells_its_light(light):
    when = happenings(14)
    times, grid = pictures(when)
    for at in when:
        before = int(np.ceil(at / FRAME_S - 1e-9)) - 1
        grid[before, 6:12] = (40**2.2 + light * (180**2.2 - 40**2.2)) ** (1 / 2.2)
    found = find_flashes(times, grid)[0]
    assert [round(f.time_s, 6) for f in found] == [round(t - FRAME_S, 6) for t in expected(when)]
    assert all(f.light == pytest.approx(light, abs=0.03) for f in found)
    assert all(f.part > f.light for f in found)  # as coded it looks brighter


def test_what_moves_beside_the_flash_is_another_region():
    when = happenings(16)
    times, grid = pictures(when)
    for at in range(20, 480, 31):  # somebody walks through other cells
        for step in range(9):
            grid[at + step, 14 + step : 16 + step] = 230
    found = find_flashes(times, grid)
    assert any(seen(found, i) == expected(when) for i in range(len(found)))


def test_what_stays_bright_or_rises_over_three_frames_is_no_flash():
    times, grid = pictures(happenings(0))
    grid[200:260, 6:12] = 200  # a lamp is on for 2.4 s
    for at in (60, 120, 320, 400):
        grid[at : at + 5, 6:12] = 40 + 140 * np.array([0.36, 0.45, 0.9, 1.0, 1.0])[:, None]
    assert all(len(flashes) < 2 for flashes in find_flashes(times, grid))
    assert find_flashes(times[:7], grid[:7]) == []
    assert find_flashes(times, np.full_like(grid, 90)) == []


def test_flickers_below_four_code_values_are_nothing():
    assert find_flashes(*pictures(happenings(12), bright=43.0)) == []
    assert len(find_flashes(*pictures(happenings(12), bright=49.0))[0]) == 12


# sound


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
