"""Measure the lead of a recording of a sync clip (or of claps)."""

from pathlib import Path

from kymaton.core.events import find_beeps, find_clicks, find_flashes
from kymaton.core.judge import MeasureError, SyncMeasurement, judge_best
from kymaton.media.reading import Progress, Recording, read_recording
from kymaton.store.showfile import FileError


def measure(path: Path, progress: Progress | None = None, claps: bool = False) -> SyncMeasurement:
    """How early the sound of a recording is. Raises FileError with one sentence, and Stopped."""
    recording = read_recording(path, progress)
    try:
        return measure_recording(recording, claps)
    except MeasureError as error:
        raise FileError(f"{path.name}: {str(error)[:1].lower()}{str(error)[1:]}") from error


def measure_recording(recording: Recording, claps: bool = False) -> SyncMeasurement:
    """The same of what was read. Raises MeasureError."""
    heard = recording.sound, recording.rate_hz, recording.sound_start_s
    flashes = find_flashes(recording.times_s, recording.cells)
    beeps = [] if claps else find_beeps(*heard)
    if len(beeps) < 3:
        clicks = find_clicks(*heard)
        beeps = clicks if len(clicks) > len(beeps) else beeps
    return judge_best(flashes, beeps)
