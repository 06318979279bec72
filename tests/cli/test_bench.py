"""`kymaton loudness` with one recording and with many."""

import csv
import json

import numpy as np
import pytest
import soundfile

from kymaton.cli.main import main
from kymaton.core.levels.goals import GOALS, balance, goal_of, verdict

RATE_HZ = 48_000


def tone(path, dbfs, seconds=5.0):
    wave = 10 ** (dbfs / 20) * np.sin(2 * np.pi * 1000 * np.arange(round(seconds * RATE_HZ)) / RATE_HZ)
    soundfile.write(path, np.stack([wave, wave], 1), RATE_HZ, "PCM_24")
    return path


def test_one_against_a_goal(tmp_path, capsys):
    path = str(tone(tmp_path / "talk.wav", -20.0))
    assert main(["loudness", path, "--goal", "-23", "--json"]) == 1
    told = json.loads(capsys.readouterr().out)
    assert told["integrated_lufs"] == pytest.approx(-20.0, abs=0.1) and told["mono"] is True
    assert told["goal"]["origin"] == "EBU R 128" and told["goal"]["gain_db"] == pytest.approx(-3.0, abs=0.1)
    assert main(["loudness", path, "--goal", "-20"]) == 0
    said = capsys.readouterr().out
    assert "It meets −20 LUFS." in said and "Both sides carry the same." in said
    assert main(["loudness", path, "--goal", "5"]) == 2


def test_many_at_once_a_table_and_one_that_cannot_be_read(tmp_path, capsys):
    loud, soft = tone(tmp_path / "=Ada.wav", -18.0), tone(tmp_path / "bea.wav", -26.0)
    bad = tmp_path / "bad.wav"
    bad.write_bytes(b"no sound")
    out = tmp_path / "table.csv"
    assert main(["loudness", str(loud), str(bad), str(soft), "--csv", str(out), "--json"]) == 1
    printed = capsys.readouterr()
    told = json.loads(printed.out)
    assert [f["file"] for f in told["files"]] == [str(loud), str(soft)] and len(told["troubles"]) == 1
    assert told["balance"] == ["bea.wav is 8.0 LU softer than =Ada.wav"] and "bad.wav" in printed.err
    rows = list(csv.DictReader(out.read_text("utf-8").splitlines()))
    assert len(rows) == 2 and not rows[0]["file"].startswith("=")  # a spreadsheet runs nothing
    assert main(["loudness", str(bad)]) == 2
    assert main(["loudness", str(bad), str(tmp_path / "none.wav")]) == 2


def test_what_true_peak_does_not_allow_is_left_to_a_limiter():
    judged = verdict(-20.0, -2.0, goal_of(-16.0))
    assert (judged.gain_db, judged.most_db, judged.meets) == (4.0, 1.0, False)
    assert judged.sentence.endswith("a limiter has to take the last 3.0 dB")
    over = verdict(-16.2, 0.5, goal_of(-16.0))
    assert not over.meets and "true peak is 1.5 dB over −1 dBTP" in over.sentence
    assert verdict(-23.4, -3.0, goal_of(-23.0)).meets and not verdict(-23.6, -3.0, goal_of(-23.0)).meets
    assert {g.lufs for g in GOALS} == {-14.0, -16.0, -18.0, -23.0, -24.0}
    assert not verdict(float("-inf"), -90.0, GOALS[0]).meets
    assert balance({"Ada": -20.0}) == [] and balance({"Ada": -20.0, "Bea": -22.0}) == []
