"""Proof that what is private stays private: by how few wrong presses it could get out, and what makes that impossible.

From a private sound on, every place in the signal graph gets the smallest sets of controls that have to be pressed for
the sound to come there, one or two at most, none of them within another one. The sets are carried along the edges until
nothing changes (a fixed point over antichains), so the answer is exact for two presses: each control counts once,
however often it stands on the way. To put another picture on air is a press too. Levels are not asked: whatever is open
at all counts as out.
"""

from collections import deque
from collections.abc import Iterable, Iterator
from itertools import pairwise

import numpy as np
from msgspec import Struct

from kymaton.core.checks.report import Report
from kymaton.core.edits.controls import Change
from kymaton.core.model import Cable, ControlUse, Show, Want
from kymaton.core.model.device import Value
from kymaton.core.planning.fixes import describe
from kymaton.core.signal.control_search import closed_controls, closing_uses, open_value
from kymaton.core.signal.cue_solution import CueSolution
from kymaton.core.signal.folding import reachable
from kymaton.core.signal.graph import BoolArray
from kymaton.core.units import SILENT
from kymaton.core.words import joined, lowered, named, said, sentence, the_port

Presses = frozenset[str]
MOST_PRESSES = 2
OUTSIDE = ("audience", "recorder")
ON_AIR = "on air: "  # before the input whose picture is put on air by a press


class Mistake(Struct, frozen=True):
    """That a sound gets to some outside in a cue when so many controls are pressed (none: it is out already)."""

    cue: str | None
    sound: str
    presses: tuple[str, ...]
    listeners: tuple[str, ...]


class Between(Struct, frozen=True):
    """That a sound may get out in the moment between two cues, while their settings are mixed."""

    cue: str
    after: str
    sound: str
    listener: str


class Proof(Struct, frozen=True):
    """All of it for a show: mistakes cue by cue, the shortest first; moments between cues; leads that make it safe."""

    mistakes: tuple[Mistake, ...]
    between: tuple[Between, ...]
    breaks: dict[str, tuple[Cable, ...]]


def prove(report: Report) -> Proof:
    """What could get out in a show, and how."""
    show = report.show
    views = {c: r.view for c, r in report.cues.items()}
    found = sorted((m for v in views.values() for m in mistakes(v)), key=lambda m: len(m.presses))
    moments = tuple(between_cues(show, {c: v for c, v in views.items() if c is not None}))
    sounds = dict.fromkeys((*(m.sound for m in found), *(b.sound for b in moments)))
    safe = {s: tuple(show.cable(c) for c in breaks(show, s)) for s in sounds}
    return Proof(tuple(found), moments, {s: leads for s, leads in safe.items() if leads})


def private_sounds(show: Show, cue: str | None) -> list[str]:
    """What nobody outside may hear in a cue: private sounds, click and talkback; before air whatever anybody says."""
    before_air = cue is not None and show.cue(cue).is_before_air
    return [
        s.id
        for s in show.sounds
        if s.private or s.kind in ("talkback", "click", "phone") or (before_air and s.kind == "voice")
    ]


def mistakes(view: CueSolution) -> Iterator[Mistake]:
    """The shortest mistakes of a cue: for each private sound and listener outside the smallest sets of presses."""
    outside = [x for x in view.show.listeners if x.kind in OUTSIDE]
    if not outside:
        return
    needs = _needs(view)
    other_pictures = [(p, v, _needs(v)) for p, v in _with_other_pictures(view)]
    for sound in private_sounds(view.show, view.cue_id):
        if view.show.sounding(sound, view.cue_id) == "silent":
            continue
        at = _carried(view, sound, needs)
        with_picture = [(f"{ON_AIR}{p}", _carried(v, sound, n, MOST_PRESSES - 1)) for p, v, n in other_pictures]
        reached: dict[Presses, list[str]] = {}
        for listener in (x for x in outside if view.want(x, view.show.sound(sound)) is not Want.MUST):
            ears = [int(n) for (x, _), n in zip(view.graph.ears, view.graph.ear_node, strict=True) if x == listener.id]
            here = [p for ear in ears for p in at.get(ear, ())]
            here += [p | {taken} for taken, there in with_picture for ear in ears for p in there.get(ear, ())]
            for presses in _smallest(here):
                reached.setdefault(presses, []).append(listener.id)
        for presses in sorted(reached, key=_order):
            yield Mistake(view.cue_id, sound, tuple(sorted(presses)), tuple(reached[presses]))


def _with_other_pictures(view: CueSolution) -> Iterator[tuple[str, CueSolution]]:
    """The cue with each other picture on air, by the input that it comes from: that is one press too."""
    cue, show = view.cue, view.show
    if cue is None:
        return
    inputs = {r.on_air for d in show.devices for r in d.routes if r.on_air is not None}
    for port in sorted(inputs - {cue.on_air}):
        cues = tuple(c.evolve(on_air=port) if c.id == cue.id else c for c in show.cues)
        yield port, CueSolution(show.evolve(cues=cues), cue.id, view.graph)


def between_cues(show: Show, views: dict[str, CueSolution]) -> Iterator[Between]:
    """What may get out while one cue is left for the next: every way whose controls are each open in one of the two.

    More than can happen at once, never less: what is not told here cannot get out in between, in whatever order the
    settings change.
    """
    for first, second in pairwise(c.id for c in show.cues):
        a, b = views[first], views[second]
        graph = a.graph
        either = _open_in_either(a, b)
        for sound in dict.fromkeys((*private_sounds(show, first), *private_sounds(show, second))):
            starts = np.array(
                [n for (s, _), n in zip(graph.signals, graph.signal_node, strict=True) if s == sound], int
            )
            out = reachable(len(graph.nodes), graph.src[either], graph.dst[either], starts)
            for listener in (x for x in show.listeners if x.kind in OUTSIDE):
                ears = [n for (x, _), n in zip(graph.ears, graph.ear_node, strict=True) if x == listener.id]
                wanted = any(v.want(listener, show.sound(sound)) is Want.MUST for v in (a, b))
                already = wanted or any(v.level(listener, show.sound(sound)) > SILENT for v in (a, b))
                if out[ears].any() and not already:
                    yield Between(first, second, sound, listener.id)


def _open_in_either(a: CueSolution, b: CueSolution) -> BoolArray:
    """Edges that pass in one of two cues, or while some controls stand as in the one and some as in the other."""
    passes = [v.state.gain_db > SILENT for v in (a, b)]
    either = passes[0] | passes[1]
    for edge in np.flatnonzero(~either).tolist():
        shut = [set(closed_controls(v, edge)) for v in (a, b)]
        either[edge] = all(shut) and shut[0].isdisjoint(shut[1])
    return either


def _needs(view: CueSolution) -> list[set[Presses]]:
    """By which presses each edge passes: the smallest sets; none where no press, or more than two, would do it."""
    found: list[set[Presses]] = []
    for edge, open_ in enumerate((view.state.gain_db > SILENT).tolist()):
        sets: set[Presses] = {frozenset()}
        ways = [] if open_ else [_ways_to_open(view, use) for use in closing_uses(view, edge)]
        if not open_ and not ways:
            sets = set()  # shut for another reason: pulled out, or its picture is not on air
        for either in ways:
            sets = _smallest(p | {c} for p in sets for c in either if len(p | {c}) <= MOST_PRESSES)
        found.append(sets)
    return found


def _ways_to_open(view: CueSolution, use: ControlUse) -> list[str]:
    """The controls of which one press lifts what shuts an edge: the one that does, or the one that lets it."""
    ways = [use.control] if opening_value(view, use.control) is not None else []
    if use.when is not None and len(view.show.control(use.when.control).choices) > 1:
        ways.append(use.when.control)
    return ways


def opening_value(view: CueSolution, control: str) -> Value | None:
    """The value by which a press opens a control: of a choice another one."""
    item = view.show.control(control)
    value = open_value(item)
    if item.kind == "pan":
        return 0.0
    if value is not None or item.kind != "choice":
        return value
    now = str(view.show.value(control, view.cue_id))
    return next((c for c in item.choices if c != now), None)


def _carried(
    view: CueSolution, sound: str, needs: list[set[Presses]], most: int = MOST_PRESSES
) -> dict[int, set[Presses]]:
    """For each node that a sound can come to, the smallest sets of at most so many presses for it."""
    graph = view.graph
    ways: dict[int, list[int]] = {}
    for edge, source in enumerate(graph.src.tolist()):
        if needs[edge]:
            ways.setdefault(source, []).append(edge)
    targets = graph.dst.tolist()
    at: dict[int, set[Presses]] = {
        int(n): {frozenset()} for (s, _), n in zip(graph.signals, graph.signal_node, strict=True) if s == sound
    }
    waiting = deque(at)
    queued = set(at)
    while waiting:
        node = waiting.popleft()
        queued.discard(node)
        for edge in ways.get(node, ()):
            target = targets[edge]
            new = {p | more for p in at[node] for more in needs[edge] if len(p | more) <= most}
            known = at.get(target, set())
            fresh = {p for p in new if not any(k <= p for k in known)}
            if fresh:
                at[target] = _smallest(known | fresh)
                if target not in queued:
                    queued.add(target)
                    waiting.append(target)
    return at


def _smallest(sets: Iterable[Presses]) -> set[Presses]:
    """Those of the sets that hold no other one."""
    every = set(sets)
    return {p for p in every if not any(q < p for q in every)}


def _order(presses: Presses) -> tuple[int, list[str]]:
    return len(presses), sorted(presses)


def mistake_text(view: CueSolution, mistake: Mistake) -> str:
    """A mistake as a sentence."""
    show = view.show
    who = joined(said(show.listener(x)) for x in mistake.listeners)
    what = named(show.sound(mistake.sound))
    if not mistake.presses:
        return sentence(f"{what.do('reach')} {who} as it is")
    done = []
    for control in mistake.presses:
        if control.startswith(ON_AIR):
            done.append(f"take {the_port(show, control.removeprefix(ON_AIR))} on air")
            continue
        value = opening_value(view, control)
        assert value is not None
        done.append(lowered(describe(show, Change(mistake.cue, control, show.value(control, mistake.cue), value))))
    return sentence(f"{joined(done)}, and {what.text} {what.verb('reach')} {who}")


def between_text(show: Show, moment: Between) -> str:
    """A moment between cues as a sentence."""
    what, who = named(show.sound(moment.sound)), said(show.listener(moment.listener))
    first, second = show.cue(moment.cue).name, show.cue(moment.after).name
    return sentence(f"{what.text} may reach {who} for a moment from {first} to {second}")


def breaks(show: Show, sound: str) -> list[str]:
    """Leads each of which, pulled out, keeps a sound from everybody outside whatever is pressed, and takes no other.

    A break in the path is surer than a mute.
    """
    ways = _Ways(show)
    ends = {f"listener/{x.id}" for x in show.listeners if x.kind in OUTSIDE}
    others = [f"sound/{s.id}" for s in show.sounds if s.id != sound]
    out = [s for s in others if ways.lead(s, ends)]
    on_a_way = [c for c in show.cables if c.plugged and ways.lead(c.target, ends)]
    return [
        c.id
        for c in on_a_way
        if not ways.lead(f"sound/{sound}", ends, c.id) and all(ways.lead(s, ends, c.id) for s in out)
    ]


class _Ways:
    """What leads and devices join at all, whatever is set."""

    def __init__(self, show: Show) -> None:
        self.onward: dict[str, list[tuple[str, str]]] = {}
        for cable in show.cables:
            if cable.plugged:
                self.onward.setdefault(cable.source, []).append((cable.target, cable.id))
        for device in show.devices:
            for route in device.routes:
                if route.medium == "sound":
                    way = (f"{device.id}/{route.target}", "")
                    self.onward.setdefault(f"{device.id}/{route.source}", []).append(way)

    def lead(self, start: str, ends: set[str], without: str = "-") -> bool:
        """Whether something leads from a place to one of the ends when one lead is out."""
        seen, front = {start}, [start]
        while front:
            for after, lead in self.onward.get(front.pop(), ()):
                if after not in seen and lead != without:
                    seen.add(after)
                    front.append(after)
        return not seen.isdisjoint(ends)
