"""How long ears may be in a level: NIOSH REL, 85 dBA for 8 h, and half the time for each 3 dB more [1].

Levels here are unweighted and typical, from figures that are mostly assumed: an estimate that asks for a measurement.

1. NIOSH, Criteria for a Recommended Standard: Occupational Noise Exposure, 98-126 (1998), 1.1:
   T = 480 / 2^((L − 85)/3).
"""

REL_DB, EXCHANGE_DB, DAY_MIN = 85.0, 3.0, 480.0


def allowed_minutes(level_db: float) -> float:
    """How many minutes a day of this level use up all that is recommended."""
    return float(DAY_MIN / 2.0 ** ((level_db - REL_DB) / EXCHANGE_DB))


def dose(spells: "list[tuple[float, float]]") -> float:
    """The share of what is recommended for a day that some (level in dB, minutes) use up; 1 is all of it."""
    return sum(minutes / allowed_minutes(level) for level, minutes in spells)
