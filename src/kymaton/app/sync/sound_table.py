"""The table of sounds that are laid over a film: their files, offsets, names of their tracks."""

from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING

from msgspec.structs import replace
from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QAbstractItemView, QHeaderView, QTableWidget, QTableWidgetItem

from kymaton.app.sync.laying import Laid
from kymaton.app.widgets.basic import plain_tip
from kymaton.core.words import number

if TYPE_CHECKING:
    from kymaton.media.film.placing import Track

FILE, OFFSET, DRIFT, NAME, LANGUAGE, SWAP = range(6)
TITLES = ("Sound", "comes later by, ms", "drift, ppm", "track name", "language", "swap L and R")


class SoundTable(QTableWidget):
    """One row for each sound. What is typed for an offset or a drift stays, until it is found anew."""

    filled = pyqtSignal()
    refused = pyqtSignal(str)  # why something typed was not taken

    def __init__(self, film: Callable[[], str]) -> None:
        super().__init__(0, len(TITLES))
        self.film = film
        self.sounds: list[Laid] = []
        self.setHorizontalHeaderLabels(TITLES)
        self.setAccessibleName("Sounds to be laid over it")
        self.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectRows)
        side, head = self.verticalHeader(), self.horizontalHeader()
        assert side is not None and head is not None
        side.hide()
        head.setSectionResizeMode(QHeaderView.ResizeMode.ResizeToContents)
        head.setSectionResizeMode(FILE, QHeaderView.ResizeMode.Stretch)
        head.setDefaultAlignment(Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter)
        self.itemChanged.connect(self._typed)

    @property
    def chosen(self) -> Laid | None:
        row = self.currentRow()
        return self.sounds[row] if 0 <= row < len(self.sounds) else None

    @property
    def are_placed(self) -> bool:
        """Whether it is known of all sounds where they belong."""
        return bool(self.sounds) and all(s.offset_ms is not None for s in self.sounds)

    def set_sounds(self, sounds: list[Laid]) -> None:
        self.sounds = sounds
        self.fill()

    def add(self, sound: Laid) -> None:
        self.set_sounds([*self.sounds, sound])
        self.setCurrentCell(len(self.sounds) - 1, OFFSET)

    def forget_found(self) -> None:
        """What was found is not about another film; what was typed stays."""
        self.set_sounds([s if s.found is None else Laid(s.path) for s in self.sounds])

    def remove_chosen(self) -> None:
        row = self.currentRow()
        if 0 <= row < len(self.sounds):
            del self.sounds[row]
            self.removeRow(row)
            self.fill()

    def fill(self) -> None:
        """The table from what is known; names, languages and ticks stay in their rows."""
        self.blockSignals(True)
        self.setRowCount(len(self.sounds))
        for row, sound in enumerate(self.sounds):
            own = sound.path == Path(self.film())
            self._put(row, FILE, "the film's own sound" if own else sound.path.name, False)
            self._put(row, OFFSET, "" if sound.offset_ms is None else number(sound.offset_ms, 2))
            self._put(row, DRIFT, number(sound.drift_ppm, 1) if sound.drift_ppm else "")
            for column in (NAME, LANGUAGE, SWAP):
                if self.item(row, column) is None:
                    self._put(row, column, "")
        self.blockSignals(False)
        shown = min(5, max(2, len(self.sounds)))
        self.setFixedHeight(30 + shown * max(30, self.rowHeight(0)))
        self.filled.emit()

    def _put(self, row: int, column: int, text: str, editable: bool = True) -> None:
        item = QTableWidgetItem(text)
        if column == SWAP:
            item.setFlags(Qt.ItemFlag.ItemIsEnabled | Qt.ItemFlag.ItemIsUserCheckable)
            item.setCheckState(Qt.CheckState.Unchecked)
        elif not editable:
            item.setFlags(item.flags() & ~Qt.ItemFlag.ItemIsEditable)
            item.setToolTip(plain_tip(str(self.sounds[row].path)))
        self.setItem(row, column, item)

    def _typed(self, item: QTableWidgetItem) -> None:
        """An offset or a drift by hand."""
        row, column = item.row(), item.column()
        if column not in (OFFSET, DRIFT):
            return
        sound, text = self.sounds[row], item.text().strip().replace("−", "-").replace(",", ".")
        try:
            value = float(text) if text else None
            if value is not None and not abs(value) < (1e8 if column == OFFSET else 5000):
                raise ValueError
        except ValueError:
            self.refused.emit(f"'{item.text()}' is not a number of {'ms' if column == OFFSET else 'ppm'}.")
        else:
            given = {"offset_ms": value} if column == OFFSET else {"drift_ppm": value or 0.0}
            self.sounds[row] = replace(sound, found=None, **given)
        self.fill()

    def tracks(self) -> "tuple[Track, ...]":
        """The sounds as tracks of a film."""
        from kymaton.media.film.placing import Track

        tracks = []
        for row, sound in enumerate(self.sounds):
            name, language, swap = (self.item(row, c) for c in (NAME, LANGUAGE, SWAP))
            assert name is not None and language is not None and swap is not None
            swapped = swap.checkState() == Qt.CheckState.Checked
            placed = Track(sound.path, sound.offset_ms or 0.0, sound.drift_ppm)
            tracks.append(replace(placed, name=name.text().strip(), language=language.text().strip(), swap=swapped))
        return tuple(tracks)
