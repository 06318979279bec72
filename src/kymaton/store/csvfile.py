"""Rows of a CSV file, whichever of the usual signs stands between the cells; cells that no spreadsheet runs."""

import csv
import io

from kymaton.core.errors import FileError

BETWEEN = ",;\t"
UNSAFE = ("=", "+", "-", "@", "\t", "\r")


def rows_of(text: str, name: str) -> list[list[str]]:
    """The rows of a text, cells without the blanks around them; the sign between them is the commonest in the first
    line. Blank lines stay, so that a row keeps its number. Raises FileError; `name` is the file's.
    """
    first = next((line for line in text.splitlines() if line.strip()), "")
    if "\0" in text:
        raise FileError(f"{name}: there is no list of text in it.")
    try:
        rows = list(csv.reader(io.StringIO(text), delimiter=max(BETWEEN, key=first.count)))
    except csv.Error as error:
        raise FileError(f"{name}: it is not CSV ({error}).") from error
    return [[cell.strip() for cell in row] for row in rows]


def harmless(cell: str) -> str:
    """A cell that a spreadsheet shows and does not run."""
    return f"'{cell}" if cell.startswith(UNSAFE) else cell
