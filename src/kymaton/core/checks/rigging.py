"""What a rig as a whole lacks: ends without a way on, one of what should be two, names and choices that mislead."""

from collections.abc import Iterable

import numpy as np

from kymaton.core.checks.audibility import gravity
from kymaton.core.checks.registry import Evidence, Finding, Severity, rig_kind
from kymaton.core.edits.ids import owner
from kymaton.core.model import Device, Show, Want
from kymaton.core.model.device import Value
from kymaton.core.signal.folding import reachable
from kymaton.core.signal.graph import flatten, state
from kymaton.core.units import SILENT
from kymaton.core.words import group, named, number, said, sentence, the_device, the_port

FAR_M = 1.4  # of a voice from its nearest microphone; the distance is worked out at `far_microphone`


def about(
    id: str, severity: Severity, text: str, reason: str, device: str = "", remedy: str = "",
    ports: tuple[str, ...] = (), settings: tuple[tuple[str, Value], ...] = (), item: str = "",
    evidence: Evidence | None = None,
) -> Finding:  # fmt: skip
    """A finding about a device (which is its evidence, if no other is given), or a place of the rig."""
    if evidence is None:
        evidence = {"device": device} if device else {}
    return Finding(
        id=id,
        severity=severity,
        step="path",
        cue=None,
        sentence=sentence(text),
        reason=reason,
        evidence=evidence,
        ports=ports or ((device,) if device else ()),
        remedy=remedy,
        settings=settings,
        item=item,
    )


@rig_kind(
    sound_ends_here="{many} devices pass nothing on",
    nothing_comes_in="{many} devices get nothing",
    not_connected="{many} devices are not connected",
)
def chain_breaks(show: Show) -> Iterable[Finding]:
    """Devices at which a chain ends, or begins with nothing."""
    leaving = {owner(c.source) for c in show.cables if c.plugged}
    arriving = {owner(c.target) for c in show.cables if c.plugged}
    pressed = {end for way in show.control_ways for end in (way.source, way.target)}
    for device in show.devices:
        has_out = any(p.direction == "out" for p in device.ports)
        it = the_device(show, device.id)
        if device.id in arriving and device.id not in leaving and has_out:
            yield about(
                "sound-ends-here", "note", f"{it.do('pass')} nothing on",
                f"A lead goes in, and none goes out: patch {'them' if it.plural else 'it'} to what comes next.",
                device.id,
            )  # fmt: skip
        elif device.id in leaving and device.id not in arriving and _waits(device):
            yield about(
                "nothing-comes-in", "note", f"{it.do('get')} nothing",
                "A lead goes out, and none goes in: patch what is to come through.", device.id,
            )  # fmt: skip
        elif device.id not in arriving | leaving | pressed:
            yield about(
                "not-connected",
                "note",
                f"{it.do('be')} not connected",
                "Nothing leads in or out.",
                device.id,
            )


def _free_bus(show: Show) -> str:
    """What to do for a listener whom nothing reaches: the first bus of a desk that leads nowhere yet."""
    used = {c.source for c in show.cables}
    for device in show.devices:
        buses = dict.fromkeys(f"{device.id}/{r.target}" for r in device.routes if r.kind == "send")
        free = next((b for b in buses if b not in used), None)
        if free is not None:
            return f"{sentence(the_port(show, free))} is free: patch it to a device there."
    return "Patch it on the map."


def _waits(device: Device) -> bool:
    """Whether all that can come into a device comes by a lead: not so for a lens, a page, a file that is played."""
    inputs = [p for p in device.ports if p.direction == "in"]
    return bool(inputs) and all(p.connector for p in inputs)


@rig_kind(
    nothing_arrives="No lead reaches {many} of those who listen",
    nothing_picks_up="Nothing picks up {many} of the sounds",
)
def loose_ends(show: Show) -> Iterable[Finding]:
    """Listeners whom something must reach and no lead does; sounds that must be heard and go nowhere.

    While nothing at all is connected, that is no fault of these: then there is no rig yet.
    """
    away, home = ({getattr(c, end) for c in show.cables if c.plugged} for end in ("source", "target"))
    cues: list[str | None] = [c.id for c in show.cues] or [None]
    wanted = [
        (listener, sound, gravity(show, listener, sound, cue))
        for listener in show.listeners
        for sound in show.sounds
        for cue in cues
        if show.want(listener.id, sound.id, cue) is Want.MUST
    ]
    decided = {w.listener for w in show.plan if w.want is Want.MUST}
    asked_by: dict[str, set[str]] = {x.id: set() for x in show.listeners}
    asked_of: dict[str, set[str]] = {s.id: set() for s in show.sounds}
    for listener, sound, severity in wanted:
        asked_by[listener.id].add(severity)
        asked_of[sound.id].add(severity)
    for listener in show.listeners:
        asked = asked_by[listener.id]
        if asked and f"listener/{listener.id}" not in home and (away or listener.id in decided):
            yield about(
                "nothing-arrives", "fault" if "fault" in asked else "caution", f"no lead reaches {said(listener)}",
                "Something must be heard there.", remedy=_free_bus(show), ports=(f"listener/{listener.id}",),
                item=listener.name,
            )  # fmt: skip
    for sound in show.sounds:
        asked = asked_of[sound.id]
        if asked and f"sound/{sound.id}" not in away and away:
            yield about(
                "nothing-picks-up", "fault" if "fault" in asked else "caution", f"nothing picks up {said(sound)}",
                "Somebody must hear it.", remedy="Patch it to a microphone, a player or a call.",
                ports=(f"sound/{sound.id}",), item=sound.name,
            )  # fmt: skip


@rig_kind(same_name_twice="{many} names are used twice")
def same_name(show: Show) -> Iterable[Finding]:
    """Devices that share a name: nobody can say which is meant."""
    seen: dict[str, str] = {}
    for device in show.devices:
        first = seen.setdefault(device.name.lower(), device.id)
        if first != device.id:
            yield about(
                "same-name-twice", "caution", f"two devices are called {device.name}",
                "Labels, patch line and findings cannot tell them apart.", device.id, "Rename one of them.",
            )  # fmt: skip


@rig_kind(one_recording="")
def one_recording(show: Show) -> Iterable[Finding]:
    """Shows with a single recording, or none."""
    recorders = [x for x in show.listeners if x.kind == "recorder"]
    audience = any(x.kind == "audience" for x in show.listeners)
    if audience and len(recorders) < 2 and show.cables:
        many = "no recording" if not recorders else "only one recording"
        yield about(
            "one-recording", "note", f"there is {many}", "Record in two places: a card fails, an archive is cut."
        )


@rig_kind(one_way_to_the_stream="")
def one_way(show: Show) -> Iterable[Finding]:
    """Devices without which no sound reaches the audience."""
    needed = needed_by_audience(show)
    if needed:
        names = group(the_device(show, d) for d in needed)
        ends = tuple(f"listener/{x.id}" for x in show.listeners if x.kind == "audience")
        yield about(
            "one-way-to-the-stream", "note", f"the stream hangs on {names}",
            "When one of them fails, the audience hears nothing.", ports=(*ends, *needed),
        )  # fmt: skip


def needed_by_audience(show: Show) -> list[str]:
    """Devices without any one of which no sound reaches an audience that is reached now."""
    leads: dict[str, set[str]] = {}
    for cable in show.cables:
        silent = cable.source in show.ports and show.port(cable.source).channels == 0
        if cable.plugged and not silent:
            leads.setdefault(_end(cable.source), set()).add(_end(cable.target))
    sounds = {f"sound/{s.id}" for s in show.sounds}
    reached = _reached(leads, sounds, "")
    ends = {f"listener/{x.id}" for x in show.listeners if x.kind == "audience"} & reached.keys()
    on_a_way: set[str] = set()  # what is needed stands on every way, so on any one of them
    for end in ends:
        at = reached[end]
        while at not in sounds:
            on_a_way.add(at)
            at = reached[at]
    needed = {id for id in on_a_way if ends - _reached(leads, sounds, id).keys()}
    return [d for d in _along(leads, sounds) if d in needed]


def _along(leads: dict[str, set[str]], starts: set[str]) -> list[str]:
    """Everything behind the starts in the order of the chain: nothing stands before all that feeds it has been seen.

    Depth first, last done put first (Tarjan 1976); where leads go round in a circle, the order there is any.
    """
    order: list[str] = []
    seen: set[str] = set()
    for start in sorted(starts):
        ways = [(start, iter(sorted(leads.get(start, ()))))]
        seen.add(start)
        while ways:
            at, rest = ways[-1]
            after = next((x for x in rest if x not in seen), None)
            if after is None:
                order.append(at)
                ways.pop()
            else:
                seen.add(after)
                ways.append((after, iter(sorted(leads.get(after, ())))))
    return order[::-1]


def _end(port: str) -> str:
    return port if port.startswith(("sound/", "listener/")) else owner(port)


def _reached(leads: dict[str, set[str]], starts: set[str], without: str) -> dict[str, str]:
    """What can be reached from the starts when one device is taken away, each with what it was reached from."""
    seen, front = {start: start for start in starts}, list(starts)
    while front:
        at = front.pop()
        for after in leads.get(at, ()):
            if after not in seen and after != without:
                seen[after] = at
                front.append(after)
    return seen


@rig_kind(built_in_microphone="{many} built-in microphones are used for a voice")
def built_in(show: Show) -> Iterable[Finding]:
    """Microphones that are built in, hear a voice, and are open in some cue."""
    feeding = {owner(c.target) for c in show.cables if c.source.startswith("sound/") and c.plugged}
    there = {d.id for d in show.devices if d.kind == "microphone" and d.detail in ("camera", "webcam")} & feeding
    open_ = _heard_somewhere(show, there) if there else set()
    for device in show.devices:
        if device.id in open_:
            yield about(
                "built-in-microphone", "caution", f"{the_device(show, device.id).do('be')} the microphone for a voice",
                "It hears the room more than the voice; it is good as a stand-by.", device.id,
                "Use a microphone close by.",
            )  # fmt: skip


def _heard_somewhere(show: Show, devices: set[str]) -> set[str]:
    """Those of the devices from which in some cue an open way leads to somebody; all of them where nobody listens."""
    if not show.listeners:
        return devices
    graph = flatten(show)
    cues: list[str | None] = [c.id for c in show.cues] or [None]
    found: set[str] = set()
    for cue in cues:
        now = state(graph, show, cue)
        usable = now.gain_db > SILENT
        for device in devices - found:
            starts = np.array([n for n, (port, _) in enumerate(graph.nodes) if owner(port) == device], int)
            if reachable(len(graph.nodes), graph.src[usable], graph.dst[usable], starts)[graph.ear_node].any():
                found.add(device)
    return found


@rig_kind(far_microphone="{many} microphones hear the room more than the voice")
def far_microphone(show: Show) -> Iterable[Finding]:
    """Voices at which no microphone is nearer than the room lets it hear them.

    At the critical distance the room is as loud as the voice itself: 0.057·√(V/T), so 0.8 m in 200 m³ with a
    reverberation time of 1 s, and √3 of that for a cardioid (Kuttruff, Room Acoustics).
    """
    for sound in show.sounds:
        air = [c for c in show.cables if c.source == f"sound/{sound.id}" and c.kind == "air" and c.target in show.ports]
        if sound.kind != "voice" or not air:
            continue
        nearest = min(air, key=lambda c: c.length_m)
        if nearest.length_m > FAR_M:
            microphone = the_device(show, owner(nearest.target))
            yield about(
                "far-microphone", "caution",
                f"{microphone.do('be')} {number(nearest.length_m, 1)} m from {named(sound)}",
                f"In a usual room it hears the room more than the voice from about {number(FAR_M, 1)} m on.",
                ports=(nearest.source, nearest.target),
                remedy="Bring it nearer, or use one that is worn.",
            )  # fmt: skip


@rig_kind(wireless_stream="{many} streams go out on a wireless network")
def wireless_stream(show: Show) -> Iterable[Finding]:
    """Streams that leave by radio."""
    for cable in show.cables:
        if cable.kind == "wireless network" and cable.source in show.ports and show.port(cable.source).picture:
            yield about(
                "wireless-stream", "caution",
                f"the stream leaves {the_device(show, owner(cable.source))} on a wireless network",
                "Others use it too; it is welcome as a stand-by, not as the only way.",
                ports=(cable.source, cable.target),
                remedy="Use a network lead.",
            )  # fmt: skip


@rig_kind(plain_y="{many} plain Y leads join two outputs")
def plain_y(show: Show) -> Iterable[Finding]:
    """Left and right soldered together: outputs work against each other."""
    fed = [owner(c.target) for c in show.cables]
    for device in show.devices:
        if device.kind == "plain-y" and fed.count(device.id) > 1:
            yield about(
                "plain-y", "caution", f"left and right are soldered together in {the_device(show, device.id)}",
                "Each output drives the other: distortion, and sometimes a broken output.", device.id,
                "Use a join with resistors, or two channels.",
            )  # fmt: skip
