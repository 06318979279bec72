"""Places the path map: plates in stages, wires in the channels between them and in the gaps between plates.

Pure geometry, no drawing. Wires run in channels (between columns) and gaps (between plates of a column) only, so
they are clear of plates by construction. Wires to the same plate share one trunk. The same show gives the same map.
"""

import itertools
from collections import Counter, defaultdict

from msgspec import Struct, field

from kymaton.core.model import Show
from kymaton.core.nets import connected_components, net_of, preorder

STAGES = ("made", "picked-up", "mixed", "embedded", "carried", "heard")
STAGE_NAMES = ("Made by", "Picked up", "Mixed", "Embedded", "Carried", "Heard by")
ROOMY, DENSE = 38.0, 25.0  # height of a plate with two lines, with one
SLOT, GAP, LINK_GAP, TRACK = 8.0, 9.0, 18.0, 5.0
CHANNEL = 12.0
NARROWEST, WIDEST = 98.0, 150.0
TOP, MOST_SPREAD = 30.0, 22.0
Point = tuple[float, float]
Trunk = tuple[str, bool]  # target plate, picture or not


class Plate(Struct):
    """A sound, device or listener on the map."""

    id: str  # sound/…, a device id, listener/…
    title: str
    detail: str
    column: int
    x: float = 0.0
    y: float = 0.0
    width: float = 0.0
    height: float = ROOMY

    @property
    def middle(self) -> float:
        return self.y + self.height / 2

    @property
    def bottom(self) -> float:
        return self.y + self.height

    @property
    def two_lines(self) -> bool:
        return self.height >= ROOMY


class Wire(Struct):
    """All cables between two plates that carry the same; `points` are its corners."""

    source: str
    target: str
    picture: bool
    cables: tuple[str, ...]
    points: list[Point] = field(default_factory=list)
    hops: list[tuple[int, int]] = field(default_factory=list)  # (column, gap) crossed, in order
    channels: list[int] = field(default_factory=list)  # channel of each vertical
    linked: bool = False  # straight down or up to the next plate of its column

    @property
    def trunk(self) -> Trunk:
        return (self.target, self.picture)


class Map(Struct):
    plates: dict[str, Plate]
    wires: list[Wire]
    columns: list[tuple[float, float]]  # x and width of each stage
    width: float
    height: float


def owner(port: str) -> str:
    """The plate that a port belongs to."""
    first, _, _ = port.partition("/")
    return port if first in ("sound", "listener") else first


def lay_out(show: Show, width: float, height: float) -> Map:
    """The map of a show, at least `width` × `height` large."""
    plates = _plates(show)
    wires = _wires(show)
    columns = _ordered(plates, wires)
    _mark_links(wires, columns)
    leaving = Counter(w.source for w in wires if not w.linked)
    coming = Counter(trunk[0] for trunk in {w.trunk for w in wires})
    busy = {p: max(leaving[p], coming[p]) for p in plates}
    room = height - TOP
    for column in columns:
        dense = len(column) * (ROOMY + GAP) + GAP > room
        for plate in column:
            plate.height = max(DENSE if dense else ROOMY, 10 + SLOT * busy[plate.id])
    linked = {frozenset((w.source, w.target)) for w in wires if w.linked}
    gaps = [[_gap(a, b, linked) for a, b in zip([None, *c], [*c, None], strict=True)] for c in columns]
    _stack(columns, gaps, room)
    _choose_gaps(wires, plates, columns)
    used: dict[tuple[int, int], set[Trunk]] = defaultdict(set)
    for wire in wires:
        for hop in wire.hops:
            used[hop].add(wire.trunk)
    for (number, gap), trunks in used.items():
        if columns[number]:
            gaps[number][gap] += TRACK * len(trunks)
    bottom = _stack(columns, gaps, room)
    levels = _gap_tracks(used, plates, columns, bottom)
    return _route(plates, wires, columns, levels, width, max(height, bottom))


def _plates(show: Show) -> dict[str, Plate]:
    found: dict[str, Plate] = {}
    for sound in show.sounds:
        told = sound.kind + (" L R" if sound.channels == 2 else "")
        if sound.unit == "dB SPL":
            told = f"{sound.kind} {sound.level:g} dB"
        found[f"sound/{sound.id}"] = Plate(f"sound/{sound.id}", sound.name, told, 0)
    for device in show.devices:
        found[device.id] = Plate(device.id, device.name, device.detail or device.kind, STAGES.index(device.stage))
    for listener in show.listeners:
        told = listener.detail or listener.kind
        found[f"listener/{listener.id}"] = Plate(f"listener/{listener.id}", listener.name, told, 5)
    return found


def _wires(show: Show) -> list[Wire]:
    bundles: dict[tuple[str, str, bool], list[str]] = defaultdict(list)
    for cable in show.cables:
        source, target = owner(cable.source), owner(cable.target)
        picture = not cable.source.startswith("sound/") and show.port(cable.source).picture
        if source != target:
            bundles[source, target, picture].append(cable.id)
    return [Wire(a, b, picture, tuple(ids)) for (a, b, picture), ids in bundles.items()]


# the order of plates


def _ordered(plates: dict[str, Plate], wires: list[Wire]) -> list[list[Plate]]:
    """Columns in which neighbours of one column stand together and few wires cross."""
    beside = ((w.source, w.target) for w in wires if plates[w.source].column == plates[w.target].column)
    inside = net_of(beside, plates)
    order = {id: number for number, id in enumerate(inside)}
    blocks: list[list[list[str]]] = [[] for _ in STAGES]
    for group in connected_components(inside):
        blocks[plates[group[0]].column].append(_chain(inside, group, order))
    neighbours: dict[str, list[str]] = defaultdict(list)
    for wire in wires:
        neighbours[wire.source].append(wire.target)
        neighbours[wire.target].append(wire.source)
    place: dict[str, float] = {}
    alone = [[b for b in column if not any(neighbours[id] for id in b)] for column in blocks]
    blocks = [[b for b in column if b not in lone] for column, lone in zip(blocks, alone, strict=True)]
    for column in blocks:
        _number(column, place)
    for sweep in range(10):
        for column in blocks if sweep % 2 == 0 else reversed(blocks):
            wish = {}
            for block in column:
                around = [place[n] for id in block for n in neighbours[id] if n not in block]
                wish[block[0]] = sum(around) / len(around) if around else place[block[0]]
            column.sort(key=lambda block: wish[block[0]])
            _number(column, place)
    # what is not connected yet stands below and moves nothing
    return [[plates[id] for block in (*c, *lone) for id in block] for c, lone in zip(blocks, alone, strict=True)]


def _chain(inside: dict[str, dict[str, None]], group: list[str], order: dict[str, int]) -> list[str]:
    """Plates of one column that are wired to each other, in the order of the sound as far as there is one."""
    start = min(group, key=lambda n: (sum(n in inside[m] for m in group), order[n]))
    walked = preorder(inside, start)
    return walked + sorted(set(group) - set(walked), key=lambda n: order[n])


def _number(column: list[list[str]], place: dict[str, float]) -> None:
    ids = [id for block in column for id in block]
    for i, id in enumerate(ids):
        place[id] = (i + 0.5) / len(ids)


def _mark_links(wires: list[Wire], columns: list[list[Plate]]) -> None:
    beside = {frozenset((a.id, b.id)) for c in columns for a, b in itertools.pairwise(c)}
    for wire in wires:
        wire.linked = frozenset((wire.source, wire.target)) in beside


# heights


def _gap(above: Plate | None, below: Plate | None, linked: set[frozenset[str]]) -> float:
    both = above is not None and below is not None
    return LINK_GAP if both and frozenset((above.id, below.id)) in linked else GAP  # type: ignore[union-attr]


def _stack(columns: list[list[Plate]], gaps: list[list[float]], room: float) -> float:
    """Give plates their y; shorter columns are spread a little and centred. Returns the bottom."""
    needs = [sum(p.height for p in c) + sum(g) for c, g in zip(columns, gaps, strict=True)]
    tallest = max([room, *needs])
    for column, gap, need in zip(columns, gaps, needs, strict=True):
        if not column:
            continue
        extra = min((tallest - need) / (len(column) + 1), MOST_SPREAD)
        y = TOP + (tallest - need - extra * (len(column) - 1)) / 2
        for plate, above in zip(column, gap, strict=False):
            y += above
            plate.y = y
            y += plate.height + extra
    return TOP + tallest


def _choose_gaps(wires: list[Wire], plates: dict[str, Plate], columns: list[list[Plate]]) -> None:
    """Which channels a wire uses, and for each column that it crosses the gap nearest to its straight line."""
    for wire in wires:
        if wire.linked:
            continue
        a, b = plates[wire.source], plates[wire.target]
        if b.column > a.column:
            crossed = list(range(a.column + 1, b.column))
            wire.channels = [a.column, *crossed]
        elif b.column < a.column:
            crossed = list(range(a.column - 1, b.column, -1))
            wire.channels = [a.column - 1, *(c - 1 for c in crossed)]
        else:
            crossed, wire.channels = [], [a.column]
        y = a.middle
        for step, column in enumerate(crossed):
            aim = y + (b.middle - y) / (len(crossed) - step + 1)
            middles = _gap_middles(columns[column])
            gap = min(range(len(middles)), key=lambda g: abs(middles[g] - aim))
            wire.hops.append((column, gap))
            y = middles[gap] if columns[column] else aim


def _gap_middles(column: list[Plate]) -> list[float]:
    if not column:
        return [TOP]
    tops = [column[0].y - GAP, *(p.bottom for p in column)]
    bottoms = [*(p.y for p in column), column[-1].bottom + GAP]
    return [(a + b) / 2 for a, b in zip(tops, bottoms, strict=True)]


def _gap_tracks(
    used: dict[tuple[int, int], set[Trunk]], plates: dict[str, Plate], columns: list[list[Plate]], bottom: float
) -> dict[tuple[int, int, Trunk], float]:
    """y of each trunk in each gap that it goes through."""
    result = {}
    for (number, gap), trunks in used.items():
        column = columns[number]
        need = TRACK * (len(trunks) + 1)
        if column:
            top = column[gap - 1].bottom if gap > 0 else max(TOP, column[0].y - need)
            low = column[gap].y if gap < len(column) else min(bottom, top + need)
        else:
            top, low = TOP, bottom
        room = min(low - top, need)
        start = (top + low - room) / 2
        ordered = sorted(trunks, key=lambda t: (plates[t[0]].middle, t))
        for i, trunk in enumerate(ordered, 1):
            result[number, gap, trunk] = start + room * i / (len(ordered) + 1)
    return result


# wires


def _route(
    plates: dict[str, Plate],
    wires: list[Wire],
    columns: list[list[Plate]],
    levels: dict[tuple[int, int, Trunk], float],
    width: float,
    height: float,
) -> Map:
    inner = {id(w): [levels[c, g, w.trunk] for c, g in w.hops] for w in wires}
    starts, ends = _attach(plates, wires, inner)
    heights = {id(w): [starts[id(w)], *inner[id(w)], ends[id(w)]] for w in wires if not w.linked}
    spans: dict[int, dict[Trunk, list[tuple[float, float]]]] = defaultdict(lambda: defaultdict(list))
    for wire in wires:
        for i, channel in enumerate(wire.channels):
            spans[channel][wire.trunk].append((heights[id(wire)][i], heights[id(wire)][i + 1]))
    tracks = {channel: _channel_tracks(trunks) for channel, trunks in spans.items()}
    count = {c: 1 + max(t.values(), default=-1) for c, t in tracks.items()}
    widths = [CHANNEL + TRACK * count.get(c, 0) for c in range(len(STAGES))]
    right = widths[-1] if count.get(len(STAGES) - 1) else 0.0
    between = sum(widths[:-1])
    plate = min(WIDEST, max(NARROWEST, (width - between - right) / len(STAGES)))
    spare = max(0.0, width - between - right - plate * len(STAGES)) / (len(STAGES) - 1)
    xs, x = [], 0.0
    for c in range(len(STAGES)):
        xs.append(x)
        x += plate + widths[c] + spare
    for p in plates.values():
        p.x, p.width = xs[p.column], plate

    def track_x(channel: int, trunk: Trunk) -> float:
        room = widths[channel] + (spare if channel < len(STAGES) - 1 else 0.0)
        return xs[channel] + plate + room * (tracks[channel][trunk] + 1) / (count[channel] + 1)

    _draw_links(plates, wires)
    for wire in wires:
        if wire.linked:
            continue
        a, b, ys = plates[wire.source], plates[wire.target], heights[id(wire)]
        wire.points = [(a.x + (a.width if b.column >= a.column else 0), ys[0])]
        for i, channel in enumerate(wire.channels):
            at = track_x(channel, wire.trunk)
            wire.points += [(at, ys[i]), (at, ys[i + 1])]
        wire.points.append((b.x + (b.width if b.column <= a.column else 0), ys[-1]))
    return Map(plates, wires, [(x, plate) for x in xs], max(width, xs[-1] + plate + right), height)


def _draw_links(plates: dict[str, Plate], wires: list[Wire]) -> None:
    """Straight lines between plates that stand one above the other."""
    groups: dict[frozenset[str], list[Wire]] = defaultdict(list)
    for wire in wires:
        if wire.linked:
            groups[frozenset((wire.source, wire.target))].append(wire)
    for group in groups.values():
        for i, wire in enumerate(group, 1):
            a, b = plates[wire.source], plates[wire.target]
            x = a.x + a.width * i / (len(group) + 1)
            wire.points = [(x, a.bottom if a.y < b.y else a.y), (x, b.y if a.y < b.y else b.bottom)]


def _attach(
    plates: dict[str, Plate], wires: list[Wire], inner: dict[int, list[float]]
) -> tuple[dict[int, float], dict[int, float]]:
    """Where each wire leaves and enters, in the order of where it goes to or comes from; a trunk enters once."""
    sides: dict[tuple[str, str], dict[object, list[float]]] = defaultdict(lambda: defaultdict(list))
    for wire in wires:
        if wire.linked:
            continue
        a, b = plates[wire.source], plates[wire.target]
        levels = inner[id(wire)]
        out_side = "right" if b.column >= a.column else "left"
        in_side = "left" if b.column > a.column else "right"
        sides[a.id, out_side][id(wire)].append(levels[0] if levels else b.middle)
        sides[b.id, in_side][wire.trunk].append(levels[-1] if levels else a.middle)
    where: dict[tuple[str, object], float] = {}
    for (plate_id, _), ends in sides.items():
        plate = plates[plate_id]
        ordered = sorted(ends, key=lambda e: sum(ends[e]) / len(ends[e]))
        for i, end in enumerate(ordered, 1):
            where[plate_id, end] = plate.y + plate.height * i / (len(ordered) + 1)
    routed = [w for w in wires if not w.linked]
    return {id(w): where[w.source, id(w)] for w in routed}, {id(w): where[w.target, w.trunk] for w in routed}


def _channel_tracks(trunks: dict[Trunk, list[tuple[float, float]]]) -> dict[Trunk, int]:
    """Number the tracks of one channel from left to right so that few wires cross."""

    def reach(trunk: Trunk) -> tuple[float, float]:
        ys = [y for span in trunks[trunk] for y in span]
        return min(ys), max(ys)

    def fall(trunk: Trunk) -> float:
        return sum(b - a for a, b in trunks[trunk])

    down = sorted((t for t in trunks if fall(t) >= 0), key=lambda t: -reach(t)[0])
    up = sorted((t for t in trunks if fall(t) < 0), key=lambda t: reach(t)[0])
    taken: list[list[tuple[float, float]]] = []
    numbers: dict[Trunk, int] = {}
    for trunk in [*up, *down]:
        low, high = reach(trunk)
        from_last = reversed(list(enumerate(taken, start=1)))
        index = next((n for n, spans in from_last if any(low < b + 4 and a < high + 4 for a, b in spans)), 0)
        if index == len(taken):
            taken.append([])
        taken[index].append((low, high))
        numbers[trunk] = index
    return numbers
