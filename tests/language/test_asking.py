"""Questions in words: the answers are those of the solver, and what is not understood is said in one sentence."""

import pytest

from kymaton.cli.main import main
from kymaton.core.checks.report import Report
from kymaton.core.edits.controls import Change, apply
from kymaton.core.errors import ShowError
from kymaton.language.asking import ask, is_question, suggestions
from kymaton.store.showfile import read_show
from tests.shows import DEMO

REPORT = Report(read_show(DEMO))


def answer(question, cue="guest-talk"):
    return ask(REPORT, question, cue)


def test_who_hears_a_sound_is_everybody_to_whom_it_comes():
    view = REPORT.cues["guest-talk"].view
    for sound in view.show.sounds:
        heard = [x for x in view.show.listeners if view.level(x, sound) > x.floor]
        told = answer(f"who hears {sound.name}?")
        assert len(told.lines) == len(heard)
        assert told.title.startswith("Nobody hears" if not heard else f"{len(heard)} listener")
        for listener, line in zip(heard, told.lines, strict=True):
            assert f"{round(view.level(listener, sound))}".replace("-", "\N{MINUS SIGN}") in line


def test_what_somebody_hears_is_told_loudest_first():
    view = REPORT.cues["guest-talk"].view
    teo = view.show.listener("teo")
    heard = [s for s in view.show.sounds if view.level(teo, s) > teo.floor]
    told = answer("what does Teo hear")
    assert told.title == f"Teo hears {len(heard)} sounds in Guest talk" and told.listener == "teo"
    loudest = max(heard, key=lambda s: view.level(teo, s))
    assert told.lines[0].startswith(loudest.name.split(",")[0])


def test_why_somebody_hears_themselves_and_what_closes_it_does():
    told = answer("Why does Ilse hear herself?")
    assert told.title == "Why Ilse hears their own voice in Guest talk"
    assert "232 ± 26 ms" in told.lines[0] and "Desk 9" in told.lines[0]
    assert told.lines[1] == (
        "What closes it: pull down desk 9 to aux 1 and pull down desk 10 to aux 1; or mute desk aux 1; "
        "or pull down desk aux 1 output; or turn off call computer microphone"
    )
    ways = [
        {"desk/ch9/send/aux1": -90.0, "desk/ch10/send/aux1": -90.0},
        {"desk/aux1/mute": True},
        {"desk/aux1/fader": -90.0},
        {"call-computer/microphone": False},
    ]
    for way in ways:
        show = apply(REPORT.show, [Change(None, c, REPORT.show.control(c).value, v) for c, v in way.items()])
        again = ask(Report(show), "why does Ilse hear herself", "guest-talk")
        assert again.title == "Ilse does not hear their own voice in Guest talk"


def test_why_not_says_what_it_takes_and_that_it_does():
    told = answer("why does Teo not hear Quill")
    assert told.lines[-1] == "It takes: bring up desk 8 to aux 3 to 0 dB"
    assert told == answer("why doesn't teo hear quill?")
    show = apply(REPORT.show, [Change(None, "desk/ch8/send/aux3", -90.0, 0.0)])
    assert ask(Report(show), "why does Teo not hear Quill", "guest-talk").lines[0].startswith("Teo does hear it")


def test_a_cue_may_be_named_and_when_lists_them_all():
    assert answer("who hears the click in Song").cue == "song"
    told = answer("when does Teo hear the click")
    assert len(told.lines) == len(REPORT.show.cues)
    listener, sound = REPORT.show.listener("teo"), REPORT.show.sound("click")
    heard = [c.view.level(listener, sound) > listener.floor for c in REPORT.cues.values()]
    assert told.title == f"Teo hears the click in {sum(heard)} of 7 cues"


def test_what_if_tells_what_comes_and_goes_and_gives_the_show():
    told = answer("what if desk 9 aux 1 closes")
    assert told.show is not None and told.show.value("desk/ch9/send/aux1", None) == -90.0
    assert "No more: Ilse and Nadir hear each other twice" in told.lines
    after = Report(told.show).cues["guest-talk"]
    assert ("ilse", "nadir") not in {
        (f.listener, f.sound) for f in after.findings if f.id == "doubled" and f.severity != "note"
    }
    opened = answer("what if desk 8 to aux 3 opens in Opening")
    assert opened.cue == "opening" and "No more: Teo does not hear Quill" in opened.lines
    assert answer("what if mute desk 1").lines[0].startswith("Then: ")
    assert answer("what if desk 9 to aux 1 opens").show is not None  # it is open, and set to its usual value
    assert answer("what if desk 8 to aux 3 closes").title.endswith(": nothing changes")


@pytest.mark.parametrize(
    ("question", "says"),
    [
        ("who hears the moon", "No sound is called 'the moon'."),
        ("what does Ilze hear", "No listener is called 'Ilze'. Did you mean Ilse?"),
        ("why is the sky blue", "is no question that is understood. Ask like this: who hears SOUND"),
        ("what if the sun opens", "No control is called 'the sun'."),
        ("why does the audience hear herself", "Audience makes no sound."),
    ],
)
def test_what_is_not_understood_is_one_sentence(question, says):
    with pytest.raises(ShowError) as caught:
        answer(question)
    assert says in str(caught.value) and "\n" not in str(caught.value)


def test_every_suggestion_is_answered():
    every = suggestions(REPORT.show)
    assert len(every) == len(set(every)) > 300
    for question in every[::37]:
        assert is_question(question) and answer(question).title
    assert not is_question("who") and not is_question("mute desk 1")


def test_the_command_line_answers(capsys):
    assert main(["ask", str(DEMO), "why", "does", "Ilse", "hear", "herself?", "--cue", "guest-talk"]) == 0
    said = capsys.readouterr().out.splitlines()
    assert said[0] == "Why Ilse hears their own voice in Guest talk." and said[2].startswith("  What closes it: ")
    assert main(["ask", str(DEMO), "who hears Quill", "--json"]) == 0 and '"title"' in capsys.readouterr().out
    assert main(["ask", str(DEMO), "who hears nobody"]) == 2 and "No sound is called" in capsys.readouterr().err
