"""Gains to set: peaks of every input at the headroom that is aimed at, no stage that clips, the programme at its goal.

First inputs that stand on line or microphone and get the other. Then the gains: behind each the loudest that is meant
there is to peak `headroom_db` under what the stage takes. Then the faders behind, for stages that clip all the same,
the nearest before each; then those that all of the programme passes, for its loudness, as far as peaks allow. What is
proposed is solved again: nothing that is heard may get worse by it.
"""

import math
from collections.abc import Callable, Iterable, Iterator, Sequence

from msgspec import Struct

from kymaton.core.checks.audibility import wanted
from kymaton.core.checks.levels import levels_of
from kymaton.core.checks.report import Report
from kymaton.core.edits.controls import Change, apply
from kymaton.core.levels.gain_stages import gain_stages
from kymaton.core.levels.port_levels import SPOKEN, Place, PortLevels
from kymaton.core.levels.programme import programme_lufs
from kymaton.core.model import Control, Listener, Show
from kymaton.core.planning.fixes import find_fix
from kymaton.core.planning.search import Search
from kymaton.core.signal.cue_solution import MISSING_DB, CueSolution
from kymaton.core.signal.trace import Path
from kymaton.core.units import SILENT
from kymaton.core.words import db, named, number, sentence

HEADROOM_DB = 12.0  # under what clips, for live sound; usual
ALIKE_DB = 2.0  # a gain that is nearer than this to where it is to be is left alone
PER_CUE_DB = 10.0  # cues in which an input is softer by more than this get a gain of their own
SWITCHES = ("line-into-mic", "mic-into-line")  # found in the wiring, cured by a switch at the input
OVER_DB = 0.05  # what is over by less is not over
MOST_ROUNDS = 60
BUS = ("fader", "send", "gain")  # roles of levels that may turn a whole programme
GOAL_LU = 0.5  # nearer than this the programme is at its goal


class GainPlan(Struct, frozen=True):
    """What to set, and what stays to be said."""

    changes: tuple[Change, ...]
    remarks: tuple[str, ...] = ()
    ended: bool = False  # before everything was tried


def propose_gains(
    report: Report, headroom_db: float = HEADROOM_DB, going: Callable[[], bool] = lambda: True
) -> GainPlan:
    """Gains, then faders, as a difference to apply, while it is `going`. Nothing that is heard gets worse by it."""
    show = report.show
    plan = _Working(report)
    plan.take(list(_switched(report)))
    plan.take(list(_gains(plan.show, report.cues, headroom_db)))
    plan.take(list(_balanced(plan)))
    _turn_down(plan, going)
    remarks = list(_to_goal(plan))
    _turn_down(plan, going)
    changes = plan.changes(show)
    if not changes:
        return GainPlan((), tuple(remarks), not going())
    search = Search(report)
    known, after = search.after(()), search.after(changes)
    worse = [k for k, severity in after.items() if k not in known or (severity == "fault" != known[k])]
    if worse:
        kept = list(_one_by_one(search, changes, going))
        if len(kept) < len(changes):
            remarks.append("Some of it is left out: what somebody must hear would get worse by it.")
        changes = tuple(kept)
    return GainPlan(changes, tuple(remarks), not going())


def _switched(report: Report) -> Iterator[Change]:
    """Inputs that expect a microphone and get line, or the other way round, switched over, with what that takes."""
    for finding in report.rig:
        if finding.id in SWITCHES and finding.settings:
            fix = find_fix(report, (finding,))
            yield from fix.changes if fix is not None else ()


class _Working:
    """The show as it is changed, with the levels of its cues."""

    def __init__(self, report: Report) -> None:
        self.report, self.show = report, report.show
        self.why: dict[tuple[str | None, str], str] = {}
        self._levels: dict[str | None, PortLevels] = {}

    def take(self, changes: Sequence[Change]) -> None:
        self.show = apply(self.show, changes)
        self.why |= {(c.cue, c.control): c.why for c in changes if (c.cue, c.control) not in self.why}
        self._levels = {}

    def levels(self, cue: str | None) -> PortLevels:
        if cue not in self._levels:
            self._levels[cue] = levels_of(self.report.what_if(self.show, cue))
        return self._levels[cue]

    def changes(self, before: Show) -> tuple[Change, ...]:
        made = []
        for cue, control in self.why:
            was, now = before.value(control, cue), self.show.value(control, cue)
            if was != now:
                made.append(Change(cue, control, was, now, self.why[cue, control]))
        return tuple(made)


def _one_by_one(search: Search, changes: Iterable[Change], going: Callable[[], bool]) -> Iterator[Change]:
    """Of some changes those that together with the ones before make nothing worse."""
    known = search.after(())
    kept: list[Change] = []
    for change in changes:
        if not going():
            return
        after = search.after((*kept, change))
        if all(k in known and (severity != "fault" or known[k] == "fault") for k, severity in after.items()):
            kept.append(change)
            yield change


def _gains(show: Show, cues: Iterable[str | None], headroom_db: float) -> Iterator[Change]:
    """Each gain, once for all cues, and for those cues in which what comes there is far softer."""
    wants: dict[str, dict[str | None, float]] = {}
    for cue in cues:
        levels = levels_of(CueSolution(show, cue))
        must = {s.id for _, s, _ in wanted(levels.view)}
        for stage in gain_stages(show, cue):
            tops = [stage.level(levels, s).peak for s in levels.by_place.get(stage.source, {}) if s in must]
            if tops and stage.clip_db is not None and not show.control(stage.control).elsewhere:
                away = stage.clip_db - headroom_db - max(tops)
                by_cue = wants.setdefault(stage.control, {})
                by_cue[cue] = min(away, by_cue.get(cue, math.inf))
    for id, by_cue in wants.items():
        control = show.control(id)
        base = min(by_cue.values())
        value = _within(control, float(show.value(id, None)) + base)
        if abs(base) > ALIKE_DB and value != show.value(id, None):
            yield Change(None, id, show.value(id, None), value, sentence(_why(base)))
        for cue, away in by_cue.items():
            own = _within(control, float(show.value(id, cue)) + away)
            if cue is not None and away - base > PER_CUE_DB and own != value:
                yield Change(cue, id, show.value(id, cue), own, sentence(_why(away)))


def _why(away: float) -> str:
    return f"its peaks are {db(abs(away))} {'below' if away > 0 else 'above'} where they are to be"


def _within(control: Control, value: float) -> float:
    step = control.step or 0.5
    low, high = control.minimum, control.maximum
    value = math.floor(value / step + 1e-9) * step
    if low is not None:
        value = max(value, low + step if control.kind == "level" else low)
    return float(min(value, high) if high is not None else value)


def _balanced(plan: _Working) -> Iterator[Change]:
    """Faders that one voice alone passes to the audience: all voices as loud there as the one in the middle."""
    for listener in (x for x in plan.show.listeners if x.kind == "audience"):
        heard: dict[str, float] = {}
        ways: dict[str, set[str]] = {}
        for cue in plan.report.cues:
            view = plan.levels(cue).view
            for x, sound, _ in wanted(view):
                if x.id == listener.id and view.audible(x, sound, MISSING_DB):
                    ways.setdefault(sound.id, set()).update(_faders_to(view, listener.id, sound.id))
                    if sound.kind in SPOKEN:
                        heard[sound.id] = max(heard.get(sound.id, SILENT), view.level(x, sound))
        if len(heard) < 2:
            continue
        middle = sorted(heard.values())[(len(heard) - 1) // 2]  # the softer one of two: rather down than up
        for sound_id, level in heard.items():
            others = set().union(*(ids for s, ids in ways.items() if s != sound_id))
            for id in sorted(ways[sound_id] - others) if abs(level - middle) > ALIKE_DB else ():
                control = plan.show.control(id)
                value = _nearest(control, float(control.value) + middle - level)
                why = f"{named(plan.show.sound(sound_id)).do('be')} {db(abs(level - middle))} "
                why += "louder than the other voices" if level > middle else "softer than the other voices"
                if value != control.value:
                    yield Change(None, id, control.value, value, sentence(why))


def _faders_to(view: CueSolution, listener: str, sound: str) -> Iterator[str]:
    """The faders on the ways of a sound to a listener, one of each way: the first."""
    for path in view.paths(listener, sound):
        uses = (u.control for e in path.edges for u in view.graph.edges[int(e)].uses if u.gains is None)
        controls = (view.show.control(u) for u in uses)
        first = next((c.id for c in controls if c.kind == "level" and c.role in ("fader", "send")), None)
        if first is not None:
            yield first


def _turn_down(plan: _Working, going: Callable[[], bool]) -> None:
    """For stages that clip still: the nearest level before, the one that is most over first."""
    tried: set[tuple[str, float]] = set()
    for _ in range(MOST_ROUNDS):
        change = _most_over(plan)
        if change is None or not going() or (change.control, float(change.after)) in tried:
            return
        tried.add((change.control, float(change.after)))
        plan.take([change])


def _most_over(plan: _Working) -> Change | None:
    """What to turn down for the stage that is farthest over what it takes; of such the first on the way."""
    most: tuple[float, str, str | None] = (OVER_DB, "", None)
    for cue in plan.report.cues:
        levels = plan.levels(cue)
        for stage in gain_stages(plan.show, cue):
            over = stage.together(levels).peak - (stage.clip_db if stage.clip_db is not None else math.inf)
            if over > most[0] and not plan.show.control(stage.control).elsewhere:
                most = over, stage.control, cue
        for place in levels.by_place:
            clip = levels.clip(place)
            over = levels.together(place).peak - clip if clip is not None else SILENT
            control = _before(levels, place) if over > most[0] else None
            if control is not None:
                most = over, control, cue
    over, id, cue = most
    if not id:
        return None
    control_ = plan.show.control(id)
    now = float(plan.show.value(id, cue))
    value = _within(control_, now - over)
    where = cue if cue is not None and id in plan.show.settings(cue) else None
    why = sentence(f"{db(over)} too much come after it")
    return None if value >= now else Change(where, id, plan.show.value(id, where), value, why)


def _before(levels: PortLevels, place: Place) -> str | None:
    """The last level before a place by which its loudest sound comes there: of a bus, else of one sound."""
    view = levels.view
    sounds = levels.by_place[place]
    loudest = max(sounds, key=lambda s: sounds[s].peak)
    node = view.graph.nodes.index(place)
    for path in _paths_through(view, loudest, node):
        passed = [int(e) for e in path.edges]
        upto = next((n for n, e in enumerate(passed) if int(view.graph.dst[e]) == node), None)
        if upto is None:
            continue
        for edge in reversed(passed[: upto + 1]):
            uses = [u.control for u in view.graph.edges[edge].uses if u.gains is None]
            levels_on = [c for c in map(view.show.control, uses) if c.kind == "level" and not c.elsewhere]
            faders = [c for c in levels_on if c.role == "fader"] or levels_on
            if faders:
                return faders[-1].id
    return None


def _paths_through(view: CueSolution, sound: str, node: int) -> Iterator[Path]:
    """The strongest ways of a sound to each listener, that pass a node."""
    for listener in view.show.listeners:
        path = view.strongest_path(listener.id, sound)
        if path is not None and any(int(view.graph.dst[e]) == node for e in path.edges):
            yield path


def _to_goal(plan: _Working) -> Iterator[str]:
    """Turn the faders that all of the programme passes so that it comes to its goal; says what peaks do not allow."""
    goal = plan.show.goals.loudness_lufs
    for listener in (x for x in plan.show.listeners if x.kind == "audience"):
        away = _away(plan, listener, goal)
        if away is None or abs(away) <= GOAL_LU:
            continue
        for control in _common(plan, listener):
            room = _room_behind(plan, listener, control) if away > 0 else math.inf
            now = float(plan.show.value(control, None))
            set_to = _nearest if away < room else _within
            value = set_to(plan.show.control(control), now + min(away, room))
            if value != now:
                why = f"the programme is {number(abs(away), 1)} LU {'under' if away > 0 else 'over'} its goal"
                plan.take([Change(None, control, now, value, sentence(why))])
                away = _away(plan, listener, goal)
            if away is None or abs(away) <= GOAL_LU:
                break
        if away is not None and away > 1.0:
            stays = f"The programme stays {number(away, 1)} LU under its goal: its peaks would clip."
            yield f"{stays} A limiter helps, or a lower goal."


def _nearest(control: Control, value: float) -> float:
    step = control.step or 0.5
    value = round(value / step) * step
    return _within(control, value + 1e-6)


def _away(plan: _Working, listener: Listener, goal: float) -> float | None:
    """How far the programme is under its goal, over the cues in which somebody must be heard speaking, by power."""
    powers = []
    for cue in plan.report.cues:
        view = plan.levels(cue).view
        if view.cue is not None and view.cue.is_before_air:
            continue
        spoken = [
            s for x, s, _ in wanted(view) if x.id == listener.id and (s.kind in SPOKEN or len(plan.report.cues) == 1)
        ]
        loudness = programme_lufs(plan.levels(cue), listener) if spoken else None
        if loudness is not None:
            minutes = view.cue.minutes if view.cue is not None and view.cue.minutes else 1.0
            powers.append((10.0 ** (loudness / 10.0), minutes))
    if not powers:
        return None
    mean = sum(p * m for p, m in powers) / sum(m for _, m in powers)
    return goal - 10.0 * math.log10(mean)


def _common(plan: _Working, listener: Listener) -> list[str]:
    """Levels that all that must be heard there passes: the faders in their order, then the gains."""
    every: list[list[str]] = []
    for cue in plan.report.cues:
        view = plan.levels(cue).view
        for x, sound, _ in wanted(view):
            path = view.strongest_path(listener.id, sound.id) if x.id == listener.id else None
            if path is not None:
                uses = [u.control for e in path.edges for u in view.graph.edges[int(e)].uses if u.gains is None]
                controls = [plan.show.control(u) for u in uses]
                every.append([c.id for c in controls if c.kind == "level" and c.role in BUS and not c.elsewhere])
    common = [c for c in every[0] if all(c in other for other in every)] if every else []
    return sorted(common, key=lambda c: plan.show.control(c).role == "gain")


def _room_behind(plan: _Working, listener: Listener, control: str) -> float:
    """How much louder what passes a control can get before a stage behind it clips."""
    room = math.inf
    for cue in plan.report.cues:
        levels = plan.levels(cue)
        view, stages = levels.view, {s.control: s for s in gain_stages(plan.show, cue)}
        for x, sound, _ in wanted(view):
            path = view.strongest_path(listener.id, sound.id) if x.id == listener.id else None
            edges = [int(e) for e in path.edges] if path is not None else []
            acts = (n for n, e in enumerate(edges) if any(u.control == control for u in view.graph.edges[e].uses))
            for edge in edges[next(acts, len(edges)) :]:
                for stage in (stages[u.control] for u in view.graph.edges[edge].uses if u.control in stages):
                    if stage.clip_db is not None:
                        room = min(room, stage.clip_db - stage.together(levels).peak)
                place = view.graph.nodes[int(view.graph.dst[edge])]
                clip = levels.clip(place)
                if clip is not None:
                    room = min(room, clip - levels.together(place).peak)
    return max(0.0, room)
