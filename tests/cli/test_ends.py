"""How commands end: codes, one line, nothing left behind."""

import os
import signal
import subprocess
import sys
import time

import pytest

from tests.shows import DEMO

KYMATON = [sys.executable, "-m", "kymaton.cli.main"]


def heeding() -> None:
    """To be run in the child: Ctrl+C counts, also where the tests themselves run behind and do not heed it."""
    signal.signal(signal.SIGINT, signal.default_int_handler)


def run(*words: str, **how) -> subprocess.CompletedProcess:
    how = {"stdout": subprocess.PIPE, **how}
    return subprocess.run([*KYMATON, *words], stderr=subprocess.PIPE, text=True, timeout=60, **how)


def test_a_full_disk_behind_the_output_is_one_line():
    with open("/dev/full", "w") as full:  # noqa: PTH123
        done = run("check", str(DEMO), stdout=full)
    assert done.returncode == 2 and done.stderr == "kymaton: the output: no space left on device.\n"


def test_a_reader_that_goes_does_not_make_faults_good():
    with subprocess.Popen(
        [*KYMATON, "check", str(DEMO), "--json"], stdout=subprocess.PIPE, stderr=subprocess.PIPE
    ) as p:
        assert p.stdout is not None and p.stderr is not None
        p.stdout.read(10)
        p.stdout.close()
        assert p.wait(60) == 141 and p.stderr.read() == b""


@pytest.mark.parametrize("name", ["a" * 300, "\udc80\udc81", "a\x1b[31mb"])
def test_names_that_no_file_has_are_one_line(name):
    done = run("check", f"{name}.kymaton")
    assert done.returncode == 2 and done.stderr.startswith("kymaton: ") and done.stderr.count("\n") == 1
    assert "\x1b" not in done.stderr


def test_another_locale_prints_what_it_can():
    done = run(
        "check", str(DEMO), env={**os.environ, "LC_ALL": "C", "PYTHONIOENCODING": "ascii:strict", "PYTHONUTF8": "0"}
    )
    assert done.returncode == 1 and "63 faults" in done.stdout and done.stderr == ""


@pytest.mark.parametrize("after_s", [0.06, 0.09, 0.13, 0.2, 0.3])
def test_ctrl_c_while_it_loads_tells_no_traceback(after_s):
    """From when the first line of Kymaton runs."""
    program = "import sys, kymaton.start; sys.argv = ['kymaton', 'sim', 'camera', '-o', '/dev/null/x.mkv']; "
    with subprocess.Popen(
        [sys.executable, "-c", program + "print(flush=True); sys.exit(kymaton.start.run())"],
        stdout=subprocess.PIPE, stderr=subprocess.PIPE, preexec_fn=heeding,
    ) as p:  # fmt: skip
        assert p.stdout is not None and p.stderr is not None
        p.stdout.readline()
        time.sleep(after_s - 0.06)
        p.send_signal(signal.SIGINT)
        told = p.stderr.read()
        assert p.wait(60) in (-signal.SIGINT, 130, 2) and b"Traceback" not in told


@pytest.mark.parametrize(("number", "code"), [(signal.SIGINT, 130), (signal.SIGTERM, 143), (signal.SIGHUP, 129)])
def test_a_signal_ends_it_and_leaves_no_half_file(tmp_path, number, code):
    out = tmp_path / "clip.mp4"
    command = [*KYMATON, "sync", "clip", "-o", str(out), "--seconds", "600"]
    with subprocess.Popen(command, stderr=subprocess.PIPE, preexec_fn=heeding) as p:
        while not list(tmp_path.iterdir()) and p.poll() is None:
            time.sleep(0.02)
        p.send_signal(number)
        assert p.wait(60) == code and p.stderr is not None and b"Traceback" not in p.stderr.read()
    assert list(tmp_path.iterdir()) == []


def test_a_signal_that_comes_while_an_object_is_taken_away_ends_it_all_the_same(tmp_path):
    """What is raised there Python forgets, and would tell like a mistake; what is a mistake is told."""
    program = (
        "import os, signal, sys; from kymaton.cli.main import main\n"
        "class Going:\n    def __del__(self): os.kill(os.getpid(), signal.SIGINT); sum(range(9))\n"
        "class Wrong:\n    def __del__(self): 1 / 0\n"
        "from kymaton.media import clips; whole = clips.clip_frames\n"
        "def frames(clip):\n"
        "    for number, frame in enumerate(whole(clip)):\n"
        "        if number == 8: Wrong()\n"
        "        if number == 9: Going()\n"
        "        yield frame\n"
        "clips.clip_frames = frames; sys.exit(main(sys.argv[1:]))"
    )
    words = ["sync", "clip", "-o", str(tmp_path / "clip.mp4"), "--seconds", "600"]
    with subprocess.Popen([sys.executable, "-c", program, *words], stderr=subprocess.PIPE, preexec_fn=heeding) as p:
        assert p.wait(60) == 130 and p.stderr is not None
        told = p.stderr.read()
        assert b"Interrupt" not in told and b"ZeroDivisionError" in told and told.endswith(b"\nkymaton: stopped.\n")
    assert list(tmp_path.iterdir()) == []


def test_a_mistake_of_our_own_is_not_the_code_of_faults(monkeypatch, capsys):
    from kymaton.cli import main as module

    monkeypatch.setattr(module, "_asked", lambda words: 1 / 0)
    assert module.main(["check"]) == 3
    assert capsys.readouterr().err == "kymaton: a mistake in Kymaton (ZeroDivisionError: division by zero).\n"


def test_noise_below_none_is_refused(tmp_path, capsys):
    from kymaton.cli.main import main

    assert main(["sim", "camera", "--noise", "-40", "--out", str(tmp_path / "a.mkv")]) == 2
    assert capsys.readouterr().err == "kymaton: The noise of a simulated camera is 0 to 100.\n"
