"""The planner against all settings tried, on small rigs made at random."""

import itertools
import random

import pytest

from kymaton.core.checks import SEVERITIES, is_watched
from kymaton.core.checks.report import Report
from kymaton.core.edits.controls import Change, apply
from kymaton.core.planning.impossible import wish_text
from kymaton.core.planning.planner import propose
from kymaton.core.planning.search import watched_of
from kymaton.core.signal.control_search import Reach
from kymaton.language.script import build

SENDS = Reach(roles=("send",), devices=("desk",))


def rig(seed: int):
    """Three talkers, two of them far away on a call each or on one, and sends and wishes by chance."""
    rng = random.Random(seed)
    calls = rng.choice([1, 2])
    shared = rng.random() < 0.5  # one aux for both returns
    lines = [
        "Ann, voice, host", "Gus, voice, guest", "Ivy, voice, guest", "add dynamic mic", "add desk 6 in 2 aux",
        "add headphones", "ann > dynamic mic 0.1 m", "dynamic mic > desk 1", "set desk 1 gain to 40",
    ]  # fmt: skip
    if calls == 1:
        lines += [
            "add call 2 guests", "add call computer", "gus > call guest 1 mic", "call guest 1 ears > gus",
            "ivy > call guest 2 mic", "call guest 2 ears > ivy", "call receiving > call computer call",
            "call computer call > call sending", "call computer headphones > desk 3-4",
            "desk aux 1 > call computer line in", "desk aux 2 > headphones", "headphones > ann",
        ]  # fmt: skip
    else:
        lines += [
            "add call 1 guest", "add call 1 guest", "add call computer", "add call computer", "gus > call guest 1 mic",
            "call guest 1 ears > gus", "ivy > call 2 guest 1 mic", "call 2 guest 1 ears > ivy",
            "call receiving > call computer call", "call computer call > call sending",
            "call 2 receiving > call computer 2 call", "call computer 2 call > call 2 sending",
            "call computer headphones left > desk 3", "call computer 2 headphones left > desk 4",
        ]  # fmt: skip
        lines += (
            ["add y lead", "desk aux 1 > y lead", "y lead 1 > call computer line in",
             "y lead 2 > call computer 2 line in"]
            if shared
            else ["desk aux 1 > call computer line in", "desk aux 2 > call computer 2 line in"]
        )  # fmt: skip
    for channel, bus in itertools.product((1, 3, 4), (1, 2)):
        if rng.random() < 0.6:
            lines.append(f"set desk {channel} to aux {bus} to {rng.choice([0, -6])}")
    for who, what in itertools.permutations(("Ann", "Gus", "Ivy"), 2):
        if rng.random() < 0.5:
            lines.append(f"{who} {rng.choice(['must hear', 'must hear', 'must not hear'])} {what}")
    return build(lines)


def serious(report: Report) -> dict:
    found = {f.key: f.severity for r in report.cues.values() for f in r.findings if is_watched(f)}
    return found | {f.key: f.severity for f in report.rig if f.severity != "note"}


def none_worse(before: dict, after: dict) -> bool:
    return all(k in before and SEVERITIES.index(s) >= SEVERITIES.index(before[k]) for k, s in after.items())


def all_tried(report: Report) -> list[tuple[int, dict, set[str]]]:
    """All settings of the sends: how many changes, what is serious then, and which wishes are not met."""
    show = report.show
    sends = [c for c in show.controls() if SENDS.has(c) and c.id.split("/")[1] in ("ch1", "ch3", "ch4")]
    tried = []
    for turned in itertools.product((False, True), repeat=len(sends)):
        changes = [
            Change(None, c.id, c.value, 0.0 if c.value == c.minimum else c.minimum)
            for c, turn in zip(sends, turned, strict=True)
            if turn
        ]
        after = Report(apply(show, changes), report.graph, watched=True)
        unmet = {wish_text(show, f) for r in after.cues.values() for f in r.findings if is_watched(f)}
        tried.append((len(changes), serious(after), unmet))
    return tried


@pytest.mark.parametrize("seed", range(24))
def test_what_can_be_cured_is_cured_with_the_fewest_changes_and_the_rest_is_said(seed):
    report = Report(rig(seed))
    before = serious(report)
    wanted = {f.key for f in watched_of(report) if f.severity == "fault"}
    tried = all_tried(report)
    best = min((len(wanted & after.keys()), many) for many, after, _ in tried if none_worse(before, after))
    proposal = propose(report, reach=SENDS)
    after = serious(Report(apply(report.show, proposal.changes), report.graph, watched=True))
    assert not proposal.bounded and none_worse(before, after)
    assert (len(wanted & after.keys()), len(proposal.changes)) == best
    assert bool(proposal.impossible) == bool(best[0])
    for told in proposal.impossible:
        collides = set(told.collides)
        if len(collides) < 2:
            continue
        assert all(unmet & collides for _, _, unmet in tried), told.sentence  # they cannot all be met
        own, rest = told.collides[0], set().union(*(unmet for _, _, unmet in tried)) - collides
        for fewer in itertools.combinations(sorted(rest | collides - {own}), len(collides) - 2):
            assert any(not unmet & {own, *fewer} for _, _, unmet in tried), (told.sentence, fewer)
