"""The path map: plates and wires, drawn from a layout; the chosen routes are inked, all else fades."""

from msgspec.structs import replace
from PyQt6.QtCore import QPointF, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import (
    QColor,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPainterPath,
    QPaintEvent,
    QPen,
    QShowEvent,
)
from PyQt6.QtWidgets import QMenu, QSizePolicy, QToolTip, QWidget

from kymaton.app.document import Document
from kymaton.app.path.layout import STAGE_NAMES, Map, Plate, Wire, lay_out, owner
from kymaton.app.path.plate_text import plate_lines
from kymaton.app.path.scope import Scope, scoped
from kymaton.app.path.strip import routes_of
from kymaton.app.theme.theme import THEME, colour, tokens, words
from kymaton.core.edits.rig import taken_by
from kymaton.core.model import Show, ShowError
from kymaton.core.signal.trace import open_edges_between
from kymaton.core.words import joined, number
from kymaton.language.commands import read_command
from kymaton.language.patch import joins

CORNER, MARGIN, MOST_OFFERS = 6.0, 8, 24


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

    @property
    def chosen(self) -> bool:
        return bool(self.document.listener_id or self.document.sound_id or self.document.pointed)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        assert event is not None
        self.draw(QPainter(self), QRectF(event.rect()).adjusted(-8, -8, 8, 8))

    def draw(self, painter: QPainter, part: QRectF | None = None) -> None:
        """Draw the map, or what of it can be seen in this part."""
        t = tokens()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setFont(words(12, 600))
        for (x, width), name in zip(self.map.columns, STAGE_NAMES, strict=True):
            painter.setPen(QColor(t.soft))
            painter.drawText(QRectF(x, 2, width, 18), Qt.AlignmentFlag.AlignVCenter, name)
            painter.setPen(QPen(QColor(t.line), 1))
            painter.drawLine(QPointF(x, 22), QPointF(x + width, 22))
        if not self.map.plates:
            painter.setPen(QColor(t.soft))
            painter.setFont(words(13))
            painter.drawText(
                QPointF(0, 52), "Nothing is here yet. Type a device into the patch line: add desk 4 in 1 aux"
            )
        wires = [w for w in self.map.wires if part is None or part.intersects(_around(w))]
        inked = [w for w in wires if any(c in self.inked for c in w.cables)]
        lit_wires = {id(w) for w in inked}
        for wire in wires:
            if id(wire) not in lit_wires:
                ink = colour(t.faint, 0.45 if self.chosen else 0.9)
                self._wire(painter, wire, ink, 1.0)
        for wire in sorted(inked, key=lambda w: min(self.inked[c] for c in w.cables if c in self.inked)):
            routes = {self.inked[c] for c in wire.cables if c in self.inked}
            self._wire(painter, wire, QColor(t.wave if 0 in routes else t.fault), 2.2)
        show = self.document.show
        lit = {owner(end) for c in self.inked for end in (show.cable(c).source, show.cable(c).target)}
        lit |= {owner(p) if "/" in p else p for p in self.document.pointed}
        lit |= {self.plate_of[d] for d in lit if d in self.plate_of}
        for plate in self.map.plates.values():
            if part is None or part.intersects(QRectF(plate.x, plate.y, plate.width, plate.height)):
                self._plate(painter, plate, plate.id in lit or not self.chosen)

        if self.pointer is not None and self.pressed is not None:
            painter.setPen(QPen(QColor(t.wave), 2, Qt.PenStyle.DashLine))
            painter.drawLine(QPointF(self.pressed.x + self.pressed.width, self.pressed.middle), self.pointer)

    def _wire(self, painter: QPainter, wire: Wire, ink: QColor, width: float) -> None:
        path = rounded(wire.points)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        if wire.picture:  # a double line: picture, with sound inside
            pen = QPen(ink, width + 2.4)
            painter.setPen(pen)
            painter.drawPath(path)
            painter.setPen(QPen(QColor(tokens().ground), width + 0.4))
            painter.drawPath(path)
        else:
            painter.setPen(QPen(ink, width + (0.8 if len(wire.cables) > 1 else 0.0)))
            painter.drawPath(path)
        if width > 2:
            painter.fillPath(_arrow(wire.points[-2], wire.points[-1]), ink)

    def _plate(self, painter: QPainter, plate: Plate, lit: bool) -> None:
        t = tokens()
        box = QRectF(plate.x, plate.y, plate.width, plate.height)
        kind, _, id = plate.id.partition("/")
        selected = (kind == "sound" and id == self.document.sound_id) or (
            kind == "listener" and id == self.document.listener_id
        )
        painter.setPen(QPen(QColor(t.wave if selected else t.ink if lit and self.chosen else t.line), 1.4))
        painter.setBrush(QColor(t.wash if selected else t.raised if lit else t.panel))
        painter.drawRoundedRect(box, 5, 5)
        if plate.id in self.marked or (plate.id == self.at and self.hasFocus()):
            painter.setPen(QPen(QColor(t.wave), 1, Qt.PenStyle.DashLine))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRoundedRect(box.adjusted(-3, -3, 3, 3), 7, 7)
        inner = box.adjusted(8, 4, -5, -4)
        top = inner.top() - 1 if plate.height <= 40 else inner.top() + 2
        uses = self.uses.get(plate.id, "") if lit else ""
        for row, (text, font, soft) in enumerate(plate_lines(plate, uses, inner.width())):
            painter.setFont(font)
            painter.setPen(QColor(t.soft if soft or not lit else t.ink))
            place = QRectF(inner.left(), top + 16 * row, inner.width(), 16)
            painter.drawText(place, Qt.AlignmentFlag.AlignVCenter, text)
        if kind == "listener":
            faults = sum(f.severity == "fault" and f.listener == id for f in self.document.cue_report.findings)
            if faults:
                painter.setPen(Qt.PenStyle.NoPen)
                painter.setBrush(QColor(t.fault))
                painter.drawEllipse(QPointF(box.right() - 1, box.top() + 1), 5, 5)

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
            self.menu_for(self.pressed).popup(event.globalPosition().toPoint())
            self.pressed = None

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        over, pressed, self.pointer = self.plate_at(event.position()), self.pressed, None
        self.pressed = None
        if event.button() != Qt.MouseButton.LeftButton or (pressed is None and self.marked):
            return
        if pressed is not None and over is not None and over is not pressed:
            self.connect_menu(pressed, over).popup(event.globalPosition().toPoint())
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

    def _names(self, plate: Plate) -> str:
        """The device, or all that are marked when it is one of them."""
        show = self.document.show
        ids = [d.id for d in show.devices if d.id in self.marked] if plate.id in self.marked else [plate.id]
        return ", ".join(show.device(i).name for i in ids)

    def connect_menu(self, source: Plate, target: Plate) -> QMenu:
        """The ports of two plates that fit each other."""
        menu = QMenu(self)
        lines = offers(self.document.show, source.id, target.id)
        for line in lines[:MOST_OFFERS]:
            entry = menu.addAction(line)
            assert entry is not None
            entry.triggered.connect(lambda _, line=line: self.do(line))
        if not lines:
            nothing = menu.addAction(f"Nothing of {source.title} fits {target.title}")
            assert nothing is not None
            nothing.setEnabled(False)
        self.offered = menu
        return menu

    def menu_for(self, plate: Plate) -> QMenu:
        """What can be done with a device."""
        menu = QMenu(self)
        kind, _, _ = plate.id.partition("/")
        name = plate.title
        if plate.id in self.plate_of.values():
            words = []
        elif plate.id in self.marked and len(self.marked) > 1:
            together = self._names(plate)
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
                lambda _, line=line, at_once=at_once: self.do(line) if at_once else self.wanted.emit(line)
            )
        if plate.id in {d.id for d in self.document.show.devices} and len(self.marked) < 2:
            keep = menu.addAction("Save as a kind")
            assert keep is not None
            keep.triggered.connect(lambda: self.kind_wanted.emit(plate.id))
        return menu

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
            text = self.told(plate)
        elif wire is not None:
            text = "\n".join(self.cable_told(c) for c in wire.cables)
        else:
            QToolTip.hideText()
            return
        QToolTip.showText(event.globalPosition().toPoint(), text, self)

    def cable_told(self, cable_id: str) -> str:
        show = self.document.show
        cable = show.cable(cable_id)
        length = f", {number(cable.length_m, 2).rstrip('0').rstrip('.')} m" if cable.length_m else ""
        kind = {"air": "through air", "held": "direct"}.get(cable.kind, cable.kind)
        return f"{show.port_label(cable.source)} to {show.port_label(cable.target)}: {kind}{length}"

    def told(self, plate: Plate) -> str:
        show = self.document.show
        kind = plate.id.partition("/")[0]
        if kind in ("sound", "listener"):
            return f"{plate.title}: {plate.detail}"
        if plate.id in self.plate_of.values():
            inside = [show.device(d).name for d, p in self.plate_of.items() if p == plate.id]
            return f"{plate.title}: {joined(inside)}. A click opens it."
        device = show.device(plate.id)
        delays = [r.delay_ms for r in device.routes if r.delay_ms.value]
        lines = [f"{device.name}: {device.detail}"]
        for figure in {(d.value, d.plus_minus, d.source, d.date): d for d in delays}.values():
            spread = f" ± {number(figure.plus_minus, 1)}" if figure.plus_minus else ""
            lines.append(f"delay {number(figure.value, 1)}{spread} ms, {figure.source} {figure.date}".strip())
        return "\n".join(lines)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        assert event is not None
        key = event.key()
        plates = self.map.plates
        if key in (Qt.Key.Key_Left, Qt.Key.Key_Right, Qt.Key.Key_Up, Qt.Key.Key_Down) and plates:
            here = plates.get(self.at or "") or next(iter(plates.values()))
            self.at = here.id if self.at is None else self._beside(here, Qt.Key(key))
            self.setAccessibleDescription(self.told(plates[self.at]))
            self.update()
        elif key in (Qt.Key.Key_Return, Qt.Key.Key_Space) and self.at in plates:
            self.choose(plates[self.at])
        elif key == Qt.Key.Key_Escape:
            self.choose(None)
        elif key == Qt.Key.Key_Delete and self.at in plates and "/" not in (self.at or ""):
            self.do(f"remove {self._names(plates[self.at])}")
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


def rounded(points: list[tuple[float, float]]) -> QPainterPath:
    """A line with right angles, its corners rounded."""
    path = QPainterPath(QPointF(*points[0]))
    for before, corner, after in zip(points, points[1:], points[2:], strict=False):
        a = _towards(corner, before)
        b = _towards(corner, after)
        path.lineTo(a)
        path.quadTo(QPointF(*corner), b)
    path.lineTo(QPointF(*points[-1]))
    return path


def _around(wire: Wire) -> QRectF:
    """The box that a wire needs."""
    xs, ys = [x for x, _ in wire.points], [y for _, y in wire.points]
    return QRectF(QPointF(min(xs), min(ys)), QPointF(max(xs), max(ys))).adjusted(-5, -5, 5, 5)


def _arrow(before: tuple[float, float], tip: tuple[float, float]) -> QPainterPath:
    dx, dy = tip[0] - before[0], tip[1] - before[1]
    length = abs(dx) + abs(dy) or 1.0
    ux, uy = dx / length, dy / length
    path = QPainterPath(QPointF(*tip))
    path.lineTo(tip[0] - 6 * ux + 3.6 * uy, tip[1] - 6 * uy + 3.6 * ux)
    path.lineTo(tip[0] - 6 * ux - 3.6 * uy, tip[1] - 6 * uy - 3.6 * ux)
    path.closeSubpath()
    return path


def _towards(corner: tuple[float, float], other: tuple[float, float]) -> QPointF:
    dx, dy = other[0] - corner[0], other[1] - corner[1]
    length = abs(dx) + abs(dy)
    step = min(CORNER, length / 2)
    return QPointF(*corner) if length == 0 else QPointF(corner[0] + dx / length * step, corner[1] + dy / length * step)
