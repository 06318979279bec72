"""Two files with the same sound laid over each other."""

from pathlib import Path

from kymaton.core.align import AlignError, Alignment, Loudness, align
from kymaton.core.render import Stopped
from kymaton.media.reading import Progress
from kymaton.media.sounds import SoundFile
from kymaton.store.showfile import FileError

RATE_HZ = 48_000


def align_files(reference: Path, other: Path, progress: Progress | None = None) -> Alignment:
    """How much later the sound of `reference` comes in `other`. Raises FileError with one sentence, and Stopped."""
    files = SoundFile(reference), SoundFile(other)
    curves = []
    for number, file in enumerate(files):
        loudness = Loudness(file.rate_hz)
        for count, block in enumerate(file.blocks()):
            loudness.add(block)
            if progress is not None and not count % 8 and not progress(0.5 * number + 0.2):
                raise Stopped
        curves.append((loudness.curve(), loudness.exact_step_s))
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
        raise FileError(f"{reference.name} and {other.name}: {str(error)[:1].lower()}{str(error)[1:]}") from error
