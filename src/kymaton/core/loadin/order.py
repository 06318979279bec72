"""The order of work: what has to be done before what, how long each takes, who does it, and the way that decides.

Tasks come from the show: cases are carried in, devices are placed, leads laid between devices that stand, runs taped
when their leads lie, supplies plugged when what hangs on them stands, computers started; then sounds are checked one by
one, delays measured and guests called. Minutes are typical of each (unsourced experience). The critical path is the
longest chain of them [1]; with so many hands the work is dealt out by the longest chain that is left, whoever is free
first, when all is carried in [2].

1. Kelley and Walker, Critical-path planning and scheduling, 1959.
2. List scheduling; Graham, Bounds on multiprocessing timing anomalies, SIAM J. Appl. Math. 17 (1969): with no more than
   (2 − 1/m) times the least.
"""

import heapq
from collections.abc import Sequence

from msgspec import Struct

from kymaton.core.loadin.gear import is_carried
from kymaton.core.loadin.mains import supply_names
from kymaton.core.loadin.runs import TAPED, run_of
from kymaton.core.loadin.stock import taken_from
from kymaton.core.model import Show

CASE_MIN, LOOSE_MIN = 3.0, 5.0  # to carry in and open a case, and all that is in none
PLACE_MIN = {"desk": 8.0, "switcher": 5.0, "camera": 8.0, "loudspeakers": 8.0, "computer": 5.0, "encoder": 5.0,
             "screen": 6.0, "microphone": 2.0, "router": 3.0}  # fmt: skip
OTHER_MIN = 2.0
LEAD_MIN, PER_METRE_MIN, TAPE_MIN = 1.0, 0.1, 0.3
SUPPLY_MIN, START_MIN, SOUND_MIN, GUEST_MIN, SYNC_MIN, STREAM_MIN = 4.0, 4.0, 1.5, 5.0, 8.0, 5.0
SAME_MIN = 1e-9  # ends that lie no further apart are one
CARRY = "carry"
STARTED = ("computer", "encoder", "laptop", "desk", "switcher")


class Task(Struct, frozen=True):
    """Something to do: minutes, and what has to be done before."""

    id: str
    text: str
    minutes: float
    after: tuple[str, ...] = ()
    stage: str = ""


class Slot(Struct, frozen=True):
    """A task in somebody's hands, from when to when (minutes from the beginning)."""

    task: Task
    hand: int
    start: float
    end: float


class Order(Struct, frozen=True):
    """The work dealt out to so many hands."""

    hands: int
    slots: tuple[Slot, ...]
    critical: tuple[Task, ...]

    @property
    def minutes(self) -> float:
        """When all is done."""
        return max((s.end for s in self.slots), default=0.0)

    def of(self, hand: int) -> float:
        """How many minutes somebody works."""
        return sum(s.end - s.start for s in self.slots if s.hand == hand)


def tasks_of(show: Show) -> list[Task]:
    """All that has to be done before the doors, in an order that can be done."""
    carried = [d for d in show.devices if is_carried(d)]
    if not carried:
        return []
    taken_leads = taken_from(show)
    lead_cases = [show.stock[t.item].case for t in taken_leads if t.item is not None]
    found = [
        Task(_carry(case), f"Carry in and open {case}" if case else "Carry in what is in no case",
             CASE_MIN if case else LOOSE_MIN, (), CARRY)
        for case in dict.fromkeys((*(d.gear.case for d in carried), *lead_cases))
    ]  # fmt: skip
    carry = tuple(t.id for t in found)
    used = {d.place for d in carried if d.place}
    places = {p.id: p.name for p in show.places} if len(used) > 1 else {}
    for device in carried:
        where = f" ({places[device.place]})" if device.place in places else ""
        minutes = PLACE_MIN.get(device.kind, OTHER_MIN)
        found.append(
            Task(f"place:{device.id}", f"Place {device.name}{where}", minutes, (_carry(device.gear.case),), "place")
        )
    standing = {d.id for d in carried}
    for name in supply_names(show):
        on = tuple(f"place:{d.id}" for d in carried if d.mains == name)
        found.append(Task(f"supply:{name}", f"Plug in what hangs on {name}", SUPPLY_MIN, on or carry, "power"))
    laid: dict[str, list[str]] = {}
    runs: dict[int, list[str]] = {}
    for taken in taken_leads:
        cable = show.cable(taken.cables[0])
        ends = [e.partition("/")[0] for e in (cable.source, cable.target)]
        here = [e for e in ends if e in standing]
        if not here:
            continue
        metres = max(taken.metres, 1.0)
        names = f"{show.port_label(cable.source)} to {show.port_label(cable.target)}"
        id = f"lay:{cable.id}"
        case = () if taken.item is None else (_carry(show.stock[taken.item].case),)
        before = (*(f"place:{e}" for e in here), *case)
        found.append(Task(id, f"Lay {names}", LEAD_MIN + PER_METRE_MIN * metres, before, "lay"))
        for end in here:
            laid.setdefault(end, []).append(id)
        run = run_of(show, cable)
        if run is not None and run.crossing_m:
            runs.setdefault(show.runs.index(run), []).append(id)
    for number, ids in runs.items():
        run = show.runs[number]
        metres = TAPED * run.crossing_m
        names = " to ".join(_name(show, end) for end in (run.source, run.target))
        found.append(Task(f"tape:{number}", f"Tape {names}, {metres:g} m", TAPE_MIN * metres, tuple(ids), "lay"))
    started = []
    for device in carried:
        if device.kind in STARTED:
            before = (*laid.get(device.id, ()), *((f"supply:{device.mains}",) if device.mains else ()))
            found.append(
                Task(f"start:{device.id}", f"Start and set {device.name}", START_MIN,
                     before or (f"place:{device.id}",), "start")
            )  # fmt: skip
            started.append(f"start:{device.id}")
    return [*found, *_checks(show, found, tuple(started))]


def _carry(case: str) -> str:
    return f"carry:{case}"


def _name(show: Show, id: str) -> str:
    return next((p.name for p in show.places if p.id == id), None) or show.device(id).name


def _checks(show: Show, before: Sequence[Task], started: tuple[str, ...]) -> list[Task]:
    """Line check, delays, guests and the test stream, when all lies and runs."""
    ready = tuple(t.id for t in before if t.stage in ("lay", "power", "start")) or tuple(t.id for t in before)
    found = []
    if show.sounds:
        found.append(
            Task("lines", f"Line check of {len(show.sounds)} sounds", SOUND_MIN * len(show.sounds), ready, "check")
        )
    checked = ("lines",) if show.sounds else ready
    guests = [x for x in show.listeners if x.kind == "guest"]
    for guest in guests:
        found.append(Task(f"guest:{guest.id}", f"Call {guest.name} and test", GUEST_MIN, checked, "check"))
    cameras = [d for d in show.devices if d.kind in ("camera", "webcam")]
    if cameras:
        found.append(Task("sync", "Measure sound against picture", SYNC_MIN * len(cameras), checked, "check"))
    if any(d.kind == "stream" for d in show.devices):
        last = tuple(t.id for t in found) or ready
        found.append(Task("stream", "Send a test stream and listen to it", STREAM_MIN, last, "check"))
    return found


def _behind(tasks: Sequence[Task]) -> dict[str, list[str]]:
    """For each task those that wait for it."""
    found: dict[str, list[str]] = {t.id: [] for t in tasks}
    for task in tasks:
        for before in dict.fromkeys(task.after):
            found[before].append(task.id)
    return found


def tails(tasks: Sequence[Task]) -> dict[str, float]:
    """For each task the minutes of the longest chain that begins with it."""
    behind, minutes = _behind(tasks), {t.id: t.minutes for t in tasks}
    found: dict[str, float] = {}
    for task in reversed(tasks):  # what comes after stands after
        found[task.id] = minutes[task.id] + max((found[b] for b in behind[task.id]), default=0.0)
    return found


def critical_path(tasks: Sequence[Task]) -> tuple[Task, ...]:
    """The longest chain of tasks: what takes longer there makes all of it longer."""
    if not tasks:
        return ()
    tail, behind, by_id = tails(tasks), _behind(tasks), {t.id: t for t in tasks}
    chain = [max((t.id for t in tasks if not t.after), key=lambda id: tail[id])]
    while behind[chain[-1]]:
        chain.append(max(behind[chain[-1]], key=lambda id: tail[id]))
    return tuple(by_id[id] for id in chain)


def deal_out(tasks: Sequence[Task], hands: int) -> Order:
    """Tasks to so many hands. Raises ValueError for no hands."""
    if hands < 1:
        raise ValueError("somebody has to do it")
    tail = tails(tasks)
    waits = {t.id: set(t.after) for t in tasks}
    rank = {t.id: (t.stage != CARRY, -tail[t.id], n) for n, t in enumerate(tasks)}  # the van is emptied first
    by_id, behind = {t.id: t for t in tasks}, _behind(tasks)
    ready = [(rank[t.id], t.id) for t in tasks if not t.after]
    free = list(range(hands))
    heapq.heapify(ready)
    running: list[tuple[float, int, str]] = []  # till when, who, what
    slots: list[Slot] = []
    at = 0.0
    while ready or running:
        while ready and free:
            task, hand = by_id[heapq.heappop(ready)[1]], heapq.heappop(free)
            slots.append(Slot(task, hand, at, at + task.minutes))
            heapq.heappush(running, (at + task.minutes, hand, task.id))
        at = running[0][0]
        while running and running[0][0] <= at + SAME_MIN:
            _, hand, done = heapq.heappop(running)
            heapq.heappush(free, hand)
            for id in behind[done]:
                waits[id].discard(done)
                if not waits[id]:
                    heapq.heappush(ready, (rank[id], id))
    return Order(hands, tuple(sorted(slots, key=lambda s: (s.start, s.hand))), critical_path(tasks))
