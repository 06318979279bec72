"""The uplink and the mains of a show, against sums that were written down."""

import json

import pytest

from kymaton.cli.main import main
from kymaton.core.checks.report import Report
from kymaton.core.loadin.computing import profiles_of
from kymaton.core.loadin.mains import feeds_of
from kymaton.core.loadin.network import traffic_of
from kymaton.core.loadin.uplink import uplink_of
from kymaton.core.model import Figure, Show
from kymaton.language.script import build
from kymaton.language.starters import STARTERS
from kymaton.store.showfile import write_show

TALK = next(s for s in STARTERS if s.id == "talk-with-mix-minus").lines


def test_one_stream_and_one_call():
    """1080p25: 4.75 ± 0.25 Mbit/s, its sound 0.192 ± 0.064; a call 2 ± 1: 6.942, ± √(0.25² + 0.064² + 1²) = 1.033."""
    found = uplink_of(build(TALK))
    assert found.total == pytest.approx(6.942e6) and found.plus_minus == pytest.approx(1.0328e6, rel=1e-3)
    assert found.fits == "not known" and "measure it there" in found.sentence


@pytest.mark.parametrize(
    ("line", "fits"),
    [("uplink 8 Mbit/s", "does not fit"), ("uplink 10 Mbit/s", "perhaps"), ("uplink 12 Mbit/s", "fits"),
     ("uplink 1.5 MB/s", "fits"), ("uplink 1 MB/s", "does not fit")],
)  # fmt: skip
def test_seventy_per_cent_of_what_was_measured(line, fits):
    """6.942 ± 1.033 Mbit/s: 5.6 of 8 are too few, 7 of 10 perhaps, 8.4 of 12 enough; 1.5 megabytes are 12 megabits."""
    show = build((*TALK, line))
    assert uplink_of(show).fits == fits
    told = {f.severity for f in Report(show).rig if f.id == "uplink-too-small"}
    assert told == {"does not fit": {"fault"}, "perhaps": {"caution"}, "fits": set()}[fits]


def test_two_ways_into_a_platform_are_two_streams_and_fast_ones_are_larger():
    two = (*TALK, "add platform as Other", "add encoder as Second", "switcher programme > capture", "second > other")
    plain = uplink_of(build(TALK))
    show = build([line for line in two if line != "switcher programme > capture"])
    assert uplink_of(show).total == pytest.approx(plain.total + 4.942e6)
    fast = build(TALK)
    fast = fast.evolve(picture=fast.picture.evolve(rate="60/1"))
    assert uplink_of(fast).total == pytest.approx(1.5 * 4.75e6 + 192e3 + 2e6)
    assert uplink_of(Show()).needs == ()


def test_a_rate_that_was_said_counts_for_the_encoder_the_platform_and_the_call():
    """5 + 2 of the call; 8 where the platform takes another; behind a router each encoder once."""
    five = (*TALK, "encoder sending rate is 5000 kbit/s ± 0.5")
    assert [(n.rate.value, n.rate.source) for n in uplink_of(build(five)).needs] == [(5e6, "stated"), (2e6, "assumed")]
    both = (*five, "platform sending rate is 1 MB/s", "call sending rate is 3 ± 0.4 measured")
    found = uplink_of(build(both))
    assert found.total == pytest.approx(11e6) and found.plus_minus == pytest.approx(0.4e6)
    lower = profiles_of(build(five))
    assert [p.rate.value for p in lower] == [5e6, pytest.approx(2.442e6)]
    slow = profiles_of(build((*TALK, "encoder sending rate is 2 Mbit/s")))
    assert [p.rate.value for p in slow] == [2e6, 2e6]
    routed = ("disconnect encoder > platform", "add router", "encoder > router 1", "router uplink 1 > platform")
    behind = build((*five, *routed, "add computer as Other", "other > router 2"))
    assert uplink_of(behind).total == pytest.approx(7e6)
    assert [t.rate.value for t in traffic_of(behind) if t.devices == ("encoder",)] == [5e6]
    twice = ("disconnect router uplink 1 > platform", "add router as Outer", "router uplink 1 > outer 1")
    assert uplink_of(build((*five, *routed, *twice, "outer uplink 1 > platform"))).total == pytest.approx(7e6)
    alone = build((*TALK, *routed[:2], "router uplink 1 > platform"))  # what stands behind it nobody has said
    first = uplink_of(alone).needs[0].rate
    assert (first.value, first.source) == (pytest.approx(4.942e6), "assumed")


def test_what_hangs_on_a_supply():
    show = build((*TALK, "power desk from strip A", "power switcher from strip A", "power platform from strip B"))
    watts = {"desk": Figure(value=60.0, plus_minus=30.0), "switcher": Figure(value=18.0, plus_minus=40.0)}
    show = show.evolve(devices=tuple(d.evolve(power_w=watts.get(d.id)) for d in show.devices))
    first, second = feeds_of(show)
    assert (first.watts, first.plus_minus) == (78.0, pytest.approx(50.0)) and first.fits == "fits"
    assert second.watts == 0.0 and second.unknown == ("Platform",) and "nobody has said" in second.sentence


def test_the_budget_on_the_command_line(tmp_path, capsys):
    path = tmp_path / "talk.kymaton"
    write_show(build((*TALK, "uplink 8 Mbit/s")), path)
    assert main(["budget", str(path), "--json"]) == 1
    told = json.loads(capsys.readouterr().out)
    assert told["uplink"]["fits"] == "does not fit" and told["uplink"]["needs"][1]["what"] == "call Call"
    write_show(build((*TALK, "uplink 20 Mbit/s")), path)
    assert main(["budget", str(path)]) == 0
    assert "Uplink, fits: 6.9 Mbit/s ± 1.0 Mbit/s go up" in capsys.readouterr().out
    assert main(["budget", str(path), "--trace", "20 s 8 Mbit/s, 10 s 2 Mbit/s, 60 s 8 Mbit/s", "--store", "4"]) == 1
    said = capsys.readouterr().out
    assert "stall" in said and "would not have" in said
    assert main(["budget", str(path), "--trace", "soon"]) == 2
