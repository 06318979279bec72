"""What goes into what: domains of level that meet, and sockets that have room for one more plug.

Levels in air (dB SPL), on analogue lines (dBu) and in digital form (dBFS) meet only in devices that convert them.
"""

from collections.abc import Sequence

from kymaton.core.cable_match import HDMI, lead_between
from kymaton.core.model import Cable, Port, Show
from kymaton.core.model.people import Unit
from kymaton.core.units import unit_of
from kymaton.core.words import the_port

ONE_CHANNEL = ("XLR", "TRS 6.3 mm")  # what a socket for line level carries
NO_PLUG = ("held", "air", "Bluetooth", "network")  # what takes no socket, or goes through a router
NEEDS: dict[tuple[Unit, Unit], str] = {
    ("dB SPL", "dBu"): "it sounds in air, so it needs a microphone; or say its level in dBu",
    ("dB SPL", "dBFS"): "it sounds in air, so it needs a microphone and something that converts it: an interface",
    ("dBu", "dB SPL"): "it is electrical, so it needs headphones or a loudspeaker; or say its level in dB SPL",
    ("dBu", "dBFS"): "it is an analogue signal, so it needs an interface or a desk; or say its level in dBFS",
    ("dBFS", "dB SPL"): "it is a file or a stream, so it needs a player, and headphones or a loudspeaker",
    ("dBFS", "dBu"): "it is a file or a stream, so it needs a player or a computer; or say its level in dBu",
}
HEARS = {
    "dB SPL": "an ear hears what sounds in air: headphones or a loudspeaker come before it",
    "dBFS": "a stream or a recording takes what is digital: an encoder, a recorder or a platform comes before it",
}
SPLITTERS = {HDMI: "an hdmi splitter", "USB A": "a second output", "USB C": "a second output", "BNC": "an sdi splitter"}


def why_not(show: Show, source: str, target: str) -> str | None:
    """Why nothing leads from a source to a target (port, sound or listener), as a sentence; None where it does."""
    a = show.ports[source][1] if source in show.ports else None
    b = show.ports[target][1] if target in show.ports else None
    if a is None:
        sound = show.sound(source.partition("/")[2])
        unit = unit_of(b.signal) if b is not None else show.listener(target.partition("/")[2]).unit
        if sound.unit != unit:
            where = the_port(show, target)
            return f"{sound.name} does not go into {where} like that: {NEEDS[sound.unit, unit]}."
        return None
    if b is None:
        listener = show.listener(target.partition("/")[2])
        if unit_of(a.signal) != listener.unit and not (a.picture and not a.channels):
            return f"{listener.name} does not hear {the_port(show, source)} like that: {HEARS[listener.unit]}."
        return None
    if a.signal == "acoustic" and not a.channels and b.channels and not b.picture:
        return f"{show.port_label(source)} carries no sound, and {the_port(show, target)} takes nothing else."
    if lead_between(a, b) is None:
        return (
            f"{show.port_label(source)} ({a.connector or a.signal}) does not go into "
            f"{show.port_label(target)} ({b.connector or b.signal}): there is no lead for it."
        )
    return None


def is_pair(port: Port) -> bool:
    """Whether a port of two channels is two sockets, of which one lead reaches the left one alone."""
    return port.channels == 2 and port.signal == "line" and port.connector in ONE_CHANNEL


def channel_pairs(show: Show, cable: Cable) -> list[tuple[int, int]]:
    """Which channel of a cable's source goes to which of its target.

    Channel by channel; one channel meets all of the other side (a mono earpiece is on both ears). One lead from a pair
    of sockets to a single one carries the left side.
    """
    if cable.channels:
        return list(cable.channels)
    many, few = channels_at(show, cable.source), channels_at(show, cable.target)
    if few == 1 and cable.source in show.ports and is_pair(show.port(cable.source)):
        return [(1, 1)]
    if many == 1 or few == 1:
        return [(a, b) for a in range(1, many + 1) for b in range(1, few + 1)]
    return [(c, c) for c in range(1, min(many, few) + 1)]


def channels_at(show: Show, port: str) -> int:
    """How many channels there are at an end of a lead: a port, a sound, or the ears of a listener."""
    owner, _, name = port.partition("/")
    if owner == "sound":
        return show.sound(name).channels
    return 2 if owner == "listener" else show.port(port).channels


def no_room(show: Show, new: Cable, others: Sequence[Cable]) -> str | None:
    """Why a lead has no room at its source beside others that are plugged there; None where it has.

    One socket takes one plug; a pair of sockets takes two, and a plug that splits reaches several inputs.
    """
    if new.kind in NO_PLUG or new.source not in show.ports or not show.port(new.source).connector:
        return None
    port = show.port(new.source)
    mine = {a for a, _ in channel_pairs(show, new)} or {0}
    for other in others:
        if not other.plugged or other.kind in NO_PLUG or other.target.startswith("listener/"):
            continue
        if mine & ({a for a, _ in channel_pairs(show, other)} or {0}):
            splitter = SPLITTERS.get(port.connector, "a y lead")
            return (
                f"{show.port_label(new.source)} is taken by {show.port_label(other.target)}: one socket takes one "
                f"plug. Add {splitter}."
            )
    return None
