"""Everything that can be done from anywhere in the window: as actions with their keys, and as what can be found."""

from collections.abc import Callable
from functools import partial
from typing import TYPE_CHECKING

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QAction, QKeySequence

from kymaton.app.frame import STEPS

if TYPE_CHECKING:
    from kymaton.app.widgets.finder import Entry
    from kymaton.app.window import Window


def make_actions(window: "Window") -> dict[str, QAction]:
    """The actions of a window by their ids, each put into the window with its keys."""
    document, files = window.document, window.files
    made: dict[str, QAction] = {}

    def action(id: str, text: str, act: Callable[[], object], *keys: str) -> None:
        one = QAction(text, window)
        one.triggered.connect(lambda: act())
        put(id, one, *keys)
        if keys:
            one.setToolTip(f"{text} ({keys[0]})")

    def put(id: str, one: QAction | None, *keys: str) -> None:
        assert one is not None
        one.setShortcuts([QKeySequence(k) for k in keys])
        one.setShortcutContext(Qt.ShortcutContext.WindowShortcut)
        made[id] = one
        window.addAction(one)

    action("new", "New show", files.new, "Ctrl+N")
    action("next-show", "New show from this one", files.start_from_this)
    action("rename", "Title of the show", window.rename_show)
    action("open", "Open", files.ask_open, "Ctrl+O")
    action("demo", "Open the demo", files.open_demo)
    action("save", "Save", files.save, "Ctrl+S")
    action("save-as", "Save as", files.ask_save, "Ctrl+Shift+S")
    action("export-map", "Export the map as SVG", files.ask_export_map)
    action("print-map", "Print the map", files.ask_print_map)
    action("import", "Import an input list", files.ask_import)
    action("export", "Export the input list", files.ask_export)
    put("undo", document.stack.createUndoAction(window, "Undo"), "Ctrl+Z")
    put("redo", document.stack.createRedoAction(window, "Redo"), "Ctrl+Shift+Z", "Ctrl+Y")
    action("find", "Find anything", lambda: window.finder.popup(), "Ctrl+K")
    action("listen", "Listen", window.listen, "Ctrl+L")
    action("propose", "Propose settings", window.propose, "Ctrl+M")
    action("ask", "Ask who hears what, and why", window.ask, "Ctrl+I")
    action("patch", "Patch by typing", lambda: window.go("path"), "Ctrl+P")
    action("measure", "Measure a recording", lambda: window.go_sync("recordings"))
    action("by-eye", "Look at a recording frame by frame", lambda: window.go_sync("by eye"))
    action("films", "Lay sounds over a film, embed, extract", lambda: window.go_sync("files"))
    action("next-finding", "Next finding", lambda: window.step_finding(1), "F8")
    action("previous-finding", "Previous finding", lambda: window.step_finding(-1), "Shift+F8")
    action("next-cue", "Next cue", lambda: document.step_cue(1), "Ctrl+Right")
    action("previous-cue", "Previous cue", lambda: document.step_cue(-1), "Ctrl+Left")
    action("findings", "Show or hide the findings", window.toggle_findings, "F9")
    action("theme-day", "Day", lambda: window.choose_theme("day"))
    action("theme-night", "Night", lambda: window.choose_theme("night"))
    action("theme-desktop", "Day or night as the desktop", lambda: window.choose_theme("desktop"))
    action("help", "Help on this view", window.help, "F1")
    action("guide", "The first day: five things to look at", window.show_guide)
    for step in STEPS:
        action(f"go-{step.id}", f"Go to {step.name}", partial(window.go, step.id), f"Alt+{step.number}")
    action("menu", "Menu of the show", lambda: window.name.showMenu(), "Alt+F")
    action("quit", "Quit", window.close, "Ctrl+Q")
    return made


def entries(window: "Window") -> "list[Entry]":
    """What can be found: the actions, the starter rigs, and everything in the show."""
    from kymaton.app.off_air import off_air
    from kymaton.app.widgets.finder import Entry
    from kymaton.language.starters import STARTERS

    document, show = window.document, window.document.show
    found = [
        Entry(a.text().replace("&", ""), a.shortcut().toString(), a.trigger, a.isEnabled())
        for id, a in window.actions_.items()
        if id != "find"
    ]

    def look_at(step: str, listener: str | None, sound: str | None) -> None:
        window.go(step)
        document.select(listener, sound)

    found += [Entry(name, "add a cue", act) for name, act in off_air(window)]
    found += [Entry(s.title, "start from this rig", partial(window.files.start_from, s)) for s in STARTERS]
    found += [Entry(c.name, "cue", partial(document.choose_cue, c.id)) for c in show.cues]
    found += [Entry(x.name, "listener", partial(look_at, "hearing", x.id, None)) for x in show.listeners]
    found += [Entry(s.name, "sound", partial(look_at, "path", None, s.id)) for s in show.sounds]
    found += [Entry(d.name, "device", partial(window.show_device, d.id)) for d in show.devices]
    return found


def questions(window: "Window", text: str) -> "list[Entry]":
    """What a text asks, where it is meant as a question, and how it may go on."""
    from kymaton.app.widgets.finder import Entry
    from kymaton.language.asking import is_question, suggestions

    if not is_question(text):
        return []
    begins = text.lower().strip().rstrip("?")
    more = [s for s in suggestions(window.document.show) if s.lower().startswith(begins) and s.lower() != begins]
    return [Entry(each, "ask", partial(window.ask, each)) for each in (text.strip(), *more)]
