"""What opens and closes ways: values of controls that silence or pass, and the fewest to open for a sound to arrive.

The way is the cheapest by number of controls that are closed on it, each counted once [1].

1. Dijkstra, "A note on two problems in connexion with graphs", Numer. Math. 1 (1959).
"""

import heapq

from kymaton.core.model import Control, Value
from kymaton.core.signal.cue_solution import CueSolution
from kymaton.core.signal.graph import control_gain_db
from kymaton.core.units import SILENT


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


def allowed(control: Control, roles: tuple[str, ...], devices: tuple[str, ...]) -> bool:
    """Whether a control is of one of these roles and devices; none named means all."""
    return (not roles or control.role in roles) and (not devices or control.id.partition("/")[0] in devices)


def fewest_to_open(
    view: CueSolution, listener: str, sound: str, roles: tuple[str, ...] = (), devices: tuple[str, ...] = ()
) -> dict[str, Value] | None:
    """The fewest controls to open, and their values, for a sound to reach a listener; None when no setting does it.

    `roles` and `devices` limit which controls may be touched.
    """
    show, graph, state = view.show, view.graph, view.state
    out: dict[int, list[int]] = {}
    for number, source in enumerate(graph.src.tolist()):
        out.setdefault(source, []).append(number)
    ears = {int(n) for (x, _), n in zip(graph.ears, graph.ear_node, strict=True) if x == listener}
    queue: list[tuple[int, int, tuple[str, ...]]] = [
        (0, int(n), ()) for (s, _), n in zip(graph.signals, graph.signal_node, strict=True) if s == sound
    ]
    done: set[int] = set()
    while queue:
        _, node, to_open = heapq.heappop(queue)
        if node in ears:
            return {id: v for id in to_open if (v := open_value(show.control(id))) is not None}
        if node in done:
            continue
        done.add(node)
        for edge in out.get(node, ()):
            closed: list[str] = []
            if state.gain_db[edge] == SILENT:
                closed = closed_controls(view, edge)
                if not closed or any(
                    not allowed(show.control(id), roles, devices) or open_value(show.control(id)) is None
                    for id in closed
                ):
                    continue
            opened = tuple(dict.fromkeys((*to_open, *closed)))
            heapq.heappush(queue, (len(opened), int(graph.dst[edge]), opened))
    return None


def closed_controls(view: CueSolution, edge: int) -> list[str]:
    """Controls that silence an edge in this cue; empty when it is silent for another reason."""
    found = []
    for use in view.graph.edges[edge].uses:
        if use.only_from:
            continue
        control = view.show.control(use.control)
        value = view.show.value(use.control, view.cue_id)
        if use.gains is not None:
            if str(value) not in use.gains:
                found.append(control.id)
        elif (use.when is None or view.show.value(use.when.control, view.cue_id) == use.when.value) and (
            control_gain_db(control, value) == SILENT
        ):
            found.append(control.id)
    return found
