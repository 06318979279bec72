"""Proposals and fixes on shows made wrong at random: whatever is applied, nothing is worse anywhere."""

import random

import pytest

from kymaton.core.checks import SEVERITIES, Finding, is_watched
from kymaton.core.checks.report import Report
from kymaton.core.edits.controls import Change, apply
from kymaton.core.edits.wishes import set_want
from kymaton.core.model import Show, Want
from kymaton.core.planning.curing import faults
from kymaton.core.planning.fixes import find_fix
from kymaton.core.planning.planner import propose
from kymaton.core.signal.control_search import closed_value, open_value
from kymaton.language.script import read_any
from kymaton.language.starters import STARTERS
from kymaton.store.showfile import read_show
from tests.shows import DEMO, HEALTHY


def spoilt(seed: int) -> Show:
    """A starter, or the demo, with some controls set wrongly, in some cue or in all, and some wishes changed."""
    rng = random.Random(seed)
    start = rng.choice([*STARTERS, DEMO, HEALTHY])
    show = read_show(start) if start in (DEMO, HEALTHY) else start.show()
    if rng.random() < 0.5 and show.variants == ():
        show = read_any(show, "variant Rain").show
    controls = [c for c in show.controls() if closed_value(c) is not None and not c.elsewhere]
    if show.variants:
        others = {c.id: closed_value(c) for c in rng.sample(controls, 2)}
        show = show.evolve(variants=(show.variants[0].evolve(controls=others), *show.variants[1:]))
    for _ in range(rng.randint(2, 8)):
        control = rng.choice(controls)
        cue = rng.choice([None, None, *(c.id for c in show.cues)])
        now = show.value(control.id, cue)
        value = open_value(control) if now == closed_value(control) else closed_value(control)
        assert value is not None
        show = apply(show, [Change(cue, control.id, now, value)])
    for _ in range(rng.randint(0, 4)):
        listener, sound = rng.choice(show.listeners), rng.choice(show.sounds)
        cue = rng.choice([None, *(c.id for c in show.cues)])
        show = set_want(show, listener.id, sound.id, cue, rng.choice(list(Want)))
    return show


def serious(report: Report) -> dict[object, Finding]:
    found: dict[object, Finding] = {}
    for variant, whole in ((None, report), *report.variants.items()):
        findings = [f for r in whole.cues.values() for f in r.findings if is_watched(f)]
        if variant is None:
            findings += [f for f in whole.rig if f.severity != "note"]
        found |= {(variant, f.key): f for f in findings}
    return found


def worse(before: dict[object, Finding], after: dict[object, Finding]) -> list[str]:
    return [
        f.sentence
        for key, f in after.items()
        if key not in before or SEVERITIES.index(f.severity) < SEVERITIES.index(before[key].severity)
    ]


def look_at(seed: int) -> tuple[int, int, int]:
    """Faults before, after the proposal, and how many it calls impossible; raises where something is worse."""
    show = spoilt(seed)
    report = Report(show)
    before = serious(report)
    proposal = propose(report)
    left = Report(apply(show, proposal.changes))
    after = serious(left)
    assert set(worse(before, after)) <= {f.sentence for f in proposal.brings}, (seed, worse(before, after))
    assert all(f.id.startswith("sound-") for f in proposal.brings)
    stays = list(faults(left))
    assert proposal.bounded or bool(stays) == bool(proposal.impossible), (seed, [f.sentence for f in stays])
    rng = random.Random(seed)
    cards = [card for cue in report.cues.values() for card in cue.cards if card.severity != "note"]
    for card in rng.sample(cards, min(3, len(cards))):
        fix = find_fix(report, card.findings)
        if fix is not None:
            fixed = serious(Report(apply(show, fix.changes)))
            told = {f.sentence for f in fix.brings}  # cautions in place of faults
            assert set(worse(before, fixed)) <= told, (seed, card.sentence, worse(before, fixed))
            assert all(f.id.startswith("sound-") for f in fix.brings)
            stay = [f.sentence for f in card.findings if (None, f.key) in fixed]
            assert not stay or card.first.id.startswith("sound-"), (seed, stay)
    return len([f for f in before.values() if f.severity == "fault"]), len(stays), len(proposal.impossible)


@pytest.mark.parametrize("seed", range(1000, 1006))
def test_nothing_is_worse_after_a_proposal_or_a_fix(seed):
    look_at(seed)
