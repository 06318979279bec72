"""`kymaton sim …`: stand-ins for outside devices, each run alone."""

import argparse

from kymaton.cli.progress import shown
from kymaton.core.errors import FileError, ShowError
from kymaton.core.formats import read_rate


def camera(options: argparse.Namespace) -> int:
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
    device = Camera(
        rate=rate, seconds=options.seconds, picture_ms=options.picture_ms, sound_ms=options.sound_ms,
        exposure=options.exposure, sound_ppm=options.sound_ppm, noise=options.noise,
    )  # fmt: skip
    with shown("recording") as progress:
        record(device, options.out, progress)
    return 0
