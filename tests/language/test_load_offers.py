"""How a line about the load-in may go on: every offer leads to a line that is understood."""

import pytest

from kymaton.core.model import ShowError
from kymaton.language.load_offers import load_offers
from kymaton.language.script import build, read_any
from kymaton.store.showfile import read_show
from tests.shows import HEALTHY

SHOW = read_show(HEALTHY)
ENDS = {
    "gives ": "10 A", "hangs on ": "circuit 1", "is from ": "Anna", "travels in ": "case 1",
    "has address ": "10.77.7.40", "runs on ": "nothing", "meets ": "XLR", "is ": "13", "from ": "strip A",
}  # fmt: skip


@pytest.mark.parametrize(
    ("text", "first"),
    [
        ("s", ["stock ", "strip A "]),
        ("stock 4 xlr to", ["stock 4 XLR to 3.5 mm "]),
        ("run tide", ["run Tide-gauge museum to "]),
        ("run Tide-gauge museum to sw", ["run Tide-gauge museum to Switcher "]),
        ("STRIP a g", ["strip A gives ", "strip A gives nothing"]),
        ("power desk from st", ["power desk from strip A"]),
        ("camera a usb n", ["Camera A USB need is "]),
        ("encoder s", ["Encoder sending rate is ", "Encoder supply voltage is "]),
        ("platform ", ["Platform ", "Platform sending rate is "]),
        ("desk main m", ["Desk main meets "]),
        ("desk", ["Desk ", "Desk did not come"]),
        ("mut", ["mute "]),
        ("", []),
        ("xyz", []),
    ],
)
def test_a_line_goes_on_by_one_step(text, first):
    assert load_offers(SHOW, text)[: len(first)] == first


def test_what_is_offered_of_a_device_or_supply_is_understood():
    """Each offer as it stands, or with an end that fits; nothing else is said of it than that the end is missing."""
    for name in ("Camera B", "Encoder", "Desk", "Platform", "strip A", "camera brick", "Capture"):
        for offer in load_offers(SHOW, f"{name} "):
            if offer.strip() == name or offer.endswith(
                ("did not come", "is dead")
            ):  # those are tried by the day's tests
                continue
            end = next((ENDS[e] for e in ENDS if offer.endswith(e)), "")
            if "meets" in offer:
                with_socket = offer + end
                try:
                    read_any(SHOW, with_socket)
                except ShowError as error:
                    assert "has several" in str(error), with_socket
            else:
                changed = read_any(SHOW, offer + end).show != SHOW
                assert changed or (offer + end).endswith(("nothing", "bought new")), offer + end


def test_a_run_is_not_from_a_place_to_itself_and_a_supply_counts_that_only_feeds():
    show = build(["place Stage", "add desk", "power desk from Left strip"])
    assert load_offers(show, "run stage to ") == ["run stage to Desk "]
    assert load_offers(show, "left") == ["Left strip "]
    assert load_offers(show, "left strip h")[0] == "Left strip hangs on "
