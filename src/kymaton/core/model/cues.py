"""Cues: the parts of a show, and variants of a rig."""

from typing import Literal

from kymaton.core.model.device import Cable, Device, Value
from kymaton.core.model.record import ControlId, Finite, Id, NotNegative, PortId, Positive, Record


class HandAction(Record, frozen=True, kw_only=True):
    """Something done by hand at a cue, with who does it and how long that takes.

    To connect or disconnect a cable holds until another action undoes it. To move: a person or a device to `place`
    (who is in one place hears each other), or the end of an air cable to `distance_m`; that holds as well. To turn
    or to choose: the cue's own value of the control `target` is what acts. To renew: the battery of a device.
    """

    kind: Literal["connect", "disconnect", "move", "turn", "choose", "renew"]
    target: str
    place: Id | None = None
    distance_m: Positive | None = None
    note: str = ""
    person: Id | None = None
    seconds: NotNegative = 0.0

    @property
    def names_control(self) -> bool:
        """Whether the target is a control of the show by its id; else it is what a person wrote."""
        return self.kind in ("turn", "choose") and "/" in self.target


Sounding = Literal["sounds", "may sound", "silent"]


class Cue(Record, frozen=True, kw_only=True):
    """A part of the show: what is on air, which controls differ from the base state, what sounds.

    Controls that a hand action names stay as they are set in the cues behind, until one of these sets them anew or
    recalls a scene of their device (`recalls`: ids of devices); the others go back. `sounding` tells of sounds whether
    they sound in this cue; of what it leaves out that is not known. `change_s` is the time there is for what has to be
    done by hand at its beginning. `before_air` says that nobody outside is to hear the talk yet; a note that says so
    counts as well.
    """

    id: Id
    name: str
    note: str = ""
    minutes: NotNegative = 0.0
    on_air: PortId | None = None
    controls: dict[ControlId, Value] = {}
    recalls: tuple[Id, ...] = ()
    sounding: dict[Id, Sounding] = {}
    hand_actions: tuple[HandAction, ...] = ()
    change_s: NotNegative = 15.0
    before_air: bool = False

    @property
    def is_before_air(self) -> bool:
        """Whether nobody outside is to hear the talk yet, by the tick or by the note."""
        return self.before_air or "before air" in self.note.lower()

    @property
    def by_hand(self) -> frozenset[str]:
        """Controls that are set by hand here."""
        return frozenset(a.target for a in self.hand_actions if a.names_control)


class Variant(Record, frozen=True, kw_only=True):
    """A named difference of the rig: other settings, in all cues or in one; leads that are out; devices that are not
    there (`without`), and devices and leads that are there in this variant alone.
    """

    id: Id
    name: str
    controls: dict[ControlId, Value] = {}
    in_cues: dict[Id, dict[ControlId, Value]] = {}
    unplugged: tuple[Id, ...] = ()
    without: tuple[Id, ...] = ()
    devices: tuple[Device, ...] = ()
    cables: tuple[Cable, ...] = ()


class Measurement(Record, frozen=True, kw_only=True):
    """A lead that was measured on a recording, and what it was taken for."""

    id: Id
    date: str
    file: str = ""
    destination: Id
    source: PortId
    cue: Id | None = None
    lead_ms: Finite
    plus_minus_ms: NotNegative = 0.0
    drift_ppm: Finite = 0.0
    confidence: Literal["high", "medium", "low"] = "high"
    predicted_ms: Finite | None = None
    note: str = ""


class Alternative(Record, frozen=True, kw_only=True):
    """Another way to solve something: patch lines that turn the rig into that way, kept beside it."""

    id: Id
    name: str
    lines: tuple[str, ...] = ()
