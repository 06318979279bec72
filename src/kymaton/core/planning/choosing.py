"""The cheapest settings of controls that meet all demands: a mixed-integer programme over the cues together.

A demand names settings of which at least one must hold, each in a cue: *in Talk, the send of desk 9 to aux 1 is closed,
or its mute is on*. Where a setting stands for several cues it is changed for all of them at once, or for one of them by
a setting of its own. A demand may be given up where that is said to be possible, at a price. Solved by branch and
bound, to the end [1].

1. `scipy.optimize.milp`; Huangfu and Hall, Math. Prog. Comp. 10 (2018).
"""

import math
from collections.abc import Callable, Collection, Hashable, Iterable, Sequence
from typing import NamedTuple

import numpy as np
from msgspec import Struct

from kymaton.core.edits.controls import Change
from kymaton.core.model import Show, Value
from kymaton.core.silence import silence

BY_HAND = 1.2  # how much dearer it is to change what a hand did on purpose in an earlier cue
MOST_NODES = 300  # of one branch and bound; chosen: a second or two, where settings for many cues hang together
LATER = 0.01  # how much dearer a way is for each second that it takes: it decides between equals
OWN_SETTING = 1.05  # how much dearer a setting for one cue is than one for all: it decides between equals


class Literal(NamedTuple):
    """A control stands so in a cue (None: the base state)."""

    cue: str | None
    control: str
    value: Value


class Need(NamedTuple):
    """What a control must not stand at for an edge to pass, and to what it can be set that it does."""

    control: str
    closes: frozenset[Value]
    opens: frozenset[Value]


class Arc(NamedTuple):
    """An edge of a way, or several in a row: from node to node, all of what it needs, and how late it makes it."""

    source: int
    target: int
    needs: tuple[Need, ...]
    late_s: float


class Way(Struct, frozen=True):
    """Something must lead from one of the starts to one of the ends, in a cue, and no later than `most_s`."""

    cue: str | None
    starts: frozenset[int]
    ends: frozenset[int]
    arcs: tuple[Arc, ...]
    most_s: float = math.inf


class Demand(Struct, frozen=True):
    """At least one of these must hold, or a way be open. What has the same `reason` is met or given up together."""

    literals: frozenset[Literal]
    reason: Hashable
    way: Way | None = None

    @property
    def cue(self) -> str | None:
        """The cue in which it is demanded; of settings that are undone for the rig as a whole that of any."""
        return self.way.cue if self.way is not None else next((x.cue for x in self.literals), None)


class Chosen(Struct, frozen=True):
    """The changes, by where they are made, and the reasons that were given up."""

    changes: tuple[Change, ...]
    given_up: frozenset[Hashable]
    exact: bool = True  # whether it is proved that nothing is cheaper


Slot = tuple[str | None, str]  # cue, control


def home(show: Show, cue: str | None, control: str) -> Slot:
    """Where the value stands that a control has in a cue: the cue's own setting, an earlier hand's, or the base."""
    if cue is None or control not in show.settings(cue):
        return (None, control)
    return (show.left_by_hand(cue).get(control, cue), control)


def choose(
    show: Show,
    demands: Sequence[Demand],
    price: Callable[[str, Value], float],
    give_up: dict[Hashable, float] | None = None,
    own_only: bool = False,
) -> Chosen | None:
    """The cheapest choice; None where the demands that cannot be given up (no price in `give_up`) collide.

    `price` is what it costs to set a control to a value, once. With `own_only` what stands for other cues stays.
    """
    give_up = give_up or {}
    return _Programme(show, _tightest(demands, give_up), price, give_up, own_only).solve()


def _tightest(demands: Sequence[Demand], give_up: Collection[Hashable]) -> list[Demand]:
    """Without demands that others meet along with their own: those that ask for the same or less."""
    kept: list[Demand] = [d for d in demands if d.way is not None]
    firm: dict[Literal, list[frozenset[Literal]]] = {}  # what cannot be given up, by each of its literals
    clauses = (d for d in dict.fromkeys(demands) if d.way is None)
    for demand in sorted(clauses, key=lambda d: (len(d.literals), d.reason in give_up)):
        if any(known <= demand.literals for literal in demand.literals for known in firm.get(literal, ())):
            continue
        kept.append(demand)
        if demand.reason not in give_up:
            for literal in demand.literals:
                firm.setdefault(literal, []).append(demand.literals)
    return kept


class _Programme:
    """Unknowns, all 0 or 1: a value stands at a slot; a cue has a value of its own; a reason is given up."""

    def __init__(
        self,
        show: Show,
        demands: Sequence[Demand],
        price: Callable[[str, Value], float],
        give_up: dict[Hashable, float],
        own_only: bool,
    ) -> None:
        self.show, self.own_only = show, own_only
        self.costs: list[float] = []
        self.rows: list[tuple[dict[int, float], float, float]] = []
        self.at: dict[tuple[Slot, Value], int] = {}  # a value stands there
        self.own: dict[tuple[Slot, Value], int] = {}  # a cue has it by itself, whatever stands for all
        self.holds: dict[Literal, int] = {}
        self.given: dict[Hashable, int] = {}
        values: dict[str, dict[Value, None]] = {}
        places: dict[tuple[str | None, str], None] = {}
        for demand in demands:
            for literal in sorted(demand.literals, key=repr):
                values.setdefault(literal.control, {})[literal.value] = None
                places[literal.cue, literal.control] = None
        self._widen(demands, values, places)
        ways = {n.control for d in demands if d.way is not None for arc in d.way.arcs for n in arc.needs}
        self.agreed = {control for control, told in values.items() if len(told) == 1 and control not in ways}
        for cue, control in places:
            values[control].setdefault(show.value(control, cue))
            values[control].setdefault(show.control(control).value)
        self.placed = set(places)
        for cue, control in places:
            self._place(cue, control, list(values[control]), price)
        for reason, cost in give_up.items():
            self.given[reason] = self._unknown(cost)
        self.flows: set[int] = set()
        for demand in demands:
            row = {self.holds[literal]: 1.0 for literal in demand.literals}
            if demand.way is not None:
                row |= self._flow(demand.way, values)
            if demand.reason in self.given:
                row[self.given[demand.reason]] = 1.0
            self.rows.append((row, 1.0, np.inf))

    def _widen(
        self,
        demands: Sequence[Demand],
        values: dict[str, dict[Value, None]],
        places: dict[tuple[str | None, str], None],
    ) -> None:
        """Take in what ways need: controls that close them as they stand, and those that another demand may close."""
        ways = [d.way for d in demands if d.way is not None]
        before = -1
        while before != len(places):
            before = len(places)
            for way in ways:
                for need in dict.fromkeys(n for arc in way.arcs for n in arc.needs):
                    shut = self.show.value(need.control, way.cue) in need.closes
                    if shut:
                        values.setdefault(need.control, {}).update(dict.fromkeys(sorted(need.opens, key=repr)))
                    if shut or need.control in values:
                        places[way.cue, need.control] = None

    def _flow(self, way: Way, values: dict[str, dict[Value, None]]) -> dict[int, float]:
        """The unknowns of a flow that only passes what is open; what arrives of it at the ends."""
        net: dict[int, dict[int, float]] = {}
        arrives: dict[int, float] = {}
        late_s: dict[int, float] = {}
        for arc in way.arcs:
            flow = self._unknown(LATER * arc.late_s)
            if way.most_s == math.inf:
                self.flows.add(flow)
            else:  # half by a soon way and half by a late one would be soon enough on the whole
                late_s[flow] = arc.late_s
            for need in arc.needs:
                if (way.cue, need.control) in self.placed:
                    passing = [v for v in values[need.control] if v not in need.closes]
                    row = {self.holds[Literal(way.cue, need.control, v)]: -1.0 for v in passing}
                    self.rows.append(({flow: 1.0, **row}, -np.inf, 0.0))
            net.setdefault(arc.source, {})[flow] = 1.0
            net.setdefault(arc.target, {})[flow] = -1.0
            if arc.target in way.ends:
                arrives[flow] = 1.0
        for node, row in net.items():  # nothing comes out of a node that has not come in
            if node not in way.starts:
                self.rows.append((row, -np.inf, 0.0))
        if late_s:
            self.rows.append((late_s, -np.inf, way.most_s))
        return arrives

    def _unknown(self, cost: float) -> int:
        self.costs.append(cost)
        return len(self.costs) - 1

    def _place(self, cue: str | None, control: str, values: list[Value], price: Callable[[str, Value], float]) -> None:
        """The unknowns of a control in a cue, and how they hang together."""
        slot = home(self.show, cue, control)
        if (slot, values[0]) not in self.at:
            stands = self.show.value(control, slot[0])
            times = BY_HAND if slot[0] not in (None, cue) else 1.0
            for value in values:
                self.at[slot, value] = self._unknown(0.0 if value == stands else times * price(control, value))
            self.rows.append(({self.at[slot, v]: 1.0 for v in values}, 1.0, 1.0))
            if self.own_only and slot[0] != cue:
                self.rows += [({self.at[slot, v]: 1.0}, 0.0, 0.0) for v in values if v != stands]
        owns: dict[Value, int] = {}
        own_helps = (
            control not in self.agreed or slot[0] is not None or self.own_only
        )  # else what helps one cue helps all
        if cue is not None and slot[0] != cue and own_helps:
            owns = {v: self._unknown(OWN_SETTING * price(control, v)) for v in values}
            self.own |= {((cue, control), v): at for v, at in owns.items()}
            self.rows.append((dict.fromkeys(owns.values(), 1.0), 0.0, 1.0))
        for value in values:  # holds ≤ what stands or is owned; and where another is owned it does not hold
            there = self.at[slot, value]
            if not owns:
                self.holds[Literal(cue, control, value)] = there
                continue
            held = self.holds[Literal(cue, control, value)] = self._unknown(0.0)
            self.rows.append(({held: 1.0, there: -1.0, owns[value]: -1.0}, -np.inf, 0.0))
            others = {at: 1.0 for v, at in owns.items() if v != value}
            self.rows.append(({held: 1.0, **others}, -np.inf, 1.0))

    def solve(self) -> Chosen | None:
        if not self.costs:
            return Chosen((), frozenset()) if not self.rows else None
        if any(not row and low > 0 for row, low, _ in self.rows):
            return None
        from scipy.optimize import Bounds, LinearConstraint, milp  # late: the window opens without it
        from scipy.sparse import coo_array

        entries = [(n, at, factor) for n, (row, _, _) in enumerate(self.rows) for at, factor in row.items()]
        where, columns, factors = zip(*entries, strict=True)
        matrix = coo_array((factors, (where, columns)), shape=(len(self.rows), len(self.costs))).tocsr()
        rules = LinearConstraint(matrix, [low for _, low, _ in self.rows], [high for _, _, high in self.rows])
        size = len(self.costs)
        with silence():
            found = milp(
                np.array(self.costs),
                integrality=np.array([0.0 if n in self.flows else 1.0 for n in range(size)]),
                bounds=Bounds(np.zeros(size), np.ones(size)),
                constraints=rules,
                options={"mip_rel_gap": 0.0, "node_limit": MOST_NODES},
            )
        if found.x is None:
            return None
        on = set(np.flatnonzero(found.x > 0.5).tolist())
        changes = [
            Change(cue, control, self.show.value(control, cue), value)
            for ((cue, control), value), at in (*self.at.items(), *self.own.items())
            if at in on and (value != self.show.value(control, cue) or ((cue, control), value) in self.own)
        ]
        order: dict[str | None, int] = {None: -1, **{c.id: n for n, c in enumerate(self.show.cues)}}
        place = {c.id: n for n, c in enumerate(self.show.controls())}
        changes.sort(key=lambda c: (order[c.cue], place[c.control]))
        given_up = frozenset(r for r, at in self.given.items() if at in on)
        return Chosen(tuple(changes), given_up, found.status == 0)


def changed_in(show: Show, changes: Iterable[Change], cue: str | None) -> dict[str, Value]:
    """What some changes set in a cue, by control."""
    found: dict[str, Value] = {}
    for change in changes:
        if change.cue == home(show, cue, change.control)[0] and change.control not in found:
            found[change.control] = change.after
        if cue is not None and change.cue == cue:
            found[change.control] = change.after
    return found
