"""Pages of docs that are written from the program are as the program is."""

import subprocess
import sys
from pathlib import Path

import pytest

ROOT = Path(__file__).parent.parent


@pytest.mark.parametrize("script", ["make_plan.py", "make_manual.py", "make_sentences.py"])
def test_a_written_page_is_current(script):
    done = subprocess.run(
        [sys.executable, str(ROOT / "docs" / script), "--check"], capture_output=True, text=True, cwd=ROOT, timeout=120
    )
    assert done.returncode == 0, done.stderr[-2000:]
