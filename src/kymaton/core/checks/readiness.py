"""How far each step of the work is: nothing there yet, examined and good, or with so many faults.

Good means that everything the step asks for is there and has no fault; a step with nothing in it is not good.
"""

from typing import Literal

from msgspec import Struct

from kymaton.core.checks.report import Report
from kymaton.core.loadin.gear import is_carried
from kymaton.core.loadin.uplink import uplink_of
from kymaton.core.signal.av_offset import leads

State = Literal["nothing", "good", "faults"]
EXAMINED = ("brief", "path", "hearing", "levels", "sync", "load-in")


class Readiness(Struct, frozen=True):
    """State of one step, with the number of its faults over all cues."""

    state: State
    faults: int = 0


def readiness(report: Report, step: str) -> Readiness | None:
    """How far a step is; None for steps that hold nothing to be examined."""
    if step not in EXAMINED:
        return None
    faults = report.count("fault", step=step, variants=False)
    if faults:
        return Readiness("faults", faults)
    there = {
        "brief": _somebody,
        "path": _something_arrives,
        "hearing": _something_arrives,
        "levels": _something_arrives,
        "sync": _picture_and_sound,
        "load-in": _something_is_carried,
    }
    return Readiness("good" if there[step](report) else "nothing")


def _somebody(report: Report) -> bool:
    return bool(report.show.sounds and report.show.listeners)


def _something_arrives(report: Report) -> bool:
    """Whether anybody hears anything in any cue."""
    return any(
        cue.view.level(listener, sound) > listener.floor
        for cue in report.cues.values()
        for listener, sound in cue.view.pairs()
    )


def _picture_and_sound(report: Report) -> bool:
    """Whether a picture on air meets a sound that is made in it, in any cue."""
    return any(leads(cue.view, on_air=True) for cue in report.cues.values())


def _something_is_carried(report: Report) -> bool:
    """Whether there is a rig to bring; and, where something goes up, that it is known what the line has."""
    show = report.show
    return any(is_carried(d) for d in show.devices) and uplink_of(show).fits == "fits"
