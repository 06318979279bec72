"""A loudness meter that runs: on the system's sound input, or on what somebody hears in this cue, as it is rendered."""

import math
from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING, Any

import numpy as np
from PyQt6.QtCore import QRectF, QSize, Qt, QTimer
from PyQt6.QtGui import QColor, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QComboBox, QHBoxLayout, QSizePolicy, QVBoxLayout, QWidget

from kymaton.app.document import Document
from kymaton.app.listen import Order, render_takes
from kymaton.app.theme.theme import THEME, colour, figures, tokens, words
from kymaton.app.widgets.basic import button, label
from kymaton.app.widgets.working import WorkRow
from kymaton.core.levels.goals import Goal, goal_of
from kymaton.core.measuring.fault_words import clock
from kymaton.core.words import number, said

if TYPE_CHECKING:
    from kymaton.media.audition import Audition
    from kymaton.media.loudness import Meter, Running

STEP_MS, RATE_HZ = 100, 48_000
LOWEST, HIGHEST = -50.0, 0.0
NO_INPUT = "No sound input was found here. What somebody hears can be measured as it is rendered."
SIMULATED = "what is rendered"


class Strips(QWidget):
    """Momentary, short-term and integrated loudness as strips, with the band of the goal."""

    def __init__(self) -> None:
        super().__init__()
        self.now: Running | None = None
        self.goal: Goal | None = None
        self.setMinimumHeight(180)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setAccessibleName("Loudness now")
        THEME.changed.connect(self.update)

    def sizeHint(self) -> QSize:
        return QSize(600, 190)

    def show_now(self, now: "Running | None", goal: Goal) -> None:
        self.now, self.goal = now, goal
        self.setAccessibleDescription(
            "; ".join(f"{name} {text}" for name, _, text in self._rows()) if now is not None else "nothing is measured"
        )
        self.update()

    def _rows(self) -> list[tuple[str, float, str]]:
        now = self.now
        if now is None:
            return [(name, -math.inf, "") for name in ("Momentary", "Short-term", "Integrated")]
        rows = (
            ("Momentary", now.momentary_lufs),
            ("Short-term", now.short_term_lufs),
            ("Integrated", now.integrated_lufs),
        )
        return [(name, value, _figure(value, "LUFS")) for name, value in rows]

    def paintEvent(self, event: QPaintEvent | None) -> None:
        t = tokens()
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        left, wide = 110.0, max(60.0, self.width() - 250.0)

        def x(lufs: float) -> float:
            shown = min(HIGHEST, max(LOWEST, lufs if math.isfinite(lufs) else LOWEST))
            return left + wide * (shown - LOWEST) / (HIGHEST - LOWEST)

        for row, (name, value, text) in enumerate(self._rows()):
            top = 14.0 + row * 46
            painter.setPen(QColor(t.ink))
            painter.setFont(words(13, 500))
            painter.drawText(QRectF(0, top, 104, 26), Qt.AlignmentFlag.AlignVCenter, name)
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(QColor(t.panel))
            painter.drawRect(QRectF(left, top, wide, 26))
            if self.goal is not None:
                painter.setBrush(colour(t.wave, 0.25))
                low, high = x(self.goal.lufs - self.goal.tolerance_lu), x(self.goal.lufs + self.goal.tolerance_lu)
                painter.drawRect(QRectF(low, top - 4, max(2.0, high - low), 34))
            painter.setBrush(QColor(t.wave))
            painter.drawRect(QRectF(left, top + 7, x(value) - left, 12))
            painter.setPen(QPen(QColor(t.ink)))
            painter.setFont(figures(15, 500))
            painter.drawText(QRectF(left + wide + 14, top, 130, 26), Qt.AlignmentFlag.AlignVCenter, text)
        painter.setPen(QColor(t.soft))
        painter.setFont(figures(11))
        for lufs in range(int(LOWEST), 1, 10):
            painter.drawText(QRectF(x(lufs) - 20, 152, 40, 16), Qt.AlignmentFlag.AlignHCenter, number(lufs))


class MeterPage(QWidget):
    """Start, stop, begin anew; how loud it is against the goal of the show."""

    def __init__(self, document: Document) -> None:
        super().__init__()
        self.document = document
        self.meter: Meter | None = None
        self.source: Any = None
        self.device: Any = None
        self.samples: np.ndarray | None = None
        self.at = 0
        self.channels = 2
        self.rest = b""  # of a frame whose other half has not come yet
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(8)
        row = QHBoxLayout()
        self.inputs = QComboBox()
        self.inputs.setAccessibleName("What is measured")
        self.inputs.setMinimumWidth(280)
        row.addWidget(self.inputs)
        self.start_button = button("Start", self.start, "main", "Begin to measure, from nothing")
        self.stop_button = button("Stop", self.stop, "", "Stop; what was measured stays")
        row.addWidget(self.start_button)
        row.addWidget(self.stop_button)
        row.addStretch(1)
        layout.addLayout(row)
        self.note = label("", "soft", wrap=True)
        layout.addWidget(self.note)
        self.work = WorkRow(document)
        layout.addWidget(self.work)
        self.strips = Strips()
        layout.addWidget(self.strips)
        self.peak = label("", "figures")
        layout.addWidget(self.peak)
        layout.addStretch(1)
        self.timer = QTimer(self)
        self.timer.setInterval(STEP_MS)
        self.timer.timeout.connect(self._rendered)
        self.refresh()

    def focus_first(self) -> None:
        """The keyboard to the choice of what is measured."""
        self.inputs.setFocus()

    @property
    def goal(self) -> Goal:
        """The goal of the show."""
        return goal_of(self.document.show.goals.loudness_lufs)

    def refresh(self) -> None:
        """Which inputs there are now."""
        kept = self.inputs.currentText()
        self.inputs.clear()
        found = inputs()
        for name, device in found:
            self.inputs.addItem(name, device)
        self.inputs.addItem(f"{said_listener(self.document)}, as it is rendered", SIMULATED)
        self.inputs.setCurrentIndex(max(0, self.inputs.findText(kept)))
        if self.meter is None:
            self.note.setText("" if found else NO_INPUT)
        self._show()

    def start(self) -> None:
        """Measure from nothing."""
        self.stop()
        chosen = self.inputs.currentData()
        if chosen != SIMULATED:
            trouble = self._listen_to(chosen)
            self.note.setText(trouble or "")
            self._show()
            return
        document = self.document
        listener = document.listener_id or next((x.id for x in document.show.listeners), None)
        if listener is None:
            self.note.setText("Nobody listens yet: type who takes part in Brief.")
            return
        order = Order(document.show, document.folder or Path(), document.cue_id, listener)
        self.work.start(lambda job: render_takes(order, job), "Rendering", self._begin)

    def _begin(self, takes: "list[Audition]") -> None:
        audition = takes[0]
        if audition.turned_down_db:
            self.note.setText(f"Rendered {number(audition.turned_down_db, 1)} dB softer, so that it does not clip.")
        self.samples = audition.samples * np.float32(10 ** (audition.turned_down_db / 20))
        self.at = 0
        self._new_meter(audition.rate_hz, 2)
        self.timer.start()
        self._show()

    def _new_meter(self, rate_hz: int, channels: int) -> None:
        from kymaton.media.loudness import Meter

        self.meter, self.rest = Meter(rate_hz, channels), b""

    def _rendered(self) -> None:
        """The next tenth of a second; at the end it begins again."""
        meter, samples = self.meter, self.samples
        if meter is None or samples is None or not len(samples):
            return
        count = meter.rate_hz * STEP_MS // 1000
        part = samples[self.at : self.at + count]
        self.at = self.at + count if self.at + count < len(samples) else 0
        meter.add(np.ascontiguousarray(part.T))
        self._show()

    def _listen_to(self, device: Any) -> str | None:
        """Begin with the system's sound input; a sentence where that cannot be."""
        from PyQt6.QtMultimedia import QAudioFormat, QAudioSource

        layout = QAudioFormat()
        layout.setSampleRate(RATE_HZ)
        layout.setChannelCount(min(2, max(1, device.maximumChannelCount())))
        layout.setSampleFormat(QAudioFormat.SampleFormat.Float)
        if not device.isFormatSupported(layout):
            return "This input does not give 48 kHz; choose another one."
        self.channels = layout.channelCount()
        self._new_meter(RATE_HZ, self.channels)
        self.source = QAudioSource(device, layout)
        self.device = self.source.start()
        if self.device is None:
            self.source = None
            return "This input cannot be opened: another program may hold it, or the system does not allow it."
        self.device.readyRead.connect(self._heard)
        return None

    def _heard(self) -> None:
        if self.device is not None and self.meter is not None:
            self.take(bytes(self.device.readAll()))

    def take(self, data: bytes) -> None:
        """What the input gave: frames of 32-bit floats."""
        data = self.rest + data
        whole = len(data) - len(data) % (4 * self.channels)
        samples, self.rest = np.frombuffer(data[:whole], np.float32), data[whole:]
        if self.meter is not None and len(samples):
            self.meter.add(np.ascontiguousarray(samples.reshape(-1, self.channels).T))
            self._show()

    def stop(self) -> None:
        """Nothing is measured any more; what was measured stays on screen."""
        self.timer.stop()
        self.work.stop()
        if self.source is not None:
            self.source.stop()
        self.source = self.device = None
        self._show()

    @property
    def is_running(self) -> bool:
        """Whether something is measured."""
        return self.timer.isActive() or self.source is not None

    def _show(self) -> None:
        now = self.meter.now if self.meter is not None else None
        self.strips.show_now(now, self.goal)
        self.stop_button.setVisible(self.is_running)
        self.peak.setText(
            "" if now is None else f"True peak {_figure(now.true_peak_dbtp, 'dBTP')} in {clock(now.seconds)}"
        )


def _figure(value: float, unit: str) -> str:
    return f"{number(value, 1)} {unit}" if math.isfinite(value) else "silent"


def said_listener(document: Document) -> str:
    """`What Ilse hears`."""
    show = document.show
    listener = next((x for x in show.listeners if x.id == document.listener_id), next(iter(show.listeners), None))
    return f"What {said(listener)} hears" if listener is not None else "What somebody hears"


def inputs(find: "Callable[[], list[Any]] | None" = None) -> list[tuple[str, Any]]:
    """The system's sound inputs by name; none where there is none, or none can be used."""
    try:
        from PyQt6.QtMultimedia import QMediaDevices
    except ImportError:
        return []
    return [(device.description(), device) for device in (find or QMediaDevices.audioInputs)() if not device.isNull()]
