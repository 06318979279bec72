"""Kinds of one's own: saved, passed on, found by their words; a broken file is refused, the rest load."""

import json

import pytest

from kymaton.catalogue.registry import KINDS, all_kinds, make_device, use_own
from kymaton.core.edits.devices import add_device
from kymaton.core.errors import FileError
from kymaton.core.model import Show, ShowError
from kymaton.store.kinds import read_own_kinds, save_kind


@pytest.fixture
def folder(tmp_path):
    yield tmp_path / "kinds"
    use_own(())


def test_a_saved_kind_is_found_by_its_words(folder):
    device = make_device("desk 12 in 3 aux as Church desk", ())
    path = save_kind(device, "Church Desk", folder=folder)
    assert path.name == "church-desk.json"
    own = read_own_kinds(folder)
    use_own(own.kinds)
    made = make_device("church desk as Left", ["left"])
    assert (made.id, made.name, made.detail) == ("left-2", "Left", "12 in, 3 aux") and own.refused == ()
    assert all(c.id.startswith("left-2/") for c in made.controls)
    add_device(Show(), made)
    assert len(all_kinds()) == len(own.kinds) + len(KINDS)


def test_broken_files_are_refused_by_name_and_place_and_the_rest_load(folder):
    path = save_kind(make_device("keyboard", ()), "Grand", folder=folder)
    good = json.loads(path.read_text())
    (folder / "a-cut.json").write_text(path.read_text()[:50])
    (folder / "b-other.json").write_text("{}")
    (folder / "c-port.json").write_text(
        json.dumps({**good, "words": "x", "device": {**good["device"], "stage": "moon"}})
    )
    broken = {**good["device"], "routes": [{"source": "nowhere", "target": "left"}]}
    (folder / "d-route.json").write_text(json.dumps({**good, "words": "y", "device": broken}))
    (folder / "e-twice.json").write_text(json.dumps({**good, "words": "Keyboard"}))
    (folder / "f-version.json").write_text(json.dumps({**good, "version": 9}))
    (folder / "g-words.json").write_text(json.dumps({**good, "words": " "}))
    own = read_own_kinds(folder)
    assert [k.words for k in own.kinds] == ["grand"]
    said = dict(r.split(".json", 1) for r in own.refused)
    assert sorted(said) == ["a-cut", "b-other", "c-port", "d-route", "e-twice", "f-version", "g-words"]
    assert "device.stage" in said["c-port"] and "nowhere" in said["d-route"] and "already" in said["e-twice"]


@pytest.mark.parametrize("words", ["", "desk", "a > b", "a/b"])
def test_words_that_cannot_name_a_kind(folder, words):
    with pytest.raises(FileError):
        save_kind(make_device("keyboard", ()), words, folder=folder)


def test_no_folder_is_no_kinds(folder):
    assert read_own_kinds(folder).kinds == ()
    with pytest.raises(ShowError):
        make_device("grand", ())
