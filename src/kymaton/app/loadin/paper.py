"""The sheets on paper, laid out page by page so that no word is cut, and labels for both ends of leads; as PDF."""

import math
from collections.abc import Sequence
from pathlib import Path

import segno
from msgspec import Struct
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QColor, QFont, QFontMetricsF, QPainter, QPen

from kymaton.app.pdf import pdf
from kymaton.app.theme.theme import figures, words
from kymaton.core.errors import ShowError
from kymaton.core.loadin.leads import Label, labels_of
from kymaton.core.loadin.sheet import Row, Sheet
from kymaton.core.model import Show

# in quarters of a millimetre, A4 upright
UNIT_MM = 0.25
MARGIN_MM = 12.0
WIDE, HIGH = (210 - 2 * MARGIN_MM) / UNIT_MM, (297 - 2 * MARGIN_MM) / UNIT_MM
FOOT = 28.0
BOX, GAP, LINE = 15.0, 10.0, 5.0
LEAST_PART = 0.3  # of a page that has to be left for a sheet to begin on it; chosen
OWN_PAGE = ("packing", "order", "cables", "inputs", "patch")
INK, SOFT, RULE, SHADE = QColor("#000000"), QColor("#333333"), QColor("#999999"), QColor("#e6e6e6")
BETWEEN_WORDS = int(Qt.TextFlag.TextWordWrap | Qt.AlignmentFlag.AlignLeft)
ANYWHERE = int(Qt.TextFlag.TextWrapAnywhere | Qt.AlignmentFlag.AlignLeft)


def wrap(metrics: QFontMetricsF, text: str, width: float) -> int:
    """How a text is broken into lines: between words, unless one of them is wider than its column."""
    widest = max((metrics.horizontalAdvance(word) for word in text.split()), default=0.0)
    return BETWEEN_WORDS if widest < width else ANYWHERE


class Piece(Struct, frozen=True):
    """A text in its place on a page; `style` is title, note, head, heading or cell; a `box` stands for a tick."""

    page: int
    at: tuple[float, float, float, float]
    text: str
    style: str
    box: bool = False


class Laid(Struct, frozen=True):
    """All pieces and rules of all pages."""

    pieces: tuple[Piece, ...]
    rules: tuple[tuple[int, float], ...]
    pages: int
    starts: dict[str, int]


def _fonts() -> dict[str, QFont]:
    return {
        "title": words(26, 600), "note": words(13), "head": words(12, 600), "heading": words(14, 600),
        "cell": words(13), "foot": words(11),
    }  # fmt: skip


class _Layout:
    """Puts rows under each other, and goes to the next page where one does not fit."""

    def __init__(self) -> None:
        self.fonts = _fonts()
        self.metrics = {style: QFontMetricsF(font) for style, font in self.fonts.items()}
        self.pieces: list[Piece] = []
        self.rules: list[tuple[int, float]] = []
        self.page, self.y = 0, 0.0
        self.starts: dict[str, int] = {}

    def height(self, text: str, width: float, style: str) -> float:
        """How high a text is in a column, whole lines."""
        metrics = self.metrics[style]
        box = metrics.boundingRect(QRectF(0, 0, width, 1e5), wrap(metrics, text, width), text or " ")
        return math.ceil(max(box.height(), metrics.height())) + 2.0

    def put(self, text: str, x: float, width: float, style: str, high: float, box: bool = False) -> None:
        """A text here."""
        self.pieces.append(Piece(self.page, (x, self.y, width, high), text, style, box))

    def new_page(self) -> None:
        """The next page."""
        self.page, self.y = self.page + 1, 0.0

    @property
    def left(self) -> float:
        """What is left of the page."""
        return HIGH - FOOT - self.y

    def sheet(self, sheet: Sheet) -> None:
        """A sheet from here on."""
        if self.y and (sheet.id in OWN_PAGE or self.left < LEAST_PART * HIGH):
            self.new_page()
        elif self.y:
            self.y += 3 * GAP
        self.starts[sheet.id] = self.page
        for text, style in ((sheet.title, "title"), (sheet.note, "note")):
            if text:
                high = self.height(text, WIDE, style)
                self.put(text, 0, WIDE, style, high)
                self.y += high
        self.y += GAP / 2
        indent = BOX + GAP if sheet.tick else 0.0
        whole = sum(share for _, share in sheet.columns)
        widths = [(WIDE - indent) * share / whole for _, share in sheet.columns]
        self.head(sheet, widths, indent)
        for at, row in enumerate(sheet.rows):
            high = self.row_height(row, widths)
            after = sheet.rows[at + 1] if row.heading and at + 1 < len(sheet.rows) else None
            needed = high + (self.row_height(after, widths) if after else 0.0)
            if needed > self.left:
                self.new_page()
                self.put(f"{sheet.title}, further", 0, WIDE, "heading", self.height("X", WIDE, "heading"))
                self.y += self.height("X", WIDE, "heading") + GAP / 2
                self.head(sheet, widths, indent)
            self.row(row, widths, indent, high)

    def head(self, sheet: Sheet, widths: Sequence[float], indent: float) -> None:
        """The names of the columns."""
        high = max(self.height(n, w - GAP, "head") for (n, _), w in zip(sheet.columns, widths, strict=True))
        x = indent
        for (name, _), width in zip(sheet.columns, widths, strict=True):
            if name:
                self.put(name, x, width - GAP, "head", high)
            x += width
        self.y += high
        self.rules.append((self.page, self.y))
        self.y += LINE

    def row_height(self, row: Row, widths: Sequence[float]) -> float:
        """How high a row is."""
        if row.heading:
            return GAP + self.height(row.cells[0], WIDE, "heading")
        return LINE + max(self.height(c, w - GAP, "cell") for c, w in zip(row.cells, widths, strict=True))

    def row(self, row: Row, widths: Sequence[float], indent: float, high: float) -> None:
        """A row, with its box where it can be ticked."""
        if row.heading:
            self.y += GAP
            self.put(row.cells[0], 0, WIDE, "heading", high - GAP)
            self.y += high - GAP
            return
        if row.key and indent:
            self.put("", 0, BOX, "cell", BOX, True)
        x = indent
        for text, width in zip(row.cells, widths, strict=True):
            if text:
                self.put(text, x, width - GAP, "cell", high - LINE)
            x += width
        self.y += high
        self.rules.append((self.page, self.y - LINE / 2))


def lay_out(sheets: Sequence[Sheet]) -> Laid:
    """Where everything stands."""
    layout = _Layout()
    for sheet in sheets:
        layout.sheet(sheet)
    return Laid(tuple(layout.pieces), tuple(layout.rules), layout.page + 1, layout.starts)


def write_sheets(show: Show, sheets: Sequence[Sheet], path: Path) -> int:
    """The sheets as a PDF; how many pages it has. Raises FileError."""
    laid = lay_out(sheets)
    facts = ", ".join(x for x in (show.title, show.venue, show.date) if x)
    by_page: dict[int, list[Piece]] = {}
    for piece in laid.pieces:
        by_page.setdefault(piece.page, []).append(piece)
    rules: dict[int, list[float]] = {}
    for page, y in laid.rules:
        rules.setdefault(page, []).append(y)
    fonts = _fonts()
    with pdf(path, f"{show.title}: load-in", MARGIN_MM, WIDE) as (writer, painter):
        for page in range(laid.pages):
            if page:
                writer.newPage()
            for piece in by_page.get(page, ()):
                _draw(painter, piece, fonts[piece.style])
            painter.setPen(QPen(RULE, 0.8))
            for y in rules.get(page, ()):
                painter.drawLine(QPointF(0, y), QPointF(WIDE, y))
            painter.setPen(SOFT)
            painter.setFont(fonts["foot"])
            foot = QRectF(0, HIGH - 16, WIDE, 16)
            painter.drawText(foot, int(Qt.AlignmentFlag.AlignLeft), facts)
            painter.drawText(foot, int(Qt.AlignmentFlag.AlignRight), f"{page + 1} of {laid.pages}")
    return laid.pages


def _draw(painter: QPainter, piece: Piece, font: QFont) -> None:
    x, y, width, high = piece.at
    if piece.box:
        painter.setPen(QPen(INK, 1.2))
        painter.drawRect(QRectF(x + 1, y + 1, BOX - 2, BOX - 2))
        return
    if piece.style == "heading":
        painter.fillRect(QRectF(x, y, width, high), SHADE)
    painter.setFont(font)
    painter.setPen(SOFT if piece.style in ("note", "head") else INK)
    painter.drawText(QRectF(x, y, width, high), wrap(QFontMetricsF(font), piece.text, width), piece.text)


class LabelSheet(Struct, frozen=True):
    """A sheet of labels by its measures in mm: how wide and high one is; they stand close, in the middle of A4."""

    width_mm: float = 60.0
    height_mm: float = 24.0

    @property
    def columns(self) -> int:
        """How many stand beside each other."""
        return int((210 - 12) // self.width_mm)

    @property
    def rows(self) -> int:
        """How many stand under each other."""
        return int((297 - 20) // self.height_mm)


def read_label_size(text: str) -> LabelSheet:
    """`60x24`: mm wide and high. Raises ShowError."""
    parts = text.lower().replace("mm", "").replace(" ", "").split("x")
    try:
        sheet = LabelSheet(float(parts[0]), float(parts[1]))
    except (ValueError, IndexError):
        raise ShowError(f"'{text}' is no size of labels: say 60x24, in mm.") from None
    if not 25 <= sheet.width_mm <= 198 or not 10 <= sheet.height_mm <= 277:
        raise ShowError("Labels are 25 to 198 mm wide and 10 to 277 mm high.")
    return sheet


def write_labels(show: Show, sheet: LabelSheet, path: Path) -> int:
    """Labels for both ends of every lead as a PDF; how many pages it has. Raises FileError."""
    labels = labels_of(show)
    each = sheet.columns * sheet.rows
    wide, high = sheet.width_mm / UNIT_MM, sheet.height_mm / UNIT_MM
    left = (WIDE - sheet.columns * wide) / 2
    top = (HIGH - sheet.rows * high) / 2
    with pdf(path, f"{show.title}: labels", MARGIN_MM, WIDE) as (writer, painter):
        for at, label in enumerate(labels):
            if at and at % each == 0:
                writer.newPage()
            row, column = divmod(at % each, sheet.columns)
            _draw_label(painter, QRectF(left + column * wide, top + row * high, wide, high), label)
    return max(1, math.ceil(len(labels) / each))


def _draw_label(painter: QPainter, area: QRectF, label: Label) -> None:
    """Number and code at the left, this end large, the other end below."""
    painter.setPen(QPen(RULE, 0.6))
    painter.drawRect(area)
    inside = area.adjusted(6, 5, -6, -5)
    side = min(inside.height(), inside.width() / 3)
    _draw_code(painter, QRectF(inside.left(), inside.top(), side, side), label.code)
    text = QRectF(inside.left() + side + 8, inside.top(), inside.width() - side - 8, inside.height())
    painter.setPen(INK)
    size = LARGEST
    while size > SMALLEST and sum(high for *_, high in _lines(label, text.width(), size)) > text.height():
        size -= 1
    y = text.top()
    for words_, font, high in _lines(label, text.width(), size):
        painter.setFont(font)
        flags = wrap(QFontMetricsF(font), words_, text.width())
        painter.drawText(QRectF(text.left(), y, text.width(), high), flags, words_)
        y += high


LARGEST, SMALLEST = 20, 6


def _lines(label: Label, width: float, size: int) -> list[tuple[str, QFont, float]]:
    """Number, this end and the other end, each with its font and how high it is."""
    found = []
    for text, font in (
        (label.number, figures(size, 600)),
        (label.here, words(size, 600)),
        (f"to {label.there}", words(max(5, size - 3))),
    ):
        metrics = QFontMetricsF(font)
        box = metrics.boundingRect(QRectF(0, 0, width, 1e4), wrap(metrics, text, width), text)
        found.append((text, font, math.ceil(max(box.height(), metrics.height())) + 1.0))
    return found


def _draw_code(painter: QPainter, area: QRectF, text: str) -> None:
    """A QR code (ISO/IEC 18004) of the text, without its quiet zone: paper is around it."""
    matrix = segno.make(text, error="m", micro=False).matrix
    step = area.width() / len(matrix)
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(INK)
    for y, line in enumerate(matrix):
        for x, dark in enumerate(line):
            if dark:
                painter.drawRect(QRectF(area.left() + x * step, area.top() + y * step, step, step))
    painter.setBrush(Qt.BrushStyle.NoBrush)
