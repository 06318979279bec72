"""What a fix may touch, what it keeps and what it may not make worse."""

import pytest

from kymaton.core.checks.report import Report
from kymaton.core.edits.controls import apply
from kymaton.core.planning.fixes import find_fix
from kymaton.core.planning.planner import propose
from kymaton.language.script import build, read_any
from kymaton.language.telling import lines_of
from tests.shows import call_show

TALK = """
Ann, voice, host, headphones
Gus, voice, guest, headphones
Tune, playback
Audience
add dynamic mic
add desk 8 in 3 aux
add call 1 guest
add call computer
add headphones
ann > dynamic mic 0.1 m
dynamic mic > desk 1
gus > call guest 1 mic
call guest 1 ears > gus
call receiving > call computer call
call computer call > call sending
call computer headphones > desk 7-8
desk aux 1 > call computer line in
desk aux 2 > headphones
headphones > ann
set desk 1 gain to 40
set desk 1 to aux 1 to -6
set desk 7-8 to aux 2 to 0
""".strip().splitlines()


def fix_of(show, id, sound=None):
    report = Report(show)
    found = [f for r in report.cues.values() for f in r.findings if f.id == id and sound in (None, f.sound)]
    assert found, id
    return report, found, find_fix(report, tuple(found))


def test_what_only_a_guest_can_do_is_asked_for_and_not_applied():
    """A guest on a loudspeaker sends back what it plays; the canceller is on the guest's own machine, and off."""
    show = call_show(loudspeaker=True, send_db=-90.0)
    off = {c.id: "off" for c in show.controls() if c.id.endswith("gus/canceller")}
    assert off and all(show.control(c).elsewhere for c in off)
    devices = tuple(
        d.evolve(controls=tuple(c.evolve(value=off.get(c.id, c.value)) for c in d.controls)) for d in show.devices
    )
    report, found, fix = fix_of(show.evolve(devices=devices), "own-voice-back", "ann")
    assert fix is not None
    assert (
        fix.asked
        and fix.title.startswith("Ask for it: ")
        and all(show.control(c.control).elsewhere for c in fix.changes)
    )
    left = {f.key for f in Report(apply(report.show, fix.changes)).findings}
    assert left.isdisjoint(f.key for f in found)


def test_controls_of_the_rig_come_before_those_of_a_guest():
    _, _, fix = fix_of(build([*TALK, "set desk 7-8 to aux 1 to 0"]), "own-voice-back", "gus")
    assert fix is not None and not fix.asked and {c.control for c in fix.changes} == {
        "desk/ch7/send/aux1", "desk/ch8/send/aux1"
    }  # fmt: skip


def test_music_in_a_call_is_cured_by_original_sound():
    lines = [*TALK, "add player", "tune > player", "player left > desk 3", "set desk 3 to aux 1 to 0",
             "Gus must hear Tune"]  # fmt: skip
    _, _, fix = fix_of(build(lines), "voice-processing")
    assert fix is not None and [(c.control, c.after) for c in fix.changes] == [("call/processing", "original sound")]


def test_of_two_ways_the_later_one_is_closed():
    """Ann hears the tune at once, and once more by a second way that takes far longer."""
    lines = [*TALK, "add player", "tune > player", "player left > desk 3", "set desk 3 to aux 2 to 0",
             "add delay 500 ms", "desk aux 3 > delay", "delay > desk 4", "set desk 3 to aux 3 to 0",
             "set desk 4 to aux 2 to 0", "Ann must hear Tune"]  # fmt: skip
    show = build(lines)
    report, found, fix = fix_of(show, "doubled", "tune")
    assert fix is not None
    before = min(b.delay_ms for b in report.cues[None].view.bursts(show.listener("ann"), show.sound("tune")))
    after = Report(apply(show, fix.changes)).cues[None].view.bursts(show.listener("ann"), show.sound("tune"))
    assert [b.delay_ms for b in after] == pytest.approx([before]) and found


def test_a_loop_is_broken_by_one_control_and_nothing_is_lost():
    lines = [*TALK, "add delay 20 ms", "desk aux 3 > delay", "delay > desk 4", "set desk 4 to aux 3 to 10",
             "set desk 1 to aux 3 to 0"]  # fmt: skip
    report, found, fix = fix_of(build(lines), "loop")
    assert fix is not None and len(fix.changes) == 1
    again = Report(apply(report.show, fix.changes))
    assert not [f for f in again.findings if f.id == "loop"] and found
    assert again.count("fault") <= report.count("fault") - len(found)


def test_what_comes_to_light_is_cured_with_it_and_named():
    """Gus's own loud voice covers what he hears of Quill; without it he would hear her."""
    lines = [*TALK, "Quill, talkback", "add dynamic mic", "quill > dynamic mic 2 0.1 m", "dynamic mic 2 > desk 2",
             "set desk 2 gain to 40", "set desk 2 to aux 1 to -33", "set desk 1 to aux 1 to -33",
             "set desk 7-8 to aux 1 to 10", "Gus must not hear Quill"]  # fmt: skip
    show = build(lines)
    report, found, fix = fix_of(show, "own-voice-back", "gus")
    assert fix is not None and found
    assert [(f.id, f.listener, f.sound) for f in fix.uncovers] == [("leak", "gus", "quill")]
    assert fix.uncovers[0].key not in {f.key for f in report.findings}
    alone = [c for c in fix.changes if "ch2" not in c.control]
    assert 0 < len(alone) < len(fix.changes)
    assert fix.uncovers[0].key in {f.key for f in Report(apply(show, alone)).findings}
    assert "leak" not in {f.id for f in Report(apply(show, fix.changes)).findings}


def test_who_gets_the_full_programme_is_helped_by_the_canceller_and_else_by_the_send():
    show = call_show()
    assert [c.control for c in propose(Report(show)).changes] == ["desk/ch2/send/aux1"]
    for line in ("Gus gets the full programme", "guests get full programme"):
        full = read_any(show, line).show
        proposal = propose(Report(full))
        assert [(c.control, c.after) for c in proposal.changes] == [("call/canceller", "on")]
        after = Report(apply(full, proposal.changes))
        needed = [f for f in after.findings if f.id == "canceller-needed"]
        assert needed and {f.severity for f in needed} == {"note"}  # it is what was chosen
    back = read_any(full, "gus gets a mix-minus").show
    assert [c.control for c in propose(Report(back)).changes] == ["desk/ch2/send/aux1"]
    assert "Gus gets the full programme" in lines_of(full) and build(lines_of(full)) == full
