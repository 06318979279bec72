"""What somebody may have meant by a name that nothing has."""

from collections.abc import Iterable
from difflib import get_close_matches

ALIKE = 0.6  # of difflib, 0 to 1: chosen so that one wrong letter in five is forgiven, and another word is not


def did_you_mean(text: str, names: Iterable[str]) -> str:
    """` Did you mean Desk?` when a name is much like the text; empty when none is."""
    known = {n.lower(): n for n in names}
    found = get_close_matches(" ".join(text.lower().split()), known, n=1, cutoff=ALIKE)
    return f" Did you mean {known[found[0]]}?" if found else ""
