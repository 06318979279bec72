"""Units and conversions. Levels are dB in the domain of the place: dB SPL, dBu or dBFS (RMS, AES17)."""

import math

from kymaton.core.model.device import Signal
from kymaton.core.model.people import Unit

SPEED_OF_SOUND_M_PER_S = 343.0  # dry air, 20 °C
DBU_VOLT = 0.7746  # 0 dBu: 1 mW in 600 Ω
DB_SPL_OF_ONE_PASCAL = 94.0
DIGITAL_FULL_SCALE_DBU = 18.0  # EBU R 68: 0 dBFS at line level
SILENT = -math.inf

DIGITAL: frozenset[Signal] = frozenset({"usb", "hdmi", "sdi", "network", "bluetooth"})


def unit_of(signal: Signal) -> Unit:
    """The unit in which levels are told at a port with this signal."""
    if signal == "acoustic":
        return "dB SPL"
    return "dBFS" if signal in DIGITAL else "dBu"


def amplitude(db: float) -> float:
    """Factor of a level difference in dB; 0 for −∞."""
    return 0.0 if db == SILENT else 10.0 ** (db / 20.0)


def decibels(factor: float) -> float:
    """Level difference in dB of a factor ≥ 0; −∞ for 0."""
    return SILENT if factor <= 0.0 else 20.0 * math.log10(factor)


def microphone_gain_db(sensitivity_mv_per_pa: float) -> float:
    """dBu out for dB SPL in: 94 dB SPL is 1 Pa, 0 dBu is 0.7746 V."""
    return 20.0 * math.log10(sensitivity_mv_per_pa / 1000.0 / DBU_VOLT) - DB_SPL_OF_ONE_PASCAL


def spreading_db(distance_m: float) -> float:
    """Free-field level at a distance relative to 1 m: −6 dB per doubling."""
    return -20.0 * math.log10(max(distance_m, 0.01))


def pan_gain_db(percent: float, side: int) -> float:
    """What a pan does to one side (1 left, 2 right), relative to its middle, in dB; −100 % is left, 100 % right.

    By constant power, sine and cosine, as most desks have it: +3 dB on the side to which it is turned, silence on the
    other one.
    """
    angle = (percent + 100.0) / 200.0 * math.pi / 2.0
    share = math.cos(angle) if side == 1 else math.sin(angle)
    return 20.0 * math.log10(share * math.sqrt(2.0)) if share > 1e-6 else SILENT


def air_delay_us(distance_m: float) -> int:
    """Whole microseconds that sound takes over a distance."""
    return round(distance_m / SPEED_OF_SOUND_M_PER_S * 1e6)


def air_metres(delay_us: float) -> float:
    """Distance that sound goes in this time."""
    return float(delay_us) / 1e6 * SPEED_OF_SOUND_M_PER_S
