"""What was found in a recording, in words."""

from kymaton.core.measuring.sound_faults import Spot
from kymaton.core.words import number, sentence


def clock(seconds: float) -> str:
    """A time in a recording: `1:05.2`, `1:02:03.0`."""
    tenths = round(seconds * 10)
    hours, rest = divmod(tenths, 36000)
    minutes, left = divmod(rest, 600)
    text = f"{left // 10:02d}.{left % 10}"
    return f"{hours}:{minutes:02d}:{text}" if hours else f"{minutes}:{text}"


def spot_text(spot: Spot) -> str:
    """`Silence from 0:05.0 to 0:20.0`, `Hum of 50 Hz at −50 dBFS from …`."""
    where = f" on {_side(spot.channel)}" if spot.channel else ""
    when = f"from {clock(spot.from_s)} to {clock(spot.to_s)}"
    length_ms = (spot.to_s - spot.from_s) * 1000
    said = {
        "silence": f"silence {when}",
        "clipping": f"{number(spot.level)} samples cut off{where} {when}",
        "dropout": f"a gap of {number(length_ms)} ms{where} at {clock(spot.from_s)}",
        "one side": f"sound{where} alone {when}",
        "turned round": f"left and right have opposite polarity {when}",
        "hum": f"hum of {number(spot.hertz)} Hz at {number(spot.level)} dBFS {when}",
        "buzz": f"buzz of {number(spot.hertz)} Hz and its harmonics at {number(spot.level)} dBFS {when}",
    }
    return sentence(said[spot.kind])


def _side(channel: int) -> str:
    return {1: "the left", 2: "the right"}.get(channel, f"channel {channel}")
