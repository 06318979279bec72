"""Stand-ins for devices outside: each runs without hardware.

A stand-in is a module with a function `run(out, words, progress)`, and its line in `STAND_INS`: the command line, its
completion and its manual follow. Nothing that computes is loaded here.
"""

from msgspec import Struct


class StandIn(Struct, frozen=True):
    """What a stand-in is asked for: its name (also that of its module), what it does, the file that it writes.

    `words` are its options: name, default (a number, or text), what it means.
    """

    name: str
    about: str
    out: str
    words: tuple[tuple[str, float | str, str], ...]


STAND_INS = (
    StandIn(
        "camera",
        "a camera before a screen that plays a sync clip, recorded with its sound",
        "the .mp4, .mov or .mkv file to write",
        (
            ("picture_ms", 80.0, "how late the picture is recorded"),
            ("sound_ms", 0.0, "how late the sound is recorded"),
            ("seconds", 20.0, "how long the recording is"),
            ("exposure", 0.5, "part of a frame for which the shutter is open, 0 to 1"),
            ("sound_ppm", 0.0, "how much too fast the clock of the sound runs"),
            ("noise", 0.0, "noise in the picture, of 255"),
            ("fps", "30", "frames a second"),
            ("clip_fps", "", "frames a second of the clip before it (otherwise a rate unlike the camera's)"),
        ),
    ),
)
