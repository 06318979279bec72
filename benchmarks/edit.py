"""From one edit of the demo show to its findings."""

from benchmarks.timing import best
from kymaton.core.checks.report import CueReport, Report
from kymaton.core.edits.controls import Change, apply
from kymaton.core.signal.cue_solution import CueSolution
from kymaton.store.demo import demo_show
from kymaton.store.showfile import read_show


def run() -> list[tuple[str, str, str]]:
    show = read_show(demo_show())
    change = Change(None, "desk/ch9/send/aux1", -22.0, -90.0)

    def current() -> None:
        edited = apply(show, [change])
        assert CueReport(CueSolution(edited, "guest-talk")).cards

    def everything() -> None:
        assert Report(apply(show, [change])).findings

    here, all_cues = best(current, 5), best(everything, 5)
    text = f"{here * 1000:.0f} ms in the cue that is shown, {all_cues * 1000:.0f} ms in all seven"
    return [("findings after one edit, demo show", text, "≤ 100 ms")]
