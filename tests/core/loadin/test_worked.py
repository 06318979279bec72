"""The worked examples of docs/budgets.md: each rig is built, and held against what the sum above it says."""

import re
from pathlib import Path

import pytest

from kymaton.core.loadin.budgets import lines_of
from kymaton.core.loadin.runs import needed_m
from kymaton.core.loadin.stands import tipping
from kymaton.core.loadin.usb_plan import plan_for, told
from kymaton.core.model import Show
from kymaton.language.script import build

DOC = Path(__file__).parents[3] / "docs" / "budgets.md"
EXAMPLES = re.findall(r"^## (\d+)\.|^```\n(.*?)^```", DOC.read_text(encoding="utf-8"), re.MULTILINE | re.DOTALL)
BLOCKS = []
for chapter, block in EXAMPLES:
    BLOCKS.append((chapter or BLOCKS[-1][0], block))
CASES = [(n, b) for n, b in BLOCKS if b]


def told_of(show: Show, what: str) -> str:
    """What the program says of the thing that a line with `=` names."""
    verb, _, rest = what.partition(" ")
    if verb == "plan":
        return told(show, plan_for(show, rest))
    if verb == "run":
        source, _, target = rest.partition(" to ")
        cable = next(c for c in show.cables if c.source.startswith(f"{source}/") and c.target.startswith(f"{target}/"))
        return f"{needed_m(show, cable):.1f} m"
    if verb == "sandbag":
        return next(f"{t.sandbag_kg:.1f} kg" for t in tipping(show) if t.device == rest)
    says = what.endswith(" says")
    line = next(x for x in lines_of(show) if x.what == what.removesuffix(" says"))
    if says:
        return line.sentence
    return line.needed if line.part else f"{line.needed}, {line.fits}"


def test_there_are_twelve_examples_and_more():
    assert len({n for n, _ in CASES}) >= 12


@pytest.mark.parametrize(("chapter", "block"), CASES, ids=[f"{n}-{i}" for i, (n, _) in enumerate(CASES)])
def test_a_worked_example(chapter, block):
    lines = block.splitlines()
    show = build(line for line in lines if not line.startswith("="))
    held = [line[1:].strip() for line in lines if line.startswith("=")]
    assert held
    for line in held:
        what, _, wanted = line.rpartition(": ")
        if " says" in what:
            assert wanted in told_of(show, what), told_of(show, what)
        else:
            assert told_of(show, what) == wanted
