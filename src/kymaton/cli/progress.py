"""How far long work is, on standard error; nothing where that is no terminal, or where it is done in two seconds."""

from collections.abc import Iterator
from contextlib import contextmanager

from kymaton.cli.ending import end_if_asked
from kymaton.core.errors import Progress

SHOWN_AFTER_S = 2.0


@contextmanager
def shown(what: str) -> Iterator[Progress]:
    """Gives the function that long work reports to. Ctrl+C stops the work as it stops everything."""
    from tqdm import tqdm  # late: most commands need none

    with tqdm(
        total=100, desc=what, delay=SHOWN_AFTER_S, leave=False, disable=None, bar_format="{desc}: {percentage:3.0f} %"
    ) as bar:

        def report(part: float) -> bool:
            end_if_asked()
            bar.update(max(0.0, 100 * part - bar.n))
            return True

        yield report
