"""Starter rigs: at least ten, each without faults, each drawn without overlap, each says what it costs."""

import pytest

from kymaton.app.path.layout import lay_out
from kymaton.core.checks.report import Report
from kymaton.language.starters import STARTERS, starter
from kymaton.store.showfile import parse_show, show_bytes


def test_there_are_enough_and_they_differ():
    assert len(STARTERS) >= 12 and len({s.id for s in STARTERS}) == len({s.title for s in STARTERS}) == len(STARTERS)


@pytest.mark.parametrize("made", STARTERS, ids=lambda s: s.id)
def test_a_starter_is_healthy(made):
    show = made.show()
    faults = [(f.sentence, f.reason) for f in Report(show).findings if f.severity == "fault"]
    assert faults == []
    assert parse_show(show_bytes(show), "x") == show
    assert made.about.count(".") == 2 or made.about.count(". ") == 1
    must = [w for w in show.plan if w.want == "must"]
    assert must and show.listeners


@pytest.mark.parametrize("made", STARTERS, ids=lambda s: s.id)
def test_a_starter_is_drawn_clearly(made):
    found = lay_out(made.show(), 776, 600)
    plates = list(found.plates.values())
    for i, a in enumerate(plates):
        for b in plates[i + 1 :]:
            assert a.x + a.width <= b.x or b.x + b.width <= a.x or a.bottom <= b.y or b.bottom <= a.y


def test_only_the_canceller_starter_depends_on_one():
    needing = {s.id for s in STARTERS if any(f.id == "canceller-needed" for f in Report(s.show()).findings)}
    assert needing == {"talk-with-canceller"}
    assert starter("two-rooms").title == "Two rooms"
