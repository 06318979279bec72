"""Closing the window during long work: the program is gone in a few seconds, and nothing of it goes on."""

import os
import subprocess
import sys
from pathlib import Path

import pytest

PROGRAM = """
import sys, time
from pathlib import Path
from PyQt6.QtCore import QTimer
from kymaton.app import run
from kymaton.app.work import Job
from kymaton.media.apart import apart

run.PATIENCE_MS = 2500
kind, marker = sys.argv[1], Path(sys.argv[2])

def work(job):
    marker.write_text("begun")
    if kind == "deaf":
        time.sleep(3600)
    if kind == "apart":
        return apart("tests.media.rooms:stand_still", marker, progress=job.report)
    while job.report(0.5):
        time.sleep(0.01)

furnish = run.furnish
def furnished(window, path):
    furnish(window, path)
    QTimer.singleShot(100, lambda: Job(work).begin())
    QTimer.singleShot(900, window.close)
run.furnish = furnished
print("ended", run.run(None), flush=True)
"""


@pytest.mark.parametrize("kind", ["listening", "apart", "deaf"])
def test_work_that_goes_on_does_not_keep_the_program(tmp_path, kind):
    """It would go on for an hour, or for ever."""
    root = str(Path(__file__).parents[2])
    environment = {**os.environ, "QT_QPA_PLATFORM": "offscreen", "XDG_STATE_HOME": str(tmp_path), "PYTHONPATH": root}
    done = subprocess.run(
        [sys.executable, "-c", PROGRAM, kind, str(tmp_path / "marker")],
        env=environment,
        timeout=120,
        capture_output=True,
    )
    assert done.returncode == 0 and b"Traceback" not in done.stderr and (tmp_path / "marker").exists()
    assert kind != "listening" or b"ended 0" in done.stdout
