"""`kymaton build` and `lines`: a show from a text file of lines, and the lines of a show."""

import argparse
import sys
from pathlib import Path

from kymaton.core.errors import FileError, ShowError
from kymaton.core.model import Show
from kymaton.core.words import counted
from kymaton.language.script import build as build_show
from kymaton.language.telling import lines_of
from kymaton.store.atomic import write_whole
from kymaton.store.showfile import read_bytes, read_show, write_show


def read_lines(path: Path) -> Show:
    """The show that a text file of lines makes. Raises FileError with the line that cannot be."""
    try:
        text = read_bytes(path).decode("utf-8-sig")
    except UnicodeDecodeError as error:
        raise FileError(f"{path.name}: byte {error.start + 1} is not UTF-8 text.") from error
    try:
        return build_show(text.splitlines())
    except ShowError as error:
        raise FileError(f"{path.name}, {error}") from error


def build(options: argparse.Namespace) -> int:
    show = read_lines(options.lines)
    write_show(show, options.out)
    devices, leads = counted(len(show.devices), "device"), counted(len(show.cables), "lead")
    print(f"{options.out}: {show.title}, {devices}, {leads}.")
    return 0


def lines(options: argparse.Namespace) -> int:
    text = "\n".join(lines_of(read_show(options.show))) + "\n"
    if options.out is None:
        sys.stdout.write(text)
    else:
        write_whole(options.out, text.encode())
    return 0
