"""How loud a recording of a sound is, as a show needs to know it: the typical level, without its pauses."""

import math
from pathlib import Path

import numpy as np
import soundfile

from kymaton.core.errors import FileError, Progress, Stopped

BLOCK_S = 0.1
PAUSE_DB = 20.0  # blocks so far under the loudest one are pauses; chosen
SINE_DB = 10 * math.log10(2)  # AES17: a full-scale sine is 0 dBFS


def stem_level(path: Path, progress: Progress | None = None) -> float:
    """The level of a sound file in dBFS (RMS of AES17), without its pauses. Raises FileError, and Stopped on Stop."""
    powers: list[float] = []
    try:
        with soundfile.SoundFile(path) as file:
            size = max(1, round(BLOCK_S * file.samplerate))
            for number, block in enumerate(file.blocks(size, dtype="float32", always_2d=True)):
                if not np.isfinite(block).all():
                    raise FileError(f"{path.name}: it holds samples that are not numbers.")
                powers.append(float(np.mean(np.square(block, dtype=np.float64))))
                if progress is not None and not progress(min(1.0, number * size / max(1, file.frames))):
                    raise Stopped
    except (soundfile.SoundFileError, OSError) as error:
        raise FileError(f"{path.name}: it cannot be read as a sound.") from error
    loudest = max(powers, default=0.0)
    if loudest <= 0.0:
        raise FileError(f"{path.name}: it is silent.")
    heard = [p for p in powers if p > loudest * 10 ** (-PAUSE_DB / 10)]
    return round(10 * math.log10(sum(heard) / len(heard)) + SINE_DB, 1)
