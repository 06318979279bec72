"""What can go wrong, each told in one plain sentence, and how long work reports and is stopped.

KymatonError
    ShowError       a show that contradicts itself, or a line about it that cannot be done
    FileError       a file that cannot be read or written: it names the file, the place in it and the reason
        NewerFile   a file of a newer version
        ChangedFile a file that another program has changed meanwhile
    RenderError     nothing to hear
    MeasureError    nothing to measure in a recording
    AlignError      recordings that cannot be laid over each other
Stopped             no error: a person pressed Stop
"""

from collections.abc import Callable

Progress = Callable[[float], bool]  # gets the part that is done (0 to 1), returns False to stop


def part_of(progress: Progress | None, begin: float, end: float) -> Progress | None:
    """What a stretch of some work reports to, from `begin` to `end` of the whole."""
    return None if progress is None else lambda part: progress(begin + (end - begin) * part)


class KymatonError(Exception):
    """One plain sentence that says what and where."""


class ShowError(KymatonError, ValueError):
    """A show that contradicts itself, or a line about it that cannot be done."""


class FileError(KymatonError):
    """One sentence that names the file, the place in it and the reason."""


class NewerFile(FileError):
    """A file of a newer version: it may be read, but never be written over."""


class ChangedFile(FileError):
    """A file that another program has changed since it was read: it is not written over unasked."""


class RenderError(KymatonError, ValueError):
    """One sentence that says why there is nothing to hear."""


class MeasureError(KymatonError, ValueError):
    """One sentence that says why a recording cannot be measured."""


class AlignError(KymatonError, ValueError):
    """One sentence that says why two recordings cannot be laid over each other."""


class Stopped(Exception):
    """The person pressed Stop."""
