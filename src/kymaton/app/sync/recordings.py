"""Recordings on the step Sync: measured, compared with the prediction, taken over into the model."""

import datetime
from collections.abc import Callable
from fractions import Fraction
from pathlib import Path
from typing import TYPE_CHECKING

from msgspec.structs import replace
from PyQt6.QtWidgets import (
    QCheckBox,
    QComboBox,
    QFileDialog,
    QFrame,
    QHBoxLayout,
    QLineEdit,
    QMenu,
    QToolButton,
    QVBoxLayout,
    QWidget,
)

from kymaton.app.document import Document
from kymaton.app.hearing.view import scrolled
from kymaton.app.kinds import FILMS, chooser
from kymaton.app.sync.measuring import Measured, film_and_measure, make_clip, measure_files
from kymaton.app.sync.player import Playing
from kymaton.app.sync.plot import Plot
from kymaton.app.widgets.basic import button, empty, label
from kymaton.app.widgets.working import WorkRow
from kymaton.app.work import Job
from kymaton.core.edits.measurements import combined, compared, record_only, take_over
from kymaton.core.formats import read_format
from kymaton.core.model import Measurement, Show, ShowError
from kymaton.core.planning.sync_delays import frames_text
from kymaton.core.signal.av_offset import AVOffset, leads, window_of, worst
from kymaton.core.words import counted, lowered, ms, ms_within, number

if TYPE_CHECKING:
    pass


class RecordingsPage(QWidget):
    """Drop a recording of the sync clip here; what it tells can be taken over."""

    def __init__(self, document: Document) -> None:
        super().__init__()
        self.document = document
        self.results: list[Measured] = []
        self.rows: list[AVOffset] = []
        self.made = 0  # results so far
        self.parts: dict[str, tuple[str, ...]] = {}  # which results were taken over as one
        self.playing = Playing(self)
        self.playing.failed.connect(document.message)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(8)
        row = QHBoxLayout()
        row.addWidget(label("Recorded at", "soft"))
        self.place = QComboBox()
        self.place.setAccessibleName("Destination and camera of the recording")
        self.place.activated.connect(lambda _: self.refresh())
        row.addWidget(self.place, 1)
        row.addWidget(
            button("Measure a recording", self.ask, "main", "A film of the sync clip, made at that destination")
        )
        self.claps = QCheckBox("claps, no beeps")
        self.claps.setToolTip("For a recording of claps or clicks in the picture, instead of the sync clip")
        row.addWidget(self.claps)
        layout.addLayout(row)
        layout.addLayout(self._clip_row())
        layout.addLayout(self._practice_row())
        self.work = WorkRow(document)
        layout.addWidget(self.work)
        content = QWidget()
        self.cards = QVBoxLayout(content)
        self.cards.setContentsMargins(0, 0, 0, 0)
        layout.addWidget(scrolled(content), 1)
        document.report_changed.connect(self.refresh)
        document.cue_changed.connect(self.refresh)

    def _clip_row(self) -> QHBoxLayout:
        row = QHBoxLayout()
        self.format, self.seconds = QLineEdit("720p60"), QLineEdit("20")
        self.format.setToolTip("Another rate than the camera's: its flashes then fall everywhere between the frames")
        row.addWidget(label("Sync clip", "small"))
        for line, name, wide, unit in (
            (self.format, "Picture format of the sync clip: 720p60, 1920x1080p25", 110, ""),
            (self.seconds, "Length of the sync clip in s", 48, "s"),
        ):
            line.setAccessibleName(name)
            line.setFixedWidth(wide)
            row.addWidget(line)
            if unit:
                row.addWidget(label(unit, "small"))
        row.addWidget(button("Make it", self.ask_clip, "quiet", "Flash and beep, to be played before the camera"))
        row.addWidget(button("Play it", self.ask_play, "quiet", "Over the whole of the second screen; it flashes"))
        row.addStretch(1)
        return row

    def _practice_row(self) -> QHBoxLayout:
        row = QHBoxLayout()
        self.truth = QLineEdit("237")
        self.truth.setFixedWidth(60)
        self.truth.setAccessibleName("True picture delay of the simulated camera, in ms")
        tip = "Records a sync clip with the sound as late as the model says"
        row.addWidget(label("A simulated camera, late by", "small"))
        row.addWidget(self.truth)
        row.addWidget(label("ms, there", "small"))
        row.addWidget(button("Film and measure", self.simulate, "quiet", tip))
        row.addStretch(1)
        return row

    # what was recorded where

    def refresh(self) -> None:
        """Places where a recording can be made, and the results against what is predicted there now."""
        if not self.isVisible():
            return
        show, view = self.document.show, self.document.cue_report.view
        kept = self.place.currentData()
        self.rows = worst(leads(view), window_of(show))
        self.place.clear()
        for at, row in enumerate(self.rows):
            air = "" if row.on_air else ", off air"
            name = f"{show.listener(row.destination).name} with {lowered(show.device(row.camera).name)}{air}"
            self.place.addItem(name, (row.destination, row.source))
            if (row.destination, row.source) == kept:
                self.place.setCurrentIndex(at)
        if not self.rows:
            self.place.addItem("no destination with a picture in this cue", None)
        self._fill()

    def showEvent(self, event) -> None:  # type: ignore[no-untyped-def]
        super().showEvent(event)
        self.refresh()

    def row(self) -> AVOffset | None:
        at = self.place.currentIndex()
        return self.rows[at] if 0 <= at < len(self.rows) else None

    def _fill(self) -> None:
        empty(self.cards)
        show, row = self.document.show, self.row()
        here = [m for m in self.results if row is None or m.place in (None, (row.destination, row.source))]
        if not here:
            text = (
                "Play the sync clip before the camera, record it where the sound and the picture arrive, and drop the "
                "recording here."
            )
            self.cards.addWidget(label(text, "soft", wrap=True))
        alike = [m for m in here if m.row == here[-1].row]  # nothing was changed in between
        if len(alike) > 1:
            self._together(alike)
        for measured in reversed(here):
            self._card(measured)
        for kept in reversed(show.measurements[-8:]):
            way = "early" if kept.lead_ms >= 0 else "late"
            text = (
                f"{kept.date}: {kept.file}, sound {ms(abs(kept.lead_ms))} {way} ± {ms(kept.plus_minus_ms)}. {kept.note}"
            )
            self.cards.addWidget(label(text, "small", wrap=True))
        self.cards.addStretch(1)

    def _together(self, here: list[Measured]) -> None:
        """What several recordings of one place tell together."""
        both = combined([(m.found.lead_ms, m.found.plus_minus_ms) for m in here])
        way = "early" if both.lead_ms >= 0 else "late"
        text = f"{len(here)} recordings together: sound {ms_within(abs(both.lead_ms), both.plus_minus_ms)} {way}"
        found = replace(
            here[-1].found, lead_ms=both.lead_ms, plus_minus_ms=both.plus_minus_ms,
            matched=sum(m.found.matched for m in here),
        )  # fmt: skip
        whole = replace(
            here[-1], path=Path(f"{len(here)} recordings"), found=found, id=f"{here[-1].id}-with-{len(here) - 1}"
        )
        self.parts[whole.id] = tuple(m.id for m in here)
        line = QHBoxLayout()
        line.addWidget(label(text, "heading"))
        line.addStretch(1)
        take = button("Take over together", lambda: self.take_over(whole), "", "Weighed by how sure each is")
        take.setDisabled(any(self._is_taken(m) for m in (*here, whole)))
        line.addWidget(take)
        self.cards.addLayout(line)
        if both.disagrees:
            text = "They disagree by more than their ±: something changed in between, or one is wrong."
            self.cards.addWidget(label(text, "problem", wrap=True))

    def _is_taken(self, measured: Measured) -> bool:
        """Whether it is in the show already, by itself or with others."""
        kept = [m.id for m in self.document.show.measurements]
        return any(measured.id == id or measured.id in self.parts.get(id, ()) for id in kept)

    def _card(self, measured: Measured) -> None:
        show, found, row = self.document.show, measured.found, measured.row
        frame = QFrame()
        frame.setObjectName("card")
        inside = QVBoxLayout(frame)
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
            inside.addLayout(self._actions(measured, row))
        self.cards.addWidget(frame)

    def _actions(self, measured: Measured, row: AVOffset) -> QHBoxLayout:
        show, line = self.document.show, QHBoxLayout()
        if self._is_taken(measured):
            line.addWidget(label("It is in the show.", "soft"))
            line.addStretch(1)
            return line
        known = [d for d in row.chain if any(x.id == d for x in show.devices)]
        for device in [d for d in known if d == row.camera]:
            text = f"Take over for {lowered(show.device(device).name)}"
            take = button(text, lambda: self.take_over(measured), "main", "Its picture delay becomes measured")
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
                entry.triggered.connect(lambda _, device=device: self.take_over(measured, device))
            more.setMenu(menu)
            line.addWidget(more)
        line.addWidget(
            button("Keep as a note", lambda: self.keep(measured), "quiet", "In the list below; no figure changes")
        )
        line.addStretch(1)
        return line

    # work

    def ask(self) -> None:
        chosen, _ = QFileDialog.getOpenFileNames(self, "Measure recordings", str(Path.home()), chooser("Films", *FILMS))
        if chosen:
            self.measure([Path(c) for c in chosen])

    def measure(self, paths: list[Path]) -> None:
        """Measure recordings that were made at the chosen place."""
        claps = self.claps.isChecked()
        name = paths[0].name if len(paths) == 1 else f"{len(paths)} recordings"
        self._start(lambda job: measure_files(paths, claps, job), f"Measuring {name}")

    def _start(self, work: Callable[[Job], list[Measured | str]], what: str) -> None:
        """Measure something that was recorded here, with the show as it is now."""
        row, show = self.row(), self.document.show
        self.work.start(work, what, lambda results: self._measured(results, row, show))

    def _measured(self, results: list[Measured | str], row: AVOffset | None, show: Show) -> None:
        for result in results:
            if isinstance(result, str):
                self.document.message.emit(f"{result} It can be looked at by eye.")
            else:
                self._add(result, row, show)
        self.refresh()

    def add(self, measured: Measured) -> None:
        """One more result, of a recording that was made at the chosen place with the show as it is now."""
        self.refresh()
        self._add(measured, self.row(), self.document.show)
        self.refresh()

    def _add(self, measured: Measured, row: AVOffset | None, show: Show) -> None:
        self.made += 1
        now = datetime.datetime.now().strftime("%Y%m%d-%H%M%S")
        self.results.append(replace(measured, row=row, show=show, id=f"measured-{now}-{self.made}"))

    def ask_clip(self) -> None:
        chosen, _ = QFileDialog.getSaveFileName(
            self, "Make a sync clip", str(Path.home() / "sync clip.mp4"), chooser("Films", *FILMS)
        )
        if chosen:
            self.make_clip(Path(chosen))

    def ask_play(self) -> None:
        chosen, _ = QFileDialog.getOpenFileName(self, "Play a sync clip", str(Path.home()), chooser("Films", *FILMS))
        if chosen:
            self.play(Path(chosen))

    def play(self, path: Path) -> None:
        """Play a clip full screen; where that cannot be, it is said."""
        self.document.message.emit("The clip flashes about once a second: warn those who are in the room.")
        self.playing.start(path)

    def make_clip(self, path: Path) -> None:
        """Write a clip of the format and length that stand on the page."""
        try:
            picture, seconds = read_format(self.format.text()), float(self.seconds.text())
        except ShowError as error:
            self.document.message.emit(str(error))
            return
        except ValueError:
            self.document.message.emit(f"'{self.seconds.text()}' is not a length in seconds.")
            return
        self.work.start(
            lambda job: make_clip(path, picture, seconds, job), f"Making {path.name}",
            lambda made: self.document.message.emit(f"The clip was written to {made}. Play it full screen."),
        )  # fmt: skip

    def simulate(self) -> None:
        row = self.row()
        try:
            truth_ms = float(self.truth.text())
        except ValueError:
            truth_ms = -1.0
        if row is None or not 0 <= truth_ms <= 5000:
            self.document.message.emit("The simulated camera is late by 0 to 5000 ms, at a destination with a picture.")
            return
        picture_ms, sound_ms = row.with_camera(truth_ms)
        rate = Fraction(self.document.show.picture.rate)
        work = lambda job: film_and_measure(picture_ms, sound_ms, rate, job)  # noqa: E731
        self._start(work, "Filming with the simulated camera")

    # taking over

    def _measurement(self, measured: Measured, row: AVOffset) -> Measurement:
        found = measured.found
        return Measurement(
            id=measured.id, date=datetime.date.today().isoformat(), file=measured.path.name,
            destination=row.destination, source=row.source, cue=row.cue, lead_ms=round(found.lead_ms, 3),
            plus_minus_ms=round(found.plus_minus_ms, 3), drift_ppm=round(found.drift_ppm, 2),
            confidence=found.confidence,
        )  # fmt: skip

    def take_over(self, measured: Measured, device: str | None = None) -> None:
        """Let a device (the camera, where none is named) explain what was measured."""
        row, show = measured.row, self.document.show
        if row is None:
            return
        try:
            taken = take_over(show, row, self._measurement(measured, row), device, measured.show)
        except (ShowError, KeyError) as error:
            gone = "What was recorded is no longer in the show." if isinstance(error, KeyError) else str(error)
            self.document.message.emit(gone)
            return
        said = self._said(measured, row)
        self.document.edit(taken.show, f"take over a measurement for {show.device(device or row.camera).name}")
        self.document.message.emit(taken.text)
        self.document.log("taken over", f"{said} {taken.text}")

    def keep(self, measured: Measured) -> None:
        row = measured.row
        if row is not None:
            show = record_only(self.document.show, row, self._measurement(measured, row))
            self.document.edit(show, "keep a measurement")
            self.document.log("measured", self._said(measured, row))

    def _said(self, measured: Measured, row: AVOffset) -> str:
        """A measurement for the logbook: which file, where, and what was predicted there."""
        show, found = self.document.show, measured.found
        where = f"{show.listener(row.destination).name} with {lowered(show.device(row.camera).name)}"
        drift = f", drift {number(found.drift_ppm, 1)} ppm" if found.drift_ppm else ""
        sure = f"confidence {found.confidence}{drift}"
        told = compared(show, row, found.lead_ms, found.plus_minus_ms)
        return f"{measured.path.name}, {where}: {told} {found.matched} events, {sure}."
