"""What of a rig the map shows: one place or one stage with its neighbours, and places folded into one plate."""

from msgspec import Struct, field

from kymaton.app.path.layout import owner
from kymaton.core.model import Cable, Device, Port, Show

FOLDED = "folded"  # kind of the plate that stands for the devices of a place


class Scope(Struct, frozen=True):
    """A place (by id) or a stage to look at, None for all; the places that are folded."""

    place: str | None = None
    stage: str | None = None
    folded: frozenset[str] = frozenset()

    @property
    def whole(self) -> bool:
        return self == Scope()


class Scoped(Struct, frozen=True):
    """The show to be drawn, and for each device that is folded away the plate that stands for it."""

    show: Show
    plate_of: dict[str, str] = field(default_factory=dict)


def scoped(show: Show, scope: Scope) -> Scoped:
    """The show as it is drawn: for the eye alone, never saved."""
    if scope.whole:
        return Scoped(show)
    narrow = show if scope.place is None and scope.stage is None else _narrowed(show, scope)
    return _folded(narrow, scope.folded)


def _narrowed(show: Show, scope: Scope) -> Show:
    """What is in the place and at the stage, and what a lead joins to it."""
    stages = {f"sound/{s.id}": ("made", s.place) for s in show.sounds}
    stages |= {f"listener/{x.id}": ("heard", x.place) for x in show.listeners}
    stages |= {d.id: (d.stage, d.place) for d in show.devices}
    inside = {
        id
        for id, (stage, place) in stages.items()
        if scope.stage in (None, stage) and (scope.place is None or place == scope.place)
    }
    cables = tuple(c for c in show.cables if owner(c.source) in inside or owner(c.target) in inside)
    kept = inside | {owner(end) for c in cables for end in (c.source, c.target)}
    return show.evolve(
        sounds=tuple(s for s in show.sounds if f"sound/{s.id}" in kept),
        listeners=tuple(x for x in show.listeners if f"listener/{x.id}" in kept),
        devices=tuple(d for d in show.devices if d.id in kept),
        cables=cables,
    )


def _folded(show: Show, places: frozenset[str]) -> Scoped:
    """The devices of each folded place as one plate for each stage."""
    groups: dict[tuple[str, str], list[Device]] = {}
    for device in show.devices:
        if device.place in places and device.place is not None:
            groups.setdefault((device.place, device.stage), []).append(device)
    groups = {key: members for key, members in groups.items() if len(members) > 1}
    plate_of = {d.id: f"fold-{place}-{stage}" for (place, stage), members in groups.items() for d in members}

    def moved(port: str) -> str:
        device, _, name = port.partition("/")
        return f"{plate_of[device]}/{device}-{name}" if device in plate_of else port

    plates = []
    for (place, stage), members in groups.items():
        ports: list[Port] = [p.evolve(id=f"{d.id}-{p.id}") for d in members for p in d.ports]
        where = show.place_of(place)
        plates.append(
            Device(
                id=f"fold-{place}-{stage}", name=where.name if where else place, kind=FOLDED,
                detail=f"{len(members)} devices", stage=members[0].stage, place=place, ports=tuple(ports),
            )
        )  # fmt: skip
    cables: tuple[Cable, ...] = tuple(c.evolve(source=moved(c.source), target=moved(c.target)) for c in show.cables)
    devices = (*(d for d in show.devices if d.id not in plate_of), *plates)
    return Scoped(show.evolve(devices=devices, cables=cables), plate_of)
