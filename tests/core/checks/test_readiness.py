"""How far each step of the work is."""

import pytest

from kymaton.core.checks.readiness import readiness
from kymaton.core.checks.report import Report
from kymaton.core.model import Show, Want, Wish
from kymaton.language.script import build
from kymaton.store.demo import HEALTHY, demo_show
from kymaton.store.showfile import read_show
from tests.shows import one_talker, setting

STEPS = ("brief", "path", "hearing", "sync", "load-in")


def states(show: Show) -> dict[str, tuple[str, int]]:
    report = Report(show)
    assert readiness(report, "log") is None
    return {s: (r.state, r.faults) for s in STEPS if (r := readiness(report, s)) is not None}


def test_nothing_is_ready_where_nothing_is():
    assert states(Show()) == dict.fromkeys(STEPS, ("nothing", 0))


def test_a_rig_is_ready_to_be_brought_once_it_is_known_what_the_line_has():
    lines = ["add encoder box", "add platform", "encoder box > platform"]
    assert states(build(lines))["load-in"] == ("nothing", 0)
    assert states(build([*lines, "uplink 20 Mbit/s"]))["load-in"] == ("good", 0)
    assert states(build([*lines, "uplink 2 Mbit/s"]))["load-in"] == ("faults", 1)


def test_people_alone_make_the_brief_good_and_nothing_else():
    show = one_talker().evolve(devices=(), cables=(), plan=())
    told = states(show)
    assert told["brief"] == ("good", 0) and told["sync"] == ("nothing", 0) and told["path"][0] != "good"


def test_what_is_examined_and_good_and_how_many_faults_there_are():
    healthy = states(read_show(demo_show(HEALTHY)))
    assert healthy == dict.fromkeys(STEPS, ("good", 0))
    show = read_show(demo_show())
    report = Report(show)
    told = states(show)
    assert told["hearing"][0] == "faults"
    assert sum(many for _, many in told.values()) == sum(
        f.severity == "fault" and f.variant is None for f in report.findings
    )


@pytest.mark.parametrize(("gain", "state"), [(0.0, "good"), (-90.0, "nothing")])
def test_a_rig_through_which_nothing_comes_has_nothing_to_examine(gain, state):
    show = one_talker()
    pairs = [(x.id, s.id) for x in show.listeners for s in show.sounds]
    show = show.evolve(plan=tuple(Wish(listener=x, sound=s, want=Want.ANY) for x, s in pairs))
    for send in ("ch1/send/aux1", "ch1/send/aux2", "ch2/send/aux1", "ch2/send/aux2"):
        show = setting(show, **{f"desk__{send.replace('/', '__')}": gain})
    told = states(show)
    assert told["hearing"] == (state, 0)
