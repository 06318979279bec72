"""The step Path: the map, and below it the routes between the chosen sound and listener."""

from functools import partial
from pathlib import Path

from msgspec.structs import replace
from PyQt6.QtCore import Qt
from PyQt6.QtGui import QPageLayout, QPainter, QResizeEvent
from PyQt6.QtPrintSupport import QPrinter
from PyQt6.QtWidgets import QComboBox, QFrame, QHBoxLayout, QMenu, QScrollArea, QVBoxLayout, QWidget

from kymaton.app.document import Document
from kymaton.app.path.controls import ControlTable
from kymaton.app.path.facts import FactTable
from kymaton.app.path.layout import STAGE_NAMES, STAGES
from kymaton.app.path.map import PathMap
from kymaton.app.path.patchline import PatchLine
from kymaton.app.path.ports import PortTable
from kymaton.app.path.scope import Scope
from kymaton.app.theme.theme import THEME
from kymaton.app.widgets.basic import StepView, button, label, passing_menu
from kymaton.app.widgets.route_strip import RouteStrip, strip_title
from kymaton.catalogue.registry import GROUPS, OTHERS, all_kinds, group_of, use_own
from kymaton.core.errors import FileError
from kymaton.language.commands import read_command
from kymaton.store.atomic import write_whole
from kymaton.store.kinds import read_own_kinds, save_kind


class _MapArea(QScrollArea):
    def __init__(self, map_: PathMap) -> None:
        super().__init__()
        self.map = map_
        self.setFrameShape(QFrame.Shape.NoFrame)
        self.setWidget(map_)

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        self.map.refresh()


class PathView(StepView):
    """How sound gets from who makes it to who hears it, in the current cue."""

    def __init__(self, document: Document) -> None:
        super().__init__()
        self.document = document
        self.device: str | None = None
        self.below = "controls"
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(0)
        upper = QWidget()
        inside = QVBoxLayout(upper)
        inside.setContentsMargins(20, 12, 12, 4)
        inside.setSpacing(8)
        head = QHBoxLayout()
        head.addWidget(label("Sound path", "title"))
        head.addSpacing(8)
        self.sounds, self.listeners = QComboBox(), QComboBox()
        self.sounds.setAccessibleName("Sound whose routes are inked")
        self.listeners.setAccessibleName("Listener whose routes are inked")
        for word, box in (("from", self.sounds), ("to", self.listeners)):
            box.setMinimumWidth(132)
            head.addWidget(label(word, "soft"))
            head.addWidget(box)
            box.activated.connect(self._chosen)
        self.cue = label("", "small")
        head.addWidget(self.cue, 1)
        self.scope = button("View", self._scope_menu, "quiet", "One place or stage alone, or places folded")
        head.addWidget(self.scope)
        self.clear = button("Show all", lambda: document.select(None, None), "quiet", "Ink nothing (Esc)")
        head.addWidget(self.clear)
        inside.addLayout(head)
        self.patch = PatchLine(document)
        patching = QHBoxLayout()
        patching.addWidget(self.patch, 1)
        self.add_button = button("Add device", self._add_menu, "", "Choose a kind from the catalogue")
        patching.addWidget(self.add_button)
        inside.addLayout(patching)
        self.map = PathMap(document)
        self.map.wanted.connect(self.patch.begin)
        self.area = _MapArea(self.map)
        inside.addWidget(self.area, 1)
        layout.addWidget(upper, 1)
        self.details = QFrame()
        self.details.setObjectName("strip")
        below = QVBoxLayout(self.details)
        below.setContentsMargins(20, 8, 16, 8)
        below.setSpacing(4)
        self.title = label("", "heading")
        heading = QHBoxLayout()
        heading.addWidget(self.title, 1)
        self.tabs = {
            name: button(name.capitalize(), partial(self._show_below, name), "scope", tip)
            for name, tip in (
                ("controls", "What can be set on the device"),
                ("ports", "Its sockets, and what is in them"),
                ("facts", "Its figures and where they come from, its place, whether it is owned"),
            )
        }
        for tab in self.tabs.values():
            tab.setCheckable(True)
            heading.addWidget(tab)
        below.addLayout(heading)
        self.strip = RouteStrip(document)
        self.strip_area = QScrollArea()
        self.strip_area.setFrameShape(QFrame.Shape.NoFrame)
        self.strip_area.setWidgetResizable(True)
        self.strip_area.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.strip_area.setWidget(self.strip)
        below.addWidget(self.strip_area)
        self.controls, self.ports, self.facts = ControlTable(document), PortTable(document), FactTable(document)
        self.ports.wanted.connect(self.patch.begin)
        for table in (self.controls, self.ports, self.facts):
            table.setFixedHeight(168)
            table.hide()
            below.addWidget(table)
        self.map.device_chosen.connect(self.show_device)
        self.map.scope_changed.connect(self.refresh)
        layout.addWidget(self.details)
        document.report_changed.connect(self.refresh)
        document.selection_changed.connect(self.refresh)
        own = read_own_kinds()
        use_own(own.kinds)
        for sentence in own.refused:
            document.message.emit(sentence)
        self.map.kind_wanted.connect(self.save_kind)
        self.refresh()

    def focus_first(self) -> None:
        """The keyboard where work begins: the patch line."""
        self.patch.line.setFocus()

    def save_kind(self, device_id: str) -> None:
        """Save a device as a kind of one's own, by its name."""
        device = self.document.show.device(device_id)
        try:
            path = save_kind(device, device.name)
        except FileError as error:
            self.document.message.emit(str(error))
            return
        use_own(read_own_kinds().kinds)
        self.document.message.emit(f"Saved as a kind: add {device.name.lower()}. The file can be passed on: {path}.")

    def _scope_menu(self) -> None:
        self.scope_menu().popup(self.scope.mapToGlobal(self.scope.rect().bottomLeft()))

    def scope_menu(self) -> QMenu:
        """What the map shows: everything, a place, a stage; and which places are folded."""
        menu, scope, show = passing_menu(self), self.map.scope, self.document.show

        def entry(text: str, checked: bool, wanted: Scope) -> None:
            action = menu.addAction(text)
            assert action is not None
            action.setCheckable(True)
            action.setChecked(checked)
            action.triggered.connect(lambda: self.map.show_scope(wanted))

        entry("Everything", scope.whole, Scope())
        menu.addSeparator()
        for place in show.places:
            entry(f"Only {place.name}", scope.place == place.id, replace(scope, place=place.id, stage=None))
        menu.addSeparator()
        for stage, name in zip(STAGES, STAGE_NAMES, strict=True):
            entry(f"Only {name.lower()}", scope.stage == stage, replace(scope, stage=stage, place=None))
        menu.addSeparator()
        for place in show.places:
            folded = scope.folded ^ {place.id}
            entry(f"Fold {place.name}", place.id in scope.folded, replace(scope, folded=folded))
        return menu

    def print_map(self, printer: QPrinter) -> None:
        """The map on one sheet, lying, as large as it fits, in the colours of the day."""
        self.map.refresh()
        printer.setPageOrientation(QPageLayout.Orientation.Landscape)
        painter = QPainter(printer)
        page = printer.pageRect(QPrinter.Unit.DevicePixel)
        factor = min(page.width() / self.map.width(), page.height() / self.map.height())
        painter.scale(factor, factor)
        with THEME.as_on_paper():
            self.map.draw(painter)
        painter.end()

    def export_map(self, path: Path) -> None:
        """The whole map as SVG. Raises FileError."""
        from PyQt6.QtCore import QBuffer, QIODevice
        from PyQt6.QtSvg import QSvgGenerator

        self.map.refresh()
        buffer = QBuffer()
        buffer.open(QIODevice.OpenModeFlag.WriteOnly)
        drawing = QSvgGenerator()
        drawing.setOutputDevice(buffer)
        drawing.setSize(self.map.size())
        drawing.setViewBox(self.map.rect())
        drawing.setTitle(f"{self.document.show.title}: sound path")
        painter = QPainter(drawing)
        self.map.draw(painter)
        painter.end()
        write_whole(path, buffer.data().data())

    def refresh(self) -> None:
        document, show = self.document, self.document.show
        for box, items, chosen, nothing in (
            (self.sounds, show.sounds, document.sound_id, "every sound"),
            (self.listeners, show.listeners, document.listener_id, "everyone"),
        ):
            box.blockSignals(True)
            box.clear()
            box.addItem(nothing, None)
            for item in items:
                box.addItem(item.name, item.id)
            box.setCurrentIndex(max(0, box.findData(chosen)))
            box.blockSignals(False)
        cue = document.cue_report.view.cue
        self.cue.setText(f"in {cue.name}" if cue else "")
        places = {p.id: p.name for p in show.places}
        scope = self.map.scope
        if scope.place is not None and scope.place not in places:
            self.map.show_scope(replace(scope, place=None))
            return
        stage = STAGE_NAMES[STAGES.index(scope.stage)] if scope.stage else ""
        words = [places.get(scope.place or "", ""), stage, "folded" if scope.folded else ""]
        self.scope.setText(": ".join(["View", *filter(None, [", ".join(filter(None, words))])]))
        self.clear.setVisible(bool(document.listener_id or document.sound_id or document.pointed))
        devices = [d.id for d in show.devices]
        device = self.device if self.device in devices else None
        both = bool(document.listener_id and document.sound_id) and device is None
        tables = {"controls": self.controls, "ports": self.ports, "facts": self.facts}
        for name, table in tables.items():
            table.setVisible(device is not None and self.below == name)
            self.tabs[name].setVisible(device is not None)
            self.tabs[name].setChecked(self.below == name)
        self.strip_area.setVisible(device is None)
        self.details.setVisible(bool(show.sounds) or device is not None)
        self.title.setVisible(both or device is not None)
        self.title.setText(strip_title(document) if both else show.device(device).name if device else "")
        rows = min(2, len(self.strip.routes))
        self.strip_area.setFixedHeight(self.strip.route_height * rows + 4 if rows else 30)

    def show_plate(self, id: str) -> None:
        """A plate in sight, with the keyboard on it."""
        self.map.at = id
        self.map.setFocus()
        plate = self.map.map.plates[id]
        self.area.ensureVisible(round(plate.x + plate.width / 2), round(plate.middle), 120, 120)
        self.map.update()

    def show_device(self, id: str | None) -> None:
        """The controls of a device below the map, in place of the routes."""
        self.device = id
        for table in (self.controls, self.ports, self.facts):
            table.show_device(id)
        self.refresh()

    def _show_below(self, name: str) -> None:
        self.below = name
        self.refresh()

    def _add_menu(self) -> None:
        menu = passing_menu(self)
        groups: dict[str, QMenu] = {}
        for title in (*GROUPS, OTHERS):
            made = menu.addMenu(title)
            assert made is not None
            groups[title] = made
        for kind in all_kinds():
            entry = groups[group_of(kind)].addAction(f"{kind.name}: {kind.about}")
            assert entry is not None
            entry.triggered.connect(lambda _, words=kind.words: self._do(f"add {words}"))
        for group in groups.values():
            group.menuAction().setVisible(not group.isEmpty())  # type: ignore[union-attr]
        menu.popup(self.add_button.mapToGlobal(self.add_button.rect().bottomLeft()))

    def _do(self, line: str) -> None:
        patch = read_command(self.document.show, line, self.document.cue_id)
        self.document.edit(patch.show, patch.text)

    def _chosen(self) -> None:
        self.document.select(self.listeners.currentData(), self.sounds.currentData())
