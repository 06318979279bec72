"""Two ways to solve one thing, beside each other."""

import pytest

from kymaton.core.model import Listener, Person, Show, ShowError
from kymaton.language import alternatives as ways
from tests.shows import build


def talk() -> Show:
    """Ann through a desk into a switcher and out to the audience."""
    show = build()
    show = Show.checked(
        **{**show.fields(), "listeners": (*show.listeners, Listener(id="audience", name="Audience", kind="audience"))}
    )
    for line in (
        "add dynamic mic", "add desk 2 in 1 aux", "add switcher", "add encoder box", "add platform",
        "ann > dynamic mic", "dynamic mic > desk 1", "desk main > switcher mic 1", "switcher programme > encoder box",
        "encoder box > platform", "platform > audience", "set desk 1 gain to 52", "set desk 1 to main to 0",
    ):  # fmt: skip
        show = ways.step(show, line)
    return show


def with_delay(show: Show) -> tuple[Show, str]:
    show, id = ways.add_alternative(show, "Delay in a box")
    for line in ("disconnect desk main", "add delay 30 ms", "buy delay", "desk main > delay", "delay > switcher mic 1"):
        show = ways.add_line(show, id, line)
    return show, id


def test_each_way_is_weighed_as_a_rig_of_its_own():
    show, _ = with_delay(talk())
    plain, other = ways.weigh_all(show)
    assert (plain.name, other.name) == ("As it is", "Delay in a box")
    assert (other.devices - plain.devices, other.leads - plain.leads, other.hangs_on - plain.hangs_on) == (1, 1, 1)
    assert plain.delay_ms is not None and other.delay_ms is not None
    assert other.delay_ms - plain.delay_ms == pytest.approx(31.0)
    assert (plain.to_buy, other.to_buy) == (0, 1)


def test_sound_through_the_camera_against_sound_straight_in():
    """In step, but late for the host who hears the programme; straight in it is early, and heard at once."""

    show = talk()
    ann = Listener(id="ann", name="Ann", kind="host", person="ann")
    sounds = tuple(s.evolve(person="ann") for s in show.sounds)
    show = show.evolve(listeners=(*show.listeners, ann), people=(Person(id="ann", name="Ann"),), sounds=sounds)
    for line in (
        "add camera with sound as Wide",
        "wide > switcher HDMI 1",
        "add de-embedder",
        "add headphones",
        "switcher programme 2 > de-embedder",
        "de-embedder left > headphones",
        "headphones > ann",
    ):
        show = ways.step(show, line)
    from kymaton.core.model import Cue

    cue = Cue(id="one", name="One", on_air="switcher/hdmi1")
    show = show.evolve(cues=(cue,))
    show, id = ways.add_alternative(show, "Through the camera")
    for line in ("disconnect desk main", "desk main > wide sound in", "set switcher HDMI 1 sound to on"):
        show = ways.add_line(show, id, line)
    straight, through = ways.weigh_all(show)
    assert straight.lead_ms is not None and through.lead_ms is not None
    assert straight.lead_ms > 100.0 and abs(through.lead_ms) < 45.0
    assert straight.own_voice_ms is not None and through.own_voice_ms is not None
    assert straight.own_voice_ms < 10.0 and through.own_voice_ms > 80.0


def test_to_take_a_way_makes_it_the_rig():
    show, id = with_delay(talk())
    taken = ways.take(show, id)
    assert not taken.alternatives and "delay" in {d.id for d in taken.devices}
    assert ways.weigh("", taken) == ways.weigh("", ways.applied(show, show.alternatives[0]))


def test_a_way_that_cannot_be_gone_any_more_says_at_which_line():
    from kymaton.core.edits import devices

    show, _ = with_delay(talk())
    lost = devices.remove_device(show, "desk")
    assert ways.weigh_all(lost)[1].trouble.startswith("Delay in a box, line 1 ('disconnect desk main'):")


def test_lines_are_proved_when_they_are_typed_and_can_be_taken_away():
    show, id = with_delay(talk())
    with pytest.raises(ShowError, match="No device is called 'moon'"):
        ways.add_line(show, id, "buy moon")
    with pytest.raises(ShowError, match="already"):
        ways.add_alternative(show, "delay in a BOX")
    assert len(ways.remove_line(show, id, 2).alternatives[0].lines) == 4
    assert ways.remove_alternative(show, id) == talk()
