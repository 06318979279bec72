"""The cheapest changes that cure some findings and make nothing worse: found by asking the solver what is wrong still.

Each turn chooses the cheapest settings that meet all demands known so far, solves the show with them, and turns what
is still wrong, or newly wrong, into further demands; the first choice with nothing left to say is the answer. As each
demand is necessary, the answer is the cheapest there is, and where demands collide there is none. This is search by
implicit hitting sets [1].

1. Moreno-Centeno and Karp, "The implicit hitting set approach to solve combinatorial optimization problems",
   Operations Research 61 (2013).
"""

import math
from collections.abc import Callable, Collection, Hashable, Iterable, Iterator, Sequence
from functools import cached_property

from msgspec import Struct
from msgspec.structs import replace

from kymaton.core.checks import KINDS, SEVERITIES, Finding, Key, Severity, find_in_rig, find_watched, is_watched
from kymaton.core.checks.report import Report
from kymaton.core.edits.controls import Change, apply
from kymaton.core.edits.variants import in_variant
from kymaton.core.model import Show, Value
from kymaton.core.planning.choosing import Chosen, Demand, Literal, Way, changed_in, choose
from kymaton.core.planning.demands import Clause, Demands
from kymaton.core.signal.control_search import ANY_REACH, Reach, closed_value
from kymaton.core.signal.cue_solution import CueSolution
from kymaton.core.signal.picture import picture_ways

MOST_SOLVED = 300  # cues in one search; chosen: a few seconds on a large show
MOST_TURNS = 50
PRICES = {"send": 1.0, "input-sound": 1.1, "processing": 1.6, "mute": 2.5, "fader": 2.6, "setting": 2.7}
CHEAPEST = 0.2  # nothing is changed for nothing
DEAREST = 3.0  # of a control of another role
WIDE, MOST_WIDE = 0.3, 3.0  # how much dearer it is for each input more that it takes away: a mute of a whole bus
WORTH: dict[Severity, float] = {"fault": 60.0, "caution": 12.0}  # changes that a finding may cost
Place = tuple[str | None, str | None]  # variant, cue


class Effort:
    """How many cues may still be solved in a search, while it is `going`; `spent` once that was not enough.

    `cut_short` once a choice was ended before it was proved that nothing is cheaper.
    """

    def __init__(self, most: int = MOST_SOLVED, going: Callable[[], bool] | None = None) -> None:
        self.left, self.spent, self.going, self.cut_short = most, False, going, False

    def take(self) -> bool:
        """Whether one more may be solved."""
        self.left -= 1
        self.spent = self.spent or self.left < 0 or (self.going is not None and not self.going())
        return not self.spent


class Found(Struct, frozen=True):
    """Changes; what goes with them; of what was wanted what stays; what had to be cured besides."""

    changes: tuple[Change, ...]
    gone: frozenset[Key]
    left: frozenset[Key]
    uncovers: tuple[Finding, ...]


class Solved(Struct):
    """A cue with the settings of a candidate, what is found in it that counts, and what that demands."""

    demands: Demands
    findings: list[Finding]


class Search:
    """Tries changes of the controls within reach on a show, and knows what was wrong before."""

    def __init__(
        self, report: Report, reach: Reach = ANY_REACH, effort: Effort | None = None, own_only: bool = False
    ) -> None:
        self.own_only = own_only  # settings of the cue itself, nothing that stands for others
        self.report, self.show, self.reach = report, report.show, reach
        self.effort = effort or Effort()
        self.reports: dict[str | None, Report] = dict([(None, report), *report.variants.items()])
        self.before: dict[Place, dict[Key, Finding]] = {
            (variant, cue): {f.key: f for f in each.findings if is_watched(f)}
            for variant, whole in self.reports.items()
            for cue, each in whole.cues.items()
        }
        self.rig = {f.key: f.severity for f in report.rig if f.severity != "note"}
        self.known: dict[tuple[Place, frozenset[tuple[str, Value]]], Solved] = {}
        self.demands: dict[Demand, None] = {}
        self.plain: dict[Demand, Demand] = {}  # of what may be met by covering something up: without that
        self.asked: dict[Hashable, Finding] = {}  # by the reasons of the demands
        self.hopeless: set[Key] = set()
        self.collide = False  # not all that is demanded can be had together
        self._given: dict[str | None, tuple[tuple[Demand, ...], frozenset[Hashable]]] = {}
        self.dearer: dict[tuple[str, Value], float] = {}
        self.apart: list[str] = []  # kinds that are wanted and not watched

    def cheapest(self, wanted: Sequence[Finding], all_of_them: bool = True) -> Found | None:
        """The cheapest changes that cure these findings; None where nothing does, or the effort is spent.

        With `all_of_them` false, of what cannot be cured together as much as can.
        """
        goals = {f.key: f for f in wanted}
        self.apart = sorted({f.id for f in wanted if f.id in KINDS and not KINDS[f.id].watched})
        for finding in wanted:
            if not self._ask(self._solved((None, finding.cue), ()), finding, finding.key) and all_of_them:
                return None
        tried: list[tuple[tuple[Change, ...], list[Finding]]] = []
        chosen: Chosen | None = None
        for _ in range(MOST_TURNS):
            before, chosen = chosen, self._choose(goals, all_of_them)
            if chosen is None or chosen == before:
                return None
            self.effort.cut_short |= not chosen.exact
            wrong = self._wrong(chosen, goals, all_of_them)
            if wrong is None:
                return None
            if not wrong:
                return self._found(chosen, goals, tried)
            tried.append((chosen.changes, [f for f in wrong if f.key not in goals]))
        self.effort.spent = True
        return None

    def demands_in(self, cue: str | None) -> Demands:
        """What can be asked of the controls in a cue as it is."""
        return self._solved((None, cue), ()).demands

    def serious(self, changes: tuple[Change, ...]) -> dict[Key, Finding]:
        """What is serious with some changes, in the plain rig and in each variant, by key."""
        show = apply(self.show, changes)
        rig = find_in_rig(show) if self.report.rig and changes else self.report.rig
        found = {f.key: f for f in rig if f.severity != "note"}
        for place in self.before:
            told = (replace(f, variant=place[0]) for f in self._solved(place, changes).findings)
            found |= {f.key: f for f in told}
        return found

    def after(self, changes: tuple[Change, ...]) -> dict[Key, Severity]:
        """How grave what is serious is with some changes, by key."""
        return {key: f.severity for key, f in self.serious(changes).items()}

    def _choose(self, goals: Collection[Key], all_of_them: bool) -> Chosen | None:
        if not self.collide:
            chosen = choose(self.show, list(self.demands), self._price, own_only=self.own_only)
            if chosen is not None or all_of_them:
                return chosen
            self.collide = True  # and will, whatever is demanded besides
        given_up = frozenset(reason for cue in {key[2] for key in goals} for reason in self._given_up(cue, goals))
        kept = [d for d in self.demands if d.reason not in given_up]
        chosen = choose(self.show, kept, self._price, own_only=self.own_only)
        return None if chosen is None else replace(chosen, given_up=given_up)

    def _given_up(self, cue: str | None, goals: Collection[Key]) -> frozenset[Hashable]:
        """What cannot be had in a cue, as little as can be; a cue may have its own settings, so it is alone in this."""
        demands = tuple(d for d in self.demands if d.cue == cue)
        if self._given.get(cue, ((), frozenset()))[0] != demands:
            findings = {f.key: f for place in self.before.values() for f in place.values()}
            worth: dict[Hashable, float] = {k: WORTH[findings[k].severity] for k in goals if k in findings}
            worth = {reason: worth[reason] for reason in {d.reason for d in demands} if reason in worth}
            found = choose(self.show, demands, self._price, worth, own_only=True)
            self._given[cue] = (demands, found.given_up if found is not None else frozenset())
        return self._given[cue][1]

    def _price(self, control: str, value: Value) -> float:
        own = PRICES.get(self.show.control(control).role, DEAREST)
        wide = min(MOST_WIDE, WIDE * (self.passed[control] - 1)) if control in self.passed else 0.0
        return max(CHEAPEST, own + wide + self.dearer.get((control, value), 0.0))

    @cached_property
    def spare(self) -> frozenset[str]:
        """Controls that close exactly what another closes that comes to mind before: one of them is enough to try."""
        acts: dict[str, set[int]] = {}
        not_always: set[str] = set()
        for number, edge in enumerate(self.report.graph.edges):
            for use in edge.uses:
                acts.setdefault(use.control, set()).add(number)
                if use.when is not None or use.gains is not None or use.side is not None or use.only_from:
                    not_always.add(use.control)
        closing = [
            c
            for c in acts.keys() - not_always
            if self.reach.has(self.show.control(c)) and closed_value(self.show.control(c)) is not None
        ]
        first: dict[frozenset[int], str] = {}
        for control in sorted(closing, key=lambda c: (self._price(c, True), c)):
            first.setdefault(frozenset(acts[control]), control)
        return frozenset(closing) - set(first.values())

    @cached_property
    def passed(self) -> dict[str, int]:
        """Of each control that can close, from how many inputs it takes sound away."""
        inputs: dict[str, set[tuple[str, int]]] = {}
        for device in self.show.devices:
            for route in device.routes:
                for use in route.controls:
                    inputs.setdefault(use.control, set()).add((route.source, route.source_channel))
        return {id: len(those) for id, those in inputs.items()}

    def _wrong(self, chosen: Chosen, goals: dict[Key, Finding], all_of_them: bool) -> list[Finding] | None:
        """What is wrong with a choice, each turned into demands; None when the effort is spent or nothing helps."""
        first = {(f.variant, f.cue) for f in goals.values()}
        places = sorted(self.before, key=lambda p: (p[0] is not None, p not in first))
        wrong: list[Finding] = []
        for place in places:
            if wrong and place[0] is not None:
                break  # variants are looked at when the plain rig is right
            if not changed_in(self.show, chosen.changes, place[1]):
                continue
            key = (place, _settings(self.show, chosen.changes, place[1]))
            if key not in self.known and not self.effort.take():
                return None
            solved = self._solved(place, chosen.changes)
            for finding in solved.findings:
                if not self._counts(finding, place, goals, chosen.given_up):
                    continue
                wrong.append(finding)
                reason = finding.key if finding.key in goals and place[0] is None else ("held", place, finding.key)
                if not self._ask(solved, finding, reason, chosen.changes) and reason == finding.key and all_of_them:
                    return None
        if not wrong:
            wrong = self._of_rig(chosen.changes)
        return wrong

    def _counts(self, finding: Finding, place: Place, goals: Collection[Key], given_up: Collection[Hashable]) -> bool:
        """Whether a finding speaks against a choice: it is to go, or it was not there, or less grave."""
        before = self.before[place].get(finding.key)
        graver = before is None or SEVERITIES.index(finding.severity) < SEVERITIES.index(before.severity)
        if before is not None and finding.id == "missing" and before.delays_us and not finding.delays_us:
            graver = True  # it was too soft, and now nothing comes at all
        if graver and self._was_behind(finding, place):
            return False
        if finding.key in goals and place[0] is None:
            return finding.key not in given_up and finding.key not in self.hopeless
        return graver and is_watched(finding)

    def _was_behind(self, finding: Finding, place: Place) -> bool:
        """Whether sound and picture were not together before either, but nobody heard or saw it.

        See `curing.with_delays`.
        """
        if finding.id not in KINDS or KINDS[finding.id].cure != "delay":
            return False
        missed = {f"listener/{f.listener}" for f in self.before[place].values() if f.id == "missing"}
        if not missed.isdisjoint(finding.ports):
            return True
        view = self._solved(place, ()).demands.view
        ways = picture_ways(view.show, view.cue, finding.listener or "")
        return all(w.source not in finding.ports for w in ways if w.on_air)

    def _ask(self, solved: Solved, finding: Finding, reason: Hashable, changes: tuple[Change, ...] = ()) -> bool:
        """Turn a finding into demands. A wish that held may be kept by undoing what broke it, too."""
        self.asked.setdefault(reason, finding)
        view = solved.demands.view
        way = self._way(solved, finding, reason, changes)
        if way is not None:
            sooner = KINDS[finding.id].cure == "sooner"
            self.demands[Demand(solved.demands.hurried(finding) if sooner else frozenset(), reason, way)] = None
            return True
        clauses: list[Clause] = solved.demands.of(finding)
        for setting, more in solved.demands.dearer.items():
            self.dearer.setdefault(setting, more)
        if reason != finding.key:
            undo = self._undoing(view, finding, changes)
            if undo:
                self.plain |= {Demand(c | undo, reason): Demand(c, reason) for c in clauses}
            clauses = [clause | undo for clause in clauses] or [self._undoing(view, None, changes)]
        elif not clauses and changes:  # what was changed took away the last thing that helps
            clauses = [self._undoing(view, None, changes)]
        elif not clauses:
            self.hopeless.add(finding.key)
        self.demands |= dict.fromkeys(Demand(clause, reason) for clause in clauses)
        return bool(clauses)

    def _way(self, solved: Solved, finding: Finding, reason: Hashable, changes: tuple[Change, ...]) -> Way | None:
        """The way that must be open for a sound that is missed or late; None where that alone does not do it."""
        cure = KINDS[finding.id].cure if finding.id in KINDS else ""
        if cure == "sooner":
            most_ms = float(str(finding.evidence["most_ms"]))
        elif cure == "open" and not (changes and finding.delays_us):
            most_ms = math.inf
        else:
            return None
        way = solved.demands.way(finding.listener or "", finding.sound or "", most_ms)
        known = any(d.way == way and d.reason == reason for d in self.demands) if way is not None else True
        return None if known else way

    def _undoing(self, view: CueSolution, finding: Finding | None, changes: tuple[Change, ...]) -> Clause:
        """The settings before, of what may have uncovered a finding: what is heard may have been covered, and so on."""
        cure = KINDS[finding.id].cure if finding is not None and finding.id in KINDS else ""
        found = set()
        for control, after in changed_in(self.show, changes, view.cue_id).items():
            closing = after == closed_value(self.show.control(control))
            covered = finding is not None and cure == "open" and finding.delays_us  # by something that was opened
            if (cure in ("close", "close one") and not closing) or (cure == "open" and not closing and not covered):
                continue
            before = self.show.value(control, view.cue_id)
            if before != after:
                found.add(Literal(view.cue_id, control, before))
        return frozenset(found)

    def _of_rig(self, changes: tuple[Change, ...]) -> list[Finding]:
        if not self.report.rig or not changes:
            return []
        new = [
            f
            for f in find_in_rig(apply(self.show, changes))
            if f.severity != "note"
            and (f.key not in self.rig or SEVERITIES.index(f.severity) < SEVERITIES.index(self.rig[f.key]))
        ]
        for finding in new:
            undo = frozenset(Literal(c.cue, c.control, c.before) for c in changes if c.before != c.after)
            reason = ("held", None, finding.key)
            self.asked.setdefault(reason, finding)
            self.demands[Demand(undo, reason)] = None
        return new

    def _solved(self, place: Place, changes: tuple[Change, ...]) -> Solved:
        variant, cue = place
        key = (place, _settings(self.show, changes, cue))
        if key not in self.known:
            report = self.reports[variant]
            if changes:
                view = report.what_if(self._with(variant, changes), cue)
                found = list(find_watched(view))
            else:
                view = report.cues[cue].view
                found = list(self.before[place].values())
            found += [f for kind in self.apart for f in KINDS[kind].find(view)]
            self.known[key] = Solved(Demands(view, self.reach, self.show, self.spare), found)
        return self.known[key]

    def _with(self, variant: str | None, changes: Iterable[Change]) -> Show:
        changed = apply(self.show, changes)
        return changed if variant is None else in_variant(changed, next(v for v in changed.variants if v.id == variant))

    def _found(
        self, chosen: Chosen, goals: dict[Key, Finding], tried: Sequence[tuple[tuple[Change, ...], list[Finding]]]
    ) -> Found:
        changes = chosen.changes
        gone: set[Key] = set()
        for place in self.before:
            if place[0] is None and changed_in(self.show, changes, place[1]):
                left = {f.key for f in self._solved(place, changes).findings}
                gone |= {*self.before[place], *(k for k in goals if k[2] == place[1])} - left
        part = set(changes)
        uncovered = {f.key: f for some, brought in tried if set(some) < part for f in brought}
        left_over = frozenset(k for k in goals if k not in gone)
        return Found(changes, frozenset(gone), left_over, tuple(uncovered.values()))


def _settings(show: Show, changes: Iterable[Change], cue: str | None) -> frozenset[tuple[str, Value]]:
    return frozenset(changed_in(show, changes, cue).items())


def watched_of(report: Report) -> Iterator[Finding]:
    """The serious findings of the plain rig that a search may want to cure, cue by cue."""
    for cue in report.cues.values():
        yield from (f for f in cue.findings if is_watched(f) and KINDS[f.id].cure not in ("", "delay"))
