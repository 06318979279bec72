"""The command line: shapes of --json, exit codes, one plain line for what cannot be done."""

import json

import numpy as np
import pytest
import soundfile

from kymaton.cli.main import _asked, main
from kymaton.cli.parser import parser
from kymaton.store.showfile import read_show
from tests.shows import DEMO, HEALTHY


def run(capsys, *words: object) -> tuple[int, str, str]:
    code = main([str(w) for w in words])
    out, err = capsys.readouterr()
    return code, out, err


def run_json(capsys, *words: object) -> tuple[int, dict]:
    code, out, err = run(capsys, *words, "--json")
    assert err == ""
    return code, json.loads(out)


def test_check_tells_every_finding_with_its_path_and_fix(capsys):
    code, told = run_json(capsys, "check", DEMO)
    assert code == 1 and told["show"] == "Harbour Almanac Live"
    faults = [f for f in told["findings"] if f["severity"] == "fault"]
    assert told["counts"]["fault"] == len(faults) == 63
    for fault in faults:
        assert set(fault) >= {
            "id",
            "severity",
            "cue",
            "listener",
            "sound",
            "sentence",
            "reason",
            "evidence",
            "path",
            "fix",
        }
        by_hand = fault["id"] in ("uplink-too-small", "usb-too-full", "supply-full", "lead-too-short")
        assert fault["fix"] is not by_hand and fault["sentence"] and fault["reason"]
        if fault["sound"] is not None and fault["id"] != "missing":
            assert (
                fault["path"][0] == f"sound/{fault['sound']}" and fault["path"][-1] == f"listener/{fault['listener']}"
            )


def test_check_of_one_cue_and_of_a_healthy_show(capsys):
    code, told = run_json(capsys, "check", DEMO, "--cue", "doors")
    assert code == 0 and told["counts"]["fault"] == 0
    code, out, _ = run(capsys, "check", HEALTHY)
    assert code == 0 and "0 faults" in out.splitlines()[-1]


def test_hear_and_check_tell_the_same_delay(capsys):
    _, heard = run_json(capsys, "hear", DEMO, "--cue", "guest-talk", "--listener", "ilse")
    own = [a for a in heard["arrivals"] if a["sound"] == "ilse"]
    assert heard["cue"] == "guest-talk" and {a["channel"] for a in own} == {"L", "R"}
    _, told = run_json(capsys, "check", DEMO, "--cue", "guest-talk")
    finding = next(f for f in told["findings"] if f["id"] == "own-voice-back" and f["listener"] == "ilse")
    assert {a["delay_ms"] for a in own} == {finding["evidence"]["delay_ms"]}
    assert own[0]["path"] == finding["path"]
    code, text, _ = run(capsys, "hear", DEMO, "--cue", "guest-talk", "--listener", "ilse")
    assert code == 0 and f"{own[0]['delay_ms']:.0f} ± " in text
    _, every = run_json(capsys, "hear", DEMO)
    assert len({a["cue"] for a in every["arrivals"]}) == 7


def test_plan_writes_a_show_that_can_be_rendered(capsys, tmp_path):
    out = tmp_path / "fixed.kymaton"
    code, told = run_json(capsys, "plan", DEMO, "--apply", "-o", out)
    assert code == 0 and told["impossible"] == []
    assert {(c["cue"], c["control"], c["from"], c["to"]) for c in told["changes"]} == {
        (None, "desk/ch9/send/aux1", -22.0, -90.0),
        (None, "desk/ch10/send/aux1", -22.0, -90.0),
        (None, "desk/ch8/send/aux3", -90.0, 0.0),
        (None, "desk/ch13/mute", False, True),
        (None, "switcher/hdmi2/sound", "on", "off"),
        ("song", "desk/ch7/fader", -10.0, -90.0),
    }
    assert read_show(out).value("desk/ch9/send/aux1", None) == -90.0
    wav = tmp_path / "ilse.wav"
    code, made = run_json(capsys, "render", out, "--cue", "guest-talk", "--listener", "ilse", "-o", wav)
    samples, rate = soundfile.read(wav)
    assert code == 0 and rate == 48_000 and samples.shape[1] == 2 and np.abs(samples).max() > 0.01
    assert made["seconds"] == pytest.approx(len(samples) / rate, abs=0.001) and made["turned_down_db"] == 0


def test_render_flac_of_one_sound_and_nothing_to_render(capsys, tmp_path):
    out = tmp_path / "a.flac"
    assert run(capsys, "render", DEMO, "--cue", "song", "--listener", "teo", "--sound", "click", "-o", out)[0] == 0
    assert soundfile.info(out).subtype == "PCM_24"
    code, _, err = run(
        capsys, "render", HEALTHY, "--cue", "doors", "--listener", "teo", "--sound", "click", "-o", tmp_path / "b.wav"
    )
    assert code == 2 and "hears nothing" in err and not (tmp_path / "b.wav").exists()


def test_schema_is_json(capsys):
    code, out, _ = run(capsys, "schema")
    assert code == 0 and json.loads(out)["title"] == "Show"


def damaged(tmp_path, name: str):
    content = json.loads(DEMO.read_text("utf-8"))
    path = tmp_path / "bad.kymaton"
    if name == "cut off":
        path.write_bytes(DEMO.read_bytes()[:90_000])
    elif name == "wrong type":
        content["sounds"][0]["level"] = "loud"
    elif name == "cable to nowhere":
        content["cables"][3]["target"] = "nowhere/in"
    elif name == "loop of devices":
        content["devices"][0]["inside"], content["devices"][1]["inside"] = "condenser", "table-mic"
    elif name == "duplicate id":
        content["devices"][1]["id"] = content["devices"][0]["id"]
    elif name == "noise":
        path.write_bytes(np.random.default_rng(1).bytes(10_000_000))
    elif name == "version 99":
        content["version"] = 99
    if name not in ("cut off", "noise", "absent"):
        path.write_text(json.dumps(content))
    return path


@pytest.mark.parametrize(
    "name",
    ["cut off", "wrong type", "cable to nowhere", "loop of devices", "duplicate id", "noise", "version 99", "absent"],
)
@pytest.mark.parametrize("command", ["check", "hear", "plan", "render"])
def test_what_cannot_be_read_gets_one_line_exit_two_and_nothing_is_written(capsys, tmp_path, name, command):
    path = damaged(tmp_path, name)
    there = set(tmp_path.iterdir())
    more = {
        "plan": ["--apply", "-o", tmp_path / "out.kymaton"],
        "render": ["--cue", "song", "--listener", "teo", "-o", tmp_path / "out.wav"],
    }
    code, out, err = run(capsys, command, path, *more.get(command, []))
    assert code == 2 and out == "" and err.count("\n") == 1 and err.startswith("kymaton: ") and "Traceback" not in err
    assert set(tmp_path.iterdir()) == there


@pytest.mark.parametrize(
    "words",
    [
        ["check"],
        ["dance"],
        ["check", DEMO, "--cue", "nowhere"],
        ["hear", DEMO, "--listener", "nobody"],
        ["plan", DEMO, "--apply"],
        ["render", DEMO, "--cue", "song", "--listener", "teo", "-o", "/no/such/folder/a.wav"],
        ["render", DEMO, "--cue", "song", "--listener", "teo", "-o", "a.mp3"],
        ["render", DEMO, "--cue", "song", "--listener", "teo", "--sound", "nothing", "-o", "a.wav"],
    ],
)
def test_wrong_words_get_one_line(capsys, words):
    code, out, err = run(capsys, *words)
    assert code == 2 and out == "" and err.count("\n") == 1


def test_a_signal_loop_is_a_finding_and_not_an_error(capsys, tmp_path):
    content = json.loads(DEMO.read_text("utf-8"))
    content["cables"].append({"id": "back", "source": "desk/aux6", "target": "desk/in16", "kind": "XLR"})
    desk = next(d for d in content["devices"] if d["id"] == "desk")
    for control in desk["controls"]:
        if control["id"] == "desk/ch16/send/aux6":
            control["value"] = 3.0
        if control["id"] == "desk/ch1/send/aux6":
            control["value"] = -6.0
    content["cables"].append({"id": "ear", "source": "desk/aux6", "target": "listener/room", "kind": "held"})
    path = tmp_path / "loop.kymaton"
    path.write_text(json.dumps(content))
    code, told = run_json(capsys, "check", path, "--cue", "guest-talk")
    loops = [f for f in told["findings"] if f["id"] == "loop"]
    assert code == 1 and len(loops) == 1 and loops[0]["evidence"]["margin_db"] == pytest.approx(-3.0)
    assert "runs away" in loops[0]["sentence"]


def test_a_stem_outside_the_folder_is_refused(capsys, tmp_path):
    content = json.loads(DEMO.read_text("utf-8"))
    content["sounds"][0]["stem"]["file"] = "../../secret.wav"
    path = tmp_path / "a.kymaton"
    path.write_text(json.dumps(content))
    code, _, err = run(capsys, "render", path, "--cue", "guest-talk", "--listener", "ilse", "-o", tmp_path / "a.wav")
    assert code == 2 and "outside the folder" in err and not (tmp_path / "a.wav").exists()


# sync


def test_sync_solve_tells_what_to_enter(capsys):
    code, told = run_json(capsys, "sync", "solve", DEMO, "--per-cue")
    assert code == 0 and told["window"] == "R 37"
    assert {(c["cue"], c["setting"]) for c in told["changes"]} >= {("song", "117 ms"), ("guest-talk", "199 ms")}
    assert max(abs(r["lead_ms"]) for r in told["after"]) < 1.0 < min(abs(r["lead_ms"]) for r in told["before"])
    code, out, _ = run(capsys, "sync", "solve", HEALTHY)
    assert code == 0 and "Guest talk, Camera A: sound" in out


def test_sync_clip_and_measure_on_files(capsys, tmp_path):
    clip = tmp_path / "clip.mp4"
    sizes = ("--size", "160x90", "--seconds", "9", "--fps", "25")
    assert run(capsys, "sync", "clip", "-o", clip, *sizes, "--lead-ms", "-42.5")[0] == 0
    code, told = run_json(capsys, "sync", "measure", clip)
    assert code == 0 and abs(told["lead_ms"] + 42.5) < 1.0 and told["confidence"] == "high" and told["events"] >= 8
    assert set(told) >= {"lead_ms", "events", "jitter_ms", "drift_ppm", "confidence"}
    code, out, _ = run(capsys, "sync", "measure", clip)
    assert out.startswith("Sound is 42.5 ± ")


@pytest.mark.parametrize(
    "words",
    [
        ("sync", "measure", "nothing.mp4"),
        ("sync", "clip", "-o", "clip.avi"),
        ("sync", "clip", "-o", "clip.mp4", "--size", "big"),
        ("sync", "clip", "-o", "clip.mp4", "--fps", "fast"),
        ("sync", "clip", "-o", "clip.mp4", "--lead-ms", "nan"),
        ("sync", "dance"),
        ("sync",),
    ],
)
def test_what_sync_cannot_do_is_one_line_and_leaves_nothing(capsys, tmp_path, monkeypatch, words):
    monkeypatch.chdir(tmp_path)
    code, out, err = run(capsys, *words)
    assert code == 2 and out == "" and err.count("\n") == 1 and list(tmp_path.iterdir()) == []


def test_a_simulated_camera_is_filmed_and_measured(capsys, tmp_path):
    film = tmp_path / "film.mkv"
    assert (
        run(capsys, "sim", "camera", "-o", film, "--picture-ms", "140", "--sound-ms", "20", "--seconds", "10")[0] == 0
    )
    code, told = run_json(capsys, "sync", "measure", film)
    assert code == 0 and abs(told["lead_ms"] - 120.0) < 1.5
    for words in (("--fps", "fast"), ("--exposure", "2"), ("--picture-ms", "nan"), ("--seconds", "0")):
        code, _, err = run(capsys, "sim", "camera", "-o", tmp_path / "none.mkv", *words)
        assert code == 2 and err.count("\n") == 1 and not (tmp_path / "none.mkv").exists()


def test_the_desktop_may_open_it_with_a_file_or_without():
    for words in (["open", "a.kymaton"], ["demo"], []):  # asked for without the parser, they mean the same
        asked, parsed = _asked(words), parser().parse_args(words)
        assert (asked.run, getattr(asked, "show", None)) == (parsed.run, getattr(parsed, "show", None))
    assert parser().parse_args(["open"]).show is None
    assert parser().parse_args(["open", "a.kymaton"]).show.name == "a.kymaton"
    entry = (DEMO.parent.parent / "packaging" / "org.kymaton.Kymaton.desktop").read_text()
    assert "Exec=kymaton open %f" in entry


def test_lines_make_a_show_and_a_show_its_lines(capsys, tmp_path):
    code, told, err = run(capsys, "lines", HEALTHY)
    assert (code, err) == (0, "") and "title Harbour Almanac (healthy)" in told.splitlines()
    text, made = tmp_path / "show.txt", tmp_path / "made.kymaton"
    assert run(capsys, "lines", HEALTHY, "-o", text) == (0, "", "") and text.read_text() == told
    code, out, err = run(capsys, "build", text, "-o", made)
    assert (code, out, err) == (0, f"{made}: Harbour Almanac (healthy), 23 devices, 49 leads.\n", "")
    assert made.read_bytes() == HEALTHY.read_bytes()


def test_a_line_that_cannot_be_is_told_with_its_number_and_nothing_is_written(capsys, tmp_path):
    text, made = tmp_path / "show.txt", tmp_path / "made.kymaton"
    text.write_text("title Small\nadd desk\nmic > desk 1\n")
    code, out, err = run(capsys, "build", text, "-o", made)
    assert (code, out) == (2, "") and not made.exists()
    assert err == "kymaton: show.txt, line 3 ('mic > desk 1'): Nothing here is called 'mic'.\n"
    text.write_bytes(b"title \xff\n")
    assert run(capsys, "build", text, "-o", made)[2] == "kymaton: show.txt: byte 7 is not UTF-8 text.\n"
