"""What the commands say to people."""

import subprocess
import sys

import pytest

from kymaton.cli.main import main
from tests.shows import DEMO, HEALTHY


def lines(capsys, *words: object) -> list[str]:
    main([str(w) for w in words])
    return capsys.readouterr().out.splitlines()


def test_check_says_severity_cue_sentence_reason_and_fix(capsys):
    said = lines(capsys, "check", DEMO)
    first = next(x for x in said if "Ilse hears their own voice" in x)
    assert first.startswith("fault   Green room: ") and first.endswith(
        "Fix: Pull down both sends: Pull down desk 9 to aux 1; Pull down desk 10 to aux 1."
    )
    assert any(x.startswith("fault   Rig: Switcher mic 1 expects a microphone and gets line") for x in said)
    assert any(
        x.startswith("caution Rig: The HDMI run from camera A HDMI") and "Use a passive extender" in x for x in said
    )
    assert said[-1].startswith("Harbour Almanac Live: 63 faults, 19 cautions, ")


def test_hear_tells_each_delay_once(capsys):
    said = lines(capsys, "hear", DEMO, "--cue", "guest-talk", "--listener", "nadir")
    assert said[0] == "Guest talk" and len(said) == len(set(said))
    assert any("Ilse" in x and "98 ± 12 ms" in x and "77.0 dB SPL" in x for x in said)
    assert any("Nadir" in x.split()[1] and "232 ± 27 ms" in x for x in said)


def test_plan_tells_what_was_and_why(capsys):
    said = lines(capsys, "plan", DEMO)
    assert said[0] == "Pull down desk 9 to aux 1 (was \u221222 dB), all cues: Ilse and Nadir hear themselves"
    assert said[-1] == "6 changes, 60 findings vanish."
    assert lines(capsys, "plan", HEALTHY) == ["0 changes, 0 findings vanish."]


def test_render_tells_the_scale_of_the_file(capsys, tmp_path):
    said = lines(
        capsys, "render", DEMO, "--cue", "song", "--listener", "teo", "--sound", "click", "-o", tmp_path / "a.wav"
    )
    assert "0 dBFS in the file is 100.0 dB SPL" in said[0]


@pytest.mark.parametrize("words", [["--help"], ["check", "--help"], ["--version"]])
def test_help_and_version(words):
    done = subprocess.run([sys.executable, "-m", "kymaton", *words], capture_output=True, text=True)
    assert done.returncode == 0 and done.stdout and not done.stderr


def test_a_pipe_that_is_closed_early_is_no_error():
    command = f"{sys.executable} -m kymaton check {DEMO} --json | head -1"
    done = subprocess.run(command, shell=True, capture_output=True, text=True)
    assert done.stdout == "{\n" and done.stderr == ""
