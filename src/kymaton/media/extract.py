"""The sound of a film as a file of its own."""

import shutil
from pathlib import Path

import numpy as np
import soundfile

from kymaton.core.errors import FileError, Progress, Stopped
from kymaton.media.clips import beside
from kymaton.media.film.placing import PlacedSound, Track
from kymaton.media.reading import why

SUBTYPES = {".wav": ("WAV", "PCM_24"), ".flac": ("FLAC", "PCM_24")}
WAV_MOST_BYTES = 4_000_000_000


def extract(track: Track, out: Path, progress: Progress | None = None) -> float:
    """Write a sound as WAV or FLAC (24 bit), placed and levelled as the track says; gives its length in s.

    Sample 0 is the beginning of the film. Whole or not at all. Raises FileError with one sentence, and Stopped.
    """
    suffix = out.suffix.lower()
    if suffix not in SUBTYPES:
        raise FileError(f"{out.name}: sound is written as .wav or .flac.")
    if out.exists() and track.path.exists() and out.samefile(track.path):
        raise FileError(f"{out.name}: this would overwrite what it is made of.")
    sound = PlacedSound(track)
    container, subtype = SUBTYPES[suffix]
    length_s = sound.length_s or 0.0
    needed = length_s * sound.rate_hz * sound.channels * 3
    if container == "WAV" and needed > WAV_MOST_BYTES:
        container = "RF64"
    temporary, written = beside(out), 0
    if needed > (free := shutil.disk_usage(out.parent).free):
        needed_mb, free_mb = round(needed / 1e6), free // 1_000_000
        raise FileError(f"{out}: there is no room: {needed_mb} MB are needed, {free_mb} MB are free.")
    try:
        with soundfile.SoundFile(str(temporary), "w", sound.rate_hz, sound.channels, subtype, format=container) as file:
            for block in sound.blocks(sound.rate_hz):
                file.write(np.ascontiguousarray(block.T))
                written += block.shape[1]
                part = written / sound.rate_hz / length_s if length_s else 0.0
                if progress is not None and not progress(min(1.0, part)):
                    raise Stopped
        if not written:
            raise FileError(f"{track.path.name}: nothing of its sound is left at this offset.")
        temporary.replace(out)
    except (soundfile.LibsndfileError, OSError) as error:
        raise FileError(f"{out}: it cannot be written ({why(error)}).") from error
    finally:
        temporary.unlink(missing_ok=True)
    return written / sound.rate_hz
