"""Routes agree with arrivals; the strip adds up."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from kymaton.core.checks.report import Report
from kymaton.core.model import Place
from kymaton.core.signal.cue_solution import CueSolution
from kymaton.core.signal.trace import origins, rounded_steps, stations
from kymaton.store.showfile import read_show
from tests.shows import DEMO, call_show


@pytest.fixture(scope="module")
def report() -> Report:
    return Report(read_show(DEMO))


def test_paths_and_arrivals_tell_the_same_delays_and_levels(report):
    compared = 0
    for cue in report.cues.values():
        view = cue.view
        for listener, sound in view.pairs():
            by_place: dict[tuple[int, int, int], float] = {}
            for p in view.paths(listener.id, sound.id):
                key = (p.delay_us, p.sound_channel, p.ear)
                by_place[key] = by_place.get(key, 0.0) + p.polarity * 10 ** (p.gain_db / 20)
            for a in view.hearing.arrivals(listener.id, sound.id):
                assert abs(by_place[a.delay_us, a.sound_channel, a.ear]) == pytest.approx(
                    10 ** (a.gain_db / 20), rel=1e-6
                )
                compared += 1
    assert compared > 200


def test_the_strongest_path_alone_is_the_first_of_all(report):
    shows = [cue.view for cue in report.cues.values()] + [
        CueSolution(call_show(canceller=c), None) for c in (False, True)
    ]
    compared = 0
    for view in shows:
        for listener, sound in view.pairs():
            alone = CueSolution(view.show, view.cue_id, view.graph).strongest_path(listener.id, sound.id)
            every = view.paths(listener.id, sound.id)
            assert (alone is None) == (not every)
            if alone is not None:
                assert alone.gain_db == pytest.approx(every[0].gain_db)
                assert alone in [p for p in every if p.gain_db == pytest.approx(every[0].gain_db)]
                compared += 1
    assert compared > 200


def test_what_comes_straight_is_what_goes_through_no_device():
    """People in one hall hear each other through the air, and once more through the desk."""
    plain = call_show()
    hall = Place(id="hall", name="Hall", air="estimated", distance_m=3.43)
    near = plain.evolve(
        places=(hall,),
        sounds=tuple(s.evolve(place="hall") for s in plain.sounds),
        listeners=tuple(x.evolve(place="hall") for x in plain.listeners),
    )
    for show, many in ((near, 2), (plain, 0)):
        view = CueSolution(show, None)
        edges, straight = view.graph.edges, 0
        for listener, sound in view.pairs():
            ways = view.paths(listener.id, sound.id)
            expected = {p.delay_us for p in ways if not any(edges[e].device for e in p.edges)}
            assert view.direct_us.get((listener.id, sound.id), set()) == expected
            straight += len(expected)
        assert straight == many


def test_stations_sum_to_the_path_and_end_at_its_level(report):
    view = report.cues["guest-talk"].view
    for path in view.paths("audience", "ilse"):
        stops = stations(view.show, view.graph, view.state, path)
        assert sum(s.added_us for s in stops) == path.delay_us
        assert stops[-1].level == pytest.approx(view.show.sound("ilse").level + path.gain_db)
        assert stops[0].owner == "sound/ilse" and stops[-1].owner == "listener/audience"


@pytest.mark.parametrize(("tail_ms", "cancelled"), [(600.0, True), (20.0, False)])
def test_the_strip_knows_the_tail_of_a_canceller(tail_ms, cancelled):
    """A voice that comes back later than the canceller remembers is not taken out, on the strip neither."""
    view = CueSolution(call_show(canceller=True, tail_ms=tail_ms), None)
    path = view.paths("gus", "gus")[0]
    [level] = {a.gain_db for a in view.hearing.arrivals("gus", "gus") if a.delay_us == path.delay_us}
    stops = stations(view.show, view.graph, view.state, path)
    assert stops[-1].level == pytest.approx(view.show.sound("gus").level + level)
    assert path.gain_db == pytest.approx(level)
    without = CueSolution(call_show(), None).paths("gus", "gus")[0]
    assert without.delay_us == path.delay_us
    assert level == pytest.approx(without.gain_db - (40.0 if cancelled else 0.0))


def test_a_station_of_a_big_device_is_named_by_its_input(report):
    view = report.cues["guest-talk"].view
    titles = {s.title for p in view.paths("audience", "ilse") for s in stations(view.show, view.graph, view.state, p)}
    assert {"Desk 9", "Switcher mic 1", "Switcher HDMI 2"} <= titles


@given(st.lists(st.integers(0, 5_000_000), max_size=12))
def test_what_stands_under_the_stations_sums_to_the_total(amounts):
    assert sum(round(10 * x) for x in rounded_steps(amounts)) == round(10 * round(sum(amounts) / 1000, 1))


def test_a_station_tells_where_its_figures_come_from(report):
    view = report.cues["guest-talk"].view
    stops = stations(view.show, view.graph, view.state, view.paths("audience", "ilse")[0])
    told = {s.title: origins(view.show, view.graph, view.state, s) for s in stops}
    assert any("98.0 ± 12.0 ms, measured 2026-11-21" in line for line in told["Call"])
    assert any("assumed" in line for line in told["Platform"])
    assert any(line.startswith("set by its controls") for line in told["Desk 9"])


def test_a_figure_that_is_met_twice_is_off_the_same_way(report):
    view = report.cues["guest-talk"].view
    echo = view.paths("ilse", "ilse")[0]
    # the call there and back 12 each, the computer out 8 and in 8, the desk 0.9
    assert echo.plus_minus_ms == pytest.approx((24**2 + 8**2 + 8**2 + 0.9**2) ** 0.5)
    assert view.plus_minus_ms("ilse", "ilse", echo.delay_us) == echo.plus_minus_ms
    once = view.paths("ilse", "maren")[0]
    carried = view.hearing.arrivals("ilse", "maren")[0].plus_minus_ms
    assert once.plus_minus_ms == pytest.approx(carried)
    finding = next(f for f in report.findings if f.id == "own-voice-back" and f.listener == "ilse")
    assert finding.evidence["plus_minus_ms"] == pytest.approx(echo.plus_minus_ms, abs=0.05)
