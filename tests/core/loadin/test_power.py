"""Circuits, bricks, docks, stands, cases, runs and the network, against sums by hand."""

import math

import pytest

from kymaton.core.checks.report import Report
from kymaton.core.errors import ShowError
from kymaton.core.loadin.charging import changes_of, changes_text, charges_of
from kymaton.core.loadin.computing import computers_of, profile_text, profiles_of
from kymaton.core.loadin.gear import items_of, money_of, spares_of
from kymaton.core.loadin.mains import chained, feeds_of, root_of, wrong_voltage
from kymaton.core.loadin.network import OURS, members_of, network_of, traffic_of
from kymaton.core.loadin.runs import bridges_over, needed_m, tape_m
from kymaton.core.loadin.stands import sandbag_kg, shed_w
from kymaton.core.loadin.uplink import fail_over
from kymaton.core.model import Show
from kymaton.language.script import build, read_any

SENT = ("picture 1080p25", "add encoder box", "add platform", "encoder box > platform")


def test_a_strip_counts_on_its_circuit_and_strips_of_one_circuit_do_not_hum():
    lines = ("add player", "add mixer 2 in 1 aux", "player left > mixer 1", "power player from strip A",
             "power mixer from strip B")  # fmt: skip
    apart = build(lines)
    assert "hum-between-supplies" in {f.id for f in Report(apart).rig}
    joined = build([*lines, "strip A hangs on circuit 1", "strip B hangs on circuit 1"])
    assert "hum-between-supplies" not in {f.id for f in Report(joined).rig}
    assert root_of(joined, "strip A") == "circuit 1"
    by_name = {f.name: f for f in feeds_of(joined)}
    assert by_name["circuit 1"].watts == by_name["strip A"].watts + by_name["strip B"].watts
    with pytest.raises(ShowError, match="hangs on itself"):
        read_any(joined, "circuit 1 hangs on strip A")


def test_a_dock_that_gives_enough_holds_for_ever_and_one_of_15_w_does_not():
    def rig(watts: int) -> Show:
        return build(["add laptop computer 2 usb as Laptop", f"add dock {watts} w 1 usb as Dock",
                      "dock computer 1 > laptop usb 1"])  # fmt: skip

    [weak], [strong] = charges_of(rig(15)), charges_of(rig(100))
    assert math.isinf(strong.lasts_h) and strong.holds
    assert weak.lasts_h == pytest.approx((3.0 - 1.0) * 60 / (75 - 15))
    fed = build(["add laptop computer 2 usb as Laptop", "add dock 15 w 1 usb as Dock", "dock computer 1 > laptop usb 1",
                 "power Laptop from strip A"])  # fmt: skip
    assert charges_of(fed) == []


def test_a_stand_by_its_moments():
    assert sandbag_kg(1.2, 1.5) == pytest.approx((1.5 * 1.2 * 1.2 - 0.9) / 0.6)
    assert sandbag_kg(0.5, 0.3) == 0.0  # over its foot
    assert shed_w(4, 45) == pytest.approx(5.5 * 15 * (0.55 * 0.45 + 2 * 4 * 0.04445 * (0.55 + 0.45)))


def test_a_run_with_corners_and_a_wall_and_what_carries_further():
    lines = ["add desk 4 in 1 aux", "add dynamic mic", "place Stage", "put dynamic mic in Stage",
             "run Stage to Desk 12 m, 2 corners, up 3 m, crossing 2 m", "dynamic mic > desk 1 20 m"]  # fmt: skip
    show = build(lines)
    assert needed_m(show, show.cables[-1]) == pytest.approx(1.1 * (12 + 1 + 6) + 2)
    assert tape_m(show) == 4.0
    assert {f.id for f in Report(show).rig} >= {"lead-too-short"}
    unsaid = build([*lines[:-1], "dynamic mic > desk 1"])
    assert [f.severity for f in Report(unsaid).rig if f.id == "lead-too-short"] == ["note"]
    nearer = build([*lines, "run dynamic mic to desk 3 m"])  # for these very devices
    assert needed_m(nearer, nearer.cables[-1]) == pytest.approx(1.1 * 3 + 2)
    reach = [(b.name, b.reach_m) for b in bridges_over(show, "HDMI", 20.0, 7.5)]
    assert reach == [("SDI", 100.0), ("twisted pair", 100.0), ("2 boosters", 22.5), ("3 boosters", 30.0)]
    fast = show.evolve(picture=show.picture.evolve(height=2160, rate="60/1"))
    assert {b.name: b.reach_m for b in bridges_over(fast, "HDMI", 25.0, 5.0)} == {"SDI": 30.0, "twisted pair": 70.0}
    with pytest.raises(ShowError, match="says nothing about a run"):
        build([*lines[:4], "run Stage to Desk 12 m, 2 bends"])


def test_addresses_stay_the_same_and_do_not_clash():
    rig = ["add router", "add switcher", "add computer", "add button panel as Panel", "computer controls switcher"]
    show = build(rig)
    plan = {m.device: m.address for m in members_of(show)}
    assert network_of(show) == OURS and plan["router"] == "10.77.7.1"
    assert len(set(plan.values())) == len(plan) and {"switcher", "computer"} <= set(plan) and "panel" not in plan
    said = build([*rig, "switcher has address 10.77.7.11"])
    again = {m.device: m.address for m in members_of(said)}
    assert again["switcher"] == "10.77.7.11" and again["computer"] != "10.77.7.11"
    with pytest.raises(ShowError, match="is no address"):
        build([*rig, "switcher has address 300.1.1.1"])


def test_fail_over_by_its_closed_form():
    """r = 4.942, second 8: nothing for 10 s, then (8 − r) a second less waits; in store s: stall 10 − s + …"""
    show = build([*SENT, "uplink 20 Mbit/s, second 8 Mbit/s after 10 s"])
    r = 4.942
    found = fail_over(show, 6.0)
    assert found is not None
    assert found.stall_s == pytest.approx((10 - 6) + (10 - 6) * r / (8 - r), rel=1e-3)
    assert fail_over(show, 10.5).stall_s == 0.0
    never = fail_over(build([*SENT, "uplink 20 Mbit/s, second 3 Mbit/s after 10 s"]), 6.0)
    assert (
        math.isinf(never.stall_s)
        and "no rate comes through that gap" in never.sentence
        and never.fits == "does not fit"
    )
    assert fail_over(build([*SENT, "uplink 20 Mbit/s"]), 6.0) is None
    with pytest.raises(ShowError, match="says nothing about an uplink"):
        build([*SENT, "uplink 20 Mbit/s, backup"])


def test_what_a_computer_does_and_lower_profiles():
    show = build(["picture 1080p60", "add capture", "add encoder", "add platform", "capture > encoder",
                  "encoder > platform"])  # fmt: skip
    [found] = computers_of(show)
    assert found.percent == pytest.approx(100 * 124.416 / 250 + 3 * 124.416 / 62.2)
    slow = build(["picture 1080p60", "add capture", "add encoder", "add platform", "capture > encoder",
                  "encoder > platform", "encoder encoding speed is 500 ± 10 measured"])  # fmt: skip
    assert computers_of(slow)[0].percent == pytest.approx(found.percent / 2)
    names = [p.name for p in profiles_of(show)]
    assert names == ["1080p60", "1080p30", "720p30"]
    half = profiles_of(show)[1]
    assert half.saves_encoding == pytest.approx(50.0) and "saves" in profile_text(half)
    assert [p.name for p in profiles_of(show.evolve(picture=show.picture.evolve(rate="25/1")))] == ["1080p25", "720p25"]


def test_gear_and_money():
    show = build(["add desk", "add 2 cameras as Camera", "desk price is 500 stated", "camera 1 price is 300 stated",
                  "buy camera 2", "camera 2 price is 250 stated", "stock 3 XLR 10 m to buy for 12",
                  "desk is from Anna, back 2026-12-14"])  # fmt: skip
    money = money_of(items_of(show))
    assert (money.total, money.owned, money.borrowed, money.to_pay) == (1086.0, 300.0, 500.0, 286.0)
    assert [i.lender for i in items_of(show) if i.lender] == ["Anna"]
    wants = build(
        [*SENT, "Ada, voice, host", "Audience", "add dynamic mic", "add embedder", "add 2 encoder boxes as Spare"]
    )
    assert all(s.device for s in spares_of(wants))


BRICKED = ("add 2 cameras as Camera", "Camera 1 supply voltage is 12 V stated",
           "Camera 2 supply voltage is 12 V stated", "Camera 1 supply current is 1.2 ± 0.3 A stated",
           "Camera 2 supply current is 0.8 ± 0.4 A stated",
           "power Camera 1, Camera 2 from brick", "brick gives 12 V 4 A", "brick hangs on strip A")  # fmt: skip


def test_a_brick_in_amperes_and_what_it_takes_from_the_mains():
    """2 A ± √(0.3² + 0.4²) = 0.5 of four fifths of 4 A; at the mains 24 W and its ± 6 through 0.85."""
    feeds = {f.name: f for f in feeds_of(build(BRICKED))}
    brick, strip = feeds["brick"], feeds["strip A"]
    assert brick.sentence == "2.0 ± 0.5 A of 3.2 A, 80 % of 4 A at 12 V" and brick.is_low and not brick.assumed
    assert (strip.watts, strip.plus_minus) == (pytest.approx(24 / 0.85), pytest.approx(6 / 0.85))
    assert strip.assumed and not strip.is_low and strip.supplies == ("brick",)
    assert feeds_of(build([*BRICKED, "brick gives 230 V 4 A"]))[0].watts == 20.0  # not by its low-voltage current
    plain = build(["add 2 cameras as Camera", "power Camera 1, Camera 2 from brick", "brick gives 12 V 4 A"])
    assert feeds_of(plain)[0].watts == 20.0  # what is typical, where no current is said


@pytest.mark.parametrize(("volts", "wrong"), [(12.0, False), (13.2, False), (13.3, True), (10.7, True), (24.0, True)])
def test_a_tenth_beside_the_voltage_is_borne(volts, wrong):
    show = build(["add camera", "camera supply voltage is 12 V stated", "power camera from brick",
                  f"brick gives {volts} V 2 A"])  # fmt: skip
    assert bool(list(wrong_voltage(show))) is wrong
    assert not list(wrong_voltage(build(["add camera", "power camera from brick", "brick gives 24 V 2 A"])))


def test_strips_are_known_by_what_they_are_called():
    lines = ["add desk", "power desk from Cable reel", "Cable reel hangs on strip A", "strip A hangs on circuit 1"]
    assert list(chained(build(lines))) == [("Cable reel", "strip A")]
    assert list(chained(build(["add desk", "power desk from strip A", "strip A hangs on circuit 1"]))) == []


def test_a_battery_with_its_spread_and_in_words():
    """2 ± 0.5 h last 90 min at worst: of four cues of 40 min two go on one, so that one change is to be made."""
    cues = [f"cue Part {n}, 40 min" for n in (1, 2, 3, 4)]
    show = build(["person Quill", "add wireless mic", *cues, "wireless mic battery is 2 ± 0.5 h stated"])
    changes = changes_of(show, show.devices[0])
    assert changes is not None and (changes.least_h, changes.before, changes.batteries) == (1.5, ("part-3",), 2)
    told = changes_text(show, changes)
    assert told == "Put in a fresh one before Part 3: 2 full ones in all; or power it by a lead."
    done = build(["Quill, host", "in Part 2: Quill changes the battery of wireless mic, 30 s"], show)
    after = changes_of(done, done.devices[0])
    assert after is not None and (after.before, after.done) == (("part-4",), ("part-2",))
    assert "before Part 4: 3 full ones" in changes_text(done, after)
    short = build(["wireless mic battery is 0.5 ± 0 h stated"], show)
    shorter = changes_of(short, short.devices[0])
    assert shorter is not None and shorter.least_h == 0.5 and shorter.too_long == "part-1"
    assert changes_text(short, shorter).startswith("Part 1 alone is longer than it lasts")


def test_a_laptop_that_shows_pictures_hangs_on_a_dock_by_usb_c():
    show = build(["add laptop", "add dock 30 w", "laptop USB C > dock"])
    [charge] = charges_of(show)
    assert (charge.computer, charge.gets_w, charge.wants.value) == ("laptop", 30.0, 60.0)
    assert charge.lasts_h == pytest.approx((3 - 1) * 60 / (75 - 30))  # a usual battery, at worst
    assert charges_of(build(["add laptop", "add dock 30 w"])) == []


def test_what_goes_over_each_lead_to_the_network():
    """A stream 4.942 Mbit/s, a call 2 and 2, eight channels of 48,000 · 24 bits and a tenth, a relayed picture 15."""
    show = build(["picture 1080p25", "add encoder box", "add platform", "encoder box > platform", "add call computer",
                  "add call 1 guest", "call computer call > call sending", "call receiving > call computer call",
                  "add 2 network audio 8 ch as Snake", "snake 1 network > snake 2 network",
                  "add network link", "add camera", "camera > network link"])  # fmt: skip
    rates = {t.devices[0]: (t.rate.value, t.there) for t in traffic_of(show)}
    assert rates["encoder-box"] == (pytest.approx(4.942e6), 1e9) and rates["call-computer"][0] == pytest.approx(4e6)
    assert rates["snake-1"][0] == pytest.approx(8 * 48000 * 24 * 1.1) and rates["network-link"][0] == 15e6
    assert "platform" not in rates and "call" not in rates
    why = {m.device: m.why for m in members_of(show)}
    assert why["encoder-box"] == "talks to Platform" and "camera" not in why and "platform" not in why
