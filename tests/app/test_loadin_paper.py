"""Paper and telephone: no text is cut on a page, labels are whole, and the page's own script gives ticks back."""

import json
import re

import pytest
from PyQt6.QtCore import QRectF
from PyQt6.QtGui import QFontMetricsF
from PyQt6.QtPdf import QPdfDocument
from PyQt6.QtQml import QJSEngine

from kymaton.app.loadin.paper import (
    FOOT,
    HIGH,
    WIDE,
    LabelSheet,
    _fonts,
    lay_out,
    read_label_size,
    wrap,
    write_labels,
    write_sheets,
)  # fmt: skip
from kymaton.app.theme.theme import THEME
from kymaton.core.errors import ShowError
from kymaton.core.loadin.leads import labels_of
from kymaton.core.loadin.sheet import Row, Sheet
from kymaton.core.loadin.sheets import sheets_of
from kymaton.core.loadin.ticks import page_of, read_ticks, with_ticks
from kymaton.language.starters import STARTERS
from kymaton.store.showfile import read_show
from tests.shows import DEMO

LARGEST = max((s.show() for s in STARTERS), key=lambda s: len(s.devices) + len(s.cables))
SHOWS = {"demo": read_show(DEMO), "largest": LARGEST}


@pytest.fixture(autouse=True)
def _own_fonts(qapp):
    THEME.load_fonts()


def letters(text: str) -> str:
    return re.sub(r"\s", "", text)


def text_of(path) -> list[str]:
    document = QPdfDocument(None)
    assert document.load(str(path)) == QPdfDocument.Error.None_
    return [document.getAllText(page).text() for page in range(document.pageCount())]


@pytest.mark.parametrize("name", SHOWS)
def test_nothing_is_cut_and_nothing_lies_over_another(qapp, name):
    laid = lay_out(sheets_of(SHOWS[name]))
    fonts = _fonts()
    by_page: dict[int, list[tuple[QRectF, object]]] = {}
    for piece in laid.pieces:
        x, y, width, high = piece.at
        assert x >= 0 and x + width <= WIDE + 1 and y >= 0 and y + high <= HIGH - FOOT + 1, piece
        if not piece.box:
            metrics = QFontMetricsF(fonts[piece.style])
            needs = metrics.boundingRect(QRectF(0, 0, width, 1e5), wrap(metrics, piece.text, width), piece.text)
            assert needs.height() <= high + 0.5 and needs.width() <= width + 0.5, piece
        by_page.setdefault(piece.page, []).append((QRectF(x, y, width, high), piece))
    for pieces in by_page.values():
        for at, (one, first) in enumerate(pieces):
            for other, second in pieces[at + 1 :]:
                assert not one.adjusted(0.6, 0.6, -0.6, -0.6).intersects(other), (first, second)


@pytest.mark.parametrize("name", SHOWS)
def test_the_pdf_has_every_cell_of_every_sheet(qapp, tmp_path, name):
    show = SHOWS[name]
    sheets = sheets_of(show)
    path = tmp_path / "load-in.pdf"
    pages = write_sheets(show, sheets, path)
    texts = text_of(path)
    assert len(texts) == pages
    whole = letters("".join(texts))
    for sheet in sheets:
        for row in sheet.rows:
            for cell in row.cells:
                for word in cell.split():
                    assert word in whole, (sheet.id, cell)
    assert f"{pages} of {pages}" in texts[-1] and letters(show.title) in letters(texts[0])


def test_a_word_that_is_wider_than_its_column_is_broken_not_cut(qapp):
    sheet = Sheet("patch", "Patch", "", (("A", 1.0), ("B", 9.0)), (Row(("Unterwassermikrofonvorverstärker" * 2, "b")),))
    laid = lay_out([sheet])
    piece = next(p for p in laid.pieces if p.text.startswith("Unter"))
    assert piece.at[3] > 3 * QFontMetricsF(_fonts()["cell"]).height()


@pytest.mark.parametrize("size", ["60x24", "100x50 mm", "30 x 12"])
def test_labels_have_all_their_text(qapp, tmp_path, size):
    show = SHOWS["demo"]
    sheet = read_label_size(size)
    path = tmp_path / "labels.pdf"
    pages = write_labels(show, sheet, path)
    texts = text_of(path)
    labels = labels_of(show)
    assert len(texts) == pages == -(-len(labels) // (sheet.columns * sheet.rows))
    whole = letters("".join(texts))
    assert all(letters(x.here) in whole and letters(x.there) in whole for x in labels)


def test_a_size_of_labels_that_makes_no_sense():
    assert LabelSheet(60, 24).columns == 3
    for text in ("", "big", "60", "1x1", "500x24"):
        with pytest.raises(ShowError):
            read_label_size(text)


FAKE_PAGE = """
var made = {}, stored = {};
function element(id) { if (!made[id]) made[id] = { id: id, checked: false, getAttribute: function () { return this.date || null } }; return made[id] }
var document = { getElementById: element, querySelectorAll: function () { return boxes } };
var localStorage = { getItem: function (k) { return stored[k] || null }, setItem: function (k, v) { stored[k] = v } };
"""  # noqa: E501


def run_page(page: str) -> QJSEngine:
    """The page's own script, with as much of a page around it as it needs."""
    engine = QJSEngine()
    found = re.findall(r'<input type="checkbox" id="([^"]*)"( checked data-date="([^"]*)")?>', page)
    boxes = [{"id": id.replace("&#x27;", "'").replace("&amp;", "&"), "checked": bool(on), "date": date}
             for id, on, date in found]  # fmt: skip
    script = re.search(r"<script>(.*)</script>", page, re.DOTALL)
    assert script is not None and boxes
    setup = f"{FAKE_PAGE}; var boxes = {json.dumps(boxes)}.map(function (b) {{ var e = element(b.id); " \
            "e.checked = b.checked; e.date = b.date; return e });"  # fmt: skip
    for code in (setup, script[1]):
        result = engine.evaluate(code)
        assert not result.isError(), result.toString()
    return engine


def test_ticks_survive_the_way_to_the_telephone_and_back(qapp):
    show = SHOWS["demo"]
    engine = run_page(page_of(show, sheets_of(show)))
    wanted = [
        "packed|device:desk",
        "laid|lead:condenser-out-to-desk-in2",
        "back|device:desk",
        "done|task:carry:Desk case",
    ]
    for id in wanted:
        result = engine.evaluate(f"var b = element({json.dumps(id)}); b.checked = true; b.onchange()")
        assert not result.isError(), result.toString()
    engine.evaluate('element("back|device:desk").checked = false; element("back|device:desk").onchange()')
    told = engine.evaluate("made.out.value").toString()
    ticks = read_ticks(told)
    assert {f"{t.sheet}|{t.item}" for t in ticks} == set(wanted) - {"back|device:desk"}
    assert all(len(t.date) == 10 for t in ticks)
    assert engine.evaluate("made.count.textContent").toString().startswith("3 of ")
    # what was ticked is on the next page as well, and comes back from it with its date
    again = run_page(page_of(with_ticks(show, ticks), sheets_of(show)))
    assert set(read_ticks(again.evaluate("made.out.value").toString())) == set(ticks)


def test_the_page_fetches_nothing():
    show = SHOWS["demo"]
    page = page_of(show, sheets_of(show))
    assert not re.search(r"""\s(?:src|href)=["'](?!#)|https?:|@import|url\(|fetch|XMLHttp""", page)
