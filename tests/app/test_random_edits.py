"""Two thousand random edits: undone, the show is the first again, byte for byte; redone, the last."""

import msgspec
from hypothesis import HealthCheck, settings
from hypothesis import strategies as st
from hypothesis.stateful import RuleBasedStateMachine, initialize, precondition, rule

from kymaton.app.document import Document
from kymaton.app.run import application
from kymaton.catalogue.registry import KINDS, make_device
from kymaton.core.edits import cables, cues, devices, people
from kymaton.core.edits.ids import free_id
from kymaton.core.edits.wishes import set_want
from kymaton.core.model import Show, ShowError, Want
from kymaton.language.patch import read_patch
from kymaton.store.showfile import parse_show, read_show, show_bytes
from tests.shows import DEMO, call_show, ids, voice

RUNNING = application()


class Editing(RuleBasedStateMachine):
    """Random edits through the document, with undo and redo between them."""

    document: Document | None = None

    @initialize(start=st.sampled_from(["empty", "empty", "call", "demo"]))
    def begin(self, start):
        shows = {"empty": Show(), "demo": read_show(DEMO), "call": call_show()}
        self.document = Document(shows[start])
        self.first = show_bytes(shows[start])

    @property
    def show(self) -> Show:
        return self.document.show

    def push(self, edit) -> None:
        before = msgspec.json.encode(self.show)
        try:
            new = edit(self.show)
        except ShowError as error:
            assert "\n" not in str(error)
            return
        assert msgspec.json.encode(self.show) == before  # an edit leaves the show it came from as it was
        self.document.edit(new, "an edit")

    @rule(kind=st.sampled_from([k.words for k in KINDS]))
    def add(self, kind):
        self.push(lambda s: devices.add_device(s, make_device(kind, [d.id for d in s.devices])))

    @rule(data=st.data())
    @precondition(lambda self: self.show.devices)
    def change_device(self, data):
        id = data.draw(st.sampled_from([d.id for d in self.show.devices]))
        what = data.draw(st.sampled_from(["remove", "rename", "duplicate", "replace"]))
        kind = data.draw(st.sampled_from([k.words for k in KINDS]))
        edits = {
            "remove": lambda s: devices.remove_device(s, id),
            "rename": lambda s: devices.rename_device(s, id, data.draw(st.sampled_from(["A", "Desk", "Box 2"]))),
            "duplicate": lambda s: devices.duplicate_device(s, id),
            "replace": lambda s: devices.replace_device(s, id, make_device(kind, ()))[0],
        }
        self.push(edits[what])

    @rule(data=st.data())
    @precondition(lambda self: self.show.devices)
    def patch(self, data):
        names = [d.name for d in self.show.devices] + [s.name for s in self.show.sounds]
        ends = names + [x.name for x in self.show.listeners]
        port = data.draw(st.sampled_from(["", " 1", " 2", " 1-2", " out", " HDMI"]))
        line = f"{data.draw(st.sampled_from(names))} > {data.draw(st.sampled_from(ends))}{port}"
        self.push(lambda s: read_patch(s, line).show)

    @rule(data=st.data())
    @precondition(lambda self: self.show.cables)
    def unplug(self, data):
        cable = data.draw(st.sampled_from([c.id for c in self.show.cables]))
        self.push(lambda s: cables.disconnect(s, [cable]))

    @rule(name=st.sampled_from(["Ada", "Bo", "Cy"]))
    def add_sound(self, name):
        id = free_id(name, [s.id for s in self.show.sounds])
        self.push(lambda s: people.add_sound(s, voice(id, person=None)))

    @rule(data=st.data())
    @precondition(lambda self: self.show.sounds)
    def remove_sound(self, data):
        id = data.draw(st.sampled_from([s.id for s in self.show.sounds]))
        self.push(lambda s: people.remove_sound(s, id))

    @rule(data=st.data())
    @precondition(lambda self: self.show.sounds and self.show.listeners)
    def wish(self, data):
        listener = data.draw(st.sampled_from([x.id for x in self.show.listeners]))
        sound = data.draw(st.sampled_from([s.id for s in self.show.sounds]))
        cue = data.draw(st.sampled_from([None, *(c.id for c in self.show.cues)]))
        self.push(lambda s: set_want(s, listener, sound, cue, data.draw(st.sampled_from(list(Want)))))

    @rule(data=st.data())
    def cues(self, data):
        have = [c.id for c in self.show.cues]
        what = data.draw(st.sampled_from(["add", "copy", "move", "remove"] if have else ["add"]))
        id = data.draw(st.sampled_from(have)) if have else ""
        edits = {
            "add": lambda s: cues.add_cue(s, "New")[0],
            "copy": lambda s: cues.add_cue(s, "Copy", like=id)[0],
            "move": lambda s: cues.move_cue(s, id, data.draw(st.integers(0, 9))),
            "remove": lambda s: cues.remove_cue(s, id),
        }
        self.push(edits[what])

    @rule(steps=st.integers(1, 5))
    def undo(self, steps):
        for _ in range(steps):
            self.document.stack.undo()

    @rule(steps=st.integers(1, 5))
    def redo(self, steps):
        for _ in range(steps):
            self.document.stack.redo()

    def teardown(self):
        if self.document is None:
            return
        stack, here = self.document.stack, self.show
        assert parse_show(show_bytes(here), "x.kymaton") == here
        ids(here)  # whatever came of it can be checked
        while stack.canRedo():
            stack.redo()
        last = show_bytes(self.show)
        while stack.canUndo():
            stack.undo()
        assert show_bytes(self.show) == self.first
        while stack.canRedo():
            stack.redo()
        assert show_bytes(self.show) == last


Editing.TestCase.settings = settings(
    max_examples=40, stateful_step_count=50, deadline=None, suppress_health_check=list(HealthCheck)
)
test_two_thousand_random_edits = Editing.TestCase
