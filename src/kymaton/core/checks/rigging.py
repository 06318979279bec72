"""What a rig as a whole lacks: ends without a way on, one of what should be two, names and choices that mislead."""

from collections.abc import Iterable

from kymaton.core.checks.registry import Finding, Severity, rig_kind
from kymaton.core.model import Device, Show, Want
from kymaton.core.model.device import Value
from kymaton.core.model.rig import owner
from kymaton.core.words import joined, lowered, said, sentence


def about(
    id: str, severity: Severity, text: str, reason: str, device: str = "", remedy: str = "",
    ports: tuple[str, ...] = (), settings: tuple[tuple[str, Value], ...] = (),
) -> Finding:  # fmt: skip
    evidence = {"device": device} if device else {}
    return Finding(
        id, severity, "path", None, None, None, sentence(text), reason, evidence,  # type: ignore[arg-type]
        ports=ports or ((device,) if device else ()), remedy=remedy, settings=settings,
    )  # fmt: skip


@rig_kind("sound-ends-here", "nothing-comes-in", "not-connected")
def chain_breaks(show: Show) -> Iterable[Finding]:
    """Devices at which a chain ends, or begins with nothing."""
    leaving = {owner(c.source) for c in show.cables if c.plugged}
    arriving = {owner(c.target) for c in show.cables if c.plugged}
    for device in show.devices:
        has_out = any(p.direction == "out" for p in device.ports)
        if device.id in arriving and device.id not in leaving and has_out:
            yield about(
                "sound-ends-here", "note", f"the chain ends at {lowered(device.name)}",
                f"Something comes in, nothing goes on ({device.stage.replace('-', ' ')}).", device.id,
            )  # fmt: skip
        elif device.id in leaving and device.id not in arriving and _waits(device):
            yield about(
                "nothing-comes-in", "note", f"nothing comes into {lowered(device.name)}",
                f"It is connected onward, and the chain before it is not there ({device.stage.replace('-', ' ')}).",
                device.id,
            )  # fmt: skip
        elif device.id not in arriving and device.id not in leaving:
            yield about(
                "not-connected",
                "note",
                f"{lowered(device.name)} is not connected",
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
            return f"{sentence(lowered(show.port_label(free)))} is free: patch it to a device there."
    return "Patch it on the map."


def _waits(device: Device) -> bool:
    """Whether all that can come into a device comes by a lead: not so for a lens, a page, a file that is played."""
    inputs = [p for p in device.ports if p.direction == "in"]
    return bool(inputs) and all(p.connector for p in inputs)


@rig_kind("nothing-arrives")
def nothing_arrives(show: Show) -> Iterable[Finding]:
    """Listeners whom something must reach, and whom no lead reaches."""
    fed = {c.target for c in show.cables if c.plugged}
    for listener in show.listeners:
        wanted = any(w.listener == listener.id and w.want is Want.MUST for w in show.plan)
        if wanted and f"listener/{listener.id}" not in fed:
            yield about(
                "nothing-arrives", "fault", f"no lead reaches {said(listener)}",
                "The plan says that something must be heard there.", remedy=_free_bus(show),
                ports=(f"listener/{listener.id}",),
            )  # fmt: skip


@rig_kind("same-name-twice")
def same_name(show: Show) -> Iterable[Finding]:
    seen: dict[str, str] = {}
    for device in show.devices:
        first = seen.setdefault(device.name.lower(), device.id)
        if first != device.id:
            yield about(
                "same-name-twice", "caution", f"two devices are called {device.name}",
                "Labels, patch line and findings cannot tell them apart.", device.id, "Rename one of them.",
            )  # fmt: skip


@rig_kind("one-recording")
def one_recording(show: Show) -> Iterable[Finding]:
    recorders = [x for x in show.listeners if x.kind == "recorder"]
    audience = any(x.kind == "audience" for x in show.listeners)
    if audience and len(recorders) < 2:
        many = "no recording of your own" if not recorders else "only one recording"
        yield about(
            "one-recording", "note", f"there is {many}", "Record in two places: a card fails, an archive is cut."
        )


@rig_kind("one-way-to-the-stream")
def one_way(show: Show) -> Iterable[Finding]:
    """Devices without which no sound reaches the audience."""
    needed = needed_by_audience(show)
    if needed:
        names = joined(lowered(show.device(d).name) for d in needed)
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
    ends = {f"listener/{x.id}" for x in show.listeners if x.kind == "audience"} & _reached(leads, sounds, "")
    return [d.id for d in show.devices if ends - _reached(leads, sounds, d.id)]


def _end(port: str) -> str:
    return port if port.startswith(("sound/", "listener/")) else owner(port)


def _reached(leads: dict[str, set[str]], starts: set[str], without: str) -> set[str]:
    """What can be reached from the starts when one device is taken away."""
    seen, front = set(starts), list(starts)
    while front:
        for after in leads.get(front.pop(), ()):
            if after not in seen and after != without:
                seen.add(after)
                front.append(after)
    return seen


@rig_kind("built-in-microphone")
def built_in(show: Show) -> Iterable[Finding]:
    feeding = {owner(c.target) for c in show.cables if c.source.startswith("sound/") and c.plugged}
    for device in show.devices:
        if device.kind == "microphone" and device.detail in ("camera", "webcam") and device.id in feeding:
            yield about(
                "built-in-microphone", "caution", f"{lowered(device.name)} is the microphone for a voice",
                "It hears the room more than the voice; it is good as a stand-by.", device.id,
                "Use a microphone close by.",
            )  # fmt: skip


@rig_kind("wireless-stream")
def wireless_stream(show: Show) -> Iterable[Finding]:
    for cable in show.cables:
        if cable.kind == "wireless network" and cable.source in show.ports and show.port(cable.source).picture:
            yield about(
                "wireless-stream", "caution",
                f"the stream leaves {lowered(show.port_label(cable.source))} on a wireless network",
                "Others use it too; it is welcome as a stand-by, not as the only way.",
                ports=(cable.source, cable.target),
                remedy="Use a network lead.",
            )  # fmt: skip


@rig_kind("plain-y")
def plain_y(show: Show) -> Iterable[Finding]:
    fed = [owner(c.target) for c in show.cables]
    for device in show.devices:
        if device.kind == "plain-y" and fed.count(device.id) > 1:
            yield about(
                "plain-y", "caution", f"left and right are soldered together at {lowered(device.name)}",
                "Each output drives the other: distortion, and sometimes a broken output.", device.id,
                "Use a join with resistors, or two channels.",
            )  # fmt: skip
