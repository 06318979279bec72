"""Every starter rig through a file and the commands, as a person would use it."""

import json

import pytest

from kymaton.cli.main import main
from kymaton.core.edits.controls import Change, apply
from kymaton.core.model import Show, Want
from kymaton.core.signal.cue_solution import CueSolution
from kymaton.language.starters import STARTERS
from kymaton.store.showfile import read_show, write_show


@pytest.fixture(params=STARTERS, ids=lambda s: s.id)
def file(request, tmp_path):
    path = tmp_path / f"{request.param.id}.kymaton"
    write_show(request.param.show(), path)
    return path


def wanted_sends(show: Show) -> list[tuple[str, str, str]]:
    """Sends of a desk that are the only way of a sound to a listener who must hear it: send, listener, sound."""
    view, found = CueSolution(show, None), []
    for wish in show.plan:
        paths = view.paths(wish.listener, wish.sound) if wish.want is Want.MUST else []
        sends = [
            {u.control for e in p.edges for u in view.graph.edges[e].uses if show.control(u.control).role == "send"}
            for p in paths
        ]
        shared = set.intersection(*sends) if sends else set()
        found += [(c, wish.listener, wish.sound) for c in sorted(shared) if show.device(c.split("/")[0]).kind == "desk"]
    return found


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


WITH_SENDS = [s for s in STARTERS if wanted_sends(s.show())]


@pytest.mark.parametrize("made", WITH_SENDS, ids=lambda s: s.id)
def test_a_closed_send_is_missed_and_opened_again(capsys, tmp_path, made):
    """A send by which something must be heard is closed: found as missing, and the fix opens that send."""
    show = made.show()
    send, listener, sound = wanted_sends(show)[0]
    file = tmp_path / "closed.kymaton"
    write_show(apply(show, [Change(None, send, show.control(send).value, -90.0)]), file)
    code, told = run_json(capsys, "check", file)
    missing = [f for f in told["findings"] if f["id"] == "missing" and (f["listener"], f["sound"]) == (listener, sound)]
    assert code == 1 and len(missing) == 1 and missing[0]["fix"]
    assert send in {c["control"] for c in missing[0]["changes"]}
    _, plan = run_json(capsys, "plan", file)
    assert send in {c["control"] for c in plan["changes"]}


def test_most_starters_have_such_sends():
    assert len(WITH_SENDS) >= 5
