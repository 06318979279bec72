"""What a hand can do about the load-in: each is proved by looking for the finding again."""

import pytest

from kymaton.core.checks.registry import find_in_rig
from kymaton.core.planning.by_hand import CURES, cure_of
from kymaton.language.script import build
from kymaton.store.showfile import read_show
from tests.core.checks.test_wiring import CASES
from tests.core.loadin.test_usb import HUBBED
from tests.shows import DEMO


@pytest.mark.parametrize("id", CURES)
def test_each_cure_ends_what_it_is_for_and_brings_nothing_worse(id):
    show = build(HUBBED) if id.startswith("usb") else CASES[id][0]
    finding = next(f for f in find_in_rig(show) if f.id == id)
    cure = cure_of(show, finding)
    assert cure is not None and cure.title and cure.text.endswith(".")
    before, after = find_in_rig(show), find_in_rig(cure.show)
    assert finding.key not in {f.key for f in after}
    for severity in ("fault", "caution"):
        assert sum(f.severity == severity for f in after) <= sum(f.severity == severity for f in before)


def test_what_no_plugging_ends_is_not_promised():
    for id in ("usb-too-full", "usb-power-short"):
        show = CASES[id][0]  # two captures, one hub, one socket
        assert cure_of(show, next(f for f in find_in_rig(show) if f.id == id)) is None


def test_what_nothing_ends_has_no_cure():
    show = read_show(DEMO)
    found = {f.id: cure_of(show, f) for f in find_in_rig(show) if f.step == "load-in"}
    assert found["supply-full"] is None and found["uplink-too-small"] is None
    lead, plug = found["lead-too-short"], found["usb-too-full"]
    assert lead is not None and lead.show.cable("condenser-out-to-desk-in2").length_m == 10.0
    assert plug is not None and plug.text == "Take a USB 3 lead for the capture."
