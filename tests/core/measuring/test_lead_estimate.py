"""The lead from flashes and beeps alone: its figure, its ±, drift, jitter, confidence, and what is said of it."""

import math
import re

import numpy as np
import pytest
from hypothesis import assume, given, settings
from hypothesis import strategies as st

from kymaton.core.errors import MeasureError
from kymaton.core.measuring.beeps import Beep
from kymaton.core.measuring.exposure import intersect_intervals
from kymaton.core.measuring.flashes import Flash
from kymaton.core.measuring.lead_estimate import Mark, best_estimate, estimate_lead, lead_from_marks
from tests.core.measuring.recordings import MADE, filmed, made

LEADS = st.floats(-1.5, 1.5)


def held(found, lead_s: float) -> bool:
    """Whether the truth lies within the ± that is told."""
    return abs(found.lead_ms - 1000 * lead_s) <= found.plus_minus_ms + 1e-6


# a clip that was made


@given(LEADS, st.sampled_from([1 / 24, 0.04, 1001 / 30000, 1 / 60]), st.integers(1, 10_000))
@settings(max_examples=40, deadline=None)
def test_a_made_clip_tells_its_lead_exactly(lead_s, frame_s, seed):
    found = estimate_lead(*made(lead_s, frame_s=frame_s, seed=seed), MADE)
    assert (found.kind, found.confidence, found.matched, found.refused) == ("locked", "high", 16, 0)
    assert abs(found.lead_ms - 1000 * lead_s) < 0.001 and 0.1 < found.plus_minus_ms < 0.3
    assert found.drift_ppm == 0.0 and found.jitter_ms < 0.001 and found.remarks == ()
    assert found.plus_minus_ms == pytest.approx(0.2, abs=1e-4)


@pytest.mark.parametrize("jitter_ms", [0.2, 0.5])
def test_jitter_is_told_as_the_scatter_that_it_is(jitter_ms):
    found = [estimate_lead(*made(0.1, 64, jitter_s=jitter_ms / 1000, seed=s), MADE) for s in range(20)]
    assert {m.kind for m in found} == {"locked"}
    assert 0.7 * jitter_ms < float(np.median([m.jitter_ms for m in found])) < 1.3 * jitter_ms
    assert sum(held(m, 0.1) for m in found) >= 19
    assert all(m.plus_minus_ms < 0.2 + jitter_ms / 4 for m in found)  # it falls with the root of the events
    assert sum(m.drift_ppm != 0 for m in found) <= 2  # what is only scatter is not told as drift


def test_more_jitter_than_a_made_clip_has_is_not_called_one():
    loose = [estimate_lead(*made(0.1, 40, jitter_s=0.003, seed=s), MADE) for s in range(12)]
    assert all(m.kind != "locked" or m.confidence != "high" for m in loose)
    assert all(m.drift_ppm == 0 for m in loose)
    assert all(abs(m.lead_ms - 100) < 22 for m in loose)


@pytest.mark.parametrize("off_s", [0.0055, -0.009])
def test_one_beep_that_is_off_by_a_third_of_a_frame_is_left_out_of_a_made_clip(off_s):
    flashes, beeps = made(0.1, 20, 1 / 60)
    beeps[6] = Beep(beeps[6].time_s + off_s, 1.0)
    found = estimate_lead(flashes, beeps, MADE)
    assert (found.kind, found.refused) == ("locked", 1) and found.lead_ms == pytest.approx(100.0, abs=0.01)


@pytest.mark.parametrize("ppm", [-310.0, 45.0, 180.0])
def test_the_drift_of_a_made_clip(ppm):
    found = estimate_lead(*made(-0.2, 80, drift=ppm * 1e-6, jitter_s=5e-5), MADE)
    for event in found.events:
        assert event.lead_ms == pytest.approx(-200 + ppm * 1e-3 * (event.time_s - found.middle_s), abs=0.25)
    assert abs(found.drift_ppm - ppm) <= 3 * found.drift_plus_minus_ppm and found.drift_plus_minus_ppm < 2
    assert held(found, -0.2) and found.confidence == "high" and found.kind == "locked"
    flashes, _ = made(-0.2, 80)
    assert found.middle_s == pytest.approx(float(np.mean([f.time_s for f in flashes])))


# filmed: an exposure that tells the instant inside its frame


@given(LEADS, st.sampled_from([1 / 24, 0.04, 1 / 60]), st.sampled_from([0.5, 0.75, 1.0]), st.integers(1, 10_000))
@settings(max_examples=60, deadline=None)
def test_an_exposure_tells_the_lead_to_a_fraction_of_its_frame(lead_s, frame_s, exposure, seed):
    flashes, beeps = filmed(lead_s, 40, frame_s, exposure, seed=seed)
    inside = np.array([f.part > 0.06 and f.light < 0.94 for f in flashes])
    assume(inside.sum() >= 8 and np.ptp(np.array([f.light for f in flashes])[inside]) > 0.3)
    found = estimate_lead(flashes, beeps)
    assert found.kind == "exposed" and found.confidence == "high"
    assert held(found, lead_s) and found.plus_minus_ms < 6 and found.jitter_ms < 1.0
    assert found.drift_ppm == pytest.approx(0.0, abs=3.0)


def test_each_event_of_an_exposed_recording_tells_the_lead_alone():
    flashes, beeps = filmed(0.0731, 40, 0.04, 0.6)
    found = estimate_lead(flashes, beeps)
    sure = [e for e in found.events if e.tells]
    assert len(sure) >= 20 and all(abs(e.lead_ms - 73.1) < 0.5 for e in sure)
    bounds = [e for e in found.events if not e.tells]
    assert bounds and all(abs(e.lead_ms - 73.1) < 20 for e in bounds)  # it fell between exposures: within the frame
    assert [e.time_s for e in found.events] == [f.time_s for f in flashes]


@pytest.mark.parametrize("ppm", [-250.0, 120.0])
def test_the_drift_of_an_exposed_recording(ppm):
    found = estimate_lead(*filmed(0.3, 60, 0.04, 0.8, drift=ppm * 1e-6))
    assert found.kind == "exposed" and abs(found.drift_ppm - ppm) < 6 and held(found, 0.3)


def test_few_flashes_in_a_short_exposure_still_tell_and_the_others_bound_it():
    for seed in range(1, 9):
        flashes, beeps = filmed(0.25, 40, 0.04, 0.14, seed=seed)
        inside = sum(f.part > 0.06 and f.light < 0.94 for f in flashes)
        found = estimate_lead(flashes, beeps)
        if 4 <= inside < 8:
            assert found.kind == "exposed" and found.plus_minus_ms < 4
        assert held(found, 0.25)


@pytest.mark.parametrize("many", [24, 96])
def test_the_uncertainty_of_an_exposed_recording_is_two_standard_errors(many):
    found = []
    for seed in range(1, 41):
        flashes, beeps = filmed(0.1, many, 0.04, 0.8, seed=seed)
        noise = 0.0006 * np.random.default_rng(seed).normal(size=many)
        found.append(
            estimate_lead(flashes, [Beep(b.time_s + n, 1.0) for b, n in zip(beeps, noise.tolist(), strict=True)])
        )
    inside = float(np.median([sum(e.tells for e in m.events) for m in found]))
    usual = 0.4 + 2 * 0.6 / math.sqrt(inside)  # and what the camera's curve leaves open
    assert usual < float(np.median([m.plus_minus_ms for m in found])) < usual + 2.5
    assert sum(held(m, 0.1) for m in found) >= 38
    assert float(np.median([m.jitter_ms for m in found])) == pytest.approx(0.6, rel=0.4)


def test_an_event_that_is_lit_by_something_else_is_left_out_of_the_line():
    flashes, beeps = filmed(0.1, 40, 0.04, 0.8)
    for at in (4, 17, 30):
        flashes[at] = Flash(flashes[at].time_s, flashes[at].before_s, 0.6, (flashes[at].light + 0.45) % 0.9, 100.0)
    found = estimate_lead(flashes, beeps)
    assert found.kind == "exposed" and abs(found.lead_ms - 100) < 0.05 and found.jitter_ms < 0.05


def test_brightness_that_would_ask_for_an_impossible_shutter_is_no_exposure():
    light = np.linspace(0.1, 0.9, 24)
    times = 2 + 0.04 * np.round(0.9 * np.arange(24) / 0.04)
    flashes = [Flash(t, t - 0.04, float(x) ** (1 / 2.2), float(x), 1.0) for t, x in zip(times, light, strict=True)]
    beeps = [Beep(float(t - 0.1 - 1.4 * 0.04 * x), 1.0) for t, x in zip(times, light, strict=True)]
    assert estimate_lead(flashes, beeps).confidence != "high"


def test_two_flashes_inside_an_exposure_tell_more_than_dark_and_bright():
    tried, errors = 0, []
    for seed in range(1, 60):
        flashes, beeps = filmed(0.25, 18, 0.04, 0.12, seed=seed)
        if sum(f.part > 0.06 and f.light < 0.94 for f in flashes) == 2:
            tried += 1
            found = estimate_lead(flashes, beeps)
            assert found.kind == "exposed" and held(found, 0.25) and 0.5 <= found.plus_minus_ms < 5
            errors.append(found.lead_ms - 250)
            assert found.drift_plus_minus_ppm == pytest.approx(0.04e6 / (flashes[-1].time_s - flashes[0].time_s))
            assert sum(e.tells for e in found.events) == 2
    assert tried > 5 and abs(float(np.median(errors))) < 0.25


# filmed: frames that are dark or bright


@given(LEADS, st.sampled_from([1 / 24, 0.04, 1 / 60]), st.integers(5, 60), st.integers(1, 10_000))
@settings(max_examples=60, deadline=None)
def test_hard_frames_bound_the_lead_by_where_all_their_intervals_meet(lead_s, frame_s, many, seed):
    """For any exposure that leaves room: the world was dark when the frame before closed, and lit when this one did."""
    flashes, beeps = filmed(lead_s, many, frame_s, exposure=0.0, seed=seed)
    before = max(f.before_s - b.time_s for f, b in zip(flashes, beeps, strict=True))
    late = min(f.time_s - b.time_s for f, b in zip(flashes, beeps, strict=True))
    ends = [(before + 0.97 * e, late + 0.06 * e) for e in np.linspace(0, frame_s, 401)]
    allowed = [(low, high) for low, high in ends if low < high]
    found = estimate_lead(flashes, beeps)
    assume(not found.refused)
    low, high = min(low for low, _ in allowed), max(high for _, high in allowed)
    assert found.kind == "hard" and found.lead_ms == pytest.approx(500 * (low + high), abs=0.6)
    assert found.plus_minus_ms == pytest.approx(500 * (high - low) + 0.3, abs=0.6) and held(found, lead_s)
    span_s = flashes[-1].time_s - flashes[0].time_s
    assert found.drift_ppm == 0.0 and found.drift_plus_minus_ppm == pytest.approx(1e6 * frame_s / span_s, rel=1e-4)
    assert found.confidence != "high" or (many >= 8 and found.plus_minus_ms < 300 * frame_s)


@pytest.mark.parametrize("ppm", [-420.0, 380.0])
def test_the_drift_of_hard_frames_is_told_where_no_constant_lead_fits(ppm):
    for seed in range(1, 4):
        flashes, beeps = filmed(0.1, 120, 0.04, exposure=0.0, drift=ppm * 1e-6, seed=seed)
        found = estimate_lead(flashes, beeps)
        assert found.kind == "hard" and found.drift_ppm != 0
        assert abs(found.drift_ppm - ppm) <= found.drift_plus_minus_ppm < 90
        assert found.jitter_ms == pytest.approx(40 / math.sqrt(12), rel=0.2)  # flashes fall anywhere in a frame
        assert abs(found.lead_ms - 100) <= found.plus_minus_ms + 0.5 and found.plus_minus_ms < 8


def test_the_uncertainty_of_a_drift_of_hard_frames_is_what_the_intervals_leave_open():
    from scipy.optimize import linprog

    flashes, beeps = filmed(0.1, 120, 0.04, exposure=0.0, drift=400e-6)
    when = np.array([f.time_s for f in flashes])
    since = when - when.mean()
    low = np.array([f.before_s - b.time_s for f, b in zip(flashes, beeps, strict=True)])
    high = np.array([f.time_s - b.time_s for f, b in zip(flashes, beeps, strict=True)])
    rows = np.concatenate([np.stack([np.ones(120), since], 1), np.stack([-np.ones(120), -since], 1)])
    ends = [
        linprog([0, way], rows, np.concatenate([high, -low]), bounds=[(None, None)] * 2).x[1] for way in (1.0, -1.0)
    ]
    found = estimate_lead(flashes, beeps)
    step_ppm = 600 / 120
    assert found.drift_ppm == pytest.approx(5e5 * (ends[0] + ends[1]), abs=step_ppm)
    half_ppm = 5e5 * (ends[1] - ends[0])
    assert half_ppm <= found.drift_plus_minus_ppm < half_ppm + 6 * step_ppm  # an exposure leaves more open


@pytest.mark.parametrize(("spread", "confidence"), [(0.3, "high"), (0.1, "medium")])
def test_hard_frames_that_bound_the_lead_loosely_are_not_called_high(spread, confidence):
    """All flashes fall near the middle between two frames: the intervals hardly differ."""
    phases = [0.5 + spread * (-1) ** i for i in range(12)]
    times = [2 + 0.04 * (25 * i + (7 * i) % 5) for i in range(12)]
    flashes = [Flash(t, t - 0.04, 1.0, 1.0, 100.0) for t in times]
    found = estimate_lead(flashes, [Beep(t - 0.04 * p - 0.2, 1.0) for t, p in zip(times, phases, strict=True)])
    assert found.kind == "hard" and found.confidence == confidence
    assert 0 <= found.plus_minus_ms - 40 * (0.5 - spread) < 1.5 and held(found, 0.2)


def test_one_contradicting_event_among_hard_frames_widens_the_uncertainty_and_is_no_drift():
    flashes, beeps = filmed(0.1, 24, 0.04, exposure=0.0)
    clean = estimate_lead(flashes, beeps)
    late = [f.time_s - b.time_s for f, b in zip(flashes, beeps, strict=True)]
    first = late.index(min(late))
    beeps[first] = Beep(beeps[first].time_s + late[first] - 0.097, 1.0)  # as if it had been seen 3 ms before it was
    found = estimate_lead(flashes, beeps)
    assert found.matched == 24 and found.drift_ppm == 0.0
    assert (
        found.plus_minus_ms >= clean.plus_minus_ms + 0.5 * 40 / 24 and abs(found.lead_ms - 100) <= found.plus_minus_ms
    )


# what belongs together


def test_events_without_a_partner_are_left_out_and_counted():
    flashes, beeps = made(0.15, 20)
    found = estimate_lead(
        [f for i, f in enumerate(flashes) if i not in (3, 9)], [b for i, b in enumerate(beeps) if i != 5], MADE
    )
    assert (found.matched, found.refused) == (17, 2) and found.confidence == "high"
    assert "2 events had no partner or did not fit, and were left out." in found.remarks
    alone = estimate_lead(flashes, beeps[:-1], MADE)
    assert (alone.matched, alone.refused) == (19, 1)
    assert "1 event had no partner or did not fit, and was left out." in alone.remarks


def test_a_beep_in_the_wrong_place_does_not_pull_the_lead():
    flashes, beeps = made(0.15, 20)
    beeps[7] = Beep(beeps[7].time_s + 0.033, 1.0)
    found = estimate_lead(flashes, beeps, MADE)
    assert found.lead_ms == pytest.approx(150.0, abs=0.01) and (found.matched, found.refused) == (19, 1)


def test_of_three_the_one_that_does_not_fit_is_left_out():
    flashes, beeps = made(0.1, 3)
    beeps[0] = Beep(beeps[0].time_s - 0.035, 1.0)
    found = estimate_lead(flashes, beeps, MADE)
    assert (found.matched, found.refused) == (2, 1) and found.lead_ms == pytest.approx(100.0, abs=0.01)


@pytest.mark.parametrize("ppm", [-320.0, 320.0])
def test_a_drift_that_moves_the_last_event_by_frames_is_followed(ppm):
    found = estimate_lead(*made(0.4, 400, drift=ppm * 1e-6), MADE)
    assert found.matched == 400 and found.drift_ppm == pytest.approx(ppm, abs=1.0)
    assert found.lead_ms == pytest.approx(400.0, abs=0.05)


@pytest.mark.parametrize(
    ("many", "confidence", "said"), [(2, "low", True), (3, "medium", True), (4, "medium", True), (5, "high", False)]
)
def test_few_events_are_never_called_sure(many, confidence, said):
    found = estimate_lead(*made(0.1, many), MADE)
    assert found.confidence == confidence and found.lead_ms == pytest.approx(100.0, abs=0.01)
    assert any(r == f"Only {many} events: make the recording longer." for r in found.remarks) == said


@pytest.mark.parametrize(("stray", "confidence"), [(4, "high"), (5, "medium"), (9, "medium"), (11, "low")])
def test_where_many_do_not_belong_together_less_is_believed(stray, confidence):
    """Ten pairs, and so many flashes and beeps besides that have no partner."""
    flashes, beeps = made(0.1, 10)
    end = flashes[-1].time_s
    flashes += [Flash(t, t - 0.04, 1.0, 1.0, 100.0) for t in (end + 20 + 1.37 * i for i in range(stray))]
    beeps += [Beep(end + 60 + 0.91 * i, 1.0) for i in range(stray)]
    found = estimate_lead(flashes, beeps, MADE)
    assert (found.matched, found.refused, found.confidence) == (10, stray, confidence)


@pytest.mark.parametrize(("gap_s", "ambiguous"), [(0.5, True), (2.0, True), (5.2, False)])
def test_events_that_repeat_regularly_are_ambiguous_unless_the_others_are_out_of_reach(gap_s, ambiguous):
    times = [round((2 + gap_s * i) / 0.04) * 0.04 for i in range(20)]
    flashes, beeps = [Flash(t, t - 0.04, 1.0, 1.0, 100.0) for t in times], [Beep(t - 0.12, 1.0) for t in times]
    found = estimate_lead(flashes, beeps, MADE)
    told = any("repeat too regularly" in r for r in found.remarks)
    assert told == ambiguous and (found.confidence == "low") == ambiguous
    assert found.lead_ms == pytest.approx(120.0, abs=0.01)  # most pairs


@pytest.mark.parametrize(("lead_s", "reached"), [(4.9, True), (-4.9, True), (5.4, False)])
def test_a_lead_is_looked_for_up_to_five_seconds(lead_s, reached):
    flashes, beeps = made(lead_s, 12)
    if reached:
        assert estimate_lead(flashes, beeps, MADE).lead_ms == pytest.approx(1000 * lead_s, abs=0.01)
    else:
        try:
            found = estimate_lead(flashes, beeps, MADE)
        except MeasureError:
            return
        assert found.confidence != "high"


def test_what_lies_too_far_apart_or_is_too_little_is_said():
    flashes, beeps = made(0.0, 6)
    for seen_, heard, said in (
        ([], beeps, "No flashes were found in the picture."),
        (flashes[:1], beeps, "Only one flash was found."),
        (flashes, [], "No beeps were found in the sound."),
        (flashes, beeps[:1], "Only one beep was found."),
        (flashes, [Beep(b.time_s + 60, 1.0) for b in beeps], "more than five seconds apart"),
    ):
        with pytest.raises(MeasureError, match=said):
            estimate_lead(seen_, heard)


def test_of_several_regions_the_surest_is_taken():
    flashes, beeps = made(0.1, 16)
    noise = [Flash(t, t - 0.04, 1.0, 1.0, 9.0) for t in (3.0, 5.5, 7.7)]
    found = best_estimate([noise, flashes[:4], flashes], beeps, MADE)
    assert (found.matched, found.confidence) == (16, "high")
    assert best_estimate([flashes[:9], flashes], beeps, MADE).matched == 16
    with pytest.raises(MeasureError, match="No flashes"):
        best_estimate([], beeps)
    with pytest.raises(MeasureError, match="Only one flash"):
        best_estimate([flashes[:1]], beeps)


# another number


def moved(beeps: list[Beep], by_s: float, at: int) -> list[Beep]:
    """The same, with the sound later by so much from one event on."""
    return [Beep(b.time_s + (by_s if n >= at else 0.0), 1.0) for n, b in enumerate(beeps)]


@pytest.mark.parametrize("by_s", [-0.021, 0.008, 0.019])
@pytest.mark.parametrize("many", [6, 20])
def test_a_jump_in_a_made_clip_is_told_with_its_place_and_both_leads(by_s, many):
    flashes, beeps = made(0.04, many)
    at = many // 2 - (many == 20)
    found = estimate_lead(flashes, moved(beeps, by_s, at), MADE)
    place, after = (flashes[at - 1].time_s + flashes[at].time_s) / 2, 40 - 1000 * by_s
    assert found.remarks[0].startswith(f"The lead jumps at {place:.1f} s, from 40 to {after:.0f} ms:")
    assert found.confidence == "low" and held(found, 0.04) and held(found, 0.04 - by_s)
    assert found.plus_minus_ms < abs(1000 * by_s) + 36


def test_a_jump_of_an_exposed_recording_is_told_from_what_is_lit_in_part():
    flashes, beeps = filmed(0.04, 40, exposure=0.8)
    found = estimate_lead(flashes, moved(beeps, -0.012, 17))
    [said] = [r for r in found.remarks if "jumps at" in r]
    place, before, after = (float(x) for x in re.findall(r"[\d.]+(?= s|.to| ms)", said))
    assert flashes[13].time_s < place < flashes[20].time_s
    assert before == pytest.approx(40, abs=2) and after == pytest.approx(52, abs=2)
    assert found.confidence == "low" and held(found, 0.04) and held(found, 0.052)


@pytest.mark.parametrize("at", [6, 9, 20])
@pytest.mark.parametrize("by_s", [0.036, -0.036])
def test_a_jump_of_hard_frames_near_an_end_is_told_too(at, by_s):
    """The fewer events are refused for their distance; that they stand together tells that they are no strays."""
    for seed in (1, 2):
        flashes, beeps = filmed(0.04, 30, exposure=0.0, seed=seed)
        found = estimate_lead(flashes, moved(beeps, by_s, at))
        [said] = [r for r in found.remarks if "jumps at" in r]
        place, before, after = (float(x) for x in re.findall(r"-?[\d.]+(?= s|.to| ms)", said))
        assert flashes[at - 3].time_s < place < flashes[at + 2].time_s
        assert before == pytest.approx(40, abs=6) and after == pytest.approx(40 - 1000 * by_s, abs=6)
        assert found.confidence == "low" and held(found, 0.04) and held(found, 0.04 - by_s)


def test_strays_are_no_jump():
    for seed in range(1, 9):
        flashes, beeps = filmed(0.04, 30, exposure=0.0, seed=seed)
        stray = np.random.default_rng(seed).choice(30, 3, replace=False)
        some = [Beep(b.time_s + (0.045 if n in stray else 0.0), 1.0) for n, b in enumerate(beeps)]
        assert not any("jumps" in r for r in estimate_lead(flashes, some).remarks)


def test_what_only_scatters_or_drifts_does_not_jump():
    for seed in range(12):
        for flashes, beeps in (
            made(0.1, 24, jitter_s=0.0005, seed=seed),
            made(0.1, 60, drift=200e-6, seed=seed),
        ):
            assert not any("jumps" in r for r in estimate_lead(flashes, beeps, MADE).remarks)
        filmed_ = filmed(0.1, 60, exposure=0.7, drift=150e-6, seed=seed)
        assert not any("jumps" in r for r in estimate_lead(*filmed_).remarks)


@pytest.mark.parametrize("later_s", [0.03, 0.055, 0.2, -0.12])
@pytest.mark.parametrize(("times", "told"), [(3, False), (5, False), (6, True), (20, True)])
def test_a_second_way_of_the_sound_is_told_where_enough_events_have_it(later_s, times, told):
    flashes, beeps = made(0.1, 20)
    both = sorted([*beeps, *(Beep(b.time_s + later_s, 1.0) for b in beeps[:times])], key=lambda b: b.time_s)
    found = estimate_lead(flashes, both, MADE)
    said = [r for r in found.remarks if "another lead" in r]
    if not told:
        assert not said and held(found, 0.1)
    else:
        one, other = 100, 100 - 1000 * later_s
        if abs(found.lead_ms - other) < 1:  # where all have both, either may be called the other one
            one, other = other, one
        assert len(said) == 1 and said[0].startswith(f"{times} events tell another lead: ")
        assert found.confidence == "low"
        if abs(found.lead_ms - one) < 1:  # not where both lie in one group
            assert f" lead: {other:+.0f} ms. Is the sound heard twice, or was something cut?" in said[0]
        else:
            assert times == 20 and later_s == 0.03


def test_a_second_way_is_told_from_filmed_frames_too_by_its_own_number():
    flashes, beeps = filmed(0.1, 40, exposure=0.0)
    both = sorted([*beeps, *(Beep(b.time_s + 0.155, 1.0) for b in beeps[::2])], key=lambda b: b.time_s)
    [said] = [r for r in estimate_lead(flashes, both).remarks if "another lead" in r]
    many, other = re.findall(r"\d+(?= events)|[+-\N{MINUS SIGN}]\d+(?= ms)", said)
    assert many == "20" and abs(float(other.replace("\N{MINUS SIGN}", "-")) + 55) < 8


def test_several_stray_sounds_in_different_places_are_no_other_lead():
    """Three each, further apart than one lead spreads: not six of one."""
    flashes, beeps = filmed(0.1, 20, exposure=0.0)
    stray = [Beep(b.time_s + by, 1.0) for by, some in ((0.1, beeps[:3]), (0.2, beeps[5:8])) for b in some]
    found = estimate_lead(flashes, sorted([*beeps, *stray], key=lambda b: b.time_s))
    assert not any("another lead" in r for r in found.remarks) and found.refused == 6


def test_two_stray_sounds_of_one_flash_count_once():
    flashes, beeps = made(0.1, 20)
    stray = [Beep(b.time_s + by, 1.0) for by in (0.1, 0.104) for b in beeps[:5]]
    found = estimate_lead(flashes, sorted([*beeps, *stray], key=lambda b: b.time_s), MADE)
    assert not any("another lead" in r for r in found.remarks)


@pytest.mark.parametrize("ppm", [300.0, -450.0])
def test_a_drift_that_leaves_the_group_behind_is_followed_in_steps(ppm):
    found = estimate_lead(*made(0.4, 600, drift=ppm * 1e-6), MADE)
    assert found.matched == 600 and found.drift_ppm == pytest.approx(ppm, abs=0.5)
    assert found.lead_ms == pytest.approx(400.0, abs=0.05) and found.kind == "locked"


def test_a_made_clip_that_does_not_fit_is_never_called_sure():
    for seed in range(8):
        flashes, beeps = made(0.1, 24, seed=seed)
        loose = np.random.default_rng(seed).choice([0.0, 0.011], 24)
        found = estimate_lead(
            flashes, [Beep(b.time_s + x, 1.0) for b, x in zip(beeps, loose.tolist(), strict=True)], MADE
        )
        assert found.kind != "locked" and found.confidence != "high"


@pytest.mark.parametrize(("jitter_s", "said"), [(0.0006, True), (0.0014, False)])
def test_one_clock_is_said_where_flashes_begin_at_one_place_of_their_frame(jitter_s, said):
    told = [
        any("one clock" in r for r in estimate_lead(*made(0.1, 60, jitter_s=jitter_s, seed=seed)).remarks)
        for seed in range(10)
    ]
    assert told == [said] * 10


def test_the_remark_about_one_clock_says_what_the_lead_is_if_the_file_was_made():
    [remark] = [r for r in estimate_lead(*made(0.1, 60, jitter_s=0.0001, seed=1)).remarks if "one clock" in r]
    told = re.search(r"then it is (-?[0-9.]+) ms", remark)
    assert told is not None and float(told[1]) == pytest.approx(100.0, abs=0.2)


@pytest.mark.parametrize(("noise_s", "sure"), [(0.0011, True), (0.0021, False)])
def test_an_exposed_recording_whose_events_scatter_is_not_called_sure(noise_s, sure):
    """High asks for a scatter under 1.5 ms."""
    for seed in range(1, 9):
        flashes, beeps = filmed(0.1, 120, 1 / 24, 0.9, seed=seed)
        noise = noise_s * np.random.default_rng(seed).normal(size=120)
        found = estimate_lead(flashes, [Beep(b.time_s + n, 1.0) for b, n in zip(beeps, noise.tolist(), strict=True)])
        if found.kind == "exposed":
            assert (found.confidence == "high") == sure, (seed, found.jitter_ms, found.plus_minus_ms)


# marks by hand


def marks(lead_s: float, many: int, frame_s: float = 0.04) -> list[Mark]:
    flashes, beeps = filmed(lead_s, many, frame_s, exposure=0.0)
    return [Mark(f.time_s, f.before_s, b.time_s) for f, b in zip(flashes, beeps, strict=True)]


def test_one_mark_is_half_a_frame_unsure_and_low():
    [mark] = marks(0.2, 1)
    found = lead_from_marks([mark])
    assert found.lead_ms == pytest.approx(500 * (mark.picture_s + mark.before_s) - 1000 * mark.sound_s) == mark.lead_ms
    assert found.plus_minus_ms == pytest.approx(20 + 1) and found.confidence == "low" and held(found, 0.2)
    assert "One mark tells" in found.remarks[0] and found.jitter_ms == 0.0


def test_several_marks_narrow_it_to_what_they_have_in_common():
    some = marks(0.2, 7)
    found = lead_from_marks(list(reversed(some)))
    low = max(m.before_s - m.sound_s for m in some) - 0.001
    high = min(m.picture_s - m.sound_s for m in some) + 0.001
    assert found.lead_ms == pytest.approx(500 * (low + high)) and found.plus_minus_ms == pytest.approx(
        500 * (high - low)
    )
    assert found.confidence == "medium" and found.matched == 7 and found.remarks == () and held(found, 0.2)
    assert found.jitter_ms == pytest.approx(1000 * float(np.std([m.picture_s - m.sound_s for m in some])))
    assert [e.time_s for e in found.events] == sorted(m.picture_s for m in some)
    assert all(e.tells for e in found.events)


def test_marks_that_contradict_each_other_are_said_and_cost_certainty():
    some = marks(0.2, 4)
    some[2] = Mark(some[2].picture_s, some[2].before_s, some[2].sound_s - 0.3)
    found = lead_from_marks(some)
    assert found.confidence == "low" and "contradict" in found.remarks[0]
    assert abs(found.lead_ms - 200) <= found.plus_minus_ms
    agreeing = lead_from_marks([m for i, m in enumerate(some) if i != 2])
    assert found.plus_minus_ms == pytest.approx(agreeing.plus_minus_ms + 0.25 * 40)
    assert found.refused == 0 and found.matched == 4
    wide = [*some[:3], Mark(some[3].picture_s, some[3].before_s - 0.2, some[3].sound_s)]  # one frame was held longer
    assert lead_from_marks(wide).plus_minus_ms < found.plus_minus_ms + 15
    with pytest.raises(MeasureError, match="Nothing is marked"):
        lead_from_marks([])


def test_the_stretch_that_lies_in_most_intervals_against_trying_every_beginning():
    """Row by row: whatever lies in the other rows."""
    chance = np.random.default_rng(11)
    low = np.round(chance.uniform(-0.1, 0.1, (60, 9)), 3)
    high = low + np.round(chance.uniform(0.0, 0.08, low.shape), 3)
    begins, ends, shares = intersect_intervals(low, high)
    for row, (lows, highs) in enumerate(zip(low, high, strict=True)):
        held = [(int(((lows <= at) & (highs > at)).sum()), at) for at in lows + 1e-6]  # 1 µs into it
        most = max(count for count, _ in held)
        longest = max(min(highs[highs > at]) - at for count, at in held if count == most)
        assert shares[row] == pytest.approx(most / 9)
        assert ends[row] - begins[row] == pytest.approx(longest, abs=2e-6)
        middle = (begins[row] + ends[row]) / 2
        assert ((lows <= middle) & (highs >= middle)).sum() == most
