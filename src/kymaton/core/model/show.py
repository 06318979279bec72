"""The Show: everything a show file holds, with its names resolved and its references checked."""

from collections.abc import Iterator
from functools import cached_property
from typing import Annotated, Any, Literal, Self, TypeVar

from msgspec import Meta

from kymaton.core.errors import ShowError
from kymaton.core.model.contradictions import contradictions, value_problem
from kymaton.core.model.cues import Alternative, Cue, Measurement, Sounding, Variant
from kymaton.core.model.device import Cable, Control, ControlWay, Device, Port, Value
from kymaton.core.model.figure import Figure
from kymaton.core.model.loads import Meeting, Run, Stock, Supply, Tick
from kymaton.core.model.people import Listener, Person, Place, Sound
from kymaton.core.model.policy import PolicyName, default_want
from kymaton.core.model.record import ControlId, Finite, Id, NotNegative, PortId, Positive, Record
from kymaton.core.model.tolerance import SyncWindow
from kymaton.core.model.wish import PictureWish, Want, Wish


class Picture(Record, frozen=True, kw_only=True):
    """Picture format; the frame rate is an exact fraction, written like 25/1 or 30000/1001."""

    width: Annotated[int, Meta(gt=0)] = 1920
    height: Annotated[int, Meta(gt=0)] = 1080
    rate: Annotated[str, Meta(pattern=r"^[1-9][0-9]*/[1-9][0-9]*$")] = "25/1"


class MicrophoneGroup(Record, frozen=True, kw_only=True):
    """Microphones meant to hear the same thing: their several arrivals are a matter of phase, not doubling."""

    id: Id
    name: str
    devices: tuple[Id, ...]


class Goals(Record, frozen=True, kw_only=True):
    """What the show wants to reach. `sync_window` bounds how early or late sound may be against picture.

    `second_uplink_bit_per_s` stands by for the first, and takes over after `fail_over_s`.
    """

    sync_window: SyncWindow = "R 37"
    loudness_lufs: Finite = -16.0
    true_peak_dbtp: Finite = -1.0
    uplink_bit_per_s: Positive | None = None
    second_uplink_bit_per_s: Positive | None = None
    fail_over_s: NotNegative = 10.0


class Checked(Record, frozen=True, kw_only=True):
    """That an input was looked at in the soundcheck: by its gain, the peak that its meter showed, and when."""

    control: ControlId
    peak: Finite | None = None
    date: str = ""


class Show(Record, frozen=True, kw_only=True, dict=True):
    """A self-contained show. Use the lookups; they raise KeyError for an id that does not exist.

    `longest_run_m` says by kind of lead how long a run may be where this team believes in another limit.
    """

    format: Literal["kymaton-show"] = "kymaton-show"
    version: Literal[1] = 1
    title: str = "Untitled show"
    venue: str = ""
    date: str = ""
    notes: str = ""
    sample_rate_hz: Annotated[int, Meta(ge=8000, le=384000)] = 48000
    picture: Picture = Picture()
    goals: Goals = Goals()
    people: tuple[Person, ...] = ()
    places: tuple[Place, ...] = ()
    sounds: tuple[Sound, ...] = ()
    listeners: tuple[Listener, ...] = ()
    devices: tuple[Device, ...] = ()
    cables: tuple[Cable, ...] = ()
    microphone_groups: tuple[MicrophoneGroup, ...] = ()
    control_ways: tuple[ControlWay, ...] = ()
    cues: tuple[Cue, ...] = ()
    variants: tuple[Variant, ...] = ()
    alternatives: tuple[Alternative, ...] = ()
    measurements: tuple[Measurement, ...] = ()
    longest_run_m: dict[str, Positive] = {}
    policy: PolicyName = "talk"
    plan: tuple[Wish, ...] = ()
    picture_plan: tuple[PictureWish, ...] = ()
    soundcheck: tuple[Checked, ...] = ()
    supplies: tuple[Supply, ...] = ()
    runs: tuple[Run, ...] = ()
    stock: tuple[Stock, ...] = ()
    meetings: tuple[Meeting, ...] = ()
    ticks: tuple[Tick, ...] = ()

    @classmethod
    def checked(cls, **fields: object) -> Self:
        """A show of fields that are looked at first, and that do not contradict each other. Raises ShowError."""
        return validated(super().checked(**fields))

    # lookups

    @cached_property
    def _by_id(self) -> dict[str, dict[str, Any]]:
        return {
            name: {item.id: item for item in getattr(self, name)}
            for name in (
                "people",
                "places",
                "sounds",
                "listeners",
                "devices",
                "cables",
                "cues",
                "variants",
                "alternatives",
            )
        }

    @cached_property
    def _ports(self) -> dict[str, tuple[Device, Port]]:
        return {f"{d.id}/{p.id}": (d, p) for d in self.devices for p in d.ports}

    @cached_property
    def _controls(self) -> dict[str, Control]:
        return {c.id: c for d in self.devices for c in d.controls}

    @cached_property
    def cables_to(self) -> dict[str, list[Cable]]:
        """The cables that end at each port, sound or listener."""
        found: dict[str, list[Cable]] = {}
        for cable in self.cables:
            found.setdefault(cable.target, []).append(cable)
        return found

    @cached_property
    def _wishes(self) -> dict[tuple[str, str, str | None], Wish]:
        table: dict[tuple[str, str, str | None], Wish] = {}
        for wish in self.plan:
            for cue in wish.cues or (None,):
                table[wish.listener, wish.sound, cue] = wish
        return table

    @cached_property
    def _decided(self) -> set[tuple[str, str]]:
        """Listeners and sounds that the plan has a line for, in some cue at least."""
        return {(w.listener, w.sound) for w in self.plan}

    @cached_property
    def _defaults(self) -> dict[tuple[str, str, bool], Want]:
        return {}

    @cached_property
    def _guests(self) -> frozenset[str]:
        """People who are far away and heard over a call."""
        return frozenset(x.person for x in self.listeners if x.kind == "guest" and x.person is not None)

    @cached_property
    def _before_air(self) -> frozenset[str]:
        return frozenset(c.id for c in self.cues if c.is_before_air)

    def sound(self, id: str) -> Sound:
        """The sound with this id. Raises KeyError."""
        found: Sound = self._by_id["sounds"][id]
        return found

    def listener(self, id: str) -> Listener:
        """The listener with this id. Raises KeyError."""
        found: Listener = self._by_id["listeners"][id]
        return found

    def device(self, id: str) -> Device:
        """The device with this id. Raises KeyError."""
        found: Device = self._by_id["devices"][id]
        return found

    def cue(self, id: str) -> Cue:
        """The cue with this id. Raises KeyError."""
        found: Cue = self._by_id["cues"][id]
        return found

    def cable(self, id: str) -> Cable:
        """The cable with this id. Raises KeyError."""
        found: Cable = self._by_id["cables"][id]
        return found

    def control(self, id: str) -> Control:
        """The control with this id. Raises KeyError."""
        return self._controls[id]

    def controls(self) -> Iterator[Control]:
        """All controls, device by device."""
        return iter(self._controls.values())

    @property
    def ports(self) -> dict[str, tuple[Device, Port]]:
        """All ports of devices by their id, each with its device."""
        return self._ports

    def port(self, id: str) -> Port:
        """The port with this id (`device/port`). Raises KeyError."""
        return self._ports[id][1]

    def place_of(self, id: str | None) -> Place | None:
        """The place with this id; None for None. Raises KeyError."""
        return None if id is None else self._by_id["places"][id]

    def port_label(self, port_id: str) -> str:
        """A port as people say it: `desk 9`, `switcher HDMI 2`, or the name of a sound or listener."""
        owner, _, name = port_id.partition("/")
        if owner == "sound":
            return self.sound(name).name
        if owner == "listener":
            return self.listener(name).name
        device, port = self._ports[port_id]
        return f"{device.name} {port.name}".strip()

    def value(self, control_id: str, cue_id: str | None) -> Value:
        """The value of a control in a cue: as it is set there or was left by a hand, or else the base state."""
        if cue_id is not None:
            set_there = self.settings(cue_id)
            if control_id in set_there:
                return set_there[control_id]
        return self.control(control_id).value

    def settings(self, cue_id: str) -> dict[str, Value]:
        """Controls that are not as in the base state in a cue: its own settings, and what a hand has left before it."""
        return self._settings[cue_id]

    def left_by_hand(self, cue_id: str) -> dict[str, str]:
        """Controls that a hand has set before a cue and nobody has set back, with the cue in which it was."""
        return self._left_by_hand[cue_id]

    @cached_property
    def _left_by_hand(self) -> dict[str, dict[str, str]]:
        found: dict[str, dict[str, str]] = {}
        standing: dict[str, str] = {}
        for cue in self.cues:
            standing = {
                control: where
                for control, where in standing.items()
                if control not in cue.controls and control.partition("/")[0] not in cue.recalls
            }
            found[cue.id] = standing
            standing = standing | {c: cue.id for c in cue.by_hand if c in cue.controls}
        return found

    @cached_property
    def _settings(self) -> dict[str, dict[str, Value]]:
        return {
            cue.id: {**{c: self.cue(at).controls[c] for c, at in self._left_by_hand[cue.id].items()}, **cue.controls}
            if self._left_by_hand[cue.id]
            else cue.controls
            for cue in self.cues
        }

    def sounding(self, sound: str, cue_id: str | None) -> Sounding | None:
        """Whether a sound sounds in a cue; None where nobody has said."""
        return None if cue_id is None else self.cue(cue_id).sounding.get(sound)

    def wish(self, listener: str, sound: str, cue: str | None) -> Wish | None:
        """The line of the plan that holds: the one for this cue, or else the one for all cues; None by default."""
        return self._wishes.get((listener, sound, cue)) or self._wishes.get((listener, sound, None))

    def want(self, listener: str, sound: str, cue: str | None) -> Want:
        """What is wished: the line of the plan that holds, or else the default of the show's policy."""
        wish = self.wish(listener, sound, cue)
        if wish is not None:
            return wish.want
        key = (listener, sound, cue in self._before_air)
        if key not in self._defaults:
            guests = self._guests
            want = default_want(self.policy, self.listener(listener), self.sound(sound), guests, key[2])
            decided = want is Want.MUST and (listener, sound) in self._decided
            self._defaults[key] = Want.ANY if decided else want
        return self._defaults[key]

    def is_guest(self, sound: Sound) -> bool:
        """Whether somebody far away makes a sound."""
        return sound.person in self._guests


S = TypeVar("S", bound=Show)


def validated(show: S) -> S:
    """The show itself when nothing in it contradicts itself; raises ShowError."""
    for problem in contradictions(show):
        raise ShowError(problem)
    return show


__all__ = ["Figure", "Goals", "MicrophoneGroup", "Picture", "PortId", "Show", "ShowError", "value_problem"]
