"""Rules of a show: microphones that belong together, what cameras show, how late a sound may be, who controls what."""

from collections.abc import Callable, Iterator
from functools import partial

from PyQt6.QtWidgets import QHBoxLayout, QLineEdit

from kymaton.app.brief.page import SidePage, typed_line
from kymaton.app.document import Document
from kymaton.app.widgets.basic import button, label
from kymaton.core.model import Show
from kymaton.core.words import exact_ms, joined, said, sentence
from kymaton.language.script import read_any

Rule = tuple[str, Callable[[Show], Show]]  # what it says, and the show without it


def _groups(show: Show) -> Iterator[Rule]:
    for group in show.microphone_groups:
        rest = tuple(g for g in show.microphone_groups if g.id != group.id)
        names = joined(show.device(d).name for d in group.devices)
        yield f"{group.name}: {names}", lambda s, rest=rest: s.evolve(microphone_groups=rest)  # type: ignore[misc]


def _cameras(show: Show) -> Iterator[Rule]:
    for device in show.devices:
        if device.shows is not None:
            names = joined(show.sound(s).name for s in device.shows) or "nothing"

            def without(s: Show, id: str = device.id) -> Show:
                return s.evolve(devices=tuple(d.evolve(shows=None) if d.id == id else d for d in s.devices))

            yield f"{device.name} shows {names}", without


def _delays(show: Show) -> Iterator[Rule]:
    for wish in show.plan:
        if wish.max_delay_ms is not None:
            rest = tuple(w.evolve(max_delay_ms=None) if w == wish else w for w in show.plan)
            who, what = sentence(said(show.listener(wish.listener))), said(show.sound(wish.sound))
            where = f", in {joined(show.cue(c).name for c in wish.cues)}" if wish.cues else ""
            text = f"{who} hears {what} within {exact_ms(wish.max_delay_ms)}{where}"
            yield text, lambda s, rest=rest: s.evolve(plan=rest)  # type: ignore[misc]


def _control(show: Show) -> Iterator[Rule]:
    people = {p.id: p.name for p in show.people}
    for way in show.control_ways:
        rest = tuple(w for w in show.control_ways if w != way)
        source = people.get(way.source) or show.device(way.source).name
        text = f"{source} controls {show.device(way.target).name}"
        yield text, lambda s, rest=rest: s.evolve(control_ways=rest)  # type: ignore[misc]


def _feeds(show: Show) -> Iterator[Rule]:
    for listener in show.listeners:
        if listener.feed != "mix-minus":

            def without(s: Show, id: str = listener.id) -> Show:
                return s.evolve(listeners=tuple(x.evolve(feed="mix-minus") if x.id == id else x for x in s.listeners))

            yield f"{sentence(said(listener))} gets the {listener.feed}, with an echo canceller", without


SECTIONS: tuple[tuple[str, str, str, Callable[[Show], Iterator[Rule]]], ...] = (
    ("Microphones that hear the same thing", "group Kit: kick mic, snare mic", "Add a group of microphones", _groups),
    ("What cameras show", "camera a shows Ada, Fiddle", "Say what a camera shows", _cameras),
    ("How late it may be", "Ada must hear Click within 20 ms", "Say how late a sound may be", _delays),
    ("What a return is", "Ilse gets the full programme. Else: mix-minus", "Say what a return is", _feeds),
    ("Who controls what", "panel controls bridge. Or: Quill controls switcher", "Say what controls what", _control),
)


class RulesPanel(SidePage):
    """A card for each kind of rule, with a line to add one."""

    def __init__(self, document: Document) -> None:
        super().__init__(document, "Rules of this show")
        self.head.addStretch(1)
        self.finish_head()

    def fill(self) -> None:
        show = self.document.show
        for title, hint, name, rules in SECTIONS:
            inside = self.card()
            inside.addWidget(label(title, "strong"))
            for text, without in rules(show):
                row = QHBoxLayout()
                row.addWidget(label(text, "", wrap=True), 1)
                row.addWidget(button("Remove", partial(self.remove, text, without), "quiet"))
                inside.addLayout(row)
            inside.addWidget(typed_line(hint, name, self.add))

    def add(self, line: QLineEdit) -> None:
        """Take a line of any kind, as everywhere."""

        def edit() -> tuple[Show, str]:
            made = read_any(self.document.show, line.text())
            return made.show, made.text

        self.attempt(edit)

    def remove(self, text: str, without: Callable[[Show], Show]) -> None:
        self.attempt(lambda: (without(self.document.show), f"take back: {text}"))
