"""The send buffer against what can be written down, and against sending bit by bit."""

import random

import pytest

from kymaton.core.errors import ShowError
from kymaton.core.loadin.rates import bits_per_s, said_rate
from kymaton.core.loadin.send_buffer import Piece, highest_rate, send
from kymaton.core.loadin.trace import pieces_of
from kymaton.core.loadin.traces import TRACES, as_text


def test_a_constant_uplink_that_is_too_small():
    """B = (r − u)·t, and what is sent is t·(1 − u/r) old: it stalls once that is what is in store."""
    found = send(5e6, [Piece(60.0, 4e6)], 6.0)
    assert found.fullest.waiting_bits == pytest.approx(60e6) and found.fullest.behind_s == pytest.approx(12.0)
    ((begins, ends),) = found.stalls
    assert (begins, ends) == (pytest.approx(30.0), 60.0)


def test_a_constant_uplink_that_is_enough():
    found = send(5e6, [Piece(60.0, 5e6)], 0.0)
    assert found.fullest.waiting_bits == 0.0 and found.stalls == ()


def test_a_step_down_and_up_again():
    """10 s at 2 Mbit/s leave 30 Mbit, which 3 Mbit/s more than is made take away in 10 s."""
    found = send(5e6, [Piece(20.0, 8e6), Piece(10.0, 2e6), Piece(60.0, 8e6)], 4.0)
    assert (found.fullest.at_s, found.fullest.waiting_bits) == (30.0, pytest.approx(30e6))
    assert [m.at_s for m in found.curve if m.waiting_bits == 0.0][-2:] == [pytest.approx(40.0), pytest.approx(90.0)]
    ((begins, ends),) = (
        found.stalls
    )  # 4 s behind are 20 Mbit: reached 6.67 s after the step, left 3.33 s after the other
    assert begins == pytest.approx(20 + 20 / 3) and ends == pytest.approx(30 + 10 / 3)


def test_the_highest_rate_that_never_stalls():
    """With nothing in store it is the smallest uplink; with 5 s, 10 s at 2 Mbit/s: (r − 2)·10 / r = 5, r = 4 Mbit/s."""
    uplink = [Piece(20.0, 8e6), Piece(10.0, 2e6), Piece(60.0, 8e6)]
    assert highest_rate(uplink, 0.0) == pytest.approx(2e6, rel=2e-3)
    assert highest_rate(uplink, 5.0) == pytest.approx(4e6, rel=2e-3)
    assert not send(highest_rate(uplink, 5.0), uplink, 5.0).stalls


@pytest.mark.parametrize("seed", range(20))
def test_bit_by_bit_comes_to_the_same(seed):
    rng = random.Random(seed)
    uplink = [Piece(rng.uniform(0.5, 5), rng.choice([0.0, 1e6, 3e6, 8e6])) for _ in range(12)]
    rate, step = rng.uniform(1e6, 6e6), 1e-3
    found = send(rate, uplink, 2.0)
    waiting, fullest, at = 0.0, 0.0, 0.0
    for piece in uplink:
        for _ in range(round(piece.seconds / step)):
            waiting = max(0.0, waiting + (rate - piece.bit_per_s) * step)
            fullest, at = max(fullest, waiting), at + step
    assert fullest == pytest.approx(found.fullest.waiting_bits, abs=rate * step * 14)
    assert waiting == pytest.approx(found.curve[-1].waiting_bits, abs=rate * step * 14)


@pytest.mark.parametrize(
    ("text", "expected"),
    [("20 Mbit/s", 20e6), ("20 Mb/s", 20e6), ("2.5 MB/s", 20e6), ("8 megabytes a second", 64e6), ("128 kbit/s", 128e3),
     ("1 Gbit/s", 1e9), ("8 megabits per second", 8e6), ("4,5 Mbps", 4.5e6)],
)  # fmt: skip
def test_bits_and_bytes_are_never_confused(text, expected):
    found, told = bits_per_s(text)
    assert found == pytest.approx(expected) and bool(told) == ("B/s" in text or "bytes" in text)
    if text.startswith("8 megabytes"):
        assert told == "8 MB/s are 64 Mbit/s"


@pytest.mark.parametrize("text", ["20", "fast", "20 M", "-3 Mbit/s", "0 Mbit/s", "20 Mbit/s/s"])
def test_what_is_no_rate_is_said(text):
    with pytest.raises(ShowError, match="rate"):
        bits_per_s(text)


def test_a_rate_in_words():
    assert [said_rate(x) for x in (4.5e6, 128e3, 20e6, 1.5e9, 300)] == [
        "4.5 Mbit/s", "128 kbit/s", "20 Mbit/s", "1.5 Gbit/s", "300 bit/s",
    ]  # fmt: skip


def test_nonsense_is_refused():
    with pytest.raises(ValueError, match="above 0"):
        send(0.0, [Piece(1.0, 1.0)], 1.0)


@pytest.mark.parametrize("name", TRACES)
def test_a_trace_that_comes_along_is_typed_and_read_the_same(name):
    pieces = TRACES[name][1]
    assert tuple(pieces_of(as_text(pieces))) == pieces == tuple(pieces_of(name))
