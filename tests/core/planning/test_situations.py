"""Talk off air: who is to hear whom does, nobody else hears it, and no other cue is touched."""

import pytest

from kymaton.cli.main import main
from kymaton.core.checks.report import Report
from kymaton.core.errors import ShowError
from kymaton.core.planning.situations import DIM_DB, countdown, green_room, talkback
from kymaton.core.signal.cue_solution import LEAK_DB, MISSING_DB, CueSolution
from kymaton.store.showfile import read_show
from tests.shows import HEALTHY, call_show, one_talker

SHOW = read_show(HEALTHY)


def hears(view: CueSolution, listener: str, sound: str) -> bool:
    return view.audible(view.show.listener(listener), view.show.sound(sound), MISSING_DB)


def untouched(made) -> bool:
    """Whether all other cues are as they were."""
    before, after = Report(SHOW), Report(made.show)
    return all(
        before.cues[c.id].view.hearing.gains_db == after.cues[c.id].view.hearing.gains_db
        and {f.key for f in before.cues[c.id].findings} == {f.key for f in after.cues[c.id].findings}
        for c in SHOW.cues
    )


def test_in_a_green_room_all_inside_hear_each_other_and_nobody_outside_does():
    made = green_room(SHOW)
    view = CueSolution(made.show, made.cue)
    voices = {"ilse": "ilse", "nadir": "nadir", "maren": "maren", "quill": "quill"}
    for listener, own in voices.items():
        for sound in voices.values():
            assert hears(view, listener, sound) == (sound != own), (listener, sound)
    for outside in ("audience", "recorder", "room"):
        for sound in voices.values():
            item = view.show.listener(outside)
            assert not view.audible(item, view.show.sound(sound), LEAK_DB)
    assert not made.problems and untouched(made)
    assert made.sentence == "Ilse, Nadir, Maren and Quill talk off air; 5 settings differ"


def test_a_countdown_is_for_two_and_says_what_a_call_gives_away():
    made = countdown(SHOW, "maren", "ilse")
    view = CueSolution(made.show, made.cue)
    assert hears(view, "maren", "ilse") and hears(view, "ilse", "maren")
    for other in ("audience", "recorder", "room", "teo"):
        for sound in ("maren", "ilse"):
            assert not view.audible(view.show.listener(other), view.show.sound(sound), LEAK_DB), (other, sound)
    assert set(made.problems) == {"Nadir can hear Maren", "Nadir can hear Ilse"} and untouched(made)
    with pytest.raises(ShowError, match="do not both have a voice"):
        countdown(SHOW, "maren", "room")


def test_talkback_to_one_is_heard_by_one_and_the_programme_goes_down_there():
    made = talkback(SHOW, "guest-talk", "quill", ["teo"])
    before, view = CueSolution(SHOW, "guest-talk"), CueSolution(made.show, made.cue)
    assert hears(view, "teo", "quill") and not hears(view, "maren", "quill") and not hears(view, "ilse", "quill")
    teo = view.show.listener("teo")
    for sound in ("maren", "ilse", "nadir"):
        down = before.level(teo, SHOW.sound(sound)) - view.level(teo, view.show.sound(sound))
        assert down == pytest.approx(DIM_DB, abs=0.1)
    for other in ("audience", "ilse", "maren"):
        for sound in ("maren", "ilse"):
            item, heard = SHOW.listener(other), SHOW.sound(sound)
            assert view.level(item, heard) == before.level(item, heard)
    assert made.sentence.endswith("the programme 12 dB down for Teo") and untouched(made)


def test_what_cannot_be_is_said():
    made = talkback(SHOW, "guest-talk", "quill", ["ilse"])  # her return is Nadir's as well
    assert "Ilse does not hear Quill" in made.problems
    with pytest.raises(ShowError, match="takes a guest"):
        green_room(one_talker())
    with pytest.raises(ShowError, match="nobody to talk to"):
        talkback(SHOW, None, "quill", ["quill"])


def test_a_show_without_cues_gets_one_for_what_it_was():
    made = countdown(call_show(send_db=-90.0), "ann", "gus")
    assert [c.name for c in made.show.cues] == ["On air", "Countdown with Gus"]
    view = CueSolution(made.show, made.cue)
    assert hears(view, "ann", "gus") and hears(view, "gus", "ann")


def test_the_command_line_writes_it(capsys, tmp_path):
    out = tmp_path / "off.kymaton"
    assert main(["off-air", str(HEALTHY), "talkback", "--to", "teo", "--cue", "guest-talk", "-o", str(out)]) == 0
    assert capsys.readouterr().out.splitlines()[-1].startswith("Quill talks to Teo alone; 1 setting differs")
    assert len(read_show(out).cues) == len(SHOW.cues) + 1
    for words in (["countdown", "--to", "maren"], ["talkback"], ["talkback", "--to", "nobody"]):
        assert main(["off-air", str(HEALTHY), *words, "-o", str(out)]) == 2
        assert capsys.readouterr().err.count("\n") == 1
