"""Findings about levels: a rig that has each, and a near twin that has not."""

from collections.abc import Iterator

import pytest

from kymaton.core.checks import Finding
from kymaton.core.checks.report import Report
from kymaton.core.levels.dose import allowed_minutes, dose
from kymaton.core.model import Show
from kymaton.language.script import build
from kymaton.language.starters import STARTERS
from tests.core.checks.kinds import LEVELS

DESK = ("Ada, voice, host", "Audience", "add dynamic mic", "add desk 4 in 2 aux", "add switcher", "add encoder box",
        "add platform", "ada > dynamic mic 0.1 m", "dynamic mic > desk 1", "desk main > switcher mic 1",
        "switcher programme > encoder box", "encoder box > platform", "platform > audience", "audience must hear ada",
        "set desk 1 to main to 0")  # fmt: skip


SEEN: set[str] = set()


@pytest.fixture(scope="module", autouse=True)
def every_kind_was_tried(request: pytest.FixtureRequest) -> Iterator[None]:
    """No kind of this step is declared without a rig here that has it; looked at when all tests of this module ran."""
    yield
    mine = {name for name in vars(request.module) if name.startswith("test_")}
    if mine <= {item.name.partition("[")[0] for item in request.session.items}:
        assert LEVELS == SEEN


def found(id: str, *lines: str) -> list[Finding]:
    findings = [f for f in Report(build(lines, Show(title="x"))).findings if f.id == id]
    SEEN.update(f.id for f in findings)
    return findings


@pytest.mark.parametrize(("gain_db", "expected"), [(54, None), (60, "caution"), (68, "fault")])
def test_peaks_behind_a_gain_are_held_against_what_the_input_takes(gain_db, expected):
    """−59.8 dBu and 15 dB more in peaks: with 60 dB they are +15 dBu, where the switcher takes +12."""
    loud = "ada > dynamic mic 0.1 m" if gain_db < 68 else "ada > dynamic mic 0.02 m"
    lines = [loud if line == "ada > dynamic mic 0.1 m" else line for line in DESK]
    findings = found("clips", *lines, f"set desk 1 gain to {min(gain_db, 60)}")
    assert [f.severity for f in findings][:1] == ([expected] if expected else [])
    if expected == "caution":
        (finding,) = findings
        assert finding.sentence == "Ada clips at switcher mic 1" and finding.evidence["over_db"] == 3.2


def test_a_gain_that_clips_is_found_behind_a_fader_that_hides_it():
    near = [line if line != "ada > dynamic mic 0.1 m" else "ada > dynamic mic 0.01 m" for line in DESK]
    findings = found("clips", *near, "set desk 1 gain to 60", "set desk 1 to main to -40")
    assert [f.sentence for f in findings] == ["Ada clips at desk 1 gain"]
    lower = found("clips", *near, "set desk 1 gain to 40", "set desk 1 to main to -20")
    assert not lower


def test_where_the_gain_is_as_low_as_it_goes_a_pad_is_asked_for():
    kit = ("Kit, instrument, 130 dB", "Audience", *DESK[2:7], "kit > dynamic mic 0.05 m", *DESK[8:13],
           "audience must hear kit", "set desk 1 to main to -30", "set desk 1 gain to 0")  # fmt: skip
    condenser = ["add condenser mic as dynamic mic" if line == "add dynamic mic" else line for line in kit]
    (finding,) = (f for f in found("clips", *condenser) if "desk 1" in f.sentence)
    assert "put a pad before it" in finding.remedy


def test_less_than_a_decibel_of_room_is_told_as_a_note():
    """+11.2 dBu of 12 with 56 dB, less 0.0: and with two less there is room."""
    (finding,) = found("hot", *DESK, "set desk 1 gain to 56")
    assert finding.severity == "note" and finding.sentence == "Ada comes close to clipping at switcher mic 1"
    assert not found("hot", *DESK, "set desk 1 gain to 54")


def test_a_sound_turned_down_early_and_up_late_comes_with_noise():
    """Into the microphone input of the switcher, 40 dB down: what the desk's outputs hiss is 40 dB up again."""
    late = (*DESK, "set desk 1 gain to 10", "set switcher mic 1 input to mic", "set switcher mic 1 to 0")
    (finding,) = found("noisy", *late)
    assert finding.severity == "caution" and "desk main" in finding.reason.lower()
    assert not found("noisy", *DESK, "set desk 1 gain to 54")


@pytest.mark.parametrize(("gain_db", "fader_db", "late"), [(38, 8, True), (38, 4, False), (50, 8, False)])
def test_gain_that_is_given_back_behind(gain_db, fader_db, late):
    """With 38 dB its peaks are 28.8 dB under +22 dBu; with 50, 16.8."""
    findings = found("late-gain", *DESK, f"set desk 1 gain to {gain_db}", f"set desk 1 to main to {fader_db}")
    assert bool(findings) is late
    if late:
        assert findings[0].evidence["room_db"] == pytest.approx(28.8, abs=0.1)
        assert "turn up desk 1 gain" in findings[0].remedy.lower()


@pytest.mark.parametrize(("fader_db", "off"), [(0, False), (-12, True), (6, False)])
def test_a_programme_far_from_its_goal_is_told(fader_db, off):
    findings = found("loudness-off-goal", *DESK, "set desk 1 gain to 54", f"set desk main output to {fader_db}")
    assert bool(findings) is off
    if off:  # −17.8 dBFS on both sides, 12 dB down
        assert findings[0].evidence["lufs"] == pytest.approx(-29.8, abs=0.1)
        assert "too soft" in findings[0].sentence


def test_two_sounds_far_apart_on_one_gain():
    both = ("Kit, instrument, 105 dB", *DESK, "kit > dynamic mic 0.1 m", "audience must hear kit")
    (finding,) = found("apart-on-one-gain", *both)
    assert finding.evidence["apart_db"] == pytest.approx(39.0, abs=0.1)
    near = ("Flute, instrument, 75 dB", *DESK, "flute > dynamic mic 0.1 m", "audience must hear flute")
    assert not found("apart-on-one-gain", *near)


@pytest.mark.parametrize(("metres", "far"), [(1.5, False), (2.0, True)])
def test_a_microphone_beyond_what_the_room_allows(metres, far):
    lines = [f"ada > dynamic mic {metres} m" if line.startswith("ada > ") else line for line in DESK]
    assert bool(found("microphone-far", *lines, "set desk 1 gain to 54")) is far


@pytest.mark.parametrize(("send_db", "loud"), [(0, False), (10, True)])
def test_monitors_that_are_too_loud_for_the_time(send_db, loud):
    """−59.8 + 54 dBu are 78 dB SPL in the in-ear at 0 dB: with 10 and 10 more it is 98 dB."""
    lines = (*DESK, "Teo, performer", "add in-ear", "desk aux 1 > in-ear", "in-ear > teo", "set desk 1 gain to 58",
             f"set desk 1 to aux 1 to {send_db}", "set desk aux 1 output to 8")  # fmt: skip
    findings = found("monitors-loud", *lines)
    assert bool(findings) is loud
    if loud:
        assert "NIOSH REL" in findings[0].reason and findings[0].evidence["allowed_min"] < 60


def test_the_dose_is_that_of_the_recommendation():
    """NIOSH 98-126, table 1-1: 85 dBA 8 h, 88 4 h, 91 2 h, 94 1 h, 97 30 min, 100 15 min."""
    table = {85: 480, 88: 240, 91: 120, 94: 60, 97: 30, 100: 15}
    assert {level: allowed_minutes(level) for level in table} == pytest.approx(table)
    assert dose([(94.0, 30.0), (97.0, 15.0)]) == pytest.approx(1.0)


@pytest.mark.parametrize("starter", STARTERS, ids=lambda s: s.id)
def test_a_rig_to_begin_from_has_nothing_wrong_with_its_levels(starter):
    assert not [f.sentence for f in Report(starter.show()).findings if f.step == "levels" and f.severity != "note"]
