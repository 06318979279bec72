"""What stands on a plate of the map, in the room that it has."""

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QFont, QFontMetricsF

from kymaton.app.path.layout import Plate
from kymaton.app.theme.theme import words


def title_font(title: str, room: float) -> QFont:
    """The font in which a title fits a plate: 12 px, or 11."""
    font = words(12, 600)
    return font if QFontMetricsF(font).horizontalAdvance(title) <= room else words(11, 600)


def plate_lines(plate: Plate, uses: str, room: float) -> list[tuple[str, QFont, bool]]:
    """What stands on a plate, line by line, with its font, and whether it is drawn softly.

    `uses` is what the chosen route uses of the device; it gives way to the device's detail when it does not fit, and
    the detail to the second half of a long name.
    """
    font, small = title_font(plate.title, room), words(11)

    def wide(text: str, of: QFont) -> float:
        return QFontMetricsF(of).horizontalAdvance(text)

    def fitted(text: str, of: QFont) -> str:
        return QFontMetricsF(of).elidedText(text, Qt.TextElideMode.ElideRight, room)

    if not plate.two_lines:
        return [(fitted(plate.title, font), font, False)]
    head, _, tail = plate.title.rpartition(" ")
    if wide(plate.title, font) > room and head:
        return [(fitted(head, font), font, False), (fitted(tail, font), font, False)]
    below = uses if uses and wide(uses, small) <= room else plate.detail
    return [(fitted(plate.title, font), font, False), (fitted(below, small), small, True)]
