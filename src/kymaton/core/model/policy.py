"""What everyone would expect of a show until somebody decides: the defaults of the hearing plan.

A policy says for each kind of listener what of each kind of sound must, must not, or may be heard. A default holds
where the plan has no line for a listener and a sound. It never comes in the way of what was decided: where a line is
there for some cues, no default asks for the sound in the others, only for silence.
"""

from typing import Literal

from msgspec import Struct

from kymaton.core.model.people import Listener, ListenerKind, Sound
from kymaton.core.model.wish import Want

PolicyName = Literal["talk", "music", "lesson", "meeting"]
SoundGroup = Literal[
    "own", "voice", "guest", "instrument", "playback", "alert", "talkback", "click", "phone", "room", "private"
]
GROUP_NAMES: dict[SoundGroup, str] = {
    "own": "their own",
    "voice": "voices here",
    "guest": "guests",
    "instrument": "instruments",
    "playback": "playback",
    "alert": "alerts",
    "talkback": "talkback",
    "click": "click",
    "phone": "phone",
    "room": "ambience",
    "private": "private sounds",
}
MUST, NOT, ANY = Want.MUST, Want.MUST_NOT, Want.ANY
Row = dict[SoundGroup, Want]

# what each hears; what is not named here may be heard
PROGRAMME: Row = {
    "voice": MUST, "guest": MUST, "instrument": MUST, "playback": MUST, "talkback": NOT, "click": NOT, "phone": NOT,
    "private": NOT,
}  # fmt: skip
GUEST: Row = {
    "own": NOT, "voice": MUST, "guest": MUST, "instrument": MUST, "playback": MUST, "click": NOT, "phone": NOT,
}  # fmt: skip
STAGE: Row = {"guest": MUST, "playback": MUST}
ROOM: Row = {
    "voice": NOT, "guest": MUST, "instrument": NOT, "playback": MUST, "talkback": NOT, "click": NOT, "phone": NOT,
}  # fmt: skip
TALK: dict[ListenerKind, Row] = {
    "audience": PROGRAMME, "recorder": PROGRAMME, "guest": GUEST, "host": STAGE, "performer": STAGE, "room": ROOM,
    "operator": {},
}  # fmt: skip


class Policy(Struct, frozen=True):
    """A set of defaults: what it is for, and its table."""

    name: PolicyName
    about: str
    table: dict[ListenerKind, Row]


POLICIES: dict[PolicyName, Policy] = {
    p.name: p
    for p in (
        Policy("talk", "People talk, here and far away; the room hears only what is played to it.", TALK),
        Policy(
            "music",
            "People play; a loudspeaker may bring voices and instruments to the room as well.",
            {**TALK, "room": {**ROOM, "voice": ANY, "instrument": ANY}},
        ),
        Policy(
            "lesson",
            "One teaches, others learn from afar; pupils need not hear each other.",
            {**TALK, "guest": {**GUEST, "guest": ANY}, "operator": {"guest": MUST}},
        ),
        Policy(
            "meeting",
            "Everyone hears everyone who is not in the same room.",
            {**TALK, "operator": STAGE, "host": {**STAGE, "alert": ANY}, "guest": {**GUEST, "talkback": ANY}},
        ),
    )
}
BEFORE_AIR: tuple[SoundGroup, ...] = ("voice", "guest", "talkback")  # talk that nobody outside hears before air


def group_of(listener: Listener, sound: Sound, guests: frozenset[str]) -> SoundGroup:
    """Which column of the table a sound stands in for a listener. `guests` are the people who are far away."""
    if listener.person is not None and listener.person == sound.person:
        return "own"
    if sound.private:
        return "private" if sound.kind not in ("talkback", "phone", "click") else sound.kind
    if sound.person in guests and sound.kind in ("voice", "instrument"):
        return "guest"
    return sound.kind


def default_want(
    policy: PolicyName, listener: Listener, sound: Sound, guests: frozenset[str], before_air: bool = False
) -> Want:
    """What is wished where the plan says nothing."""
    group = group_of(listener, sound, guests)
    row = POLICIES[policy].table[listener.kind]
    if sound.private and row.get("private") is NOT:
        return NOT
    want = row.get(group, ANY)
    if not before_air:
        return want
    if listener.kind in ("audience", "recorder") and group in BEFORE_AIR:
        return NOT
    return NOT if want is NOT else ANY
