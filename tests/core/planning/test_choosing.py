"""The cheapest choice, held against all choices tried."""

import itertools

from hypothesis import given, settings
from hypothesis import strategies as st

from kymaton.core.edits.controls import apply
from kymaton.core.model import Cue
from kymaton.core.planning.choosing import OWN_SETTING, Demand, Literal, changed_in, choose
from tests.shows import one_talker, with_cues

SENDS = ("desk/ch1/send/aux1", "desk/ch1/send/aux2", "desk/ch2/send/aux1")
SHOW = with_cues(
    one_talker(),
    Cue(id="one", name="One"),
    Cue(id="two", name="Two", controls={SENDS[2]: -6.0}),
    Cue(id="three", name="Three"),
)
LITERALS = st.builds(
    Literal, st.sampled_from(("one", "two", "three")), st.sampled_from(SENDS), st.sampled_from((-90.0, 0.0))
)
DEMANDS = st.lists(
    st.builds(Demand, st.frozensets(LITERALS, min_size=1, max_size=2), st.sampled_from("abc")), min_size=1, max_size=4
)


def price(control: str, value: object) -> float:
    return 1.0 if control.endswith("aux1") else 1.4


def by_trying(demands, give_up) -> float:
    """The cost of the cheapest of all settings of the sends, for all cues and in each."""
    best = float("inf")
    for reasons in itertools.chain.from_iterable(itertools.combinations(give_up, n) for n in range(len(give_up) + 1)):
        cost = sum(give_up[r] for r in reasons)
        best = min(best, cost + settled([d for d in demands if d.reason not in reasons]))
    return best


def settled(demands) -> float:
    best = float("inf")
    slots = [(cue, c) for c in SENDS for cue in (None, "one", "two", "three")]
    used = [s for s in slots if any(x.control == s[1] and s[0] in (None, x.cue) for d in demands for x in d.literals)]
    for values in itertools.product((None, -90.0, 0.0), repeat=len(used)):
        chosen = {s: v for s, v in zip(used, values, strict=True) if v is not None}
        cost = 0.0
        for (cue, control), _ in chosen.items():
            own = cue is not None and control not in SHOW.cue(cue).controls
            cost += price(control, 0.0) * (OWN_SETTING if own else 1.0)
        if cost < best and all(any(stands(chosen, x) == x.value for x in d.literals) for d in demands):
            best = cost
    return best


def stands(chosen, literal):
    if (literal.cue, literal.control) in chosen:
        return chosen[literal.cue, literal.control]
    if (None, literal.control) in chosen and literal.control not in SHOW.cue(literal.cue).controls:
        return chosen[None, literal.control]
    return SHOW.value(literal.control, literal.cue)


@given(DEMANDS, st.dictionaries(st.sampled_from("ab"), st.sampled_from((1.2, 3.0))))
@settings(deadline=None, max_examples=12)
def test_the_choice_is_the_cheapest_of_all(demands, give_up):
    best = by_trying(demands, give_up)
    found = choose(SHOW, demands, price, give_up)
    if found is None:
        assert best == float("inf")
        return
    cost = sum(give_up[r] for r in found.given_up)
    for change in found.changes:
        own = change.cue is not None and change.control not in SHOW.cue(change.cue).controls
        cost += price(change.control, change.after) * (OWN_SETTING if own else 1.0)
    assert abs(cost - best) < 1e-6
    after = apply(SHOW, found.changes)
    for demand in demands:
        met = any(after.value(x.control, x.cue) == x.value for x in demand.literals)
        assert met or demand.reason in found.given_up
    for cue in ("one", "two", "three"):
        for control, value in changed_in(SHOW, found.changes, cue).items():
            assert after.value(control, cue) == value
