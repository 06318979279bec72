"""Loops in the signal graph: how close each is to running away.

Feedback edges F are chosen so that every loop is cut exactly once; with B the ways from the far ends of F, A_open
the gains without F and C the near ends, the return ratio is L = diag|g_F|·C(I − |A_open|)⁻¹B and the margin is
−20·log10 ρ(L) [1]. The magnitudes are used, so several loops together are judged at their worst phase: the spectral
radius of the magnitudes is never below that of the signed matrix at any frequency [2]. Margins in dB (≤ 0: it runs
away), delays in µs, decay in s for 60 dB.

1. Skogestad and Postlethwaite, Multivariable Feedback Control, 4.9: the spectral radius stability condition.
2. Horn and Johnson, Matrix Analysis, theorem 8.1.18: ρ(A) ≤ ρ(|A|).
"""

import itertools
import math

import numpy as np
from msgspec import Struct

from kymaton.core.nets import elementary_cycles, net_of, preorder, strong_components, topological
from kymaton.core.signal.folding import reachable
from kymaton.core.signal.graph import SignalGraph
from kymaton.core.signal.hearing import Hearing
from kymaton.core.units import SILENT

MAX_CYCLES = 300
Ends = tuple[int, int]


class Loop(Struct, frozen=True):
    """A component of the graph that feeds itself. `edges` are the original edges of its strongest single loop."""

    margin_db: float
    delay_us: int
    edges: tuple[int, ...]
    single: bool

    @property
    def without_delay(self) -> bool:
        """Whether it takes no time to go round: no real gear does that."""
        return self.delay_us == 0

    @property
    def decay_s(self) -> float:
        """Seconds to die away by 60 dB; infinite when it does not."""
        return math.inf if self.margin_db <= 0 else 60.0 / self.margin_db * self.delay_us / 1e6

    def ports(self, graph: SignalGraph) -> tuple[str, ...]:
        """The ports it goes through, each once, in the order of the sound."""
        return tuple(dict.fromkeys(graph.nodes[graph.dst[e]][0] for e in self.edges))


def find_loops(hearing: Hearing) -> list[Loop]:
    """One Loop for each strongly connected component that sound can go round in.

    Those too that no sound of the show enters, or that no listener hears: noise is enough to start them.
    """
    folding, values = hearing.folding, hearing.values
    found = []
    for level in folding.levels:
        if level.is_loop:
            edges = level.inner.tolist()
            ends = [(int(folding.src[e]), int(folding.dst[e])) for e in edges]
            size = np.abs(values.amplitude[level.inner]).tolist()
            delay = values.delay_us[level.inner].tolist()
            found.append(_judge(ends, size, delay, [_chain(hearing, e) for e in edges]))
    return found + _unheard(hearing)


def _unheard(hearing: Hearing) -> list[Loop]:
    """Loops among the open edges that no way from a sound to a listener uses."""
    graph, state = hearing.graph, hearing.state
    count, is_open = len(graph.nodes), state.gain_db > SILENT
    src, dst = graph.src[is_open], graph.dst[is_open]
    live = reachable(count, src, dst, graph.signal_node) & reachable(count, dst, src, graph.ear_node)
    idle = np.flatnonzero(is_open & ~(live[graph.src] & live[graph.dst]))
    if not len(idle):
        return []
    ends = list(zip(graph.src[idle].tolist(), graph.dst[idle].tolist(), strict=True))
    size, delay = (10 ** (state.gain_db[idle] / 20)).tolist(), state.delay_us[idle].tolist()
    found = []
    group_of = {node: number for number, group in enumerate(strong_components(net_of(ends))) for node in group}
    within: dict[int, list[int]] = {}
    for n, (a, b) in enumerate(ends):
        if group_of[a] == group_of[b]:
            within.setdefault(group_of[a], []).append(n)
    for _, inside in sorted(within.items()):
        chains = [[int(idle[n])] for n in inside]
        found.append(_judge([ends[n] for n in inside], [size[n] for n in inside], [delay[n] for n in inside], chains))
    return found


def _judge(ends: list[Ends], size: list[float], delay_us: list[int], chains: list[list[int]]) -> Loop:
    """The loop that these edges make: their ends, gains as factors, delays, and the edges of the graph in each."""
    gain: dict[Ends, float] = {}
    best: dict[Ends, int] = {}
    for number, pair in enumerate(ends):
        gain[pair] = gain.get(pair, 0.0) + size[number]
        if pair not in best or size[number] > size[best[pair]]:
            best[pair] = number
    cycles = [
        [(a, b) for a, b in zip(c, [*c[1:], c[0]], strict=True)]
        for c in itertools.islice(elementary_cycles(net_of(gain)), MAX_CYCLES)
    ]
    strongest = max(cycles, key=lambda c: math.prod(gain[e] for e in c))
    used = [best[pair] for pair in strongest]
    return Loop(
        margin_db=_margin_db(gain, cycles),
        delay_us=int(sum(delay_us[n] for n in used)),
        edges=tuple(itertools.chain.from_iterable(chains[n] for n in used)),
        single=len(cycles) == 1,
    )


def _chain(hearing: Hearing, folded_edge: int) -> list[int]:
    """Original edges of a folded edge, in the order of the sound."""
    folding, graph = hearing.folding, hearing.graph
    edges = [int(folding.last_edge[folded_edge])]
    while (before := int(folding.own_edge[graph.src[edges[0]]])) >= 0:
        edges.insert(0, before)
    return edges


def _margin_db(gain: dict[tuple[int, int], float], cycles: list[list[tuple[int, int]]]) -> float:
    if len(cycles) == 1:  # what a single loop comes back with is the product of its gains
        return -20.0 * math.log10(math.prod(gain[e] for e in cycles[0]))
    feedback = _cut_once(list(gain), cycles)
    nodes = {n: i for i, n in enumerate(sorted({n for ends in gain for n in ends}))}
    open_gain = np.zeros((len(nodes), len(nodes)))  # [to, from]
    for (a, b), g in gain.items():
        if (a, b) not in feedback:
            open_gain[nodes[b], nodes[a]] += g
    way = np.linalg.inv(np.eye(len(nodes)) - open_gain)
    ratio = np.array([[gain[f] * way[nodes[f[0]], nodes[g[1]]] for g in feedback] for f in feedback])
    radius = float(np.abs(np.linalg.eigvals(ratio)).max())
    return -20.0 * math.log10(radius)


def _cut_once(edges: list[tuple[int, int]], cycles: list[list[tuple[int, int]]]) -> list[tuple[int, int]]:
    """Fewest edges that meet every cycle, exactly once each where that is possible."""
    from scipy.optimize import Bounds, LinearConstraint, milp

    column = {e: i for i, e in enumerate(edges)}
    meets = np.zeros((len(cycles), len(edges)))
    for row, cycle in enumerate(cycles):
        meets[row, [column[e] for e in cycle]] = 1
    for most in (1.0, np.inf):
        found = milp(
            np.ones(len(edges)),
            constraints=LinearConstraint(meets, 1.0, most),
            bounds=Bounds(0, 1),
            integrality=np.ones(len(edges)),
        )
        if found.success:
            chosen = [e for e, x in zip(edges, found.x, strict=True) if x > 0.5]
            if topological(net_of(e for e in edges if e not in chosen)) is not None:
                return chosen
    # more cycles than were listed: cut every edge that goes back in a depth-first order
    net = net_of(edges)
    order = {n: i for i, n in enumerate(preorder(net, next(iter(net))))}
    return [(a, b) for a, b in edges if order[b] <= order[a]]
