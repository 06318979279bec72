"""How it is listened to: which sounds, on what, which passage again and again, and the second take beside the first."""

from collections.abc import Callable
from functools import partial
from typing import TYPE_CHECKING

import numpy as np
from msgspec.structs import replace
from PyQt6.QtWidgets import QCheckBox, QDoubleSpinBox, QHBoxLayout, QWidget

from kymaton.app.tape import Tape
from kymaton.app.widgets.basic import button, passing_menu
from kymaton.core.signal.heard_on import ALL, AS_IT_IS, HeardOn, heard_on
from kymaton.core.words import ms

if TYPE_CHECKING:
    from kymaton.app.listen import ListenBar
    from kymaton.core.signal.render import Audio
    from kymaton.media.audition import Audition


class ListenMeans(QWidget):
    """A row below the bar; what is changed here is heard at once, but for the choice of sounds, which is rendered."""

    def __init__(self, bar: "ListenBar") -> None:
        super().__init__()
        self.bar = bar
        self.on: HeardOn = AS_IT_IS
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(8)
        self.sounds = button("All sounds", self._choose_sounds, "quiet", "Which sounds are rendered")
        self.ways = button("All ways", self._choose_way, "quiet", "One way of the chosen sound alone")
        self.device = button(heard(AS_IT_IS), self._choose_device, "quiet", "On what it is heard: band limits and mono")
        self.loop = QCheckBox("Again and again")
        self.loop.toggled.connect(self._looped)
        self.first, self.last = QDoubleSpinBox(), QDoubleSpinBox()
        for box, name in ((self.first, "from "), (self.last, "to ")):
            box.setDecimals(1)
            box.setRange(0.0, 3600.0)
            box.setPrefix(name)
            box.setSuffix(" s")
            box.setAccessibleName(f"Passage {name.strip()}")
            box.valueChanged.connect(self._looped)
        self.other = QCheckBox("")
        self.other.setToolTip("Changes between the two without a gap")
        self.other.toggled.connect(self._take)
        self.matched = QCheckBox("Equally loud")
        self.matched.setToolTip("Both turned to the same mean level; otherwise as loud as they really are")
        self.matched.toggled.connect(self._rewind)
        self.whole = button("Whole show", self._walk, "quiet", "All cues one after the other, shortened")
        for item in (self.sounds, self.ways, self.device, self.loop, self.first, self.last, self.other, self.matched):
            row.addWidget(item)
        row.addStretch(1)
        row.addWidget(self.whole)
        self.hide()

    def ready(self) -> None:
        """Something new was rendered."""
        longest = max(a.seconds for a in self.bar.takes)
        for box, value in ((self.first, 0.0), (self.last, longest)):
            box.blockSignals(True)
            box.setMaximum(longest)
            box.setValue(value)
            box.blockSignals(False)
        self.ways.setVisible(self.bar.document.sound_id is not None)
        two = len(self.bar.takes) > 1
        beside = self.bar.beside()
        self.other.blockSignals(True)
        self.other.setChecked(False)
        self.other.blockSignals(False)
        self.other.setText(f"In {beside[0]}" if beside is not None else "")
        self.other.setVisible(two)
        self.matched.setVisible(two)
        self.bar.tape = None

    def wound(self, takes: "list[Audio] | None" = None) -> Tape:
        """The takes as they are to be heard (made here unless given), from the beginning of the passage."""
        tape = Tape(takes or self.heard()(), self.bar.takes[0].rate_hz)
        tape.take = int(self.other.isChecked())
        self.bar.tape = tape
        self._looped()
        tape.at = tape.passage[0]
        return tape

    def heard(self) -> "Callable[[], list[Audio]]":
        """What makes the takes as they are to be heard: it takes a while, and touches nothing of the interface."""
        return partial(as_heard, tuple(self.bar.takes), self.on, self.matched.isChecked())

    def _looped(self, *_: object) -> None:
        tape = self.bar.tape
        if tape is not None:
            tape.loop = self.loop.isChecked()
            tape.set_passage(self.first.value(), self.last.value())

    def _take(self, second: bool) -> None:
        if self.bar.tape is not None:
            self.bar.tape.take = int(second)

    def _rewind(self, *_: object) -> None:
        """What is heard is made anew; where it plays, it goes on from where it stands."""
        old = self.bar.tape
        if self.bar.takes and self.bar.player.sink is not None:
            self.bar.play(old.at if old is not None else None)

    def _choose_device(self) -> None:
        menu = passing_menu(self)
        for what in ALL:
            menu.addAction(f"{what.name}: {what.about}", partial(self.hear_on, what))
        menu.popup(self.device.mapToGlobal(self.device.rect().topLeft()))

    def hear_on(self, what: HeardOn) -> None:
        """Hear it on something else."""
        self.on = what
        self.device.setText(heard(what))
        self._rewind()

    def _choose_sounds(self) -> None:
        menu = passing_menu(self)
        menu.addAction("All sounds", partial(self.choose, ()))
        for sound in self.bar.document.show.sounds:
            one = menu.addAction(sound.name, partial(self.turn, sound.id))
            assert one is not None
            one.setCheckable(True)
            one.setChecked(not self.bar.only or sound.id in self.bar.only)
        menu.popup(self.sounds.mapToGlobal(self.sounds.rect().topLeft()))

    def turn(self, sound: str) -> None:
        """Take a sound in, or leave it out."""
        every = [s.id for s in self.bar.document.show.sounds]
        now = list(self.bar.only) or every
        chosen = [s for s in every if (s in now) != (s == sound)]
        self.choose(() if len(chosen) == len(every) else tuple(chosen) or (sound,))

    def choose(self, sounds: tuple[str, ...]) -> None:
        """Hear these sounds alone; none named: all."""
        self.bar.only = sounds
        names = [s.name for s in self.bar.document.show.sounds if s.id in sounds]
        self.sounds.setText("All sounds" if not names else names[0] if len(names) == 1 else f"{len(names)} sounds")
        self.bar.listen()

    def _choose_way(self) -> None:
        document = self.bar.document
        listener, sound = document.listener_id, document.sound_id
        if listener is None or sound is None:
            return
        menu = passing_menu(self)
        menu.addAction("All ways", partial(self.solo, "All ways", None))
        ways: dict[int, set[int]] = {}
        for path in document.cue_report.view.paths(listener, sound):
            ways.setdefault(path.delay_us, set()).update(path.edges)
        name = document.show.sound(sound).name
        for delay_us in sorted(ways):
            text = f"{name} after {ms(delay_us / 1000)}"
            menu.addAction(text, partial(self.solo, text, frozenset(ways[delay_us])))
        menu.popup(self.ways.mapToGlobal(self.ways.rect().topLeft()))

    def solo(self, text: str, edges: frozenset[int] | None) -> None:
        """Hear one way of the chosen sound alone; None: all ways again."""
        sound = self.bar.document.sound_id
        self.bar.edges = edges
        self.ways.setText(text)
        self.choose((sound,) if edges is not None and sound is not None else ())

    def _walk(self) -> None:
        self.bar.walk = not self.bar.walk
        self.whole.setText("This cue" if self.bar.walk else "Whole show")
        self.bar.listen()


def changed(audition: "Audition", on: HeardOn) -> "Audition":
    """An audition as it is heard on something else."""
    return replace(audition, samples=heard_on(audition.samples, audition.rate_hz, on))


def as_heard(auditions: "tuple[Audition, ...]", on: HeardOn, matched: bool) -> "list[Audio]":
    """The samples of some auditions as they are to be heard beside each other: equally loud, or as loud as they are."""
    takes = [changed(a, on).samples for a in auditions]
    if matched:
        return equally_loud(takes)
    least = max(a.turned_down_db for a in auditions)
    return [t * np.float32(10 ** ((a.turned_down_db - least) / 20)) for t, a in zip(takes, auditions, strict=True)]


def heard(what: HeardOn) -> str:
    """`Heard as it is`, `Heard on a telephone`."""
    return f"Heard {what.name[:1].lower()}{what.name[1:]}"


def equally_loud(takes: "list[Audio]") -> "list[Audio]":
    """The takes turned down to the mean power of the softest; none is turned up, so none clips."""
    powers = [float(np.mean(np.square(t), dtype=np.float64)) for t in takes]
    heard = [p for p in powers if p > 0]
    if not heard:
        return takes
    least = min(heard)
    return [t * np.float32((least / p) ** 0.5) if p > 0 else t for t, p in zip(takes, powers, strict=True)]
