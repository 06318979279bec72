"""The page of rules: each kind is added by a line there, told in words, and taken back."""

import pytest
from PyQt6.QtWidgets import QLineEdit

from tests.app.test_depth import texts
from tests.shows import DEMO


@pytest.mark.parametrize(
    ("line", "said"),
    [
        ("group Table: table mic, clip-on", "Table: Table mic and Clip-on"),
        ("camera a shows Maren", "Camera A shows Maren"),
        ("Teo must hear Click within 20 ms", "Teo hears the click within 20 ms"),
        ("Quill controls switcher", "Quill controls Switcher"),
    ],
)
def test_a_rule_is_added_told_and_taken_back(make_window, line, said):
    window = make_window(DEMO)
    panel, document = window.brief.rules, window.document
    window.go("brief")
    window.brief.open_page(panel)
    before = document.show
    typed = panel.findChildren(QLineEdit)[0]
    typed.setText(line)
    typed.returnPressed.emit()
    (rule,) = [r for r in rules_of(document.show) if r[0] not in [old for old, _ in rules_of(before)]]
    assert rule[0] == said and said in texts(panel)
    panel.remove(*rule)
    assert [r[0] for r in rules_of(document.show)] == [r[0] for r in rules_of(before)] and document.stack.count() == 2


def rules_of(show):
    from kymaton.app.brief.rules import SECTIONS

    return [rule for *_, rules in SECTIONS for rule in rules(show)]


def test_what_cannot_be_is_said_on_the_page(make_window):
    window = make_window(DEMO)
    panel = window.brief.rules
    window.go("brief")
    window.brief.open_page(panel)
    typed = panel.findChildren(QLineEdit)[0]
    typed.setText("group Table: lamp")
    typed.returnPressed.emit()
    assert "lamp" in panel.problem.text() and window.document.stack.count() == 0


def test_the_keyboard_stays_where_it_was_typed(make_window, qtbot):
    """Cards are made anew with each edit; several rules are typed one after the other all the same."""
    window = make_window(DEMO)
    panel = window.brief.rules
    window.go("brief")
    window.brief.open_page(panel)
    window.activateWindow()
    panel.findChildren(QLineEdit)[0].setFocus()
    for text in ("group Table: table mic, clip-on", "group Singers: condenser, clip-on"):
        line = window.focusWidget()
        assert isinstance(line, QLineEdit) and line.accessibleName() == "Add a group of microphones"
        line.setText(text)
        line.returnPressed.emit()
    assert len(window.document.show.microphone_groups) == 2
