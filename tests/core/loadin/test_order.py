"""The order of work against all chains and against what any dealing out has to hold to."""

import itertools
import random

import pytest

from kymaton.core.loadin.charging import changes_of
from kymaton.core.loadin.order import Task, critical_path, deal_out, tasks_of
from kymaton.core.model import Cue, Figure, Show
from kymaton.language.script import build
from kymaton.store.showfile import read_show
from tests.shows import DEMO


def random_tasks(seed: int, many: int = 7) -> list[Task]:
    chance = random.Random(seed)
    tasks: list[Task] = []
    for n in range(many):
        after = tuple(t.id for t in tasks if chance.random() < 0.3)
        tasks.append(Task(f"t{n}", f"task {n}", float(chance.randint(1, 9)), after))
    return tasks


def chains(tasks: list[Task]):
    by_id = {t.id: t for t in tasks}

    def before(task: Task):
        if not task.after:
            yield (task,)
        for b in task.after:
            for chain in before(by_id[b]):
                yield (*chain, task)

    return itertools.chain.from_iterable(before(t) for t in tasks)


@pytest.mark.parametrize("seed", range(20))
def test_the_critical_path_is_the_longest_of_all_chains(seed):
    tasks = random_tasks(seed)
    longest = max(sum(t.minutes for t in chain) for chain in chains(tasks))
    found = critical_path(tasks)
    assert sum(t.minutes for t in found) == longest
    assert all(a.id in b.after for a, b in itertools.pairwise(found))


@pytest.mark.parametrize("seed", range(20))
@pytest.mark.parametrize("hands", [1, 2, 3])
def test_work_that_is_dealt_out_can_be_done(seed, hands):
    tasks = random_tasks(seed)
    made = deal_out(tasks, hands)
    end = {s.task.id: s.end for s in made.slots}
    assert sorted(end) == sorted(t.id for t in tasks)
    assert all(s.start >= end[b] - 1e-9 for s in made.slots for b in s.task.after)
    for hand in range(hands):
        mine = [s for s in made.slots if s.hand == hand]
        assert all(a.end <= b.start + 1e-9 for a, b in itertools.pairwise(mine))
    least = max(sum(t.minutes for t in made.critical), sum(t.minutes for t in tasks) / hands)
    assert least - 1e-9 <= made.minutes <= (2 - 1 / hands) * least + 1e-9  # Graham's bound


def test_more_hands_take_less_time_up_to_the_chain_that_decides():
    tasks = tasks_of(read_show(DEMO))
    times = [deal_out(tasks, n).minutes for n in (1, 2, 3, 20)]
    assert times == sorted(times, reverse=True) and times[0] == pytest.approx(sum(t.minutes for t in tasks))
    assert times[-1] == pytest.approx(sum(t.minutes for t in critical_path(tasks)))
    known = set[str]()
    for task in tasks:
        assert set(task.after) <= known, task
        known.add(task.id)
    texts = [s.task.text for s in deal_out(tasks, 2).slots]
    carried = [text for text in texts if text.startswith("Carry in and open ")]
    assert texts[: len(carried)] == carried and len(set(carried)) == len(carried) == 6
    by_id = {t.id: t for t in tasks}
    assert set(by_id["lay:condenser-out-to-desk-in2"].after) == {"place:condenser", "place:desk", "carry:Lead case"}
    with pytest.raises(ValueError, match="somebody"):
        deal_out(tasks, 0)
    assert tasks_of(Show()) == [] and critical_path([]) == ()


def lasting(hours: float, minutes: list[float], *lines: str) -> Show:
    show = build(["add wireless mic", *lines])
    cues = tuple(Cue(id=f"c{n}", name=f"Cue {n}", minutes=m) for n, m in enumerate(minutes))
    device = show.devices[0].evolve(battery_h=Figure(value=hours))
    return show.evolve(cues=cues, devices=(device,))


@pytest.mark.parametrize("seed", range(40))
def test_batteries_are_changed_as_seldom_as_can_be(seed):
    chance = random.Random(seed)
    minutes = [float(chance.randint(5, 60)) for _ in range(6)]
    show = lasting(1.0, minutes)
    found = changes_of(show, show.devices[0])
    assert found is not None
    ways = []
    for size in range(len(minutes)):
        for before in itertools.combinations(range(1, len(minutes)), size):
            pieces = [sum(minutes[a:b]) for a, b in itertools.pairwise((0, *before, len(minutes)))]
            if all(p <= 60 for p in pieces):
                ways.append(before)
        if ways:
            break
    assert found.too_long is None and len(found.before) == len(ways[0])


def test_a_cue_that_is_too_long_and_a_change_that_is_planned():
    show = lasting(1.0, [30, 90])
    found = changes_of(show, show.devices[0])
    assert found is not None and found.too_long == "c1"
    assert changes_of(lasting(1.0, []), show.devices[0]) is None
    rig = build(["person Quill", "add wireless mic", "cue One, 40 min", "cue Two, 40 min",
                 "in Two: Quill changes the battery of wireless mic, 30 s"])  # fmt: skip
    device = rig.devices[0].evolve(battery_h=Figure(value=1.0))
    changes = changes_of(rig.evolve(devices=(device,)), device)
    assert changes is not None and changes.before == () and changes.done == ("two",)
