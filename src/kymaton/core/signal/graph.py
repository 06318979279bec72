"""The signal graph of a show: one node for each channel at one side of a port, one edge for each cable or route.

`flatten` makes it once for a rig; `state` gives the gains and delays of its edges in a cue. Controls act on many
edges, so their effect is gathered per control and spread over the edges with NumPy.
"""

import math
from collections import defaultdict
from typing import TYPE_CHECKING

import numpy as np
from msgspec import Struct, field

from kymaton.core.joining import channel_pairs, channels_at
from kymaton.core.model import (
    Cable,
    Control,
    ControlUse,
    Cue,
    Device,
    Route,
    Show,
    Value,
)
from kymaton.core.signal.air import lead_m, places_in, unsaid_m, unsaid_pairs, up_to
from kymaton.core.units import SILENT, air_delay_us, pan_gain_db, spreading_db

if TYPE_CHECKING:
    from numpy.typing import NDArray

    FloatArray = NDArray[np.float64]
    IntArray = NDArray[np.int64]
    BoolArray = NDArray[np.bool_]
else:  # the names alone: NumPy's typing takes longer to load than the rest of this package
    FloatArray = IntArray = BoolArray = np.ndarray


class Edge(Struct, frozen=True):
    """Where an edge comes from: a cable (by id), a route of a device, or the air between two ports."""

    cable: str | None = None
    between: tuple[str, str] | None = None
    device: str | None = None
    route: int | None = None
    uses: tuple[ControlUse, ...] = ()


class Canceller(Struct, frozen=True):
    """A control use that acts on some sounds only (see ControlUse.only_from)."""

    edge: int
    use: ControlUse
    signals: BoolArray
    reference: int | None  # node


class SignalGraph(Struct):
    """Arrays over edges (src, dst, gain_db, delay_us, spread_us, sign, low_hz, high_hz) and the nodes' names.

    A *signal* is one channel of a sound and starts at `signal_node`; an *ear* is one channel of a listener. `alike`
    tells how alike the two channels of a sound are: their correlation, 0 for those that are not in it.
    """

    nodes: list[tuple[str, int]]
    src: IntArray
    dst: IntArray
    gain_db: FloatArray
    delay_us: IntArray
    spread_us: FloatArray
    sign: FloatArray
    low_hz: FloatArray
    high_hz: FloatArray
    edges: list[Edge]
    signals: list[tuple[str, int]]
    signal_node: IntArray
    ears: list[tuple[str, int]]
    ear_node: IntArray
    # how controls act: (edge, control index, condition index or -1)
    control_ids: list[str] = field(default_factory=list)
    use_edge: IntArray = field(default_factory=lambda: np.zeros(0, np.int64))
    use_control: IntArray = field(default_factory=lambda: np.zeros(0, np.int64))
    use_condition: IntArray = field(default_factory=lambda: np.zeros(0, np.int64))
    conditions: list[tuple[str, Value]] = field(default_factory=list)
    pans: IntArray = field(default_factory=lambda: np.zeros((0, 3), np.int64))  # edge, control index, side
    choice_uses: list[tuple[int, ControlUse]] = field(default_factory=list)
    on_air_edges: list[tuple[int, str]] = field(default_factory=list)
    air_edges: list[int] = field(default_factory=list)
    cancellers: list[Canceller] = field(default_factory=list)
    alike: dict[str, float] = field(default_factory=dict)

    @property
    def band_limited(self) -> BoolArray:
        """Edges that cut low or high frequencies."""
        return ~(np.isnan(self.low_hz) & np.isnan(self.high_hz))


class SoundException(Struct, frozen=True):
    """Extra gain on an edge for some signals, for what arrives there not later than `limit_us` (None: always)."""

    edge: int
    signals: BoolArray
    gain_db: float
    reference: int | None
    tail_us: int | None


class EdgeState(Struct, frozen=True):
    """Gains (dB, −∞ where closed) and delays (µs) of all edges in one cue, and what holds for some signals only."""

    gain_db: FloatArray
    delay_us: IntArray
    exceptions: tuple[SoundException, ...]


def flatten(show: Show) -> SignalGraph:
    """The signal graph of a show's rig, for all cues."""
    return _Builder(show).build()


class _Builder:
    def __init__(self, show: Show) -> None:
        self.show = show
        self.index: dict[tuple[str, int], int] = {}
        self.rows: list[tuple[int, int, float, int, float, float, float, float]] = []
        self.edges: list[Edge] = []
        self.on_air: list[tuple[int, str]] = []
        self.air: list[int] = []

    def node(self, port: str, channel: int) -> int:
        return self.index.setdefault((port, channel), len(self.index))

    def add(
        self,
        source: int,
        target: int,
        edge: Edge,
        gain_db: float = 0.0,
        delay_us: int = 0,
        spread_us: float = 0.0,
        sign: float = 1.0,
        low_hz: float = math.nan,
        high_hz: float = math.nan,
    ) -> None:
        self.rows.append((source, target, gain_db, delay_us, spread_us, sign, low_hz, high_hz))
        self.edges.append(edge)

    def build(self) -> SignalGraph:
        show = self.show
        signals = [(s.id, c) for s in show.sounds for c in range(1, s.channels + 1)]
        ears = [(x.id, c) for x in show.listeners for c in (1, 2)]
        signal_node = np.array([self.node(f"sound/{s}", c) for s, c in signals], np.int64)
        ear_node = np.array([self.node(f"listener/{x}", c) for x, c in ears], np.int64)
        for device in show.devices:
            for number, route in enumerate(device.routes):
                if route.medium == "sound":
                    self.add_route(device, number, route)
        for cable in show.cables:
            self.add_cable(cable)
        self.add_air()
        columns = np.array(self.rows, np.float64).reshape(-1, 8).T
        graph = SignalGraph(
            nodes=list(self.index),
            src=columns[0].astype(np.int64),
            dst=columns[1].astype(np.int64),
            gain_db=columns[2],
            delay_us=columns[3].astype(np.int64),
            spread_us=columns[4],
            sign=columns[5],
            low_hz=columns[6],
            high_hz=columns[7],
            edges=self.edges,
            signals=signals,
            signal_node=signal_node,
            ears=ears,
            ear_node=ear_node,
            on_air_edges=self.on_air,
            air_edges=self.air,
            alike={s.id: 1.0 - s.width for s in show.sounds if s.channels == 2 and s.width is not None and s.width < 1},
        )
        self.add_uses(graph)
        return graph

    def add_route(self, device: Device, number: int, route: Route) -> None:
        if route.on_air is not None:
            self.on_air.append((len(self.edges), route.on_air))
        self.add(
            self.node(f"{device.id}/{route.source}", route.source_channel),
            self.node(f"{device.id}/{route.target}", route.target_channel),
            Edge(device=device.id, route=number, uses=route.controls),
            route.gain_db.value,
            round(route.delay_ms.value * 1000),
            route.delay_ms.plus_minus * 1000,
            float(route.polarity),
            math.nan if route.low_hz is None else route.low_hz,
            math.nan if route.high_hz is None else route.high_hz,
        )

    def add_cable(self, cable: Cable) -> None:
        air = cable.kind == "air"
        for a, b in channel_pairs(self.show, cable):
            if air:
                self.air.append(len(self.edges))
            self.add(
                self.node(cable.source, a),
                self.node(cable.target, b),
                Edge(cable=cable.id),
                spreading_db(cable.length_m) if air else 0.0,
                air_delay_us(cable.length_m) if air else 0,
            )

    def add_air(self) -> None:
        """What may be heard through the air though no lead says so; `state` says who is where in a cue."""
        for source, target in unsaid_pairs(self.show):
            for a in range(1, channels_at(self.show, source) + 1):
                for b in range(1, channels_at(self.show, target) + 1):
                    self.air.append(len(self.edges))
                    self.add(self.node(source, a), self.node(target, b), Edge(between=(source, target)))

    def add_uses(self, graph: SignalGraph) -> None:
        show = self.show
        control_index = {c.id: i for i, c in enumerate(show.controls())}
        graph.control_ids = list(control_index)
        conditions: dict[tuple[str, Value], int] = {}
        plain: list[tuple[int, int, int]] = []
        pans: list[tuple[int, int, int]] = []
        sounds_at = defaultdict(set)
        for cable in show.cables:
            owner, _, name = cable.source.partition("/")
            if owner == "sound":
                sounds_at[cable.target].add(name)
        for number, edge in enumerate(graph.edges):
            for use in edge.uses:
                if use.only_from:
                    affected = set().union(*(sounds_at[port] for port in use.only_from))
                    graph.cancellers.append(
                        Canceller(
                            number,
                            use,
                            np.array([s in affected for s, _ in graph.signals], np.bool_),
                            self.index.get((use.reference, 1)) if use.reference else None,
                        )
                    )
                elif use.side is not None:
                    pans.append((number, control_index[use.control], use.side))
                elif use.gains is not None:
                    graph.choice_uses.append((number, use))
                else:
                    condition = -1
                    if use.when is not None:
                        key = (use.when.control, use.when.value)
                        condition = conditions.setdefault(key, len(conditions))
                    plain.append((number, control_index[use.control], condition))
        table = np.array(plain, np.int64).reshape(-1, 3)
        graph.use_edge, graph.use_control, graph.use_condition = table[:, 0], table[:, 1], table[:, 2]
        graph.conditions = list(conditions)
        graph.pans = np.array(pans, np.int64).reshape(-1, 3)


def control_gain_db(control: Control, value: Value) -> float:
    """What a level, mute or switch at this value adds, in dB; 0 for the other kinds."""
    if control.kind == "level":
        number = float(value)
        return SILENT if control.minimum is not None and number <= control.minimum else number
    if control.kind == "mute":
        return SILENT if value is True else 0.0
    if control.kind == "switch":
        return 0.0 if value is True else SILENT
    return 0.0


def choice_gain_db(control: Control, value: Value, gains: dict[str, float], on_air: str | None) -> float:
    """What a choice at this value adds. *follows picture* is *on* while its input is on air, or else *off*."""
    if value == "follows picture" and value not in gains:
        value = "on" if on_air is not None and control.picture_input == on_air else "off"
    return gains.get(str(value), SILENT)


def unplugged(show: Show, cue: Cue | None) -> frozenset[str]:
    """Cables that are not connected: as the base state says, changed by the hand actions up to this cue."""
    out = {c.id for c in show.cables if not c.plugged}
    if cue is not None:
        for action in (a for c in up_to(show, cue) for a in c.hand_actions):
            if action.kind == "connect":
                out.discard(action.target)
            elif action.kind == "disconnect":
                out.add(action.target)
    return frozenset(out)


def _through_air(graph: SignalGraph, show: Show, cue: Cue | None, gain_db: FloatArray, delay_us: IntArray) -> None:
    """Set the edges of air as they are in this cue: who is where, and microphones that were moved."""
    where = places_in(show, cue)
    for number in graph.air_edges:
        edge = graph.edges[number]
        if edge.between is not None:
            metres = unsaid_m(show, where, *edge.between)
        elif edge.cable is not None and (where.moved or where.set_m):
            metres = lead_m(show, where, show.cable(edge.cable))
        else:
            continue
        gain_db[number] = spreading_db(metres) if metres < math.inf else SILENT
        delay_us[number] = air_delay_us(metres) if metres < math.inf else 0


def state(graph: SignalGraph, show: Show, cue_id: str | None) -> EdgeState:
    """Gains and delays of all edges in a cue (None: the base state)."""
    cue = show.cue(cue_id) if cue_id is not None else None
    changed: dict[str, Value] = show.settings(cue.id) if cue else {}
    on_air = cue.on_air if cue else None

    def value(control_id: str) -> Value:
        return changed[control_id] if control_id in changed else show.control(control_id).value

    gain_db = graph.gain_db.copy()
    delay_us = graph.delay_us.copy()
    _through_air(graph, show, cue, gain_db, delay_us)
    silent = {s for s, told in cue.sounding.items() if told == "silent"} if cue else set()
    if silent:
        nodes = [n for (s, _), n in zip(graph.signals, graph.signal_node, strict=True) if s in silent]
        gain_db[np.isin(graph.src, nodes)] = SILENT
    if graph.control_ids:
        controls = [show.control(id) for id in graph.control_ids]
        contribution = np.array([control_gain_db(c, value(c.id)) for c in controls])
        delay = np.array([round(float(value(c.id)) * 1000) if c.kind == "delay" else 0 for c in controls], np.int64)
        holds = np.array([value(control) == wanted for control, wanted in graph.conditions] + [True], np.bool_)
        active = holds[graph.use_condition]  # −1 picks the last, which always holds
        np.add.at(gain_db, graph.use_edge[active], contribution[graph.use_control[active]])
        np.add.at(delay_us, graph.use_edge[active], delay[graph.use_control[active]])
        for edge, at, side in graph.pans[[controls[at].kind == "pan" for at in graph.pans[:, 1]]].tolist():
            percent = float(value(controls[at].id))
            if percent:
                gain_db[edge] += pan_gain_db(percent, side)
    for edge, use in graph.choice_uses:
        if use.when is None or value(use.when.control) == use.when.value:
            assert use.gains is not None
            gain_db[edge] += choice_gain_db(show.control(use.control), value(use.control), use.gains, on_air)
    for edge, port in graph.on_air_edges:
        if port != on_air:
            gain_db[edge] = SILENT
    off = unplugged(show, cue)
    if off:
        for number, item in enumerate(graph.edges):
            if item.cable in off:
                gain_db[number] = SILENT
    exceptions = tuple(
        SoundException(
            c.edge,
            c.signals,
            choice_gain_db(show.control(c.use.control), value(c.use.control), c.use.gains or {}, on_air),
            c.reference,
            None if c.use.tail_ms is None else round(c.use.tail_ms * 1000),
        )
        for c in graph.cancellers
    )
    return EdgeState(gain_db, delay_us, tuple(x for x in exceptions if x.gain_db != 0.0))


def soonest_us(graph: SignalGraph, state: EdgeState, usable: BoolArray, node: int) -> FloatArray:
    """From each node the shortest time (µs) to one of them by the usable edges, infinite where no way leads there."""
    from scipy.sparse import csr_array  # late: few shows need it, and it takes a while to load
    from scipy.sparse.csgraph import dijkstra

    src, dst, delay = graph.src[usable], graph.dst[usable], state.delay_us[usable]
    order = np.lexsort((delay, src, dst))
    src, dst, delay = src[order], dst[order], delay[order]
    first = np.ones(len(src), np.bool_)
    first[1:] = (src[1:] != src[:-1]) | (dst[1:] != dst[:-1])
    size = len(graph.nodes)
    weights = csr_array((delay[first] + 1e-3, (dst[first], src[first])), shape=(size, size))
    away: FloatArray = dijkstra(weights, indices=node)
    return away


def latest_ticks(graph: SignalGraph, state: EdgeState, exception: SoundException) -> IntArray:
    """Latest time (µs), per signal, at which an exception acts: an echo canceller knows what its call played of late.

    That is the tail of the canceller after the signal first reaches its reference by any open way.
    """
    never = np.full(len(graph.signals), np.iinfo(np.int64).max)
    if exception.reference is None or exception.tail_us is None:
        return never
    away = soonest_us(graph, state, state.gain_db > SILENT, exception.reference)[graph.signal_node]
    known = np.isfinite(away)
    never[known] = np.round(away[known]).astype(np.int64) + exception.tail_us
    return never
