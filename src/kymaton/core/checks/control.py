"""Who can press what, through what: a graph of its own, and where all of it hangs on one thing."""

from collections.abc import Iterable

from kymaton.core.checks.registry import Finding, rig_kind
from kymaton.core.checks.rigging import about
from kymaton.core.model import Show
from kymaton.core.words import Noun, group, the_device, thing

Ways = dict[str, set[str]]


def ways_of(show: Show) -> Ways:
    """What each device, or person, acts on."""
    found: Ways = {}
    for way in show.control_ways:
        found.setdefault(way.source, set()).add(way.target)
    return found


def reached(ways: Ways, start: str, without: str = "") -> set[str]:
    """All that a panel acts on, directly or through others, if one of these did not work."""
    seen, front = {start}, [start]
    while front:
        for after in ways.get(front.pop(), ()):
            if after not in seen and after != without:
                seen.add(after)
                front.append(after)
    return seen


def _surfaces(show: Show, ways: Ways) -> list[str]:
    """What is pressed first: devices on which no other device acts."""
    devices = {d.id for d in show.devices}
    acted_on = {t for source, targets in ways.items() if source in devices for t in targets}
    return [d.id for d in show.devices if d.id in ways and d.id not in acted_on]


@rig_kind(
    all_control_through_one="Control of all devices hangs on {many} things",
    panels_hang_together="{many} devices have panels that only seem independent",
)
def one_way_of_control(show: Show) -> Iterable[Finding]:
    """A program or device without which no panel reaches anything; and panels that meet in one."""
    ways = ways_of(show)
    surfaces = _surfaces(show, ways)
    ends = [d.id for d in show.devices if d.id not in ways and any(d.id in targets for targets in ways.values())]
    between = [d.id for d in show.devices if d.id in ways and d.id not in surfaces]
    told: set[str] = set()
    for middle in between:
        reach = {s: reached(ways, s) for s in surfaces}
        left = {s: reached(ways, s, middle) for s in surfaces}
        lost = [e for e in ends if any(e in r for r in reach.values()) and not any(e in r for r in left.values())]
        if len(lost) > 1 and len(lost) == len(ends):
            told.update(lost)
            yield about(
                "all-control-through-one", "caution",
                f"everything is controlled through {the_device(show, middle)}",
                f"When it stops, nobody presses anything at {_named(show, lost)}, whatever panel they have.", middle,
                "Have one way that does without it: a button on the device itself, or a panel of its own.",
            )  # fmt: skip
        for end in lost:
            panels = [s for s in surfaces if end in reach[s]]
            if len(panels) > 1 and end not in told:
                told.add(end)
                yield about(
                    "panels-hang-together", "caution",
                    f"{_named(show, panels)} seem independent at {the_device(show, end)}, and are not",
                    f"All of them go through {the_device(show, middle)}.", ports=(*panels, middle, end),
                    remedy="Let one of them act without it.",
                )  # fmt: skip


def _named(show: Show, ids: Iterable[str]) -> Noun:
    people = {p.id: p.name for p in show.people}
    return group(thing(people[i]) if i in people else the_device(show, i) for i in ids)
