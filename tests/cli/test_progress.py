"""Progress on standard error: on a terminal only, and only for what takes its time."""

import io

import pytest

from kymaton.cli import progress


class Terminal(io.StringIO):
    def isatty(self) -> bool:
        return True


@pytest.mark.parametrize(("out", "said"), [(Terminal(), True), (io.StringIO(), False)])
def test_how_far_work_is_stands_on_a_terminal_alone(out, said, monkeypatch):
    monkeypatch.setattr(progress, "SHOWN_AFTER_S", 0.0)
    monkeypatch.setattr("sys.stderr", out)
    with progress.shown("align") as report:
        assert report(0.25) and report(0.1) and report(1.0)
    assert ("align:" in out.getvalue()) == said


def test_short_work_says_nothing(monkeypatch):
    out = Terminal()
    monkeypatch.setattr("sys.stderr", out)
    with progress.shown("measure") as report:
        report(1.0)
    assert "measure" not in out.getvalue()
