"""Fixes: sets of control changes that make a finding disappear and break no wish that held.

A fix is found by trying: the controls on the routes in question are set so that the routes close (or open), the
show is solved again, and only what proves itself is proposed: a serious finding that was not there
before, in any cue, rejects a set. Sets are tried role by role, the control that is nearest to the sound first.
"""

from collections.abc import Collection, Iterable, Iterator

from msgspec import Struct
from msgspec.structs import replace

from kymaton.core.checks import KINDS, SEVERITIES, Finding, Key, Severity, find_in_rig, find_watched, is_watched
from kymaton.core.checks.report import CueReport, Report
from kymaton.core.edits.controls import Change, apply
from kymaton.core.model import Control, ControlUse, Show, Value
from kymaton.core.planning.sync_delays import plan_sync
from kymaton.core.signal.control_search import Opening, Reach, closed_value
from kymaton.core.units import SILENT

ROLES = (
    "send",
    "input-sound",
    "mute",
    "fader",
    "setting",
    "processing",
)  # in the order in which a technician would try
MAX_TRIES = 24
MOST_SOLVED = 300  # cues in one search; chosen: a few seconds on a large show


class Fix(Struct, frozen=True):
    """Changes that cure some findings, proved by solving the show with them."""

    changes: tuple[Change, ...]
    cures: tuple[Finding, ...]
    title: str
    asked: bool = False  # of somebody far away, on whose own machine it is: nothing that can be applied here


def describe(show: Show, change: Change) -> str:
    """A change as people say it: `Pull down desk 9 to aux 1`, `Mute desk 9`, `Turn off the sound of HDMI 2`."""
    control = show.control(change.control)
    name = f"the sound of {control.name.removesuffix(' sound')}" if control.role == "input-sound" else control.name
    closing = change.after == closed_value(control)
    if control.kind == "mute":
        return f"{'Mute' if closing else 'Unmute'} {name}"
    if control.kind == "level":
        if closing:
            return f"Pull down {name}"
        up = float(change.after) >= float(change.before)
        return f"Bring {'up' if up else 'down'} {name} to {value_text(control, change.after)}"
    if control.kind == "switch" or (control.role == "input-sound" and change.after in ("on", "off")):
        return f"Turn {'off' if closing else 'on'} {name}"
    return f"Set {name} to {value_text(control, change.after)}"


def value_text(control: Control, value: Value) -> str:
    """A value as it is shown: `−6 dB`, `closed`, `muted`, `on`."""
    if control.kind == "level":
        if control.minimum is not None and float(value) <= control.minimum:
            return "closed"
        return f"{float(value):+.0f} dB".replace("-", "\N{MINUS SIGN}").replace("+0 dB", "0 dB")
    if control.kind == "mute":
        return "muted" if value else "open"
    if control.kind == "switch":
        return "on" if value else "off"
    if control.kind == "pan":
        amount = abs(float(value))
        return "middle" if not amount else f"{amount:g} % {'left' if float(value) < 0 else 'right'}"
    return f"{float(value):g} ms" if control.kind == "delay" else str(value)


def title_of(show: Show, changes: Iterable[Change]) -> str:
    """All changes of a fix as one verb: `Pull down both sends`, or the single change."""
    every = list(changes)
    items = list({c.control: c for c in every}.values())
    if len(items) == 1:
        same = len({c.after for c in every}) == 1
        return describe(show, items[0]) if same else f"Set {show.control(items[0].control).name} cue by cue"
    controls = [show.control(c.control) for c in items]
    closing = [c.after == closed_value(x) for c, x in zip(items, controls, strict=True)]
    many = "both" if len(items) == 2 else f"{len(items)}"
    if all(c.role == "send" for c in controls) and len(set(closing)) == 1:
        return f"{'Pull down' if closing[0] else 'Bring up'} {many} sends"
    if all(c.kind == "mute" for c in controls) and len(set(closing)) == 1:
        return f"{'Mute' if closing[0] else 'Unmute'} {many} channels"
    return f"Make {many} changes"


def parts_of(show: Show, fix: Fix) -> list[str]:
    """What a fix changes and where, a line each, as far as its title does not say it."""
    cues = {c.cue for c in fix.changes}
    if len(cues) == 1:
        lines = [describe(show, c) for c in fix.changes] if len(fix.changes) > 1 else []
        return [*lines, "in this cue only"] if cues != {None} and len(show.cues) > 1 else lines
    one = len({c.control for c in fix.changes}) == 1
    where = (show.cue(c.cue).name if c.cue is not None else "All other cues" for c in fix.changes)
    what = (value_text(show.control(c.control), c.after) if one else describe(show, c) for c in fix.changes)
    return [": ".join(pair) for pair in zip(where, what, strict=True)]


class Effort:
    """How many cues may still be solved in a search; `spent` once that was not enough."""

    def __init__(self, most: int) -> None:
        self.left, self.spent = most, False

    def take(self) -> bool:
        """Whether one more may be solved."""
        self.left -= 1
        self.spent = self.spent or self.left < 0
        return self.left >= 0


class WhatIf:
    """Solves a show with changes and compares its serious findings with those before."""

    def __init__(self, report: Report, effort: Effort | None = None) -> None:
        self.report = report
        self.show = report.show
        self.effort = effort or Effort(MOST_SOLVED)
        self.before = {f.key: f.severity for r in report.cues.values() for f in r.findings if is_watched(f)}
        self.before |= {f.key: f.severity for f in report.rig if f.severity != "note"}

    def after(self, changes: Iterable[Change]) -> dict[Key, Severity]:
        """The serious findings with these changes, by key; cues that they cannot touch are not solved again."""
        changes = tuple(changes)
        show = apply(self.show, changes)
        keys = self._of_rig(show)
        for cue in self.report.cues:
            keys |= {f.key: f.severity for f in self._of_cue(show, changes, cue)}
        return keys

    def cured(self, changes: Iterable[Change], wanted: Collection[Key], cue: str | None) -> set[Key] | None:
        """What vanishes with these changes; None as soon as one of `wanted` stays, or one comes that was not there.

        The cue and the kinds of the wanted ones are looked at first. None too when the effort is spent.
        """
        changes = tuple(changes)
        show = apply(self.show, changes)
        kinds = {str(key[0]) for key in wanted}
        apart = [k for k in kinds if k in KINDS and not KINDS[k].watched]
        left: set[Key] = set()
        for each in sorted(self.report.cues, key=lambda c: c != cue):
            if _touched(show, changes, each) and not self.effort.take():
                return None
            if apart and any(f.key in wanted for f in self._of_kinds(show, each, apart)):
                return None
            for finding in self._of_cue(show, changes, each, kinds):
                if finding.key in wanted or self._is_worse(finding.key, finding.severity):
                    return None
                left.add(finding.key)
        of_rig = self._of_rig(show)
        if any(key in wanted or self._is_worse(key, severity) for key, severity in of_rig.items()):
            return None
        return {*(self.before.keys() - left - of_rig.keys()), *(key for key in wanted if key[0] in apart)}

    def _of_kinds(self, show: Show, cue: str | None, kinds: Collection[str]) -> Iterator[Finding]:
        """What is found of kinds that no fix has to fear, and that are to be cured all the same."""
        view = self.report.what_if(show, cue)
        for kind in kinds:
            yield from KINDS[kind].find(view)

    def _is_worse(self, key: Key, severity: Severity) -> bool:
        """Whether a finding was not there before, or was less grave."""
        return key not in self.before or SEVERITIES.index(severity) < SEVERITIES.index(self.before[key])

    def worse(self, after: dict[Key, Severity], may_come: Collection[Severity] = ()) -> list[Key]:
        """Findings that came or got graver; of what came those may that are no graver than said."""
        return [
            key
            for key, severity in after.items()
            if self._is_worse(key, severity) and not (key not in self.before and severity in may_come)
        ]

    def _of_rig(self, show: Show) -> dict[Key, Severity]:
        found = find_in_rig(show) if self.report.rig else []
        return {f.key: f.severity for f in found if f.severity != "note"}

    def _of_cue(
        self, show: Show, changes: tuple[Change, ...], cue: str | None, first: Collection[str] = ()
    ) -> Iterable[Finding]:
        if _touched(show, changes, cue):
            return find_watched(self.report.what_if(show, cue), first)
        return (f for f in self.report.cues[cue].findings if is_watched(f))


def _touched(show: Show, changes: tuple[Change, ...], cue: str | None) -> bool:
    """Whether any of the changes holds in a cue."""
    if cue is None:
        return any(c.cue is None for c in changes)
    own, left = show.settings(cue), show.left_by_hand(cue)
    return any(c.cue in (cue, left.get(c.control, cue)) or (c.cue is None and c.control not in own) for c in changes)


def find_fix(
    report: Report,
    findings: tuple[Finding, ...],
    roles: tuple[str, ...] = ROLES,
    devices: tuple[str, ...] = (),
    effort: Effort | None = None,
) -> Fix | None:
    """The first set of changes that cures these findings of one cue and brings no new ones; None when none does.

    `roles` and `devices` limit which controls may be touched, `effort` how long it is looked for. What a variant brings
    is cured there.
    """
    variant = findings[0].variant
    if variant is not None:
        here = tuple(replace(f, variant=None) for f in findings)
        fix = find_fix(report.variants[variant], here, roles, devices, effort)
        if fix is None:
            return None
        changes = tuple(replace(c, variant=variant) for c in fix.changes)
        return Fix(changes, tuple(replace(f, variant=variant) for f in fix.cures), fix.title, fix.asked)
    cure = KINDS[findings[0].id].cure if findings[0].id in KINDS else ""
    if cure == "delay":
        plans = (plan_sync(report.show, per_cue) for per_cue in (False, True))  # one delay for all cues, if that does
        tried = (_proved(report, findings, plan.changes, ("caution",)) for plan in plans)
        return next((fix for fix in tried if fix is not None), None)
    if findings[0].settings and findings[0].cue is None:
        curable = tuple(f for f in findings if f.settings)
        told = {id: (value, f.sentence) for f in curable for id, value in f.settings}
        entered = (Change(None, c, report.show.control(c).value, v, why) for c, (v, why) in told.items())
        return _proved(report, curable, tuple(entered))
    cue = report.cues.get(findings[0].cue)
    if cue is None:
        return None
    trial = WhatIf(report, effort)
    within = _search(report, cue, findings, trial, Reach(roles, devices, elsewhere=False))
    if within is not None or roles != ROLES or not any(c.elsewhere for c in report.show.controls()):
        return within
    asked = _search(report, cue, findings, trial, Reach(roles, devices))
    if asked is None:
        return None
    return Fix(asked.changes, asked.cures, f"Ask for it: {asked.title[:1].lower()}{asked.title[1:]}", asked=True)


def _search(report: Report, cue: CueReport, findings: tuple[Finding, ...], trial: "WhatIf", reach: Reach) -> Fix | None:
    """The first candidate within reach that proves itself."""
    wanted = {f.key for f in findings}
    kind = KINDS.get(findings[0].id)
    cure = kind.cure if kind is not None else ""
    candidates: Iterator[dict[str, Value]] = iter(())
    if findings[0].settings:
        own = {id: value for f in findings for id, value in f.settings}
        candidates = iter([own] if all(reach.has(report.show.control(id)) for id in own) else [])
    elif cure == "break":
        candidates = _ways_to_break(cue, findings, reach)
    elif cure in ("close", "close one"):
        candidates = _ways_to_close(cue, findings, reach)
    elif cure == "open":
        candidates = _ways_to_open(cue, findings, reach)
    seen: set[tuple[tuple[str, Value], ...]] = set()
    for settings in candidates:
        key = tuple(sorted(settings.items()))
        if not settings or key in seen:
            continue
        seen.add(key)
        if len(seen) > MAX_TRIES:
            break
        for changes in _scopes(report.show, findings[0].cue, settings, findings[0].sentence):
            gone = trial.cured(changes, wanted, findings[0].cue)
            if gone is not None:
                cured = tuple(f for r in report.cues.values() for f in r.findings if f.key in gone)
                return Fix(changes, cured, title_of(report.show, changes))
    return None


def _proved(
    report: Report, findings: tuple[Finding, ...], changes: tuple[Change, ...], may_stay: tuple[Severity, ...] = ()
) -> Fix | None:
    """A cure that is known beforehand, proved like any other; what it cures may stay as less than it was."""
    if not changes:
        return None
    trial = WhatIf(report)
    after = trial.after(changes)
    if trial.worse(after, may_stay) or any(after.get(f.key) not in (None, *may_stay) for f in findings):
        return None
    gone = {key for key, severity in trial.before.items() if after.get(key) != severity}
    every = [*report.rig, *(f for r in report.cues.values() for f in r.findings)]
    return Fix(changes, tuple(f for f in every if f.key in gone), title_of(report.show, changes))


def _scopes(show: Show, cue: str | None, settings: dict[str, Value], why: str) -> Iterator[tuple[Change, ...]]:
    """First where the values stand now (the cue's own, or the base state), then in this cue only."""
    own = show.settings(cue) if cue is not None else {}
    first = tuple(
        Change(cue if id in own else None, id, show.value(id, cue), value, why) for id, value in settings.items()
    )
    yield first
    if cue is not None and any(c.cue is None for c in first):
        yield tuple(Change(cue, c.control, c.before, c.after, why) for c in first)


def _ways_to_close(cue: CueReport, findings: tuple[Finding, ...], reach: Reach) -> Iterator[dict[str, Value]]:
    """Settings that would silence the routes: by role, and of each role the first or the last on each route.

    Where one of several is to stay, the latest is closed before any earlier one: the earliest is to be kept. Last, the
    echo cancellers on them.
    """
    show, graph = cue.view.show, cue.view.graph
    most = max(len(f.delays_us) for f in findings) if KINDS[findings[0].id].cure == "close one" else 1
    cancellers: dict[str, Value] = {}
    for which in reversed(range(most)):
        routes: list[list[ControlUse]] = []
        for finding in findings:
            delays = sorted(finding.delays_us)
            cut = delays[which % len(delays) :][:1] if most > 1 else delays
            for path in cue.view.paths(finding.listener or "", finding.sound or ""):
                if path.delay_us in cut:
                    routes.append([u for e in path.edges for u in graph.edges[e].uses])
        cancellers |= _cancellers(show, [u for route in routes for u in route], reach)
        for role in reach.roles:
            chains = [_closing(show, route, role, reach) for route in routes]
            if chains and all(chains):
                for pick in (0, -1):
                    yield {chain[pick].id: closed_value(chain[pick]) for chain in chains}  # type: ignore[misc]
    yield cancellers


def _closing(show: Show, uses: list[ControlUse], role: str, reach: Reach) -> list[Control]:
    """The controls of a role that would silence a route, in its order."""
    controls = dict.fromkeys(show.control(u.control) for u in uses if not u.only_from and _silences(u))
    return [c for c in controls if c.role == role and closed_value(c) is not None and reach.has(c)]


def _cancellers(show: Show, uses: list[ControlUse], reach: Reach) -> dict[str, Value]:
    """What weakens some routes when it is on, and lets them through when it is off: their echo cancellers, on."""
    weakens = [u for u in uses if u.gains is not None and u.gains.get("on", 0.0) < u.gains.get("off", SILENT)]
    controls = dict.fromkeys(show.control(u.control) for u in weakens)
    return {c.id: "on" for c in controls if "on" in c.choices and reach.has(c)}


def _ways_to_break(cue: CueReport, findings: tuple[Finding, ...], reach: Reach) -> Iterator[dict[str, Value]]:
    """One control at a time that opens a loop: sends before faders, and what is nearest to its beginning first."""
    view = cue.view
    for loop in view.loops:
        if loop.ports(view.graph) not in [f.ports for f in findings]:
            continue
        uses = [u for e in loop.edges for u in view.graph.edges[e].uses]
        for role in reach.roles:
            for control in _closing(view.show, uses, role, reach):
                yield {control.id: closed_value(control)}  # type: ignore[dict-item]


def _silences(use: ControlUse) -> bool:
    return use.gains is None or "off" not in use.gains


def _ways_to_open(cue: CueReport, findings: tuple[Finding, ...], reach: Reach) -> Iterator[dict[str, Value]]:
    """Settings that open the way with the fewest closed controls, for all findings together."""
    settings: dict[str, Value] = {}
    opening = Opening(cue.view, reach)
    for finding in findings:
        opened = opening.fewest(finding.listener or "", finding.sound or "")
        if opened is None:
            return
        settings |= opened
    yield settings


def all_fixes(report: Report) -> dict[Key, Fix]:
    """A fix for each finding that has one, by its key. What one fix cures is not searched again."""
    fixes: dict[Key, Fix] = {}
    for cards in (report.rig_cards, *(c.cards for c in report.cues.values()), report.cards_of_variants):
        for card in cards:
            if card.severity == "note" or all(f.key in fixes for f in card.findings):
                continue
            fix = find_fix(report, card.findings)
            if fix is not None:
                for finding in fix.cures:
                    fixes.setdefault(finding.key, fix)
    return fixes
