"""The recordings that belong to a show: they move along when the show is saved elsewhere."""

import contextlib
import shutil
from pathlib import Path

from kymaton.core.model import Show
from kymaton.store.showfile import FileError


def copy_stems(show: Show, source: Path, target: Path) -> int:
    """Copy the show's stems from the folder of one file to that of another; those already there stay as they are.

    Returns how many were copied. Paths that leave the folder are not followed. Raises FileError.
    """
    if source.resolve() == target.resolve():
        return 0
    copied = 0
    for sound in show.sounds:
        if sound.stem is None:
            continue
        old, new = (source / sound.stem.file).resolve(), (target / sound.stem.file).resolve()
        inside = old.is_relative_to(source.resolve()) and new.is_relative_to(target.resolve())
        if not inside or not old.is_file() or new.exists():
            continue
        beside = new.with_name(f".{new.name}.part")
        try:
            new.parent.mkdir(parents=True, exist_ok=True)
            shutil.copyfile(old, beside)
            beside.replace(new)
        except OSError as error:
            with contextlib.suppress(OSError):
                beside.unlink()
            raise FileError(f"{new}: the recording cannot be copied ({(error.strerror or '').lower()}).") from error
        copied += 1
    return copied
