"""From a report to a proposal, and the proof of what two presses can do."""

from benchmarks.timing import best
from kymaton.core.checks.report import Report
from kymaton.core.edits.controls import Change, apply
from kymaton.core.model import Show
from kymaton.core.planning.planner import propose
from kymaton.core.planning.privacy import prove
from kymaton.core.signal.control_search import closed_value, open_value
from kymaton.language.starters import STARTERS
from kymaton.store.demo import demo_show
from kymaton.store.showfile import read_show


def turned_round(show: Show) -> Show:
    """The show with every send of the channels in use the wrong way round: what was open is closed, the rest open."""
    plugged = {c.target.replace("/in", "/ch") for c in show.cables}
    changes = []
    for control in show.controls():
        if control.role in ("send", "fader") and control.id.rpartition("/send/")[0] in plugged:
            shut, usual = closed_value(control), open_value(control)
            assert shut is not None and usual is not None
            changes.append(Change(None, control.id, control.value, usual if control.value == shut else shut))
    return apply(show, changes)


def _row(name: str, show: Show, goal: str) -> tuple[str, str, str]:
    report = Report(show)
    found = propose(report)
    seconds = best(lambda: propose(report), 3)
    controls = sum(1 for _ in show.controls())
    text = f"{seconds:.2f} s, {len(found.changes)} changes, {report.count('fault')} faults before"
    return (f"proposal, {name} ({controls} controls, {max(1, len(show.cues))} cues)", text, goal)


def run() -> list[tuple[str, str, str]]:
    demo = read_show(demo_show())
    largest = max((s.show() for s in STARTERS), key=lambda s: sum(1 for _ in s.controls()))
    report = Report(demo)
    seconds = best(lambda: prove(report), 3)
    controls = sum(1 for _ in demo.controls())
    return [
        _row(f"largest starter, {largest.title}, all sends turned round", turned_round(largest), "≤ 1 s"),
        _row("demo show", demo, "-"),
        (
            f"what is private, by two presses in all cues and in between, demo show ({controls} controls)",
            f"{seconds:.2f} s",
            "≤ 1 s",
        ),
    ]
