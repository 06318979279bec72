"""Mains: what hangs on each supply, against what a usual one gives. An estimate that decides nothing.

Power of devices is what they draw typically, ± as told. A usual circuit is 16 A at 230 V; a strip on a lead gives less.
Local codes and a licensed electrician decide.
"""

import math

from msgspec import Struct

from kymaton.core.model import Show
from kymaton.core.words import number

USUAL_W = 3680.0  # 16 A at 230 V
MARGIN = 0.8  # of it that is used for hours at most; usual
CAUTION = "Local codes and a licensed electrician decide."


class Supply(Struct, frozen=True):
    """What hangs on one supply (name as typed), in W; `unknown` are devices whose power nobody has said."""

    name: str
    devices: tuple[str, ...]
    watts: float
    plus_minus: float
    unknown: tuple[str, ...]

    @property
    def fits(self) -> bool:
        """Whether a usual circuit carries it with its margin, as far as is known."""
        return self.watts + self.plus_minus <= MARGIN * USUAL_W

    @property
    def sentence(self) -> str:
        """What is drawn, in words."""
        text = f"{number(self.watts)} ± {number(self.plus_minus)} W of {number(MARGIN * USUAL_W)} W"
        return text if not self.unknown else f"{text}, without {', '.join(self.unknown)}, whose power nobody has said"


def supplies_of(show: Show) -> list[Supply]:
    """Every supply that is named, in their order, with what hangs on it."""
    names = list(dict.fromkeys(d.mains for d in show.devices if d.mains))
    found = []
    for name in names:
        here = [d for d in show.devices if d.mains == name]
        known = [d.power_w for d in here if d.power_w is not None]
        found.append(
            Supply(
                name, tuple(d.name for d in here), sum(f.value for f in known),
                math.sqrt(sum(f.plus_minus**2 for f in known)), tuple(d.name for d in here if d.power_w is None),
            )
        )  # fmt: skip
    return found
