"""The soundcheck: input by input what to ask for, where the meter is to land, and what was seen there.

A meter of samples tells peaks under full scale. A VU meter tells the mean of some 300 ms, 0 at +4 dBu; a peak programme
meter (PPM) tells peaks of 10 ms and more, against an alignment level of 0 dBu that is −18 dBFS with EBU R 68 (full
scale at +18 dBu) and −20 dBFS at +4 dBu with SMPTE RP 155 (full scale at +24 dBu). The two are told as they would stand
there typically: how lively somebody speaks makes some dB.
"""

import math
from collections.abc import Iterator

from msgspec import Struct

from kymaton.core.checks.audibility import wanted
from kymaton.core.checks.levels import levels_of
from kymaton.core.checks.report import Report
from kymaton.core.levels.gain_stages import GainStage, stages_of
from kymaton.core.levels.gains import HEADROOM_DB
from kymaton.core.levels.port_levels import PortLevels
from kymaton.core.model import Checked, Show, Sound
from kymaton.core.units import DIGITAL

ASK = {
    "voice": "Speak as loud as you will. Now laugh.",
    "instrument": "Play the loudest passage of the show.",
    "playback": "Play the loudest place of the file.",
    "alert": "Let the loudest one sound.",
    "click": "Let the click run.",
    "phone": "Let somebody ring, and speak.",
    "talkback": "Talk as you will during the show.",
    "room": "Let the room be as it will be.",
}
ZERO_VU_DBU = 4.0
PPM_UNDER_PEAKS_DB = 5.0  # what is shorter than 10 ms it does not show in full; typical for speech
FEW_DB = 3.0  # nearer than this to where it is to land it is right


class Check(Struct, frozen=True):
    """One input. Levels of the meter in dB under full scale of that input, VU and PPM in their own scales.

    `lands` is where peaks are to come to, `now` where they are by what is known; `seen` what was read, if it was.
    """

    control: str
    name: str
    sound: str
    ask: str
    lands: float
    now: float
    vu: float | None
    ppm: float | None
    unit: str
    seen: float | None
    done: bool


def checks_of(report: Report, headroom_db: float = HEADROOM_DB) -> list[Check]:
    """The inputs to go through, in the order of the devices; each once, in the cue in which it is loudest."""
    found: dict[str, tuple[float, Check]] = {}
    known = {c.control: c for c in report.show.soundcheck}
    for cue in report.cues.values():
        levels = levels_of(cue.view)
        must = {s.id for _, s, _ in wanted(cue.view)}
        for stage in stages_of(levels):
            check = _check(levels, stage, must, known, headroom_db)
            if check is not None and check.now > found.get(check.control, (-math.inf, check))[0]:
                found[check.control] = check.now, check
    order = {c.id: n for n, c in enumerate(report.show.controls())}
    return [check for _, check in sorted(found.values(), key=lambda x: order[x[1].control])]


def _check(
    levels: PortLevels, stage: GainStage, must: set[str], known: dict[str, Checked], headroom_db: float
) -> Check | None:
    show = levels.show
    control = show.control(stage.control)
    peaks = {s: x for s, x in levels.peaks.get(stage.source, {}).items() if s in must}
    if stage.clip_db is None or control.elsewhere or not peaks:
        return None
    loudest = max(peaks, key=lambda s: peaks[s])
    sound = show.sound(loudest)
    done = known.get(control.id)
    digital = show.port(stage.source[0]).signal in DIGITAL
    target = stage.clip_db - headroom_db
    typical = target - sound.peak_over_typical_db
    return Check(
        control=control.id,
        name=control.name,
        sound=loudest,
        ask=ASK[sound.kind],
        lands=-headroom_db,
        now=peaks[loudest] + stage.adds_db - stage.clip_db,
        vu=None if digital else typical - ZERO_VU_DBU,
        ppm=None if digital else target - PPM_UNDER_PEAKS_DB,
        unit="dB under full scale",
        seen=done.peak if done is not None else None,
        done=done is not None,
    )


def ticked(show: Show, control: str, done: bool, date: str) -> Show:
    """The show with an input looked at, or not yet."""
    others = tuple(c for c in show.soundcheck if c.control != control)
    old = next((c for c in show.soundcheck if c.control == control), None)
    peak = old.peak if old is not None else None
    return show.evolve(soundcheck=(*others, Checked(control=control, peak=peak, date=date)) if done else others)


def seen(show: Show, check: Check, peak_db: float, date: str) -> Show:
    """The show with the peak that a meter showed (dB under full scale): its sound is as loud as that says.

    Raises ValueError for what no meter shows.
    """
    if not -120.0 <= peak_db <= 24.0:
        raise ValueError("a peak is −120 to +24 dB under full scale")
    louder_db = peak_db - check.now
    others = tuple(c for c in show.soundcheck if c.control != check.control)
    sounds = tuple(_measured(s, louder_db, date) if s.id == check.sound else s for s in show.sounds)
    return show.evolve(
        sounds=sounds, soundcheck=(*others, Checked(control=check.control, peak=round(peak_db, 1), date=date))
    )


def _measured(sound: Sound, louder_db: float, date: str) -> Sound:
    return sound.evolve(level=round(sound.level + louder_db, 1), level_source="measured", level_date=date)


def lines_of(checks: list[Check], show: Show) -> Iterator[list[str]]:
    """The sheet as rows of text, with a head."""
    yield ["done", "input", "sound", "ask", "peaks to", "peaks now", "VU about", "PPM about", "seen"]
    for check in checks:
        figures = (check.lands, check.now, check.vu, check.ppm, check.seen)
        texts = ["" if x is None else f"{x:.0f}" for x in figures]
        yield ["x" if check.done else "", check.name, show.sound(check.sound).name, check.ask, *texts]
