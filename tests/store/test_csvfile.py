"""One way to read a table in text, whatever stands between its cells."""

import pytest

from kymaton.core.errors import FileError
from kymaton.store.csvfile import rows_of


@pytest.mark.parametrize("between", [",", ";", "\t"])
def test_the_sign_between_cells_is_found(between):
    text = between.join(["name", " source ", "note"]) + "\n" + between.join(["Maren", "1", '"a, b; c"']) + "\n"
    assert rows_of(text, "x.csv") == [["name", "source", "note"], ["Maren", "1", "a, b; c"]]


def test_blank_lines_keep_their_place_and_what_is_no_text_is_refused():
    assert rows_of("a,b\n\n1,2\n", "x.csv") == [["a", "b"], [], ["1", "2"]]
    assert rows_of("", "x.csv") == []
    with pytest.raises(FileError, match=r"x\.csv: there is no list of text"):
        rows_of("a\0b", "x.csv")
