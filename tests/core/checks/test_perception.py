"""ITU-T G.107 talker echo at its own figures; comb filters at theirs."""

import pytest

from kymaton.core.checks.perception import first_notch_hz, ripple_db, talker_echo_impairment


@pytest.mark.parametrize(
    ("telr", "t_ms", "idte"),
    [(65, 100, 1.96), (65, 150, 2.81), (55, 100, 6.52), (45, 50, 10.38), (45, 100, 22.48), (35, 50, 29.83)],
)
def test_impairment_agrees_with_the_recommendation(telr, t_ms, idte):
    assert talker_echo_impairment(2 * t_ms, telr - 10) == pytest.approx(idte, abs=0.01)


def test_impairment_is_never_negative_and_none_below_two_milliseconds():
    assert talker_echo_impairment(1.9, 0) == 0.0
    assert all(talker_echo_impairment(t, loss) >= 0 for t in (2, 3, 5, 20, 2000) for loss in (-20, 0, 60, 90))


def test_notch_and_ripple():
    assert first_notch_hz(1.0, same_polarity=True) == 500.0
    assert first_notch_hz(1.0, same_polarity=False) == 1000.0
    assert ripple_db(6.02) == pytest.approx(9.54, abs=0.02)
    assert ripple_db(0.0) == pytest.approx(60.0, abs=0.1)
