"""Loops in the signal graph: how close each is to running away.

Feedback edges F are chosen so that every loop is cut exactly once; with B the ways from the far ends of F, A_open
the gains without F and C the near ends, the return ratio is L = diag|g_F|·C(I − |A_open|)⁻¹B and the margin is
−20·log10 ρ(L). The magnitudes are used, so several loops together are judged at their worst phase.
"""

import itertools
import math

import numpy as np
from msgspec import Struct

from kymaton.core.nets import elementary_cycles, net_of, preorder, topological
from kymaton.core.signal.graph import SignalGraph
from kymaton.core.signal.hearing import Hearing

MAX_CYCLES = 300


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
    """One Loop for each strongly connected component that sound can go round in."""
    return [_judge(hearing, level.inner) for level in hearing.folding.levels if level.is_loop]


def _judge(hearing: Hearing, inner: "np.ndarray") -> Loop:
    folding, values = hearing.folding, hearing.values
    gain: dict[tuple[int, int], float] = {}
    best: dict[tuple[int, int], int] = {}
    for edge in inner.tolist():
        ends = (int(folding.src[edge]), int(folding.dst[edge]))
        size = abs(float(values.amplitude[edge]))
        gain[ends] = gain.get(ends, 0.0) + size
        if ends not in best or size > abs(values.amplitude[best[ends]]):
            best[ends] = edge
    cycles = [
        [(a, b) for a, b in zip(c, [*c[1:], c[0]], strict=True)]
        for c in itertools.islice(elementary_cycles(net_of(gain)), MAX_CYCLES)
    ]
    strongest = max(cycles, key=lambda c: math.prod(gain[e] for e in c))
    folded = [best[ends] for ends in strongest]
    return Loop(
        margin_db=_margin_db(gain, cycles),
        delay_us=int(sum(values.delay_us[e] for e in folded)),
        edges=tuple(itertools.chain.from_iterable(_chain(hearing, e) for e in folded)),
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
