"""What is played: takes of one length that can be changed for each other while they run, and a passage that goes round.

It is read as the sound output asks for more, so a change of take, and the way back to the beginning of a passage, come
without a gap.
"""

import numpy as np
from PyQt6.QtCore import QIODevice

from kymaton.core.signal.render import Audio

FRAME_BYTES = 8  # two channels of 32-bit floats


class Tape(QIODevice):
    """Frames of the chosen take, from where it stands; with `loop` the passage again and again."""

    def __init__(self, takes: list[Audio], rate_hz: int) -> None:
        super().__init__()
        self.takes, self.rate_hz = takes, rate_hz
        self.take, self.at, self.loop = 0, 0, False
        self.passage = (0, max(map(len, takes)))
        self.open(QIODevice.OpenModeFlag.ReadOnly)

    def set_passage(self, from_s: float, to_s: float) -> None:
        """Play from here to there, in s; the whole where that is nothing."""
        end = max(map(len, self.takes))
        first, last = sorted((round(from_s * self.rate_hz), round(to_s * self.rate_hz)))
        first, last = max(0, min(first, end)), max(0, min(last, end))
        self.passage = (first, last) if last > first else (0, end)
        if not first <= self.at < last:
            self.at = self.passage[0]

    @property
    def at_s(self) -> float:
        """Where it stands, in s."""
        return self.at / self.rate_hz

    def frames(self, many: int) -> Audio:
        """The next frames (n, 2); fewer at the end, where nothing goes round."""
        first, last = self.passage
        parts: list[Audio] = []
        while many > 0:
            if self.at >= last:
                if not self.loop:
                    break
                self.at = first
            count = min(many, last - self.at)
            part = self.takes[self.take][self.at : self.at + count]
            if len(part) < count:  # a shorter take ends in silence
                part = np.concatenate([part, np.zeros((count - len(part), 2), np.float32)])
            parts.append(part)
            self.at += count
            many -= count
        return np.concatenate(parts) if parts else np.zeros((0, 2), np.float32)

    def readData(self, maxlen: int) -> bytes:
        return self.frames(maxlen // FRAME_BYTES).astype("<f4", order="C").tobytes()

    def bytesAvailable(self) -> int:
        left = self.passage[1] - self.at
        return (len(self.takes[self.take]) if self.loop else left) * FRAME_BYTES + super().bytesAvailable()

    def atEnd(self) -> bool:
        return not self.loop and self.at >= self.passage[1]

    def isSequential(self) -> bool:
        return True
