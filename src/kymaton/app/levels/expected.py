"""What levels are to be expected: the ladder of one sound, all that comes to one listener, the inputs of one device."""

from msgspec.structs import replace
from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QShowEvent
from PyQt6.QtWidgets import (
    QComboBox,
    QFrame,
    QHBoxLayout,
    QScrollArea,
    QStackedWidget,
    QTableWidget,
    QTableWidgetItem,
    QVBoxLayout,
    QWidget,
)

from kymaton.app.document import Document
from kymaton.app.levels.ladder import LadderView
from kymaton.app.levels.tables import table_of
from kymaton.app.widgets.basic import label
from kymaton.core.checks.levels import levels_of
from kymaton.core.levels.ladder import Rung, condensed, device_rungs, ladder, tightest
from kymaton.core.levels.port_levels import PortLevels
from kymaton.core.words import number, sentence

OF_LISTENER = ("Sound", "Level", "Peaks", "Over noise", "Least room", "Where")
OF_DEVICE = ("Stage", "Loudest there", "Level", "Peaks, all", "It takes", "Room")


class ExpectedPage(QWidget):
    """A sound and a listener are those that are chosen elsewhere, too; a device is chosen here."""

    sound_opened = pyqtSignal()

    def __init__(self, document: Document) -> None:
        super().__init__()
        self.document, self.page = document, "sound"
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(8)
        row = QHBoxLayout()
        self.sounds, self.listeners, self.devices = QComboBox(), QComboBox(), QComboBox()
        self.of, self.to = label("of", "soft"), label("to", "soft")
        for widget, name in (
            (self.of, ""), (self.sounds, "Which sound"), (self.to, ""), (self.listeners, "At which listener"),
            (self.devices, "Which device"),
        ):  # fmt: skip
            if name:
                widget.setAccessibleName(name)
                widget.setMinimumWidth(150)
            row.addWidget(widget)
        row.addStretch(1)
        self.note = label("", "small")
        row.addWidget(self.note)
        layout.addLayout(row)
        self.pages = QStackedWidget()
        self.ladder, self.side_by_side = LadderView(), LadderView(whole=False)
        self.at_listener, self.at_device = table_of(OF_LISTENER), table_of(OF_DEVICE)
        self.at_listener.setAccessibleName("All sounds at this listener")
        self.at_device.setAccessibleName("Inputs of this device")
        for page in (_wide(self.ladder), self.at_listener, self.at_device):
            self.pages.addWidget(page)
        self.beside = _wide(self.side_by_side)
        layout.addWidget(self.beside, 1)
        layout.addWidget(self.pages, 1)
        self.sounds.activated.connect(self._chosen)
        self.listeners.activated.connect(self._chosen)
        self.devices.activated.connect(lambda _: self.refresh())
        self.at_listener.cellActivated.connect(self._open_sound)
        document.report_changed.connect(self.refresh)
        document.selection_changed.connect(self.refresh)

    def focus_first(self) -> None:
        """The keyboard where work begins on the page that is shown."""
        {"sound": self.sounds, "listener": self.listeners, "device": self.devices}[self.page].setFocus()

    def show_page(self, page: str) -> None:
        """The ladder of a sound, the table of a listener, or that of a device."""
        self.page = page
        for widget, pages in (
            (self.of, ("sound",)), (self.sounds, ("sound",)), (self.to, ("sound", "listener")),
            (self.listeners, ("sound", "listener")), (self.devices, ("device",)),
        ):  # fmt: skip
            widget.setVisible(page in pages)
        self.beside.setVisible(page != "sound")
        self.pages.setCurrentIndex(("sound", "listener", "device").index(page))
        self.refresh()

    def showEvent(self, event: QShowEvent | None) -> None:
        super().showEvent(event)
        self.refresh()

    def refresh(self) -> None:
        """Show what is chosen, as it is in the cue in view; while nobody looks, nothing is worked out."""
        if not self.isVisible():
            return
        self._fill()
        levels = levels_of(self.document.cue_report.view)
        {"sound": self._show_ladder, "listener": self._show_listener, "device": self._show_device}[self.page](levels)

    def _fill(self) -> None:
        """Names to choose from; what is chosen elsewhere is chosen here."""
        show, document = self.document.show, self.document
        listener = document.listener_id or next((x.id for x in show.listeners if x.kind == "audience"), None)
        sound = document.sound_id or self._first_sound(listener)
        for box, things, chosen in ((self.sounds, show.sounds, sound), (self.listeners, show.listeners, listener)):
            _choose(box, [(x.name, x.id) for x in things], chosen)
        takes = [d for d in show.devices if any(p.direction == "in" and p.channels for p in d.ports)]
        first = next((d.id for d in takes if d.stage == "mixed"), None)
        _choose(self.devices, [(d.name, d.id) for d in takes], self.devices.currentData() or first)

    def _first_sound(self, listener: str | None) -> str | None:
        """The loudest sound at a listener, where none is chosen."""
        view = self.document.cue_report.view
        who = next((x for x in view.show.listeners if x.id == listener), None)
        sounds = [s for s in view.show.sounds if who is not None and view.level(who, s) > who.floor]
        return max(sounds, key=lambda s: view.level(who, s)).id if sounds and who is not None else None

    def _chosen(self, _: int) -> None:
        sound = self.sounds.currentData() if self.page == "sound" else self.document.sound_id
        self.document.select(self.listeners.currentData(), sound)

    def _open_sound(self, row: int, _: int) -> None:
        item = self.at_listener.item(row, 0)
        if item is not None:
            self.document.select(self.listeners.currentData(), item.data(Qt.ItemDataRole.UserRole))
            self.sound_opened.emit()

    def _show_ladder(self, levels: PortLevels) -> None:
        listener, sound = self.listeners.currentData(), self.sounds.currentData()
        rungs = condensed(ladder(levels, listener, sound)) if listener is not None and sound is not None else []
        nobody = "Nobody makes a sound yet: type who takes part in Brief."
        empty = f"{self.sounds.currentText()} does not come to {self.listeners.currentText()} in this cue."
        self.ladder.show_rungs(rungs, empty if levels.show.sounds and levels.show.listeners else nobody)
        tight = tightest(rungs)
        self.note.setText("" if tight is None else f"least room at {tight.name}: {_room(tight)}")

    def _show_listener(self, levels: PortLevels) -> None:
        listener = self.listeners.currentData()
        rows = []
        for sound in levels.show.sounds:
            rungs = ladder(levels, listener, sound.id) if listener is not None else []
            if rungs:
                rows.append((sound.id, sound.name, rungs))
        rows.sort(key=lambda r: -r[2][-1].own.typical)
        table = self.at_listener
        table.setRowCount(len(rows))
        for row, (id, name, rungs) in enumerate(rows):
            last, tight = rungs[-1], tightest(rungs)
            over = last.over_noise_db
            texts = [
                name, f"{number(last.own.typical, 1)} {last.unit}", number(last.own.peak, 1),
                "" if over is None else f"{number(over)} dB", "" if tight is None else _room(tight),
                "" if tight is None else sentence(tight.name),
            ]  # fmt: skip
            _put(table, row, texts, id)
        self.note.setText("" if rows else "Nothing comes there in this cue.")
        told = ((name, tightest(rungs) or rungs[-1]) for _, name, rungs in rows)
        columns = [replace(r, name=f"{name}, {r.name}") for name, r in told]
        self.side_by_side.show_rungs(columns, "Nothing comes there in this cue.")

    def _show_device(self, levels: PortLevels) -> None:
        device = self.devices.currentData()
        rungs = device_rungs(levels, device) if device is not None else []
        table = self.at_device
        table.setRowCount(len(rungs))
        for row, rung in enumerate(rungs):
            sounds = levels.by_place.get(rung.place, {})
            loudest = max(sounds, key=lambda s: sounds[s].typical)
            takes = "" if rung.clip_db is None else number(rung.clip_db, 1)
            texts = [
                sentence(rung.name), levels.show.sound(loudest).name, f"{number(rung.own.typical, 1)} {rung.unit}",
                number(max(rung.own.peak, rung.together.peak), 1), takes, _room(rung),
            ]  # fmt: skip
            _put(table, row, texts, loudest)
        self.note.setText("" if rungs else "Nothing comes into it in this cue.")
        known = [r for r in rungs if r.control is not None] or rungs
        self.side_by_side.show_rungs(known, "Nothing comes into it in this cue.")


def _wide(ladder: LadderView) -> QScrollArea:
    """A ladder that can be longer than its room."""
    area = QScrollArea()
    area.setFrameShape(QFrame.Shape.NoFrame)
    area.setWidgetResizable(True)
    area.setFocusPolicy(Qt.FocusPolicy.NoFocus)
    area.setWidget(ladder)
    return area


def _choose(box: QComboBox, things: list[tuple[str, str]], chosen: str | None) -> None:
    box.blockSignals(True)
    box.clear()
    for name, id in things:
        box.addItem(name, id)
    box.setCurrentIndex(max(0, box.findData(chosen)))
    box.blockSignals(False)


def _room(rung: Rung) -> str:
    room = rung.headroom_db
    if room is None:
        return ""
    return f"{number(room, 1)} dB" if room >= 0 else f"over by {number(-room, 1)} dB"


def _put(table: QTableWidget, row: int, texts: list[str], data: str) -> None:
    for column, text in enumerate(texts):
        item = QTableWidgetItem(text)
        item.setData(Qt.ItemDataRole.UserRole, data)
        item.setTextAlignment(Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter)
        table.setItem(row, column, item)
