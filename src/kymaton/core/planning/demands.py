"""What a finding demands of the controls: some setting on its routes that closes them, or one that opens a way.

Each demand is necessary where levels decide nothing: a route that is heard goes on being heard until something on it
closes, and a sound arrives nowhere until something opens on the edge of where it is now.
"""

import heapq
import math
from collections import defaultdict
from collections.abc import Iterable, Iterator, Mapping
from functools import cached_property

from kymaton.core.checks import KINDS, Finding
from kymaton.core.model import Control, ControlUse, Show, Value
from kymaton.core.planning.choosing import Arc, Literal, Need, Way
from kymaton.core.signal.control_search import Reach, closed_value, closing_uses, open_value
from kymaton.core.signal.cue_solution import CueSolution
from kymaton.core.signal.graph import choice_gain_db
from kymaton.core.signal.trace import Path
from kymaton.core.units import SILENT

Clause = frozenset[Literal]
MOST_ROUTES = 40  # of one finding that are looked at together; those behind them come up in the next turn
ANOTHER = 0.2  # how much dearer it is to choose something else than to turn off
EARLIER = 4.0  # and to close the way by which it comes first, and keep a later one: dearer than any other control
WEAKENED = 2.4  # and to weaken a route, as a canceller does that may fail: as three sends
AS_WISHED = -9.0  # where the full programme with a canceller is what somebody is to get: before any send
CLOSES_DB = 20.0  # what a canceller or a choice must take away to count as closing


class Demands:
    """What findings of one cue demand, with the settings of a candidate in force.

    `as_it_is` is the show without these; `spare` are controls that close what others close as well.
    """

    def __init__(
        self,
        view: CueSolution,
        reach: Reach,
        as_it_is: Show | None = None,
        spare: frozenset[str] = frozenset(),
    ) -> None:
        self.spare = spare
        self.as_it_is = as_it_is or view.show
        self.view, self.reach, self.show, self.graph = view, reach, view.show, view.graph
        self.dearer: dict[tuple[str, Value], float] = {}  # settings that are right, but not the first to think of
        self.air = set(self.graph.air_edges)
        self.src: list[int] = self.graph.src.tolist()
        self.dst: list[int] = self.graph.dst.tolist()
        self.silent: list[bool] = (self.view.state.gain_db == SILENT).tolist()
        self._to_open: dict[int, list[tuple[str, Value]] | None] = {}
        self._ways: dict[str, _Ways] = {}
        self.weakened = WEAKENED
        self._needs: dict[int, tuple[Need, ...]] = {}

    def of(self, finding: Finding) -> list[Clause]:
        """What must stand for a finding to go, but for ways; empty where no control within reach does anything."""
        cure = KINDS[finding.id].cure if finding.id in KINDS else ""
        if finding.settings:
            return self._told(finding)
        if cure == "close":
            listener = self.show.listener(finding.listener) if finding.listener is not None else None
            self.weakened = AS_WISHED if listener is not None and listener.feed == "full programme" else WEAKENED
            clauses = [self.closing(path) for path in self._routes(finding)]
            return clauses if all(clauses) else []
        if cure == "close one":
            return self._one_closed(finding)
        if cure == "break":
            return [c for c in [self._broken(finding)] if c]
        if cure == "open":
            return [c for c in [self._louder(finding)] if c]
        if cure == "sooner":
            return [c for c in [self.hurried(finding)] if c]
        return []

    def _told(self, finding: Finding) -> list[Clause]:
        if not all(self.reach.has(self.show.control(id)) for id, _ in finding.settings):
            return []
        return [frozenset({Literal(finding.cue, id, value)}) for id, value in finding.settings]

    # closing

    def _routes(self, finding: Finding) -> list[Path]:
        paths = self.view.paths(finding.listener or "", finding.sound or "")
        return [p for p in paths if p.delay_us in finding.delays_us][:MOST_ROUTES]

    def _one_closed(self, finding: Finding) -> list[Clause]:
        """One of several arrivals is to go, better the later one."""
        routes = self._routes(finding)
        strongest = [next((p for p in routes if p.delay_us == at), None) for at in finding.delays_us]
        known = sorted((p for p in strongest if p is not None), key=lambda p: p.delay_us)
        closing = [self.closing(path) for path in known]
        every = frozenset[Literal]().union(*closing)
        for earlier in closing[:-1]:
            for literal in earlier - closing[-1]:
                self.dearer[literal.control, literal.value] = EARLIER
        return [every] if every else []

    def _louder(self, finding: Finding) -> Clause:
        """Of what lets a sound through too softly, the levels that are below what is usual; of what covers it, those
        that are above.
        """
        listener = self.show.listener(finding.listener or "")
        arriving = [s for x, s in self.view.arriving if x.id == listener.id]
        covers = max(arriving, key=lambda s: self.view.level(listener, s), default=None)
        found = set()
        for sound, too_low in ((finding.sound, True), (covers.id if covers is not None else None, False)):
            own = sound == finding.sound
            path = self.view.strongest_path(listener.id, sound) if sound is not None and own == too_low else None
            for control, usual in self._levels(path.edges if path is not None else ()):
                now = float(self.show.value(control.id, self.view.cue_id))
                if (now < usual) if too_low else (now > usual):
                    found.add(Literal(self.view.cue_id, control.id, usual))
        return frozenset(found)

    def _levels(self, edges: Iterable[int]) -> Iterator[tuple[Control, float]]:
        """The levels within reach that act on some edges, each with what is usual."""
        for use in (u for e in edges for u in self.graph.edges[e].uses):
            control = self.show.control(use.control)
            usual = open_value(control)
            level = control.kind == "level" and use.gains is None and usual is not None and self._acts(use)
            if level and self.reach.has(control):
                yield control, float(usual or 0.0)

    def hurried(self, finding: Finding) -> Clause:
        """Of the delays that are set on the loudest way of what comes too late those that can make up for it."""
        found = set()
        path = self.view.strongest_path(finding.listener or "", finding.sound or "")
        over_ms = path.delay_us / 1000 - float(str(finding.evidence["most_ms"])) if path is not None else 0.0
        uses = [u for e in (path.edges if path is not None else ()) for u in self.graph.edges[e].uses]
        for control in (self.show.control(u.control) for u in uses if self._acts(u)):
            if control.kind == "delay" and self.reach.has(control):
                step, least = control.step or 1.0, control.minimum or 0.0
                now_ms = float(self.show.value(control.id, self.view.cue_id))
                less_ms = now_ms - math.ceil(over_ms / step - 1e-9) * step
                if over_ms > 0 and less_ms >= least:
                    found.add(Literal(self.view.cue_id, control.id, less_ms))
        return frozenset(found)

    def is_open(self, listener: str, sound: str) -> bool:
        """Whether a way is open, however softly a sound comes by it."""
        return self._arrives(self._starts(sound), self._ways_to(listener).ears)

    def _broken(self, finding: Finding) -> Clause:
        for loop in self.view.loops:
            if loop.ports(self.graph) == finding.ports:
                return frozenset().union(*(self._closing_at(edge, "") for edge in loop.edges))
        return frozenset()

    def closing(self, path: Path) -> Clause:
        """Settings of which each would silence a route."""
        return frozenset().union(*(self._closing_at(edge, path.sound) for edge in path.edges))

    def _closing_at(self, edge: int, sound: str) -> Clause:
        found = set()
        for use in self.graph.edges[edge].uses:
            control = self.show.control(use.control)
            if self.reach.has(control) and control.id not in self.spare and self._acts(use):
                for value in self._values_that_close(edge, use, sound):
                    found.add(Literal(self.view.cue_id, control.id, value))
                    if use.gains is not None and value != closed_value(control):
                        gone = self._gain_db(control, use, value) == SILENT
                        self.dearer[control.id, value] = ANOTHER if gone else self.weakened
        return frozenset(found)

    def _acts(self, use: ControlUse) -> bool:
        return use.when is None or self.show.value(use.when.control, self.view.cue_id) == use.when.value

    def _values_that_close(self, edge: int, use: ControlUse, sound: str) -> Iterator[Value]:
        control, now = self.show.control(use.control), self.show.value(use.control, self.view.cue_id)
        if use.side is not None:
            return
        if use.gains is None:
            value = closed_value(control)
            if value is not None and value != now and not use.only_from:
                yield value
            return
        if use.only_from and not self._concerns(edge, use, sound):
            return
        for value in control.choices:
            if value != now and self._gain_db(control, use, value) <= self._gain_db(control, use, now) - CLOSES_DB:
                yield value

    def _concerns(self, edge: int, use: ControlUse, sound: str) -> bool:
        """Whether a canceller acts on a sound."""
        numbers = [n for n, (s, _) in enumerate(self.graph.signals) if s == sound]
        return any(
            c.edge == edge and c.use == use and any(bool(c.signals[n]) for n in numbers) for c in self.graph.cancellers
        )

    def _gain_db(self, control: Control, use: ControlUse, value: Value) -> float:
        return choice_gain_db(control, value, use.gains or {}, self.view.cue.on_air if self.view.cue else None)

    # opening

    def way(self, listener: str, sound: str, most_ms: float = math.inf) -> Way | None:
        """What must lead from a sound to a listener; None where it does already, or nothing within reach opens it.

        With `most_ms` only what is there no later than that.
        """
        ways = self._ways_to(listener)
        starts = self._starts(sound)
        if not any(n in ways.to_go for n in starts):
            return None
        if most_ms == math.inf and self._arrives(starts, ways.ears):
            return None
        most_s = most_ms / 1000
        from_start_s = self._soonest_s(starts, self.usable, self.dst) if most_s < math.inf else {}
        to_end_s = self._soonest_s(ways.ears, ways.into, self.src) if most_s < math.inf else {}
        reached, queue = set(starts), list(starts)
        arcs: list[Arc] = []
        while queue:
            for edge in self.usable[queue.pop()]:
                end = self.dst[edge]
                if end not in ways.to_go:
                    continue
                late_s = self.delay_s[edge]
                if from_start_s.get(self.src[edge], 0.0) + late_s + to_end_s.get(end, 0.0) > most_s:
                    continue
                arcs.append(Arc(self.src[edge], end, self._needs_of(edge), late_s))
                if end not in reached:
                    reached.add(end)
                    queue.append(end)
        fixed = frozenset(starts) | ways.ears
        if not ways.ears & reached:
            return None
        return Way(self.view.cue_id, frozenset(starts), frozenset(ways.ears), _shortened(arcs, fixed), most_s)

    def _soonest_s(self, first: Iterable[int], beside: Mapping[int, list[int]], far: list[int]) -> dict[int, float]:
        """How late it is at each node at the earliest, from the first ones along edges: `far` is where each leads."""
        found: dict[int, float] = {}
        queue = [(0.0, node) for node in sorted(first)]
        while queue:
            late_s, node = heapq.heappop(queue)
            if node not in found:
                found[node] = late_s
                for edge in beside.get(node, ()):
                    heapq.heappush(queue, (late_s + self.delay_s[edge], far[edge]))
        return found

    @cached_property
    def delay_s(self) -> list[float]:
        """The delay of each edge."""
        return [us / 1e6 for us in self.view.state.delay_us.tolist()]

    def _arrives(self, starts: list[int], ears: set[int]) -> bool:
        """Whether an open way leads there: then nothing that is closed keeps a sound away."""
        reached, queue = set(starts), list(starts)
        while queue:
            for edge in self.usable[queue.pop()]:
                if not self.silent[edge] and self.dst[edge] not in reached:
                    reached.add(self.dst[edge])
                    queue.append(self.dst[edge])
        return bool(ears & reached)

    def _needs_of(self, edge: int) -> tuple[Need, ...]:
        """What can close an edge, and what opens it again."""
        if edge not in self._needs:
            found = (self._need(use) for use in self.graph.edges[edge].uses if not use.only_from and self._acts(use))
            self._needs[edge] = tuple(n for n in found if n is not None)
        return self._needs[edge]

    def _need(self, use: ControlUse) -> Need | None:
        control = self.show.control(use.control)
        if not self.reach.has(control) or use.side is not None:
            return None
        if use.gains is not None:
            gains = {v: self._gain_db(control, use, v) for v in control.choices}
            closes: frozenset[Value] = frozenset(v for v, gain in gains.items() if gain == SILENT)
            opens: frozenset[Value] = frozenset(v for v in gains if v not in closes and v != "follows picture")
        else:
            shut = closed_value(control)
            if shut is None:
                return None
            closes, opens = frozenset({shut}), frozenset(self._open_values(control, shut))
        return Need(control.id, closes, opens) if closes else None

    def _open_values(self, control: Control, shut: Value) -> list[Value]:
        """To what a control is opened: as it is in the show, where a candidate alone has closed it."""
        now = self.as_it_is.value(control.id, self.view.cue_id)
        opened = open_value(control)
        return [] if opened is None else [now if now != shut else opened]

    def _ways_to(self, listener: str) -> "_Ways":
        if listener not in self._ways:
            self._ways[listener] = _Ways(self, listener)
        return self._ways[listener]

    def _starts(self, sound: str) -> list[int]:
        return [int(n) for (s, _), n in zip(self.graph.signals, self.graph.signal_node, strict=True) if s == sound]

    def reached(self, sound: str) -> list[str]:
        """The ports that a sound can come to, whatever is to be opened for it."""
        found = dict.fromkeys(self._starts(sound))
        queue = list(found)
        while queue:
            for edge in self.usable[queue.pop()]:
                if self.dst[edge] not in found:
                    found[self.dst[edge]] = None
                    queue.append(self.dst[edge])
        return list(dict.fromkeys(self.graph.nodes[n][0] for n in found))

    def to_go(self, listener: str) -> dict[str, float]:
        """The ports from which a sound can come to a listener, and how far it is from there (controls, and a bit)."""
        found: dict[str, float] = {}
        for node, cost in self._ways_to(listener).to_go.items():
            found.setdefault(self.graph.nodes[node][0], cost)
        return found

    @cached_property
    def usable(self) -> defaultdict[int, list[int]]:
        """The edges from each node that are open or can be opened, without what loudspeakers give to microphones."""
        found: defaultdict[int, list[int]] = defaultdict(list)
        for edge, source in enumerate(self.src):
            if not self._by_chance(edge) and (not self.silent[edge] or self.opening(edge)):
                found[source].append(edge)
        return found

    def _by_chance(self, edge: int) -> bool:
        """Air that nobody has said, or from a loudspeaker to a microphone."""
        if edge not in self.air:
            return False
        source, target = (self.graph.nodes[n][0] for n in (self.src[edge], self.dst[edge]))
        unsaid = self.graph.edges[edge].between is not None
        return unsaid or not (source.startswith("sound/") or target.startswith("listener/"))

    def opening(self, edge: int) -> list[tuple[str, Value]] | None:
        """What opens a closed edge, of one of the controls that close it; None where nothing within reach does."""
        if edge not in self._to_open:
            self._to_open[edge] = self._opening(edge)
        return self._to_open[edge]

    def _opening(self, edge: int) -> list[tuple[str, Value]] | None:
        found: list[tuple[str, Value]] = []
        for use in closing_uses(self.view, edge):
            control = self.show.control(use.control)
            if not self.reach.has(control) or use.side is not None:
                return None
            if use.gains is not None:
                audible = [v for v in control.choices if self._gain_db(control, use, v) > SILENT]
                values: list[Value] = [v for v in audible if v != "follows picture"]
            else:
                shut = closed_value(control)
                values = [] if shut is None else self._open_values(control, shut)
            found = [(control.id, v) for v in values]
            if not found:
                return None
        return found or None


def _shortened(arcs: list[Arc], fixed: frozenset[int]) -> tuple[Arc, ...]:
    """The same ways with fewer nodes: what only one arc leads to, or from, is taken together with its neighbours."""
    out: defaultdict[int, dict[Arc, None]] = defaultdict(dict)
    into: defaultdict[int, dict[Arc, None]] = defaultdict(dict)
    for arc in arcs:
        out[arc.source][arc] = into[arc.target][arc] = None
    waiting = [n for n in dict.fromkeys([*out, *into]) if n not in fixed]
    while waiting:
        node = waiting.pop()
        if min(len(into[node]), len(out[node])) > 1 or any(a.source == a.target for a in into[node]):
            continue
        pairs = [(a, b) for a in into[node] for b in out[node]]
        for arc in (*into[node], *out[node]):
            out[arc.source].pop(arc, None)
            into[arc.target].pop(arc, None)
        for a, b in pairs:
            whole = Arc(a.source, b.target, tuple(dict.fromkeys((*a.needs, *b.needs))), a.late_s + b.late_s)
            out[whole.source][whole] = into[whole.target][whole] = None
            waiting += [n for n in (whole.source, whole.target) if n not in fixed]
    return tuple(arc for these in out.values() for arc in these)


class _Ways:
    """From each node the way to a listener on which least is to be opened, and which is soonest there."""

    def __init__(self, demands: Demands, listener: str) -> None:
        graph = demands.graph
        into = self.into = defaultdict[int, list[int]](list)
        for edges in demands.usable.values():
            for edge in edges:
                into[demands.dst[edge]].append(edge)
        self.ears = {int(n) for (x, _), n in zip(graph.ears, graph.ear_node, strict=True) if x == listener}
        self.to_go: dict[int, float] = {}  # what is to be opened from a node on, and how late it gets
        queue = [(0.0, node) for node in sorted(self.ears)]
        while queue:
            cost, node = heapq.heappop(queue)
            if node in self.to_go:
                continue
            self.to_go[node] = cost
            for edge in into[node]:
                late_s = demands.delay_s[edge]  # a second later is as bad as a control more
                heapq.heappush(queue, (cost + float(demands.silent[edge]) + late_s, demands.src[edge]))
