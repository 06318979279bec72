"""One measured recording as a card: what it tells, its plot, how it compares, and what can be done with it."""

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QFrame, QHBoxLayout, QMenu, QToolButton, QVBoxLayout

from kymaton.app.sync.measuring import Measured
from kymaton.app.sync.plot import Plot
from kymaton.app.widgets.basic import button, label
from kymaton.core.edits.measurements import compared
from kymaton.core.model import Show
from kymaton.core.planning.sync_delays import frames_text
from kymaton.core.signal.av_offset import AVOffset
from kymaton.core.words import counted, lowered, ms_within, number


class ResultCard(QFrame):
    """`take_over` with the device that is to explain it (None: the camera); `keep` as a note only."""

    take_over = pyqtSignal(object)
    keep = pyqtSignal()

    def __init__(self, show: Show, measured: Measured, is_taken: bool) -> None:
        super().__init__()
        found, row = measured.found, measured.row
        self.setObjectName("card")
        inside = QVBoxLayout(self)
        head = QHBoxLayout()
        head.addWidget(label(measured.path.name, "strong"))
        head.addStretch(1)
        head.addWidget(label(f"{counted(found.matched, 'event')}, confidence {found.confidence}", "small"))
        inside.addLayout(head)
        way = "early" if found.lead_ms >= 0 else "late"
        frames = frames_text(show, abs(found.lead_ms))
        inside.addWidget(
            label(f"Sound is {ms_within(abs(found.lead_ms), found.plus_minus_ms)} ({frames}) {way}", "heading")
        )
        points = [(e.time_s, e.lead_ms) for e in found.events]
        sure = [e.tells for e in found.events]
        title = "lead in ms, over the recording" + ("" if all(sure) else "; a ring tells less than a dot")
        plot = Plot(points, found.lead_ms, found.plus_minus_ms, title, found.drift_ppm, found.middle_s, sure)
        inside.addWidget(plot)
        if found.drift_ppm:
            text = f"It drifts by {number(found.drift_ppm, 1)} ± {number(found.drift_plus_minus_ppm, 1)} ppm."
            inside.addWidget(label(text, "", wrap=True))
        for remark in found.remarks:
            inside.addWidget(label(remark, "small", wrap=True))
        if row is not None:
            inside.addWidget(label(compared(show, row, found.lead_ms, found.plus_minus_ms), "", wrap=True))
            inside.addLayout(self._taken() if is_taken else self._actions(show, row))

    def _taken(self) -> QHBoxLayout:
        line = QHBoxLayout()
        line.addWidget(label("It is in the show.", "soft"))
        line.addStretch(1)
        return line

    def _actions(self, show: Show, row: AVOffset) -> QHBoxLayout:
        line = QHBoxLayout()
        known = [d for d in row.chain if any(x.id == d for x in show.devices)]
        for device in [d for d in known if d == row.camera]:
            text = f"Take over for {lowered(show.device(device).name)}"
            take = button(text, lambda: self.take_over.emit(None), "main", "Its picture delay becomes measured")
            line.addWidget(take)
        others = [d for d in known if d != row.camera]
        if others:
            more = QToolButton()
            more.setText("for another device")
            more.setProperty("kind", "quiet")
            more.setPopupMode(QToolButton.ToolButtonPopupMode.InstantPopup)
            more.setToolTip("Where the camera is known, and another device on the way of the picture is not")
            menu = QMenu(more)
            for device in others:
                entry = menu.addAction(show.device(device).name)
                assert entry is not None
                entry.triggered.connect(lambda _, device=device: self.take_over.emit(device))
            more.setMenu(menu)
            line.addWidget(more)
        line.addWidget(
            button("Keep as a note", lambda: self.keep.emit(), "quiet", "In the list below; no figure changes")
        )
        line.addStretch(1)
        return line
