"""Send levels for listeners: voices equally loud, and music a chosen amount below them.

Each send carries the sound that is loudest by it; it is turned by as much as that sound is away from where it is to be
at the listener, within the range of the control. What is proposed is solved again: nothing may get worse anywhere.
"""

import math
from collections.abc import Iterator, Mapping, Sequence

from msgspec import Struct

from kymaton.core.checks import Key, Severity
from kymaton.core.checks.report import Report
from kymaton.core.edits.controls import Change, apply
from kymaton.core.model import Control, Listener, Want
from kymaton.core.planning.search import Search
from kymaton.core.signal.control_search import closed_value
from kymaton.core.signal.cue_solution import MISSING_DB, CueSolution
from kymaton.core.words import group, named, said, sentence

VOICES = ("voice", "talkback", "phone")
MUSIC_UNDER_DB = 6.0  # usual under speech in monitors; chosen, to be heard and not to be spoken against
ALIKE_DB = 1.0  # what is nearer than this is left as it is
SHARED_DB = 3.0  # what is said where several share sends: some of it is what sharing costs
STEP_DB = 1.0  # of what is proposed: nobody sets sends finer
MOST_TURNS = 4  # a send that serves several listeners is turned once


class Evened(Struct, frozen=True):
    """Sends to turn, and how far each sound is from where it is to be at each listener, before and after, in dB."""

    changes: tuple[Change, ...]
    before_db: dict[str, dict[str, float]]
    after_db: dict[str, dict[str, float]]
    remarks: tuple[str, ...] = ()


def hears_by_sends(report: Report, cue: str | None) -> list[str]:
    """The listeners to whom sounds come by sends that can be turned for them: not the audience or a recording."""
    view = report.cues[cue].view
    people = [x for x in view.show.listeners if x.kind not in ("audience", "recorder")]
    return [x.id for x in people if _sends(view, x, _aims(view, x, MUSIC_UNDER_DB))]


def even_out(
    report: Report, cue: str | None, listeners: Sequence[str], music_under_db: float = MUSIC_UNDER_DB
) -> Evened:
    """What to set so that listeners hear in a cue all voices equally loud and music below. Never worse elsewhere.

    A send that serves several of them is set between what each would need, so that the worst off is as near as can be.
    """
    view = report.cues[cue].view
    people = [view.show.listener(x) for x in listeners]
    aims = {who.id: _aims(view, who, music_under_db) for who in people}
    before = _beside(view, people, aims)
    search = Search(report)
    known = search.after(())
    changes: dict[str, Change] = {}
    stays: set[str] = set()
    for _ in range(MOST_TURNS):
        now = report.what_if(apply(report.show, changes.values()), cue)
        turned = False
        for send, (wanted, sound) in _wanted(now, people, aims).items():
            if send in stays or abs(wanted) < ALIKE_DB:
                continue
            control = now.show.control(send)
            value = _turned(control, float(now.show.value(send, cue)), wanted)
            own = cue is not None and send in report.show.settings(cue)
            why = sentence(
                f"{named(now.show.sound(sound)).do('be')} {'louder' if wanted < 0 else 'softer'} than the rest"
            )
            change = Change(cue if own else None, send, report.show.value(send, cue), value, why)
            if value == now.show.value(send, cue) or not _is_safe(search, known, {**changes, send: change}):
                stays.add(send)
                continue
            changes[send] = change
            turned = True
        if not turned:
            break
    told = tuple(c for c in changes.values() if c.before != c.after)
    after = report.what_if(apply(report.show, told), cue)
    remarks = (*_remarks(after, people, aims), *_shared(after, people, told))
    return Evened(told, before, _beside(after, people, aims), remarks)


def _wanted(
    view: CueSolution, people: Sequence[Listener], aims: dict[str, dict[str, float]]
) -> dict[str, tuple[float, str]]:
    """By how much each send is to be turned, in the middle of what its listeners need, and the sound it is for."""
    needs: dict[str, list[tuple[float, str]]] = {}
    for who in people:
        for send, sound in _sends(view, who, aims[who.id]).items():
            away = aims[who.id][sound] - view.level(who, view.show.sound(sound))
            needs.setdefault(send, []).append((away, sound))
    return {send: ((min(n)[0] + max(n)[0]) / 2, max(n, key=lambda need: abs(need[0]))[1]) for send, n in needs.items()}


def _shared(view: CueSolution, people: Sequence[Listener], changes: Sequence[Change]) -> Iterator[str]:
    """Who else hears by the sends that are turned: it is turned for them as well."""
    turned = {c.control for c in changes}
    asked = {who.id for who in people}
    others = [x for x in view.show.listeners if x.id not in asked and turned & set(_sends_to(view, x))]
    if others:
        yield sentence(f"{group(named(x) for x in others).do('hear')} by the same sends: it changes there as well.")


def _sends_to(view: CueSolution, who: Listener) -> Iterator[str]:
    """The sends by which somebody hears anything."""
    for sound in view.show.sounds:
        if view.audible(who, sound, MISSING_DB):
            for path in view.paths(who.id, sound.id):
                uses = (u.control for e in path.edges for u in view.graph.edges[e].uses)
                yield from (c for c in uses if view.show.control(c).role == "send")


def _aims(view: CueSolution, who: Listener, music_under_db: float) -> dict[str, float]:
    """How loud each sound that is wished for is to be: as the voices are in the middle, music below."""
    heard = [s for s in view.show.sounds if view.want(who, s) is Want.MUST and view.audible(who, s, -60.0)]
    heard = [s for s in heard if not view.is_own(who, s)]
    voices = sorted(view.level(who, s) for s in heard if s.kind in VOICES)
    levels = voices or sorted(view.level(who, s) for s in heard)
    if not levels:
        return {}
    middle = levels[len(levels) // 2]
    return {s.id: middle - (0.0 if s.kind in VOICES or not voices else music_under_db) for s in heard}


def _beside(
    view: CueSolution, people: Sequence[Listener], aims: dict[str, dict[str, float]]
) -> dict[str, dict[str, float]]:
    """How far each sound is from where it is to be, in dB, at each listener."""
    return {
        who.id: {s: round(view.level(who, view.show.sound(s)) - aim, 1) for s, aim in aims[who.id].items()}
        for who in people
    }


def _sends(view: CueSolution, who: Listener, aims: dict[str, float]) -> dict[str, str]:
    """The sends by which the sounds come to the listener, each with the sound that is loudest by it."""
    loudest: dict[str, tuple[float, str]] = {}
    for sound in aims:
        for path in view.paths(who.id, sound):
            level = view.show.sound(sound).level + path.gain_db
            sends = [u.control for e in path.edges for u in view.graph.edges[e].uses]
            for send in (c for c in sends if view.show.control(c).role == "send"):
                loudest[send] = max(loudest.get(send, (-math.inf, "")), (level, sound))
    return {send: sound for send, (_, sound) in loudest.items()}


def _turned(control: Control, now: float, by_db: float) -> float:
    """The value after a turn, in whole steps, within the range and never closed by it."""
    lowest = control.minimum if control.minimum is not None else -90.0
    highest = control.maximum if control.maximum is not None else 10.0
    value = min(highest, max(lowest + STEP_DB, round((now + by_db) / STEP_DB) * STEP_DB))
    return now if value == closed_value(control) else float(value)


def _is_safe(search: Search, known: Mapping[Key, Severity], changes: dict[str, Change]) -> bool:
    after = search.after(tuple(changes.values()))
    return all(key in known and (severity == known[key] or severity != "fault") for key, severity in after.items())


def _remarks(view: CueSolution, people: Sequence[Listener], aims: dict[str, dict[str, float]]) -> Iterator[str]:
    """What stays away from where it is to be."""
    beside = _beside(view, people, aims)
    for who in people:
        for sound, away in beside[who.id].items():
            if abs(away) >= (ALIKE_DB if len(people) == 1 else SHARED_DB):
                what = named(view.show.sound(sound))
                side = "louder" if away > 0 else "softer"
                text = f"{what.do('stay')} {abs(away):.0f} dB {side} at {said(who)} than it should be"
                yield sentence(f"{text}: no send alone does that.")
