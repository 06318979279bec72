"""How to measure sync by hand, with a clap, and how sure that can be."""

from kymaton.core.measuring.lead_estimate import HAND_S
from kymaton.core.model import Show
from kymaton.core.signal.av_offset import frame_ms
from kymaton.core.units import SPEED_OF_SOUND_M_PER_S
from kymaton.core.words import ms

CLAPS = 8


def sure_ms(frame_ms: float, marks: int) -> float:
    """Expected ± of so many marks: what random intervals of one frame have in common is 2 / (marks + 1) frames long.

    The line in the sound is put by hand as well.
    """
    return frame_ms / (marks + 1) + 1000 * HAND_S


def steps(show: Show) -> tuple[str, ...]:
    """What to do, one after the other, for a show."""
    frame = frame_ms(show)
    metre = ms(1000 / SPEED_OF_SOUND_M_PER_S)
    return (
        f"Stand where the camera sees the hands or the board well lit, near the microphone: a metre of air is {metre}.",
        f"Clap {CLAPS} times, a second or two apart and not evenly; keep still in between.",
        "Record it where picture and sound arrive: the archive of the stream, a recorder, a guest's screen.",
        "Open the recording under Sync, By eye. For each clap: Next sound, step to the first frame that shows it "
        "shut, Mark.",
        f"One clap is known to ± {ms(sure_ms(frame, 1))}. They fall anywhere between the frames, so {CLAPS} of them "
        f"narrow that to about ± {ms(sure_ms(frame, CLAPS))}.",
    )
