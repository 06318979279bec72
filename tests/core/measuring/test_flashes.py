"""Flashes in grids of brightness whose truth is known."""

import numpy as np
import pytest

from kymaton.core.measuring.flashes import find_flashes
from tests.core.measuring.recordings import happenings

FRAME_S = 0.04


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
