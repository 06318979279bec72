"""Files that hold other than what they say: one sentence each, in little time and space."""

from fractions import Fraction

import av
import numpy as np
import pytest
import soundfile

from kymaton.core.errors import FileError
from kymaton.media import sounds
from kymaton.media.align import align_files
from kymaton.media.clips import Clip, write_clip
from kymaton.media.extract import extract
from kymaton.media.film.batch import Order, run_job
from kymaton.media.film.embed import Embedding
from kymaton.media.film.placing import Track
from kymaton.media.frames import open_film
from kymaton.media.loudness import loudness_of
from kymaton.media.measure import measure

RATE = 48_000


@pytest.fixture(scope="module")
def healthy(tmp_path_factory):
    folder = tmp_path_factory.mktemp("healthy")
    for suffix in (".mp4", ".mkv"):
        write_clip(Clip(Fraction(25), 4.0, 160, 90), folder / f"clip{suffix}")
    return folder


def embedded(picture, sound):
    return run_job(Order(Embedding(picture, (Track(sound, 10.0),), picture.with_name("out.mkv"))))


def swapped(healthy, tmp_path, suffix, name, other):
    """A clip with the name of a codec changed to one that nobody knows."""
    path = tmp_path / f"strange{suffix}"
    path.write_bytes((healthy / f"clip{suffix}").read_bytes().replace(name, other))
    return path


@pytest.mark.parametrize(
    ("suffix", "name", "other"),
    [(".mp4", b"avc1", b"zzzz"), (".mkv", b"V_MPEG4/ISO/AVC", b"V_ZZZZZ/ISO/AVC")],
)
def test_a_picture_of_an_unknown_kind_is_refused_and_its_sound_is_still_heard(healthy, tmp_path, suffix, name, other):
    strange = swapped(healthy, tmp_path, suffix, name, other)
    for work in (measure, open_film, lambda p: embedded(p, healthy / "clip.mp4")):
        with pytest.raises(FileError, match=r"^strange\.\w+: its picture is of a kind that is not known here\.$"):
            work(strange)
    assert loudness_of(strange).integrated_lufs == pytest.approx(
        loudness_of(healthy / "clip.mp4").integrated_lufs, abs=1
    )
    assert [p.name for p in tmp_path.iterdir()] == [strange.name]


def test_a_sound_of_an_unknown_kind_is_refused_and_its_picture_still_gets_another(healthy, tmp_path):
    strange = swapped(healthy, tmp_path, ".mkv", b"A_FLAC", b"A_ZZZZ")
    for work in (
        measure, open_film, loudness_of, lambda p: align_files(healthy / "clip.mp4", p),
        lambda p: extract(Track(p), tmp_path / "out.wav"), lambda p: embedded(healthy / "clip.mkv", p),
    ):  # fmt: skip
        with pytest.raises(FileError, match=r"^strange\.mkv: its sound is of a kind that is not known here\.$"):
            work(strange)
    made = run_job(
        Order(Embedding(strange, (Track(healthy / "clip.mp4", 10.0),), tmp_path / "o.mkv", keep_original=True))
    ).made
    assert made is not None and made.left_out == ("audio of an unknown kind",)


@pytest.mark.parametrize("suffix", [".wav", ".flac"])
def test_a_sound_without_samples_is_none(healthy, tmp_path, suffix):
    empty = tmp_path / f"empty{suffix}"
    soundfile.write(str(empty), np.zeros((0, 2), np.float32), RATE)
    for work in (
        loudness_of, lambda p: align_files(healthy / "clip.mp4", p), lambda p: extract(Track(p), tmp_path / "out.wav"),
        lambda p: embedded(healthy / "clip.mkv", p),
    ):  # fmt: skip
        with pytest.raises(FileError, match=rf"^empty\{suffix}: there is no sound in it\.$"):
            work(empty)
    assert [p.name for p in tmp_path.iterdir()] == [empty.name]


def test_streams_that_are_told_and_never_come_are_none(tmp_path):
    path = tmp_path / "promised.ts"
    with av.open(str(path), "w", format="mpegts") as out:
        video = out.add_stream("mpeg2video", rate=25)
        video.width, video.height, video.pix_fmt = 64, 48, "yuv420p"
        out.add_stream("mp2", rate=RATE)
        for number in range(20):
            frame = av.VideoFrame(64, 48, "yuv420p")
            frame.pts = number
            out.mux(video.encode(frame))
        out.mux(video.encode(None))
    for work in (measure, loudness_of, lambda p: extract(Track(p), tmp_path / "out.wav")):
        with pytest.raises(FileError, match=r"^promised\.ts: there is no sound in it\.$"):
            work(path)


@pytest.mark.parametrize("suffix", [".wav", ".mkv"])
@pytest.mark.parametrize("value", [np.nan, np.inf, -np.inf])
def test_samples_that_are_no_numbers_are_told(healthy, tmp_path, suffix, value):
    wrong = tmp_path / f"wrong{suffix}"
    samples = 0.1 * np.sin(np.arange(3 * RATE, dtype=np.float32))
    samples[100_000] = value
    if suffix == ".wav":
        soundfile.write(str(wrong), samples, RATE, "FLOAT")
    else:
        with av.open(str(wrong), "w") as out:
            stream = out.add_stream("pcm_f32le", rate=RATE)
            stream.layout = "mono"
            frame = av.AudioFrame.from_ndarray(samples[None], format="flt", layout="mono")
            frame.sample_rate, frame.pts = RATE, 0
            out.mux(stream.encode(frame))
    for work in (
        loudness_of, lambda p: align_files(p, p), lambda p: extract(Track(p), tmp_path / "out.wav"),
    ):  # fmt: skip
        with pytest.raises(FileError, match=rf"^wrong\{suffix}: it holds samples that are no numbers\.$"):
            work(wrong)
    assert [p.name for p in tmp_path.iterdir()] == [wrong.name]


def test_very_loud_samples_are_numbers():
    loud = np.full(1000, 3e38, np.float32)  # their sum is none
    assert sounds.finite(loud, None) is loud


def with_holes(path, holes_s):
    """A third of a second of noise before and after each hole."""
    with av.open(str(path), "w") as out:
        stream = out.add_stream("flac", rate=RATE)
        stream.layout = "mono"
        at = 0
        for hole_s in (*holes_s, 0):
            noise = np.random.default_rng(1).integers(-3000, 3000, (1, 16_000)).astype(np.int16)
            for begin in range(0, 16_000, 4000):
                frame = av.AudioFrame.from_ndarray(noise[:, begin : begin + 4000], format="s16", layout="mono")
                frame.sample_rate, frame.pts, frame.time_base = RATE, at + begin, Fraction(1, RATE)
                out.mux(stream.encode(frame))
            at += 16_000 + hole_s * RATE
        out.mux(stream.encode(None))
    return path


def test_holes_are_filled_in_pieces_up_to_a_limit(tmp_path, monkeypatch):
    monkeypatch.setattr(sounds, "MOST_MISSING_S", 20)
    short = sounds.SoundFile(with_holes(tmp_path / "short.mkv", (5, 6, 7)))
    blocks = list(short.blocks())
    assert sum(len(b) for b in blocks) == pytest.approx(RATE * (18 + 4 / 3), abs=5000)
    assert max(len(b) for b in blocks) <= sounds.BLOCK
    assert np.count_nonzero(np.concatenate(blocks)) > 60_000
    long = with_holes(tmp_path / "long.mkv", (15, 15))
    for work in (loudness_of, lambda p: list(sounds.SoundFile(p).blocks())):
        with pytest.raises(FileError, match=r"^long\.mkv: more than an hour of its sound is missing in between\.$"):
            work(long)


def test_a_stretch_that_ends_in_a_hole_is_not_filled_to_its_end(tmp_path):
    path = sounds.SoundFile(with_holes(tmp_path / "holes.mkv", (3000,)))
    part = path.stretch(0.0, 2.0, RATE)
    assert len(part) == 2 * RATE and part[:16_000].any() and not part[24_000:].any()


def test_a_sound_of_days_is_refused(tmp_path, monkeypatch):
    monkeypatch.setattr(sounds, "LONGEST_S", 2)
    with pytest.raises(FileError, match=r"^long\.mkv: its sound is longer than a day\.$"):
        list(sounds.SoundFile(with_holes(tmp_path / "long.mkv", (1, 1))).blocks())
