"""The ladder of a sound: the stages of its way, each between what it takes and its noise, and the tightest of them."""

from collections.abc import Sequence

from msgspec import Struct
from msgspec.structs import replace

from kymaton.core.levels.gain_stages import stages_of
from kymaton.core.levels.port_levels import Level, Place, PortLevels
from kymaton.core.model.people import Unit
from kymaton.core.units import SILENT

ALIKE_DB = 0.1  # stages that differ by less hand on what they get


class Rung(Struct, frozen=True):
    """One stage. Levels in dB in `unit`: the sound alone, and all that comes there; noise, and what the stage takes."""

    name: str
    unit: Unit
    own: Level
    together: Level
    noise_db: float
    clip_db: float | None
    place: Place
    control: str | None = None  # the gain behind which this is, else the socket itself

    @property
    def headroom_db(self) -> float | None:
        """How far the peaks of all that comes there stay below what it takes; negative where it clips."""
        return None if self.clip_db is None else self.clip_db - max(self.own.peak, self.together.peak)

    @property
    def over_noise_db(self) -> float | None:
        """How far the sound stands above the noise, typically; None where no noise is known."""
        return None if self.noise_db == SILENT else self.own.typical - self.noise_db


def ladder(levels: PortLevels, listener: str, sound: str) -> list[Rung]:
    """The stages of the strongest way from a sound to a listener; none where nothing arrives."""
    view, show = levels.view, levels.show
    path = view.strongest_path(listener, sound)
    if path is None:
        return []
    graph, stages = view.graph, {(s.control, s.source): s for s in stages_of(levels)}
    places: list[Place] = [graph.nodes[int(graph.src[path.edges[0]])]]
    rungs = [_at(levels, places[0], sound)]
    for edge in path.edges:
        before, after = graph.nodes[int(graph.src[edge])], graph.nodes[int(graph.dst[edge])]
        for use in graph.edges[edge].uses:
            stage = stages.get((use.control, before))
            if stage is not None:
                control = show.control(use.control)
                rungs.append(
                    Rung(
                        control.name, levels.unit(before), stage.level(levels, sound), stage.together(levels),
                        stage.noise(levels), stage.clip_db, before, control.id,
                    )
                )  # fmt: skip
        rungs.append(_at(levels, after, sound))
    return rungs


def device_rungs(levels: PortLevels, device: str) -> list[Rung]:
    """The inputs of a device to which anything comes, each with all that comes there, and its gain."""
    show = levels.show
    found = []
    inputs = {f"{device}/{p.id}" for p in show.device(device).ports if p.direction == "in"}
    stages = {s.source: s for s in stages_of(levels)}
    for place in levels.view.graph.nodes:
        sounds = levels.by_place.get(place, {})
        if place[0] not in inputs or not sounds:
            continue
        loudest = max(sounds, key=lambda s: sounds[s].typical)
        found.append(_at(levels, place, loudest))
        stage = stages.get(place)
        if stage is not None:
            control = show.control(stage.control)
            found.append(
                Rung(
                    control.name, levels.unit(place), stage.level(levels, loudest), stage.together(levels),
                    stage.noise(levels), stage.clip_db, place, control.id,
                )
            )  # fmt: skip
    return found


def condensed(rungs: Sequence[Rung]) -> list[Rung]:
    """Stages that only hand on what the one before has, told together: `Switcher programme to Platform`."""
    found: list[Rung] = []
    first: list[str] = []
    for rung in rungs:
        if found and _hands_on(found[-1], rung):
            found[-1] = replace(found[-1], name=f"{first[-1]} to {rung.name}", place=rung.place)
        else:
            found.append(rung)
            first.append(rung.name)
    return found


def _hands_on(one: Rung, other: Rung) -> bool:
    listens = other.place[0].startswith("listener/")  # takes whatever comes
    clips = [one.clip_db if listens else r.clip_db for r in (one, other)]
    figures = [
        (r.own.typical, r.own.peak, r.together.peak, r.noise_db, clip if clip is not None else 0.0)
        for r, clip in zip((one, other), clips, strict=True)
    ]
    near = all(a == b or abs(a - b) < ALIKE_DB for a, b in zip(*figures, strict=True))
    same = one.unit == other.unit and (clips[0] is None) == (clips[1] is None)
    return near and same and one.control is None and other.control is None


def tightest(rungs: Sequence[Rung]) -> Rung | None:
    """The stage with the least headroom."""
    known = [r for r in rungs if r.headroom_db is not None]
    return min(known, key=lambda r: r.headroom_db or 0.0, default=None)


def _at(levels: PortLevels, place: Place, sound: str) -> Rung:
    show = levels.show
    owner, _, name = place[0].partition("/")
    if owner == "sound":
        label = show.sound(name).name
    elif owner == "listener":
        label = show.listener(name).name
    else:
        label = show.port_label(place[0])
    return Rung(
        label, levels.unit(place), levels.level(place, sound), levels.together(place),
        levels.noise.get(place, SILENT), levels.clip(place), place,
    )  # fmt: skip
