"""Alternatives: other ways to solve something, kept as the lines that lead there, and weighed against the rig."""

from collections.abc import Callable, Iterator, Sequence

from msgspec import Struct

from kymaton.core.checks.report import Report
from kymaton.core.checks.rigging import needed_by_audience
from kymaton.core.edits.ids import free_id
from kymaton.core.loadin.gear import items_of, money_of
from kymaton.core.model import Alternative, Show, ShowError
from kymaton.core.model.show import validated
from kymaton.core.signal.av_offset import leads
from kymaton.language.commands import read_command


def add_alternative(show: Show, name: str) -> tuple[Show, str]:
    """Another way, which is the rig itself at first, and its id. Raises ShowError."""
    name = name.strip()
    if not name:
        raise ShowError("Another way needs a name.")
    if any(a.name.lower() == name.lower() for a in show.alternatives):
        raise ShowError(f"There is a way called {name} already.")
    id = free_id(name, (a.id for a in show.alternatives))
    return show.evolve(alternatives=(*show.alternatives, Alternative(id=id, name=name))), id


def add_line(show: Show, id: str, line: str) -> Show:
    """One more line of a way. Raises ShowError when it cannot be done there."""
    way = _way(show, id)
    step(applied(show, way), line)
    return _put(show, way.evolve(lines=(*way.lines, line.strip())))


def remove_line(show: Show, id: str, number: int) -> Show:
    """The show without one line of an alternative."""
    way = _way(show, id)
    return _put(show, way.evolve(lines=tuple(x for i, x in enumerate(way.lines) if i != number)))


def remove_alternative(show: Show, id: str) -> Show:
    """The show without an alternative."""
    return show.evolve(alternatives=tuple(a for a in show.alternatives if a.id != id))


def step(show: Show, line: str) -> Show:
    """The show after one line of a way. Raises ShowError."""
    return read_command(show, line).show


def applied(show: Show, way: Alternative) -> Show:
    """The rig turned into that way. Raises ShowError that names the line which cannot be done any more."""
    for number, line in enumerate(way.lines, 1):
        try:
            show = step(show, line)
        except ShowError as error:
            raise ShowError(f"{way.name}, line {number} ('{line}'): {error}") from error
    return validated(show)


def take(show: Show, id: str) -> Show:
    """That way becomes the rig."""
    way = _way(show, id)
    return remove_alternative(applied(show, way), id)


def _way(show: Show, id: str) -> Alternative:
    return next(a for a in show.alternatives if a.id == id)


def _put(show: Show, way: Alternative) -> Show:
    return show.evolve(alternatives=tuple(way if a.id == way.id else a for a in show.alternatives))


class Weighed(Struct, frozen=True):
    """A way in figures. `delay_ms` is the longest way of a voice to the audience before the platform carries it.

    `lead_ms` is the lead on air that strains the window most, `own_voice_ms` the latest own voice in a host's or
    performer's ears. `hangs_on` counts the devices without any of which the audience hears nothing.
    """

    name: str
    faults: int
    cautions: int
    devices: int
    leads: int
    hangs_on: int
    delay_ms: float | None
    lead_ms: float | None
    own_voice_ms: float | None
    to_buy: int
    borrowed: int
    to_pay: float = 0.0
    trouble: str = ""


ROWS: tuple[tuple[str, Callable[[Weighed], float | int | None]], ...] = (
    ("Faults", lambda w: w.faults),
    ("Cautions", lambda w: w.cautions),
    ("Devices", lambda w: w.devices),
    ("Leads", lambda w: w.leads),
    ("The stream hangs on", lambda w: w.hangs_on),
    ("Voice to platform, ms", lambda w: w.delay_ms),
    ("Sound early by, ms", lambda w: w.lead_ms),
    ("Own voice late by, ms", lambda w: w.own_voice_ms),
    ("To buy", lambda w: w.to_buy),
    ("Borrowed", lambda w: w.borrowed),
    ("To pay", lambda w: w.to_pay or None),
)


def found_in(report: Report) -> Iterator[tuple[Alternative, Report | ShowError]]:
    """Every other way with what is found in it, or with why it cannot be done any more."""
    for way in report.show.alternatives:
        try:
            yield way, Report(applied(report.show, way).evolve(variants=(), alternatives=()))
        except ShowError as error:
            yield way, error


def weigh(name: str, show: Show) -> Weighed:
    """A rig in figures."""
    report = Report(show.evolve(variants=(), alternatives=()))
    kinds = ("air", "held")
    return Weighed(
        name=name,
        faults=report.count("fault"),
        cautions=report.count("caution"),
        devices=len(show.devices),
        leads=sum(c.kind not in kinds for c in show.cables),
        hangs_on=len(needed_by_audience(show)),
        delay_ms=_voice_delay_ms(report),
        lead_ms=_worst_lead_ms(report),
        own_voice_ms=_own_voice_ms(report),
        to_buy=sum(d.owned == "to buy" for d in show.devices),
        borrowed=sum(d.owned == "borrowed" for d in show.devices),
        to_pay=money_of(items_of(show)).to_pay,
    )


def cheapest(ways: Sequence[Weighed]) -> Weighed | None:
    """Of the ways that have no more faults than any other the one for which least is to be paid.

    None where there is nothing to choose, or nobody has said what anything costs.
    """
    can = [w for w in ways if not w.trouble]
    if len(can) < 2 or not any(w.to_pay for w in can):
        return None
    fewest = min(w.faults for w in can)
    return min((w for w in can if w.faults == fewest), key=lambda w: (w.to_pay, w.cautions))


def weigh_all(show: Show, stopped: Callable[[], bool] = lambda: False) -> list[Weighed]:
    """The rig as it is, then every other way; one that cannot be done any more says why."""
    found = [weigh("As it is", show)]
    for way in show.alternatives:
        if stopped():
            break
        try:
            found.append(weigh(way.name, applied(show, way)))
        except ShowError as error:
            found.append(
                Weighed(
                    name=way.name,
                    faults=0,
                    cautions=0,
                    devices=0,
                    leads=0,
                    hangs_on=0,
                    delay_ms=None,
                    lead_ms=None,
                    own_voice_ms=None,
                    to_buy=0,
                    borrowed=0,
                    trouble=str(error),
                )
            )
    return found


def _voice_delay_ms(report: Report) -> float | None:
    """The longest first arrival of a voice at the audience over all cues, less what the platform takes."""
    platforms = [d for d in report.show.devices if d.kind == "stream"]
    carried = max((r.delay_ms.value for d in platforms for r in d.routes if r.medium == "sound"), default=0.0)
    firsts = [
        min(b.delay_ms for b in bursts)
        for cue in report.cues.values()
        for listener, sound in cue.view.pairs()
        if listener.kind == "audience" and sound.kind == "voice" and (bursts := cue.view.bursts(listener, sound))
    ]
    return max(firsts) - carried if firsts else None


def _worst_lead_ms(report: Report) -> float | None:
    """Of all pictures on air the lead that strains the window most; negative when sound is late."""
    rows = [r for cue in report.cues.values() for r in leads(cue.view, on_air=True)]
    worst = max(rows, key=lambda r: r.strain, default=None)
    return None if worst is None else worst.lead_ms


def _own_voice_ms(report: Report) -> float | None:
    """When the own voice comes back to those who hear themselves on stage, at the latest over all cues."""
    found = [
        max(b.delay_ms for b in bursts)
        for cue in report.cues.values()
        for listener, sound in cue.view.pairs()
        if listener.kind in ("host", "performer") and cue.view.is_own(listener, sound)
        if (bursts := cue.view.bursts(listener, sound))
    ]
    return max(found, default=None)
