"""As heard on something else: what a telephone, the loudspeaker of a phone, a living room or a car leaves of a sound.

Band limits and mono alone, by Butterworth filters of fourth order; no room, no noise of the road and no distortion.
The bands are those of the trade: telephony by ITU-T G.712 (300 Hz to 3.4 kHz); small loudspeakers give little below
their resonance, here 350 Hz; a living room's and a car's begin at 60 and 50 Hz.
"""

from typing import TYPE_CHECKING

import numpy as np
from msgspec import Struct

if TYPE_CHECKING:
    from numpy.typing import NDArray

ORDER = 4


class HeardOn(Struct, frozen=True):
    """Something to listen on: its name, what it leaves in plain words, its band in Hz (None: no limit), mono or not."""

    id: str
    name: str
    about: str
    low_hz: float | None = None
    high_hz: float | None = None
    mono: bool = False


AS_IT_IS = HeardOn("as-it-is", "As it is", "all of it, on both sides")
ALL = (
    AS_IT_IS,
    HeardOn("telephone", "On a telephone", "300 Hz to 3.4 kHz, both sides as one", 300.0, 3400.0, True),
    HeardOn("phone", "On a phone's loudspeaker", "from 350 Hz, both sides as one", 350.0, None, True),
    HeardOn("living-room", "In a living room", "from 60 Hz to 16 kHz", 60.0, 16_000.0),
    HeardOn("car", "In a car", "50 Hz to 12 kHz, both sides as one", 50.0, 12_000.0, True),
)


def heard_on(samples: "NDArray[np.float32]", rate_hz: int, what: HeardOn) -> "NDArray[np.float32]":
    """What it leaves of `samples` (n, 2), as many; mono is half of the sum of both sides, on both."""
    from scipy.signal import butter, sosfilt  # late: the window opens without it

    found = samples.astype(np.float64)
    if what.mono:
        found = np.repeat(found.mean(axis=1, keepdims=True), 2, axis=1)
    for hertz, way in ((what.low_hz, "highpass"), (what.high_hz, "lowpass")):
        if hertz is not None:
            found = sosfilt(butter(ORDER, hertz, way, fs=rate_hz, output="sos"), found, axis=0)
    return found.astype(np.float32)
