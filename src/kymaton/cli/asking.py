"""`kymaton ask` and `kymaton compare`: answers from the solver, and what differs between two solved cues."""

import argparse

from kymaton.cli.common import Usage
from kymaton.cli.json_output import print_json
from kymaton.cli.shows import known
from kymaton.core.checks.comparing import CellDifference, difference_text
from kymaton.core.checks.comparing import compare as compared
from kymaton.core.checks.report import CueReport, Report
from kymaton.core.model import Show
from kymaton.core.words import counted
from kymaton.language import asking
from kymaton.store.showfile import read_show


def ask(options: argparse.Namespace) -> int:
    """Answer a question about a show."""
    show = read_show(options.show)
    report = Report(show)
    cue = _cue(show, options.cue)
    answer = asking.ask(report, " ".join(options.question), cue)
    if options.json:
        print_json(
            {
                "title": answer.title,
                "lines": list(answer.lines),
                "cue": answer.cue,
                "listener": answer.listener,
                "sound": answer.sound,
            }
        )
        return 0
    print(f"{answer.title}.")
    for line in answer.lines:
        print(f"  {line.rstrip('.')}.")
    return 0


def compare(options: argparse.Namespace) -> int:
    """Tell what differs between a cue and another one, the same in a variant, or in another file."""
    show = read_show(options.show)
    report = Report(show)
    pairs = list(_pairs(report, show, options))
    told = [(one, compared(one, other)) for one, other in pairs]
    if options.json:
        print_json(
            {
                "cues": [
                    {
                        "cue": one.view.cue_id,
                        "cells": [_json(d) for d in found.cells],
                        "only_one": [c.sentence for c in found.only_one],
                        "only_other": [c.sentence for c in found.only_other],
                    }
                    for one, found in told
                ]
            }
        )
        return 0
    for one, found in told:
        name = one.view.cue.name if one.view.cue is not None else "Always"
        print(f"{name}: {counted(len(found.cells), 'difference') if found.cells else 'the same'}")
        for card in found.only_one:
            print(f"  - {card.sentence}")
        for card in found.only_other:
            print(f"  + {card.sentence}")
        for difference in found.cells:
            print(f"  {difference_text(one, difference)}")
    return 0


def _pairs(report: Report, show: Show, options: argparse.Namespace) -> list[tuple[CueReport, CueReport]]:
    if sum(x is not None for x in (options.other, options.beside, options.variant)) != 1:
        raise Usage("compare takes one of these: another file, --with CUE or --variant VARIANT.")
    if options.beside is not None:
        return [(report.cues[_cue(show, options.cue)], report.cues[_cue(show, options.beside)])]
    known("variant", options.variant, list(report.variants))
    other = report.variants[options.variant] if options.variant is not None else Report(read_show(options.other))
    cues = [_cue(show, options.cue)] if options.cue is not None else list(report.cues)
    return [(report.cues[c], other.cues[c]) for c in cues if c in other.cues]


def _cue(show: Show, wanted: str | None) -> str | None:
    known("cue", wanted, [c.id for c in show.cues])
    return wanted if wanted is not None or not show.cues else show.cues[0].id


def _json(d: CellDifference) -> dict[str, object]:
    return {
        "listener": d.one.listener,
        "sound": d.one.sound,
        "one": {"form": d.one.form, "level": _level(d.one.level), "first_ms": d.one_first_ms},
        "other": {"form": d.other.form, "level": _level(d.other.level), "first_ms": d.other_first_ms},
    }


def _level(value: float) -> float | None:
    return round(value, 2) if value > -300 else None
