"""When the picture on air arrives: delays of pictures along routes and cables, for those who watch."""

import itertools
import math
from dataclasses import dataclass

import networkx as nx

from kymaton.core.graph import unplugged
from kymaton.core.model import Cue, Show


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


def picture_arrivals(show: Show, cue: Cue | None) -> dict[str, PictureArrival]:
    """For each listener who is sent a picture in this cue: the one on air."""
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
        to_listener = cable.target.startswith("listener/")
        carries = not cable.source.startswith("sound/") and show.port(cable.source).picture
        if cable.id not in off and carries and (to_listener or show.port(cable.target).picture):
            net.add_edge(cable.source, cable.target, us=0, variance=0.0)
    sources = {n for n in net if net.in_degree(n) == 0}
    found: dict[str, PictureArrival] = {}
    for listener in show.listeners:
        end = f"listener/{listener.id}"
        if end not in net:
            continue
        lengths, paths = nx.single_source_dijkstra(net.reverse(copy=False), end, weight="us")
        ways = [(lengths[s], s) for s in sources if s in lengths]
        if ways:
            length, source = min(ways)
            nodes = paths[source][::-1]
            variance = sum(net.edges[a, b]["variance"] for a, b in itertools.pairwise(nodes))
            found[listener.id] = PictureArrival(listener.id, source.partition("/")[0], length, math.sqrt(variance))
    return found
