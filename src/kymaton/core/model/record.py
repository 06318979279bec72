"""The kind of value object that a show is made of, and the types of its fields with their bounds."""

import re
from typing import Annotated, Any, Self, TypeVar

import msgspec
from msgspec import Meta

from kymaton.core.errors import ShowError

HELD_ASIDE = "\ue000"  # a key of no meaning, which readers of files refuse
MOST = 1e9  # of any number: shuts out infinity and what is no number (NaN), and what no sum can be trusted with

Id = Annotated[str, Meta(pattern=r"^[a-z0-9][a-z0-9-]*$", max_length=80)]
PortId = Annotated[str, Meta(pattern=r"^[a-z0-9][a-z0-9-]*/[a-z0-9][a-z0-9-]*$", max_length=160)]
ControlId = Annotated[str, Meta(pattern=r"^[a-z0-9][a-z0-9-]*(/[a-z0-9][a-z0-9-]*)+$", max_length=240)]
Finite = Annotated[float, Meta(ge=-MOST, le=MOST)]
NotNegative = Annotated[float, Meta(ge=0, le=MOST)]
Positive = Annotated[float, Meta(gt=0, le=MOST)]
Channel = Annotated[int, Meta(ge=1)]


class Record(msgspec.Struct, frozen=True, kw_only=True, forbid_unknown_fields=True):
    """A frozen value object. A call of the class takes fields as they are; `checked` is for what comes from outside.

    `unknown` holds the keys that a file has beside the fields, as JSON, so that a newer file survives a round trip.
    """

    unknown: str = msgspec.field(default="", name=HELD_ASIDE)

    @classmethod
    def checked(cls, **fields: object) -> Self:
        """A record of fields whose types and bounds are looked at first. Raises ShowError with place and reason."""
        return checked(cls, fields)

    def evolve(self, **fields: Any) -> Self:
        """A copy with other fields, taken as they are."""
        return msgspec.structs.replace(self, **fields)

    def fields(self) -> dict[str, Any]:
        """The fields as `checked` takes them."""
        return {HELD_ASIDE if name == "unknown" else name: getattr(self, name) for name in self.__struct_fields__}


class Misfit(ShowError):
    """A field that does not take what it was given. `place` is the way to it, like `sounds[3].level`."""

    def __init__(self, place: str, reason: str) -> None:
        super().__init__(f"{place}: {reason}" if place else reason)
        self.place, self.reason = place, reason


R = TypeVar("R", bound=Record)


def checked(kind: type[R], content: object) -> R:
    """Plain values as a record. Raises Misfit for the first field whose type or bounds do not fit."""
    try:
        return msgspec.convert(content, kind)
    except msgspec.ValidationError as error:
        said, _, place = str(error).partition(" - at `$")
        raise Misfit(place.rstrip("`").removeprefix("."), _reason(said)) from None


NAMES = {
    "float": "a number",
    "int": "a whole number",
    "str": "text",
    "bool": "true or false",
    "object": "a group of keys",
    "array": "a list",
    "null": "nothing",
}


def _reason(said: str) -> str:
    """The library's reason in plain words."""
    if wrong := re.fullmatch(r"Expected `(.+?)`, got `(.+?)`", said):
        wanted = [NAMES.get(name, name) for name in wrong[1].split(" | ") if name != "null"]
        return f"{' or '.join(wanted)} is needed, not {NAMES.get(wrong[2], wrong[2])}"
    if strange := re.fullmatch(r"Object contains unknown field `(.+?)`", said):
        return f"'{strange[1]}' is not known here"
    if missing := re.fullmatch(r"Object missing required field `(.+?)`", said):
        return f"'{missing[1]}' is missing"
    if choice := re.fullmatch(r"Invalid enum value (.+)", said):
        return f"{choice[1]} is none of the words or numbers that are known here"
    if "regex" in said:
        return "it is not written as it must be (small letters, digits and hyphens for an id)"
    if bound := re.fullmatch(r"Expected `(.+?)` (>=|<=|>|<) (\S+)", said):
        if abs(float(bound[3])) == MOST:
            return "the number is too large"
        way = {">=": "at least", "<=": "at most", ">": "more than", "<": "less than"}[bound[2]]
        return f"it must be {way} {float(bound[3]):g}"
    if length := re.fullmatch(r"Expected `(\w+)` of length (<= )?(\d+).*", said):
        return f"{NAMES[length[1]]} of {'at most ' if length[2] else ''}{length[3]} is needed"
    return said[:1].lower() + said[1:]
