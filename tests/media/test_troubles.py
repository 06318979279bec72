"""Measuring sound against picture, under all that a recording may suffer from."""

from fractions import Fraction

import pytest
from msgspec.structs import replace

from kymaton.media.measure import measure
from kymaton.sim.camera import Camera, record

NTSC = Fraction(30000, 1001)
SMALL = Camera(width=160, height=90, rate=Fraction(30), seconds=14.0, picture_ms=123.4, sound_ms=20.0)


def filmed(camera: Camera, tmp_path, suffix=".mp4", codec="libx264", sound_codec=""):
    path = tmp_path / f"film{suffix}"
    record(camera, path, codec=codec, sound_codec=sound_codec)
    return measure(path)


TROUBLES = {
    "dim": {"glow": 0.15, "noise": 3.0},
    "small": {"screen": (0.7, 0.6, 0.85, 0.8), "noise": 4.0},
    "moving": {"screen": (0.3, 0.3, 0.6, 0.6), "moving": 1.0, "noise": 4.0},
    "noise": {"sound_noise": 0.25},
    "music": {"music": 1.0},
    "reverb": {"reverb_s": 0.8},
    "missing": {"hidden": frozenset({2, 7, 8}), "silent": frozenset({0, 5})},
    "uneven": {"uneven": 0.4},
    "late": {"picture_ms": 20.0, "sound_ms": 420.0},
}


@pytest.mark.parametrize(
    ("trouble", "exposure"), [*((name, 0.9) for name in TROUBLES), ("dim", 0.0), ("small", 0.0), ("missing", 0.0)]
)
def test_troubles_are_borne(tmp_path, trouble, exposure):
    camera = replace(SMALL, exposure=exposure, **TROUBLES[trouble])
    found = filmed(camera, tmp_path)
    assert abs(found.lead_ms - camera.lead_ms) <= found.plus_minus_ms
    if trouble == "uneven":  # a frame may be late by a part of one
        assert found.confidence == "medium" and found.plus_minus_ms < 10
    elif trouble != "moving":
        assert found.confidence == "high" and found.plus_minus_ms < (4.5 if exposure else 6)
    if trouble == "missing":
        assert found.refused >= 3 and found.matched <= 12
