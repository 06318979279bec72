"""Fixes: sets of control changes that make a finding disappear and make nothing worse, proved by solving the show.

What it takes is searched for (see `search`); here it is said in words, and what is known beforehand is proved.
"""

from collections.abc import Iterable

from msgspec import Struct
from msgspec.structs import replace

from kymaton.core.checks import KINDS, SEVERITIES, Finding, Key, Severity
from kymaton.core.checks.report import Report
from kymaton.core.edits.controls import Change
from kymaton.core.edits.variants import in_variant
from kymaton.core.model import Control, Show, Value
from kymaton.core.planning.curing import with_delays
from kymaton.core.planning.search import Effort, Search
from kymaton.core.planning.sync_delays import plan_sync
from kymaton.core.signal.control_search import Reach, closed_value

BRINGS = "what it leaves: "
UNCOVERS = "comes to light, and is cured with it: "


class Fix(Struct, frozen=True):
    """Changes that cure some findings, proved by solving the show with them."""

    changes: tuple[Change, ...]
    cures: tuple[Finding, ...]
    title: str
    asked: bool = False  # of somebody far away, on whose own machine it is: nothing that can be applied here
    brings: tuple[Finding, ...] = ()  # what is there instead, and less: no delay ends all of it
    uncovers: tuple[Finding, ...] = ()  # what would come to light without a part of the changes, and is cured with it


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


def rig_of(show: Show, change: Change) -> Show:
    """The rig in which a change is made: that of its variant, which may have devices of its own."""
    if change.variant is None:
        return show
    return in_variant(show, next(v for v in show.variants if v.id == change.variant))


def place_of(show: Show, change: Change) -> str:
    """Where a change is made: `all cues`, `Song`, `Rain, all cues`."""
    where = "all cues" if change.cue is None else show.cue(change.cue).name
    return (
        where if change.variant is None else f"{next(v.name for v in show.variants if v.id == change.variant)}, {where}"
    )


def value_text(control: Control, value: Value) -> str:
    """A value as it is shown: `−6 dB`, `closed`, `muted`, `on`."""
    if control.kind == "level":
        if control.minimum is not None and float(value) <= control.minimum:
            return "closed"
        return f"{round(float(value), 1):+g} dB".replace("-", "\N{MINUS SIGN}").replace("+0 dB", "0 dB")
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
    """What a fix changes and where, a line each, as far as its title does not say it; and what it uncovers."""
    brings = (f"{BRINGS}{f.sentence}" for f in fix.brings)
    return [*_changed(show, fix), *brings, *(f"{UNCOVERS}{f.sentence}" for f in fix.uncovers)]


def _changed(show: Show, fix: Fix) -> list[str]:
    cues = {c.cue for c in fix.changes}
    if len(cues) == 1:
        lines = [describe(show, c) for c in fix.changes] if len(fix.changes) > 1 else []
        return [*lines, "in this cue only"] if cues != {None} and len(show.cues) > 1 else lines
    one = len({c.control for c in fix.changes}) == 1
    where = (show.cue(c.cue).name if c.cue is not None else "All other cues" for c in fix.changes)
    what = (value_text(show.control(c.control), c.after) if one else describe(show, c) for c in fix.changes)
    return [": ".join(pair) for pair in zip(where, what, strict=True)]


def find_fix(
    report: Report,
    findings: tuple[Finding, ...],
    roles: tuple[str, ...] = (),
    devices: tuple[str, ...] = (),
    effort: Effort | None = None,
) -> Fix | None:
    """The cheapest changes that cure these findings of one cue and bring no new ones; None when none do.

    `roles` and `devices` limit which controls may be touched, `effort` how long it is looked for. What a variant brings
    is cured there. What only a control on a guest's own machine cures is asked for.
    """
    variant = findings[0].variant
    if variant is not None:
        here = tuple(replace(f, variant=None) for f in findings)
        fix = find_fix(report.variants[variant], here, roles, devices, effort)
        if fix is None:
            return None
        changes = tuple(replace(c, variant=variant) for c in fix.changes)
        return replace(fix, changes=changes, cures=tuple(replace(f, variant=variant) for f in fix.cures))
    if findings[0].id in KINDS and KINDS[findings[0].id].cure == "delay":
        plans = [plan_sync(report.show, per_cue) for per_cue in (False, True)]  # one delay for all cues, if that does
        allowed: tuple[tuple[Severity, ...], ...] = ((), ("caution",))
        tries = [(plan, may_stay) for may_stay in allowed for plan in plans]
        tried = (_proved(report, findings, plan.changes, may_stay) for plan, may_stay in tries)
        return next((fix for fix in tried if fix is not None), None)
    if findings[0].settings and findings[0].id not in KINDS:  # of the rig as a whole
        curable = tuple(f for f in findings if f.settings)
        told = {id: (value, f.sentence) for f in curable for id, value in f.settings}
        entered = (Change(None, c, report.show.control(c).value, v, why) for c, (v, why) in told.items())
        return _proved(report, curable, tuple(entered))
    if findings[0].cue not in report.cues or findings[0].id not in KINDS:
        return None
    within = _searched(report, findings, Reach(roles, devices, elsewhere=False), effort)
    if within is not None or roles or not any(c.elsewhere for c in report.show.controls()):
        return within
    asked = _searched(report, findings, Reach(roles, devices), effort)
    if asked is None:
        return None
    return replace(asked, title=f"Ask for it: {asked.title[:1].lower()}{asked.title[1:]}", asked=True)


def _searched(report: Report, findings: tuple[Finding, ...], reach: Reach, effort: Effort | None) -> Fix | None:
    """The cheapest cure within reach."""
    found = Search(report, reach, effort).cheapest(findings)
    if found is None or not found.changes:
        return None
    changes = tuple(replace(c, why=findings[0].sentence) for c in found.changes)
    changes, brings = with_delays(report, changes)
    every = tuple(f for r in report.cues.values() for f in r.findings if f.key in found.gone)
    return Fix(changes, every, title_of(report.show, changes), brings=brings, uncovers=found.uncovers)


def _proved(
    report: Report, findings: tuple[Finding, ...], changes: tuple[Change, ...], may_stay: tuple[Severity, ...] = ()
) -> Fix | None:
    """A cure that is known beforehand, proved like any other; what it cures may stay as less than it was."""
    if not changes:
        return None
    search = Search(report)
    before, after = search.after(()), search.after(changes)
    for key, severity in after.items():
        graver = key not in before or SEVERITIES.index(severity) < SEVERITIES.index(before[key])
        if graver and not (key not in before and severity in may_stay):
            return None
    if any(after.get(f.key) not in (None, *may_stay) for f in findings):
        return None
    gone = {key for key, severity in before.items() if after.get(key) != severity}
    every = [*report.rig, *(f for r in report.cues.values() for f in r.findings)]
    cures = tuple(f for f in every if f.key in gone)
    brings = tuple(search.serious(changes)[key] for key in after if key not in before)
    return Fix(changes, cures, title_of(report.show, changes), brings=brings)


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
