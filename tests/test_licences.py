"""The page of licences against what is installed."""

import importlib.metadata
import re
import sysconfig
from pathlib import Path

import pytest

ROOT = Path(__file__).parent.parent
PAGE = (ROOT / "docs" / "licences.md").read_text("utf-8")
ROWS = dict(re.findall(r"^\| ([\w.-]+) \| (.*) \|$", PAGE, re.M))
LOCKED = re.findall(r"^([\w.-]+)==", (ROOT / "requirements.lock").read_text("utf-8"), re.M)
INSTALLED = Path(sysconfig.get_path("purelib"))
FOLDERS = {"av": "av.libs", "numpy": "numpy.libs", "scipy": "scipy.libs", "PyQt6-Qt6": "PyQt6/Qt6/lib"}


def test_every_locked_package_is_named_and_no_other():
    assert {name.lower() for name in ROWS} - {"package", "---"} == {name.lower() for name in LOCKED}


@pytest.mark.parametrize("package", FOLDERS)
def test_every_library_inside_the_wheels_is_named(package):
    inside = {re.split(r"-[0-9a-f]{8}|\.so", p.name)[0] for p in (INSTALLED / FOLDERS[package]).glob("lib*.so*")}
    assert inside, "nothing lies where the wheel keeps its libraries"
    named = set(re.findall(r"lib[\w-]+", ROWS[package]))
    missing = {lib for lib in inside if not any(re.match(rf"{re.escape(n)}([\dA-Z_-]|$)", lib) for n in named)}
    assert not missing


@pytest.mark.parametrize("package", [name for name in LOCKED if name.lower() not in ("pyqt6", "pyqt6-sip")])
def test_a_licence_that_a_package_states_is_the_one_on_the_page(package):
    stated = importlib.metadata.metadata(package).get("License-Expression")
    if stated is None:
        pytest.skip("its metadata state none in the standard form")
    [said] = [row for name, row in ROWS.items() if name.lower() == package.lower()]
    words = set(re.findall(r"[A-Za-z0-9.-]+", stated)) - {"AND", "OR", "WITH"}
    assert words and {w for w in words if w in said}, (stated, said)
