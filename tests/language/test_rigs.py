"""Rigs of people who do this work, typed line by line: what is found in each, and nothing else that is serious."""

from pathlib import Path

import pytest

from kymaton.core.checks.report import Report
from kymaton.core.joining import why_not
from kymaton.core.model import Show, ShowError
from kymaton.language.script import build
from kymaton.language.telling import lines_of

RIGS = Path(__file__).parent.parent / "rigs"
MOST_LINES = 60


def typed(name: str, *more: str) -> Show:
    return build([*(RIGS / f"{name}.txt").read_text().splitlines(), *more])


def serious(show: Show) -> set[tuple[str, str]]:
    """But for levels, which have a test of their own."""
    return {(f.severity, f.id) for f in Report(show).findings if f.severity != "note" and f.step != "levels"}


def found(show: Show) -> set[tuple[str, str, str]]:
    return {(f.id, f.listener or "", f.sound or "") for f in Report(show).findings}


@pytest.mark.parametrize("path", sorted(RIGS.glob("*.txt")), ids=lambda p: p.stem)
def test_a_rig_is_typed_in_sixty_lines_and_every_lead_fits(path):
    lines = [line for line in path.read_text().splitlines() if line.strip() and not line.startswith("#")]
    assert len(lines) <= MOST_LINES
    show = build(lines)
    assert not [reason for c in show.cables if (reason := why_not(show, c.source, c.target))]
    told = lines_of(show)
    assert build(told) == show and not [line for line in told if line.startswith("exactly")]


@pytest.mark.parametrize(
    ("name", "found_there"),
    [
        ("call-in-show", {"Ada clips at call computer line in", "The programme is too soft for the audience"}),
        ("improvised-studio", {"The tracks clip at player box playback 1"}),
        ("kit-and-nine-microphones", {"The programme is too soft for the audience"}),
        ("talk-show-on-a-podcast-desk", {  # line in a microphone input: +14 dBFS on the stream
            "Ada clips at switcher programme", "Ben clips at switcher programme", "Gus clips at switcher programme",
            "Caller clips at switcher programme", "The programme is too loud for the audience",
        }),
        ("two-computers-and-a-usb-mixer", {
            "All together clip at the sender", "All together clip at program stream", "Ada clips at the sender",
            "The game clips at the sender", "The alerts clip at the sender",
        }),
    ],
)  # fmt: skip
def test_the_levels_of_a_rig(name, found_there):
    levels = [f for f in Report(typed(name)).findings if f.step == "levels" and f.severity != "note"]
    assert {f.sentence for f in levels} == found_there
    if name.startswith("talk"):
        loud = next(f for f in levels if f.id == "loudness-off-goal")
        assert "It comes to about 14 LUFS" in loud.reason


def test_a_talk_show_on_a_podcast_desk():
    show = typed("talk-show-on-a-podcast-desk")
    assert serious(show) == {("fault", "line-into-mic"), ("caution", "input-left-on")}
    cured = typed("talk-show-on-a-podcast-desk", "set switcher mic 1 input to line", "set switcher hdmi 3 sound to off")
    assert serious(cured) == set()
    assert not {f for f in found(cured) if f[0] == "own-voice-back" and f[1] in ("gus", "caller")}  # its own mix-minus


def test_two_computers_and_a_usb_mixer():
    show = typed("two-computers-and-a-usb-mixer")
    assert serious(show) == {
        ("caution", "hum-between-supplies"),
        ("fault", "own-voice-back"),
        ("fault", "doubled"),
        ("caution", "monitor-late"),
    }
    assert {f for f in found(show) if f[0] == "doubled"} == {("doubled", x, "alerts") for x in ("audience", "card")}
    assert ("own-voice-back", "ada", "ada") in found(show)
    with pytest.raises(ShowError, match="Mixer line in is taken by Game computer out"):
        typed("two-computers-and-a-usb-mixer", "add player", "player > mixer line in")
    alone = ("disconnect program", "mixer usb record > program 1", "webcam > program 3", "program stream > platform")
    mended = typed(
        "two-computers-and-a-usb-mixer",
        *alone,
        "program recording > card",
        "power mixer from wall",
        "disconnect sender",
        "add headphones",
        "mixer headphones > headphones",
        "headphones > ada",
    )
    assert serious(mended) == set()


def test_an_improvised_studio():
    show = typed("improvised-studio")
    assert serious(show) == {("fault", "doubled")}
    voices = {(x, s) for kind, x, s in found(show) if kind == "doubled"}
    assert voices == {("ada", "ben"), ("ben", "ada"), ("ada", "tracks"), ("ben", "tracks")}
    assert serious(typed("improvised-studio", "set desk usb playback to aux 1-2 to closed")) == set()
    looped = typed(
        "improvised-studio", "desk usb main > mix 8", "set mix 8 to mix to 0", "set desk usb playback fader to 5"
    )
    assert ("fault", "loop") in serious(looped)


def test_a_call_in_show():
    show = typed("call-in-show")
    assert serious(show) == {("fault", "own-voice-back"), ("caution", "canceller-needed")}
    assert ("own-voice-back", "ada", "ada") in found(show) and ("own-voice-back", "gus", "gus") not in found(show)
    solo = typed("call-in-show", "set switcher headphones take to HDMI 2")
    assert serious(solo) == {("caution", "canceller-needed")}
    assert ("missing", "ada", "gus") not in found(solo)
    failing = typed("call-in-show", "set switcher headphones take to HDMI 2", "set call echo canceller to off")
    assert ("own-voice-back", "gus", "gus") in found(failing)
    clean = typed("call-in-show", "set switcher programme 2 takes to clean")
    assert ("missing", "gus", "ada") in found(clean)  # a picture without its sound, and no other way for it


def test_nine_microphones_on_one_kit():
    show = typed("kit-and-nine-microphones")
    assert serious(show) == set()
    kinds = {kind for kind, _, _ in found(show)}
    assert {"capture-limits-the-rate", "microphones-in-phase"} <= kinds and "doubled" not in kinds
    plain = typed("kit-and-nine-microphones", "picture 1080p25")
    assert "capture-limits-the-rate" not in {kind for kind, _, _ in found(plain)}


def test_a_pupil_in_a_call_is_not_told_to_play_in_time():
    lines = (
        "policy lesson", "Ada, voice, performer, headphones", "Piano, piano", "Gus, voice, performer", "add usb mic",
        "add call 1 guest", "add headphones", "piano > usb mic 0.5 m", "call takes usb mic", "gus > call guest 1 mic",
        "call guest 1 ears > gus", "call plays to usb mic", "usb mic headphones > headphones",
        "headphones > ada", "gus must hear piano",
    )  # fmt: skip
    assert "monitor-late" not in {kind for kind, _, _ in found(build(lines))}
    here = build([*lines, "add bluetooth sender", "disconnect headphones", "add bluetooth headphones",
                  "usb mic headphones > bluetooth sender", "bluetooth sender > bluetooth headphones",
                  "bluetooth headphones > ada", "set usb mic heard direct to 0", "ada must hear piano"])  # fmt: skip
    assert ("monitor-late", "ada", "piano") in found(here)
