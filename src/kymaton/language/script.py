"""A whole show in lines: everything that can be typed anywhere, in one place, and what a text file of lines makes.

A line is what the map and the brief take, or one of these: `title Sunday`, `venue Hall`, `date 2026-12-12`,
`policy music`, `picture 1080p25`, `person Maren Oduya, host`, `place Hall, air 3 m`, `altar to ambo 6 m`, `cue Talk,
12 min, before air: note`, `Gus must not hear Gus, Ada`, `Ada must hear Click within 20 ms`, `Ada must see slides`,
`camera shows Ada, Fiddle`, `camera delay is 80 ± 5 measured`, `group Kit: kick mic, snare mic`, `on air switcher hdmi
1`, `panel controls switcher`, `borrow desk`, `Fiddle is silent`, `Theo mutes desk 1 by hand`, `recall desk`, `variant
Rain`, `way Two desks`. `in Talk, Song: …`, `in variant Rain: …`, `in way Two desks: …` say where a line holds. What
has no words of its own is said exactly, by a pointer as in RFC 6901, with ids for what stands in lists: `exactly
sounds/ada/level = 64`, and `exactly devices/- = {…}` for one more. Empty lines, and lines that begin with #, say
nothing.
"""

import re
from collections.abc import Callable, Iterable, Iterator
from contextlib import contextmanager
from typing import Any

from kymaton.core.edits.cues import add_cue, put_cue, set_sounding
from kymaton.core.edits.figures import figure_called, put_figure, read_figure
from kymaton.core.edits.ids import free_id
from kymaton.core.edits.people import add_person, place_called, put_apart, put_person, put_place
from kymaton.core.formats import read_format
from kymaton.core.model import MicrophoneGroup, Show, ShowError, Want, Wish
from kymaton.core.model.cues import Sounding
from kymaton.core.model.device import ControlWay
from kymaton.core.model.loads import LOADS
from kymaton.core.model.people import Feed
from kymaton.core.model.record import checked
from kymaton.core.model.show import validated
from kymaton.core.nearest import did_you_mean
from kymaton.core.words import joined
from kymaton.language import brief
from kymaton.language.alternatives import add_alternative, add_line
from kymaton.language.commands import ALL, EVERY_VERB, find_devices, is_command, read_command
from kymaton.language.exact import EXACTLY, as_plain, with_exact
from kymaton.language.hand_actions import SPELLINGS, add_hand_action
from kymaton.language.load_lines import LOAD_VERBS, form_meant, read_load_line
from kymaton.language.patch import Patch, find_end
from kymaton.language.picture_wishes import add_picture_wish
from kymaton.language.variants import add_difference, add_variant

HEARS = re.compile(r"^(.+?)\s+(must not|must|may)\s+hear\s+(.+?)(?:\s+within\s+(\d+(?:\.\d+)?)\s*ms)?$", re.IGNORECASE)
SEES = re.compile(r"\smust\s+(not\s+)?see\s", re.IGNORECASE)
APART = re.compile(r"^(.+?)\s+to\s+(.+?)\s+(\d+(?:\.\d+)?)\s*m$", re.IGNORECASE)
CONTROLS = re.compile(r"^(.+?)\s+controls\s+(.+)$", re.IGNORECASE)
SOUNDS = re.compile(r"^(.+?)\s+(sounds?|may sound|is silent|are silent)$", re.IGNORECASE)
GETS = re.compile(r"^(.+?)\s+gets?\s+(?:an?\s+|the\s+)?(mix-minus|full programme|full program)$", re.IGNORECASE)
SHOWS = re.compile(r"^(.+?)\s+shows\s+(.+)$", re.IGNORECASE)
IN_VARIANT = re.compile(r"^in\s+variant\s+(.+?):\s+(.+)$", re.IGNORECASE)
IN_WAY = re.compile(r"^in\s+way\s+(.+?):\s+(.+)$", re.IGNORECASE)
IN_CUES = re.compile(r"^in\s+(.+?):\s+(.+)$", re.IGNORECASE)
MINUTES = re.compile(r"^(\d+(?:\.\d+)?)\s*min(?:utes?)?$")
AIR = re.compile(r"^air\s+(\d+(?:\.\d+)?)\s*m$")
FIGURES = ("picture delay", "sound delay", "delay", "gain", *(w.name for w in LOADS.values()), "power", "battery")
FIGURE = re.compile(rf"^(.+?)\s+({'|'.join(FIGURES)})\s+is\s+(.+)$", re.IGNORECASE)
BY_HAND = re.compile(r"\s+by hand\b", re.IGNORECASE)
SOUNDING: dict[str, Sounding] = {
    "sound": "sounds", "sounds": "sounds", "may sound": "may sound", "is silent": "silent", "are silent": "silent",
}  # fmt: skip
WANTS = {"must": Want.MUST, "must not": Want.MUST_NOT, "may": Want.ANY}
MOST_LINES = 20_000


def build(lines: Iterable[str], start: Show | None = None) -> Show:
    """The show that lines make, one after the other. Raises ShowError with the number of the line that cannot be."""
    show = Show() if start is None else start
    exact: list[tuple[int, str]] = []
    for number, line in enumerate(lines, 1):
        if number > MOST_LINES:
            raise ShowError(f"line {number}: these are more than {MOST_LINES} lines.")
        if line.strip().startswith(EXACTLY):
            exact.append((number, line))  # many at once: a show is made anew for each
            continue
        show, exact = _all_exact(show, exact), []
        with _at_line(number, line):
            show = read_any(show, line).show
    return _all_exact(show, exact)


@contextmanager
def _at_line(number: int, line: str) -> Iterator[None]:
    try:
        yield
    except ShowError as error:
        raise ShowError(f"line {number} ('{line.strip()}'): {error}") from error


def _all_exact(show: Show, lines: list[tuple[int, str]]) -> Show:
    if not lines:
        return show
    try:
        return with_exact(show, [line for _, line in lines])
    except ShowError:
        for number, line in lines:  # which of them it was
            with _at_line(number, line):
                show = with_exact(show, [line])
        return show


def read_any(show: Show, line: str, cue: str | None = None, here: bool | None = None) -> Patch:
    """What a line of any kind does; `cue` and `here` as in `read_command`. Raises ShowError with one sentence."""
    line = "".join(c if c.isprintable() else " " for c in line).strip()
    if not line or line.startswith("#"):
        return Patch(show, "")
    if line.startswith(EXACTLY):
        return Patch(with_exact(show, [line]), line)
    for form, within in ((IN_VARIANT, _in_variant), (IN_WAY, _in_way)):
        inside = form.match(line)
        if inside:
            return within(show, inside[1], inside[2])
    inside = IN_CUES.match(line)
    if inside:
        return _in_cues(show, _cues(show, inside[1]), inside[2])
    try:
        made = _as_command(show, line, cue, here)
    except ShowError:
        if "," not in line or ">" in line:
            raise
        try:  # somebody may be called like a verb
            return _as_brief(show, line)
        except ShowError:
            made = None
        if made is None:
            raise
    return _as_brief(show, line) if made is None else made


def _as_command(show: Show, line: str, cue: str | None, here: bool | None) -> Patch | None:
    """What a line does that begins with a verb, or has one in it; None for another line."""
    verb, _, rest = line.partition(" ")
    if verb.lower() in HEADS and rest.strip():
        return HEADS[verb.lower()](show, rest.strip())
    if HEARS.match(line) or SEES.search(line):
        return _wishes(show, line, cue if here else None)
    if is_command(line):
        return read_command(show, line, cue, here)
    if FIGURE.match(line):
        return _figure(show, line)
    if CONTROLS.match(line):
        return _controls(show, line)
    if GETS.match(line):
        return _gets(show, line)
    load = read_load_line(show, line)
    if load is not None:
        return load
    if APART.match(line):
        return _apart(show, line)
    if SOUNDS.match(line) and show.cues:
        here_only = cue is not None and here is not False
        made = _sounding(show, line, [cue] if here_only and cue else [c.id for c in show.cues])
        return Patch(made.show, made.text, where=f"in {show.cue(cue).name} only" if here_only and cue else ALL)
    return _shows(show, line) if SHOWS.match(line) else None


def _wishes(show: Show, line: str, cue: str | None) -> Patch:
    """What is wished in one cue, or in all."""
    where = f"in {show.cue(cue).name} only" if cue is not None else ALL if show.cues else ""
    if HEARS.match(line):
        made = _hears(show, line, () if cue is None else (cue,))
        return Patch(made.show, made.text, where=where)
    return Patch(*add_picture_wish(show, line, cue), where=where)


def _as_brief(show: Show, line: str) -> Patch:
    verb, _, rest = line.partition(" ")
    try:
        return _who_takes_part(show, line, verb, rest)
    except ShowError:
        meant = form_meant(line)
        if meant is None:
            raise
        raise ShowError(f"Say: {meant}.") from None


def _who_takes_part(show: Show, line: str, verb: str, rest: str) -> Patch:
    if rest and "," not in line:
        likely = did_you_mean(verb, (*HEADS, *EVERY_VERB, *LOAD_VERBS, "connect"))
        known = "add, connect, disconnect, set, mute, open, replace, rename, put, cue"
        raise ShowError(f"No line begins with '{verb}': say {known}; or who takes part: Ada, voice, host.{likely}")
    made = brief.read_line(show, line)
    return Patch(made.show, made.text)


def _title(show: Show, text: str) -> Patch:
    return Patch(validated(show.evolve(title=text)), f"call it {text}")


def _venue(show: Show, text: str) -> Patch:
    return Patch(show.evolve(venue=text), f"hold it at {text}")


def _notes(show: Show, text: str) -> Patch:
    return Patch(show.evolve(notes=text), "change the notes")


def _date(show: Show, text: str) -> Patch:
    return Patch(validated(show.evolve(date=text)), f"hold it on {text}")


def _policy(show: Show, text: str) -> Patch:
    return Patch(checked(Show, {**as_plain(show), "policy": text.lower()}), f"expect what {text} needs")


def _picture(show: Show, text: str) -> Patch:
    return Patch(show.evolve(picture=read_format(text)), f"change the picture to {text}")


def _person(show: Show, text: str) -> Patch:
    name, _, role = text.partition(",")
    show, id = add_person(show, name.strip())
    person = next(p for p in show.people if p.id == id)
    return Patch(put_person(show, person.evolve(role=role.strip())), f"add {name.strip()}")


def _place(show: Show, text: str) -> Patch:
    name, *words = [part.strip() for part in text.split(",")]
    show, id = place_called(show, name)
    place = next(p for p in show.places if p.id == id)
    for word in words:
        metres = AIR.match(word.lower())
        if metres is None:
            raise ShowError(f"'{word}' says nothing about a place; 'air 3 m' does: people in it hear each other.")
        place = checked(type(place), {**as_plain(place), "air": "estimated", "distance_m": float(metres[1])})
    return Patch(put_place(show, place), f"add the place {name}")


def _cue(show: Show, text: str) -> Patch:
    head, colon, note = text.partition(":")
    name, *words = [part.strip() for part in head.split(",")]
    if any(name.lower() == c.name.lower() for c in show.cues):
        raise ShowError(f"There is a cue called {name} already.")
    show, id = add_cue(show, name)
    cue = show.cue(id).evolve(note=note.strip() if colon else "")
    for word in words:
        minutes = MINUTES.match(word.lower())
        if minutes:
            cue = cue.evolve(minutes=float(minutes[1]))
        elif word.lower() == "before air":
            cue = cue.evolve(before_air=True)
        else:
            raise ShowError(f"'{word}' says nothing about a cue: minutes ('12 min') do, and 'before air'.")
    return Patch(put_cue(show, cue), f"add the cue {name}")


def _group(show: Show, text: str) -> Patch:
    name, colon, members = text.partition(":")
    if not colon or not members.strip():
        raise ShowError("Say: group, a name, a colon, and the microphones.")
    devices = tuple(d.id for d in find_devices(show, members))
    others = [g for g in show.microphone_groups if g.name.lower() != name.strip().lower()]
    id = free_id(name, (g.id for g in others))
    group = MicrophoneGroup(id=id, name=name.strip(), devices=devices)
    return Patch(validated(show.evolve(microphone_groups=(*others, group))), f"group {name.strip()}")


def _variant(show: Show, text: str) -> Patch:
    return Patch(add_variant(show, text)[0], f"add the variant {text}")


def _way(show: Show, text: str) -> Patch:
    return Patch(add_alternative(show, text)[0], f"add the way {text}")


def _in_variant(show: Show, name: str, line: str) -> Patch:
    id = _named(show.variants, name, "variant")
    return Patch(add_difference(show, id, line), f"{line}, in {name}")


def _in_way(show: Show, name: str, line: str) -> Patch:
    id = _named(show.alternatives, name, "other way")
    return Patch(add_line(show, id, line), f"{line}, in {name}")


HEADS: dict[str, Callable[[Show, str], Patch]] = {
    "title": _title,
    "venue": _venue,
    "notes": _notes,
    "date": _date,
    "policy": _policy,
    "picture": _picture,
    "person": _person,
    "place": _place,
    "cue": _cue,
    "group": _group,
    "variant": _variant,
    "way": _way,
}


def _apart(show: Show, line: str) -> Patch:
    match = APART.match(line)
    assert match is not None
    ids = []
    for name in match.groups()[:2]:
        said = name.strip().removeprefix("the ")
        if any(said.lower() == d.name.lower() for d in show.devices):
            raise ShowError(f"{said} is a device; a distance is said between places. Put it in one of them.")
        ids.append(_named(show.places, said, "place"))
    return Patch(put_apart(show, ids[0], ids[1], float(match[3])), f"{match[1]} is {match[3]} m from {match[2]}")


def _controls(show: Show, line: str) -> Patch:
    match = CONTROLS.match(line)
    assert match is not None
    people = {name.lower(): p.id for p in show.people for name in (p.name.partition(" ")[0], p.name)}
    said = match[1].strip().lower()
    sources = [people[said]] if said in people else [d.id for d in find_devices(show, match[1])]
    ways = [ControlWay(source=a, target=d.id) for a in sources for d in find_devices(show, match[2])]
    if any(way.source == way.target for way in ways):
        raise ShowError(f"{match[1].strip()} does not control itself.")
    return Patch(validated(show.evolve(control_ways=tuple(dict.fromkeys((*show.control_ways, *ways))))), line)


def _gets(show: Show, line: str) -> Patch:
    """What somebody's return is: everything but themselves, or everything with an echo canceller. `Guests` are all."""
    match = GETS.match(line)
    assert match is not None
    said = match[1].strip().lower()
    every = said in ("guests", "all guests", "the guests")
    guests = {x.id for x in show.listeners if x.kind == "guest"} if every else set()
    chosen = guests or {_named(show.listeners, name, "listener") for name in _parts(show.listeners, match[1])}
    feed: Feed = "mix-minus" if match[2].lower() == "mix-minus" else "full programme"
    listeners = tuple(x.evolve(feed=feed) if x.id in chosen else x for x in show.listeners)
    return Patch(validated(show.evolve(listeners=listeners)), line)


def _shows(show: Show, line: str) -> Patch:
    match = SHOWS.match(line)
    assert match is not None
    chosen = {d.id for d in find_devices(show, match[1])}
    sounds = () if match[2].lower() == "nothing" else tuple(_sound(show, name) for name in match[2].split(","))
    devices = tuple(d.evolve(shows=sounds) if d.id in chosen else d for d in show.devices)
    return Patch(validated(show.evolve(devices=devices)), f"{match[1]} shows {match[2]}")


def _figure(show: Show, line: str) -> Patch:
    match = FIGURE.match(line)
    assert match is not None
    for device in find_devices(show, match[1]):
        fitting = figure_called(device, match[2])
        if not fitting:
            raise ShowError(f"{device.name} has no {match[2].lower()} that is told by a figure.")
        for at in fitting:
            show = put_figure(show, device.id, at, read_figure(match[3], at.figure, at.unit))
    return Patch(show, line)


def _named(things: Iterable[Any], text: str, what: str) -> str:
    """The id of the thing with this name. Raises ShowError."""
    said = " ".join(text.lower().split()).removeprefix("the ")
    every = tuple(things)
    for fits in (
        [t for t in every if said in (t.name.lower(), t.id)],
        [t for t in every if said == t.name.lower().partition(" ")[0]],
    ):
        if len(fits) == 1:
            return str(fits[0].id)
    raise ShowError(f"No {what} is called '{text.strip()}'.{did_you_mean(said, (t.name for t in every))}")


def _sound(show: Show, text: str) -> str:
    return _named(show.sounds, text, "sound")


def _cues(show: Show, text: str) -> tuple[str, ...]:
    if any(text.strip().lower() in (c.name.lower(), c.id) for c in show.cues):  # a name with a comma in it
        return (_named(show.cues, text, "cue"),)
    return tuple(_named(show.cues, name, "cue") for name in text.split(","))


def _in_cues(show: Show, cues: tuple[str, ...], line: str) -> Patch:
    names = joined(show.cue(c).name for c in cues)
    if HEARS.match(line):
        made = _hears(show, line, cues)
        return Patch(made.show, f"{made.text}, in {names}")
    verb, _, rest = line.partition(" ")
    text = line
    for cue in cues:
        if SEES.search(line):
            show, text = add_picture_wish(show, line, cue)
        elif SOUNDS.match(line):
            show = _sounding(show, line, [cue]).show
        elif verb.lower() == "on" and rest.lower().startswith("air "):
            show = put_cue(show, show.cue(cue).evolve(on_air=_picture_on_air(show, rest[4:])))
        elif verb.lower() in ("set", "mute", "open", "unmute") and not BY_HAND.search(line):
            patch = read_command(show, line, cue, True)
            show, text = patch.show, patch.text
        elif ">" in line or _is_done_by_hand(show, line):
            show, text = add_hand_action(show, cue, BY_HAND.sub("", line))
        else:
            raise ShowError(f"'{line}' cannot hold in one cue only.")
    return Patch(show, f"{text}, in {names}")


def _sounding(show: Show, line: str, cues: Iterable[str]) -> Patch:
    """Who sounds in some cues."""
    match = SOUNDS.match(line)
    assert match is not None
    sounds = [_sound(show, name) for name in _parts(show.sounds, match[1])]
    for cue in cues:
        show = set_sounding(show, cue, sounds, SOUNDING[match[2].lower()])
    return Patch(show, line)


def _is_done_by_hand(show: Show, line: str) -> bool:
    first, _, rest = line.partition(" ")
    return first.lower() in (*SPELLINGS, "recall", "recalls") or rest.partition(" ")[0].lower() in SPELLINGS


def _picture_on_air(show: Show, text: str) -> str | None:
    if text.strip().lower() == "nothing":
        return None
    ports = find_end(show, text, "in").ports
    used = {r.on_air for d in show.devices for r in d.routes if r.on_air is not None}
    found = [p for p in ports if p in used] or [p for p in ports if p in show.ports and show.port(p).picture]
    if not found:
        raise ShowError(f"'{text.strip()}' is no input for a picture.")
    return found[0]


def _hears(show: Show, line: str, cues: tuple[str, ...]) -> Patch:
    match = HEARS.match(line)
    assert match is not None
    want, within = WANTS[match[2].lower()], match[4]
    latest_ms = float(within) if within else None
    for who in _parts(show.listeners, match[1]):
        listener = _named(show.listeners, who, "listener")
        for name in _parts(show.sounds, match[3]):
            sound = _sound(show, name)
            wish = Wish(listener=listener, sound=sound, want=want, cues=cues, max_delay_ms=latest_ms)
            show = show.evolve(plan=(*_cleared(show.plan, wish), wish))
    return Patch(validated(show), f"{match[1]} {match[2].lower()} hear {match[3]}")


def _parts(things: Iterable[Any], text: str) -> list[str]:
    """Names with commas between, or one name that has a comma in it."""
    whole = text.strip().lower()
    return [text] if any(whole in (t.name.lower(), t.id) for t in things) else text.split(",")


def _cleared(plan: tuple[Wish, ...], new: Wish) -> tuple[Wish, ...]:
    """The plan without what a new line says anew; a line for some cues stands beside one for all."""
    kept = []
    for line in plan:
        if (line.listener, line.sound) == (new.listener, new.sound) and bool(line.cues) == bool(new.cues):
            left = tuple(c for c in line.cues if c not in new.cues)
            if not left:
                continue
            line = line.evolve(cues=left)
        kept.append(line)
    return tuple(kept)
