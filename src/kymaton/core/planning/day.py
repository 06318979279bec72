"""The day changes: a device did not come, or is dead. From what is there, the smallest change that keeps most.

Ways are tried and judged by the same report as everything: something of its kind that stands unused takes its place;
something in use that has sockets free takes its leads over; what went into it goes straight into what it fed; another
picture goes on air. For the best of these settings are looked for that cure what came to light; what was wrong before
stays. Of all the one in which least is lost, then with the fewest faults, leads and settings changed.
"""

from collections.abc import Callable, Iterator

from msgspec import Struct

from kymaton.core.cable_match import lead_between
from kymaton.core.checks.registry import Finding, Key
from kymaton.core.checks.report import Report
from kymaton.core.edits.cables import connect
from kymaton.core.edits.controls import apply
from kymaton.core.edits.devices import remove_device
from kymaton.core.errors import Progress, Stopped
from kymaton.core.joining import why_not
from kymaton.core.loadin.gear import ELSEWHERE
from kymaton.core.loadin.runs import UNSAID_M
from kymaton.core.model import Cable, Device, Show, ShowError, Value
from kymaton.core.model.contradictions import value_problem
from kymaton.core.planning.fixes import find_fix
from kymaton.core.planning.planner import propose
from kymaton.core.words import counted, the_device

TRIED = 0.4  # of the progress: the ways as they are; then come their settings
MOST_TRIED = 80  # reports for one change; chosen: some seconds on a large show
MOST_SET = 2  # ways for which settings are looked for: the best as they are
MOST_SOLVED = 300  # cues that are solved for all that is left together
MOST_FIXES = 16  # cards of one way for which settings are looked for


class DayWay(Struct, frozen=True):
    """A way out: how it is called, the show with it, what is lost (sentences; `worse` counts it cue by cue), all faults
    that are left, leads touched, settings changed.
    """

    name: str
    show: Show
    lost: tuple[str, ...]
    worse: int
    faults: int
    touched: int
    settings: int


def ways_without(show: Show, gone: str, progress: Progress = lambda _: True) -> list[DayWay]:
    """Ways on without a device, the best first. Raises KeyError for a device that does not exist, Stopped."""

    def step(part: float) -> None:
        if not progress(part):
            raise Stopped

    show.device(gone)
    before = {f.key for f in Report(show).findings if f.severity == "fault"}
    tried: list[tuple[str, Show, Report]] = []
    for name, after in _candidates(show, gone, step):
        step(TRIED * len(tried) / (len(show.devices) + 2))
        tried.append((name, after, Report(after)))
    tried.sort(key=lambda t: (len(_new(t[2], before)), t[2].count("fault"), _touched(show, t[1])))
    found = []
    for rank, (name, after, report) in enumerate(tried):
        settings = 0
        if rank < MOST_SET and _new(report, before):
            begin, part = TRIED + (1 - TRIED) * rank / MOST_SET, (1 - TRIED) / MOST_SET
            settings, report = _set(report, before, lambda done, a=begin, n=part: step(a + n * done))  # type: ignore[misc]
            after = report.show
        new = _new(report, before)
        lost = tuple(dict.fromkeys(f.sentence for f in new))
        found.append(DayWay(name, after, lost, len(new), report.count("fault"), _touched(show, after), settings))
    return sorted(found, key=lambda w: (w.worse, w.faults, w.touched + w.settings))


def _set(report: Report, known: set[Key], step: Callable[[float], None]) -> tuple[int, Report]:
    """How many settings are changed against what came to light, and the report with them; what was wrong stays."""
    settings, tried = 0, set[object]()
    while len(tried) < MOST_FIXES:
        cards = [c for cue in report.cues.values() for c in cue.cards if c.severity == "fault" and c.key not in tried]
        card = next((c for c in cards if any(f.key not in known for f in c.findings)), None)
        if card is None:
            break
        step(len(tried) / MOST_FIXES)
        tried.add(card.key)
        fix = find_fix(report, card.findings)
        if fix is None or fix.asked:
            continue
        after = Report(apply(report.show, fix.changes))
        if len(_new(after, known)) < len(_new(report, known)):
            settings, report = settings + len(fix.changes), after
    if not _new(report, known):
        return settings, report

    def going() -> bool:
        step(1.0)
        return True

    changes = propose(report, MOST_SOLVED, going).changes  # what no card cures by itself, all of them together may
    whole = Report(apply(report.show, changes)) if changes else report
    fewer = len(_new(whole, known)) < len(_new(report, known))
    return (settings + len(changes), whole) if fewer else (settings, report)


def _new(report: Report, known: set[Key]) -> list[Finding]:
    """Faults that were not there before."""
    return [f for f in report.findings if f.severity == "fault" and f.key not in known]


def _touched(show: Show, after: Show) -> int:
    """How many leads lie otherwise than before, those that go with the device not counted."""
    return len({(c.source, c.target) for c in after.cables} - {(c.source, c.target) for c in show.cables})


def _candidates(show: Show, gone: str, step: Callable[[float], None]) -> Iterator[tuple[str, Show]]:
    old = show.device(gone)
    used = {end.partition("/")[0] for c in show.cables for end in (c.source, c.target)}
    bare = _other_on_air(show, gone)
    yield f"go on without {the_device(show, gone)}", bare
    for device in show.devices:
        if device.id == gone or device.kind in ELSEWHERE or (device.kind != old.kind and device.id not in used):
            continue
        after = _taken_over(show, old, device)
        if after is not None:
            verb = "takes over" if device.id in used else "takes its place"
            yield f"{the_device(show, device.id)} {verb}", after
    straight = _straight(show, gone, bare, step)
    if straight is not None:
        yield "what went into it goes straight on", straight


def _other_on_air(show: Show, gone: str) -> Show:
    """Without the device; cues in which its picture was on air take one that is still there."""
    shown = [
        c for c in show.cables
        if c.plugged and c.source in show.ports and show.port(c.source).picture and not c.source.startswith(f"{gone}/")
    ]  # fmt: skip
    kind = show.device(gone).kind
    pictures = [c.target for c in sorted(shown, key=lambda c: show.ports[c.source][0].kind != kind)]
    lost = {c.target for c in show.cables if c.source.startswith(f"{gone}/")}
    cues = []
    for cue in show.cues:
        if cue.on_air in lost:
            at = (cue.on_air or "").partition("/")[0]
            other = next((p for p in pictures if p.startswith(f"{at}/") and p not in lost), None)
            cue = cue.evolve(on_air=other)
        cues.append(cue)
    return remove_device(show.evolve(cues=tuple(cues)), gone)


def _taken_over(show: Show, old: Device, new: Device) -> Show | None:
    """The leads of a device at the free sockets of another, settings of the same name with them; None if none fits."""
    taken = {end for c in show.cables for end in (c.source, c.target)}
    places: dict[str, str] = {}
    for port in old.ports:
        at = f"{old.id}/{port.id}"
        if at not in taken:
            continue
        like = [
            p for p in new.ports
            if p.direction == port.direction and p.signal == port.signal and p.channels == port.channels
            and ((p.signal == "acoustic" and new.kind == old.kind) or f"{new.id}/{p.id}" not in taken)
            and f"{new.id}/{p.id}" not in places.values()
        ]  # fmt: skip
        same = [p for p in like if p.id == port.id] or like
        if same:
            places[at] = f"{new.id}/{same[0].id}"
    if not places:
        return None
    cables = []
    for cable in show.cables:
        source, target = places.get(cable.source, cable.source), places.get(cable.target, cable.target)
        if (source, target) != (cable.source, cable.target):
            if _refused(show, source, target):
                continue
            cable = Cable(id=cable.id, source=source, target=target, kind=cable.kind, length_m=cable.length_m,
                          label=cable.label, channels=cable.channels, plugged=cable.plugged)  # fmt: skip
        cables.append(cable)
    idle = not any(end.startswith(f"{new.id}/") for end in taken)
    after = _settings_moved(show.evolve(cables=tuple(cables)), old, new, places, idle and old.kind == new.kind)
    try:
        return remove_device(after, old.id)
    except ShowError:
        return None


def _refused(show: Show, source: str, target: str) -> str | None:
    if source.startswith("sound/") or target.startswith("listener/"):
        return None
    return why_not(show, source, target)


def _settings_moved(show: Show, old: Device, new: Device, places: dict[str, str], whole: bool) -> Show:
    """Controls of the new device as those of the old one: all of them, or those of the sockets that it takes over."""
    strips = {a.partition("/")[2]: b.partition("/")[2] for a, b in places.items()}
    strips |= {a.replace("in", "ch", 1): b.replace("in", "ch", 1) for a, b in strips.items() if a.startswith("in")}
    held = {c.id: c for c in new.controls}
    renamed: dict[str, str] = {}
    for control in old.controls:
        _, *parts = control.id.split("/")
        there = "/".join([new.id, *(strips.get(p, p) for p in parts)])
        if there in held and (whole or strips.keys() & set(parts)):
            renamed[control.id] = there

    def fitting(values: dict[str, Value]) -> dict[str, Value]:
        moved = {renamed[k]: v for k, v in values.items() if k in renamed}
        return {k: v for k, v in moved.items() if value_problem(held[k], v) is None}

    base = fitting({c.id: c.value for c in old.controls})
    device = new.evolve(controls=tuple(c.evolve(value=base.get(c.id, c.value)) for c in new.controls))
    cues = tuple(
        c.evolve(
            controls={k: v for k, v in c.controls.items() if not k.startswith(f"{old.id}/")} | fitting(c.controls),
            on_air=places.get(c.on_air or "", c.on_air),
        )
        for c in show.cues
    )
    devices = tuple(device if d.id == new.id else d for d in show.devices)
    return show.evolve(devices=devices, cues=cues)


def _straight(show: Show, gone: str, bare: Show, step: Callable[[float], None]) -> Show | None:
    """What went into a device into what it fed, socket by socket, as long as that leaves fewer faults."""
    sources = [
        c.source for c in show.cables if c.target.startswith(f"{gone}/") and c.plugged and c.source in bare.ports
    ]
    targets = [
        c.target for c in show.cables if c.source.startswith(f"{gone}/") and c.plugged and c.target in bare.ports
    ]
    best, tried = bare, 0
    for target in dict.fromkeys(targets):
        trials = []
        for source in dict.fromkeys(sources):
            step(TRIED)
            trial = _joined(best, source, target) if tried < MOST_TRIED else None
            if trial is not None:
                tried += 1
                trials.append((_faults(trial), trial))
        fewest = min(trials, key=lambda t: t[0], default=None)
        if fewest is not None and fewest[0] < _faults(best):
            best = fewest[1]
    return best if best is not bare else None


def _joined(show: Show, source: str, target: str) -> Show | None:
    """The show with a lead from here to there; None where none joins them, or a microphone would meet a line input."""
    a, b = show.port(source), show.port(target)
    lead = lead_between(a, b)
    if lead is None or why_not(show, source, target) is not None or (a.signal, b.signal) == ("mic", "line"):
        return None
    try:
        return connect(show, source, target, lead.kind, UNSAID_M)
    except ShowError:
        return None


def _faults(show: Show) -> int:
    return Report(show).count("fault")


def told(way: DayWay) -> str:
    """A way in a sentence: what is done by hand and by setting."""
    parts = [way.name]
    parts += [f"{counted(way.touched, 'lead')} to plug"] if way.touched else []
    parts += [f"{counted(way.settings, 'setting')} to change"] if way.settings else []
    return ", ".join(parts)
