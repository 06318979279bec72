"""Picture formats and frame rates as people write them: `1080p25`, `720p59.94`, `29.97`."""

import re
from fractions import Fraction

from kymaton.core.model import Picture, ShowError

WRITTEN = re.compile(r"^(?:(\d{2,5})\s*x\s*)?(\d{3,5})\s*p\s*(\d+(?:\.\d+)?|\d+/\d+)$", re.IGNORECASE)
NTSC = (24, 30, 48, 60, 120)  # rates that are written with two decimals and mean n · 1000/1001


def read_rate(text: str) -> Fraction:
    """An exact frame rate. Raises ShowError."""
    try:
        rate = Fraction(text.strip())
    except (ValueError, ZeroDivisionError):
        raise ShowError(f"'{text}' is not a frame rate.") from None
    for whole in NTSC:
        if abs(rate - Fraction(whole * 1000, 1001)) < Fraction(1, 200):
            return Fraction(whole * 1000, 1001)
    return rate


def read_format(text: str) -> Picture:
    """A picture format; without a width it is as wide as 16:9. Raises ShowError."""
    said = WRITTEN.match(text.strip())
    if said is None:
        raise ShowError(f"'{text.strip()}' is not a picture format like 1080p25.")
    height, rate = int(said[2]), read_rate(said[3])
    width = int(said[1]) if said[1] else round(height * 16 / 9)
    if not 0 < rate <= 240 or not 64 <= height <= 8192 or not 64 <= width <= 16384:
        raise ShowError(f"'{text.strip()}' is not a picture format that anybody uses.")
    return Picture(width=width, height=height, rate=f"{rate.numerator}/{rate.denominator}")


def frames_per_s(written: str) -> float:
    """The whole pictures a second of a format as it stands on gear; an interlaced one has half of its fields."""
    match = re.fullmatch(r"\d+([pi])(\d+(?:\.\d+)?)", written)
    if match is None:
        raise ShowError(f"'{written}' is not a picture format like 1080p25.")
    return float(match[2]) / (2 if match[1] == "i" else 1)


def format_text(picture: Picture) -> str:
    """A picture format as it stands on gear: `1080p25`, `2160p29.97`."""
    return f"{picture.height}p{round(float(Fraction(picture.rate)), 2):g}"
