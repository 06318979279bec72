"""The path map as a widget: what is placed and inked, and what mouse and keys do on it."""

from msgspec.structs import replace
from PyQt6.QtCore import QPointF, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QColor, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QShowEvent
from PyQt6.QtWidgets import QMenu, QSizePolicy, QToolTip, QWidget

from kymaton.app.document import Document
from kymaton.app.path.drawing import Ink, draw_map
from kymaton.app.path.layout import STAGE_NAMES, Map, Plate, Wire, lay_out, owner
from kymaton.app.path.menus import connect_menu, plate_menu
from kymaton.app.path.scope import Scope, scoped
from kymaton.app.path.telling import cable_told, plate_told
from kymaton.app.theme.theme import THEME, tokens
from kymaton.app.widgets.route_strip import routes_of
from kymaton.core.model import ShowError
from kymaton.core.signal.trace import open_edges_between
from kymaton.language.commands import read_command

MARGIN = 8


class PathMap(QWidget):
    """Map of the rig. A click on a sound or listener chooses it; arrow keys go from plate to plate.

    Dragging from plate to plate connects them: a menu offers the ports that fit, free ones first. Delete removes the
    device that has the dashed frame, F2 renames it; Ctrl and a click choose several; the right button has the rest.
    """

    wanted = pyqtSignal(str)  # words for the patch line
    device_chosen = pyqtSignal(object)  # id of a device, or None
    scope_changed = pyqtSignal()
    kind_wanted = pyqtSignal(str)  # id of a device to be saved as a kind

    def __init__(self, document: Document) -> None:
        super().__init__()
        self.document = document
        self.map = Map({}, [], [(0.0, 0.0)] * len(STAGE_NAMES), 0.0, 0.0)
        self.scope = Scope()
        self.plate_of: dict[str, str] = {}  # device that is folded away → plate that stands for it
        self.marked: set[str] = set()  # devices chosen together with Ctrl
        self.inked: dict[str, int] = {}  # cable → number of the route that inks it
        self.uses: dict[str, str] = {}  # plate → what is used of it
        self.at: str | None = None
        self.pressed: Plate | None = None
        self.pointer: QPointF | None = None
        self.offered: QMenu | None = None
        self._shape: tuple[object, ...] = ()
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Path map: devices in six stages, from who makes a sound to who hears it")
        document.report_changed.connect(self.refresh)
        document.selection_changed.connect(self.refresh)
        THEME.changed.connect(self.update)

    def refresh(self) -> None:
        """Place again when the rig changed; ink again in any case. Nothing is done while the map is out of sight."""
        if not self.isVisible():
            return
        show = self.document.show
        parent = self.parentWidget()
        room = parent.size() if parent is not None else QSize(760, 460)
        shape = (
            self.scope,
            [(d.id, d.name, d.detail, d.stage, d.place) for d in show.devices],
            show.cables,
            show.sounds,
            show.listeners,
            room.width(),
            room.height(),
        )
        if shape != self._shape:
            self._shape = shape
            drawn = scoped(show, self.scope)
            self.plate_of = drawn.plate_of
            self.marked &= {d.id for d in show.devices}
            self.map = lay_out(drawn.show, max(560, room.width() - MARGIN), max(240, room.height() - 2))
            self.setFixedSize(round(self.map.width) + MARGIN, round(self.map.height))
        self._ink()
        self.update()

    def showEvent(self, event: QShowEvent | None) -> None:
        super().showEvent(event)
        self.refresh()

    def _ink(self) -> None:
        document, report = self.document, self.document.cue_report
        graph, state = report.view.graph, report.view.state
        self.inked, self.uses = {}, {}
        if document.listener_id and document.sound_id:
            for index, route in enumerate(routes_of(report, document.listener_id, document.sound_id)):
                for edge in route.path.edges:
                    cable = graph.edges[edge].cable
                    if cable is not None:
                        self.inked.setdefault(cable, index)
                for stop in route.stops:
                    if stop.detail and "/" not in stop.owner and stop.owner not in self.uses:
                        self.uses[stop.owner] = stop.detail
        elif document.pointed:
            ports = set(document.pointed)
            for lead in document.show.cables:
                if {lead.source, lead.target} <= ports:
                    self.inked[lead.id] = 1
        elif document.listener_id or document.sound_id:
            for edge in open_edges_between(graph, state, document.sound_id, document.listener_id):
                cable = graph.edges[edge].cable
                if cable is not None:
                    self.inked.setdefault(cable, 0)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        assert event is not None
        painter = QPainter(self)
        self.draw(painter, QRectF(event.rect()).adjusted(-8, -8, 8, 8))
        if self.pointer is not None and self.pressed is not None:
            painter.setPen(QPen(QColor(tokens().wave), 2, Qt.PenStyle.DashLine))
            painter.drawLine(QPointF(self.pressed.x + self.pressed.width, self.pressed.middle), self.pointer)

    def ink(self) -> Ink:
        """What stands out now."""
        document, show = self.document, self.document.show
        lit = {owner(end) for c in self.inked for end in (show.cable(c).source, show.cable(c).target)}
        lit |= {owner(p) if "/" in p else p for p in document.pointed}
        lit |= {self.plate_of[d] for d in lit if d in self.plate_of}
        faults = (f for f in document.cue_report.findings if f.severity == "fault")
        return Ink(
            chosen=bool(document.listener_id or document.sound_id or document.pointed),
            cables=self.inked,
            uses=self.uses,
            lit=lit,
            selected=frozenset((f"sound/{document.sound_id}", f"listener/{document.listener_id}")),
            framed=frozenset(self.marked | ({self.at} if self.at is not None and self.hasFocus() else set())),
            faulty=frozenset(f"listener/{f.listener}" for f in faults),
        )

    def draw(self, painter: QPainter, part: QRectF | None = None) -> None:
        """Draw the map, or what of it can be seen in this part."""
        draw_map(painter, self.map, self.ink(), part)

    # choosing

    def plate_at(self, point: QPointF) -> Plate | None:
        for plate in self.map.plates.values():
            if QRectF(plate.x, plate.y, plate.width, plate.height).contains(point):
                return plate
        return None

    def wire_at(self, point: QPointF) -> Wire | None:
        for wire in self.map.wires:
            for (ax, ay), (bx, by) in zip(wire.points, wire.points[1:], strict=False):
                box = QRectF(QPointF(min(ax, bx), min(ay, by)), QPointF(max(ax, bx), max(ay, by)))
                if box.adjusted(-4, -4, 4, 4).contains(point):
                    return wire
        return None

    def choose(self, plate: Plate | None) -> None:
        """Choose or let go of a sound or a listener; the ground lets go of both. A folded place is opened."""
        document = self.document
        if plate is not None and plate.id in self.plate_of.values():
            opened = next(p for p in self.scope.folded if plate.id.startswith(f"fold-{p}-"))
            self.show_scope(replace(self.scope, folded=self.scope.folded - {opened}))
            return
        self.device_chosen.emit(None if plate is None or "/" in plate.id else plate.id)
        if plate is None:
            document.select(None, None)
            return
        self.at = plate.id
        kind, _, id = plate.id.partition("/")
        if kind == "sound":
            document.select(document.listener_id, None if document.sound_id == id else id)
        elif kind == "listener":
            document.select(None if document.listener_id == id else id, document.sound_id)
        self.update()

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        self.setFocus()
        self.pressed = self.plate_at(event.position())
        self.pointer = None
        if event.button() == Qt.MouseButton.LeftButton:
            together = event.modifiers() & Qt.KeyboardModifier.ControlModifier
            if together and self.pressed is not None:
                self.mark(self.pressed.id)
                self.pressed = None
                return
            self.marked.clear()
        if event.button() == Qt.MouseButton.RightButton and self.pressed is not None:
            self.at = self.pressed.id
            plate_menu(self, self.pressed).popup(event.globalPosition().toPoint())
            self.pressed = None

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        over, pressed, self.pointer = self.plate_at(event.position()), self.pressed, None
        self.pressed = None
        if event.button() != Qt.MouseButton.LeftButton or (pressed is None and self.marked):
            return
        if pressed is not None and over is not None and over is not pressed:
            self.offered = connect_menu(self, pressed, over)
            self.offered.popup(event.globalPosition().toPoint())
        else:
            self.choose(over)
        self.update()

    def mark(self, id: str) -> None:
        """Choose a device together with others, or let go of it."""
        if id in {d.id for d in self.document.show.devices}:
            self.marked ^= {id}
            self.at = id
            self.update()

    def show_scope(self, scope: Scope) -> None:
        """Show this part of the rig."""
        self.scope = scope
        self.refresh()
        self.scope_changed.emit()

    def names(self, plate: Plate) -> str:
        """The device, or all that are marked when it is one of them."""
        show = self.document.show
        ids = [d.id for d in show.devices if d.id in self.marked] if plate.id in self.marked else [plate.id]
        return ", ".join(show.device(i).name for i in ids)

    def do(self, line: str) -> None:
        """Do what a patch line says; what cannot be done is left in the patch line, which says why."""
        try:
            patch = read_command(self.document.show, line, self.document.cue_id)
        except ShowError:
            self.wanted.emit(line)
            return
        self.document.edit(patch.show, patch.text)

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        if event.buttons() & Qt.MouseButton.LeftButton and self.pressed is not None:
            self.pointer = event.position()
            self.update()
            return
        plate, wire = self.plate_at(event.position()), self.wire_at(event.position())
        if plate is not None:
            text = plate_told(self.document.show, plate, self.plate_of)
        elif wire is not None:
            text = "\n".join(cable_told(self.document.show, c) for c in wire.cables)
        else:
            QToolTip.hideText()
            return
        QToolTip.showText(event.globalPosition().toPoint(), text, self)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        assert event is not None
        key = event.key()
        plates = self.map.plates
        if key in (Qt.Key.Key_Left, Qt.Key.Key_Right, Qt.Key.Key_Up, Qt.Key.Key_Down) and plates:
            here = plates.get(self.at or "") or next(iter(plates.values()))
            self.at = here.id if self.at is None else self._beside(here, Qt.Key(key))
            self.setAccessibleDescription(plate_told(self.document.show, plates[self.at], self.plate_of))
            self.update()
        elif key in (Qt.Key.Key_Return, Qt.Key.Key_Space) and self.at in plates:
            self.choose(plates[self.at])
        elif key == Qt.Key.Key_Escape:
            self.choose(None)
        elif key == Qt.Key.Key_Delete and self.at in plates and "/" not in (self.at or ""):
            self.do(f"remove {self.names(plates[self.at])}")
        elif key == Qt.Key.Key_F2 and self.at in plates and "/" not in (self.at or ""):
            self.wanted.emit(f"rename {plates[self.at].title} to ")
        else:
            super().keyPressEvent(event)

    def _beside(self, here: Plate, key: Qt.Key) -> str:
        across = key in (Qt.Key.Key_Left, Qt.Key.Key_Right)
        forward = key in (Qt.Key.Key_Right, Qt.Key.Key_Down)

        def ahead(p: Plate) -> float:
            step = (p.column - here.column) if across else (p.y - here.y if p.column == here.column else 0.0)
            return step if forward else -step

        options = [p for p in self.map.plates.values() if ahead(p) > 0]
        near = min(options, key=lambda p: (ahead(p), abs(p.middle - here.middle)), default=here)
        return near.id
