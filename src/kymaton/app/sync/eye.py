"""Sync judged by eye: where an event is first seen and where it is heard, marked by hand."""

from collections.abc import Callable
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING, Any

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QKeySequence, QShortcut
from PyQt6.QtWidgets import QFileDialog, QHBoxLayout, QVBoxLayout, QWidget

from kymaton.app.document import Document
from kymaton.app.kinds import FILMS, chooser
from kymaton.app.sync.filmstrip import FilmStrip
from kymaton.app.sync.measuring import Measured
from kymaton.app.sync.overview import Overview
from kymaton.app.widgets.basic import button, empty, label
from kymaton.app.widgets.working import WorkRow
from kymaton.app.work import Job
from kymaton.core.errors import FileError
from kymaton.core.measuring.beeps import find_clicks, next_onset
from kymaton.core.measuring.lead_estimate import Mark, lead_from_marks
from kymaton.core.measuring.marks_by_hand import steps
from kymaton.core.planning.sync_delays import frames_text
from kymaton.core.words import ms, ms_within, number
from kymaton.media import jobs

if TYPE_CHECKING:
    from kymaton.media.frames import Film, Look, Opened

NEAR_S = 0.1  # a sudden sound that is meant lies so near to where it was seen in the overview


def look_at(film: "Film", at_s: float, snap: bool, job: Job) -> "tuple[Look, float | None]":
    """What is around a place; with `snap` also where the sudden sound nearest to it begins."""
    look = jobs.look(film, at_s, job.report)
    clicks = find_clicks(look.sound, look.rate_hz, look.sound_s) if snap else []
    near = [c.time_s for c in clicks if abs(c.time_s - at_s) < NEAR_S]
    return look, min(near, key=lambda time_s: abs(time_s - at_s), default=None)


class EyePage(QWidget):
    """Step to the frame on which a clap is first seen, put the line where it is heard, mark; a few of them."""

    def __init__(self, document: Document, use: Callable[[Measured], object]) -> None:
        super().__init__()
        self.document, self.use = document, use
        self.film: Film | None = None
        self.peaks: Any = None
        self.marks: list[Mark] = []
        self.reading: Job | None = None
        self.next: tuple[float, bool] | None = None
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(8)
        row = QHBoxLayout()
        self.about = label("A clap is enough: hands, a board, anything seen and heard at once.", "soft", wrap=True)
        row.addWidget(self.about, 1)
        self.here = label("", "figures")
        row.addWidget(self.here)
        row.addWidget(
            button("Clap board", self.ask_board, "", "A sheet to print, fold and clap; how to use it is on it")
        )
        self.open_button = button("Open a recording", self.ask, "main", "Frame by frame, with its sound")
        row.addWidget(self.open_button)
        layout.addLayout(row)
        self.work = WorkRow(document)
        layout.addWidget(self.work)
        self.strip, self.overview = FilmStrip(), Overview()
        layout.addWidget(self.strip, 1)
        layout.addWidget(self.overview)
        hands = QHBoxLayout()
        for text, do, tip, key in (
            ("Frame before", lambda: self.strip.step_frame(-1), "Left", ""),
            ("Frame after", lambda: self.strip.step_frame(1), "Right", ""),
            ("Closer", lambda: self.strip.zoom(0.5), "Up; the wheel does it too", ""),
            ("Wider", lambda: self.strip.zoom(2.0), "Down", ""),
            ("Next sound", self.next_sound, "Look where the sound next rises suddenly (N)", "N"),
            ("Mark", self.mark, "Seen first on the middle frame, heard at the line (M)", "M"),
        ):
            hands.addWidget(button(text, do, "main" if text == "Mark" else "", tip))
            if key:
                shortcut = QShortcut(QKeySequence(key), self)
                shortcut.setContext(Qt.ShortcutContext.WidgetWithChildrenShortcut)
                shortcut.activated.connect(do)
        hands.addStretch(1)
        self.steps = QWidget()
        self.steps.setLayout(hands)
        hands.setContentsMargins(0, 0, 0, 0)
        layout.addWidget(self.steps)
        self.told = QVBoxLayout()
        layout.addLayout(self.told)
        self.strip.moved.connect(self._moved)
        self.strip.wanted.connect(self.go)
        self.overview.chosen.connect(self.go)
        for part in (self.strip, self.overview, self.steps):
            part.hide()
        self.by_hand = QVBoxLayout()
        layout.addLayout(self.by_hand)
        self.bottom = QWidget()
        layout.addWidget(self.bottom, 1)
        document.report_changed.connect(self._tell_how)
        self._tell_how()

    def _tell_how(self) -> None:
        """The way to do it by hand, while nothing is open."""
        empty(self.by_hand)
        for at, text in enumerate(steps(self.document.show), start=1) if self.film is None else ():
            self.by_hand.addWidget(label(f"{at}.  {text}", "soft", wrap=True))

    def ask_board(self) -> None:
        chosen, _ = QFileDialog.getSaveFileName(
            self, "Save the clap board", str(Path.home() / "clap board.pdf"), "PDF (*.pdf)"
        )
        if chosen:
            self.save_board(Path(chosen))

    def save_board(self, path: Path) -> None:
        from kymaton.app.sync.board import write_board

        try:
            write_board(self.document.show, path)
        except FileError as error:
            self.document.message.emit(str(error))
            return
        self.document.message.emit(f"The clap board was written to {path}.")

    # reading

    def ask(self) -> None:
        chosen, _ = QFileDialog.getOpenFileName(self, "Open a recording", str(Path.home()), chooser("Films", *FILMS))
        if chosen:
            self.open(Path(chosen))

    def open(self, path: Path) -> None:
        self.work.start(lambda job: jobs.open_film(path, job.report), f"Reading {path.name}", self._opened)

    def _opened(self, opened: "Opened") -> None:
        self.film, self.peaks, self.marks = opened.film, opened.peaks, []
        self.overview.show_film(opened.film.length_s, opened.peaks)
        for part in (self.strip, self.overview, self.steps):
            part.show()
        self.bottom.hide()
        self._tell_how()
        self.about.setText(f"{opened.film.path.name}: {len(opened.film.times_s)} frames")
        self.strip.show_look(opened.look, opened.film.times_s[0])
        self.strip.setFocus()
        self._fill()

    def go(self, at_s: float, snap: bool = False) -> None:
        """Look at another place; what is shown stays until that is read."""
        film = self.film
        if film is None:
            return
        if self.reading is not None:
            self.next = (at_s, snap)  # the last place that was wanted meanwhile
            return
        at_s = min(max(at_s, film.times_s[0]), film.times_s[-1])
        self.reading = Job(
            lambda job: look_at(film, at_s, snap, job), partial(self._looked, at_s), self._failed, self._not_looked
        )
        self.reading.begin()

    def _looked(self, at_s: float, found: "tuple[Look, float | None]") -> None:
        self.reading = None
        look, heard_s = found
        self.strip.show_look(look, at_s, heard_s)
        if self.next is not None:
            (at_s, snap), self.next = self.next, None
            self.go(at_s, snap)

    def _not_looked(self) -> None:
        self.reading = self.next = None

    def _failed(self, text: str) -> None:
        self._not_looked()
        self.document.message.emit(text)

    def next_sound(self) -> None:
        """Look at the next sudden sound; the line goes to where it begins."""
        if self.film is None:
            return
        from kymaton.media.frames import PEAKS_PER_S

        found = next_onset(self.peaks, PEAKS_PER_S, self.strip.sound_s + 0.15)
        if found is None:
            self.document.message.emit("After this place the sound does not rise suddenly any more.")
        else:
            self.go(found, snap=True)

    # marks

    def mark(self) -> None:
        """The event is first seen on the middle frame, and heard at the line."""
        still = self.strip.still
        if still is None:
            return
        made = Mark(still.time_s, self.strip.before_s, self.strip.sound_s)
        self.marks = sorted(
            [m for m in self.marks if m.picture_s != made.picture_s] + [made], key=lambda m: m.picture_s
        )
        self._fill()

    def forget(self, mark: Mark) -> None:
        self.marks = [m for m in self.marks if m != mark]
        self._fill()

    def _moved(self) -> None:
        still = self.strip.still
        if still is None:
            return
        lead = Mark(still.time_s, self.strip.before_s, self.strip.sound_s).lead_ms
        way = "early" if lead >= 0 else "late"
        self.here.setText(f"here: sound {ms(abs(lead))} {way}")
        self.overview.go(still.time_s, [m.picture_s for m in self.marks])

    def _fill(self) -> None:
        empty(self.told)
        self._moved()
        if not self.marks:
            text = (
                "Step until the clap is seen on the middle frame and not yet on the left one, put the line where it is "
                "heard, then mark. Three or more marks are surer than one."
            )
            self.told.addWidget(label(text, "soft", wrap=True))
            return
        found = lead_from_marks(self.marks)
        row = QHBoxLayout()
        way = "early" if found.lead_ms >= 0 else "late"
        frames = frames_text(self.document.show, abs(found.lead_ms))
        text = f"Sound is {ms_within(abs(found.lead_ms), found.plus_minus_ms)} ({frames}) {way}"
        row.addWidget(label(text, "heading"))
        row.addStretch(1)
        row.addWidget(button("Use as a measurement", self.take, "main", "With the other recordings, to be taken over"))
        self.told.addLayout(row)
        each = QHBoxLayout()
        for mark in self.marks[-6:]:
            text = f"{number(mark.picture_s, 2)} s: {number(mark.lead_ms, 1)} ms  ×"
            each.addWidget(button(text, partial(self.forget, mark), "quiet", "Forget this mark"))
        each.addStretch(1)
        self.told.addLayout(each)
        for remark in found.remarks:
            self.told.addWidget(label(remark, "small", wrap=True))

    def take(self) -> None:
        if self.film is not None and self.marks:
            self.use(Measured(self.film.path, lead_from_marks(self.marks)))
