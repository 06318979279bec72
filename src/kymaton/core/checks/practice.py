"""What careful people do not do: recorders in series, streams that copy the room, feeds that nobody can turn down."""

from collections.abc import Collection, Iterable

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


def _behind(show: Show) -> dict[str, list[str]]:
    """What stands right before each port or listener on a way of sound: other ends of leads, inputs of devices."""
    found: dict[str, list[str]] = {}
    for device in show.devices:
        for r in device.routes:
            if r.medium == "sound":
                found.setdefault(f"{device.id}/{r.target}", []).append(f"{device.id}/{r.source}")
    for cable in show.cables:
        if cable.plugged:
            found.setdefault(cable.target, []).append(cable.source)
    return found


def _reaching(behind: dict[str, list[str]], ends: Iterable[str], until: Collection[str]) -> dict[str, str]:
    """All from which sound comes to the ends, each with what it goes to next; not through devices in `until`."""
    found = {end: end for end in ends}
    front = list(found)
    while front:
        at = front.pop()
        for before in behind.get(at, ()):
            if before not in found and (owner(before) not in until or owner(at) != owner(before)):
                found[before] = at
                front.append(before)
    return found


def _audience(show: Show) -> list[str]:
    return [f"listener/{x.id}" for x in show.listeners if x.kind == "audience"]


def _way_on(reaching: dict[str, str], port: str) -> list[str]:
    """Devices from a port on, the one that it belongs to left out."""
    way = [port]
    while reaching[way[-1]] != way[-1]:
        way.append(reaching[way[-1]])
    return [d for d in dict.fromkeys(map(owner, way)) if d not in (owner(port), "listener")]


def _desk_outputs(show: Show, reaching: dict[str, str]) -> list[str]:
    outputs = (p for p in reaching if p in show.ports and show.port(p).direction == "out")
    return sorted(p for p in outputs if show.device(owner(p)).kind == "desk")


@rig_kind(no_meter_after_desk="{many} levels are changed where no meter shows them")
def no_meter_after_desk(show: Show) -> Iterable[Finding]:
    """A desk behind which nothing on the way to the audience shows a level."""
    metered = {d.id for d in show.devices if d.kind in METERED or (d.kind == "encoder" and d.detail not in UNSEEN)}
    unseen = _reaching(_behind(show), _audience(show), metered)
    for port in _desk_outputs(show, unseen):
        desk = the_device(show, owner(port))
        last = group(the_device(show, d) for d in _way_on(unseen, port))
        yield about(
            "no-meter-after-desk", "note", f"no meter shows what goes out behind {desk}",
            f"On its way lie {last}: what one of them clips is seen by nobody.", owner(port),
            "Listen to the stream itself on headphones, and look at its level somewhere.",
        )  # fmt: skip


@rig_kind(copy_of_the_room_mix="{many} streams are a copy of the room's mix")
def copy_of_the_room_mix(show: Show) -> Iterable[Finding]:
    """One output of a desk for the loudspeakers of the room and for the stream."""
    loud = [f"{d}/{p.id}" for d in sorted(_loud(show)) for p in show.device(d).ports if p.direction == "in"]
    if not loud:
        return
    behind = _behind(show)
    elsewhere = {d.id for d in show.devices if is_microphone(d) or d.kind in ("network-link", "call", "desk")}
    in_room, out = _reaching(behind, loud, elsewhere), _reaching(behind, _audience(show), ())
    for port in _desk_outputs(show, {p: p for p in in_room if p in out}):
        end = port
        while in_room[end] != end:
            end = in_room[end]
        yield about(
            "copy-of-the-room-mix", "caution", f"the stream gets the mix of {the_device(show, owner(end))}",
            f"{sentence(the_port(show, port))} feeds both. What is loud by itself in the room is missing in the "
            "stream, and whoever turns the room down turns the stream down.",
            ports=(port, owner(end)), remedy="Give the stream a bus of its own, or microphones for the room as well.",
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
