"""The recordings that belong to a show: they move along when it is saved elsewhere; and stand-ins where none is."""

import contextlib
from pathlib import Path

from kymaton.core.errors import FileError
from kymaton.core.model import Show, Stem
from kymaton.store.demo import demo_show
from kymaton.store.showfile import read_show


def copy_stems(show: Show, source: Path, target: Path) -> int:
    """Copy the show's stems from the folder of one file to that of another; those already there stay as they are.

    Returns how many were copied. Paths that leave the folder are not followed. Raises FileError.
    """
    if source.resolve() == target.resolve():
        return 0
    from shutil import copyfile  # late: most saves copy nothing

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
            copyfile(old, beside)
            beside.replace(new)
        except OSError as error:
            with contextlib.suppress(OSError):
                beside.unlink()
            raise FileError(f"{new}: the recording cannot be copied ({(error.strerror or '').lower()}).") from error
        copied += 1
    return copied


def take_stem(show: Show, folder: Path, sound: str, recording: Path, level_dbfs: float) -> Show:
    """The show with a recording for a sound, copied beside it under the sound's name. Raises FileError.

    What lies there already under that name is not written over: it gets a number.
    """
    from shutil import copyfile

    number = 1
    name = f"stems/{sound}{recording.suffix.lower()}"
    if not recording.resolve().is_relative_to(folder.resolve()):
        while (folder / name).exists():
            number += 1
            name = f"stems/{sound}-{number}{recording.suffix.lower()}"
        try:
            (folder / name).parent.mkdir(parents=True, exist_ok=True)
            copyfile(recording, folder / name)
        except OSError as error:
            raise FileError(f"{recording.name}: it cannot be copied ({(error.strerror or '').lower()}).") from error
    else:
        name = str(recording.resolve().relative_to(folder.resolve()))
    stem = Stem(file=name, level_dbfs=level_dbfs)
    return show.evolve(sounds=tuple(s.evolve(stem=stem) if s.id == sound else s for s in show.sounds))


def stand_ins(show: Show) -> dict[str, tuple[Path, Stem]]:
    """For each sound without a recording one of the demo's of the same kind, with the folder it lies in.

    Sounds of one kind take turns, so that voices can be told apart. Raises FileError when the demo cannot be read.
    """
    try:
        path = demo_show()
    except FileNotFoundError as error:
        raise FileError("The demo's recordings are not installed.") from error
    demo = read_show(path)
    by_kind: dict[str, list[Stem]] = {}
    for sound in demo.sounds:
        if sound.stem is not None:
            by_kind.setdefault(sound.kind, []).append(sound.stem)
    found: dict[str, tuple[Path, Stem]] = {}
    taken: dict[str, int] = {}
    for sound in show.sounds:
        stems = by_kind.get(sound.kind, [])
        if sound.stem is None and stems:
            turn = taken.get(sound.kind, 0)
            taken[sound.kind] = turn + 1
            found[sound.id] = (path.parent, stems[turn % len(stems)])
    return found
