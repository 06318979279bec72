"""The plan by default: what is wished until somebody decides, and how far it goes."""

import pytest

from kymaton.core.checks.report import Report
from kymaton.core.edits.wishes import set_want
from kymaton.core.model import Cue, Listener, Person, Show, Want, Wish
from kymaton.core.model.people import SoundKind
from kymaton.core.model.policy import POLICIES
from tests.shows import call_show, ids, listener, one_talker, setting, voice, with_cues, with_plan


def cast(policy: str = "talk") -> Show:
    """Ann hosts, Gus is far away, Teo performs; with one sound of each kind."""
    sounds = [voice("ann"), voice("gus"), voice("teo"), voice("horn", person="teo", kind="instrument")]
    sounds += [voice(k, person=None, kind=k) for k in ("playback", "alert", "click", "talkback", "phone", "room")]
    return Show(
        policy=policy,  # type: ignore[arg-type]
        people=tuple(Person(id=p, name=p.title()) for p in ("ann", "gus", "teo")),
        sounds=tuple(s.evolve(private=s.kind in ("talkback", "phone")) for s in sounds),
        listeners=(
            listener("audience", "audience"), listener("card", "recorder"), listener("gus", "guest", person="gus"),
            listener("ann", "host", person="ann"), listener("teo", "performer", person="teo"),
            listener("hall", "room"), listener("op", "operator"),
        ),
        cues=(Cue(id="a", name="A"), Cue(id="b", name="B", note="Before air: a word with Gus")),
    )  # fmt: skip


def wants(show: Show, listener_: str, want: Want, cue: str | None = "a") -> set[str]:
    return {s.id for s in show.sounds if show.want(listener_, s.id, cue) is want}


OUTSIDE = ({"ann", "gus", "teo", "horn", "playback"}, {"click", "talkback", "phone"})


@pytest.mark.parametrize(
    ("who", "must", "must_not"),
    [
        ("audience", *OUTSIDE),
        ("card", *OUTSIDE),
        ("gus", {"ann", "teo", "horn", "playback"}, {"gus", "click", "phone"}),
        ("ann", {"gus", "playback"}, set()),
        ("teo", {"gus", "playback"}, set()),
        ("hall", {"gus", "playback"}, {"ann", "teo", "horn", "click", "talkback", "phone"}),
        ("op", set(), set()),
    ],
)
def test_the_talk(who, must, must_not):
    show = cast()
    assert wants(show, who, Want.MUST) == must and wants(show, who, Want.MUST_NOT) == must_not


def test_before_air_nobody_outside_hears_the_talk_and_nothing_is_asked_for():
    show = cast()
    assert wants(show, "audience", Want.MUST_NOT, "b") == {"ann", "gus", "teo", "click", "talkback", "phone"}
    assert {x.id for x in show.listeners if wants(show, x.id, Want.MUST, "b")} == set()
    plain = show.evolve(cues=(Cue(id="b", name="B", before_air=True),))
    assert wants(plain, "card", Want.MUST_NOT, "b") == wants(show, "card", Want.MUST_NOT, "b")


def test_policies_differ_where_they_say():
    assert wants(cast("music"), "hall", Want.MUST_NOT) == {"click", "talkback", "phone"}
    assert "gus" in wants(cast("lesson"), "op", Want.MUST)
    two = cast("lesson").evolve(listeners=(*cast().listeners, listener("ada", "guest", person="ada")))
    assert two.want("ada", "gus", None) is Want.ANY
    assert wants(cast("meeting"), "op", Want.MUST) == {"gus", "playback"}
    assert set(POLICIES) == {"talk", "music", "lesson", "meeting"}


def test_a_private_sound_stays_inside_whatever_its_kind():
    show = cast().evolve(sounds=(voice("ann", private=True),))
    assert show.want("audience", "ann", "a") is Want.MUST_NOT and show.want("gus", "ann", "a") is Want.ANY


def test_what_is_decided_goes_before_and_ends_what_was_asked_by_default():
    show = set_want(cast(), "audience", "ann", "a", Want.ANY)
    assert show.want("audience", "ann", "a") is Want.ANY
    assert show.want("audience", "ann", None) is Want.ANY  # somebody has decided, for another cue
    assert show.want("audience", "ann", "b") is Want.MUST_NOT  # silence is asked for all the same
    refused = set_want(cast(), "audience", "ann", None, Want.ANY)
    assert refused.want("audience", "ann", "a") is Want.ANY


def test_an_edit_forgets_what_was_looked_up():
    show = cast()
    assert show.want("hall", "ann", "a") is Want.MUST_NOT
    assert show.evolve(policy="music").want("hall", "ann", "a") is Want.ANY


# how far a default goes


def unplanned(*wishes: Wish) -> Show:
    return call_show(send_db=-90.0).evolve(plan=wishes)


def test_a_default_that_is_not_met_is_found():
    show = unplanned()
    assert not {i for i in ids(show) if i[0] == "missing"}
    silent = setting(show, desk__ch1__send__aux1=-90.0)
    assert ("missing", "gus", "ann") in ids(silent, "fault")
    without = set_want(silent, "gus", "ann", None, Want.ANY)
    assert ("missing", "gus", "ann") not in ids(without)


def test_what_the_stage_misses_by_default_is_a_caution():
    show = one_talker().evolve(sounds=(*one_talker().sounds, voice("track", person=None, kind="playback")),
        cables=(*one_talker().cables, one_talker().cables[2].evolve(id="x", source="sound/track")),
    )  # fmt: skip
    show = setting(show, desk__ch2__send__aux1=-90.0)
    assert ("missing", "ann", "track") in ids(show, "caution")
    decided = with_plan(show, Wish(listener="ann", sound="track", want=Want.MUST))
    assert ("missing", "ann", "track") in ids(decided, "fault")


def test_what_is_not_played_in_a_cue_is_not_missed_there_but_never_heard_is():
    muted = {"desk/ch1/mute": True}
    show = with_cues(unplanned(), Cue(id="talk", name="Talk"), Cue(id="song", name="Song", controls=muted))
    assert not [i for i in ids(show) if i[0] == "missing" and i[2] == "ann"]
    never = with_cues(show, Cue(id="talk", name="Talk", controls=muted), Cue(id="song", name="Song", controls=muted))
    report = Report(never)
    assert report.never_heard == {"ann"}
    assert {(f.cue, f.listener) for f in report.findings if f.id == "missing"} == {("talk", "gus"), ("song", "gus")}


def test_before_anything_is_connected_nothing_is_missed():
    show = call_show().evolve(devices=(), cables=(), plan=())
    assert not ids(show, "fault") and not ids(show, "caution")


def test_ends_that_hang_loose_are_told_once_in_the_rig():
    whole = call_show(send_db=-90.0)
    show = whole.evolve(plan=(), cables=tuple(c for c in whole.cables if c.source != "sound/ann"))
    assert {i[0] for i in ids(show, "fault")} == {"nothing-picks-up"}
    deaf = whole.evolve(plan=(), cables=tuple(c for c in whole.cables if c.target != "listener/gus"))
    assert {i[0] for i in ids(deaf, "fault")} == {"nothing-arrives"}


def test_the_room_may_hear_people_through_its_air_but_not_by_its_loudspeakers_unasked():
    from kymaton import catalogue as kit
    from kymaton.core.model import Place
    from tests.shows import wire

    def hall(send_db: float) -> Show:
        return Show(
            places=(Place(id="hall", name="Hall", air="estimated", distance_m=4.0),),
            people=(Person(id="ann", name="Ann"),),
            sounds=(voice("ann", place="hall"),),
            listeners=(Listener(id="hall", name="Hall", kind="room", place="hall"),),
            devices=(
                kit.dynamic_microphone("mic"), kit.loudspeakers("box"),
                kit.desk("desk", inputs=1, aux=1, gains_db={1: 40}, sends_db={(1, 1): send_db}),
            ),
            cables=wire("sound/ann > mic/capsule 0.1", "mic/out > desk/in1", "desk/aux1 > box/in",
                        "box/air > listener/hall 4"),
        )  # fmt: skip

    assert ("leak", "hall", "ann") not in ids(hall(-90.0))
    assert ("leak", "hall", "ann") in ids(hall(0.0), "caution")
    asked = with_plan(hall(0.0), Wish(listener="hall", sound="ann", want=Want.MUST))
    assert ("leak", "hall", "ann") not in ids(asked)


def test_every_kind_of_sound_has_its_place_in_the_tables():
    kinds = set(SoundKind.__args__)  # type: ignore[attr-defined]
    for policy in POLICIES.values():
        for row in policy.table.values():
            assert set(row) <= kinds | {"own", "guest", "private"}
