"""The day changes: a device is missing; the way that is taken is the best of those that were tried, and proved."""

import pytest

from kymaton.core.checks.report import Report
from kymaton.core.errors import ShowError, Stopped
from kymaton.core.planning.day import told, ways_without
from kymaton.language.script import build, read_any
from kymaton.store.showfile import read_show
from tests.shows import HEALTHY

DESKS = ("Ada, voice, host", "Bob, operator", "add dynamic mic", "add desk 4 in 1 aux as Desk", "add headphones",
         "ada > dynamic mic 0.1 m", "dynamic mic > desk 1", "desk aux 1 > headphones", "headphones > bob",
         "set desk 1 gain to 54", "set desk 1 to aux 1 to 0", "Bob must hear Ada")  # fmt: skip


def test_a_spare_takes_the_place_with_all_its_settings():
    show = build([*DESKS, "add desk 4 in 1 aux as Other"])
    best, *rest = ways_without(show, "desk")
    assert best.lost == () and told(best).startswith("the other takes its place, 2 leads to plug")
    assert best.faults == Report(best.show).count("fault") <= min(w.faults for w in rest)
    assert best.show.control("other/ch1/gain").value == 54.0 and "desk" not in {d.id for d in best.show.devices}
    assert best.faults == Report(show).count("fault")


def test_without_a_spare_it_is_said_what_is_lost():
    best = ways_without(build(DESKS), "desk")[0]
    assert any("Bob does not hear Ada" in lost for lost in best.lost)


def test_another_camera_goes_on_air_and_the_delays_follow():
    show = read_show(HEALTHY)
    best = ways_without(show, "camera-b")[0]
    assert best.faults == 0 and best.lost == () and best.settings
    assert best.show.cue("song").on_air == "switcher/hdmi1"
    assert not [f for f in Report(best.show).findings if f.severity == "fault"]


def test_a_microphone_in_use_takes_over_a_mouth():
    best = ways_without(read_show(HEALTHY), "table-mic")[0]
    maren = next(c for c in best.show.cables if c.source == "sound/maren")
    assert maren.target == "condenser/capsule" and told(best).startswith("the condenser takes over, 1 lead to plug")


def test_it_is_a_line_and_can_be_stopped():
    show = build([*DESKS, "add desk 4 in 1 aux as Other", "place Hall", "put desk in Hall"])
    patch = read_any(show, "the desk is dead")
    assert patch.text.startswith("without Desk: the other takes its place") and patch.show != show
    small = read_any(show, "Small room instead of the hall")
    place = small.show.place_of(small.show.device("desk").place)
    assert place is not None and place.name == "Small room"
    with pytest.raises(ShowError, match="No place is called"):
        read_any(show, "Small room instead of attic")
    with pytest.raises(ShowError, match="No device is called"):
        read_any(show, "the drone did not come")
    with pytest.raises(Stopped):
        ways_without(show, "desk", lambda part: False)


def test_runs_to_another_room_are_measured_anew():
    show = build([*DESKS, "place Hall", "put desk in Hall", "run Hall to Lobby 12 m"])
    patch = read_any(show, "Small room instead of Hall")
    assert patch.show.runs == () and "1 run to be measured anew" in patch.text
