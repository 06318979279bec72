"""Ways that are there but not in use or not in hand: a stand-by that comes late, a feed that nobody here turns down."""

import math
from collections.abc import Iterable, Sequence

import numpy as np

from kymaton.core.checks.audibility import names
from kymaton.core.checks.registry import Finding, kind, worded
from kymaton.core.model import Show
from kymaton.core.signal.control_search import Opening
from kymaton.core.signal.cue_solution import HEARD_DB, CueSolution
from kymaton.core.signal.folding import reachable
from kymaton.core.signal.graph import FloatArray, soonest_us
from kymaton.core.signal.trace import Path
from kymaton.core.units import SILENT
from kymaton.core.words import group, ms, sentence, the_device

JUMPS_MS = 20.0  # half a frame at 25 frames/s: a smaller step is hidden by the change itself; chosen


def _late_spare(view: CueSolution, findings: Sequence[Finding]) -> str:
    _, sounds = names(view, findings)
    spare = group(the_device(view.show, str(f.evidence["spare"])) for f in findings)
    later = max(float(str(f.evidence["later_ms"])) for f in findings)
    return sentence(f"{spare}, the stand-by for {sounds}, {spare.verb('come')} {ms(later)} later")


@kind("stand-by-late", rank=107, together=_late_spare)
def stand_by_late(view: CueSolution) -> Iterable[Finding]:
    """A second microphone of a sound that is closed in this cue, and would come later than the one in use."""
    show = view.show
    leads: dict[str, list[str]] = {}
    for cable in show.cables:
        if cable.source.startswith("sound/") and cable.target in show.ports and cable.plugged:
            leads.setdefault(cable.source.partition("/")[2], []).append(cable.target)
    spares = {sound: ports for sound, ports in leads.items() if len(ports) > 1}
    times: dict[str, FloatArray] = {}
    for listener, sound in view.arriving if spares else ():
        if listener.kind != "audience" or sound.id not in spares or not view.audible(listener, sound, HEARD_DB):
            continue
        path = view.strongest_path(listener.id, sound.id)
        in_use = {p.ports(view.graph)[1] for p in view.paths(listener.id, sound.id)}
        waiting = [at for at in spares[sound.id] if at not in in_use]
        if path is None or not waiting:
            continue
        if listener.id not in times:
            times[listener.id] = _times_if_opened(view, listener.id)
        soonest_us = _soonest_us(view, times[listener.id], sound.id)
        for at in waiting:
            later_ms = (soonest_us.get(at, math.inf) - path.delay_us) / 1000
            if JUMPS_MS < later_ms < math.inf:
                spare = at.partition("/")[0]
                finding = Finding(
                    id="stand-by-late",
                    severity="note",
                    step="sync",
                    cue=view.cue_id,
                    listener=listener.id,
                    sound=sound.id,
                    reason=f"It would arrive {ms(later_ms)} after what is heard now: beside it there is an echo; "
                    "changed over to, there is a jump against the picture.",
                    evidence={"spare": spare, "later_ms": round(later_ms, 1)},
                    delays_us=(path.delay_us,),
                    remedy="Delay what is in use by as much, or take the stand-by from an earlier place.",
                )
                yield worded(view, finding, _late_spare)


def _times_if_opened(view: CueSolution, listener: str) -> FloatArray:
    """From each node how soon (µs) a sound there would reach a listener if what is closed were opened."""
    opening, graph = Opening(view), view.graph
    ears = np.array(opening.ears.get(listener, ()), np.int64)
    leads_there = reachable(len(graph.nodes), graph.dst, graph.src, ears)[graph.dst]
    usable = (view.state.gain_db > SILENT) & leads_there
    for edge in np.flatnonzero(leads_there & ~usable).tolist():
        usable[edge] = opening.to_open(edge) is not None
    times = [soonest_us(graph, view.state, usable, ear) for ear in ears.tolist()]
    return np.min(times, axis=0) if times else np.full(len(graph.nodes), np.inf)


def _soonest_us(view: CueSolution, times: FloatArray, sound: str) -> dict[str, float]:
    """When a sound would first arrive by each port that it goes into; infinite where it never would."""
    graph = view.graph
    starts = [int(n) for (s, _), n in zip(graph.signals, graph.signal_node, strict=True) if s == sound]
    found: dict[str, float] = {}
    for edge in np.flatnonzero(np.isin(graph.src, starts)).tolist():
        port = graph.nodes[graph.dst[edge]][0]
        at_us = float(times[graph.dst[edge]]) + int(view.state.delay_us[edge])
        found[port] = min(at_us, found.get(port, math.inf))
    return found


def _no_hand(view: CueSolution, findings: Sequence[Finding]) -> str:
    _, sounds = names(view, findings)
    feed = group(the_device(view.show, str(f.evidence["feed"])) for f in findings)
    return sentence(f"nothing here turns down {sounds} from {feed}")


@kind("no-own-control", rank=108, together=_no_hand)
def no_own_control(view: CueSolution) -> Iterable[Finding]:
    """What comes from a borrowed device and reaches the audience with no level or mute of one's own behind it."""
    if not any(d.owned == "borrowed" for d in view.show.devices):
        return
    for listener, sound in view.arriving:
        path = view.strongest_path(listener.id, sound.id) if listener.kind == "audience" else None
        if path is None:
            continue
        feed, behind = _own_controls_behind(view.show, _devices_on(view, path))
        if feed is not None and not behind:
            finding = Finding(
                id="no-own-control",
                severity="caution",
                step="path",
                cue=view.cue_id,
                listener=listener.id,
                sound=sound.id,
                reason=f"{sentence(the_device(view.show, feed).text)} belongs to somebody else, and behind it nothing "
                "has a fader or a mute.",
                evidence={"feed": feed},
                delays_us=(path.delay_us,),
                remedy="Take the feed by an input of your own that can be turned down.",
            )
            yield worded(view, finding, _no_hand)


def _own_controls_behind(show: Show, passed: Iterable[tuple[str, tuple[str, ...]]]) -> tuple[str | None, list[str]]:
    """The last borrowed device of a way, and the levels and mutes of one's own behind it.

    `passed` are the devices of a way in order, each with the controls that it passes there.
    """
    last, behind = None, list[str]()
    for device, controls in passed:
        if show.device(device).owned == "borrowed":
            last, behind = device, []
        else:
            closing = (c for c in map(show.control, controls) if c.kind in ("level", "mute", "switch"))
            behind += [c.id for c in closing if c.role != "gain"]  # a gain never closes
    return last, behind


def _devices_on(view: CueSolution, path: Path) -> Iterable[tuple[str, tuple[str, ...]]]:
    for number_ in path.edges:
        edge = view.graph.edges[number_]
        if edge.device is not None:
            yield edge.device, tuple(u.control for u in edge.uses if not u.only_from)
