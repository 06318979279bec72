"""What opens and closes ways: values of controls that silence or pass, and the fewest to open for a sound to arrive.

The way is the cheapest by number of controls that are closed on it, each counted once [1].

1. Dijkstra, "A note on two problems in connexion with graphs", Numer. Math. 1 (1959).
"""

import heapq

from msgspec import Struct

from kymaton.core.model import Control, ControlUse, Value
from kymaton.core.signal.cue_solution import CueSolution
from kymaton.core.signal.graph import choice_gain_db, control_gain_db
from kymaton.core.units import SILENT, pan_gain_db


def closed_value(control: Control) -> Value | None:
    """The value at which a control silences its routes; None when it cannot."""
    if control.kind == "level":
        return control.minimum
    if control.kind == "mute":
        return True
    if control.kind == "switch":
        return False
    return "off" if control.role == "input-sound" and "off" in control.choices else None


def open_value(control: Control) -> Value | None:
    """The value at which a closed control lets sound pass as usual."""
    if control.kind == "level":
        return control.nominal if control.nominal is not None else 0.0
    if control.kind == "mute":
        return False
    if control.kind == "switch":
        return True
    return "on" if control.role == "input-sound" and "on" in control.choices else None


class Reach(Struct, frozen=True):
    """Which controls may be touched: of these roles and devices (none named: all), those elsewhere too or not."""

    roles: tuple[str, ...] = ()
    devices: tuple[str, ...] = ()
    elsewhere: bool = True

    def has(self, control: Control) -> bool:
        """Whether a control may be touched."""
        if control.elsewhere and not self.elsewhere:
            return False
        within = not self.devices or control.id.partition("/")[0] in self.devices
        return within and (not self.roles or control.role in self.roles)


ANY_REACH = Reach()


class Opening:
    """The fewest controls within reach to open for a sound to reach a listener; each sound is followed once."""

    def __init__(self, view: CueSolution, reach: Reach = ANY_REACH) -> None:
        self.view, self.reach = view, reach
        self.dst: list[int] = view.graph.dst.tolist()
        self.out: dict[int, list[int]] = {}
        for number, source in enumerate(view.graph.src.tolist()):
            self.out.setdefault(source, []).append(number)
        self.ears: dict[str, list[int]] = {}
        for (listener, _), node in zip(view.graph.ears, view.graph.ear_node.tolist(), strict=True):
            self.ears.setdefault(listener, []).append(node)
        self.followed: dict[str, dict[int, tuple[str, ...]]] = {}
        self.closed: dict[int, tuple[str, ...] | None] = {}

    def fewest(self, listener: str, sound: str) -> dict[str, Value] | None:
        """The controls to open, and their values; None when no setting does it."""
        if sound not in self.followed:
            self.followed[sound] = self._follow(sound)
        reached = self.followed[sound]
        ways = [reached[ear] for ear in self.ears.get(listener, ()) if ear in reached]
        if not ways:
            return None
        show = self.view.show
        return {id: v for id in min(ways, key=len) if (v := open_value(show.control(id))) is not None}

    def _follow(self, sound: str) -> dict[int, tuple[str, ...]]:
        """What is to be opened for the sound to come to each node that it can reach."""
        graph = self.view.graph
        queue: list[tuple[int, int, tuple[str, ...]]] = [
            (0, int(n), ()) for (s, _), n in zip(graph.signals, graph.signal_node, strict=True) if s == sound
        ]
        reached: dict[int, tuple[str, ...]] = {}
        while queue:
            _, node, to_open = heapq.heappop(queue)
            if node in reached:
                continue
            reached[node] = to_open
            for edge in self.out.get(node, ()):
                closed = self.to_open(edge)
                if closed is not None and self.dst[edge] not in reached:
                    opened = tuple(dict.fromkeys((*to_open, *closed))) if closed else to_open
                    heapq.heappush(queue, (len(opened), self.dst[edge], opened))
        return reached

    def to_open(self, edge: int) -> tuple[str, ...] | None:
        """The closed controls on an edge; None where nothing opens it."""
        if self.view.state.gain_db[edge] != SILENT:
            return ()
        if edge not in self.closed:
            show = self.view.show
            found = [show.control(id) for id in closed_controls(self.view, edge)]
            can = found and all(self.reach.has(c) and open_value(c) is not None for c in found)
            self.closed[edge] = tuple(c.id for c in found) if can else None
        return self.closed[edge]


def closed_controls(view: CueSolution, edge: int) -> list[str]:
    """Controls that silence an edge in this cue; empty when it is silent for another reason."""
    return [use.control for use in closing_uses(view, edge)]


def closing_uses(view: CueSolution, edge: int) -> list[ControlUse]:
    """The uses of controls that silence an edge in this cue."""
    found = []
    for use in view.graph.edges[edge].uses:
        acts = use.when is None or view.show.value(use.when.control, view.cue_id) == use.when.value
        if use.only_from or not acts:
            continue
        control, value = view.show.control(use.control), view.show.value(use.control, view.cue_id)
        if use.gains is not None:
            shut = choice_gain_db(control, value, use.gains, view.cue.on_air if view.cue else None) == SILENT
        elif use.side is not None:
            shut = pan_gain_db(float(value), use.side) == SILENT
        else:
            shut = control_gain_db(control, value) == SILENT
        if shut:
            found.append(use)
    return found
