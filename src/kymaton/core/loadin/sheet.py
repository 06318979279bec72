"""What a sheet of the load-in is: a title, columns, and rows of which some can be ticked."""

from msgspec import Struct
from msgspec.structs import replace

from kymaton.core.words import metres


class Row(Struct, frozen=True):
    """One line; with a `key` it can be ticked. A `heading` stands over those that follow."""

    cells: tuple[str, ...]
    key: str = ""
    heading: bool = False


class Sheet(Struct, frozen=True):
    """A sheet: columns with how wide each is among the others; `tick` names the list that its boxes belong to."""

    id: str
    title: str
    note: str
    columns: tuple[tuple[str, float], ...]
    rows: tuple[Row, ...]
    tick: str = ""


def without_last(sheet: Sheet) -> Sheet:
    """A sheet without its last column, in which nothing stands."""
    rows = tuple(r if r.heading else Row(r.cells[:-1], r.key) for r in sheet.rows)
    return replace(sheet, columns=sheet.columns[:-1], rows=rows)


def said_m(value: float) -> str:
    """A length; nothing where there is none."""
    return metres(value) if value else ""
