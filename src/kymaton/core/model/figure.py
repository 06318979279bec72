"""Figures that know where they come from."""

from typing import Literal

from kymaton.core.model.record import Finite, NotNegative, Record

SOURCES = ("assumed", "stated", "measured")  # the less sure ones first


class Figure(Record, frozen=True, kw_only=True):
    """A number with its uncertainty (± in the same unit) and its source.

    A plain number in a file is read as an assumed figure without uncertainty.
    """

    value: Finite
    plus_minus: NotNegative = 0.0
    source: Literal["assumed", "stated", "measured"] = "assumed"
    date: str = ""


ZERO = Figure(value=0.0)
