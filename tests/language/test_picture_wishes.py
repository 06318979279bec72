"""Wishes about pictures, by typing."""

import pytest

from kymaton.core.edits import cues, devices, next_show, people
from kymaton.core.model import Cue, ShowError, Want
from kymaton.language.picture_wishes import add_picture_wish, picture_wish_text, remove_picture_wish
from tests.shows import build, with_cues

RIG = ("add camera", "add screen", "add keyboard", "camera > screen", "screen > bob")


def test_a_wish_is_typed_told_and_taken_back():
    show, text = add_picture_wish(build(*RIG), "Bob must not see camera", None)
    assert text == "Bob must not see camera HDMI"
    wish = show.picture_plan[0]
    assert (wish.want, wish.picture, wish.cues) == (Want.MUST_NOT, "camera/hdmi", ())
    again, text = add_picture_wish(show, "bob must see camera HDMI", None)
    assert [picture_wish_text(again, w) for w in again.picture_plan] == [text] == ["Bob must see camera HDMI"]
    assert remove_picture_wish(again, again.picture_plan[0]).picture_plan == ()


def test_a_wish_goes_with_its_cue_its_watcher_and_its_picture():
    show = with_cues(build(*RIG), Cue(id="one", name="One"))
    show, _ = add_picture_wish(show, "Bob must see camera", "one")
    assert cues.remove_cue(show, "one").picture_plan == ()
    assert people.remove_listener(show, "bob").picture_plan == ()
    assert devices.remove_device(show, "camera").picture_plan == ()
    copied, id = cues.add_cue(show, "Two", like="one")
    assert copied.picture_plan[0].cues == ("one", id)
    assert next_show.started_from(show, "Next").picture_plan == ()


@pytest.mark.parametrize(
    ("line", "said"),
    [
        ("bob sees camera", "Say who must"),
        ("nobody must see camera", "Nobody here is called 'nobody'"),
        ("bob must see moon", "Nothing here is called 'moon'"),
        ("bob must see keyboard", "gives no picture"),
    ],
)
def test_what_cannot_be_wished_is_said(line, said):
    with pytest.raises(ShowError, match=said):
        add_picture_wish(build(*RIG), line, None)
