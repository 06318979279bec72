"""Send levels: after them all voices are equally loud where they are to be, and nothing else is worse."""

import json

import pytest

from kymaton.cli.main import main
from kymaton.core.checks.report import Report
from kymaton.core.edits.controls import apply
from kymaton.core.model import Want
from kymaton.core.planning.send_levels import even_out, hears_by_sends
from kymaton.store.showfile import read_show
from tests.shows import HEALTHY, setting

REPORT = Report(read_show(HEALTHY))


def levels(show, cue, listener, kinds):
    """How loud what somebody must hear is there, read from the solver."""
    view = Report(show, only=cue).cues[cue].view
    who = show.listener(listener)
    heard = [s for s in show.sounds if view.want(who, s) is Want.MUST and s.kind in kinds and not view.is_own(who, s)]
    return {s.id: view.level(who, s) for s in heard if view.level(who, s) > who.floor}


@pytest.mark.parametrize("listener", ["teo", "maren", "quill", "ilse"])
def test_voices_are_equally_loud_afterwards(listener):
    found = even_out(REPORT, "guest-talk", [listener])
    after = levels(apply(REPORT.show, found.changes), "guest-talk", listener, ("voice", "talkback", "phone"))
    assert len(after) > 1 and max(after.values()) - min(after.values()) < 2.0 and not found.remarks
    before = Report(REPORT.show)
    now = Report(apply(REPORT.show, found.changes))
    assert {f.key for f in now.findings if f.severity != "note"} <= {f.key for f in before.findings}


@pytest.mark.parametrize("below_db", [3.0, 10.0])
def test_music_is_as_far_below_as_is_chosen(below_db):
    found = even_out(REPORT, "song", ["teo"], below_db)
    show = apply(REPORT.show, found.changes)
    voices = sorted(levels(show, "song", "teo", ("voice", "talkback", "phone")).values())
    music = levels(show, "song", "teo", ("playback", "click", "instrument"))
    told = {r.partition(" stay")[0].lower().removeprefix("the ") for r in found.remarks}
    for sound, level in music.items():
        away = abs(level - (voices[len(voices) // 2] - below_db))
        assert away < 1.5 or sound in told


def test_what_the_range_of_a_send_does_not_reach_is_said_and_a_closed_send_stays_closed():
    show = setting(REPORT.show, desk__ch1__gain=10.0)  # Maren is 40 dB too soft everywhere
    found = even_out(Report(show), "guest-talk", ["teo"])
    by_control = {c.control: c.after for c in found.changes}
    assert by_control.get("desk/ch1/send/aux3", 10.0) == 10.0
    assert all(c.before != -90.0 and c.after > -90.0 for c in found.changes)


def test_evened_out_once_is_evened_out():
    found = even_out(REPORT, "guest-talk", ["teo"])
    again = even_out(Report(apply(REPORT.show, found.changes)), "guest-talk", ["teo"])
    assert again.changes == () and found.changes


def test_who_hears_by_the_same_sends_is_named():
    show = setting(REPORT.show, desk__ch1__send__aux1=-14.0)
    found = even_out(Report(show), "guest-talk", ["ilse"])
    assert "desk/ch1/send/aux1" in {c.control for c in found.changes}
    assert any(r == "Nadir hears by the same sends: it changes there as well." for r in found.remarks)
    both = even_out(Report(show), "guest-talk", ["ilse", "nadir"])
    assert not any("same sends" in r for r in both.remarks) and both.changes == found.changes


def test_all_at_once_is_no_worse_for_any_than_it_was():
    """Ilse and Nadir share sends, and hear each other over the call, which no send turns."""
    show = setting(REPORT.show, desk__ch1__send__aux1=-14.0, desk__ch2__send__aux2=-20.0)
    report = Report(show)
    people = hears_by_sends(report, "guest-talk")
    assert {"ilse", "nadir", "teo", "maren"} <= set(people) and "audience" not in people
    both = even_out(report, "guest-talk", people)
    for who in people:
        worst = max(map(abs, both.before_db[who].values()))
        assert max(map(abs, both.after_db[who].values())) <= max(2.0, worst), who
    assert max(map(abs, both.after_db["teo"].values())) < 2.0 < max(map(abs, both.before_db["teo"].values()))


def test_the_command_line_tells_and_writes_it(capsys, tmp_path):
    out = tmp_path / "even.kymaton"
    words = ["even", str(HEALTHY), "--listener", "teo", "--cue", "guest-talk"]
    assert main([*words, "--json", "--apply", "-o", str(out)]) == 0
    told = json.loads(capsys.readouterr().out)
    assert {c["control"] for c in told["changes"]} == {"desk/ch1/send/aux3", "desk/ch8/send/aux3"}
    assert read_show(out).value("desk/ch8/send/aux3", None) == -3.0
    assert main([*words, "--music-under", "99"]) == 2 and main([*words, "--apply"]) == 2
    assert main(["even", str(HEALTHY), "--listener", "nobody"]) == 2
