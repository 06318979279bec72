"""The hearing solution: every arrival of every sound at every listener, in one cue.

Arrivals are (delay in whole µs, gain, polarity); those with the same tick add with their sign. The folded graph is
passed once in topological order, all sounds together: per level one integer key node|signal|tick is sorted and
reduced. Loops are unrolled until they have died away: what is heard is whole to 60 dB under the strongest.

Along a way gains multiply, delays add and variances of delays add [1]. Arrivals of one sound with one tick add as
pressures with their sign; different ticks add by power, 10·log10 Σ g², as they do for sounds of a wide band [2]. The
two channels of a sound add in between, by how alike they are: P₁ + P₂ + 2ρ·g₁·g₂ with their correlation ρ. Of
arrays: one row for each arrival. Delays in whole µs, gains as factors of pressure or voltage, levels in dB.

1. JCGM 100:2008 (GUM), 5.1.2: the variance of a sum of independent figures.
2. Kuttruff, Room Acoustics: energies add where phases are without relation.
"""

import math
from collections.abc import Iterator
from functools import cached_property

import numpy as np
from msgspec import Struct

from kymaton.core.nets import back_edges, net_of
from kymaton.core.signal.folding import FoldedEdges, Folding, fold, folded_values
from kymaton.core.signal.graph import BoolArray, EdgeState, FloatArray, IntArray, SignalGraph, latest_ticks
from kymaton.core.units import SILENT, decibels

TICK_BITS = 34  # 2³⁴ µs is 4.8 hours
INSIDE_DB = -120.0
END_DB = -80.0
LOOP_DB = -120.0  # chosen: twice what is promised, for what adds up on the way
NOTHING = 1e-12
MAX_LOOP_ROUNDS = 400
MAX_LOOP_ARRIVALS = 40_000
NEARLY = 1e-9  # of a gain of 1: as good as running away


class Arrival(Struct, frozen=True):
    """One arrival of one channel of a sound at one ear (channel of a listener)."""

    delay_us: int
    plus_minus_ms: float
    gain_db: float
    polarity: int
    sound_channel: int
    ear: int

    @property
    def delay_ms(self) -> float:
        """When it arrives, in ms after it is made."""
        return self.delay_us / 1000.0


class Arrivals(Struct, frozen=True):
    """Arrivals as arrays sorted by (node, signal, tick); `amplitude` carries the sign."""

    node: IntArray
    signal: IntArray
    tick: IntArray
    amplitude: FloatArray
    variance: FloatArray

    def __len__(self) -> int:
        return len(self.node)

    def where(self, kept: BoolArray) -> "Arrivals":
        """Those of them that are kept."""
        return Arrivals(self.node[kept], self.signal[kept], self.tick[kept], self.amplitude[kept], self.variance[kept])


class Hearing(Struct, dict=True):
    """What arrives where, in one cue. Levels in dB; `truncated` when a loop was cut off before it died away."""

    graph: SignalGraph
    state: EdgeState
    folding: Folding
    values: FoldedEdges
    at_ears: Arrivals
    truncated: bool
    dropped: FloatArray | None = None  # (node, signal): amplitude that pruning left out, when asked for

    @cached_property
    def _slices(self) -> dict[int, slice]:
        """Rows of `at_ears` by node * signals + signal."""
        pair = self.at_ears.node * len(self.graph.signals) + self.at_ears.signal
        first = np.flatnonzero(np.diff(pair, prepend=-1))
        bounds = [*first.tolist(), len(pair)]
        return {key: slice(a, b) for key, a, b in zip(pair[first].tolist(), bounds, bounds[1:], strict=False)}

    @cached_property
    def _told(self) -> dict[tuple[str, str], tuple[Arrival, ...]]:
        return {}

    @cached_property
    def _ears_of(self) -> dict[str, list[tuple[int, int]]]:
        table: dict[str, list[tuple[int, int]]] = {}
        for (listener, channel), node in zip(self.graph.ears, self.graph.ear_node, strict=True):
            table.setdefault(listener, []).append((channel, int(node)))
        return table

    @cached_property
    def _signals_of(self) -> dict[str, list[tuple[int, int]]]:
        table: dict[str, list[tuple[int, int]]] = {}
        for number, (sound, channel) in enumerate(self.graph.signals):
            table.setdefault(sound, []).append((channel, number))
        return table

    def _rows(self, listener: str, sound: str) -> Iterator[tuple[int, int, slice]]:
        for ear, node in self._ears_of[listener]:
            for channel, signal in self._signals_of[sound]:
                rows = self._slices.get(node * len(self.graph.signals) + signal)
                if rows is not None:
                    yield ear, channel, rows

    def arrivals(self, listener: str, sound: str) -> tuple[Arrival, ...]:
        """All arrivals of a sound at a listener, earliest first."""
        key = (listener, sound)
        if key not in self._told:
            self._told[key] = tuple(self._arrivals(listener, sound))
        return self._told[key]

    def _arrivals(self, listener: str, sound: str) -> list[Arrival]:
        found = []
        data = self.at_ears
        for ear, channel, rows in self._rows(listener, sound):
            for tick, amplitude, variance in zip(
                data.tick[rows].tolist(), data.amplitude[rows].tolist(), data.variance[rows].tolist(), strict=True
            ):
                found.append(
                    Arrival(
                        tick,
                        math.sqrt(variance) / 1000.0,
                        decibels(abs(amplitude)),
                        1 if amplitude > 0 else -1,
                        channel,
                        ear,
                    )
                )
        return sorted(found, key=lambda a: (a.delay_us, -a.gain_db, a.ear, a.sound_channel))

    def gain_db(self, listener: str, sound: str) -> float:
        """Gain from the sound to the louder ear, all arrivals together by power; −∞ when nothing arrives."""
        return self.gains_db.get((listener, sound), SILENT)

    @cached_property
    def gains_db(self) -> dict[tuple[str, str], float]:
        """The gain of each sound at each listener at whom it arrives."""
        if not len(self.at_ears):
            return {}
        listener_of = {int(n): x for (x, _), n in zip(self.graph.ears, self.graph.ear_node, strict=True)}
        begins = [rows.start for rows in self._slices.values()]
        powers = np.add.reduceat(np.square(self.at_ears.amplitude), begins).tolist()
        at_ear: dict[tuple[int, str], float] = {}
        for key, power in zip(self._slices, powers, strict=True):
            node, signal = divmod(key, len(self.graph.signals))
            sound = self.graph.signals[signal][0]
            at_ear[node, sound] = at_ear.get((node, sound), 0.0) + power
        for sound, alike in self.graph.alike.items():
            one, two = (signal for _, signal in self._signals_of[sound])
            for node in listener_of:
                if (node, sound) in at_ear:
                    at_ear[node, sound] += 2.0 * alike * self._common(node, one, two)
        loudest: dict[tuple[str, str], float] = {}
        for (node, sound), power in at_ear.items():
            pair = listener_of[node], sound
            loudest[pair] = max(loudest.get(pair, 0.0), power)
        return {pair: 10.0 * math.log10(power) for pair, power in loudest.items() if power > NOTHING**2}

    def _common(self, node: int, one: int, two: int) -> float:
        """Of what comes of two signals to a node at the same times: the sum of the products of their gains."""
        signals = len(self.graph.signals)
        data, rows = self.at_ears, [self._slices.get(node * signals + s, slice(0)) for s in (one, two)]
        first, other = (dict(zip(data.tick[r].tolist(), data.amplitude[r].tolist(), strict=True)) for r in rows)
        return float(sum(gain * other.get(tick, 0.0) for tick, gain in first.items()))


class _Pool:
    """Arrivals of all solved nodes, in growing arrays; `start` and `count` tell where a node's are."""

    def __init__(self, nodes: int) -> None:
        self.start = np.zeros(nodes, np.int64)
        self.count = np.zeros(nodes, np.int64)
        self.size = 0
        self.signal = np.zeros(4096, np.int64)
        self.tick = np.zeros(4096, np.int64)
        self.amplitude = np.zeros(4096)
        self.variance = np.zeros(4096)

    def append(self, found: Arrivals) -> None:
        end = self.size + len(found)
        if end > len(self.signal):
            for name in ("signal", "tick", "amplitude", "variance"):
                old = getattr(self, name)
                grown = np.empty(max(end, 2 * len(old)), old.dtype)
                grown[: self.size] = old[: self.size]
                setattr(self, name, grown)
        rows = slice(self.size, end)
        self.signal[rows], self.tick[rows] = found.signal, found.tick
        self.amplitude[rows], self.variance[rows] = found.amplitude, found.variance
        first = np.flatnonzero(np.diff(found.node, prepend=-1))
        nodes = found.node[first]
        self.start[nodes] = first + self.size
        self.count[nodes] = np.diff(first, append=len(found))
        self.size = end

    def of(self, nodes: IntArray) -> Arrivals:
        rows, owner = _spread(self.start[nodes], self.count[nodes])
        return Arrivals(nodes[owner], self.signal[rows], self.tick[rows], self.amplitude[rows], self.variance[rows])


def _spread(start: IntArray, count: IntArray) -> tuple[IntArray, IntArray]:
    """Row numbers start[i] … start[i]+count[i]−1 for all i in turn, and which i each row belongs to."""
    owner = np.repeat(np.arange(len(count)), count)
    before = np.cumsum(count) - count
    return np.arange(len(owner)) + (start - before)[owner], owner


class _Solver:
    def __init__(
        self, graph: SignalGraph, state: EdgeState, folding: Folding, values: FoldedEdges, record: bool
    ) -> None:
        self.graph, self.folding, self.values = graph, folding, values
        self.signals = len(graph.signals)
        self.signal_bits = max(1, self.signals.bit_length())
        self.pool = _Pool(len(graph.nodes))
        self.dropped = np.zeros((len(graph.nodes), self.signals)) if record else None
        self.truncated = False
        self.threshold = np.full(len(graph.nodes), 10 ** (INSIDE_DB / 20))
        self.threshold[graph.ear_node] = 10 ** (END_DB / 20)
        weakened = min((x.gain_db for x in state.exceptions), default=0.0)  # what comes too late for it is not
        self.least = 10 ** ((LOOP_DB + max(weakened, INSIDE_DB)) / 20)
        position = {int(edge): i for i, edge in enumerate(folding.last_edge)} if state.exceptions else {}
        self.exceptions = [
            (
                position[x.edge],
                np.where(x.signals, 10 ** (x.gain_db / 20), 1.0),
                latest_ticks(graph, state, x),
            )
            for x in state.exceptions
            if x.edge in position
        ]

    def run(self) -> None:
        sources = self.graph.signal_node
        for level in self.folding.levels:
            here = np.flatnonzero(np.isin(sources, level.nodes))
            own = Arrivals(sources[here], here, np.zeros(len(here), np.int64), np.ones(len(here)), np.zeros(len(here)))
            entering = self._carry(level.entering, self.pool.start, self.pool.count, self.pool)
            found = self._merge(_join([own, entering]))
            self.pool.append(self._unroll(level.inner, found) if level.is_loop else found)

    def _carry(self, edges: IntArray, start: IntArray, count: IntArray, pool: "_Pool | Arrivals") -> Arrivals:
        """What arrives at the far ends of these edges from the arrivals at their near ends."""
        src = self.folding.src[edges]
        rows, owner = _spread(start[src], count[src])
        along = edges[owner]
        signal, tick = pool.signal[rows], pool.tick[rows]
        amplitude = pool.amplitude[rows] * self.values.amplitude[along]
        for edge, gains, limit in self.exceptions:
            on = (along == edge) & (tick <= limit[signal])
            amplitude[on] *= gains[signal[on]]
        return Arrivals(
            self.folding.dst[along],
            signal,
            tick + self.values.delay_us[along],
            amplitude,
            pool.variance[rows] + self.values.variance[along],
        )

    def _merge(self, raw: Arrivals, prune: bool = True) -> Arrivals:
        """Sort by node, signal, tick; add what has the same tick; drop what is far below the strongest there."""
        if len(raw) == 0:
            return raw
        key = (((raw.node << self.signal_bits) | raw.signal) << TICK_BITS) | raw.tick
        order = np.argsort(key, kind="stable")
        key = key[order]
        first = np.flatnonzero(np.concatenate([[True], key[1:] != key[:-1]]))
        amplitude = np.add.reduceat(raw.amplitude[order], first)
        variance = np.maximum.reduceat(raw.variance[order], first)
        key = key[first]
        pair = key >> TICK_BITS
        node, signal = pair >> self.signal_bits, pair & ((1 << self.signal_bits) - 1)
        tick = key & ((1 << TICK_BITS) - 1)
        if prune:
            size = np.abs(amplitude)
            starts = np.flatnonzero(np.concatenate([[True], pair[1:] != pair[:-1]]))
            strongest = np.maximum.reduceat(size, starts)
            lengths = np.diff(np.append(starts, len(pair)))
            keep = (size >= np.repeat(strongest, lengths) * self.threshold[node]) & (size > 0)
            if not keep.all():
                self._drop(node[~keep], signal[~keep], size[~keep])
                return Arrivals(node, signal, tick, amplitude, variance).where(keep)
        return Arrivals(node, signal, tick, amplitude, variance)

    def _drop(self, node: IntArray, signal: IntArray, size: FloatArray) -> None:
        if self.dropped is not None:
            np.add.at(self.dropped, (node, signal), size)

    def _opened(self, inner: IntArray, first: Arrivals) -> IntArray:
        """The edges of a component, without those that lead back where it runs away: then nothing in it has a level.

        It runs away where the magnitudes of its gains have a spectral radius of 1 or more: the loop is reported, and
        all else is judged with it opened. Cut are the edges that lead back in a depth-first order from where sound
        comes in (Tarjan, "Depth-first search and linear graph algorithms", SIAM J. Computing 1 (1972)).
        """
        src, dst = self.folding.src[inner].tolist(), self.folding.dst[inner].tolist()
        place = {node: number for number, node in enumerate(dict.fromkeys([*src, *dst]))}
        size = np.zeros((len(place), len(place)))
        np.add.at(size, ([place[n] for n in dst], [place[n] for n in src]), np.abs(self.values.amplitude[inner]))
        if min(float(size.sum(axis=0).max()), float(size.sum(axis=1).max())) < 1.0 - NEARLY:
            return inner  # no norm is below the radius
        if float(np.abs(np.linalg.eigvals(size)).max()) < 1.0 - NEARLY:
            return inner
        entered = [n for n in dict.fromkeys(first.node.tolist()) if n in place]
        self.truncated = True
        back = set(back_edges(net_of(zip(src, dst, strict=True)), [*entered, *place]))
        return inner[[ends not in back for ends in zip(src, dst, strict=True)]]

    def _unroll(self, inner: IntArray, first: Arrivals) -> Arrivals:
        """Send arrivals round the loops of one component until they are far below the strongest.

        What is too weak to be sent on waits: with what comes to the same place at the same time later it may be strong
        enough. What waits in the end is heard all the same; only what would become of it is not.
        """
        inner = self._opened(inner, first)
        nodes, signals = len(self.graph.nodes), self.signals
        strongest = np.zeros(nodes * signals)
        rounds, front, waiting, total = [first], first, first.where(np.zeros(len(first), np.bool_)), len(first)
        for turn in range(MAX_LOOP_ROUNDS + 1):
            if len(front) == 0:
                break
            np.maximum.at(strongest, front.node * signals + front.signal, np.abs(front.amplitude))
            if turn == MAX_LOOP_ROUNDS or total > MAX_LOOP_ARRIVALS:
                self.truncated = True
                break
            count = np.bincount(front.node, minlength=nodes)
            start = np.cumsum(count) - count  # what is merged stands in the order of its nodes
            moved = self._merge(_join([waiting, self._carry(inner, start, count, front)]), prune=False)
            size = np.abs(moved.amplitude)
            strong = size > np.maximum(strongest[moved.node * signals + moved.signal] * self.least, NOTHING)
            front, waiting = moved.where(strong), moved.where(~strong)
            rounds.append(front)
            total += len(front)
        self._drop(waiting.node, waiting.signal, np.abs(waiting.amplitude))
        return self._merge(_join([*rounds, waiting]))


def _join(parts: list[Arrivals]) -> Arrivals:
    return Arrivals(
        np.concatenate([p.node for p in parts]),
        np.concatenate([p.signal for p in parts]),
        np.concatenate([p.tick for p in parts]),
        np.concatenate([p.amplitude for p in parts]),
        np.concatenate([p.variance for p in parts]),
    )


def fold_for(graph: SignalGraph, state: EdgeState, also_pinned: IntArray | None = None) -> Folding:
    """The folding for the edges that are open in this state; edges with exceptions keep their near end."""
    exceptional = np.array([x.edge for x in state.exceptions], np.int64)
    pinned = np.concatenate([graph.src[exceptional], graph.dst[exceptional]]).astype(np.int64)
    if also_pinned is not None:
        pinned = np.concatenate([pinned, also_pinned])
    return fold(graph, state.gain_db > SILENT, pinned)


def solve(
    graph: SignalGraph, state: EdgeState, folding: Folding | None = None, record_dropped: bool = False
) -> Hearing:
    """Solve one cue. `folding` may be given when only gains and delays changed, not what is open.

    With `record_dropped` the amplitude that pruning left out is summed per (node, signal): with q those sums and A
    the gains, the arrivals Z differ from H = C(I − A)⁻¹B at most by (I − |A|)⁻¹q at every frequency.
    """
    if folding is None:
        folding = fold_for(graph, state)
    values = folded_values(graph, state, folding)
    solver = _Solver(graph, state, folding, values, record_dropped)
    solver.run()
    ears = np.array(sorted(set(graph.ear_node.tolist())), np.int64)  # np.unique would load np.ma, half as long as NumPy
    at_ears = solver.pool.of(ears)
    return Hearing(
        graph=graph,
        state=state,
        folding=folding,
        values=values,
        at_ears=at_ears,
        truncated=solver.truncated,
        dropped=solver.dropped,
    )
