"""Routes as lines of stations: level and added delay under each, the total at the end."""

from msgspec import Struct
from PyQt6.QtCore import QPointF, QRect, QRectF, QSize, Qt
from PyQt6.QtGui import QColor, QFontMetrics, QMouseEvent, QPainter, QPaintEvent, QPen, QResizeEvent
from PyQt6.QtWidgets import QSizePolicy, QToolTip, QWidget

from kymaton.app.document import Document
from kymaton.app.theme.theme import THEME, figures, tokens, words
from kymaton.core.checks.report import CueReport
from kymaton.core.signal.trace import Path, Station, origins, rounded_steps, stations
from kymaton.core.words import hertz, ms, number

ROUTE, TOTAL, MOST = 70, 96, 4
LINE = 14  # of a station's name, px
UNITS = {"dB SPL": "dB", "dBu": "dBu", "dBFS": "FS"}


class Route(Struct, frozen=True):
    """One delay at which a sound arrives: the strongest path of it, and how many there are."""

    path: Path
    stops: list[Station]
    added_ms: list[float]
    total_ms: float
    together: int


def routes_of(report: CueReport, listener: str, sound: str) -> list[Route]:
    """Routes from a sound to a listener, one for each delay, strongest first."""
    by_delay: dict[int, list[Path]] = {}
    for path in report.view.paths(listener, sound):
        by_delay.setdefault(path.delay_us, []).append(path)
    result = []
    for paths in by_delay.values():
        stops = stations(report.view.show, report.view.graph, report.view.state, paths[0])
        added = rounded_steps([s.added_us for s in stops])
        ways = {tuple(p.ports(report.view.graph)) for p in paths}
        result.append(Route(paths[0], stops, added, round(sum(added), 1), len(ways)))
    return result


class RouteStrip(QWidget):
    """The routes of the chosen sound to the chosen listener, one above the other."""

    def __init__(self, document: Document) -> None:
        super().__init__()
        self.document = document
        self.routes: list[Route] = []
        self.setMouseTracking(True)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        document.report_changed.connect(self.refresh)
        document.selection_changed.connect(self.refresh)
        THEME.changed.connect(self.update)
        self.refresh()

    def refresh(self) -> None:
        show, document = self.document.show, self.document
        known = document.listener_id in [x.id for x in show.listeners] and document.sound_id in [
            s.id for s in show.sounds
        ]
        self.routes = []
        if known and document.listener_id and document.sound_id:
            self.routes = routes_of(document.cue_report, document.listener_id, document.sound_id)
        self._set_height()
        self.setAccessibleName("; ".join(self.told(r) for r in self.routes) or "No route")
        self.update()

    def _set_height(self) -> None:
        self.setFixedHeight(self.route_height * min(MOST, len(self.routes)) + 2 if self.routes else 28)

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        self._set_height()

    @property
    def route_height(self) -> int:
        """Height of one route: more when the names of its stations need several lines."""
        return ROUTE + LINE * (self._name_lines() - 1)

    def _name_lines(self) -> int:
        metrics = QFontMetrics(words(11, 500))
        lines = 1
        for route in self.routes[:MOST]:
            for i, stop in enumerate(route.stops):
                box = QRect(0, 0, int(self._name_room(route, i)), 200)
                needs = metrics.boundingRect(box, int(Qt.TextFlag.TextWordWrap.value), stop.title)
                lines = max(lines, round(needs.height() / metrics.height()))
        return min(3, lines)

    def _name_room(self, route: Route, at: int) -> float:
        return self._step(route) + (-4 if at < len(route.stops) - 1 else 40)

    @staticmethod
    def told(route: Route) -> str:
        stops = ", ".join(f"{s.title} {number(s.level)} {s.unit}" for s in route.stops)
        return f"{stops}, in all {ms(route.total_ms)}"

    def sizeHint(self) -> QSize:
        return QSize(600, self.height())

    def _step(self, route: Route) -> float:
        many = len(route.stops)
        return min(150.0, (self.width() - TOTAL - 40) / (many - 1)) if many > 1 else 0.0

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        """A station tells where its figures come from."""
        assert event is not None
        row = int(event.position().y() // self.route_height)
        if row < len(self.routes):
            route, view = self.routes[row], self.document.cue_report.view
            at = int((event.position().x() + 4) // max(1.0, self._step(route)))
            if 0 <= at < len(route.stops):
                stop = route.stops[at]
                lines = [f"{stop.title}: {number(stop.level, 1)} {stop.unit}"]
                lines += origins(view.show, view.graph, view.state, stop)
                QToolTip.showText(event.globalPosition().toPoint(), "\n".join(lines), self)
                return
        QToolTip.hideText()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        if not self.routes:
            painter.setPen(QColor(tokens().soft))
            painter.setFont(words(13))
            text = "No open route in this cue."
            if self.document.sound_id is None or self.document.listener_id is None:
                text = "Choose a sound and a listener to see the routes between them."
            painter.drawText(QPointF(0, 22), text)
        for row, route in enumerate(self.routes[:MOST]):
            self._route(painter, route, row * self.route_height, tokens().wave if row == 0 else tokens().fault)

    def _route(self, painter: QPainter, route: Route, top: float, ink: str) -> None:
        t = tokens()
        many = len(route.stops)
        step = self._step(route)
        names = LINE * self._name_lines()
        y = top + 10 + names
        painter.setPen(QPen(QColor(ink), 2.4))
        painter.drawLine(QPointF(8, y), QPointF(8 + step * (many - 1), y))
        for i, (stop, added) in enumerate(zip(route.stops, route.added_ms, strict=True)):
            x = 8 + step * i
            painter.setPen(QPen(QColor(ink), 1.8))
            painter.setBrush(QColor(t.panel))
            painter.drawEllipse(QPointF(x, y), 4.5, 4.5)
            left = x - 8
            box = QRectF(left, top, self._name_room(route, i), names + 2)
            painter.setFont(words(11, 500))
            painter.setPen(QColor(t.ink))
            wrapped = int(Qt.TextFlag.TextWordWrap.value) | int(Qt.AlignmentFlag.AlignBottom.value)
            painter.drawText(box, wrapped, stop.title)
            painter.setFont(figures(11))
            painter.setPen(QColor(t.soft))
            painter.drawText(QRectF(left, y + 6, step + 40, 15), 0, f"{number(stop.level)} {UNITS[stop.unit]}")
            delay = "0" if added == 0 else f"+{number(added, 1)}"
            painter.drawText(QRectF(left, y + 20, step + 40, 15), 0, delay)
        painter.setFont(figures(13, 600))
        painter.setPen(QColor(ink))
        side = Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight
        painter.drawText(QRectF(self.width() - TOTAL, y - 10, TOTAL, 20), side, ms(route.total_ms))
        if route.together > 1:
            painter.setFont(words(11))
            painter.setPen(QColor(t.soft))
            painter.drawText(QRectF(self.width() - TOTAL, y + 8, TOTAL, 16), side, f"{route.together} ways alike")


def strip_title(document: Document) -> str:
    """A heading for the routes: who to whom, how many, how far apart."""
    show, report = document.show, document.cue_report
    if document.sound_id is None or document.listener_id is None:
        return "Routes"
    sound, listener = show.sound(document.sound_id), show.listener(document.listener_id)
    found = routes_of(report, listener.id, sound.id)
    text = f"{sound.name} to {listener.name}: {len(found)} route{'' if len(found) == 1 else 's'}"
    finding = next(
        (f for f in report.findings if f.id == "doubled" and (f.listener, f.sound) == (listener.id, sound.id)), None
    )
    if finding is not None:
        gap, notch = finding.evidence["gap_ms"], finding.evidence["first_notch_hz"]
        assert isinstance(gap, float) and isinstance(notch, float)
        text += f", {ms(gap)} apart, first notch {hertz(notch)}"
    return text
