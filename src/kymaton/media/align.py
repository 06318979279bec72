"""Two files with the same sound laid over each other."""

from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path
from threading import Lock
from typing import TYPE_CHECKING

from kymaton.core.errors import AlignError, FileError, Progress, Stopped
from kymaton.core.measuring.align import Alignment, align
from kymaton.core.measuring.loudness_lines import OnsetEnvelope
from kymaton.core.scipy_loading import load_scipy
from kymaton.media.sounds import SoundFile

if TYPE_CHECKING:
    from kymaton.core.measuring.align import FloatArray

RATE_HZ = 48_000


class _Both:
    """Progress of two threads as one that never goes back."""

    def __init__(self, progress: Progress | None) -> None:
        self.progress, self.lock, self.parts = progress, Lock(), [0.0, 0.0]

    def tell(self, which: int, part: float) -> None:
        """Raises Stopped when it is wanted no more."""
        with self.lock:
            self.parts[which] = part
            if self.progress is not None and not self.progress(0.8 * sum(self.parts) / 2):
                raise Stopped


def _curve(file: SoundFile, tell: Callable[[float], None]) -> tuple["FloatArray", float]:
    """How loud a sound is over time, and the step of that in s. Raises Stopped."""
    loudness, read = OnsetEnvelope(file.rate_hz), 0
    for count, block in enumerate(file.blocks()):
        loudness.add(block)
        read += len(block)
        part = min(1.0, read / file.rate_hz / file.length_s) if file.length_s else 0.5
        if not count % 8:
            tell(part)
    return loudness.curve(), loudness.exact_step_s


def align_files(reference: Path, other: Path, progress: Progress | None = None) -> Alignment:
    """How much later the sound of `reference` comes in `other`. Raises FileError with one sentence, and Stopped."""
    return _aligned((SoundFile(reference), SoundFile(other)), f"{reference.name} and {other.name}", progress)


def align_sides(path: Path, progress: Progress | None = None) -> Alignment:
    """How much later what is on the left comes on the right of one recording: a send and its return, or a loop.

    Raises FileError with one sentence, and Stopped.
    """
    return _aligned((SoundFile(path, 0), SoundFile(path, 1)), path.name, progress)


def _aligned(files: tuple[SoundFile, SoundFile], names: str, progress: Progress | None) -> Alignment:
    load_scipy()
    both = _Both(progress)
    with ThreadPoolExecutor(2) as pool:  # decoding lets other threads run
        curves = list(pool.map(lambda n: _curve(files[n], lambda part: both.tell(n, part)), (0, 1)))
    rate_hz = min(RATE_HZ, max(f.rate_hz for f in files))
    (a, step_a), (b, step_b) = curves
    try:
        return align(
            lambda begin, length: files[0].stretch(begin, length, rate_hz),
            lambda begin, length: files[1].stretch(begin, length, rate_hz),
            (a, b),
            (step_a, step_b),
            rate_hz,
        )
    except AlignError as error:
        raise FileError(f"{names}: {str(error)[:1].lower()}{str(error)[1:]}") from error
