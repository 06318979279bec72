"""Return pictures: who sees themselves, and late, and what would give them a picture without themselves."""

from collections.abc import Iterator, Sequence

from msgspec import Struct

from kymaton.core.edits.controls import Change, apply
from kymaton.core.edits.ids import owner
from kymaton.core.model import Cable, Control, Cue, Listener, Show
from kymaton.core.signal.air import places_in
from kymaton.core.signal.av_offset import shown
from kymaton.core.signal.picture import PictureWay, picture_ways


class CleanReturn(Struct, frozen=True):
    """A picture without oneself: what an output is set to, and the lead that is to come from it, where one is to move.

    `show` is the show with both.
    """

    change: Change | None
    lead: Cable | None
    output: str
    show: Show


def own_picture(show: Show, cue: Cue | None, listener: Listener) -> PictureWay | None:
    """The picture on air at somebody in a cue that shows them as they speak or play; the soonest, if there are more."""
    if listener.person is None:
        return None
    where = places_in(show, cue)
    ways = [
        way
        for way in picture_ways(show, cue, listener.id)
        if way.on_air and any(s.person == listener.person for s in shown(show, way.source, where))
    ]
    return min(ways, key=lambda w: w.delay_us, default=None)


def clean_return(show: Show, cues: Sequence[Cue | None], listener: Listener) -> CleanReturn | None:
    """What gives somebody another picture than their own in these cues: a setting alone if that does, or a lead moved
    to a free output beside the one that it comes from.
    """
    ways = [way for way in (own_picture(show, cue, listener) for cue in cues) if way is not None]
    ports = dict.fromkeys(port for way in ways for port in reversed(way.ports))
    tried = [*_by_setting(show, list(ports)), *_by_lead(show, list(ports))]
    return next((one for one in tried if _is_clean(show, one.show, cues, listener)), None)


def _is_clean(before: Show, show: Show, cues: Sequence[Cue | None], listener: Listener) -> bool:
    """Whether somebody sees a picture in each of these cues, and never their own; and all others what they saw."""
    if not all(_seen(show, cue, listener) and own_picture(show, cue, listener) is None for cue in cues):
        return False
    others = [x for x in show.listeners if x.id != listener.id and own_picture(before, cues[0], x) is None]
    return all(_seen(show, cue, x) == _seen(before, cue, x) for x in others for cue in show.cues or (None,))


def _seen(show: Show, cue: Cue | None, listener: Listener) -> set[str]:
    return {w.source for w in picture_ways(show, cue, listener.id) if w.on_air}


def _by_setting(show: Show, ports: Sequence[str]) -> Iterator[CleanReturn]:
    for port in ports:
        for control in _chosen_at(show, port):
            for value in control.choices:
                if value != control.value:
                    change = Change(None, control.id, control.value, value)
                    yield CleanReturn(change, None, port, apply(show, [change]))


def _by_lead(show: Show, ports: Sequence[str]) -> Iterator[CleanReturn]:
    passed = set(ports)
    leads = [c for c in show.cables if c.source in passed and c.target in passed and c.source in show.ports]
    used = {c.source for c in show.cables}
    devices = [show.device(d) for d in dict.fromkeys(owner(p) for p in ports) if d not in ("sound", "listener")]
    outputs = [(d.id, p) for d in devices for p in d.ports if p.direction == "out" and p.picture]
    for lead in sorted(leads, key=lambda c: ports.index(c.source)):
        here = show.port(lead.source)
        for device, other in outputs:
            output = f"{device}/{other.id}"
            alike = (other.signal, other.connector) == (here.signal, here.connector)
            if not alike or output in used or device == owner(lead.target):
                continue
            moved = lead.evolve(source=output)
            there = show.evolve(cables=tuple(moved if c.id == lead.id else c for c in show.cables))
            yield CleanReturn(None, lead, output, there)
            for made in _by_setting(there, [output]):
                yield CleanReturn(made.change, lead, output, made.show)


def _chosen_at(show: Show, port: str) -> Iterator[Control]:
    """The settings by which it is chosen which pictures leave at an output."""
    if port not in show.ports or show.port(port).direction != "out":
        return
    device, name = show.device(owner(port)), port.partition("/")[2]
    uses = {u.control for r in device.routes if r.medium == "picture" and r.target == name for u in r.controls}
    for id in sorted(uses):
        control = show.control(id)
        if control.kind == "choice":
            yield control
