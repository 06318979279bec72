"""Measure the lead of a recording of a sync clip (or of claps)."""

import sys
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from contextlib import contextmanager
from pathlib import Path
from threading import Event
from typing import TYPE_CHECKING

import numpy as np
from msgspec.structs import replace

from kymaton.core.errors import FileError, MeasureError, Progress, Stopped
from kymaton.core.measuring.lead_estimate import SyncMeasurement
from kymaton.core.measuring.recording import Listening, measure_recording
from kymaton.core.scipy_loading import load_scipy
from kymaton.media.clips import is_made
from kymaton.media.reading import all_samples, read_picture
from kymaton.media.sounds import SoundFile

if TYPE_CHECKING:
    from numpy.typing import NDArray

TURN_S = 0.0002  # chosen: with Python's own 5 ms, measuring takes a fifth longer
ITSELF = "This is a sync clip itself, not a recording of it: no device is in this figure."
MOST_CHANNELS = 8  # looked into, of a sound that has more
MOST_VALUES = 240_000_000  # of sound, in all channels together: 1 GB; an hour of mono, 40 minutes of stereo


def measure(path: Path, progress: Progress | None = None, claps: bool = False, made: bool = False) -> SyncMeasurement:
    """How early the sound of a recording is. Raises FileError with one sentence, and Stopped.

    With `made` the file was not filmed: its flashes begin with their frames. A clip that Kymaton made is known by its
    metadata. The sound is read and searched while the picture is decoded, which takes longer.
    """
    load_scipy()
    enough = Event()
    with _turns_taken_often(), ThreadPoolExecutor(1) as pool:
        heard = pool.submit(_heard, path, claps, enough)

        def seen_so_far(part: float) -> bool:
            if heard.done():
                heard.result()  # raises where there is no sound
            return progress is None or progress(part)

        try:
            picture = read_picture(path, seen_so_far)
            sound = heard.result()
        finally:
            enough.set()
    itself = is_made(path)
    try:
        found = measure_recording(picture.times_s, picture.cells, sound, made or itself)
        return replace(found, remarks=(ITSELF, *found.remarks)) if itself else found
    except MeasureError as error:
        raise FileError(f"{path.name}: {str(error)[:1].lower()}{str(error)[1:]}") from error


@contextmanager
def _turns_taken_often() -> Iterator[None]:
    """The decoder of the picture need not wait for its turn while the sound is searched."""
    before_s = sys.getswitchinterval()
    sys.setswitchinterval(TURN_S)
    try:
        yield
    finally:
        sys.setswitchinterval(before_s)


def _heard(path: Path, claps: bool, enough: Event) -> Listening:
    """The sound of a recording, searched for beeps. Raises Stopped when that is enough, and FileError."""
    sound, start_s, many = SoundFile(path), 0.0, 0
    pieces: list[NDArray[np.float32]] = []
    for first, block in sound.timed(all_samples):
        if enough.is_set():
            raise Stopped
        start_s = start_s if pieces else first / sound.rate_hz
        pieces.append(block[:MOST_CHANNELS])
        many += pieces[-1].size
        if many > MOST_VALUES:
            raise FileError(f"{path.name}: it is too long to be measured at once; cut out a few minutes of it.")
    if not many:
        raise FileError(f"{path.name}: there is no sound in it.")
    channels = min(len(piece) for piece in pieces)
    return Listening(np.concatenate([p[:channels] for p in pieces], axis=1), sound.rate_hz, start_s, claps)
