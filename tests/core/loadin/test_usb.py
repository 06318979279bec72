"""The tree of USB, and which device goes into which socket: against what was tried by hand, and all ways tried."""

import itertools
import random

import pytest

from kymaton.core.formats import read_format
from kymaton.core.loadin.usb import USB2_BUS_MB_S, need_mb_s, picture_mb_s, tree_of
from kymaton.core.loadin.usb_plan import (
    FORMAT,
    LEAD,
    MOVE,
    SMALLER,
    Move,
    Plan,
    moved,
    plan_for,
    seats_of,
    smaller_pictures,
    told,
)  # fmt: skip
from kymaton.core.loadin.verdict import verdict
from kymaton.core.model import Picture, Show
from kymaton.language.script import build

HUBBED = ("picture 1080p30", "add computer 4 usb as Laptop", "add 3 webcams as Webcam", "add usb hub as Hub",
          "webcam 1-3 > hub 1-3", "hub computer 1 > laptop usb 1", "hub computer 2 > laptop usb 2",
          "hub computer 3 > laptop usb 3")  # fmt: skip


def test_figures_of_the_standard():
    assert pytest.approx(40.96) == USB2_BUS_MB_S  # five transactions of 1,024 bytes in 8,000 microframes
    assert picture_mb_s(Picture(rate="60/1"), "uncompressed").value == pytest.approx(248.832)
    assert picture_mb_s(Picture(rate="60/1"), "uncompressed 4:2:0").value == pytest.approx(186.624)
    small = picture_mb_s(Picture(width=1280, height=720, rate="30/1"), "compressed")
    assert (small.value, small.plus_minus) == (pytest.approx(12.288), pytest.approx(4.096))


def test_a_verdict_carries_its_uncertainty():
    assert [verdict(x, 5, 100) for x in (94, 96, 104, 106)] == ["fits", "perhaps", "perhaps", "does not fit"]
    assert verdict(1, 0, None) == "not known"


def test_what_is_said_of_a_device_goes_before_what_is_usual():
    show = build([*HUBBED, "webcam 1 USB need is 5 ± 1 MB/s stated", "webcam 2 USB current is 500 mA stated"])
    boxes = {b.id: b for b in tree_of(show).boxes}
    assert (boxes["webcam-1"].need.value, boxes["webcam-1"].need.source) == (5.0, "stated")
    assert boxes["webcam-2"].current_ma.value == 500.0


def test_what_talks_usb_3_behind_a_usb_2_hub_talks_usb_2():
    lines = ("add capture", "add usb hub as Hub", "add encoder", "capture > hub 1", "hub computer 1 > encoder")
    fast = tree_of(build([*lines]))
    slow = tree_of(build([*lines, "Hub USB rate is 480 Mbit/s stated"]))
    assert [link.usb2 for link in fast.links] == [False] and fast.fits == "fits"
    assert [link.usb2 for link in slow.links] == [True] and slow.fits == "does not fit"


def test_a_hub_that_stands_first_or_last_in_the_file_is_the_same_hub():
    first = build(["add usb hub as Hub", "Hub USB rate is 480 stated", "add capture", "add encoder", "capture > hub 1",
                   "hub computer 1 > encoder"])  # fmt: skip
    last = first.evolve(devices=first.devices[::-1])
    assert {(x.usb2, x.need) for x in tree_of(first).links} == {(x.usb2, x.need) for x in tree_of(last).links}


def test_sockets_that_share_one_bus():
    lines = ("picture 1080p30", "add computer 3 usb as Laptop", "add 2 webcams as Webcam", "webcam 1 > laptop usb 1",
             "webcam 2 > laptop usb 2")  # fmt: skip
    assert tree_of(build(lines)).fits == "fits"
    shared = build([*lines, "Laptop USB 1-2 share one bus"])
    assert tree_of(shared).fits == "perhaps"
    plan = plan_for(shared, "laptop")
    assert told(shared, plan) == "Put webcam 1 into USB 3 of the laptop." or "webcam 2 into USB 3" in told(shared, plan)
    assert tree_of(moved(shared, plan)).fits == "fits"


def test_all_channels_of_a_desk_count_both_ways():
    show = build(["add usb desk 8 in 2 aux as Desk", "add computer mix 8 in as Mix", "desk usb 1 > mix 1"])
    ports = [p for p in show.device("desk").ports if p.signal == "usb"]
    channels = sum(p.channels for p in ports)
    assert channels == 12  # eight tracks, the mix, and what comes back
    assert need_mb_s(show, show.device("desk")).value == pytest.approx(channels * 48000 * 3 / 1e6)


def test_moved_plugs_fit_and_programs_follow():
    show = build([*HUBBED, "set laptop call sees to USB 2"])
    plan = plan_for(show, "laptop")
    after = moved(show, plan)
    assert tree_of(after).fits == "fits" and len(plan.moves) == 2
    control = after.control("laptop/call/camera")
    source = next(c.source for c in after.cables if c.target == "laptop/usb2-in")
    assert control.value == "USB 2" and source.startswith("webcam-2/")
    assert len({c.target for c in after.cables}) == len(after.cables)  # no socket has two plugs


def test_a_program_that_chose_a_socket_goes_with_its_device():
    """Both cameras on one bus; the one at the hub's own socket goes to a free one, and the call sees it there."""
    lines = ("picture 1080p60", "add computer 3 usb as Laptop", "add capture as Grab", "add capture as Other",
             "add powered usb hub as Hub", "grab > hub 1", "other > hub 2", "hub computer 1 > laptop usb 1",
             "hub computer 2 > laptop usb 2", "set laptop call sees to USB 1")  # fmt: skip
    show = build([*lines, "exactly devices/other/usb_shared = []"])
    plan = plan_for(show, "laptop")
    after = moved(show, plan)
    assert tree_of(after).fits == "fits"
    seen = str(after.control("laptop/call/camera").value)
    port = next(p for p in after.device("laptop").ports if p.name == seen and p.direction == "in")
    way = next(c.source for c in after.cables if c.target == f"laptop/{port.id}")
    assert way.startswith(("grab/", "hub/"))


def test_a_usb_2_lead_is_replaced_before_a_picture_is_compressed():
    show = build(["add capture", "add encoder", "capture > encoder"])
    show = show.evolve(cables=tuple(c.evolve(kind="USB 2") for c in show.cables))
    plan = plan_for(show, "encoder")
    assert told(show, plan) == "Take a USB 3 lead for the capture."
    assert moved(show, plan).cables[0].kind == "USB 3"


def test_a_smaller_picture_makes_it_fit_where_no_socket_is_free():
    """Two cameras on one bus reserve 41 ± 8.2 MB/s; with one of them at 720p30 it is 32.8 ± 8.2: at most 40.96."""
    lines = ("picture 1080p30", "add computer 1 usb as Small", "add 2 webcams as Webcam", "add powered usb hub as Hub",
             "webcam 1-2 > hub 1-2", "hub computer 1 > small usb 1")  # fmt: skip
    show = build(lines)
    plan = plan_for(show, "small")
    assert told(show, plan) in ("Set webcam 1 to 720p30.", "Set webcam 2 to 720p30.")
    assert tree_of(moved(show, plan)).fits == "fits"


def test_what_cannot_fit_is_said():
    lines = ["picture 1080p60", "add computer 1 usb as Small", "add 3 captures as Grab", "add powered usb hub as Hub",
             "grab 1-3 > hub 1-3", "hub computer 1 > small usb 1"]  # fmt: skip
    lines += [f"Grab {n} USB need is 249 MB/s stated" for n in (1, 2, 3)]
    show = build(lines)
    assert not plan_for(show, "small").possible or plan_for(show, "small").moves
    none = build([*lines[:-3], *(f"Grab {n} USB rate is 480 stated" for n in (1, 2, 3))])
    none = none.evolve(devices=tuple(d.evolve(controls=()) if d.kind == "capture" else d for d in none.devices))
    assert "second computer" in told(none, plan_for(none, "small"))


def random_rig(seed: int) -> Show:
    """Some cameras and captures on a hub and at sockets of a computer, some of them too many."""
    chance = random.Random(seed)
    lines = [f"picture {chance.choice(['1080p25', '1080p60', '720p30'])}", "add computer 3 usb as Laptop"]
    powered = chance.choice(["usb hub 3 ports", "powered usb hub 3 ports"])
    lines += [f"add {powered} as Hub", "hub computer 1 > laptop usb 1"]
    spots = ["hub 1", "hub 2", "hub 3", "laptop usb 2", "laptop usb 3"]
    chance.shuffle(spots)
    for n in range(chance.randint(2, 4)):
        lines += [f"add {chance.choice(['webcam', 'capture'])} as Box {n}", f"box {n} > {spots[n]}"]
        if chance.random() < 0.3:
            lines.append(f"Box {n} USB current is {chance.choice([100, 500, 900])} mA stated")
    if chance.random() < 0.5:
        lines.append("Laptop USB 2-3 share one bus")
    return build(lines)


def test_the_fewest_changes_against_all_that_can_be_tried():
    """16 random rigs: every placing of every box in every format, judged by the tree itself."""
    tried = some = 0
    for seed in range(16):
        show = random_rig(seed)
        tree = tree_of(show)
        seats = seats_of(show, tree, "laptop")
        cheapest = None
        boxes = tree.boxes
        formats = [
            list(itertools.product(
                next(c.choices for c in show.device(b.id).controls if c.id == f"{b.id}/usb-format"),
                smaller_pictures(show, show.device(b.id)),
            ))
            for b in boxes
        ]  # fmt: skip
        now = [str(show.control(f"{b.id}/usb-format").value) for b in boxes]
        for places in itertools.permutations(seats, len(boxes)):
            moves = sum((s.parent, s.socket) != (b.parent, b.socket) for s, b in zip(places, boxes, strict=True))
            for how in itertools.product(*formats):
                cost = MOVE * moves + FORMAT * sum(a != b for (a, _), b in zip(how, now, strict=True))
                cost += SMALLER * sum(bool(p) for _, p in how)
                if cheapest is not None and cost >= cheapest:
                    continue
                tried += 1
                if placed_fits(show, boxes, places, how):
                    cheapest = cost
        plan = plan_for(show, "laptop")
        assert plan.possible == (cheapest is not None), seed
        if cheapest is not None:
            some += cheapest > 0
            cost = sum(
                MOVE * ((m.parent, m.socket) != next((b.parent, b.socket) for b in boxes if b.id == m.box))
                + FORMAT * bool(m.how) + LEAD * m.new_lead + SMALLER * bool(m.picture)
                for m in plan.moves
            )  # fmt: skip
            assert cost == pytest.approx(cheapest), seed
    assert tried > 200 and some > 3


def placed_fits(show, boxes, places, how) -> bool:
    """Whether a placing fits surely, by the budgets of the tree: need and current at their most."""
    from kymaton.core.loadin.usb import Box, links_of, powers_of, rate_mbit_s

    above = tree_of(show).above
    put = [
        Box(b.id, s.parent, s.socket, rate_mbit_s(show.device(b.id)) == 480.0,
            need_mb_s(show, show.device(b.id), h, read_format(p) if p else None), b.current_ma, b.cable)
        for b, s, (h, p) in zip(boxes, places, how, strict=True)
    ]  # fmt: skip
    return all(x.fits == "fits" for x in links_of(show, put, above)) and all(
        x.fits == "fits" for x in powers_of(show, put, above)
    )


def test_what_only_plays_hangs_on_usb_too_and_a_repeater_gives_no_power_of_its_own():
    plays = build(["add computer 2 usb as Laptop", "add interface", "Laptop USB 1 > interface playback 1"])
    [box] = tree_of(plays).boxes
    assert (box.id, box.parent, box.socket) == ("interface", "laptop", "usb1")
    far = build(["add computer 2 usb as Laptop", "add usb repeater as Long", "add webcam", "webcam > long",
                 "long > laptop usb 1", "webcam USB current is 850 mA stated"])  # fmt: skip
    [power] = tree_of(far).powers
    assert power.need == 950.0 and power.fits == "does not fit"


def test_plugs_go_to_a_hub_with_a_supply_where_power_is_short():
    """Three devices of 400 mA and the hub itself take 1,300 of 900 mA; a hub with a supply has sockets free."""
    lines = ["picture 720p30", "add computer 5 usb as Laptop", "add 3 webcams as Webcam", "add usb hub as Weak",
             "add powered usb hub as Strong", "add foot switch as Pedal", "webcam 1-3 > weak 1-3", "pedal > strong 1",
             "weak computer 1 > laptop usb 1", "weak computer 2 > laptop usb 2", "weak computer 3 > laptop usb 3",
             "strong computer 1 > laptop usb 4", "Pedal USB current is 50 mA stated",
             "set laptop call sees to USB 2"]  # fmt: skip
    lines += [f"webcam {n} USB current is 400 mA stated" for n in (1, 2, 3)]
    lines += [f"webcam {n} USB need is 3 ± 0 MB/s stated" for n in (1, 2, 3)]
    lines.append("Laptop USB 1-5 share one bus")
    show = build(lines)
    assert tree_of(show).fits == "does not fit"
    plan = plan_for(show, "laptop")
    after = moved(show, plan)
    assert plan.moves and tree_of(after).fits == "fits"
    assert len({c.target for c in after.cables}) == len(after.cables)
    seen = str(after.control("laptop/call/camera").value)  # the call still sees the second camera
    way, port = "", next(p for p in after.device("laptop").ports if p.name == seen and p.direction == "in")
    end = f"laptop/{port.id}"
    while not way.startswith("webcam"):
        way = next(c.source for c in after.cables if c.target == end)
        device, at = after.ports[way]
        end = next((f"{device.id}/{r.source}" for r in device.routes if r.target == at.id), "")
    assert way == "webcam-2/usb"


def test_a_device_goes_onto_a_hub_and_is_known_there():
    show = build(["add computer 2 usb as Laptop", "add powered usb hub as Hub", "add webcam", "webcam > laptop usb 1",
                  "hub computer 1 > laptop usb 2", "set laptop call sees to USB 1"])  # fmt: skip
    after = moved(show, Plan("laptop", (Move("webcam", "hub", "in3"),), True))
    assert {(c.source, c.target) for c in after.cables} >= {("webcam/usb", "hub/in3"), ("hub/out3", "laptop/usb1-in")}
    assert after.control("laptop/call/camera").value == "USB 1"
    [box] = tree_of(after).boxes
    assert (box.parent, box.socket) == ("hub", "in3")


def test_a_faster_socket_carries_more():
    lines = ("picture 1080p60", "add 3 captures as Grab", "add powered usb hub as Hub", "add encoder",
             "grab 1-3 > hub 1-3", "hub computer 1 > encoder")  # fmt: skip
    fast = build([*lines, "encoder USB rate is 10000 stated", "Hub USB rate is 10000 stated"])
    [link] = tree_of(fast).links
    assert link.there == pytest.approx(10000 * 128 / 132 / 8 * 0.8) and link.fits == "fits"
    assert tree_of(build(lines)).links[0].there == pytest.approx(400.0)
