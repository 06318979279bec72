"""How loud a cue will be for those who get the stream or the recording: an estimate of its integrated loudness.

A sine of 1 kHz at full scale (0 dBFS by AES17) on one channel has −3.01 LUFS, on both 0.0 [1]. Other sounds are weighed
as K-weighting finds them: a voice is about as loud as its level says, which is left so. Voices speak in turn, so their
loudness is the mean of their powers, over those that must be heard; what plays sounds together, and with them.

1. ITU-R BS.1770-5, annex 1: the constant −0.691 dB makes it so.
"""

from kymaton.core.levels.port_levels import SPOKEN, PortLevels, power_sum
from kymaton.core.model import Listener, Sound, Want
from kymaton.core.signal.cue_solution import MISSING_DB, CueSolution
from kymaton.core.units import SILENT

ONE_CHANNEL_LU = -3.01
ESTIMATE_LU = 3.0  # ± of it: how lively people are, and how much of the time nobody speaks; assumed


def programme_lufs(levels: PortLevels, listener: Listener) -> float | None:
    """Loudness in LUFS at who gets the programme; None where nothing that must be heard comes there, or it is no feed.

    ± ESTIMATE_LU.
    """
    if listener.unit != "dBFS":
        return None
    heard = [s for s in levels.show.sounds if levels.view.audible(listener, s, MISSING_DB)]
    wanted = [s for s in heard if levels.view.want(listener, s) is Want.MUST] or heard
    if not wanted:
        return None
    spoken = [_loudness(levels.view, listener, s) for s in wanted if s.kind in SPOKEN]
    played = [_loudness(levels.view, listener, s) for s in wanted if s.kind not in SPOKEN]
    in_turn = power_sum(spoken) - power_sum([0.0] * len(spoken)) if spoken else SILENT
    return power_sum([in_turn, *played])


def _loudness(view: CueSolution, listener: Listener, sound: Sound) -> float:
    """Of one sound, both channels together: each arrival by its power."""
    arrivals = view.hearing.arrivals(listener.id, sound.id)
    return sound.level + power_sum(a.gain_db for a in arrivals) + ONE_CHANNEL_LU
