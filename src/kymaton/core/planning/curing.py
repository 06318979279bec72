"""One trouble after the other: what each card of a report takes to be cured, as far as it can be cured alone."""

from collections.abc import Iterable, Iterator

from msgspec.structs import replace

from kymaton.core.checks import Finding, Key
from kymaton.core.checks.report import Report
from kymaton.core.edits.controls import Change, apply
from kymaton.core.planning.search import Effort, Search, watched_of
from kymaton.core.planning.sync_delays import plan_sync
from kymaton.core.signal.control_search import Reach


def faults(report: Report) -> Iterator[Finding]:
    """The faults that settings may cure, cue by cue."""
    return (f for f in watched_of(report) if f.severity == "fault")


def one_by_one(report: Report, effort: Effort, reach: Reach) -> Iterator[Change]:
    """Changes that cure one card after the other, as far as each can be cured alone."""
    working = report
    stuck: set[Key] = set()
    while True:
        wanted = {f.key for f in faults(working)} - stuck
        card = next((c for r in working.cues.values() for c in r.cards if wanted & {f.key for f in c.findings}), None)
        if card is None or effort.spent:
            return
        keys = {f.key for f in card.findings}
        found = Search(working, reach, effort).cheapest(card.findings)
        if found is None or not found.changes:
            stuck |= keys
            continue
        changes = tuple(replace(c, why=card.sentence) for c in found.changes)
        yield from changes
        working = Report(apply(working.show, changes), report.graph, watched=True)


def in_variants(report: Report, effort: Effort, reach: Reach) -> tuple[list[Change], list[str]]:
    """What cures the faults that variants alone have, set in these variants; and a sentence for each that stays."""
    known = {f.key for f in faults(report)}
    changes: list[Change] = []
    stays: list[str] = []
    for variant in report.show.variants:
        whole = report.variants[variant.id]
        if effort.spent or all(f.key in known for f in faults(whole)):
            continue
        found, _ = with_delays(whole, tuple(merged(one_by_one(whole, effort, reach))))
        changes += (replace(c, variant=variant.id) for c in found)
        left = faults(Report(apply(whole.show, found), watched=True))
        stays += (
            f"{variant.name}: {f.sentence}. No setting that was tried ends it." for f in left if f.key not in known
        )
    return changes, list(dict.fromkeys(stays))


def merged(changes: Iterable[Change]) -> list[Change]:
    """One change per control and cue, of the plain rig and of each variant: from the first value to the last."""
    at: dict[tuple[str | None, str | None, str], Change] = {}
    for change in changes:
        first = at.get((change.variant, change.cue, change.control), change)
        at[change.variant, change.cue, change.control] = replace(change, before=first.before)
    return [c for c in at.values() if c.before != c.after]


def with_delays(report: Report, changes: tuple[Change, ...]) -> tuple[tuple[Change, ...], tuple[Finding, ...]]:
    """Changes that let somebody hear what was silent, and the delays that it takes then; and what stays all the same.

    That sound and picture are not together is no reason to keep a sound away, but it is to be cured, or said.
    """
    search = Search(report)
    before, after = search.after(()), search.serious(changes)
    new = [f for key, f in after.items() if key not in before]
    if not new:
        return changes, ()
    for per_cue in (False, True):
        plan = plan_sync(apply(report.show, changes), per_cue)
        whole = tuple(merged([*changes, *(replace(c, why=new[0].sentence) for c in plan.changes)]))
        if search.after(whole).keys() <= before.keys():
            return whole, ()
    return changes, tuple(new)
