"""Whole recordings of known truth: what is called high is never wrong by more than its ±."""

from fractions import Fraction

import numpy as np
import pytest
from scipy.signal import fftconvolve

from kymaton.core.errors import MeasureError
from kymaton.core.measuring.clip_pattern import pattern_sound
from kymaton.core.measuring.lead_estimate import SyncMeasurement
from kymaton.core.measuring.recording import Listening, measure_recording
from kymaton.media.clips import Clip, clip_frames
from tests.core.measuring.films import RATE_HZ, Shot, copied, sound_of, tone_of

NTSC = Fraction(30000, 1001)


def measured(shot: Shot, sound: np.ndarray | None = None, copies=None) -> SyncMeasurement:
    times, cells = shot.picture()
    if copies is not None:
        times, cells = copies(cells)
    sound = sound_of(shot.heard, shot.seconds, seed=shot.seed) if sound is None else sound
    return measure_recording(times, cells, Listening(np.atleast_2d(sound).astype(np.float32), RATE_HZ))


def holds(found: SyncMeasurement, shot: Shot) -> bool:
    return abs(found.lead_ms - shot.lead_ms) <= found.plus_minus_ms


# the time of a frame


@pytest.mark.parametrize("shown", [1, 2, 4, 8])
def test_the_clip_averaged_from_240_frames_a_second_has_no_lead(shown):
    """Free of any convention: of each eight frames of a clip without lead so many are added up, as light, to one."""
    clip = Clip(Fraction(240), 12.0, 64, 48)
    code = np.array([frame[::4, ::4].mean() for frame in clip_frames(clip)])  # the flash fills the picture
    light = ((code - 16) / 219) ** 2.2
    slow = light[: len(light) // 8 * 8].reshape(-1, 8)[:, :shown].mean(axis=1)
    cells = np.repeat((20 + 200 * slow ** (1 / 2.2))[:, None], 192, axis=1).astype(np.float32)
    sound = pattern_sound(clip.rate, clip.seconds, RATE_HZ)
    found = measure_recording(np.arange(len(cells)) / 30, cells, Listening(sound[None], RATE_HZ))
    assert abs(found.lead_ms) <= max(found.plus_minus_ms, 0.3) and found.plus_minus_ms < (4.2 if shown == 1 else 3.0)
    assert abs(found.lead_ms) < (2.5 if shown < 4 else 1.0)  # one intermediate share alone does not fix the exposure


@pytest.mark.parametrize("rate", [24, 25, NTSC, 30, 50, 60])
@pytest.mark.parametrize("exposure", [0.02, 0.5, 0.95])
def test_a_clip_at_a_rate_unlike_the_cameras_tells_the_lead(rate, exposure):
    shot = Shot(rate, exposure, clip=30 if round(rate) in (25, 50) else 25, noise=1.0, seed=round(rate))
    found = measured(shot)
    assert found.confidence == "high" and holds(found, shot) and found.plus_minus_ms < 5


@pytest.mark.parametrize(("rate", "clip"), [(30, 30), (25, 25), (60, 30)])
@pytest.mark.parametrize("exposure", [0.05, 0.5])
def test_on_one_clock_half_a_frame_stays_open(rate, clip, exposure):
    for seed in range(3):
        shot = Shot(rate, exposure, clip, seed=seed)
        found = measured(shot)
        assert holds(found, shot) and found.kind != "locked"
        if found.kind == "hard":
            assert found.confidence == "medium" and any("one clock" in r for r in found.remarks)


# what a camera does to light


@pytest.mark.parametrize("exposure", [0.2, 0.5, 0.9])
@pytest.mark.parametrize(
    ("fault", "remark"),
    [({"gain": 3.0}, "overexposed"), ({"dims": 1.5}, ""), ({"flash_s": 0.034}, "shorter"), ({"flash_s": 0.012}, "")],
)
def test_light_that_tells_nothing_is_not_believed(exposure, fault, remark):
    shot = Shot(exposure=exposure, noise=0.7, **fault)
    found = measured(shot)
    assert holds(found, shot) and found.confidence != "high"
    assert any(remark in r for r in found.remarks)


@pytest.mark.parametrize("gamma", [1.6, 2.0, 2.8])
def test_the_curve_of_the_camera_need_not_be_known(gamma):
    for exposure in (0.2, 0.5, 0.9):
        shot = Shot(exposure=exposure, gamma=gamma, noise=0.7)
        assert holds(measured(shot), shot)


@pytest.mark.parametrize(("camera", "file"), [(25, 50), (24, 60), (30, 60), (24, 50)])
@pytest.mark.parametrize("noise", [0.0, 0.7])
def test_repeated_frames_are_found_and_left_out(camera, file, noise):
    shot = Shot(camera, 0.5, clip=30 if camera != 30 else 25, noise=noise)
    found = measured(shot, copies=copied(file, camera))
    assert holds(found, shot) and abs(found.drift_ppm) < 50
    assert f"The file repeats frames: the camera gave {camera} a second." in found.remarks


# what is heard


def sides(shot: Shot, which: str) -> np.ndarray:
    beeps = sound_of(shot.heard)
    nothing = np.random.default_rng(3).normal(0, 0.001, len(beeps))
    left = {"right": nothing, "opposite": 0.1 * nothing - beeps, "both": beeps}[which]
    return np.stack([left, beeps])


@pytest.mark.parametrize(
    ("which", "said"),
    [
        ("right", ["The beeps are heard in right only."]),
        ("opposite", ["The polarity is turned over in left."]),
        ("both", []),
    ],
)
def test_it_is_said_where_the_beeps_are_heard(which, said):
    shot = Shot()
    found = measured(shot, sides(shot, which))
    assert found.confidence == "high" and holds(found, shot) and found.plus_minus_ms < 2
    assert [r for r in found.remarks if "heard in" in r or "polarity" in r] == said


@pytest.mark.parametrize(("length_s", "attack_s"), [(0.3, 0.002), (0.5, 0.002), (0.3, 0.02), (0.5, 0.06), (0.3, 0.1)])
def test_long_and_swelling_tones_are_measured_within_their_uncertainty(length_s, attack_s):
    shot = Shot(seed=round(100 * attack_s))
    found = measured(shot, sound_of(shot.heard, tone=tone_of(length_s, attack_s)))
    assert holds(found, shot) and found.matched >= 20
    assert found.confidence == ("high" if attack_s < 0.03 else "medium")


def room(sound: np.ndarray) -> np.ndarray:
    tail = np.random.default_rng(4).normal(size=2 * RATE_HZ) * 10 ** (-3 * np.arange(2 * RATE_HZ) / (2 * RATE_HZ))
    return fftconvolve(sound, np.concatenate([[1.0], tail / np.sqrt(np.sum(tail**2))]))[: len(sound)]


def music(sound: np.ndarray) -> np.ndarray:
    t = np.arange(len(sound)) / RATE_HZ
    bed = sum(np.sin(2 * np.pi * f * t + f) * (0.5 + 0.5 * np.sin(2 * np.pi * 0.3 * t)) for f in (220, 330, 880, 1320))
    return sound + bed / bed.std() * 0.28 * 10 ** (-6 / 20)


def bangs(sound: np.ndarray) -> np.ndarray:
    out = sound.copy()
    for at in (3.3, 7.1, 11.9, 16.2):
        first = int(at * RATE_HZ)
        out[first : first + 4000] += 3 * np.random.default_rng(first).normal(size=4000) * np.exp(-np.arange(4000) / 600)
    return np.clip(out, -1, 1)


@pytest.mark.parametrize("spoilt", [room, music, bangs])
def test_rooms_music_and_bangs_do_not_hide_the_beeps(spoilt):
    shot = Shot()
    found = measured(shot, spoilt(sound_of(shot.heard)))
    assert found.confidence == "high" and holds(found, shot) and found.plus_minus_ms < 2


def test_a_falling_sweep_is_not_taken_for_the_clips_own_beep():
    t = np.arange(int(0.06 * RATE_HZ)) / RATE_HZ
    falling = np.sin(2 * np.pi * (3600 * t - 2700 * t**2 / 0.12))
    shot = Shot()
    found = measured(shot, sound_of(shot.heard, tone=falling))
    assert holds(found, shot) and found.plus_minus_ms < 3


# another number


def test_a_second_way_of_the_sound_is_told_with_its_lead():
    shot = Shot()
    twice = sound_of(shot.heard) + 0.7 * sound_of([t + 0.055 for t in shot.heard])
    found = measured(shot, twice)
    assert found.confidence != "high" and holds(found, shot)
    [said] = [r for r in found.remarks if "heard twice" in r]
    assert "55.0 ms later, 3 dB under" in said and f"{found.lead_ms - 55:.1f} ms" in said


@pytest.mark.parametrize("by_s", [0.021, -0.021, 0.06, 0.3])
@pytest.mark.parametrize("exposure", [0.02, 0.5])
def test_a_jump_is_never_called_sure(by_s, exposure):
    shot = Shot(exposure=exposure, seed=round(100 * abs(by_s)))
    found = measured(shot, sound_of([t + (by_s if t > 10 else 0.0) for t in shot.heard]))
    assert found.confidence == "low"
    assert any("jumps at" in r or "another lead" in r for r in found.remarks)


def test_a_drift_is_no_jump():
    for exposure in (0.05, 0.9):
        shot = Shot(exposure=exposure, seconds=60.0)
        drifting = [30 + (t - 30) * (1 + 2e-4) for t in shot.heard]
        found = measured(shot, sound_of(drifting, 60.0))
        assert not any("jump" in r for r in found.remarks) and abs(found.drift_ppm + 200) < 80
        assert abs(found.lead_ms - shot.lead_ms) <= found.plus_minus_ms + 0.5


def test_without_flashes_or_sound_it_is_said():
    times, cells = Shot().picture()
    beeps = Listening(sound_of(Shot().heard)[None].astype(np.float32), RATE_HZ)
    with pytest.raises(MeasureError, match="No flashes"):
        measure_recording(times, np.full_like(cells, 40.0), beeps)
    with pytest.raises(MeasureError, match="No beeps"):
        measure_recording(times, cells, Listening(np.zeros((2, 20 * RATE_HZ), np.float32), RATE_HZ))
