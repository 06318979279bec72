"""Figures of devices: found, told, typed, put back."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from kymaton.catalogue.registry import make_device
from kymaton.core.edits.figures import figure_text, figures_of, put_figure, read_figure, read_source, source_text
from kymaton.core.model import Figure, Show, ShowError
from kymaton.store.demo import demo_show
from kymaton.store.showfile import read_show

ASSUMED = Figure(value=83.0, plus_minus=10.0)
MEASURED = Figure(value=83.0, plus_minus=2.0, source="measured", date="2026-11-20")


@pytest.mark.parametrize(
    ("text", "before", "expected"),
    [
        ("80", ASSUMED, Figure(value=80.0, source="stated")),
        ("80 ms", MEASURED, Figure(value=80.0, plus_minus=2.0, source="measured", date="2026-11-20")),
        ("80 ± 4", ASSUMED, Figure(value=80.0, plus_minus=4.0, source="stated")),
        ("80 +- 4 ms", ASSUMED, Figure(value=80.0, plus_minus=4.0, source="stated")),
        ("-3.5 dB", ASSUMED, Figure(value=-3.5, source="stated")),
        ("−3.5 dB", ASSUMED, Figure(value=-3.5, source="stated")),
        (
            "81.5 ± 1, measured 2026-12-01", ASSUMED,
            Figure(value=81.5, plus_minus=1.0, source="measured", date="2026-12-01"),
        ),
        ("80 assumed", MEASURED, Figure(value=80.0, source="assumed")),
    ],
)  # fmt: skip
def test_what_is_typed_is_read_with_its_source(text, before, expected):
    assert read_figure(text, before, "ms" if "dB" not in text else "dB") == expected


@pytest.mark.parametrize(
    ("text", "unit", "value", "plus_minus"),
    [
        ("6000 kbit/s", "Mbit/s", 6.0, 0.0),
        ("6 Mbps", "Mbit/s", 6.0, 0.0),
        ("6 Mb/s", "Mbit/s", 6.0, 0.0),
        ("2 MB/s ± 800 kbit/s", "Mbit/s", 16.0, 0.8),
        ("2 MB/s ± 0.1", "Mbit/s", 16.0, 0.8),
        ("100 Mbit/s", "MB/s", 12.5, 0.0),
        ("1.5 A", "mA", 1500.0, 0.0),
        ("80 ma measured", "mA", 80.0, 0.0),
        ("1 kW ± 100 W", "W", 1000.0, 100.0),
        ("0.4 m", "cm", 40.0, 0.0),
        ("12", "", 12.0, 0.0),
    ],
)
def test_another_unit_is_turned_into_the_one_that_is_meant(text, unit, value, plus_minus):
    found = read_figure(text, ASSUMED, unit)
    assert (found.value, found.plus_minus) == (pytest.approx(value), pytest.approx(plus_minus))


@pytest.mark.parametrize(("text", "unit"), [("40 dB", "W"), ("30 s", "Mbit/s"), ("30 ms", "MB/s"), ("12 apples", "")])
def test_a_unit_of_something_else_is_refused(text, unit):
    with pytest.raises(ShowError, match="is no unit for this"):
        read_figure(text, ASSUMED, unit)


@pytest.mark.parametrize(
    ("text", "said"),
    [
        ("soon", "is not a figure"),
        ("", "is not a figure"),
        ("80 ± x", "is not a figure"),
        ("80 measured 2026-13-40", "is not a date"),
    ],
)
def test_what_is_no_figure_is_said(text, said):
    with pytest.raises(ShowError, match=said):
        read_figure(text, ASSUMED, "ms")


def test_another_source_keeps_the_figure():
    assert read_source("measured 2026-12-01", ASSUMED) == ASSUMED.evolve(source="measured", date="2026-12-01")
    assert source_text(MEASURED) == "measured 2026-11-20" and source_text(ASSUMED) == "assumed"
    with pytest.raises(ShowError, match="is not a source"):
        read_source("guessed", ASSUMED)


@given(st.floats(-500, 500), st.floats(0, 50))
def test_what_is_told_can_be_typed_again(value, plus_minus):
    figure = Figure(value=round(value, 2), plus_minus=round(plus_minus, 2), source="stated")
    again = read_figure(figure_text(figure, "ms"), figure.evolve(plus_minus=0.0), "ms")
    assert again.value == figure.value and again.plus_minus == figure.plus_minus


def test_every_figure_of_the_demo_is_found_once_and_put_back_unchanged():
    show = read_show(demo_show())
    for device in show.devices:
        found = figures_of(device)
        delays = [i for f in found if f.quantity == "delay_ms" for i in f.routes]
        assert sorted(delays) == list(range(len(device.routes)))
        for at in found:
            assert put_figure(show, device.id, at, at.figure) == show
            assert at.unit in ("ms", "dB", "W", "h", "V", "A", "Mbit/s")


def test_a_figure_that_is_put_is_there_and_nowhere_else():
    camera = make_device("camera as Wide", ())
    show = Show(devices=(camera,))
    at = next(f for f in figures_of(camera) if f.quantity == "delay_ms" and f.name.startswith("Picture"))
    after = put_figure(show, camera.id, at, MEASURED).device(camera.id)
    assert all((r.delay_ms == MEASURED) == (i in at.routes) for i, r in enumerate(after.routes))
    with pytest.raises(ShowError, match="not below 0 ms"):
        put_figure(show, camera.id, at, Figure(value=-1.0))
