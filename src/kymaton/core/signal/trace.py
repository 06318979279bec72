"""Routes on demand: by which way a sound reaches a listener, with level and added delay at each station.

A route goes through open edges, depth first under a bound (branch and bound): what is left of the way can at best
gain as much as the best way to the listener does. The ± of its delay adds one figure that is met twice as 2·±, and
different figures as the root of their squares [1]. Levels in dB, delays in µs, ± in ms.

1. JCGM 100:2008 (GUM), 5.1.2 and 5.2.2: independent and fully correlated figures.
"""

import math
from collections import defaultdict
from collections.abc import Sequence

import numpy as np
from msgspec import Struct

from kymaton.core.model import Show
from kymaton.core.nets import back_edges, net_of
from kymaton.core.signal.folding import reachable
from kymaton.core.signal.graph import EdgeState, IntArray, SignalGraph, SoundException, latest_ticks
from kymaton.core.units import SILENT, air_metres, unit_of
from kymaton.core.words import number

MAX_PATHS = 400
MAX_VISITS = 3  # of one node in one path: enough to show a loop
MAX_STEPS = 10_000  # of all paths together: among loops that amplify there are no quiet ways that end the search


class Path(Struct, frozen=True):
    """One way from a channel of a sound to an ear; `edges` are numbers in the signal graph."""

    sound: str
    listener: str
    sound_channel: int
    ear: int
    delay_us: int
    plus_minus_ms: float
    gain_db: float
    polarity: int
    edges: tuple[int, ...]

    def ports(self, graph: SignalGraph) -> tuple[str, ...]:
        """Port ids along the way, `sound/…` first, `listener/…` last."""
        first = graph.nodes[graph.src[self.edges[0]]][0]
        return (first, *(graph.nodes[graph.dst[e]][0] for e in self.edges))


class Station(Struct, frozen=True):
    """A place along a path: the level there and what it added to the delay."""

    owner: str  # sound/…, device id, listener/…
    title: str
    detail: str
    level: float
    unit: str
    added_us: int
    ports: tuple[str, ...]
    edges: tuple[int, ...] = ()


def trace(graph: SignalGraph, state: EdgeState, listener: str, sound: str, floor_db: float = -80.0) -> list[Path]:
    """All paths down to `floor_db` under the strongest, strongest first, at most MAX_PATHS."""
    return Tracer(graph, state).paths(listener, sound, floor_db)


Exceptions = Sequence[tuple[SoundException, IntArray]]  # with the latest time at which each acts


def _by_edge(graph: SignalGraph, state: EdgeState) -> dict[int, list[tuple[SoundException, IntArray]]]:
    found: dict[int, list[tuple[SoundException, IntArray]]] = {}
    for x in state.exceptions:
        found.setdefault(x.edge, []).append((x, latest_ticks(graph, state, x)))
    return found


def _exceptional_db(exceptions: Exceptions, signal: int, tick: int) -> float:
    """What exceptions on an edge add to a signal that comes there at this time."""
    return sum(x.gain_db for x, latest in exceptions if x.signals[signal] and tick <= latest[signal])


class Tracer:
    """Finds paths in one state of a graph; what is open, and the best ways to a listener, are looked up once."""

    def __init__(self, graph: SignalGraph, state: EdgeState) -> None:
        self.graph, self.state = graph, state
        self.gain_db: list[float] = state.gain_db.tolist()
        self.src: list[int] = graph.src.tolist()
        self.dst: list[int] = graph.dst.tolist()
        self.sign: list[int] = graph.sign.tolist()
        self.delay_us: list[int] = state.delay_us.tolist()
        self.out: defaultdict[int, list[int]] = defaultdict(list)
        self.into: defaultdict[int, list[int]] = defaultdict(list)
        for edge, gain in enumerate(self.gain_db):
            if gain > SILENT:
                self.out[self.src[edge]].append(edge)
                self.into[self.dst[edge]].append(edge)
        self.special = _by_edge(graph, state)
        self.known: dict[str, tuple[dict[int, int], dict[int, float]]] = {}
        self.starts: defaultdict[str, list[tuple[int, int]]] = defaultdict(list)  # of each sound: nodes and signals
        for signal, ((sound, _), node) in enumerate(zip(graph.signals, graph.signal_node.tolist(), strict=True)):
            self.starts[sound].append((node, signal))

    def _to(self, listener: str) -> tuple[dict[int, int], dict[int, float]]:
        """The ears of a listener with their channels, and the highest gain from each node to any of them."""
        if listener not in self.known:
            graph = self.graph
            ears = {int(n): c for (x, c), n in zip(graph.ears, graph.ear_node, strict=True) if x == listener}
            self.known[listener] = ears, self._best_to_go(set(ears))
        return self.known[listener]

    def strongest(self, listener: str, sound: str) -> Path | None:
        """The strongest path: found first, as each step is towards it, unless it is let through less on the way."""
        found = self.paths(listener, sound, most=1)
        if found and self.special and found[0].gain_db < sum(self.gain_db[e] for e in found[0].edges) - 1e-9:
            found = self.paths(listener, sound)
        return found[0] if found else None

    def paths(self, listener: str, sound: str, floor_db: float = -80.0, most: int = MAX_PATHS) -> list[Path]:
        """All paths down to `floor_db` under the strongest, strongest first, at most so many."""
        ears, to_go = self._to(listener)
        starts = self.starts.get(sound, [])
        strongest = max((to_go.get(n, SILENT) for n, _ in starts), default=SILENT)
        if strongest == SILENT:
            return []
        found: list[Path] = []
        waiting = [_Way(node, signal) for node, signal in reversed(starts)]
        for _ in range(MAX_STEPS):
            if not waiting or len(found) >= most:
                break
            way = waiting.pop()
            if way.node in ears:
                found.append(self._path(way, listener, sound, ears[way.node]))
            else:
                waiting += self._further(way, to_go, strongest + floor_db)
        return sorted(found, key=lambda p: -p.gain_db)

    def _further(self, way: "_Way", to_go: dict[int, float], least_db: float) -> list["_Way"]:
        """The way with one edge more, for each that may still end above `least_db`; the best last."""
        found = []
        for edge in self.out[way.node]:
            after, step_db = self.dst[edge], self.gain_db[edge]
            ahead_db = to_go.get(after, SILENT)
            gain_db = way.gain_db + step_db
            if edge in self.special:
                gain_db += _exceptional_db(self.special[edge], way.signal, way.tick)
            if gain_db + ahead_db >= least_db and way.passed.count(after) < MAX_VISITS:
                tick, sign = way.tick + self.delay_us[edge], way.sign * self.sign[edge]
                edges, passed = (*way.edges, edge), (*way.passed, after)
                found.append((step_db + ahead_db, _Way(after, way.signal, gain_db, tick, sign, edges, passed)))
        if len(found) > 1:
            found.reverse()
            found.sort(key=lambda each: each[0])
        return [further for _, further in found]

    def _path(self, way: "_Way", listener: str, sound: str, ear: int) -> "Path":
        return Path(
            sound=sound,
            listener=listener,
            sound_channel=self.graph.signals[way.signal][1],
            ear=ear,
            delay_us=way.tick,
            plus_minus_ms=plus_minus_ms(self.graph, way.edges),
            gain_db=way.gain_db,
            polarity=way.sign,
            edges=way.edges,
        )

    def _best_to_go(self, ears: set[int]) -> dict[int, float]:
        """Highest gain from each node to any of the ears; within loops that amplify, of a few turns only."""
        best = dict.fromkeys(ears, 0.0)
        front = set(ears)
        for _ in range(len(self.graph.nodes)):
            following: set[int] = set()
            for node in front:
                for edge in self.into.get(node, ()):
                    before, gain = self.src[edge], best[node] + self.gain_db[edge]
                    if gain > best.get(before, SILENT) + 1e-9 and before not in ears:
                        best[before] = gain
                        following.add(before)
            front = following
            if not front:
                return best
        self._open()  # still higher after as many turns as there are nodes: it runs away
        return self._best_to_go(ears)

    def _open(self) -> None:
        """Leave out what leads back: a loop that amplifies has no strongest way, and would hide all others."""
        ends = [(self.src[e], self.dst[e]) for edges in self.out.values() for e in edges]
        back = set(back_edges(net_of(ends), [*self.graph.signal_node.tolist(), *(a for a, _ in ends)]))
        for table in (self.out, self.into):
            for node, edges in table.items():
                table[node] = [e for e in edges if (self.src[e], self.dst[e]) not in back]
        self.known.clear()


class _Way(Struct, frozen=True):
    """A way that is being walked: where it has come, and how."""

    node: int
    signal: int
    gain_db: float = 0.0
    tick: int = 0
    sign: int = 1
    edges: tuple[int, ...] = ()
    passed: tuple[int, ...] = ()  # nodes


def plus_minus_ms(graph: SignalGraph, edges: Sequence[int]) -> float:
    """± of the delay of a path. One figure of one device that is met twice (a call there and back) is off the same way
    both times, so it adds up; different figures add as the root of their squares.
    """
    figures: dict[tuple[str | None, int, float], float] = defaultdict(float)
    for edge in edges:
        spread = float(graph.spread_us[edge])
        if spread:
            figures[graph.edges[edge].device, int(graph.delay_us[edge]), spread] += spread
    return math.sqrt(sum(s * s for s in figures.values())) / 1000.0


def stations(show: Show, graph: SignalGraph, state: EdgeState, path: Path) -> list[Station]:
    """The path as stations: where the sound is made, each device it goes through, who hears it.

    The added delays of all stations sum to the delay of the path; the last level is the level heard.
    """
    sound = show.sound(path.sound)
    result = [
        Station(
            owner=f"sound/{sound.id}",
            title=sound.name,
            detail=sound.kind,
            level=sound.level,
            unit=sound.unit,
            added_us=0,
            ports=(f"sound/{sound.id}",),
        )
    ]
    level, added, tick = sound.level, 0, 0
    special = _by_edge(graph, state)
    signal = graph.signals.index((path.sound, path.sound_channel))
    ports: list[str] = []
    passed: list[int] = []
    for position, edge in enumerate(path.edges):
        level += float(state.gain_db[edge]) + _exceptional_db(special.get(edge, ()), signal, tick)
        added += int(state.delay_us[edge])
        tick += int(state.delay_us[edge])
        port = graph.nodes[graph.dst[edge]][0]
        ports.append(port)
        passed.append(edge)
        owner = port.partition("/")[0]
        after = path.edges[position + 1] if position + 1 < len(path.edges) else None
        leaves = after is None or graph.nodes[graph.dst[after]][0].partition("/")[0] != owner
        if not leaves:
            continue
        if owner == "listener":
            listener = show.listener(path.listener)
            end = (level, listener.unit, added, tuple(ports), tuple(passed))
            result.append(Station(port, listener.name, listener.kind, *end))
        else:
            device = show.device(owner)
            names = [show.port(p).name for p in ports]
            several = sum(p.direction == "in" for p in device.ports) > 2
            title = f"{device.name} {names[0]}" if several and device.stage in ("mixed", "embedded") else device.name
            result.append(
                Station(
                    owner=owner,
                    title=title,
                    detail=" to ".join(dict.fromkeys(n for n in names if n)),
                    level=level,
                    unit=unit_of(show.port(port).signal),
                    added_us=added,
                    ports=tuple(ports),
                    edges=tuple(passed),
                )
            )
        added, ports, passed = 0, [], []
    return result


def rounded_steps(amounts_us: list[int]) -> list[float]:
    """Milliseconds with one decimal that sum to the rounded total: what is shown under the stations adds up."""
    shown, total, last = [], 0, 0.0
    for amount in amounts_us:
        total += amount
        now = round(total / 1000, 1)
        shown.append(round(now - last, 1))
        last = now
    return shown


def open_edges_between(graph: SignalGraph, state: EdgeState, sound: str | None, listener: str | None) -> list[int]:
    """Open edges on any way from a sound (None: any) to a listener (None: any)."""
    usable = state.gain_db > SILENT
    starts = np.array(
        [n for (s, _), n in zip(graph.signals, graph.signal_node, strict=True) if sound in (None, s)], int
    )
    ends = np.array([n for (x, _), n in zip(graph.ears, graph.ear_node, strict=True) if listener in (None, x)], int)
    count = len(graph.nodes)
    after = reachable(count, graph.src[usable], graph.dst[usable], starts)
    before = reachable(count, graph.dst[usable], graph.src[usable], ends)
    return [int(e) for e in np.flatnonzero(usable & after[graph.src] & before[graph.dst])]


def origins(show: Show, graph: SignalGraph, state: EdgeState, station: Station) -> list[str]:
    """Where the figures of a station come from: a line for each cable and route that adds level or delay."""
    lines = []
    for edge in station.edges:
        origin = graph.edges[edge]
        if origin.between is not None or (origin.cable is not None and show.cable(origin.cable).kind == "air"):
            lines.append(f"{number(air_metres(state.delay_us[edge]), 2)} m of air: {number(state.gain_db[edge], 1)} dB")
        elif origin.device is not None and origin.route is not None:
            route = show.device(origin.device).routes[origin.route]
            for name, figure, unit in (("delay", route.delay_ms, "ms"), ("gain", route.gain_db, "dB")):
                if figure.value:
                    spread = f" ± {number(figure.plus_minus, 1)}" if figure.plus_minus else ""
                    lines.append(
                        f"{name} {number(figure.value, 1)}{spread} {unit}, {figure.source} {figure.date}".strip()
                    )
            set_db = float(state.gain_db[edge]) - route.gain_db.value
            if abs(set_db) > 0.05:
                lines.append(f"set by its controls: {number(set_db, 1)} dB")
    return lines
