"""The first day: five things to look at in the demo, one click each. It stands at the foot and blocks nothing."""

from collections.abc import Callable
from typing import TYPE_CHECKING

from msgspec import Struct
from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QFrame, QHBoxLayout, QPushButton, QSizePolicy

from kymaton.app.widgets.basic import button, label

if TYPE_CHECKING:
    from kymaton.app.window import Window


class Look(Struct, frozen=True):
    """One thing to look at: what it is, and a button that shows it."""

    text: str
    show: str
    act: "Callable[[Window], object]"


def _song(window: "Window") -> None:
    window.go("hearing")
    window.document.choose_cue("song")


def _cell(window: "Window", sound: str | None) -> None:
    window.go("hearing")
    window.document.choose_cue("guest-talk")
    window.document.select("ilse", sound)


def _path(window: "Window") -> None:
    _cell(window, "ilse")
    window.go("path")


def _card(window: "Window") -> None:
    _cell(window, None)
    window.findings.show()
    window.findings.open(window.findings.cards()[0])


LOOKS = (
    Look(
        "The parts of the evening stand in a row above. The number beside a part counts what would go wrong in it.",
        "Go to Song",
        _song,
    ),
    Look(
        "Sounds go down, listeners across. Discs are as planned; every shape in colour is wrong: Ilse hears herself.",
        "Show Ilse's own voice",
        lambda window: _cell(window, "ilse"),
    ),
    Look(
        "A name above the table shows what that listener hears, and when: each dot is an arrival, later to the right.",
        "Show all that Ilse hears",
        lambda window: _cell(window, None),
    ),
    Look(
        "On the map a line carries sound, a double line picture. Inked is the way of the chosen sound to the listener.",
        "Show the way of her voice",
        _path,
    ),
    Look(
        "A card says what is wrong and why, with the button that cures it. Everything can be undone with Ctrl+Z.",
        "Open the first card",
        _card,
    ),
)


class Guide(QFrame):
    """A strip with one thing after the other; `closed` when it is put away, which is for good."""

    closed = pyqtSignal()

    def __init__(self, window: "Window") -> None:
        super().__init__()
        self.window_ = window
        self.at = 0
        self.setObjectName("guide")
        self.setAccessibleName("The first day: five things to look at")
        row = QHBoxLayout(self)
        row.setContentsMargins(20, 8, 14, 8)
        row.setSpacing(8)
        self.number = label("", "figures")
        self.text = label("", "", wrap=True)
        self.text.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Minimum)
        self.show_button: QPushButton = button("", self.look, "main")
        self.next_button = button("Next", self.next, "quiet", "The next thing to look at")
        row.addWidget(self.number)
        row.addWidget(self.text, 1)
        for part in (
            self.show_button,
            self.next_button,
            button("Close", self.close_for_good, "quiet", "It does not come back by itself; Help in the menu has it"),
        ):
            row.addWidget(part)
        self.hide()

    def begin(self) -> None:
        """From the first thing on."""
        self.at = 0
        self._tell()
        self.show()

    def look(self) -> None:
        """Show what is talked about."""
        LOOKS[self.at].act(self.window_)

    def next(self) -> None:
        if self.at + 1 == len(LOOKS):
            self.close_for_good()
            return
        self.at += 1
        self._tell()

    def _tell(self) -> None:
        look = LOOKS[self.at]
        self.number.setText(f"{self.at + 1} of {len(LOOKS)}")
        self.text.setText(look.text)
        self.show_button.setText(look.show)
        self.next_button.setText("Next" if self.at + 1 < len(LOOKS) else "Done")

    def close_for_good(self) -> None:
        self.hide()
        self.closed.emit()
