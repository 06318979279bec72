"""The planner: the cheapest settings with which everyone hears what they are to hear, and no one what they are not.

All faults that controls can cure are looked at together, in all cues; nothing that held gets worse. What cannot be is
said, with the smallest set of wishes that collide, and with the ways out that were tried and do it: one more bus or a
lead moved to a free one, or one of the wishes given up.
"""

from collections.abc import Callable, Iterator

from msgspec import Struct, field
from msgspec.structs import replace

from kymaton.core.checks import Finding
from kymaton.core.checks.report import Report
from kymaton.core.edits.controls import Change, apply
from kymaton.core.planning.curing import faults, in_variants, merged, one_by_one, with_delays
from kymaton.core.planning.impossible import Impossible, impossible_of
from kymaton.core.planning.search import MOST_SOLVED, Effort, Found, Search
from kymaton.core.signal.control_search import Reach

BOUNDED = "The search was ended before everything was tried. Apply what is here, then propose again."
OURS = Reach(elsewhere=False)


class Proposal(Struct, frozen=True):
    """Changes that bring the show in line with its plan; `cured` are the findings that vanish."""

    changes: tuple[Change, ...]
    cured: tuple[Finding, ...]
    impossible: tuple[Impossible, ...] = field(default=())
    bounded: bool = False  # whether the search was ended before everything was tried

    said: tuple[str, ...] = ()  # what is to be known of it besides
    brings: tuple[Finding, ...] = ()  # what comes to light, and no setting here ends

    @property
    def remarks(self) -> tuple[str, ...]:
        """What is to be known of it besides."""
        sentences = dict.fromkeys((*self.said, *(f"What it leaves: {f.sentence}." for f in self.brings)))
        return (*sentences, BOUNDED) if self.bounded else tuple(sentences)


def propose(
    report: Report, most: int = MOST_SOLVED, going: Callable[[], bool] | None = None, reach: Reach = OURS
) -> Proposal:
    """What to set, over all cues and variants; at most so many cues are solved for it, and while it is `going`.

    One trouble after the other is cured; where that does not end all of them, all are looked at together.
    """
    effort = Effort(most, going)
    changes = merged(one_by_one(report, effort, reach))
    impossible: tuple[Impossible, ...] = ()
    stuck = list(faults(Report(apply(report.show, changes), report.graph, watched=True)))
    if stuck and not effort.spent:
        search = Search(report, reach, effort)
        wanted = list(faults(report))
        found = search.cheapest(wanted, all_of_them=False)
        if found is not None:
            if len(found.left) <= len(stuck):
                changes = list(_explained(search, found, {f.key: f.sentence for f in wanted}))
            left = [f for f in wanted if f.key in found.left]
            impossible = tuple(impossible_of(search, left))
    whole, _ = with_delays(report, tuple(changes))
    after = Report(apply(report.show, whole), watched=True) if report.variants else report
    varied, stays = in_variants(after, effort, reach)
    changes = merged([*whole, *varied])
    brings = _brought(report, tuple(changes)) if changes else ()
    cured = _difference(report, Report(apply(report.show, changes), report.graph)) if changes else ()
    return Proposal(tuple(changes), cured, impossible, effort.spent or effort.cut_short, tuple(stays), brings)


def _brought(report: Report, changes: tuple[Change, ...]) -> tuple[Finding, ...]:
    """What is there with all changes, in the plain rig or a variant, and was not before."""
    search = Search(report)
    known = search.after(())
    return tuple(f for key, f in search.serious(changes).items() if key not in known)


def _explained(search: Search, found: Found, why: dict[object, str]) -> Iterator[Change]:
    """Each change with a sentence that it serves."""
    for change in found.changes:
        set_to = (change.control, change.after)
        served = (d.reason for d in search.demands if any((x.control, x.value) == set_to for x in d.literals))
        yield replace(change, why=next((why[r] for r in served if r in why), ""))


def _difference(before: Report, after: Report) -> tuple[Finding, ...]:
    left = {f.key for f in after.findings}
    return tuple(f for f in before.findings if f.key not in left)
