"""The look in force: tokens, fonts and the style sheet. Widgets that paint themselves ask `tokens()`."""

from collections.abc import Iterator
from contextlib import contextmanager
from functools import cache
from pathlib import Path

from PyQt6.QtCore import QObject, Qt, pyqtSignal
from PyQt6.QtGui import QColor, QFont, QFontDatabase, QPalette, QPen
from PyQt6.QtWidgets import QApplication

from kymaton.app.theme.tokens import DAY, FIGURES, NIGHT, WORDS, Tokens

ASSETS = Path(__file__).resolve().parent.parent / "assets"


class Theme(QObject):
    """Day or night; follows the desktop until a person chooses."""

    changed = pyqtSignal()

    def __init__(self) -> None:
        super().__init__()
        self.tokens = DAY

    def load_fonts(self) -> None:
        for font in sorted((ASSETS / "fonts").glob("*.ttf")):
            QFontDatabase.addApplicationFont(str(font))

    def choose(self, name: str) -> None:
        """`day`, `night` or `desktop`."""
        application = QApplication.instance()
        assert isinstance(application, QApplication)
        if name == "desktop":
            hints = application.styleHints()
            dark = hints is not None and hints.colorScheme() == Qt.ColorScheme.Dark
            name = "night" if dark else "day"
        self.tokens = NIGHT if name == "night" else DAY
        application.setFont(words())
        application.setPalette(_palette(self.tokens))
        application.setStyleSheet(_style(self.tokens))
        self.changed.emit()

    @contextmanager
    def as_on_paper(self) -> Iterator[None]:
        """The colours of the day for what is drawn meanwhile."""
        before, self.tokens = self.tokens, DAY
        try:
            yield
        finally:
            self.tokens = before


THEME = Theme()


def tokens() -> Tokens:
    return THEME.tokens


def words(size: int = 13, weight: int = 400) -> QFont:
    """Font for words; size in px."""
    return _font(WORDS, size, weight)


def figures(size: int = 12, weight: int = 400) -> QFont:
    """Font for figures, all digits equally wide; size in px."""
    return _font(FIGURES, size, weight)


@cache
def _font(family: str, size: int, weight: int) -> QFont:
    font = QFont(family)
    font.setPixelSize(size)
    font.setWeight(QFont.Weight(weight))
    font.setFeature(QFont.Tag("locl"), 0)  # it swaps A and space for twins that a PDF could not name as letters
    return font


@cache
def pen(text: str, width: float = 1.0) -> QPen:
    """A pen in a colour; made once, for what is painted cell by cell."""
    return QPen(QColor(text), width)


@cache
def colour(text: str, alpha: float = 1.0) -> QColor:
    """A colour; made once."""
    result = QColor(text)
    result.setAlphaF(alpha)
    return result


def _palette(t: Tokens) -> QPalette:
    palette = QPalette()
    roles = QPalette.ColorRole
    for role, value in (
        (roles.Window, t.ground),
        (roles.WindowText, t.ink),
        (roles.Base, t.panel),
        (roles.AlternateBase, t.ground),
        (roles.Text, t.ink),
        (roles.PlaceholderText, t.soft),
        (roles.Button, t.raised),
        (roles.ButtonText, t.ink),
        (roles.Highlight, t.wash),
        (roles.HighlightedText, t.ink),
        (roles.ToolTipBase, t.raised),
        (roles.ToolTipText, t.ink),
        (roles.Link, t.wave),
    ):
        palette.setColor(role, QColor(value))
    for role in (roles.WindowText, roles.Text, roles.ButtonText):
        palette.setColor(QPalette.ColorGroup.Disabled, role, QColor(t.faint))
    return palette


def _style(t: Tokens) -> str:
    return f"""
QMainWindow, QDialog {{ background: {t.ground}; }}
QToolTip {{ background: {t.raised}; color: {t.ink}; border: 1px solid {t.line}; padding: 4px 6px; }}
QMenu {{ background: {t.raised}; border: 1px solid {t.line}; padding: 4px; }}
QMenu::item {{ padding: 5px 22px 5px 12px; border-radius: 4px; }}
QMenu::item:selected {{ background: {t.wash}; }}
QMenu::item:disabled {{ color: {t.faint}; }}
QMenu::separator {{ height: 1px; background: {t.line}; margin: 4px 6px; }}
QPushButton {{ background: transparent; border: 1px solid {t.wave}; border-radius: 5px; color: {t.wave};
  padding: 5px 12px; font-weight: 500; }}
QPushButton:hover {{ background: {t.wash}; }}
QPushButton:focus {{ border: 2px solid {t.ink}; padding: 4px 11px; }}
QPushButton:disabled {{ color: {t.faint}; border-color: {t.line}; }}
QPushButton[kind="main"] {{ background: {t.wave}; color: {t.on_wave}; font-weight: 600; }}
QPushButton[kind="main"]:hover {{ background: {t.ink}; border-color: {t.ink}; color: {t.ground}; }}
QPushButton[kind="main"]:disabled {{ background: {t.line}; border-color: {t.line}; color: {t.soft}; }}
QPushButton[kind="quiet"], QToolButton[kind="quiet"] {{ border: 1px solid transparent; padding: 5px 8px;
  background: transparent; color: {t.wave}; font-weight: 500; border-radius: 5px; }}
QPushButton[kind="quiet"]:hover, QToolButton[kind="quiet"]:hover {{ background: {t.wash}; }}
QPushButton[kind="quiet"]:focus, QToolButton[kind="quiet"]:focus {{ border: 1px solid {t.ink}; }}
QPushButton[kind="scope"] {{ border: 1px solid transparent; padding: 3px 8px; color: {t.soft};
  background: transparent; }}
QPushButton[kind="scope"]:hover {{ background: {t.ground}; }}
QPushButton[kind="scope"]:checked {{ color: {t.ink}; background: {t.wash}; font-weight: 600; }}
QPushButton[kind="scope"]:focus {{ border: 1px solid {t.ink}; }}
QToolButton::menu-indicator {{ image: none; }}
QLineEdit, QComboBox {{ background: {t.raised}; border: 1px solid {t.line}; border-radius: 5px; padding: 4px 8px;
  selection-background-color: {t.wash}; selection-color: {t.ink}; }}
QLineEdit:focus, QComboBox:focus {{ border: 1px solid {t.wave}; }}
QComboBox::drop-down {{ border: none; width: 18px; }}
QComboBox QAbstractItemView {{ background: {t.raised}; border: 1px solid {t.line}; selection-background-color: {t.wash};
  selection-color: {t.ink}; outline: none; }}
QCheckBox::indicator, QTableView::indicator {{ width: 14px; height: 14px; border: 1px solid {t.soft};
  border-radius: 3px; background: {t.raised}; }}
QCheckBox::indicator:checked, QTableView::indicator:checked {{ background: {t.wave}; border-color: {t.wave};
  image: url({ASSETS}/tick-{t.name}.svg); }}
QCheckBox:focus {{ color: {t.wave}; }}
QProgressBar {{ border: none; background: {t.line}; border-radius: 3px; height: 6px; }}
QProgressBar::chunk {{ background: {t.wave}; border-radius: 3px; }}
QScrollArea, QAbstractScrollArea {{ border: none; background: transparent; }}
QScrollBar:vertical {{ width: 10px; background: transparent; }}
QScrollBar:horizontal {{ height: 10px; background: transparent; }}
QScrollBar::handle {{ background: {t.line}; border-radius: 4px; min-height: 24px; min-width: 24px; margin: 1px; }}
QScrollBar::handle:hover {{ background: {t.faint}; }}
QScrollBar::add-line, QScrollBar::sub-line {{ width: 0; height: 0; }}
QScrollBar::add-page, QScrollBar::sub-page {{ background: transparent; }}
QTableView {{ background: transparent; gridline-color: {t.line}; selection-background-color: {t.wash};
  selection-color: {t.ink}; outline: none; }}
QPlainTextEdit {{ background: {t.raised}; border: 1px solid {t.line}; border-radius: 5px; padding: 2px 4px; }}
QPlainTextEdit:focus {{ border: 1px solid {t.wave}; }}
QTableView QLineEdit {{ padding: 0 4px; border-radius: 0; }}
QHeaderView {{ background: transparent; }}
QHeaderView::section {{ background: {t.ground}; color: {t.soft}; border: none; border-bottom: 1px solid {t.line};
  padding: 3px 6px; font-size: 12px; font-weight: 500; }}
QTableView QTableCornerButton::section {{ background: transparent; border: none; }}
QAbstractScrollArea::corner {{ background: transparent; border: none; }}
QScrollArea > QWidget > QWidget {{ background: transparent; }}
#panel {{ background: {t.panel}; border-left: 1px solid {t.line}; }}
#top {{ background: {t.panel}; border-bottom: 1px solid {t.line}; }}
#strip {{ background: {t.panel}; border-top: 1px solid {t.line}; }}
#card {{ background: {t.raised}; border: 1px solid {t.line}; border-radius: 6px; }}
#title {{ font-size: 20px; font-weight: 600; }}
#heading {{ font-size: 15px; font-weight: 600; }}
#strong {{ font-weight: 600; }}
#soft {{ color: {t.soft}; }}
#small {{ color: {t.soft}; font-size: 12px; }}
#figures {{ font-family: "{FIGURES}"; font-size: 12px; color: {t.ink}; }}
#notice, #guide {{ background: {t.wash}; color: {t.ink}; border-bottom: 1px solid {t.line}; }}
#guide {{ border-bottom: none; border-top: 1px solid {t.line}; }}
#problem {{ color: {t.fault}; }}
#palette, #offers {{ background: {t.raised}; border: 1px solid {t.line}; border-radius: 6px; }}
#offers {{ padding: 4px; font-family: "{FIGURES}"; }}
QListView {{ background: {t.raised}; outline: none; }}
QListView::item {{ padding: 5px 8px; border-radius: 4px; }}
QListView::item:selected {{ background: {t.wash}; color: {t.ink}; }}
"""
