"""As heard on something else: held against tones, each on its own."""

import numpy as np
import pytest

from kymaton.core.signal.heard_on import ALL, AS_IT_IS, heard_on

RATE_HZ = 48_000


def level_db(what, hertz: float, side: str = "both") -> float:
    """How loud a tone is left, on the louder side, in dB to before."""
    times = np.arange(RATE_HZ) / RATE_HZ
    tone = np.sin(2 * np.pi * hertz * times).astype(np.float32)
    left, right = (tone, tone) if side == "both" else (tone, 0 * tone)
    found = heard_on(np.stack([left, right], axis=1), RATE_HZ, what)
    assert found.dtype == np.float32 and found.shape == (RATE_HZ, 2)
    return 20 * np.log10(np.sqrt(2 * np.mean(np.square(found[RATE_HZ // 2 :]), axis=0)).max() + 1e-9)


@pytest.mark.parametrize("what", ALL, ids=lambda w: w.id)
def test_a_band_passes_its_middle_ends_at_its_edges_and_is_steep(what):
    assert level_db(what, 1000.0) == pytest.approx(0.0, abs=0.1)
    for hertz, outside in ((what.low_hz, 0.5), (what.high_hz, 2.0)):
        if hertz is not None:
            assert level_db(what, hertz) == pytest.approx(-3.0, abs=0.15)
            if hertz * outside < RATE_HZ / 2:
                assert level_db(what, hertz * outside) < -22.0  # 24 dB in an octave
    assert level_db(what, 1000.0, "left") == pytest.approx(-6.0 if what.mono else 0.0, abs=0.1)


def test_as_it_is_changes_nothing_and_opposite_sides_are_gone_in_mono():
    noise = np.random.default_rng(1).standard_normal((4800, 2)).astype(np.float32)
    assert np.array_equal(heard_on(noise, RATE_HZ, AS_IT_IS), noise)
    noise[:, 1] = -noise[:, 0]
    for what in ALL:
        assert (np.abs(heard_on(noise, RATE_HZ, what)).max() < 1e-6) == what.mono
