"""Sheets as plain text and as rows for a table."""

from collections.abc import Iterator, Sequence

from kymaton.core.loadin.sheet import Sheet


def rows_of(sheets: Sequence[Sheet]) -> Iterator[list[str]]:
    """All sheets one under the other: title, names of the columns, rows, a blank one between."""
    for at, sheet in enumerate(sheets):
        if at:
            yield []
        yield [sheet.title]
        yield [name for name, _ in sheet.columns]
        for row in sheet.rows:
            yield [cell.strip() for cell in row.cells]


def text_of(sheets: Sequence[Sheet]) -> Iterator[str]:
    """Lines to read in a terminal."""
    for sheet in sheets:
        yield f"{sheet.title}{f' ({sheet.note})' if sheet.note else ''}"
        for row in sheet.rows:
            cells = " · ".join(c.strip() for c in row.cells if c.strip())
            yield f"  {cells}" if row.heading else f"    {cells}"
