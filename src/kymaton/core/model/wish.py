"""The hearing plan: who must hear what, and who must not."""

from enum import StrEnum

from kymaton.core.model.record import Id, PortId, Positive, Record


class Want(StrEnum):
    """What is wished of a sound or a picture."""

    MUST = "must"
    MUST_NOT = "must-not"
    ANY = "dont-mind"


class Wish(Record, frozen=True, kw_only=True):
    """One line of the hearing plan; no `cues` means all of them. `max_delay_ms` bounds how late it may arrive."""

    listener: Id
    sound: Id
    want: Want
    cues: tuple[Id, ...] = ()
    max_delay_ms: Positive | None = None


class PictureWish(Record, frozen=True, kw_only=True):
    """A picture (the output that gives it) that a watcher must or must not see; no `cues` means all of them."""

    watcher: Id
    picture: PortId
    want: Want
    cues: tuple[Id, ...] = ()
