"""Air: who moves takes the mouth along, places far apart are heard from afar, loudspeakers get into microphones."""

import math

import pytest

from kymaton.core.checks.report import Report
from kymaton.core.signal.cue_solution import CueSolution
from kymaton.language.script import build
from kymaton.language.telling import lines_of

ALTAR_TO_AMBO_M = 6.0
CHURCH = f"""
Priest, voice, host, in Altar
Reader, voice, host, in Ambo
Audience
add dynamic mic as Altar mic
add dynamic mic as Ambo mic
add desk 4 in 1 aux
add switcher
add capture
add encoder
add platform
add loudspeakers as Tower
put altar mic in Altar
put ambo mic, tower in Ambo
altar to ambo {ALTAR_TO_AMBO_M:g} m
priest > altar mic 0.4 m
reader > ambo mic 0.2 m
altar mic > desk 1
ambo mic > desk 2
set desk 1-2 gain to 40
set desk 1-2 to main to 0
desk main > switcher mic 1
switcher programme > capture
capture > encoder
encoder > platform
platform > audience
cue Liturgy
cue Sermon
cue Blessing
""".strip().splitlines()


def gain_db(show, source, target, cue):
    """What the air between two ports does, −∞ where there is none; by the edge itself."""
    view = CueSolution(show, cue)
    nodes = {n: i for i, n in enumerate(view.graph.nodes)}
    a, b = nodes[source, 1], nodes[target, 1]
    found = [
        float(view.state.gain_db[e])
        for e in range(len(view.graph.src))
        if (view.graph.src[e], view.graph.dst[e]) == (a, b)
    ]
    return max(found, default=-math.inf)


def db_at(metres):
    """The free field: 6 dB for each doubling of the distance from 1 m."""
    return -20 * math.log10(metres)


def test_microphones_in_another_place_hear_from_as_far_as_it_is():
    show = build(CHURCH)
    assert gain_db(show, "sound/priest", "altar-mic/capsule", "liturgy") == pytest.approx(db_at(0.4))
    assert gain_db(show, "sound/priest", "ambo-mic/capsule", "liturgy") == pytest.approx(db_at(ALTAR_TO_AMBO_M))
    assert gain_db(show, "sound/reader", "altar-mic/capsule", "liturgy") == pytest.approx(db_at(ALTAR_TO_AMBO_M))


def test_who_moves_takes_the_mouth_along_and_comes_back():
    show = build([*CHURCH, "in Sermon: Priest moves to the ambo", "in Blessing: Priest moves to altar"])
    for cue, altar_m, ambo_m in (("liturgy", 0.4, 6.0), ("sermon", 6.0, 0.2), ("blessing", 0.4, 6.0)):
        assert gain_db(show, "sound/priest", "altar-mic/capsule", cue) == pytest.approx(db_at(altar_m))
        assert gain_db(show, "sound/priest", "ambo-mic/capsule", cue) == pytest.approx(db_at(ambo_m))


def test_who_moves_where_no_distance_is_known_is_missed_and_it_is_said_why():
    lines = [*CHURCH, "place Sacristy", "in Sermon: Priest moves to Sacristy", "Audience must hear Priest"]
    found = [f for f in Report(build(lines)).cues["sermon"].findings if f.id == "missing"]
    assert [f.sound for f in found] == ["priest"] and "somebody has moved" in found[0].reason


def test_what_is_worn_goes_along():
    lines = [line.replace("add dynamic mic as Altar mic", "add clip-on mic as Altar mic") for line in CHURCH]
    show = build([*lines, "in Sermon: Priest moves to Ambo"])
    assert gain_db(show, "sound/priest", "altar-mic/capsule", "sermon") == pytest.approx(db_at(0.4))


def test_a_microphone_that_is_carried_to_another_place_leaves_the_mouth_behind():
    show = build([*CHURCH, "in Sermon: Priest moves altar mic to Ambo"])
    assert gain_db(show, "sound/priest", "altar-mic/capsule", "sermon") == pytest.approx(db_at(ALTAR_TO_AMBO_M))


def test_a_loudspeaker_is_heard_by_microphones_and_a_loop_through_it_is_found():
    loud = ["desk aux 1 > tower", "set desk 1 to aux 1 to 10"]
    alone = build([*CHURCH, *loud])
    assert gain_db(alone, "tower/air", "altar-mic/capsule", "liturgy") == pytest.approx(db_at(ALTAR_TO_AMBO_M))
    assert gain_db(alone, "tower/air", "ambo-mic/capsule", "liturgy") == -math.inf  # in its place nothing is said
    margins = []
    for metres in (6.0, 60.0):
        lines = [line.replace("ambo 6 m", f"ambo {metres:g} m") for line in CHURCH]
        margins.append(CueSolution(build([*lines, *loud]), "liturgy").loops[0].margin_db)
    assert margins[1] - margins[0] == pytest.approx(20.0, abs=0.01)  # ten times as far


def test_one_sound_before_a_microphone_takes_no_other_out_of_its_air():
    show = build([*CHURCH, "place Ambo, air 3 m", "Choir, voice, in Ambo"])
    assert gain_db(show, "sound/choir", "ambo-mic/capsule", "liturgy") == pytest.approx(db_at(3.0))
    assert gain_db(show, "sound/reader", "ambo-mic/capsule", "liturgy") == pytest.approx(db_at(0.2))


def test_lines_tell_distances_again():
    show = build(CHURCH)
    told = lines_of(show)
    assert "Altar to Ambo 6 m" in told and build(told) == show
