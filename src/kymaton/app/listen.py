"""Listen: render what the chosen listener hears in the current cue, play it, write it to a file."""

from collections.abc import Callable
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING, Any

from msgspec import Struct
from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QFileDialog, QFrame, QHBoxLayout, QProgressBar, QVBoxLayout

from kymaton.app.document import Document
from kymaton.app.listen_means import ListenMeans, changed
from kymaton.app.tape import Tape
from kymaton.app.widgets.basic import button, label
from kymaton.app.work import Job
from kymaton.core.errors import Progress
from kymaton.core.model import Show
from kymaton.core.words import joined, said

if TYPE_CHECKING:
    from kymaton.core.signal.render import Audio
    from kymaton.media.audition import Audition


class Player:
    """The system's sound output, where there is one. QtMultimedia is loaded only when something is to be played."""

    def __init__(self, ended: Callable[[], None]) -> None:
        self.ended = ended
        self.sink: Any = None

    def play(self, tape: "Tape") -> str | None:
        """Start to play; a sentence when that is not possible."""
        try:
            from PyQt6.QtMultimedia import QAudio, QAudioFormat, QAudioSink, QMediaDevices
        except ImportError:
            return "This system has no sound output that Kymaton can use; the file can be exported."
        device = QMediaDevices.defaultAudioOutput()
        if device.isNull():
            return "No sound output was found; the file can be exported."
        layout = QAudioFormat()
        layout.setSampleRate(tape.rate_hz)
        layout.setChannelCount(2)
        layout.setSampleFormat(QAudioFormat.SampleFormat.Float)
        if not device.isFormatSupported(layout):
            return "The sound output does not take 48 kHz stereo; the file can be exported."
        self.stop()
        self.sink = QAudioSink(device, layout)
        self.sink.stateChanged.connect(lambda state: self._at_end() if state == QAudio.State.IdleState else None)
        self.sink.start(tape)
        return None

    def _at_end(self) -> None:
        self.stop()
        self.ended()

    def stop(self) -> None:
        if self.sink is not None:
            self.sink.stop()
            self.sink = None


class Order(Struct, frozen=True):
    """What is to be rendered: a cue or (`walk`) the whole show, some sounds (none named: all), and a second take."""

    show: Show
    folder: Path
    cue: str | None
    listener: str
    only: tuple[str, ...] = ()
    edges: frozenset[int] | None = None
    walk: bool = False
    beside: "tuple[Show, str | None] | None" = None


def render_takes(order: Order, job: Job) -> "list[Audition]":
    """To be run off-thread: what was ordered, and the second take behind it where there is one."""
    from kymaton.media import jobs
    from kymaton.media.audition import WALK_S
    from kymaton.store.stems import stand_ins

    def one(show: Show, cue: str | None, progress: Progress) -> "Audition":
        lent = stand_ins(show) if any(s.stem is None for s in show.sounds) else {}
        if order.walk:
            return jobs.make_walk(show, order.folder, order.listener, WALK_S, progress=progress, stand_ins=lent)
        return jobs.make_audition(show, order.folder, cue, order.listener, order.only, progress, lent, order.edges)

    if order.beside is None:
        return [one(order.show, order.cue, job.report)]
    return [one(order.show, order.cue, job.part(0, 2)), one(*order.beside, job.part(1, 2))]


def save_audition(audition: "Audition", path: Path) -> None:
    """To be run off-thread, like the rendering."""
    from kymaton.media.audition import write_audition

    write_audition(audition, path)


class ListenBar(QFrame):
    """A bar below the views: progress with Stop, then Play and Export."""

    closed = pyqtSignal()

    def __init__(self, document: Document) -> None:
        super().__init__()
        self.document = document
        self.setObjectName("strip")
        self.audition: Audition | None = None
        self.made_for: tuple[object, ...] = ()
        self.job: Job | None = None
        self.player = Player(self._buttons)
        self.tape: Tape | None = None
        self.takes: list[Audition] = []
        self.rolling: object = None  # what is being made ready to be played
        self.beside: Callable[[], tuple[str, Show, str | None] | None] = lambda: None
        self.only: tuple[str, ...] = ()
        self.edges: frozenset[int] | None = None  # of one way alone
        self.walk = False
        whole = QVBoxLayout(self)
        whole.setContentsMargins(20, 8, 16, 8)
        whole.setSpacing(6)
        layout = QHBoxLayout()
        layout.setSpacing(12)
        whole.addLayout(layout)
        self.means = ListenMeans(self)
        whole.addWidget(self.means)
        text = QVBoxLayout()
        text.setSpacing(2)
        self.title = label("", "strong")
        self.note = label("", "small", wrap=True)
        text.addWidget(self.title)
        text.addWidget(self.note)
        layout.addLayout(text, 1)
        self.progress = QProgressBar()
        self.progress.setRange(0, 1000)
        self.progress.setTextVisible(False)
        self.progress.setFixedWidth(140)
        self.progress.setAccessibleName("Progress of the rendering")
        layout.addWidget(self.progress)
        self.stop_button = button("Stop", self.stop, "", "Stop rendering or playing")
        self.play_button = button("Play", self.play, "main")
        self.export_button = button("Export", self.export, "", "Write a WAV or FLAC file")
        for item in (self.stop_button, self.play_button, self.export_button):
            layout.addWidget(item)
        layout.addWidget(button("Close", self._close, "quiet"))
        document.report_changed.connect(self._check)
        document.selection_changed.connect(self._check)

    def _wanted(self) -> tuple[object, ...]:
        beside = self.beside()
        other = None if beside is None else (beside[0], id(beside[1]), beside[2])
        return (
            id(self.document.show),
            self.document.cue_id,
            self.document.listener_id,
            self.only,
            self.edges,
            self.walk,
            other,
        )

    def _check(self) -> None:
        """What was rendered is no longer what would be heard."""
        if self.isVisible() and self.audition is not None and self.made_for != self._wanted():
            self.audition = self.tape = None
            self.player.stop()
            self.note.setText("The show or the choice has changed since. Press Listen to hear it as it is now.")
            self._buttons()

    def listen(self) -> None:
        """Render for the chosen listener in the current cue."""
        document = self.document
        listeners = [x.id for x in document.show.listeners]
        self.show()
        if document.listener_id not in listeners:
            self.title.setText("Choose a listener first.")
            self.note.setText("")
            self.audition = None
            self._buttons()
            return
        if self.audition is not None and self.made_for == self._wanted():
            self.play()
            return
        self.stop()
        show, cue, listener = document.show, document.cue_id, document.listener_id
        assert listener is not None
        self.only = tuple(s for s in self.only if any(s == x.id for x in show.sounds))
        beside = self.beside() if not self.walk and self.edges is None else None
        second = None if beside is None else beside[1:]
        walk = self.walk and bool(show.cues)
        order = Order(show, document.folder or Path(), cue, listener, self.only, self.edges, walk, second)
        self.made_for, self.audition = self._wanted(), None
        where = f" in {show.cue(cue).name}" if cue else ""
        if order.walk:
            where = " in the whole show, shortened"
        self.title.setText(f"What {said(show.listener(listener))} hears{where}")
        self.note.setText("Rendering")
        self.job = Job(
            lambda job: render_takes(order, job),
            self._done,
            self._failed,
            partial(self._failed, "Stopped."),
            self._progressed,
        )
        self.job.begin()
        self._buttons()

    def _done(self, takes: "list[Audition]") -> None:
        self.job = None
        audition, self.takes = takes[0], takes
        if self.made_for != self._wanted():
            self.note.setText("The show or the choice has changed since. Press Listen to hear it as it is now.")
        else:
            self.audition = audition
            self.means.ready()
            self.note.setText(self._facts(audition))
        self._buttons()

    @staticmethod
    def _facts(audition: "Audition") -> str:
        top = audition.full_scale + audition.turned_down_db
        facts = [f"{audition.seconds:.0f} s; full scale is {top:.0f} {audition.unit}"]
        if audition.turned_down_db:
            facts.append(f"turned down by {audition.turned_down_db:.1f} dB so that it does not clip")
        if audition.by_stand_in:
            facts.append(f"a recording of the demo stands in for {joined(audition.by_stand_in)}")
        if audition.without_stem:
            facts.append(f"no recording for {joined(audition.without_stem)}")
        return "; ".join(facts) + ". Begin softly: headphones can be loud."

    def _progressed(self, part: float) -> None:
        self.progress.setValue(round(1000 * part))

    def _failed(self, text: str) -> None:
        self.job = None
        self.note.setText(text)
        self._buttons()

    def _buttons(self) -> None:
        self.progress.setVisible(self.job is not None)
        self.stop_button.setVisible(self.job is not None or self.player.sink is not None)
        self.play_button.setVisible(self.audition is not None)
        self.export_button.setVisible(self.audition is not None)
        self.means.setVisible(self.audition is not None or self.job is not None)

    def play(self, at: int | None = None) -> None:
        """Play what was rendered, from a frame if one is said, else from the beginning of the passage."""
        audition = self.audition
        if audition is None:
            return
        make = self.rolling = self.means.heard()
        Job(lambda job: make(), partial(self._roll, make, at), self._failed).begin()

    def _roll(self, make: object, at: int | None, takes: "list[Audio]") -> None:
        if make is self.rolling and self.audition is not None:  # nothing else was chosen meanwhile, nor Stop pressed
            tape = self.means.wound(takes)
            tape.at = tape.at if at is None else at
            trouble = self.player.play(tape)
            if trouble:
                self.note.setText(trouble)
        self._buttons()

    def stop(self) -> None:
        self.player.stop()
        self.rolling = None
        if self.job is not None:
            self.job.stop()
        self._buttons()

    def export(self, path: Path | None = None) -> None:
        """Write the audition; asks for the file when none is given."""
        if self.audition is None:
            return
        if path is None:
            name = f"{self.document.listener_id}-{self.document.cue_id or 'base'}.wav"
            start_at = str((self.document.path.parent if self.document.path else Path.home()) / name)
            chosen, _ = QFileDialog.getSaveFileName(self, "Export", start_at, "WAV (*.wav);;FLAC (*.flac)")
            if not chosen:
                return
            path = Path(chosen)
            if not path.suffix:
                path = path.with_suffix(".wav")
        audition, target, on = self.audition, path, self.means.on
        self.note.setText("Writing")
        Job(
            lambda job: save_audition(changed(audition, on), target), partial(self._written, target), self.note.setText
        ).begin()

    def _written(self, target: Path, _: object) -> None:
        self.note.setText(f"Written: {target}")

    def _close(self) -> None:
        self.stop()
        self.hide()
        self.closed.emit()
