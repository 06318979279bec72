"""Damaged shows: whatever is in the file, there is a sentence or an answer, finite, in bounded time.

`make fuzz` tries many (MANY=20000 SEED=1); a short run of fixed seeds is part of the tests.
"""

import copy
import json
import random
import sys
import time
import warnings
from collections import Counter
from pathlib import Path
from typing import Any

from kymaton.cli import json_output
from kymaton.core.checks.report import Report
from kymaton.core.errors import KymatonError
from kymaton.core.planning.fixes import find_fix
from kymaton.core.planning.planner import propose
from kymaton.core.planning.search import Effort
from kymaton.core.planning.sync_delays import plan_sync
from kymaton.store.showfile import parse_show, show_bytes
from tests.shows import DEMO, HEALTHY, call_show, one_talker

MISWIRED = 0.3  # of the shows; the others are damaged
ODD: tuple[Any, ...] = (
    None, True, False, 0, -1, 1, 2, 1e308, -1e308, 1e9, 600_000, 0.1, "", "a", "x" * 600, "\x1b[31m", "<img src=x>",
    "desk", "desk/in1", "listener/ann", "sound/ann", "desk/ch1/gain", "\u0000", [], {}, [[]], [1], {"a": 1}, "29/0",
    "2026-02-31",
)  # fmt: skip

SLOW_S = 15.0  # of computing: something goes round in circles


def damaged(content: Any, chance: random.Random) -> Any:
    """The same with one to four places of it changed: values, keys, items lost, doubled or swapped."""
    content = copy.deepcopy(content)
    for _ in range(chance.choice((1, 1, 1, 2, 3))):
        places = list(_places(content))
        holder, key = chance.choice(places)
        what = chance.randrange(6)
        if chance.random() < 0.5:  # mistakes that can be read: a number, or an end of a lead
            kind = chance.choice(("value", "source", "target", "gain_db", "delay_ms", "length_m", "level", "controls"))
            some = [(h, k) for h, k in places if k == kind] or places
            holder, key = chance.choice(some)
            what = 2 if kind in ("source", "target") else 3
            if what == 2:
                h, k = chance.choice(some)
                holder[key] = copy.deepcopy(h[k])
                continue
        if what == 0:
            del holder[key]
        elif what == 1 and isinstance(holder, list):
            holder.insert(chance.randrange(len(holder) + 1), copy.deepcopy(holder[key]))
        elif what == 2:
            other, there = chance.choice(places)
            holder[key] = copy.deepcopy(other[there]) if there in other or isinstance(other, list) else None
        elif what == 3 and isinstance(holder[key], int | float) and not isinstance(holder[key], bool):
            holder[key] = holder[key] * chance.choice((-1, 0, 10, 1e3, 1e-3)) + chance.choice((0, 1, -60))
        else:
            holder[key] = chance.choice(ODD)
        if not content:
            break
    return content


def miswired(content: Any, chance: random.Random) -> Any:
    """The same with leads put elsewhere and controls turned: all of it can be read, and some of it runs away."""
    content = copy.deepcopy(content)
    outs, ins = [], []
    for device in content["devices"]:
        for port in device["ports"]:
            (outs if port["direction"] == "out" else ins).append(f"{device['id']}/{port['id']}")
    for number in range(chance.randint(1, 4)):
        target = chance.choice(ins)
        content["cables"] = [c for c in content["cables"] if c["target"] != target]
        content["cables"].append({"id": f"wrong-{number}", "source": chance.choice(outs), "target": target})
    for device in content["devices"]:
        for control in device.get("controls", ()):
            if control["kind"] == "level" and chance.random() < 0.1:
                control["value"] = min(control.get("maximum", 10.0), chance.choice((-20.0, 0.0, 6.0, 10.0)))
            elif control["kind"] == "mute" and chance.random() < 0.1:
                control["value"] = False
    return content


def _places(content: Any):
    if isinstance(content, dict):
        items = list(content.items())
    elif isinstance(content, list):
        items = list(enumerate(content))
    else:
        return
    for key, value in items:
        yield content, key
        yield from _places(value)


MOST_SOLVED = 60  # cues, for a fix or a proposal: enough to meet all that may go wrong in the search


def tried(data: bytes) -> str:
    """What becomes of a file: `refused` or `answered`. Anything else is raised."""
    try:
        show = parse_show(data, "show.kymaton")
    except KymatonError as error:
        if "\n" in str(error):
            raise AssertionError(f"more than one line: {error}") from error
        return "refused"
    again = parse_show(show_bytes(show), "again.kymaton")
    if again != show:
        raise AssertionError("another show after saving")
    report = Report(show)
    fixes = {}
    for findings in report.findings[:3]:
        fix = find_fix(report, (findings,), effort=Effort(MOST_SOLVED))
        if fix is not None:
            fixes[findings.key] = fix
    everyone = [x.id for x in show.listeners]
    parts = [json_output.check_json(report, fixes), json_output.plan_json(propose(report, MOST_SOLVED))]
    parts += [json_output.hear_json(cue.view, everyone) for cue in report.cues.values()]
    parts.append(json_output.sync_json(show, plan_sync(show)))
    json.dumps(parts, allow_nan=False)
    for finding in report.findings:
        if " nan" in finding.sentence or " inf" in finding.sentence:
            raise AssertionError(finding.sentence)
    return "answered"


def main(many: int, seed: int = 1) -> int:
    """Try so many damaged shows; what went wrong is printed and kept beside. 0 when nothing did."""
    warnings.simplefilter("error")
    starts = [json.loads(p.read_text()) for p in (DEMO, HEALTHY)]
    starts += [json.loads(show_bytes(s)) for s in (call_show(), one_talker())] * 4
    counts: Counter[str] = Counter()
    slow = 0.0
    for number in range(seed, seed + many):
        chance = random.Random(number)
        spoil = miswired if chance.random() < MISWIRED else damaged
        data = json.dumps(spoil(chance.choice(starts), chance)).encode()
        begun = time.process_time()  # a busy machine makes nothing slower than it is
        try:
            counts[tried(data)] += 1
        except Exception as error:
            place = error.__traceback__
            while place is not None and place.tb_next is not None:
                place = place.tb_next
            where = f"{Path(place.tb_frame.f_code.co_filename).name}:{place.tb_lineno}" if place is not None else ""
            counts[f"{type(error).__name__} at {where}: {error}"[:110]] += 1
            print(f"seed {number}: {type(error).__name__} at {where}: {error}")
        took = time.process_time() - begun
        if took > SLOW_S:
            counts[f"slower than {SLOW_S:g} s"] += 1
            print(f"seed {number}: {took:.1f} s")
        slow = max(slow, took)
    for what, times in counts.most_common():
        print(f"{times:7d}  {what}")
    print(f"slowest {slow:.2f} s")
    return 0 if set(counts) <= {"refused", "answered"} else 1


if __name__ == "__main__":
    sys.exit(main(int(sys.argv[1]) if len(sys.argv) > 1 else 2000, int(sys.argv[2]) if len(sys.argv) > 2 else 1))
