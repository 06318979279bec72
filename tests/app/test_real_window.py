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
    assert it.quit() == 0


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

    def test_enter_goes_on_where_there_is_one_way_and_what_is_wrong_is_typed_over(self, hand):
        it = hand("demo")
        it.key("alt+2")
        it.enter("add dyn")
        assert it.ask("window.document.show.devices[-1].name") == "Dynamic mic"
        assert it.ask("window.path.patch.line.text()") == ""
        it.enter("set desk 12 g")
        assert it.ask("window.path.patch.line.text()") == "set desk 12 gain to "
        it.key("ctrl+a")
        it.enter("add nonsense")
        assert "nothing called 'nonsense'" in it.ask("window.path.patch.hint.text()")
        it.enter("add desk 16 in 6 aux as Front")
        assert it.ask("window.document.show.devices[-1].name") == "Front"

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
        seen = []
        for step, page in (("brief", ""), ("path", ""), ("sync", "delays"), ("sync", "recordings"), ("sync", "files")):
            it.ask(f"window.go('{step}')" + (f" or window.sync.show_page('{page}')" if page else ""))
            for number in range(it.ask("len(combos())")):
                seen.append(it.ask(f"combos()[{number}].accessibleName()"))
                it.click(f"middle(combos()[{number}])")
                it.until("app.activePopupWidget() is not None")
                assert it.ask("contrast(popup())") > 4.5, seen[-1]
                it.key("Escape")
                it.until("app.activePopupWidget() is None")
        assert len(seen) >= 8
        it.key("alt+2")
        for opens, button in (("middle(window.path.scope)", 1), ("button('Add device')", 1), ("plate('desk')", 3)):
            it.click(opens, button=button)
            it.until("menus()")
            assert it.ask("contrast(popup())") > 4.5, opens
            it.key("Escape")
        it.move("middle(window.listen_button)")
        it.until("tip() is not None")
        assert it.ask("contrast(tip())") > 4.5
        it.move("plate('desk')")
        it.until("tip() is not None and 'Desk' in tip().text()")
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
            "brief": "Add a person", "path": "Patch line", "hearing": "Who hears what",
            "levels": "Which sound", "sync": "Sync lanes",
            "load-in": "What the uplink has", "log": "A note",
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
            "brief": "nothing", "path": "nothing", "hearing": "nothing", "levels": "nothing",
            "sync": "nothing", "load-in": "nothing", "log": None,
        }  # fmt: skip
        assert "nothing there yet" in it.ask("window.rail.buttons['path'].accessibleName()")
        it.key("alt+2")
        assert it.ask("window.findings.title.text()") == "Nothing to examine yet"
        it.key("alt+1")
        for line in ("Maren, voice, host", "Ilse, voice, guest", "Audience"):
            it.enter(line)
        it.until("window.document.report is not None")
        assert it.ask(states)["brief"] == "good" and it.ask(states)["hearing"] == "nothing"
        it.key("alt+3")
        assert it.ask("findings()") == [] and "wire in Path" in it.ask("nothing_found()")


PEOPLE = ("Maren, voice, host, in-ear", "Ilse, voice, guest, headphones", "Audience")
DEVICES = (
    ("Microphones", "Dynamic mic"), ("Desks", "Desk:"), ("Calls", "Call:"), ("Computers", "Call computer"),
    ("Ears", "In-ear"), ("Picture", "Switcher"), ("Picture", "Capture"), ("Stream", "Encoder:"),
    ("Stream", "Platform"),
)  # fmt: skip
LEADS = (
    ("sound/maren", "dynamic-mic", ""), ("dynamic-mic", "desk", "Dynamic mic > Desk 1"),
    ("sound/ilse", "call", "Ilse > Call guest 1 mic"),
    ("call", "call-computer", "Call receiving > Call computer call"),
    ("call-computer", "call", "Call computer call > Call sending"),
    ("call", "listener/ilse", "Call guest 1 ears > Ilse"),
    ("call-computer", "desk", "Call computer headphones > Desk 2"),
    ("desk", "call-computer", "Desk aux 1 > Call computer line in"), ("desk", "in-ear", "Desk aux 2 > In-ear"),
    ("in-ear", "listener/maren", ""), ("desk", "switcher", "Desk main > Switcher mic 1"),
    ("switcher", "capture", "Switcher programme > Capture HDMI"), ("capture", "encoder", ""),
    ("encoder", "platform", ""), ("platform", "listener/audience", ""),
)  # fmt: skip
SETTINGS = {
    "desk 1 gain": "54", "desk 1 to main": "0", "desk 2 to main": "0", "desk 1 to aux 1": "-6",
    "desk 2 to aux 2": "-6", "desk 2 to aux 1": "-6",
}  # fmt: skip
ECHO, CURE = "Ilse hears their own voice 336 ms late", "Pull down desk 2 to aux 1"


class TestTenMinutes:
    """A talk with one guest, from nothing to the file: its echo found, cured, heard, saved, opened again."""

    def test_by_keys_alone(self, hand, tmp_path):
        it = hand()
        it.key("ctrl+n")
        for line in PEOPLE:
            it.enter(line)
        it.key("alt+2")
        for device in ("dynamic mic", "desk 8 in 2 aux", "call 1 guest", "call computer", "in-ear", "switcher",
                       "capture", "encoder", "platform"):  # fmt: skip
            it.enter(f"add {device}")
        for lead in (
            "maren > dynamic mic", "dynamic mic > desk 1", "ilse > call guest 1 mic",
            "call receiving > call computer call", "call computer call > call sending", "call guest 1 ears > ilse",
            "call computer headphones > desk 2", "desk aux 1 > call computer line in", "desk aux 2 > in-ear",
            "in-ear > maren", "desk main > switcher mic 1", "switcher programme > capture", "capture > encoder",
            "encoder > platform", "platform > audience",
        ):  # fmt: skip
            it.enter(lead)
        for control, value in SETTINGS.items():
            it.enter(f"set {control} to {value}")
        assert it.ask("window.path.patch.line.text()") == ""
        assert len(it.ask("[c.id for c in window.document.show.cables]")) >= 15
        it.key("alt+3")
        self.finds_the_echo(it)
        it.key("F8")
        it.until("fix()")
        it.key("Return")
        self.is_cured(it)
        it.key("alt+3", "Down")
        it.ask("window.document.select('ilse', None)")
        it.key("ctrl+l")
        self.is_heard(it)
        path = tmp_path / "talk.kymaton"
        it.key("ctrl+s")
        self.types_a_file(it, path)
        it.until(f"window.document.is_clean and on_file({str(path)!r})")
        it.key("ctrl+n")
        assert it.ask("window.document.show.sounds") == []
        it.key("ctrl+o")
        self.types_a_file(it, path)
        it.until(f"window.document.path is not None and on_file({str(path)!r})")
        assert it.ask("window.current") == "hearing"

    def test_by_mouse(self, hand, tmp_path):
        """Everything but names and numbers, which are typed."""
        it = hand()
        it.click("middle(window.name)")
        it.click("entry('New show')")
        for line in PEOPLE:
            it.click("middle(window.brief.line)")
            it.enter(line)
        it.click("middle(window.rail.buttons['path'])")
        for stage, device in DEVICES:
            it.click("button('Add device')")
            it.click(f"entry({stage!r})")
            it.click(f"entry({device!r})")
        assert len(it.ask("[d.name for d in window.document.show.devices]")) == len(DEVICES)
        for source, target, offer in LEADS:
            before = it.ask("len(window.document.show.cables)")
            it.drag(f"plate({source!r})", f"plate({target!r})")
            it.until("menus()")
            it.click(f"entry({offer!r})")
            it.until(f"len(window.document.show.cables) > {before}")
        it.click("plate('desk')")
        for name, value in SETTINGS.items():
            it.click(f"control({name!r})", times=2)
            it.key("ctrl+a")
            it.enter(value)
        it.click("middle(window.rail.buttons['hearing'])")
        self.finds_the_echo(it)
        it.click("fix()")
        self.is_cured(it)
        it.click("button('Listen')")
        self.is_heard(it)
        path = tmp_path / "talk.kymaton"
        for name in ("Save", "Open"):
            it.click("middle(window.name)")
            it.click(f"entry({name!r})")
            self.types_a_file(it, path)
            it.until(f"on_file({str(path)!r}) and window.document.is_clean")

    def finds_the_echo(self, it):
        it.until("window.document.report is not None")
        assert it.ask("findings()")[0] == ECHO
        assert it.ask("window.findings.title.text()") == "Whole show: 1 fault"
        assert it.ask("window.rail.buttons['hearing'].faults") == 1
        it.until("any(v.is_open and v.fix_button.isEnabled() for v in window.findings.views)")
        assert CURE in it.ask("[v.fix_button.text() for v in window.findings.views if v.is_open][0]")

    def is_cured(self, it):
        it.until("[b.ready and b.ready.state for b in window.rail.buttons.values()][2] == 'good'")
        assert it.ask("window.findings.title.text()") == "Whole show: 0 faults"
        assert it.ask("window.document.stack.undoText()") == CURE[:1].lower() + CURE[1:]

    def is_heard(self, it):
        it.until("window.listen_bar.audition is not None")
        assert it.ask("window.listen_bar.audition.peak_dbfs") > -40
        assert "stands in for" in it.ask("window.listen_bar.note.text()")

    def types_a_file(self, it, path):
        it.until("app.activeModalWidget() is not None")
        it.focus("app.activeModalWidget()")
        it.key("ctrl+a")
        it.enter(str(path))
        it.until("app.activeModalWidget() is None")
        it.focus("window")


def test_the_guide_shows_five_things_and_is_closed_for_good(hand):
    it = hand("demo")
    seen = []
    for _ in range(5):
        seen.append(it.ask("window.guide.text.text()"))
        it.click("middle(window.guide.show_button)")
        assert it.ask("window.guide.isVisible()")
        it.click("middle(window.guide.next_button)")
    assert len(set(seen)) == 5 and not it.ask("window.guide.isVisible()")
    assert it.ask("window.current") == "hearing" and it.ask("any(v.is_open for v in window.findings.views)")
    assert it.quit() == 0
    it.open("demo")
    assert not it.ask("window.guide.isVisible()")
    it.click("middle(window.name)")
    it.click("entry('Help')")
    it.click("entry('The first day')")
    assert it.ask("window.guide.isVisible()")
    it.key("ctrl+n")
    assert not it.ask("window.guide.isVisible()")


def test_without_a_screen_the_window_is_refused_in_one_line(tmp_path):
    environment = {k: v for k, v in os.environ.items() if k not in ("QT_QPA_PLATFORM", "DISPLAY", "WAYLAND_DISPLAY")}
    done = subprocess.run(
        [sys.executable, "-m", "kymaton", "demo"], env=environment, capture_output=True, text=True, timeout=60
    )
    assert done.returncode == 2 and done.stderr.count("\n") == 1 and "no screen" in done.stderr
