"""Edits of cables: each takes a Show and gives a new one, or raises ShowError with one sentence."""

from collections.abc import Iterable

from kymaton.core.edits.ids import free_id, owner
from kymaton.core.joining import channel_pairs, no_room, why_not
from kymaton.core.model.cues import Variant
from kymaton.core.model.device import Cable
from kymaton.core.model.show import Show, ShowError, validated


def taken_by(show: Show, port: str) -> list[Cable]:
    """Cables at a port."""
    return [c for c in show.cables if port in (c.source, c.target)]


def connect(
    show: Show, source: str, target: str, kind: str, length_m: float = 0.0, channels: tuple[tuple[int, int], ...] = ()
) -> Show:
    """A cable from an output to an input. Raises ShowError where it does not fit, or a socket is taken.

    An input of a device takes one cable, except through air, and a player plays many sounds; an output has one plug for
    each of its sockets.
    """
    reason = why_not(show, source, target)
    if reason is not None:
        raise ShowError(reason)
    plays = owner(source) == "sound" and target in show.ports and not show.port(target).connector  # as much as it will
    if owner(target) != "listener" and kind != "air" and not plays:
        new = Cable(id="new", source=source, target=target, channels=channels)
        sides = {b for _, b in channel_pairs(show, new)}
        there = [c for c in taken_by(show, target) if c.target == target and c.kind != "air"]
        there = [c for c in there if not sides or sides & {b for _, b in channel_pairs(show, c)}]
        if there:
            raise ShowError(f"{show.port_label(target)} is taken by {show.port_label(there[0].source)}.")
    if any(c.source == source and c.target == target for c in show.cables):
        raise ShowError(f"{show.port_label(source)} is already connected to {show.port_label(target)}.")
    id = free_id(f"{source}-to-{target}", (c.id for c in show.cables))
    cable = Cable(id=id, source=source, target=target, kind=kind, length_m=length_m, channels=channels)
    full = no_room(show, cable, [c for c in show.cables if c.source == source])
    if full is not None:
        raise ShowError(full)
    return validated(show.evolve(cables=(*show.cables, cable)))


def disconnect(show: Show, cables: Iterable[str]) -> Show:
    """The show without these cables."""
    return without_cables(show, set(cables))


def put_cable(show: Show, cable: Cable) -> Show:
    """The show with this cable in place of the one with its id. Raises ShowError."""
    return validated(show.evolve(cables=tuple(cable if c.id == cable.id else c for c in show.cables)))


def _controls_of(variant: Variant) -> set[str]:
    return {c.id for d in variant.devices for c in d.controls}


def _stands(show: Show, variant: Variant, cable: Cable) -> bool:
    """Whether both ends of a lead that a variant adds are there."""
    own = {f"{d.id}/{p.id}" for d in variant.devices for p in d.ports}
    people = {f"sound/{s.id}" for s in show.sounds} | {f"listener/{x.id}" for x in show.listeners}
    return {cable.source, cable.target} <= own | people | show.ports.keys()


def without_cables(show: Show, cables: set[str]) -> Show:
    """Without these cables, and without settings of controls and pictures that no longer exist."""
    controls = {c.id for d in show.devices for c in d.controls}
    ports = {f"{d.id}/{p.id}" for d in show.devices for p in d.ports}
    devices = {d.id for d in show.devices}
    sounds = {s.id for s in show.sounds}

    def kept(values: dict[str, object]) -> dict[str, object]:
        return {k: v for k, v in values.items() if k in controls}

    cues = tuple(
        c.evolve(
            controls=kept(dict(c.controls)),
            on_air=c.on_air if c.on_air in ports else None,
            recalls=tuple(d for d in c.recalls if d in devices),
            sounding={s: told for s, told in c.sounding.items() if s in sounds},
            hand_actions=tuple(
                a for a in c.hand_actions if a.target not in cables and (not a.names_control or a.target in controls)
            ),
        )
        for c in show.cues
    )
    variants = tuple(
        v.evolve(
            controls={k: x for k, x in v.controls.items() if k in controls or k in _controls_of(v)},
            in_cues={cue: kept(dict(values)) for cue, values in v.in_cues.items()},
            unplugged=tuple(x for x in v.unplugged if x not in cables),
            without=tuple(d for d in v.without if d in devices),
            cables=tuple(c for c in v.cables if _stands(show, v, c)),
        )
        for v in show.variants
    )
    people = {p.id for p in show.people}
    ways = tuple(w for w in show.control_ways if w.source in devices | people and w.target in devices)
    groups = tuple(g.evolve(devices=tuple(d for d in g.devices if d in devices)) for g in show.microphone_groups)
    inside = tuple(
        d.evolve(inside=None) if d.inside is not None and d.inside not in devices else d for d in show.devices
    )
    rest = tuple(c for c in show.cables if c.id not in cables)
    seen = tuple(w for w in show.picture_plan if w.picture in ports)
    ends = devices | {p.id for p in show.places}
    return validated(
        show.evolve(
            cables=rest,
            control_ways=ways,
            cues=cues,
            variants=variants,
            microphone_groups=groups,
            devices=inside,
            picture_plan=seen,
            runs=tuple(r for r in show.runs if r.source in ends and r.target in ends),
            meetings=tuple(m for m in show.meetings if m.port in ports),
        )
    )
