"""Where along the way left and right are crossed, added, or turned round."""

from kymaton.core.model import Sound
from kymaton.core.signal.cue_solution import CueSolution
from kymaton.core.signal.trace import Path
from kymaton.core.words import the_device, the_port


def strongest_of_channels(view: CueSolution, listener: str, sound: Sound) -> list[Path]:
    """The strongest way of each channel of a sound to a listener, as far as there is one."""
    paths = view.paths(listener, sound.id)  # strongest first
    first = (next((p for p in paths if p.sound_channel == c), None) for c in range(1, sound.channels + 1))
    return [p for p in first if p is not None]


def crossed_at(view: CueSolution, path: Path) -> int | None:
    """The edge at which a channel first comes to the other side; None where it does nowhere."""
    graph = view.graph
    for edge in path.edges:
        before, after = graph.nodes[graph.src[edge]][1], graph.nodes[graph.dst[edge]][1]
        if {before, after} == {1, 2} and not graph.nodes[graph.dst[edge]][0].startswith("listener/"):
            return edge
    return None


def turned_at(view: CueSolution, paths: list[Path]) -> int | None:
    """The edge at which one of two ways is turned round and the other is not; None where neither is."""
    for path in paths:
        others = {e for p in paths if p is not path for e in p.edges}
        for edge in path.edges:
            if view.graph.sign[edge] < 0 and edge not in others:
                return edge
    return None


def met_at(view: CueSolution, paths: list[Path]) -> str | None:
    """The first port that both channels go through on one and the same line; None where they stay apart."""
    if len(paths) < 2:
        return None
    graph = view.graph
    nodes = {int(graph.dst[e]) for e in paths[1].edges}
    for edge in paths[0].edges:
        node = int(graph.dst[edge])
        if node in nodes and not graph.nodes[node][0].startswith("listener/"):
            return graph.nodes[node][0]
    return None


def place_of(view: CueSolution, edge: int) -> tuple[str, tuple[str, ...]]:
    """An edge as a place in words, with its ports: in a device, or on the lead between two."""
    graph = view.graph
    ends = (graph.nodes[graph.src[edge]][0], graph.nodes[graph.dst[edge]][0])
    device = graph.edges[edge].device
    if device is not None:
        return f"in {the_device(view.show, device)}", ends
    return f"on the lead from {the_port(view.show, ends[0])} to {the_port(view.show, ends[1])}", ends
