"""Two recordings laid over each other, from arrays: figures, ±, drift, polarity, level, confidence, curves."""

import math

import numpy as np
import pytest
import soxr
from hypothesis import given, settings
from hypothesis import strategies as st

from kymaton.core.errors import AlignError
from kymaton.core.measuring.align import (
    Alignment,
    Spot,
    _coherence,
    _repeats,
    _spot,
    _spots,
    _tournament,
    _Tried,
    align,
    line_through,
)
from kymaton.core.measuring.loudness_lines import BinnedMaximum, OnsetEnvelope, _agreed, coarse_lines

RATE = 16_000


def talk(seconds: float, seed: int = 1) -> np.ndarray:
    """Noise that comes in syllables, with pauses."""
    chance = np.random.default_rng(seed)
    many, knots = round(seconds * RATE), int(seconds * 5) + 2
    loud = np.interp(np.arange(many) / RATE, np.arange(knots) / 5, np.clip(chance.normal(0.3, 0.5, knots), 0, None))
    return 0.3 * np.convolve(chance.normal(size=many), (0.5, 0.3, 0.2), "same") * loud


def later(sound: np.ndarray, offset_s: float) -> np.ndarray:
    """The same sound later by exactly this, between samples too (a turn of its spectrum)."""
    size = len(sound) + 2 * RATE
    turned = np.fft.rfft(sound, size) * np.exp(-2j * np.pi * np.fft.rfftfreq(size, 1 / RATE) * offset_s)
    return np.fft.irfft(turned, size)[: len(sound)]


def laid(a: np.ndarray, b: np.ndarray, second_rate: int = RATE) -> Alignment:
    """Both arrays laid over each other, read as from files; the loudness of the second may come at another rate."""
    one, two = a.astype(np.float32), b.astype(np.float32)

    def reader(sound: np.ndarray):
        def read(begin_s: float, length_s: float) -> np.ndarray:
            first, many = round(begin_s * RATE), round(length_s * RATE)
            piece = np.zeros(many, np.float32)
            inside = sound[max(0, first) : max(0, first + many)]
            piece[max(0, -first) : max(0, -first) + len(inside)] = inside[:many]
            return piece

        return read

    envelopes = [OnsetEnvelope(RATE), OnsetEnvelope(second_rate)]
    at_rate = two if second_rate == RATE else soxr.resample(two, RATE, second_rate)
    for envelope, sound in zip(envelopes, (one, at_rate), strict=True):
        for begin in range(0, len(sound), 7001):  # blocks of any length
            envelope.add(sound[begin : begin + 7001])
    steps = (envelopes[0].exact_step_s, envelopes[1].exact_step_s)
    return align(reader(one), reader(two), (envelopes[0].curve(), envelopes[1].curve()), steps, RATE)


@pytest.mark.parametrize("offset_s", [0.0, 0.123456, -0.7, 1.90001])
def test_an_exact_offset_is_found_to_a_part_of_a_sample(offset_s):
    sound = talk(20.0)
    found = laid(sound, later(sound, offset_s))
    assert abs(found.offset_ms - 1000 * offset_s) < 0.02 and found.plus_minus_ms < 0.02
    assert (found.confidence, found.polarity, found.remarks) == ("high", 1, ())
    assert abs(found.drift_ppm) < 1.5 and abs(found.level_db) < 0.3
    assert len(found.spots) >= 5 and all(s.peak_to_noise > 9 for s in found.spots)
    assert all(abs(s.offset_s - offset_s) < 1e-4 for s in found.spots)


def test_polarity_and_level_are_those_of_the_other_recording():
    sound = talk(16.0)
    found = laid(sound, -0.5 * later(sound, 0.25))
    assert found.polarity == -1 and found.level_db == pytest.approx(-6.02, abs=0.3)
    assert laid(sound, 2.0 * later(sound, 0.25)).level_db == pytest.approx(6.02, abs=0.3)


def test_what_begins_or_ends_later_is_found_where_both_are():
    sound = talk(40.0)
    found = laid(sound[: 25 * RATE], sound[10 * RATE :])
    assert found.offset_ms == pytest.approx(-10_000, abs=0.05) and found.confidence == "high"
    assert all(10 <= s.time_s <= 25 for s in found.spots)
    back = laid(sound[10 * RATE :], sound[: 25 * RATE])
    assert back.offset_ms == pytest.approx(10_000, abs=0.05) and all(0 <= s.time_s <= 15 for s in back.spots)


def test_the_overview_has_its_highest_place_at_the_offset_and_the_detail_too():
    sound = talk(20.0)
    found = laid(sound, later(sound, 1.5))
    for curve, near in ((found.overview, 0.1), (found.detail, 0.002)):
        assert len(curve) == 600 and all(0 <= height <= 1 for _, height in curve)
        at, height = max(curve, key=lambda point: point[1])
        assert abs(at - 1.5) < near and height > 0.6
        assert float(np.median([h for _, h in curve])) < 0.4
    assert sum(height > 0.3 for _, height in found.detail) < 12  # a peak of some tenths of a millisecond
    assert found.detail[0][0] == pytest.approx(1.44, abs=0.02) and found.detail[-1][0] == pytest.approx(1.56, abs=0.02)


@pytest.mark.parametrize("offset_s", [0.9, -1.3])
def test_recordings_of_different_rates_have_steps_of_different_length(offset_s):
    sound = talk(40.0)
    found = laid(sound, later(sound, offset_s), 11_025)
    assert abs(found.offset_ms - 1000 * offset_s) < 0.02 and found.confidence == "high" and len(found.spots) > 10


@pytest.mark.parametrize("ppm", [-450.0, 450.0])
def test_a_drift_that_the_windows_alone_would_lose_is_followed_from_the_loudness_on(ppm):
    """After four minutes it has grown by twice the reach of a window."""
    sound = talk(260.0).astype(np.float32)
    slow = soxr.resample(sound, RATE, RATE * (1 + ppm * 1e-6), quality="VHQ")
    found = laid(sound, np.concatenate([np.zeros(RATE, np.float32), slow]))
    assert found.drift_ppm == pytest.approx(ppm, abs=1.0) and found.offset_ms == pytest.approx(1000.0, abs=0.2)
    assert found.confidence == "high" and len(found.spots) == 24


def test_silence_is_like_nothing():
    """Before and behind the sound the other recorder wrote nothing at all."""
    sound = talk(30.0, 4)
    other = np.concatenate([np.zeros(25 * RATE), sound[8 * RATE : 20 * RATE], np.zeros(40 * RATE)])
    found = laid(sound, other)
    assert found.offset_ms == pytest.approx(17_000, abs=0.05) and found.confidence == "high"
    assert all(6.5 <= s.time_s <= 21.5 for s in found.spots if s.peak_to_noise > 9)


def test_a_loud_hum_in_both_does_not_pull_the_offset_to_its_period():
    sound, t = talk(20.0), np.arange(20 * RATE) / RATE
    one = sound + 0.8 * np.sin(2 * np.pi * 400 * t)
    two = later(sound, 0.35) + 0.8 * np.sin(2 * np.pi * 400 * t + 1.9)
    found = laid(one, two)
    assert found.offset_ms == pytest.approx(350.0, abs=0.1) and found.confidence == "high"


def test_recordings_a_little_longer_than_a_second_are_long_enough():
    sound = talk(1.4, 3)
    assert abs(laid(sound, later(sound, 0.2)).offset_ms - 200) < 0.1


@pytest.mark.parametrize("seed", range(4))
def test_strangers_are_not_believed(seed):
    found = laid(talk(20.0, seed), talk(20.0, 70 + seed))
    assert found.confidence == "low" and "The recordings have little or nothing in common." in found.remarks


def test_a_sound_that_repeats_is_ambiguous_unless_a_passage_of_its_own_tells():
    loop = np.tile(talk(2.0, 5), 12)
    found = laid(loop, np.concatenate([np.zeros(RATE // 2), loop])[: len(loop)])
    assert found.confidence == "low" and any("ambiguous" in r for r in found.remarks)
    told = loop.copy()
    told[5 * RATE : 12 * RATE] += talk(7.0, 8)
    clear = laid(told, later(told, 0.5))
    assert abs(clear.offset_ms - 500) < 0.05 and not any("ambiguous" in r for r in clear.remarks)


@given(st.integers(0, 10_000), st.floats(0.3, 3.0), st.sampled_from([0.0, 0.01, 1.0]))
@settings(max_examples=40, deadline=None)
def test_whatever_is_laid_over_itself_ends_in_an_answer_or_a_sentence(seed, seconds, loud):
    """Noise without rise and fall, short pieces, nearly nothing: nothing that repeats need be found."""
    chance = np.random.default_rng(seed)
    noise = loud * chance.normal(size=round(seconds * RATE)) * chance.uniform(0, 1, round(seconds * RATE)) ** 8
    try:
        found = laid(noise, np.roll(noise, 100))
    except AlignError as error:
        assert str(error).endswith(".")
    else:
        assert math.isfinite(found.offset_ms) and found.confidence in ("high", "medium", "low")


def test_a_loudness_that_is_never_like_itself_later_on_has_no_period():
    best, rival = (_Tried(at, [Spot(1.0, at, 50.0, 1, 1.0)], (np.zeros(1), np.zeros(1))) for at in (0.0, 2.0))
    assert best.clear and rival.clear
    falling = np.concatenate([np.ones(40), -np.ones(40)])
    assert _repeats(best, rival, falling, 0.01) == []
    beats = np.tile([1.0, *np.zeros(99)], 8)
    assert sorted(at for at, _ in _repeats(best, rival, beats, 0.01))[11:14] == pytest.approx([-1.0, 1.0, 2.0])


@pytest.mark.parametrize("missing_s", [0.02, 0.08, 0.5])
@pytest.mark.parametrize("which", [0, 1])
def test_a_piece_that_is_missing_in_one_of_them_is_found_and_said(missing_s, which):
    """As much as 30 % of the way in, a piece is cut out of one."""
    sound = talk(60.0, 6)
    at, many = round(18.0 * RATE), round(missing_s * RATE)
    shorter = np.concatenate([sound[:at], sound[at + many :]])
    found = laid(*((sound, shorter) if which else (shorter, sound)))
    assert found.confidence == "low"
    [said] = [r for r in found.remarks if "jumps between" in r]
    sign = "-" if which else ""
    told = (f"from 0.0 to {sign}{1000 * missing_s:.1f} ms", f"from -0.0 to {sign}{1000 * missing_s:.1f} ms")
    assert any(each in said for each in told) and "a piece is missing" in said


def test_bars_that_repeat_are_told_apart_by_the_ambience_alone():
    bars = np.tile(talk(2.0, 5), 20)
    room = 0.03 * np.random.default_rng(9).normal(size=len(bars)) * float(np.std(bars))
    found = laid(bars + room, later(bars + room, 6.1))
    assert found.offset_ms == pytest.approx(6100, abs=0.05) and not any("ambiguous" in r for r in found.remarks)


def test_what_is_silent_or_too_short_is_said():
    sound = talk(5.0)
    for a, b in ((sound, np.zeros(5 * RATE)), (np.zeros(5 * RATE), sound)):
        with pytest.raises(AlignError, match="silent"):
            laid(a, b)
    for a, b in ((sound, talk(0.9)), (talk(0.9), sound)):
        with pytest.raises(AlignError, match="shorter than a second"):
            laid(a, b)
    assert laid(talk(3.0), talk(3.0)).confidence != "low"


# the line through the windows


def spots(offsets: list[float], when: list[float] | None = None, **more: float) -> list[Spot]:
    when = when or [5.0 * i for i in range(len(offsets))]
    about = {"peak_to_noise": 30.0, "sign": 1, "gain": 1.0, **more}
    return [Spot(t, o, **about) for t, o in zip(when, offsets, strict=True)]


@given(st.floats(-50, 50), st.floats(-400, 400), st.integers(6, 24), st.integers(1, 999))
@settings(deadline=None)
def test_the_line_tells_offset_and_drift_within_what_it_says(offset_s, ppm, many, seed):
    noise = 2e-5 * np.random.default_rng(seed).normal(size=many)
    found = line_through(spots([offset_s + ppm * 1e-6 * 5.0 * i + n for i, n in enumerate(noise.tolist())]), 0.0)
    spread_s = 2e-5 / (5.0 * many / math.sqrt(12)) / math.sqrt(many)
    assert abs(found.drift_ppm - ppm) <= 6e6 * spread_s
    assert abs(found.offset_ms - 1000 * offset_s) <= 0.12 and found.confidence == "high"
    assert 0.005 <= found.plus_minus_ms <= 0.005 + 0.06 / math.sqrt(many)


def test_no_drift_is_told_where_it_is_less_than_its_error():
    noise = 1e-4 * np.random.default_rng(3).normal(size=(40, 12))
    told = [line_through(spots((0.5 + row).tolist()), 0.0).drift_ppm for row in noise]
    assert sum(ppm != 0 for ppm in told) <= 2
    assert all(abs(line_through(spots((0.5 + row).tolist()), 0.0).offset_ms - 500) < 0.2 for row in noise)


def test_windows_close_together_or_few_tell_no_drift():
    drifting = [0.1 + 3e-4 * i for i in range(4)]
    assert line_through(spots(drifting, [0.0, 1.0, 2.0, 3.0]), 0.0).drift_ppm == 0.0
    assert line_through(spots(drifting[:3]), 0.0).drift_ppm == 0.0
    assert line_through(spots(drifting), 0.0).drift_ppm == pytest.approx(60.0, abs=0.1)


def test_windows_that_do_not_belong_to_the_line_move_nothing():
    offsets = [0.25] * 10
    offsets[3], offsets[7] = 0.27, 0.2
    found = line_through(spots(offsets), 0.0)
    assert found.offset_ms == pytest.approx(250.0, abs=0.001) and found.drift_ppm == pytest.approx(0.0, abs=0.01)
    assert found.confidence == "high" and found.plus_minus_ms == pytest.approx(0.005, abs=0.002)


@pytest.mark.parametrize(
    ("good", "stray", "confidence"),
    [
        (3, 0, "high"),
        (3, 2, "high"),
        (3, 3, "medium"),
        (2, 0, "medium"),
        (2, 3, "medium"),
        (2, 4, "low"),
        (1, 0, "low"),
    ],
)
def test_confidence_asks_for_windows_that_agree(good, stray, confidence):
    """Windows that agree, and others that are not clear."""
    unclear = spots([0.4 + 0.05 * i for i in range(stray)], [100.0 + i for i in range(stray)], peak_to_noise=4.0)
    found = line_through([*spots([0.1] * good), *unclear], 0.0)
    assert found.confidence == confidence and found.offset_ms == pytest.approx(100.0, abs=0.01)
    assert good > 1 or found.plus_minus_ms == pytest.approx(0.505)
    assert len(found.spots) == good + stray
    assert ("The recordings have little or nothing in common." in found.remarks) == (confidence != "high")


def test_a_scatter_of_more_than_half_a_millisecond_is_not_called_high():
    wide = [0.1 + 0.0007 * (-1) ** i for i in range(12)]
    assert line_through(spots(wide), 0.0).confidence == "medium"
    assert line_through(spots([0.1 + 0.0004 * (-1) ** i for i in range(12)]), 0.0).confidence == "high"


@pytest.mark.parametrize(("rival", "ambiguous"), [(0.0, False), (0.84, False), (0.86, True), (1.0, True)])
def test_a_rival_that_is_as_clear_makes_it_ambiguous(rival, ambiguous):
    found = line_through(spots([0.1] * 8), rival)
    assert (found.confidence == "low") == ambiguous
    assert any("another offset fits nearly as well" in r for r in found.remarks) == ambiguous


def reader_of(sound: np.ndarray):
    return lambda begin_s, length_s: sound[round(begin_s * RATE) : round((begin_s + length_s) * RATE)]


@pytest.mark.parametrize("offset_s", [0.1, 0.1 + 0.5 / RATE, 0.2 + 0.27 / RATE])
def test_coherence_is_one_at_the_offset_between_samples_too_and_less_beside_it(offset_s):
    sound = talk(6.0)
    read, other = reader_of(sound), reader_of(later(sound, offset_s))
    there = _coherence(read, other, 1.0, offset_s, RATE)
    assert there > 0.99 and _coherence(read, other, 1.5, offset_s, RATE) > 0.99
    beside = [_coherence(read, other, 1.0, offset_s + by, RATE) for by in (-1e-4, 1e-4, 3e-4)]
    assert max(beside) < 0.95 and beside[2] < 0.7
    assert (
        _coherence(read, reader_of(-0.3 * later(sound, offset_s)), 1.0, offset_s, RATE) > 0.99
    )  # of any level or sign


def test_where_no_offset_has_enough_windows_none_is_told_from_the_others():
    tried = [
        _Tried(at, [Spot(1.0, at, n, 1, 1.0)] * 2, (np.zeros(1), np.zeros(1))) for at, n in ((0.1, 30.0), (2.0, 50.0))
    ]
    best, told = _tournament(tried, reader_of(talk(4.0)), reader_of(talk(4.0)), RATE)
    assert best is tried[1] and not told


def test_nothing_at_all_is_told_as_nothing():
    found = line_through([], 0.0)
    assert (found.confidence, found.spots, found.remarks) == ("low", (), ("The recordings share nothing.",))
    assert found.plus_minus_ms >= 1e6


def test_the_sign_is_that_of_the_clearest_and_the_level_the_middle_one():
    mixed = [*spots([0.1] * 5, sign=-1, gain=2.0), *spots([0.1] * 4, [50.0, 55.0, 60.0, 65.0], gain=1.0)]
    found = line_through(mixed, 0.0)
    assert found.polarity == -1 and found.level_db == pytest.approx(6.02, abs=0.01)
    louder = [*spots([0.1] * 4, sign=-1), *spots([0.1] * 3, [50.0, 55.0, 60.0], peak_to_noise=90.0)]
    assert line_through(louder, 0.0).polarity == 1


# what they are made of


def test_coarse_lines_are_those_that_most_pieces_agree_on():
    votes = [(60.0 * i, 2.0 + 1e-4 * 60.0 * i, 0.8) for i in range(8)]  # a line that drifts by 100 ppm
    votes += [(60.0 * i, 30.0 + 17.0 * i, 0.9) for i in range(8)]  # accidents, each alone
    votes += [(60.0 * i, -5.0, 0.7) for i in range(5)]
    found = _agreed(votes)
    assert found[0] == pytest.approx((2.0, 1e-4)) and found[1][0] == pytest.approx(-5.0)
    assert len(found) == 2  # what stands alone is not worth a look
    assert _agreed([]) == [] and _agreed([(0.0, 3.0, 0.5)]) == [(3.0, 0.0)]


def test_of_two_votes_of_one_piece_only_the_better_counts():
    twice = [(0.0, 1.0, 0.5), (0.0, 1.02, 0.4), (60.0, 9.0, 0.6)]
    assert _agreed(twice)[0][0] == pytest.approx(9.0)


def test_the_highest_of_each_stretch():
    binned = BinnedMaximum(-3.0, 3.0)
    binned.add(np.array([-3.0, 0.004, 0.006, 2.999, 7.0]), np.array([0.1, 0.2, 0.7, 1.4, 0.3]))
    curve = dict(binned.curve())
    assert len(curve) == 600 and min(curve) == pytest.approx(-2.995) and max(curve) == pytest.approx(2.995)
    highest = sorted(curve.items(), key=lambda p: -p[1])[:3]
    assert [(round(at, 3), height) for at, height in highest] == [(2.995, 1.0), (0.005, 0.7), (-2.995, 0.1)]


def test_loudness_is_the_same_however_the_sound_is_cut_into_blocks():
    sound = talk(6.0).astype(np.float32)
    whole, cut = OnsetEnvelope(RATE), OnsetEnvelope(RATE)
    whole.add(sound)
    for begin in range(0, len(sound), 333):
        cut.add(sound[begin : begin + 333])
    cut.add(sound[:0])
    assert np.allclose(whole.curve(), cut.curve(), atol=1e-4) and len(whole.curve()) == 600
    assert whole.exact_step_s == 0.01


def test_loudness_rises_by_what_the_sound_rises_and_forgets_what_is_slow():
    sound = np.concatenate([np.full(3 * RATE, 0.01), np.full(3 * RATE, 0.1)]) * np.tile([1.0, -1.0], 3 * RATE)
    envelope = OnsetEnvelope(RATE)
    envelope.add(sound.astype(np.float32))
    curve = envelope.curve()
    assert curve[305] - curve[295] == pytest.approx(20.0 * 0.975, abs=1.0)
    assert abs(float(curve.mean())) < 1.0


# the coarse likeness, against the sum written out; the windows, as they are read


def rising(many: int, seed: int) -> np.ndarray:
    return np.random.default_rng(seed).normal(size=many)


def likeness_by_hand(a: np.ndarray, b: np.ndarray, starts: list[int], length: int) -> dict[int, float]:
    """At each lag in steps the best likeness of a piece of `a` with what lies under it in `b`, zeros outside."""
    found: dict[int, float] = {}
    for start in starts:
        piece = a[start : start + length] - a[start : start + length].mean()
        energy = float(np.sum(piece**2))
        for lag in range(-length, len(b)):
            under = np.array([b[n] if 0 <= n < len(b) else 0.0 for n in range(lag, lag + length)])
            like = float(np.sum(piece * under)) / math.sqrt((float(np.sum(under**2)) + 0.05 * energy) * energy)
            found[lag - start] = max(found.get(lag - start, 0.0), like)
    return found


def test_the_coarse_likeness_is_that_of_the_pieces():
    a, b = rising(150, 1), 0.7 * np.concatenate([rising(60, 2), rising(150, 1)[:120], rising(30, 3)])
    lines, overview = coarse_lines(a, b, (0.01, 0.01))
    by_hand = likeness_by_hand(a, b, [0], 150)
    best = max(by_hand, key=by_hand.__getitem__)
    assert best == 60 and lines[0] == pytest.approx((0.6, 0.0))
    width = (len(a) + len(b)) * 0.01 / 600
    for at, height in overview:
        inside = [v for lag, v in by_hand.items() if at - width / 2 + 1e-9 < lag * 0.01 < at + width / 2 - 1e-9]
        assert height == pytest.approx(max([0.0, *inside]), abs=1e-9) or len(inside) == 0
    assert max(height for _, height in overview) == pytest.approx(by_hand[60])


def test_long_recordings_are_compared_in_ten_pieces_of_a_minute():
    a = rising(13_000, 4)  # 130 s
    for many, pieces in ((13_000, 10), (11_000, 3), (8_900, 1)):
        lines, _ = coarse_lines(a[:many], a[:many], (0.01, 0.01))
        starts = [0] if pieces == 1 else np.linspace(0, many - 6000, pieces).astype(int).tolist()
        marked = a[:many].copy()
        for start in starts:  # the middles of pieces, moved each by its own: a vote for each
            marked[start : start + 6000] = a[start : start + 6000]
        assert lines[0][0] == pytest.approx(0.0, abs=1e-9)
        # with all but the last piece turned into something else, it alone agrees
        other = rising(many, 5)
        other[starts[-1] : starts[-1] + 6000] = a[starts[-1] : starts[-1] + 6000]
        found, overview = coarse_lines(a[:many], other, (0.01, 0.01))
        assert found[0][0] == pytest.approx(0.0, abs=1e-9)
        assert max(h for _, h in overview) == pytest.approx(1 / math.sqrt(1.05), abs=0.01)


def test_a_second_rate_is_brought_to_the_steps_of_the_first():
    a = np.convolve(rising(400, 6), np.ones(9) / 9, "same")
    slower = np.interp(np.arange(0, 4.0, 0.0125), np.arange(400) * 0.01, np.roll(a, 50))
    lines, _ = coarse_lines(a, slower, (0.01, 0.0125))
    assert lines[0][0] == pytest.approx(0.5, abs=0.0101)


def read_windows(
    curve: np.ndarray, other_s: float, offset_s: float, slope: float = 0.0
) -> tuple[list[tuple[float, float]], list[tuple[float, float]], list[Spot]]:
    """What was read of both recordings (begin and length, s), the other one being `offset_s` later, and the windows."""
    sound = talk(80.0, 9)
    asked: tuple[list[tuple[float, float]], list[tuple[float, float]]] = ([], [])

    def reader(number: int, moved_s: float):
        def read(begin_s: float, length_s: float) -> np.ndarray:
            asked[number].append((begin_s, length_s))
            first, many = round((begin_s - moved_s + 10) * RATE), round(length_s * RATE)
            return sound[first : first + many].astype(np.float32)

        return read

    found, _ = _spots(reader(0, 0.0), reader(1, offset_s), curve, 0.01, other_s, RATE, offset_s, slope)
    return asked[0], asked[1], found


def test_windows_stand_where_the_reference_is_liveliest_in_each_stretch():
    """24 s in both: nine stretches of a window's length, the liveliest place of each at the third of its window."""
    curve = np.zeros(2600)
    lively = [20, 700, 1950, 2050]
    curve[lively] = 5.0
    one, two, found = read_windows(curve, 30.0, 2.0)
    length, last = 2.6, 26.0 - 2.6
    edges = np.linspace(0.0, last, 10)
    assert [n for _, n in one] == pytest.approx([length] * 9) and [n for _, n in two] == pytest.approx([2.72] * 9)
    for begin, end, (at, _) in zip(edges[:-1], edges[1:], one, strict=True):
        inside = [p * 0.01 - length / 3 for p in lively if int(begin / 0.01) <= p < int(end / 0.01)]
        wanted = min(max(inside[0], begin), end) if inside else begin
        assert at == pytest.approx(wanted, abs=0.011)
    assert [b - a for (a, _), (b, _) in zip(one, two, strict=True)] == pytest.approx([1.94] * 9)
    assert [s.offset_s for s in found] == pytest.approx([2.0] * 9, abs=1e-4)
    assert all(at <= s.time_s <= at + 2.6 for (at, _), s in zip(one, found, strict=True))


@pytest.mark.parametrize(
    ("curve_s", "other_s", "offset_s", "slope", "first", "end", "many"),
    [
        (26.0, 12.0, 2.0, 0.0, 0.0, 10.0, 5),  # ends with the other one: a sixth of 10 s long
        (26.0, 30.0, -14.0, 0.0, 14.0, 26.0, 5),  # begins with it
        (26.0, 30.0, -14.0, 0.4, 10.0, 26.0, 5),  # and runs away from it
        (0.9, 30.0, 0.0, 0.0, 0.0, 0.9, 1),  # the shortest window
        (70.0, 80.0, 0.0, 0.0, 0.0, 70.0, 24),  # not more than two dozen
    ],
)
def test_windows_lie_where_both_recordings_are(curve_s, other_s, offset_s, slope, first, end, many):
    one, two, _ = read_windows(np.zeros(round(100 * curve_s)), other_s, offset_s, slope)
    length = min(2.6, max(0.4, (end - first) / 6))
    assert len(one) == many and [n for _, n in one] == pytest.approx([length] * many)
    assert one[0][0] == pytest.approx(first)
    assert [at for at, _ in one] == pytest.approx(np.linspace(first, end - length, many + 1)[:-1].tolist())
    for (a, _), (b, _) in zip(one, two, strict=True):
        assert b - a == pytest.approx(offset_s + slope * (a + length / 2) - 0.06)


def test_where_both_are_for_less_than_a_window_there_is_none():
    assert read_windows(np.zeros(39), 30.0, 0.0) == ([], [], [])
    assert (
        read_windows(np.zeros(2600), 30.0, 26.1) != ([], [], []) and read_windows(np.zeros(2600), 30.0, 29.7)[0] == []
    )


def test_a_window_tells_offset_sign_gain_and_where_its_energy_lies():
    chance = np.random.default_rng(10)
    piece = chance.normal(size=6000).astype(np.float32)
    piece[:3000] *= 0.05  # its energy lies in the second half
    around = np.zeros(8000, np.float32)
    around[700:6700] = -0.4 * piece
    found = _spot(piece, around, RATE)
    assert found is not None
    offset_s, clear, sign, gain, alike, centre_s = found
    assert offset_s == pytest.approx(700 / RATE, abs=1e-7) and (sign, len(alike)) == (-1, 2001)
    assert gain == pytest.approx(0.4, rel=0.01) and float(alike.max()) == 1.0 and int(np.argmax(alike)) == 700
    weight = (piece * np.hanning(6000)) ** 2
    assert centre_s == pytest.approx(float(np.average(np.arange(6000), weights=weight)) / RATE, rel=1e-4)
    assert clear > 50
    noise = _spot(piece, chance.normal(size=8000).astype(np.float32), RATE)
    assert noise is not None and 2.5 < noise[1] < 6.5  # the highest of 2001 normal values
    assert _spot(piece, np.zeros(8000, np.float32), RATE) is None and _spot(0 * piece, around, RATE) is None
    assert _spot(piece[:255], around, RATE) is None and _spot(piece[:256], around, RATE) is not None


def test_what_lies_outside_the_band_of_voices_counts_for_nothing():
    chance = np.random.default_rng(11)
    t = np.arange(8000) / RATE
    piece = chance.normal(size=8000)
    loud = 30 * np.sin(2 * np.pi * 60 * t) + 30 * np.sin(2 * np.pi * 7000 * t)
    around = np.concatenate([np.zeros(500), piece, np.zeros(500)])
    plain = _spot(piece.astype(np.float32), around.astype(np.float32), RATE)
    around[500:8500] += loud
    found = _spot((piece + np.roll(loud, 77)).astype(np.float32), around.astype(np.float32), RATE)
    assert plain is not None and found is not None
    assert found[0] == pytest.approx(500 / RATE, abs=2e-6) and found[1] > 0.5 * plain[1]
