"""The proof that private stays private: held against all settings tried, on small rigs."""

import itertools

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from kymaton.cli.main import main
from kymaton.core.checks.report import Report
from kymaton.core.edits.controls import Change, apply
from kymaton.core.model import Show
from kymaton.core.planning.privacy import ON_AIR, breaks, mistake_text, mistakes, private_sounds, prove
from kymaton.core.signal.cue_solution import CueSolution
from kymaton.core.signal.graph import flatten
from kymaton.core.units import SILENT
from kymaton.language.script import build
from kymaton.store.showfile import read_show, show_bytes
from tests.shows import DEMO

RIG = """
Ann, voice, host
Quill, talkback, private
Audience
Tape, recorder
add 2 dynamic mics as Mic
add mixer 3 in 1 aux as Desk
add switcher 1 in
add encoder box
add platform
add recorder
ann > mic 1 0.1 m
quill > mic 2 0.1 m
mic 1-2 > desk 1-2
desk main > switcher mic 1
switcher programme > encoder box
encoder box > platform
platform > audience
switcher programme 2 > recorder
recorder > tape
desk aux 1 > desk 3
""".strip().splitlines()


def values(control):
    """All that a hand may set: of a fader down and up."""
    if control.kind in ("mute", "switch"):
        return [True, False]
    if control.kind == "choice":
        return list(control.choices)
    if control.kind == "pan":
        return [-100.0, 0.0]
    return [control.minimum, 0.0] if control.kind == "level" else [control.value]


def by_trying(show: Show, sound: str, listeners: list[str]) -> dict[str, set[frozenset[str]]]:
    """The smallest sets of at most two controls with which a sound gets out, by setting them every way there is."""
    graph = flatten(show)
    controls = [c for c in show.controls() if len(values(c)) > 1 and "/ch1/" not in c.id and "/format" not in c.id]
    found: dict[str, set[frozenset[str]]] = {x: set() for x in listeners}
    for many in (0, 1, 2):
        for chosen in itertools.combinations(controls, many):
            ids = frozenset(c.id for c in chosen)
            for combination in itertools.product(*([v for v in values(c) if v != c.value] for c in chosen)):
                changes = [Change(None, c.id, c.value, v) for c, v in zip(chosen, combination, strict=True)]
                view = CueSolution(apply(show, changes), None, graph)
                for x in listeners:
                    if not any(f <= ids for f in found[x]) and view.level(show.listener(x), show.sound(sound)) > SILENT:
                        found[x].add(ids)
    return found


SETTINGS = st.lists(
    st.sampled_from(
        ["set desk 2 fader to 0", "mute desk 2", "set desk 2 to aux 1 to 0", "set desk 3 fader to 0", "mute desk 3",
         "mute desk main", "mute switcher programme sound", "set switcher mic 1 to closed",
         "set switcher programme 2 takes to clean", "set switcher programme 2 takes to HDMI 1",
         "set desk 2 to aux 1 takes to post", "set desk 2 gain to closed", "set desk aux 1 output to closed"]
    ),
    max_size=6,
)  # fmt: skip


@given(SETTINGS)
@settings(max_examples=8, deadline=None)
def test_two_presses_are_those_that_trying_everything_finds(lines):
    show = build([*RIG, *lines])
    told = {(m.sound, x, frozenset(m.presses)) for m in mistakes(CueSolution(show, None)) for x in m.listeners}
    for listener, tried in by_trying(show, "quill", ["audience", "tape"]).items():
        assert {presses for sound, x, presses in told if (sound, x) == ("quill", listener)} == tried


PICTURES = """
Ann, voice, host
Quill, talkback, private
Audience
add dynamic mic
add switcher 2 in
add camera
add camcorder
add dynamic mic as Top mic
add encoder box
add platform
ann > dynamic mic 0.1 m
quill > top mic 1 m
top mic > camcorder
camera > switcher HDMI 1
camcorder > switcher HDMI 2
dynamic mic > switcher mic 1
switcher programme > encoder box
encoder box > platform
platform > audience
cue Talk
in Talk: on air switcher HDMI 1
""".strip().splitlines()


@pytest.mark.parametrize(
    "lines",
    [
        ["set switcher HDMI 2 sound to follows picture"],
        ["set switcher HDMI 2 sound to off"],
        ["set switcher HDMI 2 sound to follows picture", "mute switcher programme sound"],
        ["set switcher HDMI 2 sound to follows picture", "set switcher HDMI 2 to closed"],
    ],
)
def test_another_picture_on_air_is_a_press_too(lines):
    """By trying each picture on air with each setting of one control, and two controls with the picture as it is."""
    show = build([*PICTURES, *lines])
    found: set[frozenset[str]] = set()
    controls = [c for c in show.controls() if len(values(c)) > 1 and "format" not in c.id and "/ch" not in c.id]
    tries = [(None, chosen) for many in (0, 1, 2) for chosen in itertools.combinations(controls, many)]
    tries += [
        (f"{ON_AIR}switcher/hdmi2", chosen) for many in (0, 1) for chosen in itertools.combinations(controls, many)
    ]
    for taken, chosen in sorted(tries, key=lambda t: (t[0] is not None) + len(t[1])):
        ids = frozenset({c.id for c in chosen} | ({taken} if taken else set()))
        if any(f <= ids for f in found):
            continue
        for combination in itertools.product(*([v for v in values(c) if v != c.value] for c in chosen)):
            changes = [Change(None, c.id, c.value, v) for c, v in zip(chosen, combination, strict=True)]
            changed = apply(show, changes)
            if taken:
                changed = changed.evolve(cues=tuple(c.evolve(on_air="switcher/hdmi2") for c in changed.cues))
            view = CueSolution(changed, "talk", flatten(show))
            if view.level(show.listener("audience"), show.sound("quill")) > SILENT:
                found.add(ids)
    told = {frozenset(m.presses) for m in mistakes(CueSolution(show, "talk")) if m.sound == "quill"}
    assert told == found != set()


def test_what_is_out_already_and_what_one_press_away_is_told_in_a_sentence():
    show = build([*RIG, "set desk 2 fader to 0", "mute desk 2"])
    view = CueSolution(show, None)
    (one,) = [m for m in mistakes(view) if len(m.presses) == 1]
    assert mistake_text(view, one) == "Unmute desk 2, and Quill reaches the audience and the tape"
    (out,) = mistakes(CueSolution(build([*RIG, "set desk 2 fader to 0"]), None))
    assert out.presses == () and mistake_text(view, out) == "Quill reaches the audience and the tape as it is"


def test_a_lead_that_carries_the_private_sound_alone_makes_it_impossible():
    show = build([*RIG, "set desk 2 fader to 0"])
    assert set(breaks(show, "quill")) == {"sound-quill-to-mic-2-capsule", "mic-2-out-to-desk-in2"}
    pulled = show.evolve(cables=tuple(c for c in show.cables if c.id not in breaks(show, "quill")[:1]))
    assert not list(mistakes(CueSolution(pulled, None))) and CueSolution(pulled, None).level(
        show.listener("audience"), show.sound("ann")
    ) == CueSolution(show, None).level(show.listener("audience"), show.sound("ann"))


def test_between_two_cues_what_is_shut_in_both_may_stand_open():
    """In one the fader is up and the mute closed, in the other the mute is open and the fader down."""
    lines = [*RIG, "cue One", "cue Two", "in One: set desk 2 fader to 0", "in One: mute desk 2", "in Two: open desk 2"]
    proof = prove(Report(build(lines)))
    assert {(b.cue, b.after, b.sound) for b in proof.between} == {("one", "two", "quill")}
    both_shut = [*RIG, "cue One", "cue Two", "mute desk 2", "in One: set desk 2 fader to 0"]
    assert prove(Report(build(both_shut))).between == ()


def test_who_must_hear_it_outside_is_no_mistake_and_before_air_every_voice_is_private():
    show = build([*RIG, "set desk 1 fader to 0", "cue Doors, before air", "cue Talk"])
    found = {m.cue: {x.sound for x in prove(Report(show)).mistakes if x.cue == m.cue and not x.presses}
             for m in prove(Report(show)).mistakes}  # fmt: skip
    assert found["doors"] == {"ann"} and "ann" not in found.get("talk", set())
    wished = build([*RIG, "set desk 2 fader to 0", "Audience must hear Quill", "Tape must hear Quill"])
    assert not prove(Report(wished)).mistakes


def test_the_command_tells_it_and_ends_with_1_when_something_is_out(tmp_path, capsys):
    path = tmp_path / "show.kymaton"
    path.write_bytes(show_bytes(build([*RIG, "set desk 2 fader to 0", "mute desk 2"])))
    assert main(["private", str(path)]) == 0
    said = capsys.readouterr().out
    assert "1 press   All cues: Unmute desk 2" in said and "Quill is safe with" in said
    assert main(["private", str(DEMO), "--json"]) == 1
    assert '"mistakes"' in capsys.readouterr().out


@pytest.mark.parametrize("cue", [c.id for c in read_show(DEMO).cues])
def test_what_the_demo_has_out_is_what_its_findings_say(cue):
    """The phone, and the talk before air: told as leaks by the checks, where it is loud enough to be heard."""
    report = Report(read_show(DEMO))
    private = private_sounds(report.show, cue)
    out = {(m.sound, x) for m in mistakes(report.cues[cue].view) if not m.presses for x in m.listeners}
    leaks = {
        (f.sound, f.listener)
        for f in report.cues[cue].findings
        if f.id in ("leak", "private-reaches-audience") and f.sound in private
    }
    assert {(sound, x) for sound, x in leaks if x in ("audience", "recorder")} <= out
