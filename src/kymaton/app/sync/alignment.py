"""What laying two sounds over each other told: in words, window by window, and at all offsets."""

from typing import TYPE_CHECKING

from PyQt6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from kymaton.app.sync.plot import CurveView, Plot
from kymaton.app.widgets.basic import label
from kymaton.core.words import number

if TYPE_CHECKING:
    from kymaton.core.measuring.align import Alignment


def amount(found: "Alignment") -> str:
    """By how much the second comes later: `500.00 ms later`."""
    return f"{number(abs(found.offset_ms), 2)} ms {'later' if found.offset_ms >= 0 else 'earlier'}"


def facts(found: "Alignment") -> str:
    """How sure, how strong, which way round, and how it drifts."""
    side, turned = "stronger" if found.level_db >= 0 else "softer", ", turned over" if found.polarity < 0 else ""
    told = [f"Confidence {found.confidence}; {number(abs(found.level_db), 1)} dB {side}{turned}."]
    told += [f"It drifts by {number(found.drift_ppm, 1)} ppm."] if found.drift_ppm else []
    return " ".join([*found.remarks, *told])


class AlignmentView(QWidget):
    """A heading, what is to be said, and the drawings; of what is not sure, only how alike they are."""

    def __init__(self, heading: str, text: str, found: "Alignment") -> None:
        super().__init__()
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(6)
        layout.addWidget(label(heading, "heading", wrap=True))
        layout.addWidget(label(text, "", wrap=True))
        points = [(s.time_s, 1000 * s.offset_s) for s in found.spots]
        if points and found.confidence != "low":
            title = "offset in ms, over the recording"
            layout.addWidget(Plot(points, found.offset_ms, found.plus_minus_ms, title, found.drift_ppm))
        line = QHBoxLayout()
        for curve, title in ((found.overview, "alike in loudness, at all offsets"), (found.detail, "alike in detail")):
            if curve:
                line.addWidget(CurveView(curve, found.offset_ms / 1000, title), 1)
        layout.addLayout(line)
