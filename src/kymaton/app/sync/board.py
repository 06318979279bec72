"""A clap board to print: a sheet that is folded, held open before the camera, and clapped shut."""

from pathlib import Path

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QColor, QPainter, QPen

from kymaton.app.pdf import pdf
from kymaton.app.theme.theme import THEME, figures, tokens, words
from kymaton.core.measuring.marks_by_hand import steps
from kymaton.core.model import Show

SHEET = QRectF(0, 0, 1120, 790)  # A4 lying, in units of a quarter of a millimetre


def write_board(show: Show, path: Path) -> None:
    """The sheet as a PDF. Raises FileError."""
    with pdf(path, f"{show.title}: clap board", 8.0, SHEET.width(), lying=True) as (_, painter), THEME.as_on_paper():
        draw_board(show, painter)


def draw_board(show: Show, painter: QPainter) -> None:
    """Left half dark, right half light, and the fold between them; below who and where, above how."""
    t = tokens()
    painter.setPen(QColor(t.ink))
    painter.setFont(words(20, 600))
    painter.drawText(QRectF(0, 0, 760, 30), Qt.AlignmentFlag.AlignLeft, show.title)
    painter.setFont(words(15))
    facts = ", ".join(x for x in (show.date, f"{show.picture.rate.removesuffix('/1')} frames a second") if x)
    painter.drawText(QRectF(700, 4, 420, 24), Qt.AlignmentFlag.AlignRight, facts)
    field = QRectF(0, 40, SHEET.width(), 440)
    middle = field.center().x()
    painter.fillRect(QRectF(field.left(), field.top(), field.width() / 2, field.height()), QColor("black"))
    painter.setPen(QPen(QColor("black"), 3))
    painter.drawRect(field)
    painter.setBrush(QColor("white"))
    painter.drawEllipse(QPointF((field.left() + middle) / 2, field.center().y()), 120, 120)
    painter.setBrush(QColor("black"))
    painter.drawEllipse(QPointF((field.right() + middle) / 2, field.center().y()), 120, 120)
    painter.setPen(QPen(QColor(t.soft), 1, Qt.PenStyle.DashLine))
    painter.drawLine(QPointF(middle, field.top() - 8), QPointF(middle, field.bottom() + 8))
    painter.setPen(QColor(t.soft))
    painter.setFont(words(13))
    fold = QRectF(middle - 300, field.bottom() + 8, 600, 20)
    text = "fold here, hold it open to the camera, clap the halves shut"
    painter.drawText(fold, Qt.AlignmentFlag.AlignHCenter, text)
    painter.setPen(QPen(QColor(t.ink), 1))
    for at, word in enumerate(("Camera", "Microphone", "Recorded at", "Take")):
        left = at * SHEET.width() / 4
        painter.setFont(words(13))
        painter.drawText(QRectF(left, 520, 200, 20), Qt.AlignmentFlag.AlignLeft, word)
        painter.drawLine(QPointF(left, 570), QPointF(left + SHEET.width() / 4 - 24, 570))
    for at, text in enumerate(steps(show)):
        top = 592 + 38 * at
        painter.setFont(figures(15, 600))
        painter.drawText(QRectF(0, top, 24, 38), Qt.AlignmentFlag.AlignLeft, str(at + 1))
        painter.setFont(words(14))
        wrapped = Qt.AlignmentFlag.AlignLeft | Qt.TextFlag.TextWordWrap
        painter.drawText(QRectF(28, top, SHEET.width() - 28, 38), wrapped, text)
