"""Ctrl+K: one box to find and do anything."""

from collections.abc import Callable

from msgspec import Struct
from PyQt6.QtCore import QEvent, QObject, Qt
from PyQt6.QtGui import QKeyEvent
from PyQt6.QtWidgets import QFrame, QLineEdit, QListWidget, QListWidgetItem, QVBoxLayout, QWidget

MOST = 60


class Entry(Struct, frozen=True):
    """Something that can be found: its name, what kind of thing it is, what choosing it does."""

    name: str
    kind: str
    act: Callable[[], object]
    enabled: bool = True


def matching(entries: list[Entry], text: str) -> list[Entry]:
    """Entries that hold all words of the text, those that begin with it first."""
    wanted = text.lower().split()
    found = [e for e in entries if e.enabled and all(w in f"{e.name} {e.kind}".lower() for w in wanted)]
    if wanted:
        found.sort(key=lambda e: (not e.name.lower().startswith(text.lower().strip()), len(e.name)))
    return found[:MOST]


class Finder(QFrame):
    """The box, with what matches below it. Enter does the chosen one, Escape goes back."""

    def __init__(
        self, parent: QWidget, entries: Callable[[], list[Entry]], questions: Callable[[str], list[Entry]]
    ) -> None:
        super().__init__(parent)
        self.entries, self.questions = entries, questions
        self.found: list[Entry] = []
        self.setObjectName("palette")
        self.setFixedSize(460, 366)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(10, 10, 10, 10)
        self.line = QLineEdit()
        self.line.setPlaceholderText("Find a cue, a sound, a device, a command; or ask: who hears …")
        self.line.setAccessibleName("Find anything")
        self.list = QListWidget()
        self.list.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.list.setAccessibleName("What was found")
        layout.addWidget(self.line)
        layout.addWidget(self.list)
        self.line.textChanged.connect(self.search)
        self.line.returnPressed.connect(self.act)
        self.list.itemClicked.connect(lambda _: self.act())
        self.line.installEventFilter(self)
        self.hide()

    def popup(self) -> None:
        parent = self.parentWidget()
        assert parent is not None
        self.move((parent.width() - self.width()) // 2, 64)
        self.line.clear()
        self.search("")
        self.show()
        self.raise_()
        self.line.setFocus()

    def search(self, text: str) -> None:
        self.found = [*self.questions(text), *matching(self.entries(), text)][:MOST]
        self.list.clear()
        for entry in self.found:
            self.list.addItem(QListWidgetItem(f"{entry.name}   ({entry.kind})" if entry.kind else entry.name))
        if not self.found:
            self.list.addItem(QListWidgetItem("Nothing found"))
        self.list.setCurrentRow(0)

    def act(self) -> None:
        row = self.list.currentRow()
        self.hide()
        if 0 <= row < len(self.found):
            self.found[row].act()

    def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:
        if isinstance(event, QKeyEvent) and event.type() == QEvent.Type.KeyPress:
            if event.key() in (Qt.Key.Key_Down, Qt.Key.Key_Up):
                step = 1 if event.key() == Qt.Key.Key_Down else -1
                self.list.setCurrentRow(max(0, min(self.list.count() - 1, self.list.currentRow() + step)))
                return True
            if event.key() == Qt.Key.Key_Escape:
                self.hide()
                return True
        if event is not None and event.type() == QEvent.Type.FocusOut and not self.list.underMouse():
            self.hide()
        return False
