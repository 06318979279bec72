"""Ways out where no setting does it, each tried: a bus more, a lead more, or one of the wishes given up."""

from collections.abc import Iterator, Sequence

from msgspec import Struct

from kymaton.core.cable_match import lead_between
from kymaton.core.checks import Finding
from kymaton.core.checks.report import Report
from kymaton.core.edits.cables import connect
from kymaton.core.edits.controls import apply
from kymaton.core.edits.wishes import set_want
from kymaton.core.errors import ShowError
from kymaton.core.model import Show, Want
from kymaton.core.planning.buses import free_buses, sends_alike, sends_of, with_bus_like, with_lead_from
from kymaton.core.planning.curing import merged, one_by_one
from kymaton.core.planning.search import Effort, Search
from kymaton.core.planning.sharing import colouring, feeds_of
from kymaton.core.signal.control_search import Reach
from kymaton.core.words import joined, named, said, sentence, the_port

MOST_LEADS = 12  # leads that are tried out for one listener, the likeliest first


class Way(Struct, frozen=True):
    """A way out that was tried: in words, and the show with it, sends set as they are to be."""

    sentence: str
    show: Show


def more_buses(search: Search, finding: Finding, shared: Sequence[str]) -> tuple[list[Way], int]:
    """The way with the fewest buses that cures a finding, and how many of them the rig does not have."""
    for bus in shared:
        feeds = [f for f in feeds_of(search.report, bus) if f.listeners]
        if any(f.at_odds for f in feeds) or len(feeds) < 2:
            continue
        shares = colouring(feeds)
        show, missing, said_leads = search.show, 0, []
        for number in range(1, shares.many):
            free = free_buses(show, bus)
            if free:
                source = free[0]
                show = sends_alike(show, bus, source)
            else:
                show, source = with_bus_like(show, bus)
                missing += 1
            for lead in (show.cable(f.lead) for f in feeds if shares.colours[f.lead] == number):
                said_leads.append(f"{the_port(show, lead.target)} from {the_port(show, source)}")
                show = with_lead_from(show, lead, source)
        after = apply(show, merged(one_by_one(Report(show), Effort(), search.reach)))
        if finding.key not in {f.key for f in Report(after).findings}:
            return [] if missing else [Way(sentence(f"feed {joined(said_leads)}"), after)], missing
    return [], 0


def more_leads(search: Search, finding: Finding) -> Iterator[Way]:
    """The first lead from an output that a sound reaches to an input that leads to a listener, and does it."""
    show = search.show
    demands = search.demands_in(finding.cue)
    taken = {c.source for c in show.cables} | {c.target for c in show.cables}
    reached, to_go = demands.reached(finding.sound or ""), demands.to_go(finding.listener or "")
    outputs = [p for p in reached if p in show.ports and show.port(p).direction == "out" and p not in taken]
    inputs = [p for p in to_go if p in show.ports and show.port(p).direction == "in" and p not in taken]
    joins = [
        (not _is_bus(show, a), match.adapts, to_go[b], a, b, match.kind)
        for a in outputs
        for b in inputs
        if (match := lead_between(show.port(a), show.port(b))) is not None
        and a.partition("/")[0] != b.partition("/")[0]
    ]
    for *_, source, target, kind in sorted(joins)[:MOST_LEADS]:
        try:
            joined_up = connect(show, source, target, kind, 3.0)
        except ShowError:
            continue
        after = _heard(joined_up, finding, search.reach)
        if after is not None:
            lead = f"{the_port(show, source)} into {the_port(show, target)}"
            yield Way(sentence(f"plug {lead}: {kind} lead"), after)
            return


def _heard(show: Show, finding: Finding, reach: Reach) -> Show | None:
    """The show with what it takes that a sound is missed no more; None where nothing does."""
    report = Report(show, watched=True)
    if all(f.key != finding.key for f in report.findings):
        return show
    found = Search(report, reach, Effort()).cheapest([finding])
    return None if found is None else apply(show, found.changes)


def _is_bus(show: Show, port: str) -> bool:
    """Whether sends feed an output: better than one that carries a mix of its own, or everything."""
    return bool(sends_of(show, port))


def given_up(search: Search, findings: Sequence[Finding]) -> list[Way]:
    """Each of the wishes left open, as a show in which it is."""
    ways = []
    for finding in findings:
        if finding.listener is not None and finding.sound is not None and finding.id in ("missing", "leak"):
            show = set_want(search.show, finding.listener, finding.sound, finding.cue, Want.ANY)
            who, what = named(search.show.listener(finding.listener)), said(search.show.sound(finding.sound))
            ways.append(Way(sentence(f"leave open whether {who.do('hear')} {what}"), show))
    return ways
