"""The lead of a whole recording: frames without copies, flashes, the sound wherever it is heard, and the estimate."""

from collections.abc import Iterator
from typing import TYPE_CHECKING

import numpy as np
from msgspec.structs import replace

from kymaton.core.errors import MeasureError
from kymaton.core.measuring.beeps import Beep, find_beeps, find_clicks, find_rises, heard_again, heard_in
from kymaton.core.measuring.flashes import Flash, find_flashes
from kymaton.core.measuring.frames import Footage, without_copies
from kymaton.core.measuring.lead_estimate import MOST_LEAD_S, Circumstances, SyncMeasurement, best_estimate, worth
from kymaton.core.words import joined

if TYPE_CHECKING:
    from numpy.typing import NDArray

    FloatArray = NDArray[np.float64]
    Cells = NDArray[np.float32]
    Audio = NDArray[np.float32]
else:
    FloatArray = Cells = Audio = np.ndarray

FEWEST_BEEPS = 3
MATCH_S, CHANCE = 0.08, 1e-3  # stretch in which a rise is near enough a flash; that all are so by accident; chosen
SHARP_S, SHARP_DB = 0.002, 200.0  # clicks that begin as sharply count more than any rise: they are found to the sample
ABSENT = 0.1  # of the loudest channel (−20 dB): a channel with less of the beeps does not carry them; chosen


class Listening:
    """What is heard in a recording: sound (channels, samples) that begins at `start_s`, at `rate_hz`.

    `again` is how much later (s), and how strong, the beeps come a second time.
    """

    def __init__(self, channels: Audio, rate_hz: int, start_s: float = 0.0, claps: bool = False) -> None:
        self.channels, self.rate_hz, self.start_s = channels, rate_hz, start_s
        self.mix = channels.mean(axis=0) if len(channels) > 1 else channels[0]
        self.beeps: list[Beep] = []
        for sound in () if claps else self._sounds():
            found = find_beeps(sound, rate_hz, start_s)
            if len(found) > len(self.beeps):
                self.beeps, self.heard = found, sound
            if len(self.beeps) >= FEWEST_BEEPS:
                break
        self.again = heard_again(self.heard, rate_hz, self.beeps, start_s) if self.tells else None

    @property
    def tells(self) -> bool:
        """Whether the beeps of a clip are heard."""
        return len(self.beeps) >= FEWEST_BEEPS

    @property
    def length_s(self) -> float:
        """How long it is, in s."""
        return float(self.channels.shape[1] / self.rate_hz)

    def _sounds(self) -> Iterator[Audio]:
        """All channels together, each, and what two differ by: equal sounds of opposite polarity cancel in the sum."""
        yield self.mix
        if len(self.channels) > 1:
            yield from self.channels
        if len(self.channels) == 2:
            yield (self.channels[0] - self.channels[1]) / 2

    def others(self) -> Iterator[tuple[float, list[Beep]]]:
        """Other sounds that rise suddenly, one way of looking for them after the other, and how far they rise (dB)."""
        if not self.tells:
            for sound in self._sounds():
                clicks = find_clicks(sound, self.rate_hz, self.start_s)
                if clicks:
                    sharp = float(np.median([click.slow_s for click in clicks])) < SHARP_S
                    yield (SHARP_DB if sharp else 0.0), clicks
                for rises in find_rises(sound, self.rate_hz, self.start_s):
                    yield float(np.median([rise.strength for rise in rises])), rises

    def remarks(self) -> list[str]:
        """In which channels and polarity the beeps of a clip are heard, where that is not the same in all."""
        if len(self.channels) < 2 or not self.tells:
            return []
        strong = heard_in(self.channels, self.rate_hz, self.beeps, self.start_s)
        there = np.abs(strong) > ABSENT * np.abs(strong).max()
        names = ["left", "right"] if len(strong) == 2 else [f"channel {n + 1}" for n in range(len(strong))]
        said = []
        if not there.all():
            said.append(f"The beeps are heard in {joined([n for n, t in zip(names, there, strict=True) if t])} only.")
        turned = [n for n, t, s in zip(names, there, strong, strict=True) if t and s < 0]
        if turned and len(turned) < int(there.sum()):
            said.append(f"The polarity is turned over in {joined(turned)}.")
        elif turned:
            said.append("The polarity is turned over.")
        return said


def measure_recording(times_s: FloatArray, cells: Cells, sound: Listening, made: bool = False) -> SyncMeasurement:
    """The lead of a recording. Raises MeasureError with one sentence.

    `times_s` and `cells` (frames, cells; 0–255) are its picture. With `made` the file is known not to be filmed.
    """
    footage = without_copies(times_s, cells)
    known = Circumstances(made, 0.0 if made else footage.uneven_s)
    flashes = find_flashes(footage.times_s, footage.cells)
    found = _best(flashes, sound, known)
    doubts = []
    if sound.again is not None:
        late_s, strong = sound.again
        under_db = -20 * np.log10(strong)
        doubts.append(
            f"The sound is heard twice: a second time {1000 * late_s:.1f} ms later, {under_db:.0f} dB under the first. "
            f"With that one the lead is {found.lead_ms - 1000 * late_s:.1f} ms."
        )
    remarks = (*doubts, *found.remarks, *_said(footage), *sound.remarks())
    sure = "medium" if doubts and found.confidence == "high" else found.confidence
    return replace(found, remarks=remarks, confidence=sure)


def _best(flashes: list[list[Flash]], sound: Listening, known: Circumstances) -> SyncMeasurement:
    """By the beeps of the clip where they are heard, else by whatever rises at each flash: the flashes choose."""
    if sound.tells or not flashes:
        return best_estimate(flashes, sound.beeps, known)
    found: list[tuple[tuple[int, int, float], SyncMeasurement]] = []
    most = max(len(each) for each in flashes)
    for loud, beeps in sound.others():
        try:
            other = best_estimate(flashes, beeps, known)
        except MeasureError:
            continue
        if _by_accident(other.matched, most, len(beeps), sound.length_s):
            continue
        found.append(((*worth(other)[:2], loud), other))  # not the narrowest ±: where it is soft a rise looks short
    if not found:
        return best_estimate(flashes, sound.beeps, known)
    return max(found, key=lambda each: each[0])[1]


def _by_accident(matched: int, flashes: int, rises: int, length_s: float) -> bool:
    """Whether so many rises of any kind would find as many flashes by chance, at one of all leads that are tried."""
    from scipy.stats import binom

    one = min(1.0, rises * MATCH_S / max(1.0, length_s))  # that a flash has one within reach
    return float(binom.sf(matched - 1, max(flashes, matched), one)) * (2 * MOST_LEAD_S / MATCH_S) > CHANCE


def _said(footage: Footage) -> list[str]:
    if footage.of_rate_hz is None:
        return []
    return [f"The file repeats frames: the camera gave {footage.of_rate_hz:g} a second."]
