"""What no setting can do, and why: a smallest set of wishes that collide, what they share, and the ways out."""

import itertools
from collections.abc import Hashable, Iterable, Iterator, Sequence

from msgspec import Struct

from kymaton.core.checks import Finding, Key
from kymaton.core.model import Show
from kymaton.core.planning.buses import bus_of
from kymaton.core.planning.choosing import Demand, choose
from kymaton.core.planning.search import Search
from kymaton.core.planning.ways_out import Way, given_up, more_buses, more_leads
from kymaton.core.words import counted, joined, named, said, sentence, the_port

MOST_CONTROLS = 4  # named in one sentence
MOST_TOGETHER = 3  # besides the one that is told, in a set that is looked for as the smallest
MOST_TAUGHT = 40  # sets that are learnt on the way; chosen: some 10 ms each
MOST_COLLISIONS = 12  # that are looked into; chosen: what stands behind them has the same reasons


class Impossible(Struct, frozen=True):
    """What no setting within reach cures, and why: wishes that collide, and where; ways out that do it."""

    cue: str | None
    sentence: str
    buses_missing: int = 0
    collides: tuple[str, ...] = ()
    ways: tuple[Way, ...] = ()


def impossible_of(search: Search, left: Sequence[Finding]) -> Iterator[Impossible]:
    """Why each of these findings stays, once for all cues in which it is the same."""
    told: set[tuple[object, ...]] = set()
    for finding in left[:MOST_COLLISIONS]:
        reasons = _collision(search, finding.key, {f.key for f in left})
        others = [search.asked[r] for r in reasons if r != finding.key]
        about = (finding.id, finding.listener, finding.sound, *((f.id, f.listener, f.sound) for f in others))
        if about in told:
            continue  # as in another cue
        told.add(about)
        yield _told(search, finding, others)


def _collision(search: Search, key: Key, left: set[Key]) -> list[object]:
    """A smallest set of reasons that cannot all be met, with this one in it; it alone where nothing meets it at all.

    What must be given up for the others to be had tells what a set has to hold one of; the smallest that does so for
    all that is known is tried, and either collides or teaches one more [1]. Where that takes too long a set of which
    none can be left out is told.

    1. Ignatiev, Previti, Liffiton and Marques-Silva, "Smallest MUS extraction with minimal hitting set dualization",
       CP 2015.
    """
    cue = key[2]
    there: dict[object, list[Demand]] = {}
    for demand in search.demands:
        if demand.reason == key or (demand.reason not in left and demand.cue == cue):
            there.setdefault(demand.reason, []).append(search.plain.get(demand, demand))
    if key in search.hopeless:
        return [key]
    others = sorted((r for r in there if r != key), key=lambda r: -_akin(search.asked[r], search.asked[key]))
    every = [d for r in (key, *others) for d in there.get(r, ())]
    taught: list[frozenset[Hashable]] = []
    for _ in range(MOST_TAUGHT):
        kept = _smallest_hitting(taught, others)
        if kept is None:
            break
        found = choose(search.show, every, lambda control, value: 0.0, {r: 1.0 for r in others if r not in kept})
        if found is None:
            return [key, *kept]
        if not found.given_up:
            return [key]
        taught.append(found.given_up)
    return [key, *_irreducible(search, there, key, others)]


def _smallest_hitting(sets: Sequence[frozenset[Hashable]], order: Sequence[Hashable]) -> tuple[Hashable, ...] | None:
    """As few as hit all sets, of those the first in this order; None where that is more than MOST_TOGETHER."""
    those = [x for x in order if any(x in s for s in sets)]
    sizes = range(MOST_TOGETHER + 1)
    tries = (chosen for size in sizes for chosen in itertools.combinations(those, size))
    return next((c for c in tries if all(s.intersection(c) for s in sets)), None)


def _irreducible(
    search: Search, there: dict[object, list[Demand]], key: Key, others: Sequence[Hashable]
) -> list[Hashable]:
    """Reasons that collide with one, of which none can be left out: the least akin are left out first."""

    def collide(reasons: Iterable[object]) -> bool:
        return choose(search.show, [d for r in reasons for d in there.get(r, ())], lambda control, value: 1.0) is None

    kept = list(reversed(others))
    if not collide([key, *kept]):
        return []
    for reason in list(kept):
        fewer = [r for r in kept if r != reason]
        if collide([key, *fewer]):
            kept = fewer
    return kept


def _akin(one: Finding, other: Finding) -> int:
    """How much two findings have in common."""
    return (one.listener == other.listener) + (one.sound == other.sound)


def _told(search: Search, finding: Finding, others: list[Finding]) -> Impossible:
    show = search.show
    if not others:
        why, ways = _alone(search, finding)
        return Impossible(finding.cue, sentence(f"{finding.sentence}: {why}"), ways=ways)
    every = [finding, *others]
    contested = _contested(search, every)
    buses = sorted({b for b in (bus_of(show, c) for c in contested) if b is not None})
    wishes = tuple(wish_text(show, f) for f in every)
    text = f"{finding.sentence}: {joined(wishes)}{_where(show, every, contested, buses)}"
    ways_out, missing = more_buses(search, finding, buses)
    ways_out += given_up(search, every)
    if missing:
        text += f"; {counted(missing, 'more bus is', 'more buses are')} needed"
    return Impossible(finding.cue, sentence(text), missing, wishes, tuple(ways_out))


def _alone(search: Search, finding: Finding) -> tuple[str, tuple[Way, ...]]:
    """Why nothing is done about a finding that collides with no other, and what does it."""
    if finding.key not in search.hopeless:
        return "nothing that was tried does it", ()
    if finding.id != "missing":
        return "no control here does anything about it", ()
    if search.demands_in(finding.cue).is_open(finding.listener or "", finding.sound or ""):
        return "a way is open, and no level on it is below what is usual", ()
    return "no way leads there, whatever is opened", tuple(more_leads(search, finding))


def _where(show: Show, findings: Sequence[Finding], contested: Sequence[str], buses: Sequence[str]) -> str:
    """On what the wishes collide: a bus where several listeners are on it, else the controls."""
    both = "both" if len(findings) == 2 else "all of that"
    if len({f.listener for f in findings}) > 1 and len(buses) == 1:
        return f", but {the_port(show, buses[0])} feeds {both}"
    if 0 < len(contested) <= MOST_CONTROLS:
        return (
            f", but {both} {'hang' if both == 'both' else 'hangs'} on {joined(show.control(c).name for c in contested)}"
        )
    return ""


def wish_text(show: Show, finding: Finding) -> str:
    """What is wished, of what a finding says is not so."""
    if finding.listener is None or finding.sound is None:
        return f"not: {finding.sentence}"
    who, what = named(show.listener(finding.listener)), said(show.sound(finding.sound))
    if finding.id == "missing":
        return f"{who.do('be')} to hear {what}"
    if finding.id == "doubled":
        return f"{who.do('be')} to hear {what} once"
    if finding.id.startswith("own-voice"):
        return f"{who.do('be')} not to hear what {'they' if who.plural else who} {'make' if who.plural else 'makes'}"
    return f"{who.do('be')} not to hear {what}"


def _contested(search: Search, findings: Sequence[Finding]) -> list[str]:
    """The sends which these findings want to stand differently."""
    keys = {f.key for f in findings}
    values: dict[str, set[object]] = {}
    for demand in search.demands:
        if search.asked[demand.reason].key not in keys:
            continue
        closed = {(x.control, "close") for x in demand.literals}
        passed = {(n.control, "open") for a in (demand.way.arcs if demand.way is not None else ()) for n in a.needs}
        for control, wanted in (*closed, *passed):
            if search.show.control(control).role == "send":
                values.setdefault(control, set()).add(wanted)
    return [control for control, wanted in values.items() if len(wanted) > 1]
