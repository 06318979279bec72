"""Recordings on the step Sync: measured, compared with the prediction, taken over into the model."""

import datetime
from collections.abc import Callable
from fractions import Fraction
from pathlib import Path

from msgspec.structs import replace
from PyQt6.QtGui import QShowEvent
from PyQt6.QtWidgets import QCheckBox, QComboBox, QFileDialog, QHBoxLayout, QLineEdit, QVBoxLayout, QWidget

from kymaton.app.document import Document
from kymaton.app.kinds import FILMS, chooser
from kymaton.app.sync.clip_row import ClipRow
from kymaton.app.sync.measuring import Measured, film_and_measure, measure_files
from kymaton.app.sync.player import Playing
from kymaton.app.sync.result_card import ResultCard
from kymaton.app.widgets.basic import button, empty, label, scrolled
from kymaton.app.widgets.working import WorkRow
from kymaton.app.work import Job
from kymaton.core.edits.measurements import combined, compared, record_only, take_over
from kymaton.core.model import Measurement, Show, ShowError
from kymaton.core.signal.av_offset import AVOffset, leads, worst
from kymaton.core.words import lowered, ms, ms_within, number

GONE = "What was recorded is no longer in the show."


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
        self.not_filmed = QCheckBox("not filmed")
        self.not_filmed.setToolTip("For a file that no camera took: its flashes begin exactly with their frames")
        row.addWidget(self.not_filmed)
        layout.addLayout(row)
        self.work = WorkRow(document)
        self.clip = ClipRow(document, self.work, self.playing)
        layout.addWidget(self.clip)
        layout.addLayout(self._practice_row())
        layout.addWidget(self.work)
        content = QWidget()
        self.cards = QVBoxLayout(content)
        self.cards.setContentsMargins(0, 0, 0, 0)
        layout.addWidget(scrolled(content), 1)
        document.report_changed.connect(self.refresh)
        document.cue_changed.connect(self.refresh)

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
        self.rows = worst(leads(view))
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

    def showEvent(self, event: QShowEvent | None) -> None:
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
                "recording here. Make the clip at a rate unlike the camera's, and do not let its white be overexposed; "
                "then the lead is known to a few milliseconds, else to half a frame."
            )
            self.cards.addWidget(label(text, "soft", wrap=True))
        alike = [m for m in here if m.row == here[-1].row]  # nothing was changed in between
        if len(alike) > 1:
            self._together(alike)
        for measured in reversed(here):
            card = ResultCard(show, measured, self._is_taken(measured))
            card.take_over.connect(lambda device, measured=measured: self.take_over(measured, device))
            card.keep.connect(lambda measured=measured: self.keep(measured))
            self.cards.addWidget(card)
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

    # work

    def ask(self) -> None:
        chosen, _ = QFileDialog.getOpenFileNames(self, "Measure recordings", str(Path.home()), chooser("Films", *FILMS))
        if chosen:
            self.measure([Path(c) for c in chosen])

    def measure(self, paths: list[Path]) -> None:
        """Measure recordings that were made at the chosen place."""
        claps, made = self.claps.isChecked(), self.not_filmed.isChecked()
        name = paths[0].name if len(paths) == 1 else f"{len(paths)} recordings"
        self._start(lambda job: measure_files(paths, claps, made, job), f"Measuring {name}")

    def _start(self, work: Callable[[Job], list[Measured | str]], what: str) -> None:
        """Measure something that was recorded here, with the show as it is now."""
        row, show = self.row(), self.document.show
        self.work.start(work, what, lambda results: self._measured(results, row, show))

    def _measured(self, results: list[Measured | str], row: AVOffset | None, show: Show) -> None:
        for result in results:
            if isinstance(result, str):
                self.document.message.emit(result)
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
            self.document.message.emit(GONE if isinstance(error, KeyError) else str(error))
            return
        said = self._said(measured, row)
        self.document.edit(taken.show, f"take over a measurement for {show.device(device or row.camera).name}")
        self.document.message.emit(taken.text)
        self.document.log("taken over", f"{said} {taken.text}")

    def keep(self, measured: Measured) -> None:
        row = measured.row
        if row is None:
            return
        try:
            said = self._said(measured, row)
        except KeyError:
            self.document.message.emit(GONE)
            return
        self.document.edit(record_only(self.document.show, row, self._measurement(measured, row)), "keep a measurement")
        self.document.log("measured", said)

    def _said(self, measured: Measured, row: AVOffset) -> str:
        """A measurement for the logbook: which file, where, and what was predicted there."""
        show, found = self.document.show, measured.found
        where = f"{show.listener(row.destination).name} with {lowered(show.device(row.camera).name)}"
        drift = f", drift {number(found.drift_ppm, 1)} ppm" if found.drift_ppm else ""
        sure = f"confidence {found.confidence}{drift}"
        told = compared(show, row, found.lead_ms, found.plus_minus_ms)
        return f"{measured.path.name}, {where}: {told} {found.matched} events, {sure}."
