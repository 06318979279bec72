"""Loudness goals by value, each with where it comes from, and what a recording needs to meet one."""

import math
from collections.abc import Iterable, Mapping

from msgspec import Struct

from kymaton.core.words import number


class Goal(Struct, frozen=True):
    """A programme's loudness (LUFS) with its tolerance (LU), and the true peak that is allowed (dBTP)."""

    lufs: float
    tolerance_lu: float
    true_peak_dbtp: float
    origin: str


GOALS = (
    Goal(-14.0, 1.0, -1.0, "usual for video on the web"),
    Goal(-16.0, 1.0, -1.0, "usual for speech on the web, stereo"),
    Goal(-18.0, 1.0, -1.0, "usual for music with more room, and for some streams"),
    Goal(-23.0, 0.5, -1.0, "EBU R 128"),
    Goal(-24.0, 2.0, -2.0, "ATSC A/85"),
)


class Verdict(Struct, frozen=True):
    """How a recording stands to a goal. `gain_db` brings it there; `most_db` is as far as its true peak lets it."""

    meets: bool
    sentence: str
    gain_db: float
    most_db: float


def goal_of(lufs: float) -> Goal:
    """The goal with this value; one that nobody has named is as wide as the others of the web."""
    known = next((g for g in GOALS if g.lufs == lufs), None)
    return known or Goal(lufs, 1.0, -1.0, "chosen here")


def verdict(integrated_lufs: float, true_peak_dbtp: float, goal: Goal) -> Verdict:
    """Whether it meets the goal, and what gain would do it; where true peak does not allow it, by how much."""
    if not math.isfinite(integrated_lufs):
        return Verdict(False, "It is silent: no gain brings it to a loudness", 0.0, 0.0)
    gain_db, most_db = goal.lufs - integrated_lufs, goal.true_peak_dbtp - true_peak_dbtp
    near, peaks = abs(gain_db) <= goal.tolerance_lu, most_db >= -0.05
    if near and peaks:
        return Verdict(True, f"It meets {number(goal.lufs)} LUFS", gain_db, most_db)
    side = "louder" if gain_db < 0 else "softer"
    said = (
        "It meets the loudness" if near else f"It is {number(abs(gain_db), 1)} LU {side} than {number(goal.lufs)} LUFS"
    )
    if not peaks:
        said += f", and its true peak is {number(-most_db, 1)} dB over {number(goal.true_peak_dbtp)} dBTP"
    if not near:
        said += f": {_signed(gain_db)} dB of gain do it"
        if gain_db > most_db:
            said = said.replace(" of gain do it", f" would do it, and true peak lets it have {_signed(most_db)} dB")
            said += f"; a limiter has to take the last {number(gain_db - most_db, 1)} dB"
    return Verdict(False, said, gain_db, most_db)


def _signed(value: float) -> str:
    return f"{'+' if value > 0 else ''}{number(value, 1)}"


def balance(loudness: Mapping[str, float], apart_lu: float = 3.0) -> list[str]:
    """Of recordings of single voices, by name: which is too soft against the loudest, in sentences."""
    heard = {name: lufs for name, lufs in loudness.items() if math.isfinite(lufs)}
    if len(heard) < 2:
        return []
    loudest = max(heard, key=lambda n: heard[n])
    return [
        f"{name} is {number(heard[loudest] - lufs, 1)} LU softer than {loudest}"
        for name, lufs in sorted(heard.items(), key=lambda x: x[1])
        if heard[loudest] - lufs > apart_lu
    ]


def against_music(voices: Iterable[float], music: Iterable[float]) -> str:
    """How loud music is against voices, from recordings of both, each group by its mean power; empty without both."""
    spoken, played = _mean(voices), _mean(music)
    if spoken is None or played is None:
        return ""
    under = spoken - played
    return f"Music is {number(abs(under), 1)} LU {'under' if under >= 0 else 'over'} the voices"


def _mean(loudness: Iterable[float]) -> float | None:
    heard = [x for x in loudness if math.isfinite(x)]
    return 10 * math.log10(sum(10 ** (x / 10) for x in heard) / len(heard)) if heard else None
