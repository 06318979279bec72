"""What was last found in a show file, kept beside the recovery copies: shown at the next start until it is worked out.

It is a memory, not a result: `current` says whether the file is still the one that was examined.
"""

import contextlib
import datetime
import json
import zlib
from collections.abc import Sequence
from pathlib import Path

from msgspec import Struct

from kymaton.store.folders import state_folder

MOST_KEPT = 60


class LastVerdict(Struct, frozen=True):
    """The show's title, what was found in a sentence, its heaviest findings, and when that was."""

    title: str
    verdict: str
    headlines: tuple[str, ...]
    when: datetime.datetime
    current: bool


def verdicts_folder() -> Path:
    """Where what was last found in each file is kept."""
    return state_folder() / "verdicts"


def _place(path: Path) -> Path:
    return verdicts_folder() / f"{zlib.crc32(str(path.resolve()).encode()):08x}.json"


def _state(path: Path) -> list[int]:
    there = path.stat()
    return [there.st_mtime_ns, there.st_size]


def remember(path: Path, title: str, verdict: str, headlines: Sequence[str], now: datetime.datetime) -> None:
    """Keep what was found in the file as it is now. Without room or right to write, nothing is kept."""
    with contextlib.suppress(OSError):
        about = {
            "file": str(path.resolve()),
            "state": _state(path),
            "title": title,
            "verdict": verdict,
            "headlines": list(headlines),
            "when": now.isoformat(timespec="seconds"),
        }
        place = _place(path)
        place.parent.mkdir(parents=True, exist_ok=True, mode=0o700)
        place.write_text(json.dumps(about, ensure_ascii=False), "utf-8")
        kept = sorted(place.parent.glob("*.json"), key=lambda p: p.stat().st_mtime_ns, reverse=True)
        for old in kept[MOST_KEPT:]:
            old.unlink(missing_ok=True)


def last_verdict(path: Path) -> LastVerdict | None:
    """What was last found in a file; None when nothing is known, or what was kept cannot be read."""
    with contextlib.suppress(OSError, ValueError, KeyError, TypeError):
        about = json.loads(_place(path).read_text("utf-8"))
        if about["file"] != str(path.resolve()):  # another file of the same short name
            return None
        return LastVerdict(
            str(about["title"]),
            str(about["verdict"]),
            tuple(str(line) for line in about["headlines"]),
            datetime.datetime.fromisoformat(about["when"]),
            about["state"] == _state(path),
        )
    return None
