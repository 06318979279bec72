"""Talking off air: a green room, a countdown, talkback to one or to all, each as a cue of its own that is solved for.

Who is to hear whom is wished for that cue alone; what has to be opened and closed for it is searched for (see
`search`), as settings of that cue, so that nothing else changes. What cannot be is said.
"""

from collections.abc import Iterable, Iterator

from msgspec import Struct
from msgspec.structs import replace

from kymaton.core.checks.report import Report
from kymaton.core.edits.controls import Change, apply
from kymaton.core.edits.cues import add_cue, put_cue
from kymaton.core.edits.wishes import set_want
from kymaton.core.errors import ShowError
from kymaton.core.model import Listener, Show, Sound, Want
from kymaton.core.planning.buses import bus_of
from kymaton.core.planning.search import Search, watched_of
from kymaton.core.signal.control_search import Reach
from kymaton.core.signal.cue_solution import CueSolution
from kymaton.core.units import SILENT
from kymaton.core.words import counted, joined, named, said, sentence

OUTSIDE = ("audience", "recorder", "room")
DIM_DB = 12.0  # how far the programme goes down for somebody who is spoken to: clearly under it, still there; chosen
TALKS = ("voice", "talkback")


class Situation(Struct, frozen=True):
    """A cue that was added: the show with it, what is set in it, what it does in words, and what it cannot do."""

    show: Show
    cue: str
    changes: tuple[Change, ...]
    sentence: str
    problems: tuple[str, ...] = ()


def talkers(show: Show) -> list[Sound]:
    """The voices with which somebody talks to the others: talkback, one for each who has it."""
    return [s for s in show.sounds if s.kind == "talkback"]


def green_room(show: Show) -> Situation:
    """Guests, hosts and whoever has talkback hear each other before air, and nobody outside does. Raises ShowError."""
    inside = [x for x in show.listeners if x.kind in ("guest", "host") or _talks_back(show, x)]
    talk = [s for s in show.sounds if s.kind in TALKS and s.person in {x.person for x in inside}]
    if not any(x.kind == "guest" for x in inside) or len({s.person for s in talk}) < 2:
        raise ShowError("A green room takes a guest, and somebody here who talks.")
    wants = dict(_talk(inside, talk))
    wants |= {(x.id, s.id): Want.MUST_NOT for x in show.listeners if x.kind in OUTSIDE for s in talk}
    return _settled(show, "Green room", None, wants, True, f"{_names(inside)} talk off air")


def countdown(show: Show, host: str, guest: str) -> Situation:
    """A host and a guest hear each other, and nobody else hears them. Raises ShowError."""
    two = [show.listener(host), show.listener(guest)]
    talk = [s for s in show.sounds if s.kind == "voice" and s.person in {x.person for x in two}]
    if len({s.person for s in talk}) < 2:
        raise ShowError(f"{_names(two)} do not both have a voice.")
    wants = dict(_talk(two, talk))
    for other in show.listeners:
        if other not in two and other.kind != "operator":
            wants |= {(other.id, s.id): Want.MUST_NOT for s in talk if s.person != other.person}
    return _settled(show, f"Countdown with {said(two[1])}", None, wants, True, f"{_names(two)} hear each other alone")


def talkback(show: Show, cue: str | None, sound: str, to: Iterable[str], dim_db: float = DIM_DB) -> Situation:
    """A voice to some listeners in a copy of a cue, the programme dimmed for them; to nobody else. Raises ShowError."""
    speaker, chosen = show.sound(sound), [show.listener(x) for x in to]
    chosen = [x for x in chosen if x.person is None or x.person != speaker.person]
    if not chosen:
        raise ShowError(f"{speaker.name} has nobody to talk to.")
    wants = {(x.id, sound): Want.MUST for x in chosen}
    for other in show.listeners:
        if other not in chosen and other.kind != "operator" and other.person != speaker.person:
            wants[other.id, sound] = Want.MUST_NOT
    name = f"{show.cue(cue).name}, talkback" if cue is not None else f"Talkback to {joined(said(x) for x in chosen)}"
    made = _settled(show, name, cue, wants, False, f"{said(speaker)} talks to {joined(said(x) for x in chosen)} alone")
    return _dimmed(made, speaker, chosen, dim_db) if dim_db > 0 else made


def _talks_back(show: Show, listener: Listener) -> bool:
    return any(s.kind == "talkback" and s.person is not None and s.person == listener.person for s in show.sounds)


def _talk(listeners: Iterable[Listener], sounds: Iterable[Sound]) -> Iterator[tuple[tuple[str, str], Want]]:
    """Everybody hears all others, and not themselves."""
    talk = list(sounds)
    for listener in listeners:
        for sound in talk:
            own = sound.person is not None and sound.person == listener.person
            yield (listener.id, sound.id), Want.MUST_NOT if own else Want.MUST


def _names(listeners: Iterable[Listener]) -> str:
    return joined(said(x) for x in listeners)


def _settled(
    show: Show, name: str, like: str | None, wants: dict[tuple[str, str], Want], before_air: bool, what: str
) -> Situation:
    """A cue with these wishes, and with the settings that they take."""
    if not show.cues:
        show, _ = add_cue(show, "On air")
    show, cue = add_cue(show, name, like)
    if before_air:
        show = put_cue(show, show.cue(cue).evolve(before_air=True))
    for (listener, sound), want in wants.items():
        show = set_want(show, listener, sound, cue, want)
    report = Report(show, only=cue)
    wrong = [f for f in watched_of(report) if f.severity == "fault"]
    found = Search(report, Reach(elsewhere=False), own_only=True).cheapest(wrong, all_of_them=False)
    changes = tuple(replace(c, why=sentence(what)) for c in (found.changes if found is not None else ()))
    left = {f.key for f in wrong} if found is None else found.left
    problems = tuple(dict.fromkeys(f.sentence for f in wrong if f.key in left))
    text = (
        f"{what}; {counted(len(changes), 'setting differs', 'settings differ') if changes else 'nothing has to be set'}"
    )
    return Situation(apply(show, changes), cue, changes, sentence(text), problems)


def _dimmed(made: Situation, speaker: Sound, listeners: list[Listener], dim_db: float) -> Situation:
    """With all that comes to these listeners by sends of their own turned down, but for the voice."""
    view = CueSolution(made.show, made.cue)
    ours = {x.id for x in listeners}
    changes: dict[str, Change] = {}
    for listener in listeners:
        for sound in made.show.sounds:
            if sound.id == speaker.id:
                continue
            for path in view.paths(listener.id, sound.id):
                for send in (u.control for e in path.edges for u in view.graph.edges[e].uses):
                    control, bus = made.show.control(send), bus_of(made.show, send)
                    if control.role != "send" or bus is None or not _heard_by(view, bus) <= ours:
                        continue
                    now = float(made.show.value(send, made.cue))
                    lowest = control.minimum if control.minimum is not None else -90.0
                    changes[send] = Change(
                        made.cue, send, now, max(lowest + 1.0, now - dim_db), f"{said(speaker)} talks"
                    )
    before = {f.key for f in Report(made.show, only=made.cue).findings if f.severity == "fault"}
    show = apply(made.show, changes.values())
    worse = [f for f in Report(show, only=made.cue).findings if f.severity == "fault" and f.key not in before]
    if not changes or worse:
        undimmed = (
            f"the programme is not dimmed: {'others hear by the same buses' if not changes else worse[0].sentence}"
        )
        return Situation(made.show, made.cue, made.changes, made.sentence, (*made.problems, sentence(undimmed)))
    whom = named(listeners[0]).text if len(listeners) == 1 else "them"
    text = f"{made.sentence}, the programme {dim_db:.0f} dB down for {whom}"
    return Situation(show, made.cue, (*made.changes, *changes.values()), text, made.problems)


def _heard_by(view: CueSolution, bus: str) -> set[str]:
    """Who hears anything by a bus."""
    found = set()
    for listener in view.show.listeners:
        for sound in view.show.sounds:
            if view.level(listener, sound) > SILENT and any(
                bus in p.ports(view.graph) for p in view.paths(listener.id, sound.id)
            ):
                found.add(listener.id)
                break
    return found
