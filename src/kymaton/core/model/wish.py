"""The hearing plan: who must hear what, and who must not."""

from enum import StrEnum
from typing import Annotated

from pydantic import Field, FiniteFloat

from kymaton.core.model.figure import Id, PortId, Record
from kymaton.core.model.people import Listener, Sound


class Want(StrEnum):
    MUST = "must"
    MUST_NOT = "must-not"
    ANY = "dont-mind"


class Wish(Record):
    """One line of the hearing plan; no `cues` means all of them. `max_delay_ms` bounds how late it may arrive."""

    listener: Id
    sound: Id
    want: Want
    cues: tuple[Id, ...] = ()
    max_delay_ms: Annotated[FiniteFloat, Field(gt=0)] | None = None


class PictureWish(Record):
    """A picture (the output that gives it) that a watcher must or must not see; no `cues` means all of them."""

    watcher: Id
    picture: PortId
    want: Want
    cues: tuple[Id, ...] = ()


def default_want(listener: Listener, sound: Sound) -> Want:
    """What everyone would expect where the plan says nothing.

    Guests never hear themselves; a click never reaches audience, recorder, guests or room; a private sound never
    reaches the audience or the recorder.
    """
    if sound.private and listener.kind in ("audience", "recorder"):
        return Want.MUST_NOT
    if sound.kind == "click" and listener.kind in ("audience", "recorder", "guest", "room"):
        return Want.MUST_NOT
    if listener.kind == "guest" and listener.person is not None and listener.person == sound.person:
        return Want.MUST_NOT
    return Want.ANY
