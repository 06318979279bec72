"""The soundcheck: where meters land, and what is seen there becomes how loud a sound is."""

import pytest

from kymaton.core.checks.report import Report
from kymaton.core.levels.soundcheck import checks_of, lines_of, seen, ticked
from kymaton.store.showfile import parse_show, read_show, show_bytes
from tests.shows import HEALTHY

SHOW = read_show(HEALTHY)


def by_control(show):
    return {c.control: c for c in checks_of(Report(show))}


def test_every_input_with_a_gain_and_a_sound_that_must_be_heard_is_asked_for_once():
    checks = checks_of(Report(SHOW))
    assert len({c.control for c in checks}) == len(checks) and checks[0].control == "desk/ch1/gain"
    assert "desk/ch13/gain" not in {c.control for c in checks}  # the phone: nobody is to hear it


def test_a_meter_of_samples_a_vu_and_a_ppm_stand_where_the_standards_put_them():
    """The desk takes +22 dBu: peaks to −12 are +10 dBu. 15 dB under them −5 dBu, which is −9 VU; PPM 5 under: +5."""
    check = by_control(SHOW)["desk/ch1/gain"]
    assert (check.lands, check.vu, check.ppm) == (-12.0, -9.0, 5.0)


@pytest.mark.parametrize("peak_db", [-30.0, -12.0, -3.0])
def test_what_is_seen_is_what_is_expected_from_then_on(peak_db):
    check = by_control(SHOW)["desk/ch1/gain"]
    after = seen(SHOW, check, peak_db, "2026-12-12")
    again = by_control(after)["desk/ch1/gain"]
    assert again.now == pytest.approx(peak_db, abs=0.1) and again.seen == peak_db and again.done
    maren = after.sound("maren")
    assert (maren.level_source, maren.level_date) == ("measured", "2026-12-12")
    assert parse_show(show_bytes(after), "x") == after
    others = [s for s in after.sounds if s.id != "maren"]
    assert others == [s for s in SHOW.sounds if s.id != "maren"]


def test_a_tick_comes_and_goes_and_no_meter_shows_everything():
    check = by_control(SHOW)["desk/ch2/gain"]
    there = ticked(SHOW, check.control, True, "2026-12-12")
    assert by_control(there)[check.control].done and ticked(there, check.control, False, "").soundcheck == ()
    with pytest.raises(ValueError, match="−120"):
        seen(SHOW, check, 60.0, "")
    rows = list(lines_of(checks_of(Report(there)), there))
    assert rows[0][0] == "done" and next(r for r in rows if r[1] == "desk 2 gain")[0] == "x"
