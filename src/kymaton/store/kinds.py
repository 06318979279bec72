"""Device kinds of one's own: any device saved as a kind, in JSON files that can be passed on."""

import json
from pathlib import Path

from msgspec import Struct

from kymaton.catalogue.registry import KINDS, Kind
from kymaton.core.edits.devices import add_device, with_id
from kymaton.core.edits.ids import free_id
from kymaton.core.errors import FileError
from kymaton.core.model import Device, Show, ShowError
from kymaton.core.model.record import Misfit
from kymaton.store.atomic import write_whole
from kymaton.store.folders import config_folder
from kymaton.store.records import plain, record_of
from kymaton.store.showfile import honest_keys, read_bytes

FORMAT, VERSION = "kymaton-kind", 1
LARGEST = 4_000_000


def kinds_folder() -> Path:
    """Where a person's own device kinds lie."""
    return config_folder() / "kinds"


class OwnKinds(Struct, frozen=True):
    """Kinds that were read, and a sentence for each file that was refused."""

    kinds: tuple[Kind, ...]
    refused: tuple[str, ...]


def save_kind(device: Device, words: str, about: str = "", folder: Path | None = None) -> Path:
    """Save a device as a kind asked for by these words, without where it stands. Raises FileError."""
    words = " ".join(words.lower().split())
    if not words or any(c in words for c in ">,/\\"):
        raise FileError(f"'{words}' cannot be the name of a kind.")
    if any(k.words == words for k in KINDS):
        raise FileError(f"The catalogue already has '{words}'.")
    folder = folder or kinds_folder()
    path = folder / f"{free_id(words, ())}.json"
    anywhere = device.evolve(place=None, inside=None, mains="", owned="owned")
    content = {
        "format": FORMAT,
        "version": VERSION,
        "words": words,
        "about": about or device.detail or device.kind,
        "device": plain(with_id(anywhere, "device")),
    }
    try:
        folder.mkdir(parents=True, exist_ok=True)
    except OSError as error:
        raise FileError(f"{folder}: it cannot be made ({error.strerror}).") from error
    write_whole(path, (json.dumps(content, ensure_ascii=False, indent=1) + "\n").encode())
    return path


def read_kind(path: Path) -> Kind:
    """The kind in a file. Raises FileError with one sentence that names the file and the place."""
    data = read_bytes(path)
    if len(data) > LARGEST:
        raise FileError(f"{path.name}: it is larger than a device kind.")
    try:
        content = json.loads(data.decode("utf-8"), object_pairs_hook=honest_keys)
    except (ValueError, RecursionError) as error:
        raise FileError(f"{path.name}: it is damaged ({type(error).__name__}).") from error
    if not isinstance(content, dict) or content.get("format") != FORMAT:
        raise FileError(f'{path.name}: it does not say "format": "{FORMAT}".')
    if content.get("version") != VERSION:
        raise FileError(f"{path.name}, version: this Kymaton reads version {VERSION}.")
    words = content.get("words")
    if not isinstance(words, str) or not words.strip():
        raise FileError(f"{path.name}, words: the kind needs words to ask for it.")
    try:
        device = record_of(Device, content.get("device"))
        add_device(Show(), device)
    except Misfit as error:
        raise FileError(f"{path.name}, device{'.' if error.place else ''}{error.place}: {error.reason}.") from error
    except ShowError as error:
        raise FileError(f"{path.name}, device: {error}.") from error

    def make(id: str, name: str) -> Device:
        return with_id(device, id).evolve(name=name)

    return Kind(" ".join(words.lower().split()), str(content.get("about", "")), make, {}, {})


def read_own_kinds(folder: Path | None = None) -> OwnKinds:
    """All kinds of one's own; a broken file is refused by name and place, the rest load."""
    folder = folder or kinds_folder()
    kinds: dict[str, Kind] = {}
    refused: list[str] = []
    for path in sorted(folder.glob("*.json")) if folder.is_dir() else ():
        try:
            kind = read_kind(path)
        except FileError as error:
            refused.append(str(error))
            continue
        if kind.words in kinds or any(k.words == kind.words for k in KINDS):
            refused.append(f"{path.name}, words: there is a '{kind.words}' already.")
        else:
            kinds[kind.words] = kind
    return OwnKinds(tuple(kinds.values()), tuple(refused))
