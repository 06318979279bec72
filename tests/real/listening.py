"""The program as it is, with an ear at its standard input: each line is an expression, its value goes back as JSON.

Run by `tests.real.hand`; `window` and `app` are known to the expressions, and what is defined below.
"""

import faulthandler
import itertools
import json
import os
import signal
import sys
import traceback
from collections import Counter
from pathlib import Path

from PyQt6.QtCore import QPoint, QRect, QSocketNotifier, QTimer
from PyQt6.QtGui import QColor, QImage
from PyQt6.QtWidgets import QAbstractButton, QApplication, QComboBox, QLabel, QMenu, QWidget

import kymaton.app.run as run
from kymaton.app.window import Window
from kymaton.cli.main import main
from kymaton.store.showfile import read_show

application = run.application


def window() -> Window:
    return next(w for w in QApplication.topLevelWidgets() if isinstance(w, Window) and w.isVisible())


def middle(widget: QWidget, box: QRect | None = None) -> list[int]:
    """The middle of a widget, or of a box in it, on the screen; fails when it is not to be seen."""
    assert widget.isVisible(), f"{widget} is not shown"
    box = box if box is not None else widget.rect()
    seen = widget.visibleRegion().boundingRect().intersected(box)
    assert seen.isValid() and seen.width() > 2 and seen.height() > 2, f"{widget} is out of sight"
    at = widget.mapToGlobal(seen.center())
    return [at.x(), at.y()]


def button(text: str) -> list[int]:
    """The middle of the one button with this text, which must be enabled."""
    found = [
        b for b in window().findChildren(QAbstractButton)
        if b.text() == text and b.isVisible() and b.isEnabled() and not b.visibleRegion().isEmpty()
    ]  # fmt: skip
    assert len(found) == 1, f"{len(found)} buttons say {text!r}"
    return middle(found[0])


def field(name: str) -> list[int]:
    """The middle of the widget with this name for screen readers."""
    found = [w for w in window().findChildren(QWidget) if w.accessibleName().startswith(name) and w.isVisible()]
    assert found, f"nothing is named {name!r}"
    return middle(found[0])


def entry(*names: str) -> list[int]:
    """The middle of an entry in an open menu."""
    for menu in reversed([w for w in QApplication.topLevelWidgets() if isinstance(w, QMenu) and w.isVisible()]):
        for action in menu.actions():
            if not action.isSeparator() and action.text().replace("&", "").startswith(names):
                return middle(menu, menu.actionGeometry(action))
    raise AssertionError(f"no open menu has {names}")


def menus() -> list[dict[str, object]]:
    """The open menus, the first one first: where they are, what they hold, in which direction they read."""
    found = [w for w in QApplication.topLevelWidgets() if isinstance(w, QMenu) and w.isVisible()]
    return [
        {
            "left": m.x(), "entries": [a.text() for a in m.actions() if not a.isSeparator()],
            "direction": m.layoutDirection().name,
        }
        for m in sorted(found, key=lambda m: m.x())
    ]  # fmt: skip


def shortcut_side(menu: QMenu) -> float:
    """Where the ink of an entry's shortcut begins, as a part of the menu's width, where its text stands left."""
    action = next(a for a in menu.actions() if not a.shortcut().isEmpty() and a.isEnabled())
    image = on_screen(menu).copy(menu.actionGeometry(action))
    names = [[image.pixelColor(x, y).name() for y in range(4, image.height() - 4)] for x in range(6, image.width() - 6)]
    ground = Counter(n for column in names for n in column).most_common(1)[0][0]
    inked = [x for x, column in enumerate(names) if any(n != ground for n in column)]
    gap = next(x for x, after in itertools.pairwise(inked) if after - x > 16)
    wide = menu.fontMetrics().horizontalAdvance(action.text())
    assert abs(gap - inked[0] - wide) < 10, f"the text is not on the left: {inked[0]} to {gap}, not {wide} wide"
    return next(x for x in inked if x > gap) / image.width()


def on_screen(widget: QWidget) -> QImage:
    """A widget as the screen shows it, not as it would paint itself."""
    screen = widget.screen()
    assert screen is not None
    at = widget.mapToGlobal(QPoint(0, 0))
    return screen.grabWindow(0, at.x(), at.y(), widget.width(), widget.height()).toImage()


def contrast(widget: QWidget) -> float:
    """Of what is darkest and brightest on the screen where a widget is, against its ground (WCAG 2)."""
    image = on_screen(widget)
    seen = Counter(
        image.pixelColor(x, y).name() for x in range(2, image.width() - 2) for y in range(2, image.height() - 2)
    )
    ground = luminance(seen.most_common(1)[0][0])
    others = [luminance(c) for c in seen]
    return max((max(x, ground) + 0.05) / (min(x, ground) + 0.05) for x in others)


def luminance(name: str) -> float:
    """Relative luminance of a colour (WCAG 2)."""
    parts = [c / 12.92 if c <= 0.04045 else ((c + 0.055) / 1.055) ** 2.4 for c in QColor(name).getRgbF()[:3]]
    return 0.2126 * parts[0] + 0.7152 * parts[1] + 0.0722 * parts[2]


def colours(widget: QWidget) -> int:
    image = on_screen(widget)
    return len(
        {image.pixelColor(x, y).name() for x in range(0, image.width(), 40) for y in range(0, image.height(), 40)}
    )


def popup() -> QWidget:
    found = QApplication.activePopupWidget()
    assert found is not None, "nothing has popped up"
    return found


def combos() -> list[QComboBox]:
    """The lists to choose from that are shown."""
    return [c for c in window().findChildren(QComboBox) if c.isVisible() and not c.visibleRegion().isEmpty()]


def tip() -> QWidget | None:
    """The tool tip that is shown."""
    return next((w for w in QApplication.topLevelWidgets() if w.inherits("QTipLabel") and w.isVisible()), None)


def offers() -> list[str]:
    """What the list of the patch line offers; nothing when it is closed."""
    shown = window().path.patch.line.list
    return [shown.item(n).text() for n in range(shown.count())] if shown.isVisible() else []


def cell(listener: str, sound: str) -> list[int]:
    """The middle of a cell of the hearing table."""
    show, table = window().document.show, window().hearing.table
    index = table.hearing.index(
        [s.id for s in show.sounds].index(sound), [x.id for x in show.listeners].index(listener)
    )
    viewport = table.viewport()
    assert viewport is not None
    return middle(viewport, table.visualRect(index))


def plate(id: str) -> list[int]:
    """The middle of a plate of the map."""
    map_ = window().path.map
    found = map_.map.plates[id]
    window().path.area.ensureVisible(round(found.x + found.width / 2), round(found.middle), 40, 40)
    at = map_.mapToGlobal(QPoint(round(found.x + found.width / 2), round(found.middle)))
    return [at.x(), at.y()]


def control(name: str) -> list[int]:
    """The middle of the value of a control in the table below the map."""
    table = window().path.controls.table
    row = next(r for r in range(table.rowCount()) if table.item(r, 0).text() == name)
    table.scrollToItem(table.item(row, 1))
    viewport = table.viewport()
    assert viewport is not None
    return middle(viewport, table.visualItemRect(table.item(row, 1)))


def fix() -> list[int]:
    """The middle of the button that cures the open card."""
    open_ = next(v for v in window().findings.views if v.is_open)
    assert open_.fix_button.isEnabled(), "no fix is offered"
    return middle(open_.fix_button)


def on_file(path: str) -> bool:
    """Whether a file holds the show that is open."""
    return read_show(Path(path)) == window().document.show


def focus() -> str:
    """The name of what has the keyboard."""
    widget = QApplication.focusWidget()
    return "" if widget is None else widget.accessibleName() or type(widget).__name__


def nothing_found() -> str:
    """What stands in the panel in place of cards."""
    shown = window().findings.area.widget()
    assert shown is not None
    return " ".join(x.text() for x in shown.findChildren(QLabel) if x.isVisible())


def findings() -> list[str]:
    return [c.sentence for c in window().findings.cards()]


def answer(line: str) -> object:
    names = {
        **globals(),
        "app": QApplication.instance(),
        "window": next((w for w in QApplication.topLevelWidgets() if isinstance(w, Window)), None),
    }
    try:
        return {"value": eval(line, names)}
    except Exception as error:
        return {"error": f"{type(error).__name__}: {error}", "where": traceback.format_exc()}


def hear() -> None:
    """Answer every whole line that has come in.

    `idle` is answered once what has come in was dealt with: by timers, which run in the loop of a dialog too. Events
    dealt with in here might open one, and not come back until it is closed.
    """
    global waiting
    got = os.read(0, 65536)
    if not got:
        listening.setEnabled(False)
        return
    *lines, waiting = (waiting + got).split(b"\n")
    for line in lines:
        if line == b"idle":
            QTimer.singleShot(0, lambda: QTimer.singleShot(0, lambda: told({"value": True})))
        else:
            told(answer(line.decode()))


def told(value: object) -> None:
    print(json.dumps(value, default=str), flush=True)


def prepared() -> QApplication:
    global listening
    made = application()
    faulthandler.register(signal.SIGUSR1)
    listening = QSocketNotifier(0, QSocketNotifier.Type.Read)
    listening.activated.connect(hear)
    QTimer.singleShot(0, lambda: told({"value": "ready"}))
    return made


waiting = b""
listening: QSocketNotifier

if __name__ == "__main__":
    run.application = prepared
    sys.exit(main(sys.argv[1:]))
