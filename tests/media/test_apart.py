"""Work in a process of its own: whatever becomes of it, the one that called gets one answer, and nothing is left."""

import os
import signal
import subprocess
import sys
import threading
import time
from multiprocessing.connection import Pipe
from pathlib import Path

import numpy as np
import pytest

from kymaton.core.errors import FileError, MeasureError, Stopped
from kymaton.media import apart as rooms
from kymaton.media.apart import Call, apart, serve
from tests.cli.test_ends import heeding

HERE = "tests.media.rooms"


@pytest.fixture(autouse=True)
def from_here(monkeypatch):
    """The other process finds the tests, and none waits from before."""
    monkeypatch.setenv("PYTHONPATH", str(Path(__file__).parents[2]))
    rooms.end_all()
    yield
    rooms.end_all()


def test_one_process_answers_one_call_after_another(tmp_path):
    first = apart(f"{HERE}:number", tmp_path)
    assert first != os.getpid() and apart(f"{HERE}:number", tmp_path) == first
    values = {"sound": np.arange(200_000, dtype=np.float32), "name": "é\x00", "nothing": None}
    answer = apart(f"{HERE}:echo", values)
    assert np.array_equal(answer.pop("sound"), values.pop("sound")) and answer == values


def test_a_decoder_that_falls_over_is_one_sentence(tmp_path):
    before = apart(f"{HERE}:number", tmp_path)
    with pytest.raises(FileError, match=r"^song\.mp4: it is damaged in a way that reading does not survive\.$"):
        apart(f"{HERE}:fall_over", tmp_path / "song.mp4")
    assert apart(f"{HERE}:number", tmp_path) != before  # and the next call has another process


def test_nothing_is_left_of_what_was_begun(tmp_path):
    (tmp_path / "film.mp4").write_bytes(b"old")
    with pytest.raises(FileError):
        apart(f"{HERE}:fall_over_while_writing", tmp_path / "film.mp4")
    assert [p.name for p in tmp_path.iterdir()] == ["film.mp4"]


def test_memory_has_a_limit(tmp_path):
    with pytest.raises(MemoryError):
        apart(f"{HERE}:swell", tmp_path)


def test_what_nothing_is_heard_of_is_ended(tmp_path, monkeypatch):
    monkeypatch.setattr(rooms, "SILENT_S", 1.0)
    with pytest.raises(FileError, match=r"^a\.mkv: nothing came of reading it"):
        apart(f"{HERE}:stand_still", tmp_path / "a.mkv")


def test_stop_stops_and_what_does_not_stop_is_ended(tmp_path, monkeypatch):
    seen = []

    def until_five(part: float) -> bool:
        seen.append(part)
        return len(seen) < 5

    before = apart(f"{HERE}:number", tmp_path)
    with pytest.raises(Stopped):
        apart(f"{HERE}:work_on", tmp_path / "a.mkv", progress=until_five, part=0.25)
    assert 0.25 in seen and not list(tmp_path.iterdir())
    assert apart(f"{HERE}:number", tmp_path) == before  # it stopped by itself, and the next call was not stopped
    monkeypatch.setattr(rooms, "STOP_S", 0.5)
    with pytest.raises(Stopped):
        apart(f"{HERE}:stand_still", tmp_path, progress=lambda part: False)
    assert apart(f"{HERE}:number", tmp_path) != before


def test_errors_come_as_what_they_are(tmp_path):
    with pytest.raises(FileError, match=r"^a\.mkv: no\.$") as raised:
        apart(f"{HERE}:refuse", tmp_path / "a.mkv")
    assert isinstance(raised.value.__cause__, MeasureError)
    with pytest.raises(FileNotFoundError):
        apart(f"{HERE}:want", tmp_path / "a.mkv")
    with pytest.raises(RuntimeError) as mistake:
        apart(f"{HERE}:err", tmp_path)
    assert str(mistake.value) == "ZeroDivisionError: a mistake" and "in err" in mistake.value.__notes__[0]


def test_calls_at_the_same_time_have_a_process_each(tmp_path):
    numbers, stop = [], threading.Event()

    def work() -> None:
        with pytest.raises(Stopped):
            apart(f"{HERE}:work_on", tmp_path / "a.mkv", progress=lambda part: not stop.is_set())

    worker = threading.Thread(target=work)
    worker.start()
    numbers = [apart(f"{HERE}:number", tmp_path) for _ in range(3)]
    stop.set()
    worker.join()
    assert len(set(numbers)) == 1


@pytest.mark.parametrize(("sent", "code"), [(signal.SIGKILL, -9), (signal.SIGTERM, 143), (signal.SIGINT, 130)])
def test_when_the_one_that_called_is_gone_the_work_stops_and_leaves_nothing(tmp_path, sent, code):
    program = (
        "import sys\nfrom pathlib import Path\nfrom kymaton.cli.ending import heed_signals\n"
        "from kymaton.media.apart import apart\nheed_signals()\n"
        f"try:\n    apart('{HERE}:work_on', Path(sys.argv[1]))\nexcept KeyboardInterrupt:\n    sys.exit(130)\n"
    )
    caller = subprocess.Popen([sys.executable, "-c", program, str(tmp_path / "a.mkv")], preexec_fn=heeding)
    wait_for(lambda: list(tmp_path.iterdir()))
    caller.send_signal(sent)
    assert caller.wait(20) == code
    wait_for(lambda: not list(tmp_path.iterdir()))


def wait_for(what) -> None:
    end = time.monotonic() + 20
    while not what():
        assert time.monotonic() < end
        time.sleep(0.02)


def test_serving_ends_with_the_line(tmp_path, monkeypatch):
    """The other side, here, where its lines are counted."""
    ended = threading.Event()
    monkeypatch.setattr(rooms.os, "_exit", lambda code: ended.set())
    monkeypatch.setattr(rooms, "STOP_S", 0.0)
    ours, theirs = Pipe()
    server = threading.Thread(target=serve, args=(theirs,))
    server.start()
    ours.send(Call(1, f"{HERE}:echo", (5,), {}))
    assert ours.recv() == ("done", 5)
    ours.send(Call(2, f"{HERE}:work_on", (tmp_path / "a.mkv",), {}))
    assert ours.recv() == ("progress", 0.5)
    ours.send(2)
    while (told := ours.recv())[0] == "progress":
        pass
    assert told[0] == "raised" and isinstance(told[1][0], Stopped)
    for name, kind in (("err", RuntimeError), ("want", FileNotFoundError), ("refuse", FileError)):
        ours.send(Call(3, f"{HERE}:{name}", (tmp_path / "a.mkv",), {}))
        assert isinstance(ours.recv()[1][0], kind)
    ours.close()
    server.join(10)
    assert not server.is_alive() and ended.wait(10)
