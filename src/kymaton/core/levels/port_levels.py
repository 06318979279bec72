"""The level of every sound at every socket of a cue, its noise, and what the socket takes.

The hearing solution is asked for all sockets instead of the listeners alone: the same rules hold. What comes of one
sound at the same time adds as pressures, at different times by power; different sounds add by power. Peaks of one sound
may meet, so they add as pressures. A peak is told as the level of the sine that has it: so it can be held against what
a socket takes, which is told of sines (AES17: a full-scale sine is 0 dBFS).
"""

import math
from collections.abc import Iterable, Mapping
from functools import cached_property
from typing import NamedTuple

import numpy as np
from msgspec import Struct
from msgspec.structs import replace

from kymaton.core.levels.noise import noise_levels
from kymaton.core.levels.peaks import peak_gains
from kymaton.core.model import Port, Show
from kymaton.core.model.people import Unit
from kymaton.core.signal.cue_solution import CueSolution
from kymaton.core.signal.hearing import Hearing, solve
from kymaton.core.units import DIGITAL, SILENT, unit_of

Place = tuple[str, int]  # socket, channel


class Level(NamedTuple):
    """Typical level and peak, in dB in the unit of the socket; −∞ where nothing comes."""

    typical: float
    peak: float


NOTHING = Level(SILENT, SILENT)
NOTHING_DB = -200.0
SPOKEN = ("voice", "talkback", "phone")


def power_sum(levels: Iterable[float]) -> float:
    """Levels of sounds that have nothing in common, together."""
    heard = [x for x in levels if x > SILENT]
    return 10.0 * math.log10(sum(10.0 ** (x / 10.0) for x in heard)) if heard else SILENT


def clip_of(port: Port) -> float | None:
    """The level of a sine that a socket takes or gives at most; digital ones end at full scale. None: not known."""
    if port.maximum_level is not None:
        return port.maximum_level
    return 0.0 if port.signal in DIGITAL else None


class PortLevels(Struct, dict=True):
    """Levels of one cue. Places are (socket, channel); sockets of sounds and listeners are among them."""

    view: CueSolution

    @property
    def show(self) -> Show:
        """The show that it is about."""
        return self.view.show

    @cached_property
    def _hearing(self) -> Hearing:
        graph = self.view.graph
        ears = [(key, 1) for key in self._keys]
        return solve(replace(graph, ears=ears, ear_node=np.arange(len(ears))), self.view.state)

    @cached_property
    def by_place(self) -> dict[Place, dict[str, Level]]:
        """The levels of all sounds at each place where one comes."""
        sounds = {s.id: s for s in self.show.sounds}
        places = dict(zip(self._keys, self.view.graph.nodes, strict=True))
        found: dict[Place, dict[str, Level]] = {}
        for (key, sound), gain_db in self._hearing.gains_db.items():
            made, place = sounds[sound], places[key]
            typical = made.level + gain_db
            peak = self.peaks.get(place, {}).get(sound, SILENT)
            found.setdefault(place, {})[sound] = Level(typical, max(peak, typical + made.peak_over_typical_db))
        return found

    @cached_property
    def peaks(self) -> dict[Place, dict[str, float]]:
        """The peak of every sound at each place where one comes, all its arrivals together."""
        graph = self.view.graph
        made = {s.id: s.level + s.peak_over_typical_db for s in self.show.sounds}
        amplitude = peak_gains(graph, self.view.state)
        names = list(dict.fromkeys(sound for sound, _ in graph.signals))
        of_sound = np.zeros((len(graph.signals), len(names)))
        for number, (sound, _) in enumerate(graph.signals):
            of_sound[number, names.index(sound)] = 1.0
        with np.errstate(divide="ignore"):
            levels = 20.0 * np.log10(amplitude @ of_sound) + np.array([made[n] for n in names])
        nodes, columns = np.nonzero(levels > NOTHING_DB)
        found: dict[Place, dict[str, float]] = {}
        for node, column, level in zip(nodes.tolist(), columns.tolist(), levels[nodes, columns].tolist(), strict=True):
            found.setdefault(graph.nodes[node], {})[names[column]] = level
        return found

    @cached_property
    def _keys(self) -> list[str]:
        return [_key(place) for place in self.view.graph.nodes]

    @cached_property
    def noise(self) -> dict[Place, float]:
        """The noise at each place, in dB; −∞ where there is none."""
        graph = self.view.graph
        return dict(zip(graph.nodes, noise_levels(self.show, graph, self.view.state).tolist(), strict=True))

    def ears(self, listener: str) -> list[int]:
        """The channels of a listener."""
        return [channel for who, channel in self.view.graph.ears if who == listener]

    def level(self, place: Place, sound: str) -> Level:
        """The level of a sound at a place."""
        return self.by_place.get(place, {}).get(sound, NOTHING)

    def together(self, place: Place) -> Level:
        """All sounds at a place."""
        return self.sum_of(self.by_place.get(place, {}))

    def top_of(self, peaks: Mapping[str, float]) -> float:
        """The peak of several sounds together, as in `sum_of`."""
        spoken = [x for s, x in peaks.items() if s in self._spoken]
        return power_sum([max(spoken, default=SILENT), *(x for s, x in peaks.items() if s not in self._spoken)])

    @cached_property
    def _spoken(self) -> frozenset[str]:
        return frozenset(s.id for s in self.show.sounds if s.kind in SPOKEN)

    def sum_of(self, levels: Mapping[str, Level]) -> Level:
        """Several sounds together, by power: people speak in turn, so of what is spoken the loudest counts."""
        played = [x for s, x in levels.items() if s not in self._spoken]
        turn = [x for s, x in levels.items() if s in self._spoken] or [NOTHING]
        return Level(
            power_sum([max(x.typical for x in turn), *(x.typical for x in played)]),
            power_sum([max(x.peak for x in turn), *(x.peak for x in played)]),
        )

    def unit(self, place: Place) -> Unit:
        """The unit in which levels are told there."""
        owner, _, name = place[0].partition("/")
        if owner == "sound":
            return self.show.sound(name).unit
        if owner == "listener":
            return self.show.listener(name).unit
        return unit_of(self.show.port(place[0]).signal)

    def clip(self, place: Place) -> float | None:
        """What the place takes at most; None where that is not known."""
        return clip_of(self.show.port(place[0])) if place[0] in self.show.ports else None


def _key(place: Place) -> str:
    return f"{place[0]}#{place[1]}"
