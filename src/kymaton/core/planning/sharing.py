"""Which listeners can share a bus, and how many buses they need at least: colours of the graph of those who cannot.

Two feeds cannot share a bus when the one needs a sound by it that the other must not get, in any cue. The fewest
colours are found by branch and bound, the most constrained feed first [1], under the bound of a clique.

1. Brélaz, "New methods to color the vertices of a graph", Comm. ACM 22 (1979).
"""

from collections.abc import Collection, Iterator, Mapping

from msgspec import Struct

from kymaton.core.checks.report import Report
from kymaton.core.edits.controls import Change, apply
from kymaton.core.model import Cable, Show, Want
from kymaton.core.nets import net_of, preorder
from kymaton.core.planning.buses import sends_of
from kymaton.core.signal.control_search import Opening, Reach, closed_value
from kymaton.core.signal.cue_solution import MISSING_DB, CueSolution

MOST_STEPS = 200_000  # of branch and bound; chosen: about a second


class Colouring(Struct, frozen=True):
    """A colour (0, 1, …) for each node, and how many are needed at least: as many, where it is exact."""

    colours: dict[str, int]
    at_least: int

    @property
    def many(self) -> int:
        """How many colours it has."""
        return len(set(self.colours.values()))


class Feed(Struct, frozen=True):
    """A lead from a bus, who hangs on it, and what they need by it and must not get, as (cue, sound)."""

    lead: str
    listeners: tuple[str, ...]
    needs: frozenset[tuple[str | None, str]]
    refuses: frozenset[tuple[str | None, str]]

    @property
    def at_odds(self) -> bool:
        """Whether those on this lead collide among themselves: then no bus more helps them."""
        return bool(self.needs & self.refuses)


def feeds_of(report: Report, bus: str) -> list[Feed]:
    """The leads from a bus, those behind a splitter each for itself, with what hangs on them."""
    show = report.show
    net = net_of(
        [
            *((c.source, c.target) for c in show.cables if c.plugged),
            *((f"{d.id}/{r.source}", f"{d.id}/{r.target}") for d in show.devices for r in d.routes),
        ]
    )
    silent = apply(show, _closed(show, bus))
    without = {cue: report.what_if(silent, cue) for cue in report.cues}
    feeds = []
    for cable in _leads_of(show, bus):
        behind = set(preorder(net, cable.target))
        ears = tuple(x.id for x in show.listeners if f"listener/{x.id}" in behind and x.kind != "audience")
        needs, refuses = set(), set()
        for cue, view in without.items():
            for ear in ears:
                for sound in show.sounds:
                    want = view.plan.wants[ear, sound.id]
                    if want is Want.MUST and _needs(view, ear, sound.id):
                        needs.add((cue, sound.id))
                    elif want is Want.MUST_NOT:
                        refuses.add((cue, sound.id))
        feeds.append(Feed(cable.id, ears, frozenset(needs), frozenset(refuses)))
    return feeds


def _leads_of(show: Show, port: str) -> Iterator[Cable]:
    """The leads by which an output is passed on unchanged: of a splitter those that leave it."""
    for cable in show.cables:
        if cable.source != port or not cable.plugged:
            continue
        owner, _, entry = cable.target.partition("/")
        device = None if owner == "listener" else show.device(owner)
        ways = [] if device is None else [r for r in device.routes if r.source == entry and r.medium == "sound"]
        outputs = dict.fromkeys(r.target for r in ways)
        if device is not None and len(outputs) > 1 and not any(r.controls for r in ways):
            for output in outputs:
                yield from _leads_of(show, f"{device.id}/{output}")
        else:
            yield cable


def _closed(show: Show, bus: str) -> list[Change]:
    """All sends to a bus closed, in every cue."""
    return [
        Change(cue, send, show.value(send, cue), value)
        for send in sends_of(show, bus).values()
        if (value := closed_value(show.control(send))) is not None
        for cue in (None, *(c.id for c in show.cues if send in c.controls))
    ]


def _needs(view: CueSolution, listener: str, sound: str) -> bool:
    """Whether a sound comes to a listener by no other way than the bus that is closed here, but can come by that."""
    show = view.show
    if view.audible(show.listener(listener), show.sound(sound), MISSING_DB):
        return False
    return Opening(view, Reach(elsewhere=False)).fewest(listener, sound) is not None


def colouring(feeds: Collection[Feed]) -> Colouring:
    """The fewest buses on which these feeds do not collide."""
    conflicts = {
        a.lead: {b.lead for b in feeds if a.lead != b.lead and (a.needs & b.refuses or b.needs & a.refuses)}
        for a in feeds
    }
    return fewest_colours(conflicts)


def fewest_colours(conflicts: Mapping[str, Collection[str]]) -> Colouring:
    """The fewest colours with which no two that are in conflict have the same."""
    nodes = list(conflicts)
    best: dict[str, int] = {}
    most = len(nodes) + 1
    colour: dict[str, int] = {}
    steps = 0
    clique = _clique(conflicts)

    def branch(used: int) -> None:
        nonlocal best, most, steps
        steps += 1
        if used >= most or most == clique or steps > MOST_STEPS:
            return
        free = [n for n in nodes if n not in colour]
        if not free:
            best, most = dict(colour), used
            return
        node = max(free, key=lambda n: (len({colour[m] for m in conflicts[n] if m in colour}), len(conflicts[n])))
        taken = {colour[m] for m in conflicts[node] if m in colour}
        for c in range(min(used + 1, most)):
            if c not in taken:
                colour[node] = c
                branch(max(used, c + 1))
                del colour[node]

    branch(0)
    return Colouring(best, most if steps <= MOST_STEPS and nodes else clique)


def _clique(conflicts: Mapping[str, Collection[str]]) -> int:
    """The size of a set in which each collides with each, found greedily: fewer colours there cannot be."""
    largest = 0
    for first in conflicts:
        members = [first]
        for node in sorted(conflicts[first], key=lambda n: -len(conflicts[n])):
            if all(node in conflicts[m] for m in members):
                members.append(node)
        largest = max(largest, len(members))
    return largest
