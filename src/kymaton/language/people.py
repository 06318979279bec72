"""The brief by typing: `Maren, voice, host` makes a person, a sound and a listener.

The first word is the name. Words behind it say what they make (voice, instrument, playback, alert, click, phone,
talkback, ambience) and how they listen (host, guest, performer, operator, audience, room, recorder); `stereo` (or
`stereo 40 %`: how far its sides differ) and `private` add to the sound, `dB` figures say its level, `in Hall` says
where, `of Maren Oduya` whose it is; anything else is the listener's detail.
"""

import re
from typing import get_args

from msgspec import Struct

from kymaton.core.edits.ids import free_id
from kymaton.core.edits.people import add_listener, add_person, add_sound, place_called
from kymaton.core.model import Listener, Show, ShowError, Sound
from kymaton.core.model.people import ListenerKind, SoundKind, Unit
from kymaton.core.words import joined

SOUND_WORDS: dict[str, str] = {k: k for k in get_args(SoundKind) if k != "room"} | {"ambience": "room"}
LISTENER_KINDS: tuple[str, ...] = get_args(ListenerKind)
THINGS = ("audience", "room", "recorder")  # listeners that are no person
# typical levels: dB SPL at 1 m for what sounds in air, dBFS for what a device plays (assumed)
LEVELS: dict[str, tuple[float, Unit]] = {
    "voice": (66.0, "dB SPL"),
    "talkback": (66.0, "dB SPL"),
    "instrument": (80.0, "dB SPL"),
    "room": (60.0, "dB SPL"),
    "playback": (-20.0, "dBFS"),
    "alert": (-20.0, "dBFS"),
    "click": (-20.0, "dBFS"),
    "phone": (-20.0, "dBFS"),
}
# what people call their sounds, with the typical level at 1 m (dB SPL; assumed, singing 75 to 95, a kit 95 to 110)
CALLED: dict[str, tuple[str, float]] = {
    "drums": ("instrument", 102.0), "drum kit": ("instrument", 102.0), "kit": ("instrument", 102.0),
    "percussion": ("instrument", 95.0), "guitar": ("instrument", 72.0), "guitar amp": ("instrument", 92.0),
    "bass amp": ("instrument", 92.0), "piano": ("instrument", 80.0), "accordion": ("instrument", 82.0),
    "concertina": ("instrument", 82.0), "fiddle": ("instrument", 78.0), "violin": ("instrument", 78.0),
    "cello": ("instrument", 75.0), "flute": ("instrument", 78.0), "trumpet": ("instrument", 95.0),
    "brass": ("instrument", 95.0), "saxophone": ("instrument", 88.0), "choir": ("instrument", 85.0),
    "vocals": ("voice", 82.0), "singing": ("voice", 82.0), "singer": ("voice", 82.0), "speech": ("voice", 66.0),
    "music": ("playback", -20.0), "song": ("playback", -20.0), "video": ("playback", -20.0),
    "jingle": ("playback", -20.0), "metronome": ("click", -20.0), "caller": ("phone", -20.0),
}  # fmt: skip
ON_EARS = ("in-ear", "headphones", "monitor", "wedge")  # who says so hears something
PRIVATE = ("talkback", "phone")
STEREO = re.compile(r"^stereo(?:\s+(\d+(?:\.\d+)?)\s*%)?$")
LEVEL = re.compile(r"^(-?\d+(?:\.\d+)?)\s*(dbfs|dbu|db spl|db)$")


class Brief(Struct, frozen=True):
    """What a line of the brief adds: the show after it, a sentence for undo."""

    show: Show
    text: str


def read_brief(show: Show, line: str) -> Brief:
    """What a line adds. Raises ShowError with one sentence when it says too little."""
    parts = [p.strip() for p in line.split(",") if p.strip()]
    if not parts:
        raise ShowError("Type a name, then what they make or how they listen: Maren, voice, host.")
    name, words = parts[0], [p.lower() for p in parts[1:]]
    called = next((w for w in words if w in CALLED), None)
    sounds = [SOUND_WORDS[w] for w in words if w in SOUND_WORDS]
    if called is not None and not sounds:
        sounds = [CALLED[called][0]]
    listens = [w for w in words if w in LISTENER_KINDS]
    if not sounds and not listens:
        sounds, listens, called = _by_name(name.lower(), words)
    if not sounds and not listens:
        raise ShowError(f"Say what {name} makes or how they listen, for example: {name}, voice, host.")
    level = next((m for w in words if (m := LEVEL.match(w))), None)
    stereo = next((m for w in words if (m := STEREO.match(w))), None)
    known = {*SOUND_WORDS, *LISTENER_KINDS, *CALLED, "private"}
    if any(x.name.lower() == name.lower() for x in show.listeners) and listens:
        raise ShowError(f"There is a listener called {name} already.")
    place: str | None = None
    whose = next((p[3:].strip() for p in parts[1:] if p.lower().startswith("of ") and p[3:].strip()), None)
    if whose is not None:
        known.add(f"of {whose}".lower())
    for part in parts[1:]:
        if part.lower().startswith("in ") and part[3:].strip():
            show, place = place_called(show, part[3:])
            known.add(part.lower())
    figures = (LEVEL, STEREO)
    detail = " ".join(
        p for p in parts[1:] if p.lower() not in known and not any(form.match(p.lower()) for form in figures)
    )
    person: str | None = None
    alive = bool({"voice", "talkback", "instrument"} & set(sounds)) or any(w not in THINGS for w in listens)
    if alive or whose:
        show, person = add_person(show, whose or name.partition("'")[0], listens[0] if listens else "")
    made: list[str] = []
    for kind in sounds:
        title = name if len(sounds) == 1 else f"{name}, {kind}"
        value, unit = LEVELS[kind]
        if called is not None and CALLED[called][0] == kind:
            value = CALLED[called][1]
        if level is not None:
            value, unit = float(level[1]), UNITS[level[2]]
        sound = Sound.checked(
            id=free_id(title, (s.id for s in show.sounds)),
            name=title,
            kind=kind,
            person=person if whose or kind in ("voice", "talkback", "instrument") else None,
            level=value,
            unit=unit,
            channels=2 if stereo else 1,
            width=min(1.0, float(stereo[1]) / 100.0) if stereo and stereo[1] else None,
            place=place,
            private="private" in words or kind in PRIVATE,
        )
        show = add_sound(show, sound)
        made.append(kind)
    for way in listens:
        listener = Listener.checked(
            id=free_id(name, (x.id for x in show.listeners)),
            name=name,
            kind=way,
            detail=detail,
            person=person if whose or way not in THINGS else None,
            place=place,
        )
        show = add_listener(show, listener)
        made.append(way)
    return Brief(show, f"add {name}, {joined(made)}")


def _by_name(name: str, words: list[str]) -> tuple[list[str], list[str], str | None]:
    """Sounds and ways of listening that the name itself tells, or what somebody has on the ears."""
    if name in THINGS:
        return [], [name], None
    if any(w in ON_EARS for w in words):
        return [], ["performer"], None
    if name in CALLED:
        return [CALLED[name][0]], [], name
    return ([SOUND_WORDS[name]] if name in SOUND_WORDS else []), [], None


UNITS: dict[str, Unit] = {"dbfs": "dBFS", "dbu": "dBu", "db spl": "dB SPL", "db": "dB SPL"}
