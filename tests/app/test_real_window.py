"""The first ten minutes in a real window on a virtual screen: real keys, a real mouse, no compositor."""

import os
import subprocess
import sys

import pytest

from tests.real.hand import MISSING, Hand

pytestmark = [
    pytest.mark.xvfb,
    pytest.mark.skipif(
        bool(MISSING) and not os.environ.get("CI"), reason=f"there is no virtual screen here (missing: {MISSING})"
    ),
]


@pytest.fixture
def hand(tmp_path):
    """Opens the program on a screen of its own, with an empty home: as on the first day."""
    opened = []

    def open_(*arguments, **how):
        made = Hand(tmp_path / "home", *arguments, **how)
        opened.append(made)
        return made.__enter__()

    yield open_
    for made in opened:
        made.__exit__()


def test_the_demo_opens_on_a_screen(hand):
    it = hand("demo")
    assert it.ask("app.platformName()") == "xcb"
    assert it.ask("window.findings.title.text()").startswith("Guest talk: 11 faults, 1 caution")
    assert it.ask("colours(window)") > 8
    it.click("cell('teo', 'click')")
    it.key("space")  # unsaved work is kept, quietly
    it.key("ctrl+q")
    assert it.program.wait(20) == 0


class TestPatchLine:
    """Typing, completing, Enter: what a newcomer does first."""

    def test_enter_does_the_line_while_the_list_is_open_and_leaves_nothing(self, hand):
        it = hand("demo")
        it.key("alt+2")
        assert it.ask("focus()") == "Patch line"
        for line in ("add dynamic mic", "add desk 16 in 6 aux as Front"):
            it.type(line)
            assert it.ask("window.path.patch.line.text()") == line
            it.key("Return")
            assert it.ask("window.path.patch.line.text()") == "" and not it.ask("offers()")
        assert it.ask("[d.name for d in window.document.show.devices][-2:]") == ["Dynamic mic", "Front"]

    def test_an_offer_is_taken_with_the_arrows_or_tab_or_the_mouse(self, hand):
        it = hand("demo")
        it.key("ctrl+p")
        it.type("add dyn")
        assert it.ask("offers()") == ["add dynamic mic"]
        it.key("Down", "Return")
        assert it.ask("window.path.patch.line.text()") == "add dynamic mic " and not it.ask("offers()")
        it.key("Return")
        assert it.ask("window.document.show.devices[-1].name") == "Dynamic mic"
        it.type("add dyn")
        it.key("Tab")
        assert it.ask("window.path.patch.line.text()") == "add dynamic mic "
        it.key("ctrl+a")
        it.type("add dyn")
        it.click("middle(window.path.patch.line.list)")
        assert it.ask("window.path.patch.line.text()") == "add dynamic mic " and it.ask("focus()") == "Patch line"
        it.key("ctrl+a", "BackSpace")
        it.type("add dyn")
        it.key("Escape")
        assert not it.ask("offers()") and it.ask("window.path.patch.line.text()") == "add dyn"

    @pytest.mark.parametrize("theme", ["day", "night"])
    def test_the_list_can_be_read(self, hand, theme):
        it = hand("demo")
        it.ask(f"window.choose_theme('{theme}')")
        it.key("ctrl+p")
        it.type("add m")
        assert len(it.ask("offers()")) > 3
        assert it.ask("contrast(window.path.patch.line.list)") > 4.5


class TestMenu:
    def test_it_reads_from_left_to_right_and_leaves_the_rail_free(self, hand):
        it = hand("demo")
        it.click("middle(window.name)")
        it.until("menus()")
        menu = it.ask("menus()[0]")
        assert menu["left"] >= it.ask("window.rail.width()") and len(menu["entries"]) <= 16
        assert menu["direction"] == "LeftToRight" and it.ask("shortcut_side(popup())") > 0.5
        it.click("entry('Look')")
        it.until("len(menus()) == 2")
        assert it.ask("menus()[1]['left']") >= menu["left"] + 100
        it.click("entry('Night')")
        assert it.ask("window.settings.theme") == "night" and not it.ask("menus()")

    @pytest.mark.parametrize("theme", ["day", "night"])
    def test_every_popup_can_be_read(self, hand, theme):
        it = hand("demo")
        it.ask(f"window.choose_theme('{theme}')")
        it.key("alt+f")
        it.until("menus()")
        assert it.ask("contrast(popup())") > 4.5
        it.key("Escape")
        it.key("alt+1")
        it.click("middle(window.brief.scope)")
        it.until("app.activePopupWidget() is not None")
        assert it.ask("contrast(popup())") > 4.5
        it.key("Escape")
        it.key("alt+2")
        it.click("middle(window.path.scope)")
        it.until("menus()")
        assert it.ask("contrast(popup())") > 4.5
        it.key("Escape")
        it.move("middle(window.listen_button)")
        it.until("tip() is not None")
        assert it.ask("contrast(tip())") > 4.5
        it.key("ctrl+k")
        assert it.ask("contrast(window.finder.list)") > 4.5


class TestSteps:
    def test_a_new_show_opens_on_brief_with_the_line_ready(self, hand):
        it = hand("demo")
        it.key("ctrl+n")
        it.until("window.current == 'brief'")
        it.enter("Maren, voice, host")
        assert it.ask("[s.name for s in window.document.show.sounds]") == ["Maren"]

    def test_each_step_gives_the_keyboard_to_its_main_part(self, hand):
        it = hand("demo")
        parts = {
            "brief": "Add a person", "path": "Patch line", "hearing": "Who hears what", "sync": "Sync lanes",
            "log": "A note",
        }  # fmt: skip
        for number, (step, name) in enumerate(parts.items(), start=1):
            it.click(f"middle(window.rail.buttons['{step}'])")
            assert it.ask("focus()").startswith(name)
            it.key("alt+3" if step != "hearing" else "alt+1")
            it.key(f"alt+{number}")
            assert it.ask("window.current") == step and it.ask("focus()").startswith(name)
        it.click("middle(window.rail.buttons['brief'])")
        it.enter("Ada, voice, guest")
        assert it.ask("window.document.show.listeners[-1].name") == "Ada"

    def test_a_tick_is_for_what_was_examined(self, hand):
        it = hand("demo")
        it.key("ctrl+n")
        it.until("window.document.report is not None")
        states = "{s: b.ready and b.ready.state for s, b in window.rail.buttons.items()}"
        assert it.ask(states) == {
            "brief": "nothing", "path": "nothing", "hearing": "nothing", "sync": "nothing", "log": None,
        }  # fmt: skip
        assert "nothing there yet" in it.ask("window.rail.buttons['path'].accessibleName()")
        it.key("alt+2")
        assert it.ask("window.findings.title.text()") == "Nothing to examine yet"


def test_without_a_screen_the_window_is_refused_in_one_line(tmp_path):
    environment = {k: v for k, v in os.environ.items() if k not in ("QT_QPA_PLATFORM", "DISPLAY", "WAYLAND_DISPLAY")}
    done = subprocess.run(
        [sys.executable, "-m", "kymaton", "demo"], env=environment, capture_output=True, text=True, timeout=60
    )
    assert done.returncode == 2 and done.stderr.count("\n") == 1 and "no screen" in done.stderr
