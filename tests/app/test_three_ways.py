"""One rig by lines, by mouse in the window, and from an input list: the same show each time."""

from pathlib import Path

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QApplication

from kymaton.language.commands import find_controls
from kymaton.language.script import build, read_any
from kymaton.store.inputlist import add_inputs, parse_input_list
from tests.app.test_build import drag, key

RIGS = Path(__file__).parent.parent / "rigs"


@pytest.mark.parametrize("rig", [p.stem for p in sorted(RIGS.glob("*.txt"))])
def test_a_rig_by_mouse_is_the_rig_by_lines(make_window, qtbot, rig):
    """Names are typed, as names must be; devices come from the menu, leads are dragged, settings typed in the table."""
    lines = [x for x in (RIGS / f"{rig}.txt").read_text().splitlines() if x and not x.startswith("#")]
    window = make_window(None)
    hand = Hand(window, qtbot)
    for line in lines:
        hand.do(line)
    made, typed = window.document.show, build(lines)
    assert {d.id: d for d in made.devices} == {d.id: d for d in typed.devices}
    assert sorted(made.cables, key=lambda c: c.id) == sorted(typed.cables, key=lambda c: c.id)
    assert (made.sounds, made.listeners, made.plan, made.cues) == (
        typed.sounds,
        typed.listeners,
        typed.plan,
        typed.cues,
    )
    assert made.microphone_groups == typed.microphone_groups and made.title == typed.title


class Hand:
    """A hand at the window that does what a line says, each thing where it is done by mouse."""

    def __init__(self, window, qtbot):
        self.window, self.qtbot = window, qtbot

    @property
    def show(self):
        return self.window.document.show

    def do(self, line: str) -> None:
        verb = line.partition(" ")[0]
        if ">" in line:
            self.connect(line)
        elif verb in ("add", "power", "rename"):
            self.window.go("path")
            self.window.path._do(line)  # what an entry of a menu does
        elif verb == "set":
            self.set(line)
        else:
            self.window.go("brief")
            self.qtbot.mouseClick(self.window.brief.line, Qt.MouseButton.LeftButton)
            self.window.brief.line.setText(line)
            key(self.window.brief.line, Qt.Key.Key_Return)
            assert not self.window.brief.line.text(), self.window.brief.hint.text()

    def connect(self, line: str) -> None:
        """Each lead of a line: dragged from plate to plate, and chosen among what fits."""
        self.window.go("path")
        known = {c.id for c in self.show.cables}
        for lead in [c for c in read_any(self.show, line).show.cables if c.id not in known]:
            map_ = self.window.path.map
            QApplication.processEvents()
            ends = [self.plate(end) for end in (lead.source, lead.target)]
            self.qtbot.waitUntil(lambda map_=map_, ends=ends: all(e in map_.map.plates for e in ends))
            drag(self.qtbot, map_, *ends)
            assert map_.offered is not None, line
            entry = next((a for a in map_.offered.actions() if self.makes(a.text(), lead)), None)
            map_.offered.close()
            if entry is not None:
                entry.trigger()
            if entry is None or lead not in self.show.cables:  # a distance, or what stands behind the first offers
                self.window.path._do(line)
                return

    def plate(self, end: str) -> str:
        owner = end.partition("/")[0]
        id = end if owner in ("sound", "listener") else owner
        return self.window.path.map.plate_of.get(id, id)

    def makes(self, text: str, lead) -> bool:
        try:
            return lead in read_any(self.show, text).show.cables
        except ValueError:
            return False

    def set(self, line: str) -> None:
        """Each control in the table of its device."""
        name, _, value = line.removeprefix("set ").rpartition(" to ")
        for control in find_controls(self.show, name):
            self.window.go("path")
            controls = self.window.path.controls
            controls.show_device(control.id.partition("/")[0])
            table = controls.table
            row = next(r for r in range(table.rowCount()) if table.item(r, 0).text() == control.name)
            table.item(row, 1).setText(value)


def test_an_input_list_makes_what_the_same_lines_make():
    rows = parse_input_list(
        "channel,name,microphone\n1,Ada voice,dynamic\n2,Fiddle,clip-on\n3,Choir,condenser\n5,Song playback,\n", "list"
    )
    desk = build(["add desk 8 in 2 aux"])
    listed = add_inputs(desk, rows)
    typed = build(
        ["Ada voice, voice", "add dynamic mic as Ada voice mic", "Ada voice mic > desk 1 3 m",
         "ada voice > ada voice mic 0.2 m", "Fiddle, instrument", "add clip-on mic as Fiddle mic",
         "Fiddle mic > desk 2 3 m", "fiddle > fiddle mic 0.2 m", "Choir, instrument",
         "add condenser mic as Choir mic", "Choir mic > desk 3 3 m", "choir > choir mic 0.2 m",
         "Song playback, playback", "add player as Song playback player", "Song playback player > desk 5 3 m",
         "song playback > song playback player"],
        desk,
    )  # fmt: skip
    assert listed.sounds == typed.sounds and listed.people == typed.people
    assert {d.id: d for d in listed.devices} == {d.id: d for d in typed.devices}
    assert sorted(listed.cables, key=lambda c: c.id) == sorted(typed.cables, key=lambda c: c.id)
