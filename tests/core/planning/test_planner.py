"""Mix-minus proposals: they cure, they break nothing, they say when they cannot."""

import functools

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from msgspec.structs import replace

from kymaton import catalogue as kit
from kymaton.core.checks.report import Report
from kymaton.core.edits.controls import apply
from kymaton.core.model import Cable, Cue, Show, Variant, Want, Wish
from kymaton.core.planning import choosing
from kymaton.core.planning.fixes import all_fixes, find_fix, place_of
from kymaton.core.planning.planner import propose
from kymaton.store.showfile import read_show
from tests.shows import DEMO, HEALTHY, call_show, ids, listener, one_talker, setting, voice, wire, with_cues, with_plan

ECHO = {"own-voice-back", "doubled"}


def faults(report: Report) -> set[tuple[str | None, ...]]:
    return {f.key for f in report.findings if f.severity == "fault"}


def test_the_demo_proposal_ends_every_echo_and_breaks_no_wish():
    before = Report(read_show(DEMO))
    proposal = propose(before)
    after = Report(apply(before.show, proposal.changes))
    assert faults(after) < faults(before)
    assert not [f for f in after.findings if f.id == "own-voice-back" and f.severity == "fault"]
    assert not [f for f in after.findings if f.id == "doubled" and f.listener in ("ilse", "nadir")]
    assert {(c.cue, c.control) for c in proposal.changes} == {
        (None, "desk/ch9/send/aux1"), (None, "desk/ch10/send/aux1"), (None, "desk/ch8/send/aux3"),
        (None, "switcher/hdmi2/sound"), (None, "desk/ch13/mute"), ("song", "desk/ch7/fader"),
    }  # fmt: skip
    left = {f.id for f in after.findings if f.severity == "fault" and f.step != "load-in"}
    assert left == {"line-into-mic", "sound-early"} and not proposal.impossible
    assert {f.key for f in proposal.cured if f.severity == "fault"} == faults(before) - faults(after)


@pytest.mark.parametrize("most", [0, 5, 8])
def test_a_search_that_was_ended_says_so_and_calls_nothing_impossible(most):
    before = Report(read_show(DEMO))
    proposal = propose(before, most)
    assert proposal.bounded and proposal.remarks and proposal.impossible == ()
    assert len(proposal.changes) < 3
    assert faults(Report(apply(before.show, proposal.changes))) <= faults(
        before
    )  # what was found till then still holds
    whole = propose(before)
    assert not whole.bounded and whole.remarks == ()


def test_variants_of_the_rig_do_not_get_worse():
    """Without the spare microphone, Ann is heard by the send alone that would be closed for the echo."""
    plain = call_show()
    proposal = propose(Report(plain))
    assert [c.control for c in proposal.changes] == ["desk/ch2/send/aux1"]


def test_a_healthy_show_needs_no_change():
    proposal = propose(Report(read_show(HEALTHY)))
    assert proposal.changes == () and proposal.impossible == ()


@functools.cache
def demo_proposal():
    report = Report(read_show(DEMO))
    return report, propose(report).changes


@given(st.lists(st.booleans(), min_size=6, max_size=6))
@settings(deadline=None, max_examples=4)
def test_any_part_of_the_proposal_may_be_applied_alone(chosen):
    before, proposed = demo_proposal()
    changes = [c for c, on in zip(proposed, chosen, strict=True) if on]
    after = Report(apply(before.show, changes))
    assert faults(after) <= faults(before)


def test_a_cue_that_sets_the_send_itself_is_changed_in_that_cue():
    show = with_cues(
        call_show(send_db=-90.0),
        Cue(id="one", name="One"),
        Cue(id="two", name="Two", controls={"desk/ch2/send/aux1": -12.0}),
    )
    proposal = propose(Report(show))
    assert [(c.cue, c.control, c.after) for c in proposal.changes] == [("two", "desk/ch2/send/aux1", -90.0)]


def two_guests_by_phone() -> Show:
    """Two guests on lines of their own that share one aux bus: each may not hear themselves but must hear the other."""
    return Show(
        sounds=(voice("ann", person=None), voice("bob", person=None)),
        listeners=(listener("ann-ear", "guest"), listener("bob-ear", "guest")),
        devices=(
            kit.dynamic_microphone("mic"),
            kit.dynamic_microphone("mic-two"),
            kit.desk("desk", inputs=2, aux=2, gains_db={1: 52, 2: 52}, sends_db={(1, 1): -6, (2, 1): -6}),
            kit.headphones("phones"),
            kit.headphones("phones-two"),
        ),
        cables=(
            *wire(
                "sound/ann > mic/capsule 0.1",
                "sound/bob > mic-two/capsule 0.1",
                "mic/out > desk/in1",
                "mic-two/out > desk/in2",
                "desk/aux1 > phones/in",
                "phones/ears > listener/ann-ear",
                "phones-two/ears > listener/bob-ear",
            ),
            Cable(id="second", source="desk/aux1", target="phones-two/in"),
        ),
        plan=(
            Wish(listener="ann-ear", sound="ann", want=Want.MUST_NOT),
            Wish(listener="ann-ear", sound="bob", want=Want.MUST),
            Wish(listener="bob-ear", sound="bob", want=Want.MUST_NOT),
            Wish(listener="bob-ear", sound="ann", want=Want.MUST),
        ),
    )


def test_listeners_who_collide_on_one_bus_are_told_with_a_free_bus_that_does_it():
    proposal = propose(Report(two_guests_by_phone()))
    assert proposal.changes == () and len(proposal.impossible) == 2
    first = proposal.impossible[0]
    assert first.sentence == (
        "Ann-Ear can hear Ann: Ann-Ear is not to hear Ann and Bob-Ear is to hear Ann, but desk aux 1 feeds both"
    )
    assert first.buses_missing == 0 and first.ways[0].sentence == "Feed the headphones from desk aux 2"
    assert ids(first.ways[0].show, "fault") == set()
    for way in first.ways[1:]:  # a wish given up: then the rest can be had
        assert len(propose(Report(way.show)).impossible) < len(proposal.impossible)


def test_where_no_bus_is_free_the_missing_ones_are_counted_and_proved():
    """Four guests, each on a line of their own, all on one bus of a desk that has but one: three more are needed."""
    show = guests_on_one_bus(4)
    assert {x.buses_missing for x in propose(Report(show)).impossible} == {3}


def guests_on_one_bus(many: int) -> Show:
    numbers = range(1, many + 1)
    return Show(
        sounds=tuple(voice(f"s{n}", person=None) for n in numbers),
        listeners=tuple(listener(f"x{n}", "guest") for n in numbers),
        devices=(
            *(kit.dynamic_microphone(f"mic{n}") for n in numbers),
            kit.desk("desk", inputs=many, aux=1, gains_db=dict.fromkeys(numbers, 52)),
            *(kit.headphones(f"phones{n}") for n in numbers),
        ),
        cables=wire(
            *(f"sound/s{n} > mic{n}/capsule 0.1" for n in numbers),
            *(f"mic{n}/out > desk/in{n}" for n in numbers),
            *(f"desk/aux1 > phones{n}/in" for n in numbers),
            *(f"phones{n}/ears > listener/x{n}" for n in numbers),
        ),
        plan=tuple(
            Wish(listener=f"x{a}", sound=f"s{b}", want=Want.MUST_NOT if a == b else Want.MUST)
            for a in numbers
            for b in numbers
        ),
    )


def test_those_on_one_lead_are_not_promised_a_bus():
    """Two listeners at one earpiece amplifier: a bus more helps none of them."""
    show = two_guests_by_phone()
    cables = tuple(c.evolve(target="phones/in") for c in show.cables if c.id == "second")
    ears = tuple(
        c.evolve(source="phones/ears") if c.target == "listener/bob-ear" else c for c in show.cables if c.id != "second"
    )
    proposal = propose(Report(show.evolve(cables=ears)))
    assert cables and proposal.impossible
    assert all(x.buses_missing == 0 for x in proposal.impossible)
    assert not [w for x in proposal.impossible for w in x.ways if w.sentence.startswith("Feed")]


def test_where_no_way_leads_a_lead_is_proposed_that_does_it():
    show = one_talker()
    apart = show.evolve(cables=tuple(c for c in show.cables if c.target != "phones/in"))
    proposal = propose(Report(with_plan(apart, Wish(listener="bob", sound="ann", want=Want.MUST))))
    (told,) = proposal.impossible
    assert told.sentence == "Bob does not hear Ann: no way leads there, whatever is opened"
    (way,) = told.ways
    assert way.sentence == "Plug desk aux 2 into the headphones: TRS 6.3 mm lead"
    assert ("missing", "bob", "ann") not in ids(way.show)


def test_two_buses_make_it_possible():
    show = two_guests_by_phone()
    cables = tuple(c.evolve(source="desk/aux2") if c.id == "second" else c for c in show.cables)
    show = setting(
        Show.checked(**{**show.fields(), "cables": cables}), desk__ch1__send__aux2=-6.0, desk__ch2__send__aux2=-6.0
    )
    proposal = propose(Report(show))
    assert {c.control for c in proposal.changes} == {"desk/ch1/send/aux1", "desk/ch2/send/aux2"}
    assert ids(apply(show, proposal.changes), "fault") == set()


def test_a_missing_sound_is_opened_at_its_send_and_at_a_mute_where_it_is_muted():
    show = with_plan(one_talker(), Wish(listener="ann", sound="bob", want=Want.MUST))
    report = Report(show)
    fix = find_fix(report, report.cues[None].cards[0].findings)
    assert fix is not None and fix.title == "Bring up desk 2 to aux 1 to 0 dB"
    muted = setting(show, desk__ch2__mute=True)
    assert len(propose(Report(muted)).changes) == 2
    assert {c.control for c in all_fixes(Report(muted))["missing", None, None, "ann", "bob"].changes} == {
        "desk/ch2/mute", "desk/ch2/send/aux1",
    }  # fmt: skip


@pytest.mark.parametrize("path", [DEMO])
def test_every_fault_of_the_demo_has_a_fix_that_cures_it(path):
    report = Report(read_show(path))
    fixes = all_fixes(report)
    left = {changes: faults(Report(apply(report.show, changes))) for changes in {f.changes for f in fixes.values()}}
    for finding in report.findings:
        if finding.severity == "fault" and finding.step != "load-in":  # no setting makes a lead longer
            after = left[fixes[finding.key].changes]
            assert finding.key not in after and after <= faults(report)


def test_what_comes_too_softly_is_turned_up_where_it_is_below_what_is_usual():
    wish = Wish(listener="bob", sound="ann", want=Want.MUST)
    show = setting(with_plan(one_talker(floor=60.0), wish), desk__ch1__send__aux2=-60.0)
    assert ("missing", "bob", "ann") in ids(show)
    proposal = propose(Report(show))
    assert [(c.control, c.after) for c in proposal.changes] == [("desk/ch1/send/aux2", 0.0)]
    assert ("missing", "bob", "ann") not in ids(apply(show, proposal.changes))


def test_what_is_too_soft_though_all_stands_as_usual_is_said_as_that():
    wish = Wish(listener="bob", sound="ann", want=Want.MUST)
    show = setting(with_plan(one_talker(floor=200.0), wish), desk__ch1__send__aux2=0.0)
    (told,) = [x for x in propose(Report(show)).impossible if x.sentence.startswith("Bob")]
    assert told.sentence == "Bob does not hear Ann: a way is open, and no level on it is below what is usual"


def test_a_choice_that_was_cut_short_is_said(monkeypatch):
    calls = []
    real = choosing.choose

    def choose(*args, **more):
        found = real(*args, **more)
        calls.append(found)
        return replace(found, exact=False) if found is not None else None

    monkeypatch.setattr("kymaton.core.planning.search.choose", choose)
    proposal = propose(Report(call_show()))
    assert calls and proposal.bounded and proposal.changes and proposal.remarks


def test_what_covers_a_sound_is_turned_down_to_what_is_usual():
    """Carl hears Ann as she is usually sent; Bob, 14 dB louder at his microphone, is turned up by 10 dB besides."""
    show = setting(one_talker(), desk__ch1__send__aux2=0.0, desk__ch2__send__aux2=10.0)
    sounds = tuple(s.evolve(level=s.level - 14.0) if s.id == "ann" else s for s in show.sounds)
    listeners = tuple(x.evolve(person=None) if x.id == "bob" else x for x in show.listeners)
    wishes = (Wish(listener="bob", sound=x, want=Want.MUST) for x in ("ann", "bob"))
    show = with_plan(show.evolve(sounds=sounds, listeners=listeners), *wishes)
    report = Report(show)
    soft = tuple(f for f in report.findings if f.id == "too-soft")
    assert [(f.listener, f.sound) for f in soft] == [("bob", "ann")]
    fix = find_fix(report, soft)
    assert fix is not None and [(c.control, c.after) for c in fix.changes] == [("desk/ch2/send/aux2", 0.0)]
    assert not [f for f in Report(apply(show, fix.changes)).findings if f.id in ("too-soft", "missing")]


def test_what_a_variant_alone_has_is_cured_in_the_variant():
    show = read_show(HEALTHY)
    rain = Variant(id="rain", name="Rain", controls={"desk/ch1/send/aux1": -90.0})
    report = Report(show.evolve(variants=(*show.variants, rain)))
    assert not [f for f in report.findings if f.severity == "fault" and f.variant is None]
    missed = [f for f in report.findings if f.severity == "fault"]
    assert {f.sound for f in missed} == {"maren"} and {f.variant for f in missed} == {"rain"}
    proposal = propose(report)
    assert [(c.variant, c.cue, c.control) for c in proposal.changes] == [("rain", None, "desk/ch1/send/aux1")]
    assert {f.key for f in missed} <= {f.key for f in proposal.cured} and not proposal.remarks
    after = apply(report.show, proposal.changes)
    assert not [f for f in Report(after).findings if f.severity == "fault"]
    assert after.devices == report.show.devices and after.cues == report.show.cues
    assert place_of(report.show, proposal.changes[0]) == "Rain, all cues"


def test_what_stays_in_a_variant_is_said():
    show = read_show(HEALTHY)
    rain = Variant(id="rain", name="Rain", unplugged=tuple(c.id for c in show.cables if c.source == "sound/maren"))
    proposal = propose(Report(show.evolve(variants=(*show.variants, rain))))
    assert not proposal.changes
    assert any(r.startswith("Rain: ") and "Maren" in r and r.endswith("ends it.") for r in proposal.remarks)
