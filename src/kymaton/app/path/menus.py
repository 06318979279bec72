"""The menus of the path map: what can be done with a plate, and which ports of two plates fit each other."""

from typing import TYPE_CHECKING

from PyQt6.QtWidgets import QMenu

from kymaton.app.path.layout import Plate
from kymaton.app.widgets.basic import passing_menu
from kymaton.core.edits.cables import taken_by
from kymaton.core.model import Show
from kymaton.language.patch import joins

if TYPE_CHECKING:
    from kymaton.app.path.map import PathMap

MOST_OFFERS = 24


def connect_menu(map_: "PathMap", source: Plate, target: Plate) -> QMenu:
    """The ports of two plates that fit each other."""
    menu = passing_menu(map_)
    lines = offers(map_.document.show, source.id, target.id)
    for line in lines[:MOST_OFFERS]:
        entry = menu.addAction(line)
        assert entry is not None
        entry.triggered.connect(lambda _, line=line: map_.do(line))
    if not lines:
        nothing = menu.addAction(f"Nothing of {source.title} fits {target.title}")
        assert nothing is not None
        nothing.setEnabled(False)
    return menu


def plate_menu(map_: "PathMap", plate: Plate) -> QMenu:
    """What can be done with a device."""
    menu = passing_menu(map_)
    kind, _, _ = plate.id.partition("/")
    name = plate.title
    if plate.id in map_.plate_of.values():
        words = []
    elif plate.id in map_.marked and len(map_.marked) > 1:
        together = map_.names(plate)
        words = [
            ("Put them in a place", f"put {together} in ", False),
            ("Remove them", f"remove {together}", True),
        ]
    elif kind in ("sound", "listener"):
        words = [("Disconnect", f"disconnect {name}", True)]
    else:
        words = [
            ("Rename", f"rename {name} to ", False),
            ("Duplicate", f"duplicate {name}", True),
            ("Replace by another kind", f"replace {name} by ", False),
            ("Set a control", f"set {name.lower()} ", False),
            ("Put it in a place", f"put {name} in ", False),
            ("Disconnect all", f"disconnect {name}", True),
            ("Remove", f"remove {name}", True),
        ]
    for text, line, at_once in words:
        entry = menu.addAction(text)
        assert entry is not None
        entry.triggered.connect(
            lambda _, line=line, at_once=at_once: map_.do(line) if at_once else map_.wanted.emit(line)
        )
    if plate.id in {d.id for d in map_.document.show.devices} and len(map_.marked) < 2:
        keep = menu.addAction("Save as a kind")
        assert keep is not None
        keep.triggered.connect(lambda: map_.kind_wanted.emit(plate.id))
    return menu


def offers(show: Show, source: str, target: str) -> list[str]:
    """Patch lines from one plate to another for the ports that fit, free ones first."""
    known = {d.id for d in show.devices}
    if source.startswith("listener/") or target.startswith("sound/"):
        return []
    if any("/" not in end and end not in known for end in (source, target)):
        return []  # a folded place
    outs = (
        [source] if "/" in source else [f"{source}/{p.id}" for p in show.device(source).ports if p.direction == "out"]
    )
    ins = [target] if "/" in target else [f"{target}/{p.id}" for p in show.device(target).ports if p.direction == "in"]
    found = []
    for a in sorted(outs, key=lambda p: bool(taken_by(show, p))):
        for b in ins:
            if joins(show, a, b) and (b.startswith("listener/") or not taken_by(show, b)):
                found.append(f"{show.port_label(a)} > {show.port_label(b)}")
    return found
