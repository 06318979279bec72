"""Who takes part: people, places, the sounds that are made and the listeners that hear them."""

from typing import Annotated, Literal

from msgspec import Meta

from kymaton.core.model.record import Finite, Id, Positive, Record

SoundKind = Literal["voice", "instrument", "playback", "alert", "click", "phone", "talkback", "room"]
ListenerKind = Literal["audience", "guest", "host", "performer", "operator", "room", "recorder"]
Unit = Literal["dB SPL", "dBu", "dBFS"]


class Person(Record, frozen=True, kw_only=True):
    """Somebody who takes part."""

    id: Id
    name: str
    role: str = ""


class Place(Record, frozen=True, kw_only=True):
    """Where people and devices are. With `air` estimated, what is in one place is heard there at `distance_m`.

    `apart_m` says how far it is to other places, said once for each two: then what sounds here is heard there as well.
    """

    id: Id
    name: str
    air: Literal["off", "estimated"] = "off"
    distance_m: Positive = 2.0
    apart_m: dict[Id, Positive] = {}


class Stem(Record, frozen=True, kw_only=True):
    """A recording that stands for a sound in an audition.

    `level_dbfs` is the RMS (AES17: a full-scale sine is 0 dBFS) that stands for the sound's typical level.
    """

    file: str
    level_dbfs: Finite = -23.0


class Sound(Record, frozen=True, kw_only=True):
    """What can be heard. `level` is the typical level in `unit`: dB SPL at 1 m for acoustic sounds.

    Where it is made is told by the cables that leave `sound/<id>`; there may be several. `width` says how far its two
    channels differ: 0 where both carry the same, 1 where they have nothing in common; None where that is not known.
    `level_source` says whether the level was taken at a soundcheck, and `level_date` when.
    """

    id: Id
    name: str
    kind: SoundKind
    person: Id | None = None
    place: Id | None = None
    level: Finite
    peak_over_typical_db: Finite = 15.0
    unit: Unit = "dB SPL"
    channels: Annotated[int, Meta(ge=1, le=2)] = 1
    width: Annotated[float, Meta(ge=0, le=1)] | None = None
    private: bool = False
    stem: Stem | None = None
    level_source: Literal["assumed", "measured"] = "assumed"
    level_date: str = ""

    @property
    def sides(self) -> str:
        """Whether it has two sides, as people say it: no, yes, or how far they differ in percent."""
        if self.channels == 1:
            return "no"
        return "yes" if self.width is None else f"{100.0 * self.width:g} %"


Feed = Literal["mix-minus", "full programme"]


class Listener(Record, frozen=True, kw_only=True):
    """Who or what hears. `floor_level` is the level below which nothing counts, in the listener's unit.

    `feed` is what somebody is to get who hears by a return: everything but themselves, or everything, with an echo
    canceller against the own voice.
    """

    id: Id
    name: str
    kind: ListenerKind
    detail: str = ""
    person: Id | None = None
    place: Id | None = None
    floor_level: Finite | None = None
    feed: Feed = "mix-minus"

    @property
    def unit(self) -> Unit:
        """dBFS for what is fed by a file or a stream, dB SPL for ears."""
        return "dBFS" if self.kind in ("audience", "recorder") else "dB SPL"

    @property
    def floor(self) -> float:
        """Level under which nothing is heard: 30 dB SPL in a quiet room, −70 dBFS in a stream (both assumed)."""
        if self.floor_level is not None:
            return self.floor_level
        return -70.0 if self.unit == "dBFS" else 30.0
