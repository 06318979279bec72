"""Talk off air that can be added as a cue: a green room, countdowns, talkback in the cue in view."""

from collections.abc import Callable, Iterator
from functools import partial
from itertools import product
from typing import TYPE_CHECKING

from kymaton.app.work import Job
from kymaton.core.errors import ShowError
from kymaton.core.model import Show
from kymaton.core.planning.situations import Situation, countdown, green_room, talkback, talkers
from kymaton.core.words import said

if TYPE_CHECKING:
    from kymaton.app.window import Window

Make = Callable[[Show], Situation]


def off_air(window: "Window") -> Iterator[tuple[str, Callable[[], object]]]:
    """What can be added to the show in the window: its name, and what adds it."""
    for name, make in _all(window.document.show, window.document.cue_id):
        yield name, partial(add, window, name, make)


def _all(show: Show, cue: str | None) -> Iterator[tuple[str, Make]]:
    guests = [x for x in show.listeners if x.kind == "guest"]
    hosts = [x for x in show.listeners if x.kind == "host"][:1]
    if guests:
        yield "Green room: talk with the guests off air", green_room
    for host, guest in product(hosts, guests):
        yield f"Countdown: {said(host)} and {said(guest)} alone", partial(countdown, host=host.id, guest=guest.id)
    for voice in talkers(show):
        people = [x for x in show.listeners if x.person is not None and x.person != voice.person]
        for one in people:
            yield f"Talkback: {said(voice)} to {said(one)}", partial(talkback, cue=cue, sound=voice.id, to=(one.id,))
        if len(people) > 1:
            every = tuple(x.id for x in people)
            yield f"Talkback: {said(voice)} to all", partial(talkback, cue=cue, sound=voice.id, to=every)


def add(window: "Window", name: str, make: Make) -> None:
    """Add such a cue, with the settings that it takes, and go there."""
    document = window.document
    show = document.show

    def work(job: Job) -> Situation | str:
        try:
            return make(show)
        except ShowError as error:
            return str(error)

    def done(made: Situation | str) -> None:
        if isinstance(made, str):
            document.message.emit(made)
        elif show is document.show:  # else it was changed meanwhile
            document.edit(made.show, f"add {name[:1].lower()}{name[1:]}")
            document.choose_cue(made.cue)
            problem = f" Not possible here: {made.problems[0]}." if made.problems else ""
            document.message.emit(f"{made.sentence}.{problem}")

    Job(work, done, document.message.emit).begin()
