"""When the picture on air arrives: delays of pictures along routes and cables, for those who watch."""

import itertools
import math
from dataclasses import dataclass
from typing import TYPE_CHECKING

from kymaton.core.graph import unplugged
from kymaton.core.model import Cue, Show

if TYPE_CHECKING:
    import networkx as nx


@dataclass(frozen=True)
class PictureArrival:
    """The picture on air at a listener: from which device, after how long (the shortest way), ± with it."""

    listener: str
    source: str
    delay_us: int
    plus_minus_ms: float

    @property
    def delay_ms(self) -> float:
        return self.delay_us / 1000.0


def picture_arrival(show: Show, cue: Cue | None, listener: str) -> PictureArrival | None:
    """The picture on air at a listener in this cue; None for listeners who are sent none."""
    end = f"listener/{listener}"
    if not any(c.target == end and show.port(c.source).picture for c in show.cables if c.source in show.ports):
        return None
    import networkx as nx  # late: it takes a while to load

    net = _picture_net(show, cue)
    if end not in net:
        return None
    lengths, paths = nx.single_source_dijkstra(net.reverse(copy=False), end, weight="us")
    ways = [(lengths[n], n) for n in net if net.in_degree(n) == 0 and n in lengths]
    if not ways:
        return None
    length, source = min(ways)
    variance = sum(net.edges[a, b]["variance"] for a, b in itertools.pairwise(paths[source][::-1]))
    return PictureArrival(listener, source.partition("/")[0], length, math.sqrt(variance))


def _picture_net(show: Show, cue: Cue | None) -> "nx.DiGraph":
    """Ports that carry picture, with the routes and cables that are open in this cue."""
    import networkx as nx

    net: nx.DiGraph = nx.DiGraph()
    on_air = cue.on_air if cue else None
    for device in show.devices:
        for route in device.routes:
            if route.medium == "picture" and route.on_air in (None, on_air):
                net.add_edge(
                    f"{device.id}/{route.source}",
                    f"{device.id}/{route.target}",
                    us=round(route.delay_ms.value * 1000),
                    variance=route.delay_ms.plus_minus**2,
                )
    off = unplugged(show, cue)
    for cable in show.cables:
        if cable.id in off or cable.source not in show.ports or not show.port(cable.source).picture:
            continue
        if cable.target not in show.ports or show.port(cable.target).picture:
            net.add_edge(cable.source, cable.target, us=0, variance=0.0)
    return net
