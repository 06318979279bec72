"""`kymaton levels` on the demo."""

import json

from kymaton.cli.main import main
from kymaton.store.showfile import read_show
from tests.shows import DEMO, HEALTHY


def test_every_stage_of_a_sound_is_told(capsys):
    words = ["levels", str(DEMO), "--cue", "guest-talk", "--listener", "audience", "--sound", "maren"]
    assert main([*words, "--json"]) == 0
    told = json.loads(capsys.readouterr().out)
    (ladder,) = told["ladders"]
    gain = next(s for s in ladder["stages"] if s["control"] == "desk/ch1/gain")
    assert (gain["typical"], gain["takes"], gain["unit"]) == (-5.8, 22.0, "dBu")
    assert told["programme"][0]["listener"] == "audience" and told["programme"][0]["plus_minus_lu"] == 3.0
    assert main(words) == 0
    said = capsys.readouterr().out.splitlines()
    assert said[0] == "Maren to Audience" and said[1].startswith("  Maren: 66.0 dB SPL, peaks 81.0")
    assert said[-1].startswith("Programme for Recorder: about")


def test_gains_are_told_and_written(capsys, tmp_path):
    out = tmp_path / "set.kymaton"
    assert main(["levels", str(DEMO), "--gains", "--apply", "-o", str(out)]) == 0
    said = capsys.readouterr().out.splitlines()
    assert said[-1].endswith("changes.") or said[-1] == "1 change."
    assert read_show(out) != read_show(DEMO)
    assert main(["levels", str(HEALTHY), "--apply"]) == 2
    assert main(["levels", str(HEALTHY), "--sound", "nobody"]) == 2
    assert "nobody" in capsys.readouterr().err
