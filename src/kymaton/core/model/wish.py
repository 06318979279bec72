"""The hearing plan: who must hear what, and who must not."""

from enum import StrEnum
from typing import Annotated

from pydantic import Field, FiniteFloat

from kymaton.core.model.figure import Id, PortId, Record


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
