"""The menu of the show: a button with the show's name, and what can be done with the whole of it, in groups."""

from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt
from PyQt6.QtGui import QAction, QColor, QFontMetrics, QPainter, QPaintEvent
from PyQt6.QtWidgets import QMenu, QPushButton

from kymaton.app.theme.marks import draw_icon
from kymaton.app.theme.theme import THEME, tokens, words
from kymaton.app.widgets.basic import plain_tip

if TYPE_CHECKING:
    from kymaton.language.starters import Starter

SIDE, ARROW = 8, 20


class MenuButton(QPushButton):
    """A name with an arrow behind it; pressed, its menu opens below."""

    def __init__(self) -> None:
        super().__init__()
        self.setAutoDefault(False)
        THEME.changed.connect(self.update)

    def set_filling(self, fill: Callable[[QMenu], None]) -> None:
        """The menu is filled anew by `fill` whenever it is opened."""
        menu = QMenu(self)
        menu.setToolTipsVisible(True)

        def anew() -> None:
            menu.clear()
            for old in menu.findChildren(QMenu, options=Qt.FindChildOption.FindDirectChildrenOnly):
                old.deleteLater()  # a menu that is cleared keeps its submenus
            fill(menu)

        menu.aboutToShow.connect(anew)
        self.setMenu(menu)

    def sizeHint(self) -> QSize:
        wide = QFontMetrics(words(15, 600)).horizontalAdvance(self.text())
        return QSize(2 * SIDE + wide + ARROW, 26)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        t, painter = tokens(), QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        box = QRectF(self.rect()).adjusted(0.5, 0.5, -0.5, -0.5)
        painter.setPen(QColor(t.ink) if self.hasFocus() else Qt.PenStyle.NoPen)
        painter.setBrush(QColor(t.wash) if self.underMouse() or self.isDown() else Qt.BrushStyle.NoBrush)
        painter.drawRoundedRect(box, 5, 5)
        painter.setFont(words(15, 600))
        painter.setPen(QColor(t.ink))
        painter.drawText(box.adjusted(SIDE, 0, 0, 0), Qt.AlignmentFlag.AlignVCenter, self.text())
        draw_icon(painter, "down", QPointF(box.right() - ARROW, box.center().y() - 8), t.soft)


class ShowMenu:
    """Fills the menu anew whenever it is opened. `actions` are those of the window, by id."""

    def __init__(
        self,
        actions: dict[str, QAction],
        recent: Callable[[], list[Path]],
        open_: Callable[[Path], object],
        start: "Callable[[Starter], object]",
    ) -> None:
        self.actions, self.recent, self.open, self.start = actions, recent, open_, start

    def fill(self, menu: QMenu) -> None:
        menu.addAction(self.actions["new"])
        self._begin(_submenu(menu, "New show from"))
        menu.addAction(self.actions["open"])
        self._recent(_submenu(menu, "Open recent"))
        menu.addAction(self.actions["demo"])
        menu.addSeparator()
        self._put(menu, "save", "save-as", "rename")
        self._put(_submenu(menu, "Import and export"), "import", "export", "export-map", "print-map")
        menu.addSeparator()
        self._put(menu, "undo", "redo", "find")
        menu.addSeparator()
        self._put(_submenu(menu, "Look"), "theme-day", "theme-night", "theme-desktop", "findings")
        self._put(_submenu(menu, "Help"), "help", "guide")
        menu.addAction(self.actions["quit"])

    def _put(self, menu: QMenu, *ids: str) -> None:
        for id in ids:
            menu.addAction(self.actions[id])

    def _begin(self, menu: QMenu) -> None:
        from kymaton.language.starters import STARTERS

        self._put(menu, "next-show")
        menu.addSeparator()
        for starter in STARTERS:
            made = menu.addAction(starter.title)
            assert made is not None
            made.setToolTip(starter.about)
            made.triggered.connect(lambda _, starter=starter: self.start(starter))

    def _recent(self, menu: QMenu) -> None:
        paths = self.recent()
        for path in paths:
            entry = menu.addAction(path.name)
            assert entry is not None
            entry.setToolTip(plain_tip(str(path)))
            entry.triggered.connect(lambda _, path=path: self.open(path))
        menu.setEnabled(bool(paths))


def _submenu(menu: QMenu, title: str) -> QMenu:
    made = menu.addMenu(title)
    assert made is not None
    made.setToolTipsVisible(True)
    return made
