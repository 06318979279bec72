"""People and places: who there is, and where people hear each other through the air."""

from functools import partial

from PyQt6.QtWidgets import QCheckBox, QHBoxLayout, QLineEdit

from kymaton.app.brief.page import SidePage, typed_line
from kymaton.app.document import Document
from kymaton.app.widgets.basic import button, label
from kymaton.core.edits.people import (
    add_person,
    place_called,
    put_apart,
    put_person,
    put_place,
    remove_person,
    remove_place,
)
from kymaton.core.model import Person, Place, Show, ShowError
from kymaton.core.words import joined, number
from kymaton.language.script import APART, read_any


class PeoplePanel(SidePage):
    """A card for the people, and one for each place with who and what is there."""

    def __init__(self, document: Document) -> None:
        super().__init__(document, "People and places")
        self.person = typed_line("name, role: Quill, floor manager", "Add a person", lambda _: self.add_person())
        self.place = typed_line(
            "a place, or how far: Altar to ambo 6 m", "Add a place or a distance", lambda _: self.add_place()
        )
        self.head.addWidget(self.person, 1)
        self.head.addWidget(self.place, 1)
        self.finish_head()

    def fill(self) -> None:
        show = self.document.show
        if show.people:
            inside = self.card()
            inside.addWidget(label("People", "strong"))
            for person in show.people:
                row = QHBoxLayout()
                for field, hint in (("name", "Name"), ("role", "Role")):
                    row.addWidget(self._cell(getattr(person, field), f"{hint} of {person.name}", person, field))
                row.addWidget(button("Remove", partial(self.remove, person), "quiet"))
                inside.addLayout(row)
        for place in show.places:
            self._place_card(show, place)
        if not show.people and not show.places:
            text = "People come with the lines of the brief. Places say who can hear whom without any gear."
            self.cards.addWidget(label(text, "soft", wrap=True))

    def _cell(self, text: str, name: str, person: Person, field: str) -> QLineEdit:
        line = QLineEdit(text)
        line.setAccessibleName(name)
        line.editingFinished.connect(lambda: self.change_person(person, field, line.text().strip()))
        return line

    def _place_card(self, show: Show, place: Place) -> None:
        inside = self.card()
        row = QHBoxLayout()
        row.addWidget(label(place.name, "strong"))
        row.addStretch(1)
        row.addWidget(button("Remove", lambda: self.remove_place(place), "quiet"))
        inside.addLayout(row)
        things = [t.name for group in (show.sounds, show.listeners) for t in group if t.place == place.id]
        devices = sum(d.place == place.id for d in show.devices)
        there = joined(things) or "nobody yet"
        inside.addWidget(label(f"There: {there}; {devices} devices.", "small", wrap=True))
        row = QHBoxLayout()
        air = QCheckBox("People here hear each other through the air, at a distance of")
        air.setChecked(place.air == "estimated")
        air.toggled.connect(lambda on: self.change_place(place, air="estimated" if on else "off"))
        metres = QLineEdit(number(place.distance_m, 1))
        metres.setAccessibleName(f"Distance between people in {place.name}, in metres")
        metres.setFixedWidth(60)
        metres.setEnabled(place.air == "estimated")
        metres.editingFinished.connect(lambda: self.set_distance(place, metres.text()))
        row.addWidget(air)
        row.addWidget(metres)
        row.addWidget(label("m", "small"))
        row.addStretch(1)
        inside.addLayout(row)
        names = {p.id: p.name for p in show.places}
        for other, apart_m in place.apart_m.items():
            row = QHBoxLayout()
            row.addWidget(label(f"{number(apart_m, 1)} m to {names[other]}", "small"), 1)
            row.addWidget(button("Remove", partial(self.set_apart, place.id, other, None), "quiet"))
            inside.addLayout(row)

    def add_person(self) -> None:
        name, _, role = (x.strip() for x in self.person.text().partition(","))

        def edit() -> tuple[Show, str]:
            if not name:
                raise ShowError("A person needs a name.")
            show, _ = add_person(self.document.show, name, role)
            if show is self.document.show:
                raise ShowError(f"{name} is here already.")
            return show, f"add {name}"

        if self.attempt(edit):
            self.person.clear()

    def add_place(self) -> None:
        name = self.place.text().strip()

        def edit() -> tuple[Show, str]:
            if not name:
                raise ShowError("A place needs a name.")
            if APART.match(name):
                made = read_any(self.document.show, name)
                return made.show, made.text
            return place_called(self.document.show, name)[0], f"add the place {name}"

        if self.attempt(edit):
            self.place.clear()

    def change_person(self, person: Person, field: str, text: str) -> None:
        if text != getattr(person, field):
            changed = person.evolve(**{field: text})
            self.attempt(lambda: (put_person(self.document.show, changed), f"change the {field} of {person.name}"))

    def remove(self, person: Person) -> None:
        self.attempt(lambda: (remove_person(self.document.show, person.id), f"remove {person.name}"))

    def change_place(self, place: Place, **fields: object) -> None:
        changed = place.evolve(**fields)
        self.attempt(lambda: (put_place(self.document.show, changed), f"change {place.name}"))

    def set_distance(self, place: Place, text: str) -> None:
        if text.strip() == number(place.distance_m, 1):
            return
        try:
            metres = float(text.strip().removesuffix("m"))
        except ValueError:
            metres = 0.0
        if not 0.1 <= metres <= 1000:
            self.problem.setText(f"'{text}' is not a distance between 0.1 m and 1000 m.")
            self.problem.show()
            return
        self.change_place(place, distance_m=metres)

    def set_apart(self, one: str, other: str, metres: float | None) -> None:
        self.attempt(lambda: (put_apart(self.document.show, one, other, metres), "change a distance"))

    def remove_place(self, place: Place) -> None:
        self.attempt(lambda: (remove_place(self.document.show, place.id), f"remove the place {place.name}"))
