"""A hand without sense at the window: actions, buttons, lines, lists, cells, keys and clicks at random.

    python -m tests.fuzz.window MANY SEED

Nothing may raise, in no slot and no painting, and the show that comes of it can always be saved and read again. It runs
in a process and folders of its own: dialogs for files answer at random, menus take any entry, nothing is played.
"""

import os
import random
import sys
import tempfile
import time
import traceback
from collections import Counter
from collections.abc import Callable
from pathlib import Path

from PyQt6.QtCore import QAbstractTableModel, QEvent, QPoint, Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import (
    QAbstractButton,
    QAbstractItemView,
    QComboBox,
    QFileDialog,
    QLineEdit,
    QMenu,
    QWidget,
)

NEVER = ("quit", "print-map", "save-as")  # actions that end the program or wait for somebody
LOUD = ("Play", "Stop")  # buttons that start a player
WORDS = (
    "add desk 16 in 6 aux", "add dynamic mic", "add call 2 guests", "Ann, voice, host", "Gus, voice, guest", "desk 1",
    "dynamic mic > desk 1", "desk aux 1 > in-ear", "set desk 1 gain to 30", "12 ms", "-6", "0", "1e308", "-1", "", " ",
    ">", "> >", "<b>Ann</b>", "\N{SNOWMAN}" * 40, "a" * 600, "nan", "99999999999", "../../x", "unplug desk 1",
    "swap Ann and Gus", "25 %", "10:30", "2026-12-12", "\t", "None", "\u202eevil", "x, y, z, w", "add 5 dynamic mic",
)  # fmt: skip
KEYS = [
    Qt.Key.Key_Return, Qt.Key.Key_Escape, Qt.Key.Key_Tab, Qt.Key.Key_Space, Qt.Key.Key_Delete, Qt.Key.Key_Backspace,
    Qt.Key.Key_Up, Qt.Key.Key_Down, Qt.Key.Key_Left, Qt.Key.Key_Right, Qt.Key.Key_F2, Qt.Key.Key_F8, Qt.Key.Key_F9,
    Qt.Key.Key_Home, Qt.Key.Key_End, Qt.Key.Key_D, Qt.Key.Key_C, Qt.Key.Key_V, Qt.Key.Key_A, Qt.Key.Key_Z,
]  # fmt: skip
MODIFIERS = [
    Qt.KeyboardModifier.NoModifier, Qt.KeyboardModifier.ControlModifier, Qt.KeyboardModifier.ShiftModifier,
    Qt.KeyboardModifier.AltModifier, Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.ShiftModifier,
]  # fmt: skip


class Monkey:
    """Does one thing after another to a window; what it did last is known."""

    def __init__(self, place: Path, seed: int) -> None:
        from kymaton.app.document import Document
        from kymaton.app.run import application
        from kymaton.app.settings import Settings
        from kymaton.app.window import Window
        from kymaton.store.demo import demo_show

        self.chance = random.Random(seed)
        self.app = application()
        self.place = place
        self.errors: list[str] = []
        self.did = ""
        sys.excepthook = self._caught
        for name, answer in (
            ("getOpenFileName", self._file), ("getSaveFileName", self._file), ("getOpenFileNames", self._files),
        ):  # fmt: skip
            setattr(QFileDialog, name, staticmethod(answer))
        QMenu.exec = lambda menu, *_: self._take(menu)  # type: ignore[method-assign, assignment]
        self.files = [place / "a.kymaton", place / "b.kymaton", place / "no.mp4", place / ("n" * 300), demo_show()]
        document = Document()
        document.open_copy(demo_show())
        self.window = Window(Settings(), document)
        self.window.resize(1280, 800)
        self.window.show()

    def _caught(self, kind, error, trace) -> None:
        where = "".join(traceback.format_exception(kind, error, trace)[-3:])
        self.errors.append(f"{self.did}\n{where}")

    def _file(self, *_: object) -> tuple[str, str]:
        return (str(self.chance.choice([*self.files[:4], ""])), "")

    def _files(self, *_: object) -> tuple[list[str], str]:
        return ([str(f) for f in self.chance.sample(self.files[:4], self.chance.randint(0, 2))], "")

    def _take(self, menu: QMenu) -> None:
        entries = [a for a in menu.actions() if a.isEnabled() and not a.isSeparator() and a.menu() is None]
        if entries and self.chance.random() < 0.7:
            taken = self.chance.choice(entries)
            if not self._is_barred(taken.text()):
                taken.trigger()

    def _is_barred(self, text: str) -> bool:
        return text.startswith(LOUD) or any(text == self.window.actions_[id].text() for id in NEVER)

    def _seen(self, kind: type[QWidget]) -> list:
        return [w for w in self.window.findChildren(kind) if w.isVisible() and w.isEnabled()]

    def _one(self, kind: type[QWidget]):
        found = self._seen(kind)
        return self.chance.choice(found) if found else None

    # what it does

    def action(self) -> None:
        id, action = self.chance.choice([x for x in self.window.actions_.items() if x[0] not in (*NEVER, "menu")])
        self.did = f"action {id}"
        action.trigger()

    def button(self) -> None:
        button = self._one(QAbstractButton)
        if button is not None and not self._is_barred(button.text()) and not getattr(button, "menu", lambda: None)():
            self.did = f"button {button.text()!r}"
            button.click()

    def line(self) -> None:
        line = self._one(QLineEdit)
        if line is not None:
            names = [d.name for d in self.window.document.show.devices] or ["x"]
            text = self.chance.choice([*WORDS, f"{self.chance.choice(names)} > {self.chance.choice(names)}"])
            self.did = f"line {line.accessibleName()!r}: {text[:60]!r}"
            line.setFocus()
            line.setText(text)
            line.textEdited.emit(text)
            QTest.keyClick(line, self.chance.choice([Qt.Key.Key_Return, Qt.Key.Key_Tab, Qt.Key.Key_Escape]))

    def list(self) -> None:
        box = self._one(QComboBox)
        if box is not None and box.count():
            index = self.chance.randrange(box.count())
            self.did = f"list {box.accessibleName()!r}: {index}"
            box.setCurrentIndex(index)
            box.activated.emit(index)

    def cell(self) -> None:
        view = self._one(QAbstractItemView)
        model = view.model() if view is not None else None
        if view is not None and model is not None and model.rowCount():
            columns = max(1, model.columnCount()) if isinstance(model, QAbstractTableModel) else 1
            index = model.index(self.chance.randrange(model.rowCount()), self.chance.randrange(columns))
            self.did = f"cell {view.accessibleName()!r} {index.row()}, {index.column()}"
            view.setCurrentIndex(index)
            if self.chance.random() < 0.5 and model.flags(index) & Qt.ItemFlag.ItemIsEditable:
                text = self.chance.choice(WORDS)
                self.did += f" = {text[:60]!r}"
                model.setData(index, text, Qt.ItemDataRole.EditRole)

    def key(self) -> None:
        widget = self.app.focusWidget() or self.window
        key, modifiers = self.chance.choice(KEYS), self.chance.choice(MODIFIERS)
        self.did = f"key {key.name} {modifiers} on {type(widget).__name__} {widget.accessibleName()!r}"
        QTest.keyClick(widget, key, modifiers)

    def click(self) -> None:
        widget = self._one(QWidget)
        if (
            widget is not None
            and widget.width() > 0
            and widget.height() > 0
            and not isinstance(widget, QAbstractButton)
        ):
            at = QPoint(self.chance.randrange(widget.width()), self.chance.randrange(widget.height()))
            which = self.chance.choice([Qt.MouseButton.LeftButton] * 3 + [Qt.MouseButton.RightButton])
            self.did = f"click {which.name} at {at} of {type(widget).__name__} {widget.accessibleName()!r}"
            QTest.mouseClick(widget, which, Qt.KeyboardModifier.NoModifier, at)

    def back(self) -> None:
        stack = self.window.document.stack
        self.did = "undo and redo"
        for _ in range(self.chance.randint(1, 6)):
            stack.undo() if self.chance.random() < 0.6 else stack.redo()

    def other_show(self) -> None:
        self.did = "another show"
        files = self.window.files
        self.chance.choice([files.open_demo, files.new, files.start_from_this])()

    def size(self) -> None:
        self.did = "size"
        self.window.resize(self.chance.randint(960, 1600), self.chance.randint(620, 1000))

    def go_on(self) -> None:
        """One thing more; then all events."""
        kinds: list[tuple[Callable[[], None], int]] = [
            (self.action, 8), (self.button, 8), (self.line, 10), (self.list, 4), (self.cell, 6), (self.key, 10),
            (self.click, 8), (self.back, 2), (self.other_show, 1), (self.size, 1),
        ]  # fmt: skip
        [what] = self.chance.choices([k for k, _ in kinds], [w for _, w in kinds])
        try:
            what()
        except Exception as error:
            self._caught(type(error), error, error.__traceback__)
        for popup in self.app.topLevelWidgets():
            if isinstance(popup, QMenu) and popup.isVisible():
                self._take(popup)
                popup.close()
        self._events()
        if self.chance.random() < 0.1:
            time.sleep(0.02)
            self._events()

    def _events(self) -> None:
        """All that has come up; what is to be deleted later as well, which waits for a loop that is left."""
        self.app.processEvents()
        self.app.sendPostedEvents(None, QEvent.Type.DeferredDelete)


def main(many: int, seed: int = 1) -> int:
    """Do so many things; what went wrong is printed. 0 when nothing did."""
    from kymaton.store.showfile import parse_show, show_bytes

    counts: Counter[str] = Counter()
    with tempfile.TemporaryDirectory() as folder:
        for name in ("XDG_CONFIG_HOME", "XDG_STATE_HOME", "XDG_DATA_HOME", "HOME"):
            os.environ[name] = folder
        monkey = Monkey(Path(folder), seed)
        for number in range(many):
            try:
                monkey.go_on()
                if number % 50 == 0:
                    show = monkey.window.document.show
                    assert parse_show(show_bytes(show), "x.kymaton") == show, "another show after saving"
            except Exception as error:
                monkey.errors.append("".join(traceback.format_exception(error)))
            counts[monkey.did.partition(" ")[0]] += 1
            for said in monkey.errors:
                print(f"seed {seed}, number {number}: {said}")
                counts["! " + said.strip().splitlines()[-1][:100]] += 1
            monkey.errors.clear()
        for what, times in counts.most_common():
            print(f"{times:7d}  {what}")
        sys.stdout.flush()
        wrong = any(what.startswith("!") for what in counts)
        os._exit(1 if wrong else 0)  # work may still go on


if __name__ == "__main__":
    os.environ["QT_QPA_PLATFORM"] = "offscreen"
    sys.exit(main(int(sys.argv[1]) if len(sys.argv) > 1 else 5000, int(sys.argv[2]) if len(sys.argv) > 2 else 1))
