"""Every starter rig through a file and the commands, as a person would use it."""

import json

import pytest

from kymaton.catalogue.starters import STARTERS
from kymaton.cli.main import main
from kymaton.core.model import Want
from kymaton.store.showfile import read_show, write_show


@pytest.fixture(params=STARTERS, ids=lambda s: s.id)
def file(request, tmp_path):
    path = tmp_path / f"{request.param.id}.kymaton"
    write_show(request.param.show(), path)
    return path


def run_json(capsys, *words: object) -> tuple[int, dict]:
    code = main([*map(str, words), "--json"])
    out, err = capsys.readouterr()
    assert err == ""
    return code, json.loads(out)


def test_a_starter_on_the_command_line(capsys, file, tmp_path):
    code, told = run_json(capsys, "check", file)
    assert code == 0 and told["counts"]["fault"] == 0
    assert all(f["sentence"] and f["reason"] for f in told["findings"])
    show = read_show(file)
    _, heard = run_json(capsys, "hear", file)
    arrives = {(a["listener"], a["sound"]) for a in heard["arrivals"]}
    assert {(w.listener, w.sound) for w in show.plan if w.want is Want.MUST} <= arrives
    for arrival in heard["arrivals"]:
        assert arrival["path"][0] == f"sound/{arrival['sound']}" and arrival["delay_ms"] >= 0
        assert arrival["plus_minus_ms"] >= 0 and arrival["polarity"] in (1, -1)
    assert heard["loops"] == []
    _, plan = run_json(capsys, "plan", file)
    assert plan["changes"] == [] and plan["impossible"] == []


def test_a_starter_has_no_cues_and_says_so(capsys, file, tmp_path):
    show = read_show(file)
    listener = next(w.listener for w in show.plan if w.want is Want.MUST)
    code = main(["render", str(file), "--cue", "none", "--listener", listener, "-o", str(tmp_path / "a.wav")])
    assert code == 2 and "there are none" in capsys.readouterr().err


def test_a_closed_send_is_found_and_planned_open_again(capsys, file):
    """Whatever must be heard by way of a desk's send: closed, it is missing; the plan or a fix opens it again."""
    show = read_show(file)
    desk = next((d for d in show.devices if d.kind == "desk"), None)
    sends = [c for c in (desk.controls if desk else ()) if c.role == "send" and c.value != c.minimum]
    if not sends:
        pytest.skip("no send is open in this rig")
    content = json.loads(file.read_text("utf-8"))
    for device in content["devices"]:
        for control in device.get("controls", ()):
            if control["id"] == sends[0].id:
                control["value"] = sends[0].minimum
    file.write_text(json.dumps(content))
    code, told = run_json(capsys, "check", file)
    missing = [f for f in told["findings"] if f["id"] == "missing"]
    if missing:
        assert code == 1 and all(f["fix"] for f in missing)
        assert any(c["control"] == sends[0].id for f in missing for c in f["changes"])
