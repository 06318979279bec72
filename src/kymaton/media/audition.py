"""An audition as a file: stems are read, what a listener hears is rendered, levelled and written."""

import io
import math
from collections.abc import Mapping
from pathlib import Path

import numpy as np
import soundfile
import soxr
from msgspec import Struct

from kymaton.core.errors import FileError, Progress, RenderError, part_of
from kymaton.core.model import Show, Sound, Stem
from kymaton.core.signal.cue_solution import CueSolution
from kymaton.core.signal.graph import EdgeState
from kymaton.core.signal.render import Audio, full_scale_of, playback_gain_db, render
from kymaton.core.units import SILENT
from kymaton.core.words import joined
from kymaton.store.atomic import write_whole

RATE_HZ = 48_000
HIGHEST_PEAK = 10 ** (-1.0 / 20)
FORMATS = {".wav": ("WAV", "FLOAT"), ".flac": ("FLAC", "PCM_24")}
LONGEST_S = 600
WALK_S = 120.0  # a whole show, shortened; chosen
LEAST_S = 4.0  # of a cue in it
FADE_S = 0.05


class Audition(Struct, frozen=True):
    """What a listener hears, ready to play or to write.

    `samples`: (n, 2) float32 at 48 kHz. `full_scale` is the level (in `unit`) that stands at 0 dBFS before the file
    was turned down by `turned_down_db` to keep its peak under −1 dBFS. `without_stem` are sounds heard there that no
    recording stands for, `by_stand_in` those for which somebody else's does.
    """

    samples: Audio
    full_scale: float
    unit: str
    turned_down_db: float
    without_stem: tuple[str, ...]
    by_stand_in: tuple[str, ...] = ()

    rate_hz: int = RATE_HZ

    @property
    def seconds(self) -> float:
        """How long it is, in s."""
        return len(self.samples) / RATE_HZ

    @property
    def peak_dbfs(self) -> float:
        """The highest sample, in dBFS."""
        peak = float(np.abs(self.samples).max(initial=0.0))
        return 20 * math.log10(peak) if peak > 0 else SILENT


def read_stem(sound: Sound, folder: Path, stem: Stem) -> list[Audio]:
    """The channels of a sound's stem at 48 kHz, float32. Raises FileError when the file cannot be used."""
    path = (folder / stem.file).resolve()
    if not path.is_relative_to(folder.resolve()):
        raise FileError(f"{stem.file}: the stem of {sound.name} lies outside the folder of the show.")
    try:
        with soundfile.SoundFile(path) as file:
            if file.frames > LONGEST_S * file.samplerate:
                raise FileError(f"{stem.file}: the stem of {sound.name} is longer than {LONGEST_S // 60} minutes.")
            samples, rate = file.read(dtype="float32", always_2d=True), file.samplerate
    except (soundfile.SoundFileError, OSError) as error:
        raise FileError(f"{stem.file}: the stem of {sound.name} cannot be read.") from error
    if rate != RATE_HZ:
        samples = soxr.resample(samples, rate, RATE_HZ)
    if not np.isfinite(samples).all():
        raise FileError(f"{stem.file}: the stem of {sound.name} holds samples that are not numbers.")
    columns = [np.ascontiguousarray(samples[:, min(c, samples.shape[1] - 1)]) for c in range(sound.channels)]
    return columns


def make_audition(
    show: Show,
    folder: Path,
    cue: str | None,
    listener_id: str,
    only: tuple[str, ...] = (),
    progress: Progress | None = None,
    stand_ins: Mapping[str, tuple[Path, Stem]] | None = None,
    edges: frozenset[int] | None = None,
) -> Audition:
    """Render what a listener hears in a cue; `only` limits it to some sounds, `edges` to ways along these alone.

    `stand_ins` are recordings for sounds that have none of their own, by the sound's id, with their folder.

    Raises FileError for a stem that cannot be read, RenderError when there is nothing to hear, Stopped on Stop.
    """
    view = CueSolution(show, cue)
    listener = show.listener(listener_id)
    heard = [s for s in show.sounds if view.level(listener, s) > SILENT and (not only or s.id in only)]
    recorded = {s.id: (folder, s.stem) for s in heard if s.stem is not None}
    lent = {s.id: (stand_ins or {})[s.id] for s in heard if s.stem is None and s.id in (stand_ins or {})}
    recorded |= lent
    with_stem = [s for s in heard if s.id in recorded]
    without = tuple(s.name for s in heard if s.id not in recorded)
    if not with_stem:
        why = (
            f"there is no recording for {joined(without)}" if without else f"{listener.name} hears nothing in this cue"
        )
        raise RenderError(f"Nothing to render: {why}.")
    full_scale = full_scale_of(listener.unit)
    stems: dict[tuple[str, int], Audio] = {}
    gains: dict[str, float] = {}
    for sound in with_stem:
        where, stem = recorded[sound.id]
        for channel, samples in enumerate(read_stem(sound, where, stem), 1):
            stems[sound.id, channel] = samples
        gains[sound.id] = playback_gain_db(stem.level_dbfs, sound.level, full_scale)
    latest = max(a.delay_us for s in with_stem for a in view.hearing.arrivals(listener_id, s.id)) / 1e6
    state = view.state if edges is None else _along(view.state, edges)
    samples = render(view.graph, state, [listener_id], stems, gains, RATE_HZ, latest + 0.5, progress)[listener_id]
    peak = float(np.abs(samples).max(initial=0.0))
    turned_down = 0.0
    if peak > HIGHEST_PEAK:
        turned_down = 20 * math.log10(peak / HIGHEST_PEAK)
        samples *= np.float32(HIGHEST_PEAK / peak)
    by_stand_in = tuple(s.name for s in heard if s.id in lent)
    return Audition(samples, full_scale, listener.unit, turned_down, without, by_stand_in)


def _along(state: EdgeState, edges: frozenset[int]) -> EdgeState:
    """The state with all other edges closed."""
    gain_db = np.full_like(state.gain_db, SILENT)
    kept = sorted(edges)
    gain_db[kept] = state.gain_db[kept]
    return EdgeState(gain_db, state.delay_us, state.exceptions)


def make_walk(
    show: Show,
    folder: Path,
    listener_id: str,
    seconds: float = WALK_S,
    progress: Progress | None = None,
    stand_ins: Mapping[str, tuple[Path, Stem]] | None = None,
) -> Audition:
    """All cues of a show one after the other, each as long as its share of the minutes says, and no shorter than 4 s.

    Cues in which there is nothing to hear are a second of silence. Raises as `make_audition`; RenderError where there
    is nothing in any of them.
    """
    minutes = {c.id: max(c.minutes, 1.0) for c in show.cues}
    parts: list[Audio] = []
    told: list[Audition] = []
    for number, cue in enumerate(show.cues):
        part = part_of(progress, number / len(show.cues), (number + 1) / len(show.cues))
        try:
            made = make_audition(show, folder, cue.id, listener_id, (), part, stand_ins)
        except RenderError:
            parts.append(np.zeros((RATE_HZ, 2), np.float32))
            continue
        share = max(LEAST_S, seconds * minutes[cue.id] / sum(minutes.values()))
        piece = made.samples[: round(share * RATE_HZ)] * np.float32(10 ** (made.turned_down_db / 20))
        fade = min(len(piece), round(FADE_S * RATE_HZ))
        piece[len(piece) - fade :] *= np.linspace(1.0, 0.0, fade, dtype=np.float32)[:, None]
        parts.append(piece)
        told.append(made)
    if not told:
        raise RenderError(f"Nothing to render: {show.listener(listener_id).name} hears nothing in any cue.")
    samples = np.concatenate(parts)
    peak = float(np.abs(samples).max(initial=0.0))
    turned_down = max(0.0, 20 * math.log10(peak / HIGHEST_PEAK)) if peak > 0 else 0.0
    samples *= np.float32(10 ** (-turned_down / 20))
    without, lent = (
        tuple(dict.fromkeys(n for a in told for n in getattr(a, w))) for w in ("without_stem", "by_stand_in")
    )
    return Audition(samples, told[0].full_scale, told[0].unit, turned_down, without, lent)


def write_audition(audition: Audition, path: Path) -> None:
    """Write WAV (32-bit float) or FLAC (24 bit), whole or not at all. Raises FileError."""
    if path.suffix.lower() not in FORMATS:
        raise FileError(f"{path.name}: an audition is written as .wav or .flac.")
    container, subtype = FORMATS[path.suffix.lower()]
    buffer = io.BytesIO()
    soundfile.write(buffer, audition.samples, RATE_HZ, format=container, subtype=subtype)
    write_whole(path, buffer.getvalue())
