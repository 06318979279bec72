"""The frame of the window: rail, top bar, notices, the place of the steps, the foot.

It knows nothing of a show and loads nothing that computes, so it stands on the screen before the rest is there.
"""

from collections.abc import Callable
from functools import partial

from PyQt6.QtCore import QSize, Qt
from PyQt6.QtGui import QFontMetrics, QResizeEvent
from PyQt6.QtWidgets import QFrame, QHBoxLayout, QMainWindow, QSizePolicy, QStackedWidget, QVBoxLayout, QWidget

from kymaton.app.menu import MenuButton
from kymaton.app.settings import Settings
from kymaton.app.theme.theme import words
from kymaton.app.widgets.basic import button, label, plain_tip
from kymaton.app.widgets.rail import Rail, Step

STEPS = [
    Step("brief", "Brief", 1), Step("path", "Path", 2), Step("hearing", "Hearing", 3),
    Step("levels", "Levels", 4), Step("sync", "Sync", 5), Step("load-in", "Load-in", 6), Step("log", "Log", 7),
]  # fmt: skip
NARROW_BELOW = 1120
MOST_NOTICES = 3


class Frame(QMainWindow):
    """Rail and top bar; `stack` holds the steps, `middle` what stands beside them, `foot` what stands below."""

    def __init__(self, settings: Settings) -> None:
        super().__init__()
        self.settings = settings
        self.setMinimumSize(QSize(960, 620))
        self.resize(1280, 800)
        self.rail = Rail(STEPS)
        self.name = MenuButton()
        self.facts = label("", "small")
        self.facts.setContentsMargins(8, 0, 0, 0)
        self.stack = QStackedWidget()
        self.bar, self.notices, self.middle, self.foot = QHBoxLayout(), QVBoxLayout(), QHBoxLayout(), QVBoxLayout()
        self._put_together()

    @property
    def is_narrow(self) -> bool:
        return self.width() < NARROW_BELOW

    def _put_together(self) -> None:
        top = QFrame()
        top.setObjectName("top")
        top.setFixedHeight(54)
        top.setLayout(self.bar)
        self.bar.setContentsMargins(12, 0, 14, 0)
        self.bar.setSpacing(10)
        named = QVBoxLayout()
        named.setContentsMargins(0, 4, 0, 6)
        named.setSpacing(0)
        named.addWidget(self.name, 0, Qt.AlignmentFlag.AlignLeft)
        named.addWidget(self.facts)
        self.bar.addLayout(named)
        self.notices.setSpacing(0)
        self.middle.setSpacing(0)
        self.middle.addWidget(self.stack, 1)
        right, whole = QWidget(), QWidget()
        column, row = QVBoxLayout(right), QHBoxLayout(whole)
        for layout in (column, row):
            layout.setContentsMargins(0, 0, 0, 0)
            layout.setSpacing(0)
        column.addWidget(top)
        column.addLayout(self.notices)
        column.addLayout(self.middle, 1)
        column.addLayout(self.foot)
        row.addWidget(self.rail)
        row.addWidget(right, 1)
        self.setCentralWidget(whole)

    def tell_name(self, title: str, facts: str) -> None:
        """The show's name and what stands below it."""
        metrics = QFontMetrics(words(15, 600))
        room = (250 if self.is_narrow else 300) - 40
        self.name.setText(metrics.elidedText(title, Qt.TextElideMode.ElideRight, room))
        self.name.setToolTip(plain_tip(f"{title}: what can be done with the show (Alt+F)"))
        self.facts.setText(facts)

    def notice(self, text: str, *actions: tuple[str, Callable[[], object]]) -> None:
        """A bar under the top bar that says something and goes away when it is closed."""
        bar = QFrame()
        bar.setObjectName("notice")
        row = QHBoxLayout(bar)
        row.setContentsMargins(20, 6, 12, 6)
        said = label(text, "", wrap=True)
        said.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Minimum)
        row.addWidget(said, 1)

        def close() -> None:
            bar.hide()
            bar.deleteLater()

        def do(act: Callable[[], object]) -> None:
            close()
            act()

        for name, act in actions:
            row.addWidget(button(name, partial(do, act), "quiet"))
        row.addWidget(button("Close", close, "quiet"))
        while self.notices.count() >= MOST_NOTICES:
            item = self.notices.takeAt(0)
            oldest = item.widget() if item is not None else None
            if oldest is not None:
                oldest.hide()
                oldest.deleteLater()
        self.notices.addWidget(bar)

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        self.rail.set_narrow(self.is_narrow)
