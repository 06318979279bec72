"""A film looked at frame by frame: times of frames and sound, places in long films, what cannot be looked at."""

from fractions import Fraction

import numpy as np
import pytest
import soundfile

from kymaton.core.errors import FileError, MeasureError, Stopped
from kymaton.core.measuring.beeps import next_onset
from kymaton.core.measuring.clip_pattern import event_frames
from kymaton.core.measuring.lead_estimate import Mark, lead_from_marks
from kymaton.media.clips import Clip, Coding, clip_frames, write_clip, write_film
from kymaton.media.frames import PEAKS_PER_S, Film

RATE = Fraction(25)


@pytest.fixture(scope="module")
def clip(tmp_path_factory):
    path = tmp_path_factory.mktemp("frames") / "clip.mp4"
    write_clip(Clip(RATE, 12.0, 320, 180, 40.0), path)
    return path


def bright(still) -> float:
    return float(np.frombuffer(still.rgb, np.uint8).mean())


def test_a_look_shows_the_flash_on_its_frame_and_the_beep_in_its_place(clip):
    film = Film(clip)
    assert len(film.times_s) == 300 and film.length_s == pytest.approx(12.0, abs=0.05)
    event_s = float(event_frames(RATE, 12.0)[6] / RATE)
    look = film.look(event_s)
    times = [s.time_s for s in look.stills]
    assert times == [t for t in film.times_s if times[0] <= t <= times[-1]] and times[0] < event_s - 1.0
    first = times.index(event_s)
    assert bright(look.stills[first - 1]) < 40 and bright(look.stills[first]) > 180
    at = round((event_s - 0.040 - look.sound_s) * look.rate_hz)  # the beep is 40 ms early
    assert np.abs(look.sound[at - 200 : at - 20]).max() < 0.02 and np.abs(look.sound[at : at + 480]).max() > 0.2
    assert len(film.look(0.0).stills) > 20 and film.look(99.0).stills[-1].time_s == film.times_s[-1]


def test_the_overview_leads_from_beep_to_beep(clip):
    peaks = Film(clip).overview()
    assert len(peaks) == pytest.approx(12.0 * PEAKS_PER_S, abs=3)
    found, at_s = [], 0.0
    while (onset := next_onset(peaks, PEAKS_PER_S, at_s)) is not None:
        found.append(onset)
        at_s = onset + 0.15
    events = [float(n / RATE) - 0.040 for n in event_frames(RATE, 12.0)]
    assert found == pytest.approx(events, abs=0.011)
    assert next_onset(np.zeros(50, np.float32), PEAKS_PER_S, 0.0) is None


@pytest.mark.parametrize("seed", range(4))
def test_the_next_onset_is_the_first_that_a_slow_search_finds(seed):
    chance = np.random.default_rng(seed)
    peaks = (0.02 * chance.random(400)).astype(np.float32)
    peaks[chance.integers(0, 400, 12)] += chance.random(12).astype(np.float32)
    floor = 0.02 * peaks.max()
    rises = [n for n in range(1, 400) if peaks[n] > max(floor, 4 * peaks[max(0, n - 30) : n].max())]
    for after in (0.0, 0.5, 1.234, 3.0, 3.99, 9.0):
        later = [n / 100 for n in rises if n > int(after * 100)]
        assert next_onset(peaks, 100, after) == (later[0] if later else None)
    assert len(rises) > 3 and next_onset(np.zeros(0, np.float32), 100, 0.0) is None


def test_frames_that_lie_unevenly_keep_their_times(tmp_path):
    times = [Fraction(n, 25) + (Fraction(1, 50) if n % 3 == 0 else 0) for n in range(50)]
    path = tmp_path / "uneven.mkv"
    write_film(path, clip_frames(Clip(RATE, 4.0, 64, 64)), np.zeros(2 * 48_000, np.float32), Coding(RATE),
               times=[*times, *(Fraction(n, 25) for n in range(51, 101))])  # fmt: skip
    film = Film(path)
    assert film.times_s[:6] == pytest.approx([float(t) for t in times[:6]], abs=0.001)
    assert film.index(0.05) == 1 and film.index(0.0) == 0


def test_what_cannot_be_looked_at_is_said(tmp_path, clip):
    soundfile.write(tmp_path / "s.wav", np.zeros(48_000), 48_000)
    (tmp_path / "t.mp4").write_text("no film")
    for name, said in (("s.wav", "no picture"), ("t.mp4", "cannot be read"), ("gone.mp4", "no such file")):
        with pytest.raises(FileError, match=said):
            Film(tmp_path / name)
    with pytest.raises(Stopped):
        Film(clip, lambda part: False)
    with pytest.raises(Stopped):
        Film(clip).overview(lambda part: False)


def test_marks_narrow_the_lead_to_what_all_intervals_have_in_common():
    chance, frame = np.random.default_rng(3), 0.04
    truth = 0.0613  # picture late
    marks = []
    for heard in np.cumsum(chance.uniform(1, 2, 8)):
        seen = np.ceil((heard + truth) / frame) * frame
        marks.append(Mark(float(seen), float(seen - frame), float(heard)))
    one, all_of_them = lead_from_marks(marks[:1]), lead_from_marks(marks)
    assert one.confidence == "low" and one.plus_minus_ms == pytest.approx(21.0)
    assert abs(one.lead_ms - 61.3) <= one.plus_minus_ms
    assert all_of_them.confidence == "medium" and all_of_them.plus_minus_ms < 0.6 * one.plus_minus_ms
    assert abs(all_of_them.lead_ms - 61.3) <= all_of_them.plus_minus_ms
    wrong = lead_from_marks([*marks, Mark(30.0, 29.96, 29.5)])
    assert wrong.confidence == "low" and any("contradict" in r for r in wrong.remarks)
    with pytest.raises(MeasureError):
        lead_from_marks([])
