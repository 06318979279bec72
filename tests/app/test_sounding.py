"""The table of who sounds when, by keyboard; and what a hand left, on the page of a cue."""

from PyQt6.QtCore import Qt

from tests.shows import DEMO


def test_space_says_who_sounds_and_delete_takes_it_back(make_window, qtbot):
    window = make_window(DEMO)
    brief, document = window.brief, window.document
    window.go("brief")
    brief.open_page(brief.sounding)
    table = brief.sounding.table
    model = table.decisions
    sound, cue = document.show.sounds[0], document.show.cues[1]
    table.setCurrentIndex(model.index(0, 1))
    assert model.data(model.index(0, 1)) == "\N{EN DASH}"
    for told in ("sounds", "may sound", "silent", "sounds"):
        qtbot.keyClick(table, Qt.Key.Key_Space)
        assert document.show.sounding(sound.id, cue.id) == told
        tip = str(model.data(model.index(0, 1), Qt.ItemDataRole.AccessibleTextRole))
        assert sound.name in tip and cue.name in tip
    qtbot.keyClick(table, Qt.Key.Key_Delete)
    assert document.show.sounding(sound.id, cue.id) is None and document.stack.count() == 5
    table.selectColumn(2)
    qtbot.keyClick(table, Qt.Key.Key_Space)
    assert len(document.show.cues[2].sounding) == len(document.show.sounds)
    window.actions_["undo"].trigger()
    assert document.show.cues[2].sounding == {}


def test_the_page_of_a_cue_tells_what_a_hand_left_and_recalls_a_scene(make_window, qtbot):
    window = make_window(DEMO)
    brief, document = window.brief, window.document
    window.go("brief")
    document.choose_cue("talk" if "talk" in [c.id for c in document.show.cues] else document.show.cues[1].id)
    brief.open_page(brief.cue)
    brief.cue.add_action("mute desk 1")
    behind = document.show.cues[2].id
    assert list(document.show.left_by_hand(behind)) == ["desk/ch1/mute"]
    document.choose_cue(behind)
    brief.cue.add_action("recall desk")
    assert document.show.left_by_hand(behind) == {} and document.show.cue(behind).recalls == ("desk",)
    brief.cue.remove_recalls()
    assert document.show.cue(behind).recalls == ()
