"""Edits of the rig: each keeps the show whole; two thousand of them undo to the first."""

import pytest

from kymaton.catalogue.registry import make_device
from kymaton.core.checks.report import Report
from kymaton.core.edits import cables, cues, devices, ids, next_show, people
from kymaton.core.model import HandAction, ShowError, Want
from kymaton.core.model.show import contradictions
from kymaton.store.showfile import read_show
from tests.shows import DEMO, call_show


def test_ids_are_made_of_names_and_free():
    assert ids.free_id("Table mic", ()) == "table-mic"
    assert ids.free_id("Table mic", ("table-mic", "table-mic-2")) == "table-mic-3"
    assert ids.free_id("Sound", ()) == "sound-2" and ids.free_id("!?", ()) == "thing"


def test_a_device_goes_with_its_cables_and_all_that_is_said_of_it():
    show = devices.remove_device(read_show(DEMO), "desk")
    assert not any("desk/" in c.source + c.target for c in show.cables)
    assert not any(k.startswith("desk/") for c in show.cues for k in c.controls)
    assert Report(show).findings is not None
    show = devices.remove_device(read_show(DEMO), "switcher")
    assert all(c.on_air is None for c in show.cues)


def test_a_rename_keeps_the_id_and_renames_the_controls():
    show = devices.rename_device(read_show(DEMO), "desk", "Front desk")
    assert show.device("desk").name == "Front desk"
    assert show.control("desk/ch9/send/aux1").name == "front desk 9 to aux 1"
    with pytest.raises(ShowError, match="needs a name"):
        devices.rename_device(show, "desk", "  ")


def test_a_duplicate_has_controls_of_its_own():
    show = devices.duplicate_device(call_show(), "call")
    copy = show.device("call-2")
    assert copy.name == "Call 2" and all(c.id.startswith("call-2/") for c in copy.controls)
    uses = [u for r in copy.routes for u in r.controls]
    assert all(u.control.startswith("call-2/") for u in uses)
    assert any(u.only_from == ("call-2/gus-mic",) and u.reference == "call-2/to-studio" for u in uses)


def test_a_replacement_keeps_the_cables_that_still_fit():
    show, lost = devices.replace_device(read_show(DEMO), "desk", make_device("desk 8 in 6 aux", ()))
    before = read_show(DEMO)
    assert "the lead Phone to Desk 13" in lost and "desk 13 to main" in lost and "desk 16 gain" not in lost
    kept = [c for c in show.device("desk").controls if c.id in {x.id for x in before.device("desk").controls}]
    assert kept and all(c.value == before.control(c.id).value for c in kept)  # every setting that it can hold
    assert show.cue("song").controls == {k: v for k, v in before.cue("song").controls.items() if k in show._controls}
    targets = {c.target for c in show.cables}
    assert "desk/in8" in targets and "desk/in9" not in targets
    assert any(c.source == "desk/aux3" for c in show.cables)
    assert all(int(k.split("/")[1][2:]) <= 8 for c in show.cues for k in c.controls if k.startswith("desk/ch"))


def test_an_input_takes_one_lead_and_a_socket_one_plug():
    show = call_show()
    with pytest.raises(ShowError, match="Desk 1 is taken by Dynamic mic"):
        cables.connect(show, "computer/headphones", "desk/in1", "lead")
    with pytest.raises(ShowError, match=r"Desk aux 1 is taken by .*: one socket takes one plug. Add a y lead."):
        cables.connect(
            devices.add_device(show, make_device("headphones", (), "More")), "desk/aux1", "more/in", "TRS 6.3 mm"
        )
    ears = next(c for c in show.cables if c.target == "listener/ann")
    with pytest.raises(ShowError, match="already connected"):
        cables.connect(show, ears.source, "listener/ann", "held")
    with pytest.raises(ShowError):
        cables.connect(show, "desk/in1", "desk/in2", "lead")


def test_sounds_and_listeners_go_with_their_wishes():
    show = people.remove_listener(people.remove_sound(read_show(DEMO), "ilse"), "teo")
    assert not any(w.sound == "ilse" or w.listener == "teo" for w in show.plan)
    assert not any(c.source == "sound/ilse" or c.target == "listener/teo" for c in show.cables)


def test_cues_are_copied_moved_and_removed_with_their_wishes():
    show, copy = cues.add_cue(read_show(DEMO), "Guest talk again", like="guest-talk")
    order = [c.id for c in show.cues]
    assert order[order.index("guest-talk") + 1] == copy == "guest-talk-again"
    assert show.want("teo", "quill", copy) is Want.MUST
    faults = [(f.id, f.listener, f.sound) for f in Report(show).findings if f.cue == copy and f.severity == "fault"]
    assert len(faults) == 13
    moved = cues.move_cue(show, copy, 0)
    assert moved.cues[0].id == copy and len(moved.cues) == len(show.cues)
    assert cues.remove_cue(moved, copy).plan == read_show(DEMO).plan


def test_another_show_of_the_team_keeps_the_rig_and_clears_the_cues():
    show = next_show.started_from(read_show(DEMO), "January")
    assert (show.title, show.cues, show.date) == ("January", (), "") and show.devices == read_show(DEMO).devices
    assert {w.cues for w in show.plan} == {()}


def test_what_is_taken_away_leaves_nothing_that_names_it():
    show = read_show(DEMO)
    device = show.device("camera-a")
    sounds = tuple(s.id for s in show.sounds[:2])
    show = show.evolve(devices=tuple(d.evolve(shows=sounds) if d.id == device.id else d for d in show.devices))
    acts = (
        HandAction(kind="turn", target="desk/ch1/fader", person="maren"),
        HandAction(kind="turn", target="the lamp over the table"),
    )
    show = show.evolve(cues=(show.cues[0].evolve(hand_actions=acts), *show.cues[1:]))
    assert not list(contradictions(show))
    assert people.remove_sound(show, sounds[0]).device("camera-a").shows == sounds[1:]
    for removed, items in (
        (devices.remove_device, show.devices), (people.remove_sound, show.sounds),
        (people.remove_listener, show.listeners), (people.remove_person, show.people),
        (people.remove_place, show.places), (cues.remove_cue, show.cues),
    ):  # fmt: skip
        for item in items:
            assert not list(contradictions(removed(show, item.id)))
    without_desk = devices.remove_device(show, "desk").cues[0].hand_actions
    assert [a.target for a in without_desk] == ["the lamp over the table"]  # what a person wrote stays
