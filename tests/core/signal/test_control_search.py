"""What is to be opened for a sound to arrive, against trying every set of controls."""

import itertools

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from kymaton.core.edits.controls import Change, apply
from kymaton.core.model import Show
from kymaton.core.signal.control_search import Opening, Reach, closed_value, open_value
from kymaton.core.signal.cue_solution import CueSolution
from kymaton.core.units import SILENT
from tests.shows import call_show

SHOW = call_show()
CONTROLS = [c for d in SHOW.devices for c in d.controls if closed_value(c) is not None and open_value(c) is not None]
PAIRS = [(x.id, s.id) for x in SHOW.listeners for s in SHOW.sounds]


def closed(show: Show, controls) -> Show:
    return apply(show, [Change(None, c.id, c.value, closed_value(c)) for c in controls])


def opened(show: Show, ids) -> Show:
    return apply(show, [Change(None, c.id, c.value, open_value(c)) for c in CONTROLS if c.id in ids])


def arrives(show: Show, listener: str, sound: str) -> bool:
    return CueSolution(show, None).hearing.gain_db(listener, sound) > SILENT


@settings(max_examples=15)
@given(st.lists(st.sampled_from(CONTROLS), max_size=4, unique_by=lambda c: c.id))
def test_no_smaller_set_of_controls_lets_the_sound_arrive(shut):
    show = closed(SHOW, shut)
    opening = Opening(CueSolution(show, None))
    for listener, sound in PAIRS:
        found = opening.fewest(listener, sound)
        shut_now = {c.id for d in show.devices for c in d.controls if c.value == closed_value(c)}
        if found is None:
            assert not arrives(opened(show, shut_now), listener, sound)
            continue
        assert set(found) <= shut_now and arrives(opened(show, set(found)), listener, sound)
        for size in range(len(found)):
            assert not any(
                arrives(opened(show, set(s)), listener, sound) for s in itertools.combinations(shut_now, size)
            )


@pytest.mark.parametrize(("roles", "devices"), [(("send",), ()), ((), ("desk",)), (("send",), ("desk",))])
def test_only_the_controls_that_may_be_touched_are_opened(roles, devices):
    show = closed(SHOW, [c for c in CONTROLS if c.id in ("desk/ch2/send/aux2", "desk/ch2/mute")])
    found = Opening(CueSolution(show, None), Reach(roles, devices)).fewest("ann", "gus")
    if roles:
        assert found is None  # the mute is no send
    else:
        assert found == {"desk/ch2/send/aux2": 0.0, "desk/ch2/mute": False}
