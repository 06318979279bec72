"""What differs between two solved cues: of one show, of two variants, before and after a change."""

from collections.abc import Iterator

from msgspec import Struct

from kymaton.core.checks.registry import Finding
from kymaton.core.checks.report import Card, Cell, CueReport, Report
from kymaton.core.words import db, ms, number, said, sentence

AUDIBLE_DB = 1.0  # a smaller difference in level nobody hears
FAR_APART_MS = 0.05  # what is the same to one decimal in ms is told as the same
FORMS = {  # of a cell, in words that stand behind a name
    "heard": "heard", "silent": "not heard", "heard-unasked": "heard", "empty": "not heard", "missing": "missing",
    "soft": "too soft", "late": "too late", "leaks": "leaks", "own": "comes back", "twice": "twice",
    "dulled": "dulled", "one-sided": "on one side", "swapped": "sides swapped", "cancels": "cancels in mono",
}  # fmt: skip


class CellDifference(Struct, frozen=True):
    """One listener and one sound that are not the same in both; `first_ms` is the first arrival, None where none."""

    one: Cell
    other: Cell
    one_first_ms: float | None
    other_first_ms: float | None


class Comparison(Struct, frozen=True):
    """What differs: cells, and the cards that stand in one of the two only."""

    cells: tuple[CellDifference, ...]
    only_one: tuple[Card, ...]
    only_other: tuple[Card, ...]

    def cell(self, listener: str, sound: str) -> CellDifference | None:
        """The difference of a cell; None where it is the same in both, or stands in one only."""
        return next((d for d in self.cells if (d.one.listener, d.one.sound) == (listener, sound)), None)


def compare(one: CueReport, other: CueReport) -> Comparison:
    """What differs between two cues. What only one of two rigs has (listeners, sounds) is left out."""
    return Comparison(tuple(_cells(one, other)), tuple(_only(one, other)), tuple(_only(other, one)))


def _cells(one: CueReport, other: CueReport) -> Iterator[CellDifference]:
    for key, cell in one.cells.items():
        beside = other.cells.get(key)
        if beside is None:
            continue
        first, second = _first_ms(one, *key), _first_ms(other, *key)
        heard = max(cell.level, beside.level) > one.view.show.listener(key[0]).floor
        louder = heard and abs(cell.level - beside.level) >= AUDIBLE_DB
        apart = first is not None and second is not None and abs(first - second) > FAR_APART_MS and heard
        if (cell.form, cell.severity, cell.figure, cell.want) != (
            beside.form, beside.severity, beside.figure, beside.want,
        ) or louder or apart:  # fmt: skip
            yield CellDifference(cell, beside, first, second)


def _first_ms(report: CueReport, listener: str, sound: str) -> float | None:
    show = report.view.show
    bursts = report.view.bursts(show.listener(listener), show.sound(sound))
    return min((b.delay_ms for b in bursts), default=None)


def _only(one: CueReport, other: CueReport) -> Iterator[Card]:
    there = {_about(f) for f in other.findings}
    for card in one.cards:
        if card.severity != "note" and any(_about(f) not in there for f in card.findings):
            yield card


def _about(finding: Finding) -> tuple[object, ...]:
    """What tells a finding from others, whatever the cue."""
    return (finding.id, finding.severity, finding.listener, finding.sound, finding.ports[:2])


def difference_text(report: CueReport, difference: CellDifference) -> str:
    """A difference in words: `Teo: Quill missing, then heard after 12.0 ms`."""
    show = report.view.show
    listener, sound = show.listener(difference.one.listener), show.sound(difference.one.sound)
    what = "their own voice" if report.view.is_own(listener, sound) else said(sound)
    one, other = (
        _told(cell, first)
        for cell, first in ((difference.one, difference.one_first_ms), (difference.other, difference.other_first_ms))
    )
    if one == other:
        more = difference.other.level - difference.one.level
        return sentence(f"{said(listener)}: {what} {db(abs(more))} {'louder' if more > 0 else 'softer'}")
    return sentence(f"{said(listener)}: {what} {one}, then {other}")


def _told(cell: Cell, first_ms: float | None) -> str:
    form = FORMS[cell.form]
    if cell.form in ("own", "twice") and cell.figure[:1].isdigit():
        return f"{form} ({cell.figure})"
    return f"{form} after {ms(first_ms)}" if first_ms is not None and form.startswith("heard") else form


def all_cues(report: Report, listener: str, sound: str) -> list[tuple[str, Cell]]:
    """One cell in every cue, by the cue's name."""
    show = report.show
    return [
        (show.cue(id).name if id is not None else "Always", cue.cells[listener, sound])
        for id, cue in report.cues.items()
        if (listener, sound) in cue.cells
    ]


def cell_text(cell: Cell) -> str:
    """A cell in a word or two, with its figure: `heard, 77 dB SPL`."""
    figure = f", {cell.figure}" if cell.figure[:1].isdigit() else ""
    level = f", {number(cell.level)} dB" if cell.level > -200 and cell.form.startswith("heard") else ""
    return f"{FORMS[cell.form]}{figure}{level}"
