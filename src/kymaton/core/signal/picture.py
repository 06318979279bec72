"""Pictures along routes and cables: which way they take, how late they are, who sees what."""

import itertools
import math
from collections.abc import Iterator

from msgspec import Struct

from kymaton.core.model import Cue, Figure, Route, Show
from kymaton.core.nets import preorder, shortest_ways
from kymaton.core.signal.graph import unplugged


class PictureStep(Struct, frozen=True):
    """From port to port: its delay, the figures that delay is made of (with their devices), its delay controls."""

    delay_us: int
    figures: tuple[tuple[str, Figure], ...] = ()
    controls: tuple[str, ...] = ()


BackNet = dict[str, dict[str, PictureStep]]  # each port to those whose picture comes to it


class PictureWay(Struct, frozen=True):
    """The shortest way of a picture from where it is taken (an input without a lead: a lens) to a watcher.

    `figures` are the delays it meets, with their devices; `controls` the delay controls, each as often as it acts;
    `on_air` is false where a switcher would have to be switched over first. `ports` are those it passes.
    """

    watcher: str
    source: str
    delay_us: int
    figures: tuple[tuple[str, Figure], ...]
    controls: tuple[str, ...]
    on_air: bool
    ports: tuple[str, ...] = ()

    @property
    def camera(self) -> str:
        """The device that takes the picture."""
        return self.source.partition("/")[0]

    @property
    def delay_ms(self) -> float:
        """How late the picture is there, in ms."""
        return self.delay_us / 1000.0

    @property
    def plus_minus_ms(self) -> float:
        """Its uncertainty in ms: the root of the squares of those of its figures."""
        return math.sqrt(sum(f.plus_minus**2 for _, f in self.figures))


def picture_arrival(show: Show, cue: Cue | None, listener: str) -> PictureWay | None:
    """The picture on air at a listener in this cue; None for listeners who are sent none."""
    ways = [w for w in picture_ways(show, cue, listener) if w.on_air]
    return min(ways, key=lambda w: w.delay_us, default=None)


def picture_nets(show: Show, cue: Cue | None) -> tuple[BackNet, BackNet]:
    """What is on air, and what a switcher could put on air."""
    return picture_net(show, cue), picture_net(show, cue, any_on_air=True)


def picture_ways(
    show: Show, cue: Cue | None, listener: str, nets: tuple[BackNet, BackNet] | None = None
) -> list[PictureWay]:
    """The way of every picture that can reach a listener: of those on air, and of those a switcher could put there."""
    end = f"listener/{listener}"
    if not any(show.port(c.source).picture for c in show.cables_to.get(end, ()) if c.source in show.ports):
        return []
    found: dict[str, PictureWay] = {}
    on_air, any_ = nets or picture_nets(show, cue)
    for net, here in ((on_air, True), (any_, False)):
        lengths = {port: {before: step.delay_us for before, step in steps.items()} for port, steps in net.items()}
        for source, path in shortest_ways(lengths, end).items():
            if source != end and not net.get(source) and source not in found and _begins(show, source):
                steps = [net[b][a] for a, b in itertools.pairwise(path[::-1])]
                found[source] = PictureWay(
                    listener,
                    source,
                    sum(s.delay_us for s in steps),
                    tuple(f for s in steps for f in s.figures),
                    tuple(c for s in steps for c in s.controls),
                    here,
                    tuple(path[::-1]),
                )
    return list(found.values())


def _begins(show: Show, port: str) -> bool:
    """Whether a picture begins at an input to which none comes: a lens, or what a player plays, and no free socket."""
    device, socket = show.ports[port]
    return not socket.connector and (socket.signal == "acoustic" or device.stage in ("made", "picked-up"))


def pictures_seen(show: Show, cue: Cue | None, watcher: str) -> set[str]:
    """Outputs whose picture reaches a watcher in this cue, wholly or through a switcher that has it on air."""
    net, end = picture_net(show, cue), f"listener/{watcher}"
    return set(preorder(net, end)) - {end} if end in net else set()


def picture_net(show: Show, cue: Cue | None, any_on_air: bool = False) -> BackNet:
    """Ports that carry picture, with the routes and cables that are open in this cue.

    A route that is closed by a setting (a socket that carries data only) is none. With `any_on_air` every input of a
    switcher passes.
    """
    net: BackNet = {}

    def step(source: str, target: str, step: PictureStep) -> None:
        net.setdefault(source, {})
        net.setdefault(target, {})[source] = step

    on_air = cue.on_air if cue else None
    for device in show.devices:
        for route in device.routes:
            passes = any_on_air or route.on_air in (None, on_air)
            if route.medium == "picture" and passes and picture_open(show, route, cue):
                delays = list(_delay_controls(show, route))
                added = sum(float(show.value(c, cue.id if cue else None)) for c in delays)
                delay_us = round(route.delay_ms.value * 1000) + round(added * 1000)
                step(
                    f"{device.id}/{route.source}",
                    f"{device.id}/{route.target}",
                    PictureStep(delay_us, ((device.id, route.delay_ms),), tuple(delays)),
                )
    off = unplugged(show, cue)
    for cable in show.cables:
        if cable.id in off or cable.source not in show.ports or not show.port(cable.source).picture:
            continue
        if cable.target not in show.ports or show.port(cable.target).picture:
            step(cable.source, cable.target, PictureStep(0))
    return net


def _delay_controls(show: Show, route: Route) -> Iterator[str]:
    return (u.control for u in route.controls if show.control(u.control).kind == "delay")


def picture_open(show: Show, route: Route, cue: Cue | None) -> bool:
    """Whether the settings let a picture route pass."""
    cue_id = cue.id if cue else None
    return all(str(show.value(u.control, cue_id)) in u.gains for u in route.controls if u.gains is not None)
