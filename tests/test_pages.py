"""Pages of docs that are written from the program are as the program is."""

import ast
import re
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


def test_every_key_of_the_json_is_explained():
    """The keys that the command line prints, as its source has them, against the page about them."""
    page = (ROOT / "docs" / "json.md").read_text("utf-8")
    explained = set(re.findall(r"`([a-z_0-9]+)`", page))
    printed = set()
    for name in ("json_output.py", "shows.py"):
        tree = ast.parse((ROOT / "src" / "kymaton" / "cli" / name).read_text("utf-8"))
        for node in ast.walk(tree):
            if isinstance(node, ast.Dict):
                printed |= {key.value for key in node.keys if isinstance(key, ast.Constant)}
    assert len(printed) > 60 and printed <= explained
