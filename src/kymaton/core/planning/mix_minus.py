"""Mix-minus: which sends of a desk to open and close so that everyone hears what the plan says, and no one themselves.

Each fault that a send of the desk can cure is cured in turn; every step is proved on the whole show, so no wish that
held is ever broken. What cannot be done with sends alone is said, with the number of buses that are missing: those
who may not hear each other's bus are adjacent in a graph whose chromatic number is the number of buses needed [1].

1. Brélaz, "New methods to color the vertices of a graph", Comm. ACM 22 (1979).
"""

from collections.abc import Collection, Mapping

from msgspec import Struct, field

from kymaton.core.checks import KINDS, Finding, Key
from kymaton.core.checks.report import Card, CueReport, Report
from kymaton.core.edits.controls import Change, apply
from kymaton.core.model import Show, Want
from kymaton.core.planning.fixes import MOST_SOLVED, Effort, Fix, find_fix
from kymaton.core.signal.trace import open_edges_between
from kymaton.core.words import group, joined, named, sentence, the_port

BOUNDED = "The search was ended before everything was tried. Apply what is here, then propose again."


class Impossible(Struct, frozen=True):
    """A fault on the desk's buses that sends alone cannot cure, and why."""

    cue: str | None
    sentence: str
    buses_missing: int


class Proposal(Struct, frozen=True):
    """Control changes that bring the desk's sends in line with the plan; `cured` are the findings that vanish."""

    changes: tuple[Change, ...]
    cured: tuple[Finding, ...]
    impossible: tuple[Impossible, ...] = field(default=())
    bounded: bool = False  # whether the search was ended before everything was tried

    @property
    def remarks(self) -> tuple[str, ...]:
        """What is to be known of it besides."""
        return (BOUNDED,) if self.bounded else ()


def propose(report: Report, most: int = MOST_SOLVED) -> Proposal:
    """Proposal for every desk in the show, over all cues in the report; at most so many cues are solved for it."""
    show = report.show
    desks = tuple(d.id for d in show.devices if d.kind == "desk")
    working = report
    refused: set[Key] = set()
    effort = Effort(most)
    changes: list[Change] = []
    while True:
        card = _next_card(working, refused)
        if card is None:
            break
        fix = find_fix(working, card.findings, ("send",), desks, effort) if desks else None
        if fix is None and len(card.findings) > 1:
            fix = _any_single(working, card, desks, effort)
        if fix is None:
            refused |= {f.key for f in card.findings}
            continue
        changes += fix.changes
        working = Report(apply(working.show, fix.changes), report.graph, watched=True)
    cured = _difference(report, Report(working.show, report.graph)) if changes else ()
    impossible = () if effort.spent else tuple(_impossible(working, desks))  # what was not tried is not impossible
    return Proposal(tuple(_merged(changes)), cured, impossible, effort.spent)


def _next_card(report: Report, refused: set[Key]) -> Card | None:
    for cue in report.cues.values():
        for card in cue.cards:
            if (
                card.severity == "fault"
                and KINDS[card.first.id].by_sends
                and not {f.key for f in card.findings} <= refused
            ):
                return card
    return None


def _any_single(report: Report, card: Card, desks: tuple[str, ...], effort: Effort) -> Fix | None:
    tried = (find_fix(report, (f,), ("send",), desks, effort) for f in card.findings)
    return next((fix for fix in tried if fix is not None), None)


def _difference(before: Report, after: Report) -> tuple[Finding, ...]:
    left = {f.key for f in after.findings}
    return tuple(f for f in before.findings if f.key not in left)


def _merged(changes: list[Change]) -> list[Change]:
    """One change per control and cue: from the first value to the last."""
    merged: dict[tuple[str | None, str], Change] = {}
    for change in changes:
        key = (change.cue, change.control)
        first = merged.get(key, change)
        merged[key] = Change(change.cue, change.control, first.before, change.after, first.why)
    return [c for c in merged.values() if c.before != c.after]


def _impossible(report: Report, desks: tuple[str, ...]) -> list[Impossible]:
    """Faults that are left although the listener is fed by an aux bus of a desk."""
    found: dict[tuple[str | None, str], Impossible] = {}
    for cue_id, cue in report.cues.items():
        for card in cue.cards:
            if card.severity != "fault" or not KINDS[card.first.id].by_sends:
                continue
            buses = {b for f in card.findings if f.listener for b in _buses_of(cue, f.listener, desks)}
            if not buses:
                continue
            listeners = _listeners_on(cue, buses, desks)
            missing = _buses_needed(cue.view.show, cue_id, listeners) - len(buses)
            names = group(named(cue.view.show.listener(x)) for x in listeners)
            bus_names = joined(the_port(report.show, b) for b in sorted(buses))
            text = f"{card.sentence}: no setting of the sends cures it without breaking another wish"
            if missing > 0:
                text = (
                    f"{card.sentence}: {names.do('share')} {bus_names} and their wishes collide; "
                    f"{missing} more {'bus is' if missing == 1 else 'buses are'} needed"
                )
            found.setdefault((cue_id, card.sentence), Impossible(cue_id, sentence(text), max(0, missing)))
    return list(found.values())


def _buses_of(cue: CueReport, listener: str, desks: tuple[str, ...]) -> set[str]:
    """Aux buses of the desks through which anything reaches a listener."""
    view, buses = cue.view, set()
    for edge in open_edges_between(view.graph, view.state, None, listener):
        origin = view.graph.edges[edge]
        if origin.device in desks and any(view.show.control(u.control).role == "send" for u in origin.uses):
            buses.add(view.graph.nodes[view.graph.dst[edge]][0])
    return buses


def _listeners_on(cue: CueReport, buses: set[str], desks: tuple[str, ...]) -> list[str]:
    return [x.id for x in cue.view.show.listeners if buses & _buses_of(cue, x.id, desks)]


def _buses_needed(show: Show, cue: str | None, listeners: list[str]) -> int:
    """Fewest buses on which these listeners' wishes do not collide: colours of the conflict graph (exact)."""
    conflicts: dict[str, set[str]] = {x: set() for x in listeners}
    for i, a in enumerate(listeners):
        for b in listeners[i + 1 :]:
            if any(
                {show.want(a, s.id, cue), show.want(b, s.id, cue)} == {Want.MUST, Want.MUST_NOT} for s in show.sounds
            ):
                conflicts[a].add(b)
                conflicts[b].add(a)
    return fewest_colours(conflicts)


def fewest_colours(conflicts: Mapping[str, Collection[str]]) -> int:
    """Chromatic number by branch and bound, most constrained node first (Brélaz' DSATUR)."""
    nodes = list(conflicts)
    best = len(nodes)
    colour: dict[str, int] = {}

    def branch(used: int) -> None:
        nonlocal best
        if used >= best:
            return
        free = [n for n in nodes if n not in colour]
        if not free:
            best = used
            return
        node = max(free, key=lambda n: (len({colour[m] for m in conflicts[n] if m in colour}), len(conflicts[n])))
        taken = {colour[m] for m in conflicts[node] if m in colour}
        for c in range(min(used + 1, best)):
            if c not in taken:
                colour[node] = c
                branch(max(used, c + 1))
                del colour[node]

    branch(0)
    return best
