"""Leads from stock and adapters for a venue: the cheapest, against all that can be tried on small random cases."""

import itertools
import random

import pytest

from kymaton.core.loadin.leads import labels_of, leads_of
from kymaton.core.loadin.runs import bought_m
from kymaton.core.loadin.stock import BUY, taken_from
from kymaton.core.loadin.venue import bag_of, bulk_of, smallest, ways_between
from kymaton.core.model import Show, Stock
from kymaton.language.script import build

MICS = ("add desk 8 in 2 aux", "add 4 dynamic mics as Mic")


def test_leads_from_stock_are_the_shortest_that_reach():
    lines = [*MICS, "mic 1 > desk 1 4 m", "mic 2 > desk 2 9 m", "mic 3 > desk 3 9 m", "stock 1 XLR 5 m",
             "stock 1 XLR 10 m", "stock 1 XLR 20 m"]  # fmt: skip
    taken = taken_from(build(lines))
    assert [None if t.item is None else build(lines).stock[t.item].length_m for t in taken] == [5.0, 10.0, 20.0]
    more = taken_from(build([*lines, "mic 4 > desk 4 9 m"]))
    assert sum(t.item is None for t in more) == 1 and next(t.buy_m for t in more if t.item is None) in (5.0, 10.0)
    assert bought_m(9.0) == 10.0 and bought_m(130.0) == 130.0


def test_what_is_on_the_list_to_buy_is_taken_after_what_is_there_and_the_cheapest_first():
    lines = [*MICS, "mic 1 > desk 1 9 m", "mic 2 > desk 2 9 m", "stock 1 XLR 20 m", "stock 1 XLR 10 m, to buy for 30",
             "stock 1 XLR 15 m, to buy for 12"]  # fmt: skip
    show = build(lines)
    assert {show.stock[t.item].length_m for t in taken_from(show) if t.item is not None} == {20.0, 15.0}
    assert {x.taken for x in leads_of(show)} == {"20 m, in stock", "15 m, to buy"}


def test_stock_against_all_assignments():
    """60 random cases of up to four leads: as few to buy, and as little too long, as any way of taking them."""
    for seed in range(60):
        chance = random.Random(seed)
        need = [chance.choice([2.0, 4.0, 6.0, 9.0, 12.0]) for _ in range(chance.randint(1, 4))]
        there = [chance.choice([3.0, 5.0, 10.0, 15.0]) for _ in range(chance.randint(0, 4))]
        lines = [*MICS, *(f"mic {n} > desk {n} {m:g} m" for n, m in enumerate(need, 1))]
        show = build(lines).evolve(stock=tuple(Stock(kind="XLR", length_m=m) for m in there))
        best = min(
            sum(BUY if at is None else there[at] - m for m, at in zip(need, way, strict=True))
            for way in itertools.product([None, *range(len(there))], repeat=len(need))
            if len({a for a in way if a is not None}) == sum(a is not None for a in way)
            and all(a is None or there[a] >= m for m, a in zip(need, way, strict=True))
        )
        found = taken_from(show)
        cost = sum(BUY if t.item is None else show.stock[t.item].length_m - t.metres for t in found)
        assert cost == pytest.approx(best), seed


def test_each_lead_once_with_two_labels():
    lines = ["add usb desk 4 in 2 aux as Desk", "add computer mix 4 in as Mix", "desk usb 1 > mix 1",
             "desk usb 2 > mix 2", "add call computer as Caller", "add call 2 guests", "caller call > call sending",
             "call receiving > caller call", "caller headphones > desk 3-4"]  # fmt: skip
    show = build(lines)
    leads = leads_of(show)
    assert len(leads) == 3  # one USB plug, one network lead, one lead that splits
    every = [c for lead in leads for c in lead.cables]
    assert sorted(every) == sorted(c.id for c in show.cables) and len(set(every)) == len(every)
    assert {x.kind for x in leads} == {"USB 3", "network", "3.5 mm to 2 x TS"}
    labels = labels_of(show)
    assert len(labels) == 2 * len(leads) and len({x.number for x in labels}) == len(leads)
    first, second = labels[:2]
    assert (first.here, first.there) == (second.there, second.here) and first.code == second.code


def test_a_bag_for_a_venue():
    """XLR or TRS for the main output; XLR alone is one lead, TRS one more; phono and 3.5 mm by their own leads."""
    show = build(["add desk 4 in 1 aux", "desk main meets XLR, TRS"])
    bag = bag_of(show)
    assert not bag.uncovered and {(p, s) for p, s, _ in bag.ways} == {("desk/main", "XLR"), ("desk/main", "TRS 6.3 mm")}
    assert bag.bulk == pytest.approx(min(2.0, 1.3))  # an XLR lead, and an adapter on it
    none = bag_of(build(["add desk 4 in 1 aux", "desk main meets XLR, VGA"]))
    assert none.uncovered == (("desk/main", "VGA"),)
    assert bag_of(Show()).items == ()


def test_what_two_sockets_share_is_carried_twice():
    show = build(["add desk 4 in 2 aux", "desk main meets XLR", "desk aux 1 meets XLR"])
    assert sum(n for item, n in bag_of(show).items if item.endswith("lead")) == 2


def test_bags_against_all_bags():
    """50 random cases: the bulk of the best choice of ways, all of them tried."""
    items = ["XLR lead", "TRS 6.3 mm lead", "XLR to TRS adapter", "HDMI to VGA converter", "3.5 mm lead"]
    for seed in range(50):
        chance = random.Random(seed)
        cases = []
        for port in ("a", "b")[: chance.randint(1, 2)]:
            for socket in ("s", "t", "u")[: chance.randint(1, 3)]:
                ways = {tuple(sorted(chance.sample(items, chance.randint(1, 2)))) for _ in range(chance.randint(1, 3))}
                cases.append((port, socket, sorted(ways)))
        best = min(map(bulk_of_choice, itertools.product(*([(p, w) for w in ways] for p, _, ways in cases))))
        assert smallest(cases).bulk == pytest.approx(best), seed


def bulk_of_choice(choice: tuple[tuple[str, tuple[str, ...]], ...]) -> float:
    """What has to be carried when these ways are taken: of each port the most that one of its cases takes."""
    carried: dict[tuple[str, str], int] = {}
    for port, way in choice:
        for item in way:
            carried[port, item] = max(carried.get((port, item), 0), way.count(item))
    return sum(bulk_of(item) * n for (_, item), n in carried.items())


def test_ways_that_hold_others_are_left_out():
    port = build(["add desk 4 in 1 aux"]).port("desk/main")
    ways = ways_between(port, "XLR")
    assert ways and all(not (set(a) < set(b)) for a in ways for b in ways)
