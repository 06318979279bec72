"""Measure the lead of a recording of a sync clip (or of claps)."""

from concurrent.futures import ThreadPoolExecutor
from pathlib import Path
from threading import Event
from typing import TYPE_CHECKING

import numpy as np

from kymaton.core.errors import FileError, MeasureError, Progress, Stopped
from kymaton.core.measuring.events import Beep, find_beeps, find_clicks, find_flashes
from kymaton.core.measuring.lead_estimate import SyncMeasurement, best_estimate
from kymaton.core.scipy_loading import load_scipy
from kymaton.media.reading import read_picture
from kymaton.media.sounds import SoundFile

if TYPE_CHECKING:
    from numpy.typing import NDArray


def measure(path: Path, progress: Progress | None = None, claps: bool = False) -> SyncMeasurement:
    """How early the sound of a recording is. Raises FileError with one sentence, and Stopped.

    The sound is read and searched while the picture is decoded, which takes longer.
    """
    load_scipy()
    enough = Event()
    with ThreadPoolExecutor(1) as pool:
        heard = pool.submit(_heard, path, claps, enough)

        def seen_so_far(part: float) -> bool:
            if heard.done():
                heard.result()  # raises where there is no sound
            return progress is None or progress(part)

        try:
            picture = read_picture(path, seen_so_far)
            flashes = find_flashes(picture.times_s, picture.cells)
            beeps = heard.result()
        finally:
            enough.set()
    try:
        return best_estimate(flashes, beeps)
    except MeasureError as error:
        raise FileError(f"{path.name}: {str(error)[:1].lower()}{str(error)[1:]}") from error


def _heard(path: Path, claps: bool, enough: Event) -> list[Beep]:
    """The beeps of a recording, or other sudden sounds where it has none. Raises Stopped when that is enough."""
    sound, start_s = SoundFile(path), 0.0
    pieces: list[NDArray[np.float32]] = []
    for first, block in sound.timed():
        if enough.is_set():
            raise Stopped
        start_s = start_s if pieces else first / sound.rate_hz
        pieces.append(block)
    samples = np.concatenate(pieces) if pieces else np.zeros(0, np.float32)
    beeps = [] if claps else find_beeps(samples, sound.rate_hz, start_s)
    if len(beeps) < 3:
        clicks = find_clicks(samples, sound.rate_hz, start_s)
        beeps = clicks if len(clicks) > len(beeps) else beeps
    return beeps
