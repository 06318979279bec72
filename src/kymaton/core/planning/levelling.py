"""The worst as small as can be, then the next worst, and so on; then the least that is spent: exactly, in whole steps.

Rows say by how much each unknown moves them. The largest strain is made as small as can be, then the sum of the two
largest, of the three largest, and so on, each under those before; this is the same as to order them and to minimise
one after the other, whatever the set of settings is [1]. The sum of the k largest of s is the least over t of
k·t + Σ max(0, s − t), so each question is a mixed-integer programme, solved by branch and bound [2].

1. Ogryczak and Śliwiński, "On solving linear programs with the ordered weighted averaging objective", EJOR 148 (2003).
2. `scipy.optimize.milp`; Huangfu and Hall, Math. Prog. Comp. 10 (2018).
"""

from collections.abc import Sequence

import numpy as np
from msgspec import Struct

from kymaton.core.signal.graph import FloatArray
from kymaton.core.silence import silence

SAME = 1e-6  # by so much a sum may be larger when the next one is minimised
MOST_LEVELS = 12  # chosen: what comes behind the twelve worst is not ordered any more


class Row(Struct, frozen=True):
    """value + moves · x; `above` on the one side and `below` on the other are a strain of 1."""

    value: float
    moves: tuple[float, ...]
    above: float
    below: float

    def strain(self, steps: FloatArray) -> float:
        """How much of its room the row takes with these steps."""
        at = self.value + float(np.dot(self.moves, steps))
        return max(at / self.above, -at / self.below)


class Ceiling(Struct, frozen=True):
    """value + moves · x ≤ most."""

    value: float
    moves: tuple[float, ...]
    most: float


def level(
    rows: Sequence[Row], ceilings: Sequence[Ceiling], highest: Sequence[float], price: Sequence[float]
) -> FloatArray | None:
    """Whole steps x between 0 and `highest` that do it; None where the ceilings cannot be kept at all."""
    moved = [r for r in rows if any(m and h for m, h in zip(r.moves, highest, strict=True))]
    levels = min(len(moved), MOST_LEVELS)
    programme = _Programme(moved, ceilings, highest, levels)
    best = None
    for k in range(1, levels + 1):
        found = programme.solve(programme.sum_of_largest(k))
        if found is None:
            break
        best = found
        programme.hold(k, float(programme.sum_of_largest(k) @ found))
    last = programme.solve(programme.priced(price))
    best = last if last is not None else best
    return None if best is None else np.round(best[: len(highest)])


class _Programme:
    """Unknowns: the steps; a strain for each row; for each level k its t and how far each row is above it."""

    def __init__(self, rows: Sequence[Row], ceilings: Sequence[Ceiling], highest: Sequence[float], levels: int) -> None:
        self.steps, self.rows, self.levels = len(highest), len(rows), levels
        self.size = self.steps + self.rows + levels * (1 + self.rows)
        self.highest = np.asarray(highest, float)
        self.matrix: list[FloatArray] = []
        self.upper: list[float] = []
        for c in ceilings:
            self._rule(dict(enumerate(c.moves)), c.most - c.value)
        for n, row in enumerate(rows):  # its strain is at least what it is on either side
            for sign, room in ((1.0, row.above), (-1.0, row.below)):
                moves = {i: sign * m / room for i, m in enumerate(row.moves)}
                self._rule({**moves, self.steps + n: -1.0}, -sign * row.value / room)
        for k in range(1, levels + 1):
            for n in range(self.rows):  # and is above t by no more than is counted
                self._rule({self.steps + n: 1.0, self._t(k): -1.0, self._t(k) + 1 + n: -1.0}, 0.0)

    def _t(self, k: int) -> int:
        return self.steps + self.rows + (k - 1) * (1 + self.rows)

    def _rule(self, terms: dict[int, float], most: float) -> None:
        row = np.zeros(self.size)
        for at, factor in terms.items():
            row[at] = factor
        self.matrix.append(row)
        self.upper.append(most)

    def sum_of_largest(self, k: int) -> FloatArray:
        """What is minimised for the k largest strains together."""
        aim = np.zeros(self.size)
        aim[self._t(k)] = k
        aim[self._t(k) + 1 : self._t(k) + 1 + self.rows] = 1.0
        return aim

    def priced(self, price: Sequence[float]) -> FloatArray:
        """What is minimised at the end: what the steps cost."""
        return np.append(np.asarray(price, float), np.zeros(self.size - self.steps))

    def hold(self, k: int, most: float) -> None:
        """Keep the sum of the k largest where it is."""
        self.matrix.append(self.sum_of_largest(k))
        self.upper.append(most + SAME)

    def solve(self, aim: FloatArray) -> FloatArray | None:
        """The unknowns with the least of the aim; None where no setting keeps the rules."""
        from scipy.optimize import Bounds, LinearConstraint, milp  # late: the window opens without it

        top = np.full(self.size, np.inf)
        top[: self.steps] = self.highest
        whole = np.append(np.ones(self.steps), np.zeros(self.size - self.steps))
        rules = LinearConstraint(np.array(self.matrix), -np.inf, np.array(self.upper)) if self.matrix else ()
        exact = {"mip_rel_gap": 0.0}  # nearly as good is not enough: the next question builds on it
        limits = Bounds(np.zeros(self.size), top)
        with silence():
            found = milp(aim, integrality=whole, bounds=limits, constraints=rules, options=exact)
        return None if found.x is None else found.x
