"""When the picture on air arrives: delays of pictures along routes and cables, for those who watch."""

import itertools
import math
from dataclasses import dataclass
from typing import TYPE_CHECKING

from kymaton.core.graph import unplugged
from kymaton.core.model import Cue, Route, Show

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

    net = picture_net(show, cue)
    if end not in net:
        return None
    lengths, paths = nx.single_source_dijkstra(net.reverse(copy=False), end, weight="us")
    ways = [(lengths[n], n) for n in net if net.in_degree(n) == 0 and n in lengths]
    if not ways:
        return None
    length, source = min(ways)
    variance = sum(net.edges[a, b]["variance"] for a, b in itertools.pairwise(paths[source][::-1]))
    return PictureArrival(listener, source.partition("/")[0], length, math.sqrt(variance))


def pictures_seen(show: Show, cue: Cue | None, watcher: str) -> set[str]:
    """Outputs whose picture reaches a watcher in this cue, wholly or through a switcher that has it on air."""
    import networkx as nx

    net, end = picture_net(show, cue), f"listener/{watcher}"
    return set(nx.ancestors(net, end)) if end in net else set()


def picture_net(show: Show, cue: Cue | None) -> "nx.DiGraph":
    """Ports that carry picture, with the routes and cables that are open in this cue.

    A route that is closed by a setting (a socket that carries data only) is none.
    """
    import networkx as nx

    net: nx.DiGraph = nx.DiGraph()
    on_air = cue.on_air if cue else None
    for device in show.devices:
        for route in device.routes:
            if route.medium == "picture" and route.on_air in (None, on_air) and picture_open(show, route, cue):
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


def picture_open(show: Show, route: Route, cue: Cue | None) -> bool:
    """Whether the settings let a picture route pass."""
    cue_id = cue.id if cue else None
    return all(str(show.value(u.control, cue_id)) in u.gains for u in route.controls if u.gains is not None)
