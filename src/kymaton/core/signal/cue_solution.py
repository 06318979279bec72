"""One cue of a show as it is heard: the solved graph, with the questions that checks and views ask of it."""

from collections.abc import Iterator
from functools import cached_property

import numpy as np
from msgspec import Struct

from kymaton.core.model import Cue, Listener, Show, Sound, Want
from kymaton.core.signal.graph import EdgeState, SignalGraph, flatten, state
from kymaton.core.signal.hearing import Arrival, Hearing, solve
from kymaton.core.signal.loops import Loop, find_loops
from kymaton.core.signal.trace import Path, Tracer
from kymaton.core.units import SILENT

HEARD_DB = -20.0  # must hear: within this of the loudest
MISSING_DB = -30.0  # must hear: below this it is missing
LEAK_DB = -50.0  # must not hear
PRIVATE_DB = -80.0  # private sounds
OWN_VOICE_AT_EAR_DB = 15.4  # mouth to ear 0.17 m, free field, relative to 1 m
INSTRUMENT_AT_EAR_DB = 6.0  # an instrument at 0.5 m


class Burst(Struct, frozen=True):
    """All arrivals with one delay, over both ears: the strongest stands for them."""

    delay_us: int
    gain_db: float
    polarity: int
    sound_channel: int

    @property
    def delay_ms(self) -> float:
        """When it arrives, in ms after it is made."""
        return self.delay_us / 1000.0


class CuePlan:
    """What is wished in a cue, looked up once; it stands whatever the controls do."""

    def __init__(self, show: Show, cue_id: str | None) -> None:
        self.wants: dict[tuple[str, str], Want] = {
            (x.id, s.id): show.want(x.id, s.id, cue_id) for x in show.listeners for s in show.sounds
        }
        self.must_hear: dict[str, list[Listener]] = {
            s.id: [x for x in show.listeners if self.wants[x.id, s.id] is Want.MUST] for s in show.sounds
        }


class CueSolution:
    """A cue (or the base state, None) solved once; everything else is looked up or worked out on demand.

    `never_heard` are sounds that in no cue reach anybody who must hear them; it is known once all cues are solved.
    """

    def __init__(self, show: Show, cue_id: str | None, graph: SignalGraph | None = None):
        self.never_heard: frozenset[str] = frozenset()
        self.show = show
        self.cue: Cue | None = None if cue_id is None else show.cue(cue_id)
        self.graph = graph if graph is not None else flatten(show)
        self.state: EdgeState = state(self.graph, show, cue_id)
        self.memo: dict[str, object] = {}  # what others worked out about this cue
        self._traces: dict[tuple[str, str], list[Path]] = {}
        self._strongest: dict[tuple[str, str], Path | None] = {}

    @cached_property
    def plan(self) -> CuePlan:
        """What is wished in this cue."""
        return CuePlan(self.show, self.cue_id)

    @property
    def cue_id(self) -> str | None:
        """The id of the cue; None for the base state."""
        return None if self.cue is None else self.cue.id

    @cached_property
    def hearing(self) -> Hearing:
        """All arrivals of this cue, solved once."""
        return solve(self.graph, self.state)

    @cached_property
    def without_cancellers(self) -> Hearing:
        """The same cue if every echo canceller failed."""
        return solve(self.graph, EdgeState(self.state.gain_db, self.state.delay_us, ()))

    @cached_property
    def loops(self) -> list[Loop]:
        """The loops of this cue."""
        return find_loops(self.hearing)

    def pairs(self) -> Iterator[tuple[Listener, Sound]]:
        """Every listener with every sound."""
        for listener in self.show.listeners:
            for sound in self.show.sounds:
                yield listener, sound

    @cached_property
    def arriving(self) -> list[tuple[Listener, Sound]]:
        """Those of the pairs where anything arrives."""
        return [pair for pair in self.pairs() if (pair[0].id, pair[1].id) in self._levels]

    @cached_property
    def direct_us(self) -> dict[tuple[str, str], set[int]]:
        """Delays of what comes to a listener straight from a sound, through no device."""
        graph, state = self.graph, self.state
        sound_at = {int(n): s for (s, _), n in zip(graph.signals, graph.signal_node, strict=True)}
        listener_at = {int(n): x for (x, _), n in zip(graph.ears, graph.ear_node, strict=True)}
        found: dict[tuple[str, str], set[int]] = {}
        for edge in np.flatnonzero(state.gain_db > SILENT).tolist():
            sound, listener = sound_at.get(int(graph.src[edge])), listener_at.get(int(graph.dst[edge]))
            if sound is not None and listener is not None:
                found.setdefault((listener, sound), set()).add(int(state.delay_us[edge]))
        return found

    def want(self, listener: Listener, sound: Sound) -> Want:
        """What is wished here."""
        return self.plan.wants[listener.id, sound.id]

    def level(self, listener: Listener, sound: Sound) -> float:
        """Level of a sound at a listener, both in the listener's unit; −∞ when it does not arrive."""
        return self._levels.get((listener.id, sound.id), SILENT)

    @cached_property
    def _levels(self) -> dict[tuple[str, str], float]:
        level = {sound.id: sound.level for sound in self.show.sounds}
        return {pair: level[pair[1]] + gain for pair, gain in self.hearing.gains_db.items()}

    def loudest(self, listener: Listener) -> float:
        """Level of the loudest sound at a listener, its floor at least."""
        return self._loudest[listener.id]

    @cached_property
    def _loudest(self) -> dict[str, float]:
        found = {listener.id: listener.floor for listener in self.show.listeners}
        for (listener, _), level in self._levels.items():
            found[listener] = max(found[listener], level)
        return found

    def relative(self, listener: Listener, sound: Sound) -> float:
        """Level relative to the loudest sound there; −∞ when nothing arrives."""
        return self.level(listener, sound) - self.loudest(listener)

    def audible(self, listener: Listener, sound: Sound, limit_db: float) -> bool:
        """Above a limit relative to the loudest sound there, and above the floor of the listener's chain."""
        level = self._levels.get((listener.id, sound.id))
        return level is not None and level > listener.floor and level - self.loudest(listener) > limit_db

    def is_own(self, listener: Listener, sound: Sound) -> bool:
        """Whether the listener is the one who makes the sound."""
        same = listener.person is not None and listener.person == sound.person
        return same and sound.kind in ("voice", "talkback", "instrument")

    def direct_level(self, sound: Sound) -> float:
        """Level in dB SPL at which a person hears the own sound without any gear."""
        return sound.level + (INSTRUMENT_AT_EAR_DB if sound.kind == "instrument" else OWN_VOICE_AT_EAR_DB)

    def bursts(self, listener: Listener, sound: Sound, hearing: Hearing | None = None) -> list[Burst]:
        """Arrivals grouped by their exact delay and channel of the sound, earliest first."""
        grouped: dict[tuple[int, int], Arrival] = {}
        for arrival in (hearing or self.hearing).arrivals(listener.id, sound.id):
            key = (arrival.sound_channel, arrival.delay_us)
            if key not in grouped or arrival.gain_db > grouped[key].gain_db:
                grouped[key] = arrival
        return [Burst(a.delay_us, a.gain_db, a.polarity, a.sound_channel) for a in grouped.values()]

    def plus_minus_ms(self, listener: str, sound: str, delay_us: int) -> float:
        """± of what arrives with this delay: of its strongest route, where figures that are met twice add up.

        The hearing solution itself carries ± as if every figure were met once; that is the answer for what no route is
        listed for (late turns of a loop).
        """
        strongest = self.strongest_path(listener, sound)
        if strongest is not None and strongest.delay_us == delay_us:
            return strongest.plus_minus_ms
        for path in self.paths(listener, sound):
            if path.delay_us == delay_us:
                return path.plus_minus_ms
        carried = (a.plus_minus_ms for a in self.hearing.arrivals(listener, sound) if a.delay_us == delay_us)
        return max(carried, default=0.0)

    @cached_property
    def _tracer(self) -> Tracer:
        return Tracer(self.graph, self.state)

    def strongest_path(self, listener: str, sound: str) -> Path | None:
        """The strongest route from a sound to a listener; None where there is none, or none is listed."""
        key = (listener, sound)
        if key in self._traces:
            return next(iter(self._traces[key]), None)
        if key not in self._strongest:
            self._strongest[key] = self._tracer.strongest(listener, sound)
        return self._strongest[key]

    def paths(self, listener: str, sound: str) -> list[Path]:
        """All routes from a sound to a listener, strongest first."""
        key = (listener, sound)
        if key not in self._traces:
            self._traces[key] = self._tracer.paths(listener, sound)
        return self._traces[key]
