"""Edits of the rig: each keeps the show whole; two thousand of them undo to the first."""

import pytest
from hypothesis import HealthCheck, settings
from hypothesis import strategies as st
from hypothesis.stateful import RuleBasedStateMachine, initialize, precondition, rule

from kymaton.catalogue.registry import KINDS, make_device
from kymaton.core.model import Show, ShowError, Want, rig
from kymaton.core.model.edit import set_want
from kymaton.core.patch import read_patch
from kymaton.core.report import Report
from kymaton.store.showfile import parse_show, read_show, show_bytes
from tests.shows import DEMO, call_show, ids, voice


def test_ids_are_made_of_names_and_free():
    assert rig.free_id("Table mic", ()) == "table-mic"
    assert rig.free_id("Table mic", ("table-mic", "table-mic-2")) == "table-mic-3"
    assert rig.free_id("Sound", ()) == "sound-2" and rig.free_id("!?", ()) == "thing"


def test_a_device_goes_with_its_cables_and_all_that_is_said_of_it():
    show = rig.remove_device(read_show(DEMO), "desk")
    assert not any("desk/" in c.source + c.target for c in show.cables)
    assert not any(k.startswith("desk/") for c in show.cues for k in c.controls)
    assert Report(show).findings is not None
    show = rig.remove_device(read_show(DEMO), "switcher")
    assert all(c.on_air is None for c in show.cues)


def test_a_rename_keeps_the_id_and_renames_the_controls():
    show = rig.rename_device(read_show(DEMO), "desk", "Front desk")
    assert show.device("desk").name == "Front desk"
    assert show.control("desk/ch9/send/aux1").name == "front desk 9 to aux 1"
    with pytest.raises(ShowError, match="needs a name"):
        rig.rename_device(show, "desk", "  ")


def test_a_duplicate_has_controls_of_its_own():
    show = rig.duplicate_device(call_show(), "call")
    copy = show.device("call-2")
    assert copy.name == "Call 2" and all(c.id.startswith("call-2/") for c in copy.controls)
    uses = [u for r in copy.routes for u in r.controls]
    assert all(u.control.startswith("call-2/") for u in uses)
    assert any(u.only_from == ("call-2/gus-mic",) and u.reference == "call-2/to-studio" for u in uses)


def test_a_replacement_keeps_the_cables_that_still_fit():
    show = rig.replace_device(read_show(DEMO), "desk", make_device("desk 8 in 6 aux", ()))
    targets = {c.target for c in show.cables}
    assert "desk/in8" in targets and "desk/in9" not in targets
    assert any(c.source == "desk/aux3" for c in show.cables)
    assert all(int(k.split("/")[1][2:]) <= 8 for c in show.cues for k in c.controls if k.startswith("desk/ch"))


def test_an_input_takes_one_lead_and_an_output_feeds_several():
    show = call_show()
    with pytest.raises(ShowError, match="Desk 1 is taken by Dynamic mic"):
        rig.connect(show, "computer/headphones", "desk/in1", "lead")
    twice = rig.connect(show, "desk/aux1", "listener/ann", "held")
    assert len([c for c in twice.cables if c.source == "desk/aux1"]) == 2
    with pytest.raises(ShowError, match="already connected"):
        rig.connect(twice, "desk/aux1", "listener/ann", "held")
    with pytest.raises(ShowError):
        rig.connect(show, "desk/in1", "desk/in2", "lead")


def test_sounds_and_listeners_go_with_their_wishes():
    show = rig.remove_listener(rig.remove_sound(read_show(DEMO), "ilse"), "teo")
    assert not any(w.sound == "ilse" or w.listener == "teo" for w in show.plan)
    assert not any(c.source == "sound/ilse" or c.target == "listener/teo" for c in show.cables)


def test_cues_are_copied_moved_and_removed_with_their_wishes():
    show, copy = rig.add_cue(read_show(DEMO), "Guest talk again", like="guest-talk")
    order = [c.id for c in show.cues]
    assert order[order.index("guest-talk") + 1] == copy == "guest-talk-again"
    assert show.want("teo", "quill", copy) is Want.MUST
    faults = [(f.id, f.listener, f.sound) for f in Report(show).findings if f.cue == copy and f.severity == "fault"]
    assert len(faults) == 11
    moved = rig.move_cue(show, copy, 0)
    assert moved.cues[0].id == copy and len(moved.cues) == len(show.cues)
    assert rig.remove_cue(moved, copy).plan == read_show(DEMO).plan


def test_another_show_of_the_team_keeps_the_rig_and_clears_the_cues():
    show = rig.started_from(read_show(DEMO), "January")
    assert (show.title, show.cues, show.date) == ("January", (), "") and show.devices == read_show(DEMO).devices
    assert {w.cues for w in show.plan} == {()}


class Editing(RuleBasedStateMachine):
    """Random edits with undo and redo between them."""

    @initialize(start=st.sampled_from(["empty", "empty", "call", "demo"]))
    def begin(self, start):
        self.first = {"empty": Show(), "demo": read_show(DEMO), "call": call_show()}[start]
        self.states, self.at = [self.first], 0

    @property
    def show(self) -> Show:
        return self.states[self.at]

    def push(self, edit) -> None:
        try:
            new = edit(self.show)
        except ShowError as error:
            assert "\n" not in str(error)
            return
        self.states = [*self.states[: self.at + 1], new]
        self.at += 1

    @rule(kind=st.sampled_from([k.words for k in KINDS]))
    def add(self, kind):
        self.push(lambda s: rig.add_device(s, make_device(kind, [d.id for d in s.devices])))

    @rule(data=st.data())
    @precondition(lambda self: self.show.devices)
    def change_device(self, data):
        id = data.draw(st.sampled_from([d.id for d in self.show.devices]))
        what = data.draw(st.sampled_from(["remove", "rename", "duplicate", "replace"]))
        kind = data.draw(st.sampled_from([k.words for k in KINDS]))
        edits = {
            "remove": lambda s: rig.remove_device(s, id),
            "rename": lambda s: rig.rename_device(s, id, data.draw(st.sampled_from(["A", "Desk", "Box 2"]))),
            "duplicate": lambda s: rig.duplicate_device(s, id),
            "replace": lambda s: rig.replace_device(s, id, make_device(kind, ())),
        }
        self.push(edits[what])

    @rule(data=st.data())
    @precondition(lambda self: self.show.devices)
    def patch(self, data):
        names = [d.name for d in self.show.devices] + [s.name for s in self.show.sounds]
        ends = names + [x.name for x in self.show.listeners]
        port = data.draw(st.sampled_from(["", " 1", " 2", " 1-2", " out", " HDMI"]))
        line = f"{data.draw(st.sampled_from(names))} > {data.draw(st.sampled_from(ends))}{port}"
        self.push(lambda s: read_patch(s, line).show)

    @rule(data=st.data())
    @precondition(lambda self: self.show.cables)
    def unplug(self, data):
        cable = data.draw(st.sampled_from([c.id for c in self.show.cables]))
        self.push(lambda s: rig.disconnect(s, [cable]))

    @rule(name=st.sampled_from(["Ada", "Bo", "Cy"]))
    def add_sound(self, name):
        id = rig.free_id(name, [s.id for s in self.show.sounds])
        self.push(lambda s: rig.add_sound(s, voice(id, person=None)))

    @rule(data=st.data())
    @precondition(lambda self: self.show.sounds)
    def remove_sound(self, data):
        id = data.draw(st.sampled_from([s.id for s in self.show.sounds]))
        self.push(lambda s: rig.remove_sound(s, id))

    @rule(data=st.data())
    @precondition(lambda self: self.show.sounds and self.show.listeners)
    def wish(self, data):
        listener = data.draw(st.sampled_from([x.id for x in self.show.listeners]))
        sound = data.draw(st.sampled_from([s.id for s in self.show.sounds]))
        cue = data.draw(st.sampled_from([None, *(c.id for c in self.show.cues)]))
        self.push(lambda s: set_want(s, listener, sound, cue, data.draw(st.sampled_from(list(Want)))))

    @rule(data=st.data())
    def cues(self, data):
        have = [c.id for c in self.show.cues]
        what = data.draw(st.sampled_from(["add", "copy", "move", "remove"] if have else ["add"]))
        id = data.draw(st.sampled_from(have)) if have else ""
        edits = {
            "add": lambda s: rig.add_cue(s, "New")[0],
            "copy": lambda s: rig.add_cue(s, "Copy", like=id)[0],
            "move": lambda s: rig.move_cue(s, id, data.draw(st.integers(0, 9))),
            "remove": lambda s: rig.remove_cue(s, id),
        }
        self.push(edits[what])

    @rule(steps=st.integers(1, 5))
    def undo(self, steps):
        self.at = max(0, self.at - steps)

    @rule(steps=st.integers(1, 5))
    def redo(self, steps):
        self.at = min(len(self.states) - 1, self.at + steps)

    def teardown(self):
        if hasattr(self, "states"):
            for state in (self.show, self.states[-1]):
                assert parse_show(show_bytes(state), "x.kymaton") == state
            assert self.states[0] == self.first
            ids(self.show)  # whatever came of it can be checked


Editing.TestCase.settings = settings(
    max_examples=40, stateful_step_count=50, deadline=None, suppress_health_check=list(HealthCheck)
)
test_two_thousand_random_edits = Editing.TestCase
