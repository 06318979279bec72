"""Measuring sound against picture, on clips of known truth and on clips that cannot be measured."""

import random
from fractions import Fraction

import numpy as np
import pytest
from msgspec.structs import replace

from kymaton.core.errors import FileError, Stopped
from kymaton.media.clips import Clip, Coding, write_clip
from kymaton.media.measure import measure
from kymaton.sim.camera import Camera, record

NTSC = Fraction(30000, 1001)
SMALL = Camera(width=160, height=90, rate=Fraction(30), seconds=14.0, picture_ms=123.4, sound_ms=20.0)


def filmed(camera: Camera, tmp_path, suffix=".mp4", codec="libx264", sound_codec=""):
    path = tmp_path / f"film{suffix}"
    record(camera, path, codec=codec, sound_codec=sound_codec)
    return measure(path)


def bound_ms(camera: Camera, events: int) -> float:
    """What a free flash may be wrong by: 3 ms, or 0.6 frame/√(events/4)."""
    return max(3.0, 0.6 * 1000 / float(camera.rate) / (events / 4) ** 0.5)


@pytest.mark.parametrize(
    ("rate", "suffix", "lead_ms"),
    [
        (Fraction(24), ".mp4", -400.0),
        (Fraction(24000, 1001), ".mkv", 37.3),
        (Fraction(25), ".mov", 0.0),
        (Fraction(25), ".mp4", 123.456),
        (NTSC, ".mkv", -15.7),
        (NTSC, ".mp4", 400.0),
        (Fraction(30), ".mkv", 250.0),
        (Fraction(50), ".mov", -60.25),
        (Fraction(60000, 1001), ".mp4", 9.99),
        (Fraction(60), ".mkv", 0.4),
    ],
)
def test_a_clip_that_was_made_is_locked_to_its_frames(tmp_path, rate, suffix, lead_ms):
    path = tmp_path / f"clip{suffix}"
    write_clip(Clip(rate, 9.0, 160, 90, lead_ms), path)
    found = measure(path)
    assert (found.kind, found.confidence) == ("locked", "high")
    assert abs(found.lead_ms - lead_ms) <= 1.0 and found.drift_ppm == 0.0


@pytest.mark.parametrize("rate", [Fraction(24), NTSC, Fraction(60)])
def test_flashes_that_fall_anywhere_between_frames(tmp_path, rate):
    camera = replace(SMALL, rate=rate, picture_ms=183.3)
    found = filmed(camera, tmp_path)
    assert (found.kind, found.confidence) == ("hard", "high")
    assert abs(found.lead_ms - camera.lead_ms) <= bound_ms(camera, found.matched)


@pytest.mark.parametrize(("rate", "exposure"), [(24, 1.0), (25, 0.5), (60, 0.9)])
def test_an_exposure_tells_the_instant_inside_the_frame(tmp_path, rate, exposure):
    camera = replace(SMALL, rate=Fraction(rate), exposure=exposure, picture_ms=-31.7)
    found = filmed(camera, tmp_path)
    assert (found.kind, found.confidence) == ("exposed", "high")
    assert abs(found.lead_ms - camera.lead_ms) <= 1.5


@pytest.mark.parametrize("ppm", [200.0, -200.0])
def test_drift_is_told(tmp_path, ppm):
    camera = replace(SMALL, seconds=40.0, sound_ppm=ppm, exposure=0.8)
    found = filmed(camera, tmp_path)
    assert abs(found.drift_ppm - ppm) < 20.0 and abs(found.lead_ms - camera.lead_ms) <= 1.5
    if ppm < 0:
        return
    hard = filmed(replace(camera, exposure=0.0), tmp_path)
    assert abs(hard.drift_ppm - ppm) <= max(150.0, hard.drift_plus_minus_ppm)
    assert abs(hard.lead_ms - camera.lead_ms) <= bound_ms(camera, hard.matched)


@pytest.mark.parametrize(
    ("suffix", "codec", "sound_codec"),
    [
        (".mkv", "mjpeg", "flac"),
        (".mkv", "mpeg4", "libopus"),
        (".mp4", "libx265", "aac"),
        (".mov", "libx264", "pcm_s16le"),
        (".mkv", "libvpx-vp9", "libopus"),
        (".mp4", "mpeg4", "libmp3lame"),
        (".mkv", "ffv1", "pcm_s16le"),
    ],
)
def test_codecs_and_containers_keep_their_times(tmp_path, suffix, codec, sound_codec):
    camera = replace(SMALL, seconds=10.0, exposure=0.8)
    found = filmed(camera, tmp_path, suffix, codec, sound_codec)
    assert abs(found.lead_ms - camera.lead_ms) <= 1.5


def test_start_times_that_differ_are_respected(tmp_path):
    """The same streams, the picture moved by a quarter of a second in its time stamps."""
    import av

    source, moved = tmp_path / "clip.mkv", tmp_path / "moved.mkv"
    write_clip(Clip(Fraction(25), 9.0, 160, 90, 10.0), source)
    with av.open(str(source)) as a, av.open(str(moved), "w") as b:
        streams = {s.index: b.add_stream_from_template(s) for s in a.streams}
        for packet in a.demux():
            if packet.dts is None:
                continue
            shift = 0.75 if packet.stream.type == "video" else 0.5
            packet.pts += round(shift / packet.time_base)
            packet.dts += round(shift / packet.time_base)
            packet.stream = streams[packet.stream.index]
            b.mux(packet)
    assert abs(measure(moved, made=True).lead_ms - 260.0) <= 1.0
    unsaid = measure(moved)  # the copy does not say any more that it is a clip
    assert unsaid.kind == "hard" and unsaid.confidence == "medium" and abs(unsaid.lead_ms - 260) <= unsaid.plus_minus_ms
    assert any("then it is 260.0 ms" in remark for remark in unsaid.remarks)


def test_claps_and_clicks_are_found_without_a_pattern(tmp_path):
    from kymaton.core.measuring.clip_pattern import event_frames
    from kymaton.media.clips import clip_frames, write_film

    clip = Clip(Fraction(25), 12.0, 160, 90)
    sound = np.random.default_rng(3).normal(0, 0.002, 12 * 48_000).astype(np.float32)
    for frame in event_frames(clip.rate, clip.seconds):
        at = round((frame / 25 - 0.05) * 48_000)
        sound[at : at + 400] += np.random.default_rng(frame).normal(0, 0.4, 400) * np.exp(-np.arange(400) / 90)
    path = tmp_path / "claps.mov"
    write_film(path, clip_frames(clip), sound, Coding(clip.rate, "libx264", "pcm_s16le"))
    found = measure(path, claps=True, made=True)
    assert abs(found.lead_ms - 50.0) <= 1.0
    filmed_so = measure(path, claps=True)
    assert abs(filmed_so.lead_ms - 50.0) <= filmed_so.plus_minus_ms


def test_no_wrong_figure_is_called_sure(tmp_path):
    """Too few events, events of one alone, a pattern that repeats: never high."""
    few = replace(SMALL, seconds=4.2, exposure=0.5)
    assert filmed(few, tmp_path).confidence != "high"
    half = replace(SMALL, exposure=0.5, hidden=frozenset(range(0, 24, 2)), silent=frozenset(range(1, 24, 2)))
    try:
        found = filmed(half, tmp_path)
    except FileError:
        return
    assert found.confidence != "high" or abs(found.lead_ms - half.lead_ms) <= 1.5


@pytest.mark.parametrize("seed", range(6))
def test_recordings_that_were_cut_or_damaged(tmp_path, seed):
    chance = random.Random(seed)
    path = tmp_path / "film.mkv"
    camera = replace(SMALL, seconds=8.0, exposure=0.6, seed=seed)
    record(camera, path)
    data = bytearray(path.read_bytes())
    if seed % 2:
        del data[chance.randrange(2_000, len(data)) :]
    for _ in range(40 if seed > 1 else 0):
        data[chance.randrange(len(data))] = chance.randrange(256)
    path.write_bytes(bytes(data))
    try:
        found = measure(path)
    except FileError as error:
        assert "\n" not in str(error) and str(error).startswith("film.mkv: ")
        return
    assert found.confidence != "high" or abs(found.lead_ms - camera.lead_ms) <= 1.5


@pytest.mark.parametrize(
    ("hidden", "silent", "said"),
    [(range(40), (), "no flashes were found"), ((), range(40), "no beeps were found"), (range(1, 40), (), "flash")],
)
def test_what_cannot_be_measured_is_said(tmp_path, hidden, silent, said):
    camera = replace(
        SMALL, seconds=6.0, hidden=frozenset(hidden), silent=frozenset(silent), sound_noise=0.05, noise=2.0
    )
    with pytest.raises(FileError, match=said):
        filmed(camera, tmp_path)


def test_files_that_are_no_recordings(tmp_path):
    import soundfile

    (tmp_path / "text.mp4").write_text("no film")
    (tmp_path / "empty.mp4").write_bytes(b"")
    soundfile.write(tmp_path / "sound.wav", np.zeros(48_000), 48_000)
    for name, said in (("text.mp4", "cannot be read"), ("empty.mp4", "cannot be read"), ("none.mp4", "no such file"),
                       ("sound.wav", "no picture")):  # fmt: skip
        with pytest.raises(FileError, match=said):
            measure(tmp_path / name)


def test_a_clip_itself_is_told_from_a_recording_of_it(tmp_path):
    write_clip(Clip(Fraction(25), 6.0, 64, 64, 40.0), tmp_path / "clip.mkv")
    found = measure(tmp_path / "clip.mkv")
    assert found.kind == "locked" and found.lead_ms == pytest.approx(40.0, abs=0.2)
    assert found.remarks[0] == "This is a sync clip itself, not a recording of it: no device is in this figure."
    record(Camera(width=64, height=64, rate=Fraction(30), seconds=8.0, exposure=0.5), tmp_path / "film.mkv")
    assert not any("itself" in remark for remark in measure(tmp_path / "film.mkv").remarks)


def test_a_clip_is_whole_or_not_there(tmp_path):
    path = tmp_path / "clip.mp4"
    with pytest.raises(Stopped):
        write_clip(Clip(seconds=10.0, width=160, height=90), path, progress=lambda part: part < 0.3)
    assert list(tmp_path.iterdir()) == []
    for clip, name in ((Clip(seconds=1.0), "a.mp4"), (Clip(rate=Fraction(1)), "a.mp4"), (Clip(), "a.avi")):
        with pytest.raises(FileError):
            write_clip(clip, tmp_path / name)
    with pytest.raises(FileError, match="cannot be written"):
        write_clip(Clip(seconds=4.0, width=160, height=90), tmp_path / "nowhere" / "clip.mp4")
