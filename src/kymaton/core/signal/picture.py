"""Pictures along routes and cables: which way they take, how late they are, who sees what."""

import itertools
import math
from collections.abc import Iterator
from dataclasses import dataclass
from typing import TYPE_CHECKING

from kymaton.core.model import Cue, Figure, Route, Show
from kymaton.core.signal.graph import unplugged

if TYPE_CHECKING:
    import networkx as nx


@dataclass(frozen=True)
class PictureWay:
    """The shortest way of a picture from where it is taken (an input without a lead: a lens) to a watcher.

    `figures` are the delays it meets, with their devices; `controls` the delay controls, each as often as it acts;
    `on_air` is false where a switcher would have to be switched over first.
    """

    watcher: str
    source: str
    delay_us: int
    figures: tuple[tuple[str, Figure], ...]
    controls: tuple[str, ...]
    on_air: bool

    @property
    def camera(self) -> str:
        return self.source.partition("/")[0]

    @property
    def delay_ms(self) -> float:
        return self.delay_us / 1000.0

    @property
    def plus_minus_ms(self) -> float:
        return math.sqrt(sum(f.plus_minus**2 for _, f in self.figures))


def picture_arrival(show: Show, cue: Cue | None, listener: str) -> PictureWay | None:
    """The picture on air at a listener in this cue; None for listeners who are sent none."""
    ways = [w for w in picture_ways(show, cue, listener) if w.on_air]
    return min(ways, key=lambda w: w.delay_us, default=None)


def picture_nets(show: Show, cue: Cue | None) -> "tuple[nx.DiGraph, nx.DiGraph]":
    """What is on air, and what a switcher could put on air."""
    return picture_net(show, cue), picture_net(show, cue, any_on_air=True)


def picture_ways(
    show: Show, cue: Cue | None, listener: str, nets: "tuple[nx.DiGraph, nx.DiGraph] | None" = None
) -> list[PictureWay]:
    """The way of every picture that can reach a listener: of those on air, and of those a switcher could put there."""
    end = f"listener/{listener}"
    if not any(c.target == end and show.port(c.source).picture for c in show.cables if c.source in show.ports):
        return []
    import networkx as nx  # late: it takes a while to load

    found: dict[str, PictureWay] = {}
    on_air, any_ = nets or picture_nets(show, cue)
    for net, here in ((on_air, True), (any_, False)):
        if end not in net:
            continue
        _, paths = nx.single_source_dijkstra(net.reverse(copy=False), end, weight="us")
        for source, path in paths.items():
            if net.in_degree(source) == 0 and source not in found and not show.port(source).connector:
                steps = [net.edges[a, b] for a, b in itertools.pairwise(path[::-1])]
                found[source] = PictureWay(
                    listener,
                    source,
                    sum(s["us"] for s in steps),
                    tuple(f for s in steps for f in s["figures"]),
                    tuple(c for s in steps for c in s["controls"]),
                    here,
                )
    return list(found.values())


def pictures_seen(show: Show, cue: Cue | None, watcher: str) -> set[str]:
    """Outputs whose picture reaches a watcher in this cue, wholly or through a switcher that has it on air."""
    import networkx as nx

    net, end = picture_net(show, cue), f"listener/{watcher}"
    return set(nx.ancestors(net, end)) if end in net else set()


def picture_net(show: Show, cue: Cue | None, any_on_air: bool = False) -> "nx.DiGraph":
    """Ports that carry picture, with the routes and cables that are open in this cue.

    A route that is closed by a setting (a socket that carries data only) is none. With `any_on_air` every input of a
    switcher passes.
    """
    import networkx as nx

    net: nx.DiGraph = nx.DiGraph()
    on_air = cue.on_air if cue else None
    for device in show.devices:
        for route in device.routes:
            passes = any_on_air or route.on_air in (None, on_air)
            if route.medium == "picture" and passes and picture_open(show, route, cue):
                delays = list(_delay_controls(show, route))
                added = sum(float(show.value(c, cue.id if cue else None)) for c in delays)
                net.add_edge(
                    f"{device.id}/{route.source}",
                    f"{device.id}/{route.target}",
                    us=round(route.delay_ms.value * 1000) + round(added * 1000),
                    figures=((device.id, route.delay_ms),),
                    controls=tuple(delays),
                )
    off = unplugged(show, cue)
    for cable in show.cables:
        if cable.id in off or cable.source not in show.ports or not show.port(cable.source).picture:
            continue
        if cable.target not in show.ports or show.port(cable.target).picture:
            net.add_edge(cable.source, cable.target, us=0, figures=(), controls=())
    return net


def _delay_controls(show: Show, route: Route) -> Iterator[str]:
    return (u.control for u in route.controls if show.control(u.control).kind == "delay")


def picture_open(show: Show, route: Route, cue: Cue | None) -> bool:
    """Whether the settings let a picture route pass."""
    cue_id = cue.id if cue else None
    return all(str(show.value(u.control, cue_id)) in u.gains for u in route.controls if u.gains is not None)
