"""Figures that know where they come from."""

from typing import Annotated, Any, Literal

from pydantic import BaseModel, ConfigDict, Field, FiniteFloat, model_validator

Id = Annotated[str, Field(pattern=r"^[a-z0-9][a-z0-9-]*$", max_length=80)]
PortId = Annotated[str, Field(pattern=r"^[a-z0-9][a-z0-9-]*/[a-z0-9][a-z0-9-]*$", max_length=160)]
ControlId = Annotated[str, Field(pattern=r"^[a-z0-9][a-z0-9-]*(/[a-z0-9][a-z0-9-]*)+$", max_length=240)]


class Record(BaseModel):
    """A frozen value object. Keys it does not know are kept, so that a newer file survives a round trip."""

    model_config = ConfigDict(frozen=True, extra="allow", regex_engine="python-re", defer_build=True)


class Figure(Record):
    """A number with its uncertainty (± in the same unit) and its source.

    A plain number in a file is read as an assumed figure without uncertainty.
    """

    value: FiniteFloat
    plus_minus: Annotated[FiniteFloat, Field(ge=0)] = 0.0
    source: Literal["assumed", "stated", "measured"] = "assumed"
    date: str = ""

    @model_validator(mode="before")
    @classmethod
    def _accept_plain_number(cls, data: Any) -> Any:
        if isinstance(data, int | float) and not isinstance(data, bool):
            return {"value": data}
        return data


ZERO = Figure(value=0.0)
