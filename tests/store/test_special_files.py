"""Files that are none, names that none can have, links, modes, texts that cannot be written."""

import os
import stat

import pytest

from kymaton.core.errors import FileError
from kymaton.store.atomic import write_whole
from kymaton.store.showfile import parse_show, read_bytes, read_show, show_bytes, write_show
from tests.shows import call_show


def test_a_pipe_a_device_and_a_folder_are_no_shows(tmp_path):
    pipe = tmp_path / "pipe.kymaton"
    os.mkfifo(pipe)
    for path in (pipe, tmp_path, "/dev/zero"):
        with pytest.raises(FileError, match=r"not a file|is a directory"):
            read_bytes(type(tmp_path)(path))
        with pytest.raises(FileError, match=r"no regular file|is a directory"):
            write_whole(type(tmp_path)(path), b"x")
    assert stat.S_ISFIFO(pipe.stat().st_mode)


@pytest.mark.parametrize("name", ["a" * 300 + ".kymaton", "a\0b.kymaton"])
def test_a_name_that_no_file_can_have_is_one_sentence(tmp_path, name):
    for do in (lambda: write_show(call_show(), tmp_path / name), lambda: read_show(tmp_path / name)):
        with pytest.raises(FileError) as caught:
            do()
        assert "\n" not in str(caught.value)


def test_a_link_stays_a_link_and_a_mode_stays_a_mode(tmp_path):
    real, link = tmp_path / "real.kymaton", tmp_path / "link.kymaton"
    write_show(call_show(), real)
    real.chmod(0o600)
    link.symlink_to(real)
    write_show(call_show().evolve(title="Through the link"), link)
    assert link.is_symlink() and read_show(real).title == "Through the link"
    assert stat.S_IMODE(real.stat().st_mode) == 0o600
    real.chmod(0o444)
    with pytest.raises(FileError, match="write-protected"):
        write_show(call_show(), real)
    assert read_show(real).title == "Through the link" and not list(tmp_path.glob("*.part"))


def test_half_a_character_is_said_and_never_keeps_work_from_being_kept(tmp_path):
    data = show_bytes(call_show().evolve(title="HERE")).replace(b"HERE", b"\\ud800")
    with pytest.raises(FileError, match="half of a character"):
        parse_show(data, "a.kymaton")
    whole = show_bytes(call_show().evolve(title="HERE")).replace(b"HERE", b"\\ud83c\\udfa4")
    assert parse_show(whole, "a.kymaton").title == "\U0001f3a4"
    write_show(call_show().evolve(title="typed \ud800"), tmp_path / "typed.kymaton")
    assert read_show(tmp_path / "typed.kymaton").title == "typed ?"


def test_control_characters_do_not_reach_terminals_or_drawings(tmp_path):
    data = show_bytes(call_show().evolve(title="HERE")).replace(b"HERE", b"a\\u001b[31mb \\\\u001b")
    assert parse_show(data, "a.kymaton").title == "a [31mb \\u001b"
    write_show(call_show().evolve(title="typed \x1b[31m"), tmp_path / "typed.kymaton")
    assert read_show(tmp_path / "typed.kymaton").title == "typed  [31m"


@pytest.mark.parametrize(
    ("field", "value"),
    [
        ("delay_ms", 1e9),
        ("delay_ms", -1.0),
        ("delay_ms", 600_001),
        ("gain_db", 1e308),
        ("gain_db", 201),
        ("controls", [{"control": "call/processing", "gains": {"voice": 201.0}}]),
        ("delay_ms", {"value": 1, "plus_minus": 1e308}),
    ],
)
def test_figures_that_no_gear_has_are_refused_with_their_place(field, value):
    import json

    content = json.loads(show_bytes(call_show()))
    device = next(d for d in content["devices"] if d["id"] == "call")
    device["routes"][0][field] = value
    with pytest.raises(FileError) as caught:
        parse_show(json.dumps(content).encode(), "a.kymaton")
    assert "a.kymaton" in str(caught.value) and device["id"] in str(caught.value)
    taken = {"gain_db": 200, "controls": [{"control": "call/processing", "gains": {"voice": 200.0}}]}
    device["routes"][0][field] = taken.get(field, 600_000)
    parse_show(json.dumps(content).encode(), "a.kymaton")


def test_what_a_killed_process_left_is_swept_at_the_next_save(tmp_path):
    import subprocess
    import sys

    gone = subprocess.run([sys.executable, "-c", "import os; print(os.getpid())"], capture_output=True, text=True)
    path = tmp_path / "a.kymaton"
    left = tmp_path / f".a.kymaton.{int(gone.stdout)}.part"
    other, strange = tmp_path / f".b.kymaton.{int(gone.stdout)}.part", tmp_path / ".a.kymaton.part"
    for file in (left, other, strange):
        file.write_bytes(b"half")
    write_show(call_show(), path)
    assert not left.exists() and other.exists() and strange.exists()
    running = tmp_path / f".a.kymaton.{os.getpid()}.part"
    running.write_bytes(b"being written")
    write_show(call_show(), tmp_path / "b.kymaton")
    assert running.exists() and not other.exists()
