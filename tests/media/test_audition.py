"""Auditions as files: stems read and refused, levels true, nothing half written."""

import numpy as np
import pytest
import soundfile

from kymaton.core.errors import FileError, RenderError, Stopped
from kymaton.core.model import Show, Stem
from kymaton.core.signal.cue_solution import CueSolution
from kymaton.media.audition import RATE_HZ, make_audition, read_stem, write_audition
from kymaton.store.stems import stand_ins
from tests.shows import one_talker, setting, voice

LEVEL = -23.0


def tone(seconds: float = 1.0, rate: int = RATE_HZ, f: float = 997.0) -> np.ndarray:
    """A sine whose RMS (AES17) is LEVEL."""
    return 10 ** (LEVEL / 20) * np.sin(2 * np.pi * f * np.arange(round(seconds * rate)) / rate)


def show_with(file: str, **settings: object) -> Show:
    base = setting(one_talker(), **settings)
    sounds = (base.sounds[0].evolve(stem=Stem(file=file, level_dbfs=LEVEL)), base.sounds[1])
    return base.evolve(sounds=sounds)


def rms_dbfs(samples: np.ndarray) -> float:
    return 20 * np.log10(np.sqrt(2 * np.mean(np.square(samples.astype(float)))))


@pytest.fixture
def stem(tmp_path):
    soundfile.write(tmp_path / "ann.wav", tone(), RATE_HZ, subtype="FLOAT")
    return tmp_path


def test_the_level_in_the_file_is_the_level_at_the_ear(stem):
    show = show_with("ann.wav")
    audition = make_audition(show, stem, None, "bob")
    view = CueSolution(show, None)
    expected = view.level(show.listener("bob"), show.sound("ann")) - 100.0
    middle = audition.samples[4800:43200, 0]
    assert audition.turned_down_db == 0 and rms_dbfs(middle) == pytest.approx(expected, abs=0.05)
    assert audition.without_stem == () and audition.seconds == pytest.approx(1.5, abs=0.01)


def test_what_would_clip_is_turned_down_and_said(stem):
    show = show_with("ann.wav", desk__ch1__gain=60.0, desk__ch1__send__aux2=10.0, desk__aux2__fader=10.0)
    audition = make_audition(show, stem, None, "bob")
    assert audition.turned_down_db > 3 and audition.peak_dbfs == pytest.approx(-1.0, abs=0.01)


def test_another_rate_is_resampled(tmp_path):
    soundfile.write(tmp_path / "ann.wav", tone(rate=44100), 44100, subtype="FLOAT")
    samples = read_stem(show_with("ann.wav").sounds[0], tmp_path, Stem(file="ann.wav"))[0]
    assert abs(len(samples) - RATE_HZ) <= 2 and rms_dbfs(samples[4800:-4800]) == pytest.approx(LEVEL, abs=0.05)


def test_a_mono_stem_stands_for_both_sides(tmp_path):
    soundfile.write(tmp_path / "a.flac", tone(), RATE_HZ)
    sound = voice("a", channels=2, stem=Stem(file="a.flac"))
    left, right = read_stem(sound, tmp_path, sound.stem)
    np.testing.assert_array_equal(left, right)


@pytest.mark.parametrize(
    ("content", "said"),
    [
        (None, "cannot be read"),
        (b"", "cannot be read"),
        (b"RIFF\0\0\0\0WAVE", "cannot be read"),
        (b"x" * 5000, "cannot be read"),
    ],
)
def test_stems_that_are_no_sound_are_refused(tmp_path, content, said):
    if content is not None:
        (tmp_path / "ann.wav").write_bytes(content)
    with pytest.raises(FileError, match=said) as caught:
        make_audition(show_with("ann.wav"), tmp_path, None, "bob")
    assert "ann.wav" in str(caught.value) and "\n" not in str(caught.value)


def test_stems_with_no_numbers_or_too_long_are_refused(tmp_path, monkeypatch):
    samples = tone(0.1)
    samples[5] = np.nan
    soundfile.write(tmp_path / "ann.wav", samples, RATE_HZ, subtype="FLOAT")
    with pytest.raises(FileError, match="not numbers"):
        make_audition(show_with("ann.wav"), tmp_path, None, "bob")
    monkeypatch.setattr("kymaton.media.audition.LONGEST_S", 0.05)
    with pytest.raises(FileError, match="longer than"):
        make_audition(show_with("ann.wav"), tmp_path, None, "bob")


@pytest.mark.parametrize("file", ["../ann.wav", "/etc/hostname", "a/../../ann.wav"])
def test_stems_outside_the_folder_are_refused(stem, file):
    inner = stem / "inner"
    inner.mkdir()
    with pytest.raises(FileError, match="outside the folder"):
        make_audition(show_with(file), inner, None, "bob")


def test_what_has_no_stem_is_named_or_refused(stem):
    both = setting(show_with("ann.wav"), desk__ch2__send__aux2=-6.0)
    assert make_audition(both, stem, None, "bob").without_stem == ("Bob",)
    with pytest.raises(RenderError, match="no recording for Bob"):
        make_audition(both, stem, None, "bob", only=("bob",))
    with pytest.raises(RenderError, match="hears nothing"):
        make_audition(setting(both, desk__aux2__mute=True), stem, None, "bob")


def test_a_recording_of_the_demo_stands_in_where_there_is_none(stem):
    show = show_with("ann.wav", desk__ch2__send__aux2=-6.0)
    lent = stand_ins(show)
    assert set(lent) == {"bob"} and (lent["bob"][0] / lent["bob"][1].file).is_file()
    alone = make_audition(show, stem, None, "bob")
    both = make_audition(show, stem, None, "bob", stand_ins=lent)
    assert alone.without_stem == ("Bob",) and both.without_stem == () and both.by_stand_in == ("Bob",)
    assert len(both.samples) > len(alone.samples)


def test_stand_ins_of_one_kind_take_turns():
    voices = tuple(voice(n, person=None) for n in "abc")
    show = Show(
        sounds=(*voices, voice("horn", person=None, kind="instrument"), voice("hall", person=None, kind="room"))
    )
    files = {id: stem.file for id, (_, stem) in stand_ins(show).items()}
    assert set(files) == {"a", "b", "c", "horn"} and len(set(files.values())) == 4


def test_stop_is_heeded(stem):
    with pytest.raises(Stopped):
        make_audition(show_with("ann.wav"), stem, None, "bob", progress=lambda part: False)


@pytest.mark.parametrize(("name", "subtype"), [("a.wav", "FLOAT"), ("a.flac", "PCM_24"), ("B.WAV", "FLOAT")])
def test_files_hold_what_was_rendered(stem, name, subtype):
    audition = make_audition(show_with("ann.wav"), stem, None, "bob")
    write_audition(audition, stem / name)
    samples, rate = soundfile.read(stem / name)
    assert rate == RATE_HZ and soundfile.info(stem / name).subtype == subtype
    np.testing.assert_allclose(samples, audition.samples, atol=2e-7)
    assert not list(stem.glob(".*part*"))


@pytest.mark.parametrize("name", ["a.mp3", "a", "no/such/a.wav"])
def test_files_that_cannot_be_written_leave_nothing(stem, name):
    audition = make_audition(show_with("ann.wav"), stem, None, "bob")
    before = set(stem.rglob("*"))
    with pytest.raises(FileError):
        write_audition(audition, stem / name)
    assert set(stem.rglob("*")) == before
