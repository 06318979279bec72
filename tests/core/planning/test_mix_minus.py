"""Mix-minus proposals: they cure, they break nothing, they say when they cannot."""

import networkx as nx
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from kymaton import catalogue as kit
from kymaton.core.checks.report import Report
from kymaton.core.edits.controls import Change, apply
from kymaton.core.model import Cable, Cue, Show, Want, Wish
from kymaton.core.planning.fixes import Effort, WhatIf, all_fixes, find_fix
from kymaton.core.planning.mix_minus import fewest_colours, propose
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
    assert {c.control for c in proposal.changes} == {
        "desk/ch9/send/aux1", "desk/ch10/send/aux1", "desk/ch8/send/aux3",
    }  # fmt: skip
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


def test_a_setting_is_given_up_at_the_first_cue_that_speaks_against_it():
    """Muting the call cures the echo and takes the guests away everywhere: of seven cues one or two are solved."""
    report = Report(read_show(DEMO))
    effort = Effort(100)
    trial = WhatIf(report, effort)
    echo = next(f for f in report.findings if f.id == "own-voice-back" and f.listener == "ilse")
    changes = [Change(None, c, report.show.control(c).value, True, "") for c in ("desk/ch9/mute", "desk/ch10/mute")]
    assert trial.cured(changes, {echo.key}, echo.cue) is None
    assert 100 - effort.left <= 2 < len(report.show.cues)


def test_a_healthy_show_needs_no_change():
    proposal = propose(Report(read_show(HEALTHY)))
    assert proposal.changes == () and proposal.impossible == ()


@given(st.lists(st.booleans(), min_size=3, max_size=3))
@settings(deadline=None, max_examples=8)
def test_any_part_of_the_proposal_may_be_applied_alone(chosen):
    before = Report(read_show(DEMO))
    changes = [c for c, on in zip(propose(before).changes, chosen, strict=True) if on]
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


def test_listeners_who_collide_on_one_bus_are_named_with_the_buses_missing():
    proposal = propose(Report(two_guests_by_phone()))
    assert proposal.changes == ()
    assert {x.buses_missing for x in proposal.impossible} == {1}
    assert (
        "share desk aux 1" in proposal.impossible[0].sentence
        and "1 more bus is needed" in proposal.impossible[0].sentence
    )


def test_two_buses_make_it_possible():
    show = two_guests_by_phone()
    cables = tuple(c.evolve(source="desk/aux2") if c.id == "second" else c for c in show.cables)
    show = setting(
        Show.checked(**{**show.fields(), "cables": cables}), desk__ch1__send__aux2=-6.0, desk__ch2__send__aux2=-6.0
    )
    proposal = propose(Report(show))
    assert {c.control for c in proposal.changes} == {"desk/ch1/send/aux1", "desk/ch2/send/aux2"}
    assert ids(apply(show, proposal.changes), "fault") == set()


def test_a_missing_sound_is_opened_at_its_send_and_not_through_a_mute():
    show = with_plan(one_talker(), Wish(listener="ann", sound="bob", want=Want.MUST))
    report = Report(show)
    fix = find_fix(report, report.cues[None].cards[0].findings)
    assert fix is not None and fix.title == "Bring up desk 2 to aux 1 to 0 dB"
    muted = setting(show, desk__ch2__mute=True)
    assert propose(Report(muted)).changes == ()
    assert {c.control for c in all_fixes(Report(muted))["missing", None, None, "ann", "bob"].changes} == {
        "desk/ch2/mute", "desk/ch2/send/aux1",
    }  # fmt: skip


@pytest.mark.parametrize("path", [DEMO])
def test_every_fault_of_the_demo_has_a_fix_that_cures_it(path):
    report = Report(read_show(path))
    fixes = all_fixes(report)
    for finding in report.findings:
        if finding.severity == "fault":
            left = faults(Report(apply(report.show, fixes[finding.key].changes)))
            assert finding.key not in left and left <= faults(report)


@given(st.integers(0, 7), st.sets(st.tuples(st.integers(0, 6), st.integers(0, 6))))
def test_fewest_colours_is_exact(size, pairs):
    graph = nx.Graph()
    graph.add_nodes_from(range(size))
    graph.add_edges_from((a, b) for a, b in pairs if a != b and a < size and b < size)

    def colourable(k: int, node: int = 0, colours: tuple[int, ...] = ()) -> bool:
        if node == size:
            return True
        near = {colours[m] for m in graph[node] if m < node}
        return any(colourable(k, node + 1, (*colours, c)) for c in range(k) if c not in near)

    assert fewest_colours(graph) == next(k for k in range(size + 1) if colourable(k))
