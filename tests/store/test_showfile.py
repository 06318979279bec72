"""Show files: round trips, refusals in one sentence, and saving that survives a kill."""

import json
import os
import random
import signal
import subprocess
import sys
import time

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from kymaton.core.errors import FileError
from kymaton.core.model import Show
from kymaton.store import atomic, showfile
from kymaton.store.showfile import parse_show, read_show, show_bytes, write_show
from tests.shows import DEMO, call_show, one_talker

CONTENT = json.loads(DEMO.read_text("utf-8"))


def refusal(content: object) -> str:
    data = content if isinstance(content, bytes) else json.dumps(content).encode()
    with pytest.raises(FileError) as caught:
        parse_show(data, "some.kymaton")
    text = str(caught.value)
    assert text.startswith("some.kymaton") and "\n" not in text and text.endswith(".") and len(text) < 400
    return text


def test_a_round_trip_changes_nothing(tmp_path):
    for show in (read_show(DEMO), call_show(), one_talker(), Show()):
        path = tmp_path / "a.kymaton"
        write_show(show, path)
        assert read_show(path) == show
        first = path.read_bytes()
        write_show(read_show(path), path)
        assert path.read_bytes() == first


def test_unknown_keys_survive(tmp_path):
    content = {**CONTENT, "from_the_future": {"a": [1, 2]}}
    content["devices"][0]["colour"] = "green"
    content["devices"][0]["loads"] = {"usb_ma": {"value": 400, "shade": "dim"}, "weight_kg": 2}
    path = tmp_path / "a.kymaton"
    path.write_text(json.dumps(content))
    write_show(read_show(path), path)
    again = json.loads(path.read_text("utf-8"))
    assert again["from_the_future"] == {"a": [1, 2]} and again["devices"][0]["colour"] == "green"
    assert again["devices"][0]["loads"] == {"usb_ma": {"value": 400.0, "shade": "dim"}, "weight_kg": {"value": 2.0}}


def test_the_file_before_is_kept(tmp_path):
    path = tmp_path / "a.kymaton"
    write_show(Show(title="one"), path)
    write_show(Show(title="two"), path)
    assert read_show(path).title == "two" and read_show(tmp_path / "a.kymaton.previous").title == "one"
    assert len(list(tmp_path.iterdir())) == 2


def changed(*path: object, value: object) -> dict:
    content = json.loads(json.dumps(CONTENT))
    place = content
    for step in path[:-1]:
        place = place[step]
    place[path[-1]] = value
    return content


@pytest.mark.parametrize(
    ("content", "said"),
    [
        (DEMO.read_bytes()[:50_000], "cut off"),
        (b"", "cut off"),
        (b"\xff\xfe\x00", "not UTF-8"),
        (b"[]", "not a show"),
        (b'{"format": "kymaton-show", "version": NaN}', "NaN"),
        (b'{"format": "kymaton-show", "format": "kymaton-show"}', "twice"),
        (b"[" * 100_000, ""),
        ({**CONTENT, "version": 99}, "version 99"),
        ({**CONTENT, "version": True}, "version"),
        (changed("devices", value={"a": 1}), "devices"),
        (changed("sounds", 0, "level", value="loud"), "sounds[maren].level"),
        (changed("sounds", 0, "kind", value="smell"), "sounds[maren].kind"),
        (changed("date", value="yesterday"), "date"),
        (changed("cables", 0, "target", value="nowhere/in"), "nowhere/in"),
        (changed("cables", 0, "source", value="desk/in1"), "wrong way round"),
        (changed("sounds", 1, "id", value="maren"), "'maren' is used twice"),
        (changed("devices", 1, "id", value="desk"), "'desk' is used twice"),
        (changed("devices", 0, "inside", value="table-mic"), "inside itself"),
        (changed("cues", 0, "controls", value={"desk/ch1/nose": True}), "desk/ch1/nose"),
        (changed("cues", 0, "controls", value={"desk/ch1/mute": 3}), "not true or false"),
        (changed("plan", 0, "listener", value="nobody"), "nobody"),
        (changed("listeners", 0, "person", value="nobody"), "nobody"),
        (changed("devices", 13, "programs", 0, "chosen", "microphone", value="call-computer/ear"), "call-computer/ear"),
        (changed("devices", 0, "shows", value=["maren", "ghost"]), "it shows the sound 'ghost'"),
        (changed("devices", 14, "routes", 4, "on_air", value="switcher/hdmi9"), "the picture 'switcher/hdmi9'"),
        (changed("devices", 14, "controls", 5, "picture_input", value="switcher/x"), "the picture 'switcher/x'"),
        (changed("devices", 8, "routes", 4, "controls", 0, "only_from", value=["call/x"]), "the port 'call/x'"),
        (changed("devices", 8, "routes", 4, "controls", 0, "reference", value="call/y"), "the port 'call/y'"),
        (changed("cues", 0, "hand_actions", value=[{"kind": "turn", "target": "desk/z"}]), "control 'desk/z'"),
        (changed("cues", 0, "hand_actions", value=[{"kind": "turn", "target": "a", "person": "x"}]), "person 'x'"),
        (changed("cables", 0, "channels", value=[[1]]), "channels[1]: a list of 2"),
    ],
)
def test_what_contradicts_itself_is_refused_by_place_and_reason(content, said):
    assert said in refusal(content)


def test_two_devices_inside_each_other_are_refused():
    content = changed("devices", 0, "inside", value="condenser")
    content["devices"][1]["inside"] = "table-mic"
    assert "inside itself" in refusal(content)


@given(st.data())
@settings(max_examples=150, deadline=None)
def test_mutated_files_are_read_or_refused_never_more(data):
    raw = bytearray(DEMO.read_bytes()[:60_000] if data.draw(st.booleans()) else DEMO.read_bytes())
    for _ in range(data.draw(st.integers(1, 6))):
        at = data.draw(st.integers(0, len(raw) - 1))
        raw[at] = data.draw(st.integers(0, 255))
    try:
        parse_show(bytes(raw), "some.kymaton")
    except FileError as error:
        assert "\n" not in str(error)


@given(st.data())
@settings(max_examples=120, deadline=None)
def test_values_of_a_wrong_type_anywhere_are_read_or_refused(data):
    content = json.loads(json.dumps(CONTENT))
    place = content
    for _ in range(data.draw(st.integers(1, 5))):
        keys = list(place) if isinstance(place, dict) else list(range(len(place)))
        key = data.draw(st.sampled_from(keys))
        if not isinstance(place[key], dict | list) or not place[key]:
            break
        place = place[key]
        key = data.draw(st.sampled_from(list(place) if isinstance(place, dict) else list(range(len(place)))))
    place[key] = data.draw(st.sampled_from([None, -1, 1e308, "x", [], {}, True, ["a"], {"b": 1}]))
    try:
        parse_show(json.dumps(content).encode(), "some.kymaton")
    except FileError as error:
        assert "\n" not in str(error)


def test_a_newer_file_is_never_overwritten(tmp_path):
    path = tmp_path / "a.kymaton"
    path.write_text(json.dumps({**CONTENT, "version": 99}))
    before = path.read_bytes()
    show = read_show(path, newer=True)
    assert show.title == CONTENT["title"]
    with pytest.raises(FileError, match="newer Kymaton"):
        write_show(show, path)
    assert path.read_bytes() == before and len(list(tmp_path.iterdir())) == 1


def test_a_full_disk_leaves_the_old_file(tmp_path, monkeypatch):
    path = tmp_path / "a.kymaton"
    write_show(Show(title="one"), path)

    def full(_: int) -> None:
        raise OSError(28, "No space left on device")

    monkeypatch.setattr(atomic.os, "fsync", full)
    with pytest.raises(FileError, match="no space left"):
        write_show(Show(title="two"), path)
    assert read_show(path).title == "one" and [p.name for p in tmp_path.iterdir()] == ["a.kymaton"]


SAVER = """
import sys
from pathlib import Path
from kymaton.core.model import Show
from kymaton.store.showfile import write_show
number = 0
while True:
    number += 1
    write_show(Show(title=str(number), notes="x" * 300_000 + str(number)), Path(sys.argv[1]))
    if number == 1:
        print("ready", flush=True)
"""


def test_a_kill_during_save_leaves_the_old_or_the_new_file_whole(tmp_path):
    path = tmp_path / "a.kymaton"
    write_show(Show(title="0", notes="x" * 300_000 + "0"), path)
    chance = random.Random(4)
    last = 0
    for _ in range(25):
        saver = subprocess.Popen([sys.executable, "-c", SAVER, str(path)], stdout=subprocess.PIPE)
        assert saver.stdout is not None and saver.stdout.readline() == b"ready\n"
        time.sleep(chance.uniform(0.0, 0.02))
        os.kill(saver.pid, signal.SIGKILL)
        saver.wait()
        saver.stdout.close()
        for file in (path, tmp_path / "a.kymaton.previous"):
            if file.exists():
                show = read_show(file)
                assert show.notes == "x" * 300_000 + show.title
        last = max(last, int(read_show(path).title))
    assert last > 0  # some saves were finished


def test_the_schema_in_docs_is_the_one_in_force():
    file = DEMO.parent.parent / "docs" / "show.schema.json"
    assert json.loads(file.read_text("utf-8")) == showfile.schema()


def test_bytes_keep_their_order():
    keys = list(json.loads(show_bytes(read_show(DEMO))))
    assert keys[:3] == ["format", "version", "title"]
