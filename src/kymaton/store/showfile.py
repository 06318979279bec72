"""Reading and writing `.kymaton` show files.

JSON, UTF-8, stable key order. Saving writes beside the file, flushes to the disk and renames, so that at every moment
the old or the new file is there, whole; the file before is kept with `.previous` behind its name.
"""

import contextlib
import inspect
import json
import os
import re
import stat
from pathlib import Path
from typing import Any

import msgspec

from kymaton.core.errors import FileError, NewerFile, ShowError
from kymaton.core.model import Show
from kymaton.core.model.record import HELD_ASIDE, MOST, Misfit
from kymaton.core.model.show import validated
from kymaton.store.atomic import write_whole
from kymaton.store.records import plain, record_of

FORMAT = "kymaton-show"
VERSION = 1
SUFFIX = ".kymaton"
LARGEST_FILE = 50_000_000
LARGE_FILE = 3_000_000  # bytes; chosen: below, a show is read and its first cue solved within half a second
BOUNDS = ("minimum", "maximum")
CONTROL = re.compile("[\x7f-\x9f]")
ESCAPED = ("\\u00", "\\b", "\\f", "\\r")  # as JSON writes the others; what only looks so is cleaned for nothing


def read_show(path: Path, newer: bool = False) -> Show:
    """The show in a file. Raises FileError with one sentence when it cannot be read.

    A file of a newer version is refused, unless `newer` asks to read what can be understood of it.
    """
    return parse_show(read_bytes(path), path.name, newer)


def is_large(path: Path) -> bool:
    """Whether reading the file takes so long that somebody waits for it."""
    try:
        return path.stat().st_size > LARGE_FILE
    except (OSError, ValueError):
        return False


def read_bytes(path: Path) -> bytes:
    """The bytes of a file. Raises FileError, also for what is too large to be a show."""
    try:
        with os.fdopen(os.open(path, os.O_RDONLY | os.O_NONBLOCK), "rb") as file:  # a pipe would wait for ever
            if not stat.S_ISREG(os.fstat(file.fileno()).st_mode):
                raise FileError(f"{path.name}: it is a folder, a device or a pipe, not a file.")
            data = file.read(LARGEST_FILE + 1)
    except OSError as error:
        raise FileError(f"{path}: it cannot be read ({(error.strerror or 'unknown reason').lower()}).") from error
    except ValueError as error:
        raise FileError(f"{str(path)!r}: it cannot be read (no file has such a name).") from error
    if len(data) > LARGEST_FILE:
        raise FileError(f"{path.name}: the file is larger than {LARGEST_FILE // 1_000_000} MB, so it is not a show.")
    return data


def parse_show(data: bytes, name: str, newer: bool = False) -> Show:
    """The show in these bytes; `name` is the file's, for the sentence in the error."""
    try:
        content = json.loads(data.decode("utf-8"), object_pairs_hook=honest_keys, parse_constant=_no_constant)
    except UnicodeDecodeError as error:
        raise FileError(f"{name}: byte {error.start + 1} is not UTF-8 text, so it is not a show.") from error
    except json.JSONDecodeError as error:
        raise FileError(
            f"{name}, line {error.lineno}, column {error.colno}: {error.msg.lower()}; the file is damaged or cut off."
        ) from error
    except (ValueError, RecursionError) as error:
        reason = "it is nested too deeply" if isinstance(error, RecursionError) else str(error)
        raise FileError(f"{name}: {reason}.") from error
    if b"\\u" in data and not _is_text(content):
        raise FileError(f"{name}: a text in it holds half of a character (a surrogate alone), so it is damaged.")
    if _may_hold_control(data.decode()):
        content = _clean(content)
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
        return validated(record_of(Show, content))
    except Misfit as error:
        raise FileError(f"{name}, {_place(content, error.place) or 'the show'}: {error.reason}.") from error
    except ShowError as error:
        raise FileError(f"{name}, {error}.") from error


def _may_hold_control(written: str) -> bool:
    return any(escape in written for escape in ESCAPED) or CONTROL.search(written) is not None


def _clean(content: Any) -> Any:
    """Without control characters, which terminals obey and drawings cannot hold; lines and tabs stay."""
    if isinstance(content, dict):
        return {_clean(key): _clean(value) for key, value in content.items()}
    if isinstance(content, list | tuple):
        return [_clean(value) for value in content]
    return re.sub("[\x00-\x08\x0b-\x1f\x7f-\x9f]", " ", content) if isinstance(content, str) else content


def _is_text(content: Any) -> bool:
    """Whether all texts can be written again."""
    try:
        json.dumps(content, ensure_ascii=False).encode()
    except UnicodeEncodeError:
        return False
    return True


def version_of(data: bytes) -> int | None:
    """The version number that a show file states, None when there is none."""
    with contextlib.suppress(ValueError, RecursionError):
        content = json.loads(data.decode("utf-8"))
        if isinstance(content, dict) and isinstance(content.get("version"), int):
            return int(content["version"])
    return None


def honest_keys(pairs: list[tuple[str, Any]]) -> dict[str, Any]:
    """An object of JSON with each key once. Raises ValueError for a key that stands twice, or that no file has."""
    found = dict(pairs)
    if len(found) < len(pairs):
        keys = [k for k, _ in pairs]
        raise ValueError(f"the key '{next(k for k in keys if keys.count(k) > 1)}' stands twice in one object")
    if HELD_ASIDE in found:
        raise ValueError("it has a key that no Kymaton writes")
    return found


def _no_constant(text: str) -> float:
    raise ValueError(f"{text} is not a number that a show can hold")


def _place(content: Any, way: str) -> str:
    """The way to a field with the ids of what it goes through: `sounds[3].level` as `sounds[ann].level`."""
    said = ""
    for step in re.findall(r"[^.\[\]]+|\[[^\]]*\]", way):
        key = step.strip("[]")
        if not step.startswith("["):
            said += f".{key}" if said else key
            content = content.get(key) if isinstance(content, dict) else None
        elif key.isdigit() and isinstance(content, list):
            content = content[int(key)]
            named = content.get("id") if isinstance(content, dict) else None
            said += f"[{named or int(key) + 1}]"
    return said


def show_bytes(show: Show) -> bytes:
    """The show as its file holds it: what is at its default is left out."""
    content = {"format": FORMAT, "version": VERSION, **plain(show)}
    if _may_hold_control(written := json.dumps(content, ensure_ascii=False)):
        written = json.dumps(_clean(content), ensure_ascii=False)
    lines = msgspec.json.format(written.encode(errors="replace"), indent=1)  # half a character is a ?
    return lines + b"\n"


def write_show(show: Show, path: Path, keep_previous: bool = True) -> None:
    """Save the show. Raises FileError when it cannot be written, or when the file there is of a newer version."""
    there = None
    with contextlib.suppress(FileError):
        there = version_of(read_bytes(path))
    if there is not None and there > VERSION:
        raise FileError(f"{path.name}: it was written by a newer Kymaton; save under another name.")
    write_whole(path, show_bytes(show), keep_previous)


def identity(path: Path) -> tuple[int, int, int] | None:
    """What tells a file from what it was before: its number, when it was changed (ns), its size. None: not there."""
    try:
        about = path.stat()
    except (OSError, ValueError):
        return None
    return about.st_ino, about.st_mtime_ns, about.st_size


def schema() -> dict[str, Any]:
    """JSON Schema of the show file."""
    found = _for_people(msgspec.json.schema(Show))
    parts = found["$defs"]
    parts["Figure"] = {"anyOf": [parts["Figure"], {"type": "number"}]}
    return {"$schema": "https://json-schema.org/draft/2020-12/schema", **parts.pop("Show"), "$defs": parts}


def _for_people(part: Any) -> Any:
    """Without what no file holds: the field for unknown keys, and the bounds that only shut out infinity.

    A false `additionalProperties` goes too, for keys that are not known are kept.
    """
    if isinstance(part, dict):
        said = {k: v for k, v in part.items() if k != HELD_ASIDE and not (k in BOUNDS and v in (-MOST, MOST))}
        if said.get("additionalProperties") is False:
            del said["additionalProperties"]
        return {k: _for_people(v) for k, v in said.items()}
    if isinstance(part, list | tuple):
        return [_for_people(item) for item in part]
    return inspect.cleandoc(part) if isinstance(part, str) else part
