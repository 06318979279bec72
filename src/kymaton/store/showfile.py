"""Reading and writing `.kymaton` show files.

JSON, UTF-8, stable key order. Saving writes beside the file, flushes to the disk and renames, so that at every moment
the old or the new file is there, whole; the file before is kept with `.previous` behind its name.
"""

import contextlib
import json
from pathlib import Path
from typing import Any

from pydantic import ValidationError

from kymaton.core.errors import FileError, NewerFile, ShowError
from kymaton.core.model import Show
from kymaton.store.atomic import write_whole

FORMAT = "kymaton-show"
VERSION = 1
SUFFIX = ".kymaton"
LARGEST_FILE = 50_000_000


def read_show(path: Path, newer: bool = False) -> Show:
    """The show in a file. Raises FileError with one sentence when it cannot be read.

    A file of a newer version is refused, unless `newer` asks to read what can be understood of it.
    """
    return parse_show(read_bytes(path), path.name, newer)


def read_bytes(path: Path) -> bytes:
    try:
        if path.stat().st_size > LARGEST_FILE:
            raise FileError(
                f"{path.name}: the file is larger than {LARGEST_FILE // 1_000_000} MB, so it is not a show."
            )
        return path.read_bytes()
    except OSError as error:
        raise FileError(f"{path}: it cannot be read ({(error.strerror or 'unknown reason').lower()}).") from error


def parse_show(data: bytes, name: str, newer: bool = False) -> Show:
    """The show in these bytes; `name` is the file's, for the sentence in the error."""
    try:
        content = json.loads(data.decode("utf-8"), object_pairs_hook=_no_repeated_keys, parse_constant=_no_constant)
    except UnicodeDecodeError as error:
        raise FileError(f"{name}: byte {error.start + 1} is not UTF-8 text, so it is not a show.") from error
    except json.JSONDecodeError as error:
        raise FileError(
            f"{name}, line {error.lineno}, column {error.colno}: {error.msg.lower()}; the file is damaged or cut off."
        ) from error
    except (ValueError, RecursionError) as error:
        reason = "it is nested too deeply" if isinstance(error, RecursionError) else str(error)
        raise FileError(f"{name}: {reason}.") from error
    if not isinstance(content, dict) or content.get("format") != FORMAT:
        raise FileError(f'{name}: it does not say "format": "{FORMAT}", so it is not a show.')
    version = content.get("version")
    if isinstance(version, bool) or not isinstance(version, int) or version < 1:
        raise FileError(f"{name}, version: a whole number from 1 is needed.")
    if version > VERSION:
        if not newer:
            raise NewerFile(f"{name}: it was written by a newer Kymaton (version {version}; this one reads {VERSION}).")
        content = {**content, "version": VERSION}
    try:
        return Show.model_validate(content)
    except ValidationError as error:
        raise FileError(f"{name}, {_first_problem(content, error)}") from error


def version_of(data: bytes) -> int | None:
    """The version number that a show file states, None when there is none."""
    with contextlib.suppress(ValueError, RecursionError):
        content = json.loads(data.decode("utf-8"))
        if isinstance(content, dict) and isinstance(content.get("version"), int):
            return int(content["version"])
    return None


def _no_repeated_keys(pairs: list[tuple[str, Any]]) -> dict[str, Any]:
    found = dict(pairs)
    if len(found) < len(pairs):
        keys = [k for k, _ in pairs]
        raise ValueError(f"the key '{next(k for k in keys if keys.count(k) > 1)}' stands twice in one object")
    return found


def _no_constant(text: str) -> float:
    raise ValueError(f"{text} is not a number that a show can hold")


def _first_problem(content: dict[str, Any], error: ValidationError) -> str:
    first = error.errors()[0]
    cause = first.get("ctx", {}).get("error")
    if isinstance(cause, ShowError):
        return f"{cause}."
    place = ""
    inside: Any = content
    for step in first["loc"]:
        if isinstance(step, int):
            named = inside[step].get("id") if isinstance(inside, list) and isinstance(inside[step], dict) else None
            place += f"[{named or step + 1}]"
        elif isinstance(inside, dict) or not place:
            place += f".{step}" if place else step
        try:
            inside = inside[step]
        except (KeyError, IndexError, TypeError):
            inside = None
    message = str(first["msg"]).removeprefix("Value error, ")
    return f"{place or 'the show'}: {message[:1].lower()}{message[1:]}."


def show_bytes(show: Show) -> bytes:
    """The show as its file holds it: what is at its default is left out."""
    content = show.model_dump(mode="json", exclude_defaults=True)
    content = {"format": FORMAT, "version": VERSION, **content}
    return (json.dumps(content, ensure_ascii=False, indent=1) + "\n").encode()


def write_show(show: Show, path: Path, keep_previous: bool = True) -> None:
    """Save the show. Raises FileError when it cannot be written, or when the file there is of a newer version."""
    if path.exists():
        there = version_of(read_bytes(path))
        if there is not None and there > VERSION:
            raise FileError(f"{path.name}: it was written by a newer Kymaton; save under another name.")
    write_whole(path, show_bytes(show), keep_previous)


def schema() -> dict[str, Any]:
    """JSON Schema of the show file."""
    return {"$schema": "https://json-schema.org/draft/2020-12/schema", **Show.model_json_schema()}
