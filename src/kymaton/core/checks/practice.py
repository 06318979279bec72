"""What careful people do not do: recorders in series, streams that copy the room, feeds that nobody can turn down."""

from collections.abc import Iterable, Iterator

from kymaton.core.checks.registry import Finding, rig_kind
from kymaton.core.checks.rigging import about, needed_by_audience
from kymaton.core.checks.wiring import found
from kymaton.core.edits.ids import owner
from kymaton.core.joining import channel_pairs, no_room
from kymaton.core.model import Cable, Show
from kymaton.core.signal.air import is_microphone
from kymaton.core.words import group, said, sentence, the_device, the_port

METERED = ("desk", "switcher", "streaming-program", "computer", "computer-mix", "recorder", "interface")  # show levels
UNSEEN = ("HDMI to stream",)  # encoders without a picture of their own to look at
LOUD = ("loudspeakers", "amplifier")


@rig_kind(socket_used_twice="{many} sockets hold two plugs")
def socket_used_twice(show: Show) -> Iterable[Finding]:
    """Two plugs in one socket: it cannot be, so the drawing is wrong or a splitter is missing in it."""
    into: dict[tuple[str, int], Cable] = {}
    out_of: dict[str, list[Cable]] = {}
    for cable in show.cables:
        if not cable.plugged or cable.source not in show.ports:
            continue
        reason = no_room(show, cable, out_of.get(cable.source, ()))
        out_of.setdefault(cable.source, []).append(cable)
        if reason is not None:
            yield found(
                "socket-used-twice", "fault", f"{the_port(show, cable.source)} holds two plugs", reason, cable,
                "Draw the splitter or the Y lead that is there, or take another output.",
            )  # fmt: skip
        if cable.target not in show.ports or not show.port(cable.target).connector or cable.kind == "air":
            continue
        sides = {(cable.target, b) for _, b in channel_pairs(show, cable)} or {(cable.target, 0)}
        first = next((into[side] for side in sides if side in into), None)
        into |= dict.fromkeys(sides - into.keys(), cable)
        if first is not None:
            yield found(
                "socket-used-twice", "fault", f"{the_port(show, cable.target)} holds two plugs",
                f"{sentence(the_port(show, first.source))} is in it, and {the_port(show, cable.source)} as well.",
                cable, "Take another input, or mix the two before it.",
            )  # fmt: skip


@rig_kind(recorder_in_series="{many} recorders stand in the way of the stream")
def recorder_in_series(show: Show) -> Iterable[Finding]:
    """A recorder that the stream goes through: when it stops or its card is full, so may the stream."""
    for id in needed_by_audience(show):
        if show.device(id).kind == "recorder":
            yield about(
                "recorder-in-series", "caution", f"the stream goes through {the_device(show, id)}",
                "When it hangs, is restarted or loses its power, the stream ends with it.", id,
                "Split the signal before it.",
            )  # fmt: skip


@rig_kind(single_uplink="{many} routers have one way out")
def single_uplink(show: Show) -> Iterable[Finding]:
    """A router with two uplinks of which one is used."""
    used = {c.source for c in show.cables if c.plugged}
    for device in show.devices:
        ups = [f"{device.id}/{p.id}" for p in device.ports if device.kind == "router" and p.id.startswith("uplink")]
        taken = [p for p in ups if p in used]
        if len(taken) == 1:
            yield about(
                "single-uplink", "note", f"{the_device(show, device.id).do('have')} one way out",
                f"All goes by {the_port(show, taken[0])}; when that line fails, the stream ends.", device.id,
                "Have a second line of another supplier, a mobile one perhaps, and try it beforehand.",
            )  # fmt: skip


def _leading(show: Show, start: str, until: Iterable[str] = ()) -> dict[str, str]:
    """Ports, sounds and listeners behind a port on open ways of sound, each with what it was reached from."""
    stops = set(until)
    routes: dict[str, list[str]] = {}
    for device in show.devices:
        for r in device.routes:
            if r.medium == "sound":
                routes.setdefault(f"{device.id}/{r.source}", []).append(f"{device.id}/{r.target}")
    leads: dict[str, list[str]] = {}
    for cable in show.cables:
        if cable.plugged:
            leads.setdefault(cable.source, []).append(cable.target)
    seen, front = {start: start}, [start]
    while front:
        at = front.pop()
        for after in (*leads.get(at, ()), *routes.get(at, ())):
            if after not in seen and owner(after) not in stops:
                seen[after] = at
                front.append(after)
    return seen


def _audience(show: Show) -> list[str]:
    return [f"listener/{x.id}" for x in show.listeners if x.kind == "audience"]


def _outputs(show: Show, kind: str) -> Iterator[str]:
    """Outputs of devices of a kind that a lead leaves."""
    for cable in show.cables:
        if cable.plugged and cable.source in show.ports and show.device(owner(cable.source)).kind == kind:
            yield cable.source


@rig_kind(no_meter_after_desk="{many} levels are changed where no meter shows them")
def no_meter_after_desk(show: Show) -> Iterable[Finding]:
    """A desk behind which nothing on the way to the audience shows a level."""
    ends = set(_audience(show))
    for port in dict.fromkeys(_outputs(show, "desk")):
        reached = _leading(show, port)
        for end in ends & reached.keys():
            passed = [owner(p) for p in _way_back(reached, end)]
            devices = [show.device(d) for d in dict.fromkeys(passed) if d not in ("listener", owner(port))]
            seen = [d for d in devices if d.kind in METERED or (d.kind == "encoder" and d.detail not in UNSEEN)]
            if not seen:
                desk, last = the_device(show, owner(port)), group(the_device(show, d.id) for d in devices)
                yield about(
                    "no-meter-after-desk", "note", f"no meter shows what goes out behind {desk}",
                    f"On its way lie {last}: what one of them clips is seen by nobody.", owner(port),
                    "Listen to the stream itself on headphones, and look at its level somewhere.",
                )  # fmt: skip


def _way_back(reached: dict[str, str], end: str) -> list[str]:
    way = [end]
    while reached[way[-1]] != way[-1]:
        way.append(reached[way[-1]])
    return way[::-1]


@rig_kind(copy_of_the_room_mix="{many} streams are a copy of the room's mix")
def copy_of_the_room_mix(show: Show) -> Iterable[Finding]:
    """One output of a desk for the loudspeakers of the room and for the stream."""
    ends = set(_audience(show))
    for port in dict.fromkeys(_outputs(show, "desk")):
        elsewhere = [d.id for d in show.devices if is_microphone(d) or d.kind in ("network-link", "call")]
        reached, aloud_by = _leading(show, port), _leading(show, port, until=elsewhere)
        aloud = [d for d in dict.fromkeys(map(owner, aloud_by)) if d in _loud(show)]
        if aloud and ends & reached.keys():
            boxes = group(the_device(show, d) for d in aloud)
            yield about(
                "copy-of-the-room-mix", "caution", f"the stream gets the mix of {boxes}",
                f"{sentence(the_port(show, port))} feeds both. What is loud by itself in the room is missing in the "
                "stream, and whoever turns the room down turns the stream down.",
                ports=(port, *aloud), remedy="Give the stream a bus of its own, or microphones for the room as well.",
            )  # fmt: skip


def _loud(show: Show) -> set[str]:
    return {d.id for d in show.devices if d.kind in LOUD}


@rig_kind(stream_aloud="{many} people watch the stream aloud where microphones hear it")
def stream_aloud(show: Show) -> Iterable[Finding]:
    """Somebody who watches the stream on a loudspeaker in a place where there are microphones."""
    for device in show.devices:
        if device.kind != "viewer" or device.detail != "on a loudspeaker" or device.place is None:
            continue
        near = [d for d in show.devices if is_microphone(d) and d.place == device.place]
        if near and any(owner(c.target) == device.id and c.plugged for c in show.cables):
            where = show.place_of(device.place)
            assert where is not None
            yield about(
                "stream-aloud", "caution", f"{the_device(show, device.id)} plays the stream aloud in {where.name}",
                f"{sentence(group(the_device(show, d.id) for d in near).text)} can hear it: the stream comes back into "
                "itself, later by all that it takes.", device.id, "Headphones for whoever watches, or another room.",
            )  # fmt: skip


@rig_kind(stereo_in_mono_call="{many} sounds lose their sides in a call")
def stereo_in_mono_call(show: Show) -> Iterable[Finding]:
    """Stereo that comes in two channels as far as a call, or the computer that runs one, and goes on as one."""
    carried: dict[str, list[str]] = {}
    for cable in show.cables:
        if cable.plugged:
            carried.setdefault(cable.source, []).append(cable.target)
    for sound in (s for s in show.sounds if s.channels == 2 and s.width != 0):
        seen, front = set[str](), [f"sound/{sound.id}"]
        while front:
            for at in carried.get(front.pop(), ()):
                device = show.ports[at][0] if at in show.ports else None
                if device is None or at in seen:
                    continue
                seen.add(at)
                routes = [r for r in device.routes if r.medium == "sound" and f"{device.id}/{r.source}" == at]
                wide = [f"{device.id}/{r.target}" for r in routes if r.target_channel > 1]
                if show.port(at).channels > 1:
                    front += wide
                runs = any(p.kind == "call" for p in device.programs)
                sends = any(show.port(p).signal == "network" and not show.port(p).connector for p in wide)
                if (device.kind == "call" and show.port(at).channels == 1) or (runs and not sends):
                    yield about(
                        "stereo-in-mono-call", "note",
                        f"{the_device(show, device.id).do('take')} {said(sound)} in mono",
                        "Left and right become one: what differs between them is coloured, and all is in one place.",
                        ports=(f"sound/{sound.id}", at), item=sound.name,
                        remedy="Send a mono mix that was made for it, or set the call to stereo where it has that.",
                    )  # fmt: skip


def own_controls_behind(show: Show, passed: Iterable[tuple[str, tuple[str, ...]]]) -> tuple[str | None, list[str]]:
    """The last borrowed device of a way, and the levels and mutes of one's own behind it.

    `passed` are the devices of a way in order, each with the controls that it passes there.
    """
    last, behind = None, list[str]()
    for device, controls in passed:
        if show.device(device).owned == "borrowed":
            last, behind = device, []
        else:
            behind += [c for c in controls if show.control(c).kind in ("level", "mute", "switch")]
    return last, behind
