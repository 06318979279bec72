"""What a finding demands of the controls: some setting on its routes that closes them, or one that opens a way.

Each demand is necessary where levels decide nothing: a route that is heard goes on being heard until something on it
closes, and a sound arrives nowhere until something opens on the edge of where it is now.
"""

import heapq
from collections import defaultdict
from collections.abc import Iterator
from functools import cached_property

from kymaton.core.checks import KINDS, Finding
from kymaton.core.model import Control, ControlUse, Show, Value
from kymaton.core.planning.choosing import Literal
from kymaton.core.signal.control_search import Reach, closed_value, closing_uses, open_value
from kymaton.core.signal.cue_solution import CueSolution
from kymaton.core.signal.graph import choice_gain_db
from kymaton.core.signal.trace import Path
from kymaton.core.units import SILENT

Clause = frozenset[Literal]
MOST_ROUTES = 40  # of one finding that are looked at together; those behind them come up in the next turn
ANOTHER = 0.2  # how much dearer it is to choose something else than to turn off
WEAKENED = 2.4  # and to weaken a route, as a canceller does that may fail: as three sends
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

    def of(self, finding: Finding) -> list[Clause]:
        """The demands of a finding; empty where no control within reach does anything about it."""
        cure = KINDS[finding.id].cure if finding.id in KINDS else ""
        if finding.settings:
            return self._told(finding)
        if cure == "close":
            clauses = [self.closing(path) for path in self._routes(finding)]
            return clauses if all(clauses) else []
        if cure == "close one":
            return self._one_closed(finding)
        if cure == "break":
            return [c for c in [self._broken(finding)] if c]
        if cure == "open":
            return [c for c in [self._opened(finding.listener or "", finding.sound or "")] if c]
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
                self.dearer[literal.control, literal.value] = 0.3
        return [every] if every else []

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
                        self.dearer[control.id, value] = ANOTHER if gone else WEAKENED
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

    def _opened(self, listener: str, sound: str) -> Clause:
        """One of the settings that let the sound one step further on a way to a listener that can be opened."""
        ways = self._ways_to(listener)
        starts = self._starts(sound)
        reached, queue = set(starts), list(starts)
        edges: list[int] = []
        while queue:
            for edge in self.usable[queue.pop()]:
                end = self.dst[edge]
                if end in reached or end not in ways.to_go:
                    continue
                if not self.silent[edge]:
                    reached.add(end)
                    queue.append(end)
                else:
                    edges.append(edge)
        if ways.ears & reached:
            return frozenset()  # it arrives, but not as it should: nothing that is closed keeps it away
        found = set()
        for edge in edges:
            if self.dst[edge] in reached:
                continue
            for control, value in self.opening(edge) or ():
                found.add(Literal(self.view.cue_id, control, value))
                further = 0.05 * ways.to_go[self.dst[edge]]
                self.dearer[control, value] = min(further, self.dearer.get((control, value), further))
        return frozenset(found)

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
                opened = open_value(control)
                now = self.as_it_is.value(control.id, self.view.cue_id)
                kept = opened is not None and now != closed_value(control)  # a candidate alone has closed it
                values = [] if opened is None else [now if kept else opened]
            found = [(control.id, v) for v in values]
            if not found:
                return None
        return found or None


class _Ways:
    """From each node the way to a listener on which least is to be opened, and which is soonest there."""

    def __init__(self, demands: Demands, listener: str) -> None:
        graph = demands.graph
        into: defaultdict[int, list[int]] = defaultdict(list)
        for edges in demands.usable.values():
            for edge in edges:
                into[demands.dst[edge]].append(edge)
        self.ears = {int(n) for (x, _), n in zip(graph.ears, graph.ear_node, strict=True) if x == listener}
        self.to_go: dict[int, float] = {}  # what is to be opened from a node on, and how late it gets
        queue = [(0.0, node) for node in sorted(self.ears)]
        delay_us: list[int] = demands.view.state.delay_us.tolist()
        while queue:
            cost, node = heapq.heappop(queue)
            if node in self.to_go:
                continue
            self.to_go[node] = cost
            for edge in into[node]:
                late = delay_us[edge] / 1e6  # a second later is as bad as a control more
                heapq.heappush(queue, (cost + float(demands.silent[edge]) + late, demands.src[edge]))
