"""How much a delayed copy disturbs: talker echo by ITU-T G.107, comb filtering by its first notch and ripple."""

import math

LOUDNESS_RATING_MOUTH_TO_EAR_DB = 10.0  # TELR = 10 dB + loss of the echo path


def talker_echo_impairment(round_trip_ms: float, loss_db: float) -> float:
    """Impairment Idte of ITU-T G.107 for an echo path of this round trip and loss; 0 is none, above 30 is bad.

    G.107 is made for narrow-band handsets, so this is a guide. Valid for TELR 5–65 dB and one-way T up to 500 ms;
    values outside are clipped to that range. Below T = 1 ms the impairment is 0.
    """
    t = min(round_trip_ms / 2.0, 500.0)
    if t < 1.0:
        return 0.0
    telr = min(65.0, max(5.0, LOUDNESS_RATING_MOUTH_TO_EAR_DB + loss_db))
    terv = telr - 40.0 * math.log10((1 + t / 10) / (1 + t / 150)) + 6.0 * math.exp(-0.3 * t * t)
    roe = -1.5 * (-61.18 - 2.0)
    re = 80.0 + 2.5 * (terv - 14.0)
    half = (roe - re) / 2.0
    return max(0.0, (half + math.sqrt(half * half + 100.0) - 1.0) * (1.0 - math.exp(-t)))


def first_notch_hz(gap_ms: float, same_polarity: bool) -> float:
    """First frequency that two equal arrivals cancel: 1/(2Δt), or 1/Δt with opposite polarity (and no bass)."""
    return (500.0 if same_polarity else 1000.0) / gap_ms


def ripple_db(difference_db: float) -> float:
    """Peak to notch of the sum of two arrivals that differ by this many dB, capped at 60 dB."""
    r = min(10.0 ** (-abs(difference_db) / 20.0), 0.998)
    return 20.0 * math.log10((1 + r) / (1 - r))
