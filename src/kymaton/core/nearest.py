"""What somebody may have meant by a name that nothing has."""

from collections.abc import Iterable

ALIKE = 62.0  # of 100, in RapidFuzz's weighted ratio: one wrong letter in four is forgiven; chosen
MANY, LENGTHS = 3, 2.4  # told at most; times as long as the other, from which on one word is only a part of it


def nearest(text: str, names: Iterable[str], many: int = MANY) -> list[str]:
    """The names that are most like a text, the most likely first; those that are not like it are left out."""
    from rapidfuzz import fuzz, process, utils  # late: only for what is not known

    known = [n for n in dict.fromkeys(names) if n and max(len(n), len(text)) < LENGTHS * min(len(n), len(text))]
    found = process.extract(
        text, known, scorer=fuzz.WRatio, processor=utils.default_process, limit=many, score_cutoff=ALIKE
    )
    return [name for name, _, _ in found]


def did_you_mean(text: str, names: Iterable[str]) -> str:
    """` Did you mean Desk?`, or one of the three that are most like the text; empty when none is."""
    found = nearest(text, names)
    if len(found) < 2:
        return f" Did you mean {found[0]}?" if found else ""
    return f" Did you mean {', '.join(found[:-1])} or {found[-1]}?"
