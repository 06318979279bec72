"""The patch line: a rig wired by typing, `call computer headphones > desk 9`.

Names are those on the map; a port is said by its name or number, several by a range (`stage box 1-8 > desk 1-8`).
Where only the device is said, the first free ports that fit are taken.
"""

import re

from msgspec import Struct

from kymaton.core.cable_match import lead_between
from kymaton.core.edits.cables import connect, disconnect, taken_by
from kymaton.core.joining import why_not
from kymaton.core.loadin.runs import UNSAID_M
from kymaton.core.model import Port, Show, ShowError
from kymaton.core.nearest import did_you_mean

RANGE = re.compile(r"^((?:.* )?)(\d+)\s*-\s*(\d+)$")
NUMBERED = re.compile(r"\b(?:ch|chan|channel|in|input)\.?\s+(?=\d)")  # `desk ch 1` is `desk 1`
MOST_AT_ONCE = 256
SIDES = ("left", "right")
MOUTH_M = 0.1  # a voice at its microphone, when no distance is said
METRES = re.compile(r"\s+(\d+(?:\.\d+)?)\s*m$")


class End(Struct, frozen=True):
    """One side of a connection: an owner (device, sound, listener) and the ports that were said, perhaps none.

    `side` is 1 or 2 where the left or the right of a stereo port was said.
    """

    owner: str
    ports: tuple[str, ...]
    said: bool
    side: int = 0


class Patch(Struct, frozen=True):
    """What a line would do: the show after it, a sentence for undo, the leads it takes, in which cues it holds."""

    show: Show
    text: str
    needs: tuple[str, ...] = ()
    where: str = ""


def read_patch(show: Show, line: str) -> Patch:
    """What a line does. Raises ShowError with one sentence when it cannot be done."""
    line = line.strip()
    if not line:
        raise ShowError("Type what goes where: a source, >, a target.")
    verb, _, rest = line.partition(" ")
    if verb.lower() in ("disconnect", "unplug"):
        return _unplug(show, rest)
    sides = re.split(r"\s*>\s*", line)
    if len(sides) != 2 or not all(sides):
        raise ShowError("A connection is a source, >, and a target.")
    right = METRES.sub("", sides[1])
    metres = METRES.search(sides[1])
    return _connect(show, sides[0], right, float(metres[1]) if metres else None)


def _connect(show: Show, left: str, right: str, metres: float | None) -> Patch:
    source, target = find_ends(show, left, "out"), find_ends(show, right, "in")
    pairs = _pairs(show, source, target)
    needs = []
    fans = _fans(show, pairs)
    for a, b in pairs:
        kind, length = _lead(show, a, b)
        side = _said_side(show, a, b, source.side, target.side) or _side(show, a, b, kind)
        if fans == "in":
            side = ((1, pairs.index((a, b)) + 1),)
        elif fans == "out":
            side = ((pairs.index((a, b)) + 1, 1),)
        show = connect(show, a, b, kind, metres if metres is not None else length, side)
        if kind not in ("held", "air"):
            needs.append(kind)
    first = f"{show.port_label(pairs[0][0])} to {show.port_label(pairs[0][1])}"
    text = f"connect {first}" if len(pairs) == 1 else f"connect {len(pairs)} leads, {first} and on"
    return Patch(show, text, tuple(dict.fromkeys(needs)))


def _pairs(show: Show, source: End, target: End) -> list[tuple[str, str]]:
    """Which output goes to which input."""
    if source.said and target.said:
        if len(source.ports) != len(target.ports) and 1 not in (len(source.ports), len(target.ports)):
            raise ShowError(f"{len(source.ports)} outputs do not go into {len(target.ports)} inputs.")
        many = max(len(source.ports), len(target.ports))
        outs, ins = (e.ports * many if len(e.ports) == 1 else e.ports for e in (source, target))
        return list(zip(outs, ins, strict=True))
    free_out = [p for p in source.ports if source.said or source.owner == "sound" or not _used_up(show, p)]
    free_in = [p for p in target.ports if target.said or target.owner == "listener" or not taken_by(show, p)]
    if not source.said and not free_out:  # an output may feed several inputs
        free_out = list(source.ports)
    for a in free_out:
        for b in free_in:
            if joins(show, a, b):
                pair = [p for p in source.ports if not source.said and show.port(p).name in SIDES] if a != b else []
                stereo = target.owner != "listener" and b in show.ports and show.port(b).channels == 2
                if stereo and len(pair) == 2 and a in pair:
                    return [(p, b) for p in pair]
                if source.said and len(source.ports) > 1:
                    begin = free_in.index(b)
                    return list(zip(source.ports, free_in[begin : begin + len(source.ports)], strict=False))
                if target.said and len(target.ports) > 1:
                    begin = free_out.index(a)
                    return list(zip(free_out[begin : begin + len(target.ports)], target.ports, strict=False))
                return [(a, b)]
    if not free_in:
        raise ShowError(f"{_name(show, target.owner, target.ports)} has no free input.")
    raise ShowError(
        f"Nothing of {_name(show, source.owner, source.ports)} fits an input of "
        f"{_name(show, target.owner, target.ports)} that is free."
    )


def _used_up(show: Show, port: str) -> bool:
    """Whether an output has its lead already; what sounds in air is heard by as many as there are."""
    return bool(taken_by(show, port)) and show.port(port).signal != "acoustic"


def _fans(show: Show, pairs: list[tuple[str, str]]) -> str:
    """`in` where two outputs go into a stereo input, `out` where one goes into two: first the left, then the right."""
    if len(pairs) != 2:
        return ""
    for way, (one, two) in (("in", (1, 0)), ("out", (0, 1))):
        ends = [_port(show, end) for end in (pairs[0][one], pairs[0][two], pairs[1][two])]
        if pairs[0][one] == pairs[1][one] and [p.channels for p in ends if p is not None] == [2, 1, 1]:
            return way
    return ""


def _name(show: Show, owner: str, ports: tuple[str, ...]) -> str:
    if owner in ("sound", "listener"):
        return show.port_label(ports[0])
    return show.device(owner).name


def _port(show: Show, id: str) -> Port | None:
    return show.ports[id][1] if id in show.ports else None


def joins(show: Show, source: str, target: str) -> bool:
    """Whether some lead takes this output to this input."""
    a, b = _port(show, source), _port(show, target)
    if why_not(show, source, target) is not None:
        return False
    if a is None or b is None or a.picture == b.picture or a.signal == b.signal:
        return True
    return not (a.connector and b.connector)  # a program takes sound, picture, or both


def _said_side(show: Show, source: str, target: str, left: int, right: int) -> tuple[tuple[int, int], ...]:
    """The channels of a lead of which a side was said at either end; none where none was."""
    if not left and not right:
        return ()
    two = [id in show.ports and show.port(id).channels == 2 for id in (source, target)]
    return ((left or (right if two[0] else 1), right or (left if two[1] else 1)),)


def _side(show: Show, source: str, target: str, kind: str) -> tuple[tuple[int, int], ...]:
    """Which side of a stereo socket a lead is for: of one that splits the left first; else as the output is called."""
    a, b = _port(show, source), _port(show, target)
    if a is not None and b is not None and (a.channels, b.channels) == (1, 2) and a.name in SIDES:
        return ((1, SIDES.index(a.name) + 1),)
    if " 2 x " not in kind or a is None or b is None or (a.channels, b.channels) != (2, 1):
        return ()
    used = {c.channels for c in taken_by(show, source)}
    return ((2, 1),) if ((1, 1),) in used and ((2, 1),) not in used else ((1, 1),)


def _lead(show: Show, source: str, target: str) -> tuple[str, float]:
    """The kind of lead between two ports, and its usual length (distance through air)."""
    a, b = _port(show, source), _port(show, target)
    if a is None:
        sound = show.sound(source.partition("/")[2])
        near = b is not None and b.signal == "acoustic"
        return ("air", MOUTH_M) if near and sound.unit == "dB SPL" else ("held", 0.0)
    if b is None:
        loudspeaker = a.signal == "acoustic" and show.device(source.partition("/")[0]).kind == "loudspeakers"
        return ("air", 3.0) if loudspeaker else ("held", 0.0)
    reason, lead = why_not(show, source, target), lead_between(a, b)
    if reason is not None or lead is None:
        raise ShowError(reason or "There is no lead for it.")
    return lead.kind, UNSAID_M if lead.kind not in ("held", "air", "Bluetooth") else 1.0


def _unplug(show: Show, text: str) -> Patch:
    sides = re.split(r"\s*>\s*", text.strip())
    if not sides[0]:
        raise ShowError("Say what to disconnect.")
    if len(sides) == 2:
        source, target = find_end(show, sides[0], "out"), find_end(show, sides[1], "in")
        gone = [c for c in show.cables if c.source in source.ports and c.target in target.ports]
    else:
        exact = {p for way in ("out", "in") for p in _ends_said(show, sides[0], way, True)}
        ports = exact or {p for way in ("out", "in") for p in _ends_said(show, sides[0], way, False)}
        gone = [c for c in show.cables if c.source in ports or c.target in ports]
    if not gone:
        raise ShowError("Nothing is connected there.")
    text = f"disconnect {show.port_label(gone[0].source)} from {show.port_label(gone[0].target)}"
    if len(gone) > 1:
        text = f"disconnect {len(gone)} leads"
    return Patch(disconnect(show, [c.id for c in gone]), text)


def _ends_said(show: Show, text: str, way: str, exact: bool) -> tuple[str, ...]:
    try:
        return find_end(show, text, way, exact).ports
    except ShowError:
        return ()


# names


def owners(show: Show, way: str) -> list[tuple[str, str]]:
    """Names that may stand on a side, with what they mean: sounds (out) or listeners (in), then devices."""
    if way == "out":
        people = [(s.name, f"sound/{s.id}") for s in show.sounds]
    else:
        people = [(x.name, f"listener/{x.id}") for x in show.listeners]
    return people + [(d.name, d.id) for d in show.devices]


def find_ends(show: Show, text: str, way: str) -> End:
    """What a side of a patch line means: of several devices in a row (`kit mic 1-7`), one port of each."""
    names = expanded(show, text)
    if len(names) == 1:
        return find_end(show, text, way)
    ports = []
    for end in (find_end(show, name, way) for name in names):
        sounding = [p for p in end.ports if show.port(p).channels] or list(end.ports)
        ports.append(next((p for p in sounding if not taken_by(show, p)), sounding[0]))
    return End("several", tuple(ports), True)


def find_end(show: Show, text: str, way: str, exact: bool = False) -> End:
    """What a side of a patch line means; unless `exact`, `desk 1` may mean desk aux 1 where outputs are asked for.

    Raises ShowError when nothing, or no such port, is known by this name.
    """
    said = " ".join(text.lower().split())
    if "/" in said and (said in show.ports or any(said == id for _, id in owners(show, way))):
        return End(said.partition("/")[0], (said,), True)
    options = sorted(owners(show, way), key=lambda o: -len(o[0]))
    for name, id in options:
        low = name.lower()
        if said == low or said.startswith(low + " "):
            if "/" in id:
                if said != low:
                    continue
                return End(id.partition("/")[0], (id,), True)
            return _device_end(show, id, said[len(low) :].strip(), way, exact)
    starts = [(name, id) for name, id in options if name.lower().startswith(said)]
    if len(starts) == 1:
        name, id = starts[0]
        return End(id.partition("/")[0], (id,), True) if "/" in id else _device_end(show, id, "", way, exact)
    if said.startswith("the "):  # as sentences say it
        return find_end(show, said.removeprefix("the "), way, exact)
    likely = did_you_mean(text, (name for name, _ in options))
    raise ShowError(f"Nothing here is called '{text.strip()}'.{likely}")


def expanded(show: Show, text: str) -> list[str]:
    """`kit mic 1-3` as the names of three devices, where these are devices; else the text itself."""
    found = RANGE.match(" ".join(text.split()))
    if found is None or not 0 <= int(found[3]) - int(found[2]) < MOST_AT_ONCE:
        return [text]
    names = [f"{found[1]}{n}" for n in range(int(found[2]), int(found[3]) + 1)]
    known = {d.name.lower() for d in show.devices}
    return names if all(name.lower() in known for name in names) else [text]


def _device_end(show: Show, id: str, port: str, way: str, exact: bool) -> End:
    device = show.device(id)
    ports = [p for p in device.ports if p.direction == way]
    if not ports:
        raise ShowError(f"{device.name} has no {'output' if way == 'out' else 'input'}.")
    if not port:
        return End(id, tuple(f"{id}/{p.id}" for p in ports), len(ports) == 1)
    port = NUMBERED.sub("", port)
    found = RANGE.match(port)
    names = [port]
    if found and 0 <= int(found[3]) - int(found[2]) < MOST_AT_ONCE:
        names = [f"{found[1]}{n}" for n in range(int(found[2]), int(found[3]) + 1)]
    chosen = []
    for name in names:
        match = [p for p in ports if name in (p.name.lower(), p.id.replace("-", " "), p.id)]
        match = match or [p for p in ports if not exact and p.name.lower().endswith(f" {name}")]
        if not match and len(names) == 1:
            half = _half_of_a_port(ports, name)
            if half is not None:
                return End(id, (f"{id}/{half[0].id}",), True, half[1])
        if not match:
            raise ShowError(f"{device.name} has no {'output' if way == 'out' else 'input'} '{name}'.")
        chosen.append(f"{id}/{match[0].id}")
    return End(id, tuple(chosen), True)


def _half_of_a_port(ports: list[Port], name: str) -> tuple[Port, int] | None:
    """The left or right of a stereo port: `main left`, or `left` alone where only one has two channels."""
    for number, word in enumerate(SIDES, 1):
        title = name.removesuffix(word).strip()
        stereo = [p for p in ports if p.channels == 2 and title in ("", p.name.lower())]
        if name.endswith(word) and len(stereo) == 1:
            return stereo[0], number
    return None


def completions(show: Show, text: str) -> list[str]:
    """How a line may go on: names first, then ports, the free ones before the taken."""
    left, arrow, right = text.partition(">")
    way, part = ("in", right) if arrow else ("out", left)
    head = f"{left.strip()} > " if arrow else ""
    said = part.strip().lower()
    names = [n for n, _ in owners(show, way) if n.lower().startswith(said) and n.lower() != said]
    found = [head + n for n in dict.fromkeys(names)]
    for name, id in owners(show, way):
        if "/" in id or not said.startswith(name.lower()):
            continue
        rest = said[len(name) :].strip()
        ports = [p for p in show.device(id).ports if p.direction == way and p.name.lower().startswith(rest) and p.name]
        ports.sort(key=lambda p: bool(taken_by(show, f"{id}/{p.id}")))
        found += [f"{head}{name} {p.name}" for p in ports]
    return list(dict.fromkeys(found))[:40]
