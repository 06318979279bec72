"""Lexicographic minimax in whole steps, against all settings tried."""

import itertools

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from kymaton.core.planning.levelling import Ceiling, Row, level

MOVES = st.sampled_from([-20.0, -7.0, 0.0, 7.0, 20.0])
ROWS = st.lists(
    st.builds(
        Row,
        st.floats(-200, 200).map(lambda v: round(v, 1)),
        st.tuples(MOVES, MOVES),
        st.sampled_from([40.0, 90.0]),
        st.sampled_from([60.0, 185.0]),
    ),
    min_size=1,
    max_size=5,
)
CEILINGS = st.lists(
    st.builds(Ceiling, st.floats(0, 10), st.tuples(st.sampled_from([0.0, 7.0]), st.sampled_from([0.0, 7.0])),
              st.sampled_from([12.0, 30.0])),
    max_size=2,
)  # fmt: skip
HIGHEST = (6, 6)


def tried(rows, ceilings):
    """All settings that keep the ceilings, by their strains from the worst down, then by their sum."""
    moved = [r for r in rows if any(r.moves)]
    for x in itertools.product(*(range(h + 1) for h in HIGHEST)):
        if all(c.value + sum(m * n for m, n in zip(c.moves, x, strict=True)) <= c.most + 1e-9 for c in ceilings):
            yield sorted((r.strain(x) for r in moved), reverse=True), sum(x), x


@given(ROWS, CEILINGS)
@settings(max_examples=150, deadline=None)
def test_the_worst_then_the_next_worst_then_the_least_as_trying_all_finds_it(rows, ceilings):
    steps = level(rows, ceilings, HIGHEST, (1.0, 1.0))
    every = list(tried(rows, ceilings))
    if not every:
        assert steps is None
        return
    best = min(every, key=lambda e: ([round(s, 4) for s in e[0]], e[1]))
    assert steps is not None
    mine = sorted((r.strain(steps) for r in rows if any(r.moves)), reverse=True)
    assert mine == pytest.approx(best[0], abs=1e-3)
    least = min(e[1] for e in every if e[0] == pytest.approx(best[0], abs=1e-9))
    assert sum(steps) <= least


def test_what_nothing_moves_holds_nobody_back():
    far, near = Row(119.0, (0.0,), 40.0, 60.0), Row(59.0, (-1.0,), 40.0, 60.0)
    assert level([far, near], [], (200,), (1.0,)).tolist() == [59.0]


def test_ceilings_that_cannot_be_kept_are_told():
    assert level([Row(1.0, (1.0,), 1.0, 1.0)], [Ceiling(5.0, (0.0,), 4.0)], (3,), (1.0,)) is None
