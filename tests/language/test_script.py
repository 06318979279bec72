"""A show in lines: what lines make, what is refused and where, and the way there and back."""

import json
import random

import pytest

from kymaton.core.errors import KymatonError
from kymaton.core.model import Show, ShowError, Want
from kymaton.language.script import build, read_any
from kymaton.language.starters import STARTERS
from kymaton.language.telling import lines_of
from kymaton.store.showfile import parse_show, read_show, show_bytes
from tests.fuzz.shows import damaged
from tests.shows import DEMO, HEALTHY, call_show

TALK = """
# a small talk
title Sunday
venue Old hall
date 2026-12-06
policy talk
place Hall, air 3 m
Ada, voice, host, in Hall
Gus, voice, guest, headphones
Audience
add 2 dynamic mics
add desk 8 in 4 aux as Front
ada > dynamic mic 0.2 m
connect dynamic mic to front ch 1
set front in 1 gain to 54
set front 1-3 to aux 1 to -6
set front 1 fader to 0
cue Doors, 20 min, before air: holding slide
cue Talk, 12 min
in Doors: mute front 1-2
in Talk: set front 1 to aux 1 to -9
in Doors, Talk: Gus must hear Ada
Ada must hear Gus within 150 ms
in Doors: Audience must not hear Ada, Gus
group Table: dynamic mic, dynamic mic 2
""".splitlines()


def test_lines_of_every_kind_make_a_show():
    show = build(TALK)
    assert (show.title, show.venue, show.date, show.places[0].air) == ("Sunday", "Old hall", "2026-12-06", "estimated")
    assert [d.name for d in show.devices] == ["Dynamic mic", "Dynamic mic 2", "Front"]
    assert [(c.source, c.target, c.kind) for c in show.cables] == [
        ("sound/ada", "dynamic-mic/capsule", "air"),
        ("dynamic-mic/out", "front/in1", "XLR"),
    ]
    assert show.control("front/ch1/gain").value == 54 and show.control("front/ch1/fader").value == 0
    assert [show.control(f"front/ch{n}/send/aux1").value for n in (1, 2, 3)] == [-6.0] * 3
    doors, talk = show.cues
    assert (doors.minutes, doors.before_air, doors.note) == (20, True, "holding slide")
    assert doors.controls == {"front/ch1/mute": True, "front/ch2/mute": True}
    assert talk.controls == {"front/ch1/send/aux1": -9.0}
    assert show.want("gus", "ada", "talk") is Want.MUST and show.want("audience", "gus", "doors") is Want.MUST_NOT
    wish = show.wish("ada", "gus", None)
    assert wish is not None and wish.max_delay_ms == 150
    assert show.microphone_groups[0].devices == ("dynamic-mic", "dynamic-mic-2")


def test_the_example_in_the_documents_is_a_show():
    page = (DEMO.parent.parent / "docs" / "lines.md").read_text("utf-8")
    show = build(page.split("```")[1].splitlines())
    assert (len(show.devices), len(show.cues), show.goals.loudness_lufs) == (18, 3, -18.0)
    assert show.sound("ambience").width == 0.4 and show.cue("talk").hand_actions[0].distance_m == 0.4
    held(show)


@pytest.mark.parametrize(
    ("line", "reason"),
    [
        ("Ada must hear Gsu", "No sound is called 'Gsu'. Did you mean Gus?"),
        ("in Tlak: mute front 1", "No cue is called 'Tlak'. Did you mean Talk?"),
        ("in Talk: add desk", "'add desk' cannot hold in one cue only."),
        ("cue Talk", "There is a cue called Talk already."),
        ("cue End, soon", "'soon' says nothing about a cue: minutes ('12 min') do, and 'before air'."),
        ("policy opera", "policy: 'opera' is none of the words or numbers that are known here"),
        ("date tomorrow", "date: 'tomorrow' is not a date like 2026-12-12"),
        ("exactly sounds/nobody/level = 3", "'sounds/nobody/level' is no place in this show, or '3' no value."),
        ("exactly sounds/ada/level = loud", "'sounds/ada/level' is no place in this show, or 'loud' no value."),
        ("exactly sounds/ada/level", "Say: exactly, a place like sounds/ada/level, =, and a value."),
        ("in Talk: on air front 1", "'front 1' is no input for a picture."),
    ],
)
def test_what_cannot_be_is_refused_with_the_line_and_the_reason(line, reason):
    with pytest.raises(ShowError) as refused:
        build([*TALK, line])
    assert str(refused.value) == f"line {len(TALK) + 1} ('{line}'): {reason}"


def test_a_wish_said_anew_takes_the_place_of_the_old_one_in_its_cues_only():
    show = build([*TALK, "in Talk: gus must not hear ada"])
    assert [show.want("gus", "ada", c) for c in ("doors", "talk")] == [Want.MUST, Want.MUST_NOT]
    show = read_any(show, "ada may hear gus").show
    assert [w.want for w in show.plan if w.listener == "ada"] == [Want.ANY]


def test_somebody_may_be_called_like_a_verb():
    show = build(["Open Hearts, playback, stereo", "Set Designer, voice, host", "Date Miller, voice, guest"])
    assert [s.name for s in show.sounds] == ["Open Hearts", "Set Designer", "Date Miller"]
    with pytest.raises(ShowError, match="No control is called 'desk 1'"):
        build(["mute desk 1, 2"])


def test_several_controls_in_one_line():
    show = build(["add desk 8 in 2 aux", "mute desk 1, 3-4, 8", "set desk 1-2, 5 to aux 1-2 to -6"])
    assert [n for n in range(1, 9) if show.control(f"desk/ch{n}/mute").value] == [1, 3, 4, 8]
    sent = [(n, a) for n in range(1, 9) for a in (1, 2) if show.control(f"desk/ch{n}/send/aux{a}").value == -6.0]
    assert sent == [(n, a) for n in (1, 2, 5) for a in (1, 2)]
    for line in ("mute desk 4-1", "mute desk 1-9", "mute desk 1-999"):
        with pytest.raises(ShowError, match="No control is called"):
            build(["add desk 8 in 2 aux", line])


def test_a_wish_typed_with_a_cue_in_view_holds_in_all_unless_it_is_said():
    show = build(TALK)
    everywhere, here = (read_any(show, "Gus must not hear Gus", "talk", here) for here in (None, True))
    assert (everywhere.where, here.where) == ("in all cues", "in Talk only")
    told = [[made.show.wish("gus", "gus", c) for c in ("doors", "talk")] for made in (everywhere, here)]
    assert [[None if w is None else w.cues for w in row] for row in told] == [[(), ()], [None, ("talk",)]]


def test_text_of_several_lines_and_numbers_that_are_none_come_back_or_are_refused():
    show = build(TALK)
    cue = show.cues[0].evolve(note="one\ntwo\u2028three")
    held(show.evolve(cues=(cue, *show.cues[1:]), notes="first\nsecond"))
    with pytest.raises(ShowError, match="no value"):
        build([*TALK, "exactly sounds/ada/level = NaN"])


def held(show: Show) -> list[str]:
    lines = lines_of(show)
    again = build("\n".join(lines).splitlines())
    assert again == show and show_bytes(again) == show_bytes(show)
    return lines


@pytest.mark.parametrize("starter", STARTERS, ids=lambda s: s.id)
def test_a_starter_is_told_in_lines_of_its_own_words(starter):
    assert not [line for line in held(starter.show()) if line.startswith("exactly")]


@pytest.mark.parametrize("path", [DEMO, HEALTHY], ids=lambda p: p.stem)
def test_the_demo_comes_back_to_the_byte_and_most_of_it_is_words(path):
    lines = [line for line in held(read_show(path)) if line]
    assert sum(line.startswith("exactly") for line in lines) < 0.2 * len(lines)


def test_whatever_a_show_holds_comes_back():
    """Shows that somebody's editor, or a disk, has changed: in whatever way, as long as they can be read."""
    content, tried = json.loads(show_bytes(call_show())), 0
    for seed in range(140):
        chance = random.Random(seed)
        try:
            show = parse_show(json.dumps(damaged(content, chance)).encode(), "show")
        except KymatonError:
            continue
        tried += 1
        held(show)
    assert tried > 15
