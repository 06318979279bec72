"""Verdicts of budgets: what is needed against what there is, with the ± of what is needed carried through."""

from typing import Literal

Fits = Literal["fits", "perhaps", "does not fit", "not known"]


def verdict(needed: float, plus_minus: float, allowed: float | None) -> Fits:
    """Whether something fits surely, perhaps or surely not; not known where nobody has said what there is."""
    if allowed is None:
        return "not known"
    if needed - plus_minus > allowed:
        return "does not fit"
    return "perhaps" if needed + plus_minus > allowed else "fits"


def worst(verdicts: list[Fits]) -> Fits:
    """The worst of several verdicts; of none, that it fits."""
    order: tuple[Fits, ...] = ("does not fit", "perhaps", "not known", "fits")
    return min(verdicts, key=order.index, default="fits")
