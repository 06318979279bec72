"""Measured leads taken into the model: they explain what was measured, combine, or disagree."""

import pytest

from kymaton.core.edits.controls import Change, apply
from kymaton.core.edits.measurements import combined, compared, record_only, take_over
from kymaton.core.model import Figure, Measurement, Show, ShowError
from kymaton.core.signal.av_offset import AVOffset, leads
from kymaton.core.signal.cue_solution import CueSolution
from kymaton.store.showfile import parse_show, show_bytes
from tests.core.planning.test_sync_delays import put_delay, two_cameras


def row_of(show: Show) -> AVOffset:
    return next(r for r in leads(CueSolution(show, "cue-1")) if r.camera == "wide")


def measured(lead_ms: float, plus_minus_ms: float = 1.0, **more: object) -> Measurement:
    about = {"id": "m", "date": "2026-11-25", "destination": "tape", "source": "wide/lens"}
    return Measurement.checked(**about, lead_ms=lead_ms, plus_minus_ms=plus_minus_ms, **more)


def test_the_camera_explains_what_was_measured():
    show = two_cameras(60.0, 20.0)
    taken = take_over(show, row_of(show), measured(150.0))
    assert row_of(taken.show).lead_ms == pytest.approx(150.0, abs=0.01)
    figure = taken.show.device("wide").routes[0].delay_ms
    assert (figure.source, figure.date, figure.plus_minus) == ("measured", "2026-11-25", 1.0)
    kept = taken.show.measurements[0]
    assert kept.predicted_ms == pytest.approx(row_of(show).lead_ms) and not taken.disagrees
    assert parse_show(show_bytes(taken.show), "it") == taken.show


def test_two_measurements_that_agree_are_weighed_by_their_certainty():
    show = put_delay(two_cameras(60.0, 20.0), "wide", "picture", 100.0)
    device = show.device("wide")
    known = Figure(value=100.0, plus_minus=1.0, source="measured", date="2026-11-20")
    from kymaton.core.edits import devices

    routes = tuple(r.evolve(delay_ms=known) for r in device.routes)
    show = devices.put_device(show, device.evolve(routes=routes))
    row = row_of(show)
    taken = take_over(show, row, measured(row.lead_ms + 2.0, 1.0))
    figure = taken.show.device("wide").routes[0].delay_ms
    assert figure.value == pytest.approx(101.0, abs=0.01) and figure.plus_minus == pytest.approx(0.707, abs=0.01)
    assert "combined" in taken.text and not taken.disagrees
    apart = take_over(show, row, measured(row.lead_ms + 20.0, 1.0))
    assert apart.disagrees and "disagrees with 100.0 ± 1.0 ms" in apart.text
    assert apart.show.device("wide").routes[0].delay_ms.value == pytest.approx(120.0, abs=0.01)


def test_what_cannot_be_is_refused():
    show = two_cameras(10.0, 20.0)
    with pytest.raises(ShowError, match="faster than at once"):
        take_over(show, row_of(show), measured(-200.0))
    with pytest.raises(ShowError, match="delays no picture"):
        take_over(show, row_of(show), measured(50.0), "desk")


def test_prediction_and_measurement_are_told_beside_each_other():
    show = two_cameras(60.0, 20.0)
    row = row_of(show)
    assert compared(show, row, row.lead_ms + 0.2, 0.5).endswith("that fits.")
    assert compared(show, row, row.lead_ms - 200.0, 0.5).endswith("that is 200.0 ms off.")
    noted = record_only(record_only(show, row, measured(1.0)), row, measured(2.0))
    assert [m.id for m in noted.measurements] == ["m", "m-2"] and noted.devices == show.devices


def test_several_measurements_are_weighed_and_a_wrong_one_widens_the_whole():
    alike = combined([(40.0, 1.0), (41.0, 1.0), (40.5, 10.0)])
    assert alike.lead_ms == pytest.approx(40.5, abs=0.01) and alike.plus_minus_ms < 0.75 and not alike.disagrees
    apart = combined([(40.0, 1.0), (80.0, 1.0)])
    assert apart.disagrees and apart.plus_minus_ms > 15.0


def test_what_was_entered_after_the_recording_does_not_count():
    """A delay entered between recording and taking over, and another measurement taken over meanwhile."""
    then = two_cameras(60.0, 20.0)
    row = row_of(then)
    control = next(c for c, n in row.controls if n < 0 and c.startswith("switcher/"))
    delayed = apply(then, (Change(None, control, 0.0, 40.0),))
    assert row_of(delayed).lead_ms == pytest.approx(row.lead_ms - 40.0)
    late = take_over(delayed, row, measured(row.lead_ms + 30.0), then=then)
    assert late.show.device("wide").routes[0].delay_ms.value == pytest.approx(90.0)
    again = take_over(late.show, row, measured(row.lead_ms + 30.0), then=then)
    assert again.show.device("wide").routes[0].delay_ms.value == pytest.approx(90.0) and not again.disagrees


def test_another_device_on_the_way_of_the_picture_can_be_the_one_that_was_measured():
    show = two_cameras(60.0, 20.0)
    row = row_of(show)
    assert row.chain[:2] == ("wide", "switcher")
    taken = take_over(show, row, measured(row.lead_ms + 7.0), "switcher")
    before, after = (s.device("switcher").routes for s in (show, taken.show))
    late = [b.delay_ms.value - a.delay_ms.value for a, b in zip(before, after, strict=True) if a.medium == "picture"]
    assert late and all(x == pytest.approx(7.0) for x in late)
    assert taken.show.device("wide") == show.device("wide")
