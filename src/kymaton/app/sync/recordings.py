"""Recordings on the step Sync: measured, compared with the prediction, taken over into the model."""

import datetime
import tempfile
from dataclasses import dataclass, replace
from fractions import Fraction
from pathlib import Path
from typing import TYPE_CHECKING

from PyQt6.QtWidgets import (
    QCheckBox,
    QComboBox,
    QFileDialog,
    QHBoxLayout,
    QLineEdit,
    QVBoxLayout,
    QWidget,
)

from kymaton.app.document import Document
from kymaton.app.hearing.view import scrolled
from kymaton.app.kinds import FILMS, chooser
from kymaton.app.sync.player import Playing
from kymaton.app.sync.plot import Plot
from kymaton.app.widgets.basic import button, empty, label
from kymaton.app.widgets.working import WorkRow
from kymaton.app.work import Job
from kymaton.core.model import Measurement, ShowError
from kymaton.core.sync import frames_text
from kymaton.core.takeover import combined, compared, record_only, take_over
from kymaton.core.timing import Lead, leads, window_of, worst
from kymaton.core.words import lowered, ms, number
from kymaton.store.showfile import FileError

if TYPE_CHECKING:
    from kymaton.core.judge import SyncMeasurement


Place = tuple[str, str]  # a destination, and the input that takes the picture


@dataclass(frozen=True)
class Measured:
    """A recording, what it told, and where it was made."""

    path: Path
    found: "SyncMeasurement"
    place: Place | None = None


def measure_files(paths: list[Path], claps: bool, place: Place | None, job: Job) -> list[Measured | str]:
    """What each recording told, or why it told nothing. To be run off-thread; FFmpeg is loaded only then."""
    from kymaton.media.measure import measure

    results: list[Measured | str] = []
    for at, path in enumerate(paths):
        try:
            found = measure(path, lambda part, at=at: job.report((at + part) / len(paths)), claps)
            results.append(Measured(path, found, place))
        except FileError as error:
            results.append(str(error))
    return results


def make_clip(path: Path, rate: Fraction, seconds: float, job: Job) -> Path:
    from kymaton.media.clips import Clip, write_clip

    write_clip(Clip(rate, seconds), path, job.report)
    return path


def film_and_measure(
    picture_ms: float, sound_ms: float, rate: Fraction, place: Place | None, job: Job
) -> list[Measured | str]:
    """What a simulated camera delivers of a sync clip, measured like any recording."""
    from kymaton.media.measure import measure
    from kymaton.sim.camera import Camera, record

    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "simulated camera.mkv"
        camera = Camera(rate=rate, seconds=14.0, picture_ms=picture_ms, sound_ms=sound_ms, exposure=0.5)
        record(camera, path, lambda part: job.report(0.6 * part))
        found = measure(path, lambda part: job.report(0.6 + 0.4 * part))
        return [Measured(Path(path.name), found, place)]


class RecordingsPage(QWidget):
    """Drop a recording of the sync clip here; what it tells can be taken over."""

    def __init__(self, document: Document) -> None:
        super().__init__()
        self.document = document
        self.results: list[Measured] = []
        self.rows: list[Lead] = []
        self.playing = Playing(self)
        self.playing.failed.connect(document.trouble)
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
        row.addWidget(button("Make a sync clip", self.ask_clip, "", "Flash and beep, to be played before the camera"))
        row.addWidget(button("Play it", self.ask_play, "", "Over the whole of the second screen; it flashes"))
        layout.addLayout(row)
        practice = QHBoxLayout()
        practice.addWidget(label("A simulated camera, late by", "small"))
        self.truth = QLineEdit("237")
        self.truth.setFixedWidth(60)
        self.truth.setAccessibleName("True picture delay of the simulated camera, in ms")
        practice.addWidget(self.truth)
        practice.addWidget(label("ms, there", "small"))
        practice.addWidget(
            button(
                "Film and measure",
                self.simulate,
                "quiet",
                "Records a sync clip with the sound as late as the model says",
            )
        )
        practice.addStretch(1)
        self.claps = QCheckBox("claps or clicks, no beeps")
        self.claps.setToolTip("For a recording of claps in the picture, instead of the sync clip")
        practice.addWidget(self.claps)
        layout.addLayout(practice)
        self.work = WorkRow(document)
        layout.addWidget(self.work)
        content = QWidget()
        self.cards = QVBoxLayout(content)
        self.cards.setContentsMargins(0, 0, 0, 0)
        layout.addWidget(scrolled(content), 1)
        document.report_changed.connect(self.refresh)
        document.cue_changed.connect(self.refresh)

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

    def row(self) -> Lead | None:
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
        if len(here) > 1 and row is not None:
            self._together(here, row)
        for measured in reversed(here):
            self._card(measured, row)
        for kept in reversed(show.measurements[-8:]):
            way = "early" if kept.lead_ms >= 0 else "late"
            text = (
                f"{kept.date}: {kept.file}, sound {ms(abs(kept.lead_ms))} {way} ± {ms(kept.plus_minus_ms)}. {kept.note}"
            )
            self.cards.addWidget(label(text, "small", wrap=True))
        self.cards.addStretch(1)

    def _together(self, here: list[Measured], row: Lead) -> None:
        """What several recordings of one place tell together."""
        both = combined([(m.found.lead_ms, m.found.plus_minus_ms) for m in here])
        way = "early" if both.lead_ms >= 0 else "late"
        line = QHBoxLayout()
        text = f"{len(here)} recordings together: sound {ms(abs(both.lead_ms))} {way}, ± {ms(both.plus_minus_ms)}"
        line.addWidget(label(text, "heading"))
        line.addStretch(1)
        found = replace(
            here[-1].found, lead_ms=both.lead_ms, plus_minus_ms=both.plus_minus_ms,
            matched=sum(m.found.matched for m in here),
        )  # fmt: skip
        taken = Measured(Path(f"{len(here)} recordings"), found, here[-1].place)
        line.addWidget(button("Take over together", lambda: self.take_over(taken), "", "Weighed by how sure each is"))
        self.cards.addLayout(line)
        if both.disagrees:
            text = "They disagree by more than their ±: something changed in between, or one is wrong."
            self.cards.addWidget(label(text, "problem", wrap=True))

    def _card(self, measured: Measured, row: Lead | None) -> None:
        from PyQt6.QtWidgets import QFrame

        show, found = self.document.show, measured.found
        frame = QFrame()
        frame.setObjectName("card")
        inside = QVBoxLayout(frame)
        head = QHBoxLayout()
        head.addWidget(label(measured.path.name, "strong"))
        head.addStretch(1)
        head.addWidget(
            label(
                f"{found.matched} {'event' if found.matched == 1 else 'events'}, confidence {found.confidence}", "small"
            )
        )
        inside.addLayout(head)
        way = "early" if found.lead_ms >= 0 else "late"
        frames = frames_text(show, abs(found.lead_ms))
        inside.addWidget(
            label(f"Sound is {ms(abs(found.lead_ms))} ({frames}) {way}, ± {ms(found.plus_minus_ms)}", "heading")
        )
        points = [(e.time_s, e.lead_ms) for e in found.events]
        title = "lead in ms, over the recording"
        inside.addWidget(Plot(points, found.lead_ms, found.plus_minus_ms, title, found.drift_ppm, found.middle_s))
        if found.drift_ppm:
            text = f"It drifts by {number(found.drift_ppm, 1)} ± {number(found.drift_plus_minus_ppm, 1)} ppm."
            inside.addWidget(label(text, "", wrap=True))
        for remark in found.remarks:
            inside.addWidget(label(remark, "small", wrap=True))
        if row is not None:
            inside.addWidget(label(compared(show, row, found.lead_ms, found.plus_minus_ms), "", wrap=True))
            actions = QHBoxLayout()
            name = lowered(show.device(row.camera).name)
            actions.addWidget(
                button(
                    f"Take over for {name}",
                    lambda: self.take_over(measured),
                    "main",
                    "Its picture delay becomes measured",
                )
            )
            actions.addWidget(
                button("Keep as a note", lambda: self.keep(measured), "quiet", "In the list below; no figure changes")
            )
            actions.addStretch(1)
            inside.addLayout(actions)
        self.cards.addWidget(frame)

    # work

    def ask(self) -> None:
        chosen, _ = QFileDialog.getOpenFileNames(self, "Measure recordings", str(Path.home()), chooser("Films", *FILMS))
        if chosen:
            self.measure([Path(c) for c in chosen])

    def measure(self, paths: list[Path]) -> None:
        """Measure recordings that were made at the chosen place."""
        claps, place = self.claps.isChecked(), self.place.currentData()
        name = paths[0].name if len(paths) == 1 else f"{len(paths)} recordings"
        self.work.start(lambda job: measure_files(paths, claps, place, job), f"Measuring {name}", self._measured)

    def _measured(self, results: list[Measured | str]) -> None:
        for result in results:
            if isinstance(result, str):
                self.document.trouble.emit(f"{result} It can be looked at by eye.")
            else:
                self.add(result)

    def add(self, measured: Measured) -> None:
        """One more result, the newest on top."""
        self.results.append(measured)
        self.refresh()

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
        self.document.trouble.emit("The clip flashes about once a second: warn those who are in the room.")
        self.playing.start(path)

    def make_clip(self, path: Path, seconds: float = 20.0) -> None:
        rate = Fraction(60)  # other than the camera's, so that flashes fall everywhere between its frames
        self.work.start(
            lambda job: make_clip(path, rate, seconds, job), f"Making {path.name}",
            lambda made: self.document.trouble.emit(f"The clip was written to {made}. Play it full screen."),
        )  # fmt: skip

    def simulate(self) -> None:
        row = self.row()
        try:
            truth_ms = float(self.truth.text())
        except ValueError:
            truth_ms = -1.0
        if row is None or not 0 <= truth_ms <= 5000:
            self.document.trouble.emit("The simulated camera is late by 0 to 5000 ms, at a destination with a picture.")
            return
        place = self.place.currentData()
        picture_ms, sound_ms = row.with_camera(truth_ms)
        rate = Fraction(self.document.show.picture.rate)
        self.work.start(
            lambda job: film_and_measure(picture_ms, sound_ms, rate, place, job), "Filming with the simulated camera",
            self._measured,
        )  # fmt: skip

    # taking over

    def _measurement(self, measured: Measured, row: Lead) -> Measurement:
        found = measured.found
        return Measurement(
            id="measurement", date=datetime.date.today().isoformat(), file=measured.path.name,
            destination=row.destination, source=row.source, cue=row.cue, lead_ms=round(found.lead_ms, 3),
            plus_minus_ms=round(found.plus_minus_ms, 3), drift_ppm=round(found.drift_ppm, 2),
            confidence=found.confidence,
        )  # fmt: skip

    def take_over(self, measured: Measured) -> None:
        row = self.row()
        if row is None:
            return
        try:
            taken = take_over(self.document.show, row, self._measurement(measured, row))
            said = self._said(measured, row)
        except ShowError as error:
            self.document.trouble.emit(str(error))
            return
        self.document.edit(taken.show, f"take over a measurement for {self.document.show.device(row.camera).name}")
        self.document.trouble.emit(taken.text)
        self.document.log("taken over", f"{said} {taken.text}")

    def keep(self, measured: Measured) -> None:
        row = self.row()
        if row is not None:
            show = record_only(self.document.show, row, self._measurement(measured, row))
            self.document.edit(show, "keep a measurement")
            self.document.log("measured", self._said(measured, row))

    def _said(self, measured: Measured, row: Lead) -> str:
        """A measurement for the logbook: which file, where, and what was predicted there."""
        show, found = self.document.show, measured.found
        where = f"{show.listener(row.destination).name} with {lowered(show.device(row.camera).name)}"
        drift = f", drift {number(found.drift_ppm, 1)} ppm" if found.drift_ppm else ""
        sure = f"confidence {found.confidence}{drift}"
        told = compared(show, row, found.lead_ms, found.plus_minus_ms)
        return f"{measured.path.name}, {where}: {told} {found.matched} events, {sure}."
