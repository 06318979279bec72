"""`kymaton sim …`: stand-ins for outside devices, each run alone."""

import argparse
from pathlib import Path
from typing import Any

from kymaton.core.errors import FileError, ShowError
from kymaton.core.formats import read_rate


def add_parser(commands: Any) -> None:
    """The words of `kymaton sim`."""
    text = "simulated devices, to try things without hardware"
    parts = commands.add_parser("sim", help=text, description=text).add_subparsers(metavar="DEVICE", required=True)
    about = "a camera before a screen that plays a sync clip, recorded with its sound"
    camera = parts.add_parser("camera", help=about, description=about)
    camera.add_argument("-o", "--out", type=Path, required=True, help="the .mp4, .mov or .mkv file to write")
    for name, value, help_ in (
        ("--picture-ms", 80.0, "how late the picture is recorded"),
        ("--sound-ms", 0.0, "how late the sound is recorded"),
        ("--seconds", 20.0, "how long the recording is"),
        ("--exposure", 0.5, "part of a frame for which the shutter is open, 0 to 1"),
        ("--sound-ppm", 0.0, "how much too fast the clock of the sound runs"),
        ("--noise", 0.0, "noise in the picture, of 255"),
    ):
        camera.add_argument(name, type=float, default=value, help=f"{help_} (default {value:g})")
    camera.add_argument("--fps", default="30", help="frames a second (default 30)")
    camera.set_defaults(run=_camera)


def _camera(options: argparse.Namespace) -> int:
    from kymaton.sim.camera import Camera, record

    try:
        rate = read_rate(options.fps)
    except ShowError as error:
        raise FileError(str(error)) from error
    limits = ((options.picture_ms, 5000), (options.sound_ms, 5000), (options.sound_ppm, 5000), (options.noise, 100))
    if any(not abs(value) <= most for value, most in limits) or not 0 <= options.exposure <= 1:
        raise FileError("A simulated camera is late by less than 5 s, with an exposure between 0 and 1.")
    if not 5 <= rate <= 240 or not 2 <= options.seconds <= 3600 or options.out.suffix not in (".mp4", ".mov", ".mkv"):
        raise FileError(
            "A simulated recording is an .mp4, .mov or .mkv file of 2 s to an hour, 5 to 240 frames a second."
        )
    camera = Camera(
        rate=rate, seconds=options.seconds, picture_ms=options.picture_ms, sound_ms=options.sound_ms,
        exposure=options.exposure, sound_ppm=options.sound_ppm, noise=options.noise,
    )  # fmt: skip
    record(camera, options.out)
    return 0
