"""Starter rigs: complete healthy shows to begin from, each with when to choose it and what it costs.

A starter is told in the lines that a person would type: who takes part, the devices and leads, the settings, and who
must hear whom.
"""

from msgspec import Struct

from kymaton.core.model import Show
from kymaton.core.model.policy import PolicyName
from kymaton.language.script import build


class Starter(Struct, frozen=True):
    """A rig to begin from. `about` says in two sentences when to choose it and what it costs in reliability."""

    id: str
    title: str
    about: str
    people: tuple[str, ...]
    rig: tuple[str, ...]
    must: tuple[str, ...]  # `listener: sound, sound`
    not_: tuple[str, ...] = ()
    any_: tuple[str, ...] = ()
    policy: PolicyName = "talk"

    def show(self) -> Show:
        """The rig as a show. Raises ShowError where a line of it cannot be done."""
        return build(self.lines, Show(title=self.title, notes=self.about, policy=self.policy))

    @property
    def lines(self) -> tuple[str, ...]:
        """What a person would type to make it."""
        wishes = (("must", self.must), ("must not", self.not_), ("may", self.any_))
        hears = (line.replace(": ", f" {verb} hear ", 1) for verb, lines in wishes for line in lines)
        return (*self.people, *self.rig, *hears)


STREAM = (
    "add switcher",
    "add capture",
    "add encoder",
    "add platform",
    "switcher programme > capture",
    "capture > encoder",
    "encoder > platform",
    "platform > audience",
)
RECORDED = ("add recorder", "switcher programme 2 > recorder", "recorder > card")
CAMERA = ("add camera", "camera > switcher hdmi 1")
CALL = (
    "add call 1 guest",
    "add call computer",
    "gus > call guest 1 mic",
    "call receiving > call computer call",
    "call computer call > call sending",
    "call guest 1 ears > gus",
)
DESK_STREAM = (*STREAM, *RECORDED, *CAMERA)
# a host and a guest in a call over a desk that sends the guest the host alone
TALK = (
    *DESK_STREAM,
    *CALL,
    "add dynamic mic",
    "add desk 8 in 4 aux",
    "add in-ear",
    "ada > dynamic mic",
    "dynamic mic > desk 1",
    "call computer headphones > desk 3-4",
    "desk aux 1 > call computer line in",
    "desk aux 2 > in-ear",
    "in-ear > ada",
    "desk main > switcher mic 1",
    "set desk 1 gain to 54",
    "set desk 1 to main to 0",
    "set desk 3 to main to 0",
    "set desk 4 to main to 0",
    "set desk 1 to aux 1 to -6",
    "set desk 3 to aux 2 to -6",
)
TALK_MUST = ("audience: ada, gus", "card: ada, gus", "gus: ada", "ada: gus")
GUEST, CARD = "Gus, voice, guest, 62 dB, headphones", "Card, recorder, programme"


STARTERS: tuple[Starter, ...] = (
    Starter(
        "lesson-over-a-call",
        "Lesson over a call",
        "For one teacher with voice and instrument and a pupil in a call, with nothing but an interface. One computer "
        "and one call carry everything: when either stops, so does the lesson.",
        ("Ada, voice, performer", "Fiddle, instrument", "Gus, voice, guest, 62 dB, headphones"),
        (
            "add dynamic mic", "add condenser mic", "add interface 2 in 2 out", "add computer mix 2 in",
            "add call 1 guest", "add headphones",
            "ada > dynamic mic", "fiddle > condenser mic 0.5 m", "dynamic mic > interface 1",
            "condenser mic > interface 2", "interface record 1-2 > computer mix 1-2", "computer mix mix > call sending",
            "gus > call guest 1 mic", "call guest 1 ears > gus", "call receiving > interface playback 1",
            "interface out 1 > headphones", "headphones > ada",
            "set interface 1 gain to 44", "set interface 2 gain to 24", "set computer mix 1 to mix to -6",
            "set computer mix 2 to mix to -6", "set call processing to original sound",
        ),
        ("gus: ada, fiddle", "ada: gus"),
    ),
    Starter(
        "recorder-as-interface",
        "Two microphones and a recorder",
        "For an acoustic instrument and a voice through one handheld recorder that is the interface too. It records "
        "while it streams, so the take is safe; levels are set on a small screen.",
        ("Ada, voice, performer", "Guitar, instrument", "Audience", CARD),
        (
            "add condenser mic", "add contact mic", "add handheld recorder", "add computer mix 2 in",
            "add embedder", "add encoder box", "add platform", "add camera", "add track recorder 2 ch",
            "ada > condenser mic 0.3 m", "guitar > contact mic 0.1 m", "condenser mic > handheld recorder 1",
            "contact mic > handheld recorder 2",
            "handheld recorder out 1 > embedder line in", "camera > embedder hdmi",
            "embedder > encoder box", "encoder box > platform", "platform > audience",
            "handheld recorder out 2 > track recorder", "track recorder > card",
            "set handheld recorder gain to 39", "set embedder line gain to 4",
            "set handheld recorder 1 heard direct to 0", "set handheld recorder 2 heard direct to 0",
        ),
        ("audience: ada, guitar", "card: ada, guitar"),
    ),
    Starter(
        "talk-with-a-switcher",
        "One person and a switcher",
        "For one speaker with a wireless microphone, a camera and slides. Few leads and nothing to mix; the receiver's "
        "battery and the switcher are what it hangs on.",
        ("Ada, voice, host", "Audience", CARD),
        (
            *DESK_STREAM, "add wireless mic", "add slides", "ada > wireless mic 0.1 m", "add desk 2 in 1 aux as Mixer",
            "wireless mic > mixer 1", "mixer main > switcher mic 1", "slides > switcher hdmi 4",
            "set mixer 1 to main to 0", "set mixer 1 gain to 6",
        ),
        ("audience: ada", "card: ada"),
    ),
    Starter(
        "talk-with-mix-minus",
        "Talk with guests, mix-minus",
        "For a host and guests in a call over a desk that sends them everything but themselves. The safest way to talk "
        "with guests: no echo even when a canceller fails; it takes one aux bus.",
        ("Ada, voice, host, in-ear", GUEST, "Audience", CARD),
        (
            *TALK,
        ),
        TALK_MUST,
    ),
    Starter(
        "talk-with-canceller",
        "Talk with guests, full programme",
        "For a desk without a free bus: guests get the full programme and the call's echo canceller takes their voices "
        "out. Quick to set up; when the canceller is off or fails, every guest hears an echo.",
        ("Ada, voice, host, in-ear", GUEST, "Audience", CARD),
        (
            *TALK, "set desk 3 to aux 1 to -12", "set call echo canceller to on",
        ),
        TALK_MUST,
    ),
    Starter(
        "portable-case",
        "Portable case",
        "For one operator who carries everything in a case with one lead to the computer. Back-channel talk with the "
        "guest has a bus of its own; the case is one point of failure.",
        ("Ada, voice, host, in-ear", "Op, talkback, operator", GUEST, "Audience", CARD),
        (
            *DESK_STREAM, *CALL, "add dynamic mic", "add headset mic", "add desk 8 in 4 aux", "add in-ear",
            "add headphones", "ada > dynamic mic", "op > headset mic 0.05 m", "dynamic mic > desk 1",
            "headset mic > desk 2", "call computer headphones > desk 3-4", "desk aux 1 > call computer line in",
            "desk aux 2 > in-ear", "in-ear > ada", "desk aux 3 > headphones", "headphones > op",
            "desk main > switcher mic 1", "set desk 1 gain to 54", "set desk 2 gain to 34",
            "set desk 1 to main to 0", "set desk 3 to main to 0", "set desk 4 to main to 0",
            "set desk 1 to aux 1 to -6", "set desk 3 to aux 2 to -6", "set desk 2 to aux 2 to -6",
            "set desk 1 to aux 3 to -6", "set desk 3 to aux 3 to -6",
        ),
        ("audience: ada, gus", "card: ada, gus", "gus: ada", "ada: gus, op", "op: ada, gus"),
        ("audience: op", "card: op"),
    ),
    Starter(
        "two-computers",
        "Two computers",
        "For a computer that makes picture and sound and a second one that encodes them, joined through an isolator. "
        "The encoder has nothing else to do; the line between the two must not hum.",
        ("Ada, voice, host", "Alerts, alert, stereo", "Audience", CARD),
        (
            *STREAM, *RECORDED, "add player as Maker", "add second computer", "add isolator 2 ch", "add dynamic mic",
            "add desk 4 in 2 aux", "ada > dynamic mic", "dynamic mic > desk 1", "alerts > maker",
            "maker left > isolator 1", "maker right > isolator 2", "isolator 1-2 > desk 3-4",
            "second computer > switcher hdmi 1", "desk main > switcher mic 1", "set desk 1 gain to 54",
            "set desk 1 to main to 0", "set desk 3 to main to -6", "set desk 4 to main to -6", "set desk 3 gain to 6",
            "set desk 4 gain to 6", "set desk main output to -1",
        ),
        ("audience: ada, alerts", "card: ada, alerts"),
    ),
    Starter(
        "turntables",
        "Turntable set",
        "For a set from the record output of a record player mixer, which the master level does not touch. What the "
        "room hears and what the stream hears are apart, so somebody must listen to the stream.",
        ("Records, playback, stereo", "Ada, voice, performer", "Audience", "Room", CARD),
        (
            *DESK_STREAM, "add record mixer", "add dynamic mic", "add desk 4 in 2 aux", "add loudspeakers",
            "records > record mixer", "record mixer record out > desk 3-4",
            "ada > dynamic mic", "dynamic mic > desk 1", "desk aux 1 > loudspeakers", "loudspeakers > room 3 m",
            "desk main > switcher mic 1", "set desk 1 gain to 54", "set desk 1 to main to 0",
            "set desk 3 to main to -6", "set desk 4 to main to -6", "set desk 1 to aux 1 to -6",
            "set desk 3 to aux 1 to -6", "set desk 4 to aux 1 to -6",
        ),
        ("audience: records, ada", "card: records, ada", "room: records"),
        any_=("ada: records",),
        policy="music",
    ),
    Starter(
        "hall-with-stream-mix",
        "Hall with a stream mix of its own",
        "For worship or a lecture hall: the stream gets a mix of its own beside the room mix, with backing and click. "
        "The stream no longer sounds thin; it needs somebody who listens to it.",
        (
            "Ada, voice, host", "Choir, instrument, 82 dB", "Band, performer, in-ear", "Backing, playback, stereo",
            "Click, click", "Audience", "Room", CARD,
        ),
        (
            *DESK_STREAM, "add headset mic", "add condenser mic", "add player", "add player as Click player",
            "add desk 16 in 6 aux", "add loudspeakers", "add in-ear",
            "ada > headset mic 0.05 m", "choir > condenser mic 1 m", "headset mic > desk 1", "condenser mic > desk 2",
            "backing > player", "player left > desk 5", "player right > desk 6", "click > click player",
            "click player left > desk 7", "desk main > loudspeakers", "loudspeakers > room 6 m",
            "desk aux 5 > switcher mic 1", "desk aux 1 > in-ear", "in-ear > band",
            "set desk 1 gain to 36", "set desk 2 gain to 34", "set desk 5 gain to 6", "set desk 6 gain to 6",
            "set desk 7 gain to 6", "set desk 1 to main to -6", "set desk 2 to main to -12",
            "set desk 5 to main to -12", "set desk 6 to main to -12", "set desk 1 to aux 5 to 0",
            "set desk 2 to aux 5 to 0", "set desk 5 to aux 5 to -6", "set desk 6 to aux 5 to -6",
            "set desk 5 to aux 1 to -9", "set desk 6 to aux 1 to -9", "set desk 7 to aux 1 to -6",
            "set desk 1 to aux 1 to -12", "set desk aux 5 output to -1",
        ),
        ("audience: ada, choir, backing", "card: ada, choir", "room: ada", "band: backing, click"),
        any_=("ada: backing",),
        policy="music",
    ),
    Starter(
        "conference-sub-mix",
        "Sub-mix of a meeting room",
        "For a meeting whose room mix is somebody else's desk: a small mixer of one's own takes it, with a microphone. "
        "You depend on their levels; the archive recorder is yours.",
        ("Panel, voice, 70 dB", "Ada, voice, host", "Audience", CARD),
        (
            *DESK_STREAM, "add boundary mic", "add desk 16 in 4 aux as Room desk", "add isolator 1 ch",
            "add dynamic mic",
            "add mixer 4 in 1 aux", "panel > boundary mic 0.6 m", "boundary mic > room desk 1",
            "room desk aux 1 > isolator 1", "isolator 1 > mixer 1", "ada > dynamic mic", "dynamic mic > mixer 2",
            "mixer main > switcher mic 1", "set room desk 1 gain to 40", "set room desk 1 to aux 1 to 0",
            "set mixer 1 to main to 0", "set mixer 2 gain to 54", "set mixer 2 to main to 0",
        ),
        ("audience: panel, ada", "card: panel, ada"),
        policy="meeting",
    ),
    Starter(
        "performer-with-cues",
        "Performer with cues",
        "For one performer who fires cameras, playback and mutes from one list, with a wireless microphone. One pair "
        "of hands does it all; a forgotten mute is the usual fault.",
        ("Ada, voice, performer, in-ear", "Track, playback, stereo", "Audience", CARD),
        (
            *DESK_STREAM, "add wireless mic", "add player", "add desk 8 in 2 aux", "add wireless in-ear",
            "add camera as Camera B",
            "ada > wireless mic 0.05 m", "wireless mic > desk 1", "track > player", "player left > desk 3",
            "player right > desk 4", "desk aux 1 > wireless in-ear", "wireless in-ear > ada",
            "desk main > switcher mic 1", "camera b > switcher hdmi 2", "set desk 1 to main to 0",
            "set desk 3 to main to -11", "set desk 4 to main to -11", "set desk 3 to aux 1 to -9",
            "set desk 4 to aux 1 to -9",
            "set desk 3 gain to 6", "set desk 4 gain to 6",
        ),
        ("audience: ada, track", "card: ada, track", "ada: track"),
    ),
    Starter(
        "two-rooms",
        "Two rooms",
        "For an event in one room that a second room follows over the network. The second room hears it about "
        "a tenth of a second late; when the network stops, it hears nothing.",
        ("Ada, voice, host", "Audience", "Second room, room, upstairs", CARD),
        (
            *STREAM, "add camera", "camera > switcher hdmi 1", "add hdmi splitter 2 out", "add recorder",
            "add network link 100 ms", "add de-embedder", "add loudspeakers", "add wireless mic", "add desk 4 in 2 aux",
            "switcher programme 2 > hdmi splitter", "hdmi splitter out 1 > recorder", "recorder > card",
            "hdmi splitter out 2 > network link", "network link > de-embedder", "de-embedder left > loudspeakers",
            "loudspeakers > second room 4 m", "ada > wireless mic 0.1 m", "wireless mic > desk 1",
            "desk main > switcher mic 1", "set desk 1 to main to 0", "set desk 1 gain to 6",
        ),
        ("audience: ada", "card: ada", "second-room: ada"),
    ),
    Starter(
        "mix-in-a-computer",
        "Mix in a computer",
        "For multitrack into a computer that makes the stream mix, and back to the desk. The finest mix, every track "
        "on disk; the computer is in the way of the sound and adds its delay.",
        ("Ada, voice, performer", "Guitar, instrument", "Audience", CARD),
        (
            *DESK_STREAM, "add dynamic mic", "add condenser mic", "add interface 4 in 2 out", "add computer mix 4 in",
            "add desk 4 in 1 aux", "ada > dynamic mic", "guitar > condenser mic 0.4 m", "dynamic mic > interface 1",
            "condenser mic > interface 2", "interface record 1-2 > computer mix 1-2",
            "computer mix mix > interface playback 1", "interface out 1 > desk 1", "desk main > switcher mic 1",
            "set interface 1 gain to 44", "set interface 2 gain to 22", "set computer mix 1 to mix to 0",
            "set computer mix 2 to mix to 0", "set desk 1 to main to 2",
        ),
        ("audience: ada, guitar", "card: ada, guitar"),
    ),
)  # fmt: skip


def starter(id: str) -> Starter:
    """The starter with this id. Raises KeyError."""
    return next(s for s in STARTERS if s.id == id)
