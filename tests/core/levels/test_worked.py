"""The worked examples of docs/levels.md: each rig is built, and held against what the sum above it says."""

import re
from pathlib import Path

import pytest

from kymaton.core.levels.gain_stages import gain_stages
from kymaton.core.levels.port_levels import PortLevels
from kymaton.core.levels.programme import programme_lufs
from kymaton.core.model import Show
from kymaton.core.signal.cue_solution import CueSolution
from kymaton.core.units import SILENT
from kymaton.language.script import build

DOC = Path(__file__).parents[3] / "docs" / "levels.md"
BLOCKS = re.findall(r"^## (\d+)\..*?^```\n(.*?)^```", DOC.read_text("utf-8"), re.DOTALL | re.MULTILINE)
SAID = re.compile(r"(.+?) (at|behind|for) (.+?)(?:: (-?[\d.]+)(?: peak (-?[\d.]+))?(?: clip (-?[\d.]+))?)?$")


def test_there_are_ten_of_them():
    assert [number for number, _ in BLOCKS] == [str(n) for n in range(1, 11)]


@pytest.mark.parametrize(("number", "block"), BLOCKS, ids=[f"example {n}" for n, _ in BLOCKS])
def test_a_worked_example_comes_out_as_it_is_written(number, block):
    lines = block.splitlines()
    show = build([x for x in lines if not x.startswith("=")], Show(title="Worked"))
    levels = PortLevels(CueSolution(show, None))
    expected = [x[2:] for x in lines if x.startswith("=")]
    assert expected
    for said in expected:
        match = SAID.match(said)
        assert match is not None, said
        what, how, where, typical, peak, clip = match.groups()
        if how == "for":
            found = programme_lufs(levels, next(x for x in show.listeners if x.name == where))
            assert found == pytest.approx(float(typical), abs=0.1), said
        elif how == "behind":
            control = next(c for c in show.controls() if c.name == where)
            stage = next(s for s in gain_stages(show, None) if s.control == control.id)
            level = stage.level(levels, next(s.id for s in show.sounds if s.name == what))
            compare(said, (level.typical, level.peak, stage.clip_db), (typical, peak, clip))
        else:
            port = socket(show, where)
            place = port, 1
            if what == "noise":
                assert levels.noise[place] == pytest.approx(float(typical), abs=0.1), said
            elif what == "nothing":
                assert levels.together(place).typical == SILENT
            else:
                sound = next((s.id for s in show.sounds if s.name == what), None)
                level = levels.together(place) if sound is None else levels.level(place, sound)
                compare(said, (level.typical, level.peak, levels.clip(place)), (typical, peak, clip))


def socket(show: Show, name: str) -> str:
    """A socket by its label, an output before an input; what is called a capsule is the input of a microphone."""
    plain = name.removesuffix(" capsule")
    named = [p for p in show.ports if show.port_label(p).lower() == plain.lower()]
    wanted = "in" if plain != name else "out"
    return min(named, key=lambda p: show.port(p).direction != wanted)


def compare(said: str, found: tuple[float | None, ...], wanted: tuple[str | None, ...]) -> None:
    for one, other in zip(found, wanted, strict=True):
        assert other is None or one == pytest.approx(float(other), abs=0.1), said
