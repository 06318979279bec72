"""Loudness against the signals of EBU Tech 3341 and 3342, sound taken out of films, lists of films."""

import csv
import json
import math

import av
import numpy as np
import pytest
import soundfile
from msgspec.structs import replace

from kymaton.cli.main import main
from kymaton.core.errors import FileError, Stopped
from kymaton.media.align import align_files
from kymaton.media.extract import extract
from kymaton.media.film.batch import COLUMNS, Order, describe, fulfil_all, read_orders, run_job
from kymaton.media.film.embed import Embedding, embed
from kymaton.media.film.placing import PlacedSound, Track
from kymaton.media.loudness import loudness_of, to_goal
from kymaton.media.sounds import SoundFile
from tests.media.film.test_embed import SECONDS, film, recorder
from tests.media.test_align import RATE, talk


def tones(path, *parts: tuple[float, float], rate=RATE):
    """Stereo sine of 1 kHz in phase: (dBFS, seconds) one after the other."""
    pieces = [10 ** (level / 20) * np.sin(2 * np.pi * 1000 * np.arange(round(s * rate)) / rate) for level, s in parts]
    mono = np.concatenate(pieces)
    soundfile.write(path, np.stack([mono, mono], 1), rate, "PCM_24")
    return path


@pytest.mark.parametrize(
    ("parts", "integrated"),
    [  # EBU Tech 3341, table 1: cases 1 to 5
        (((-23.0, 20.0),), -23.0),
        (((-33.0, 20.0),), -33.0),
        (((-36.0, 10.0), (-23.0, 60.0), (-36.0, 10.0)), -23.0),
        (((-72.0, 10.0), (-36.0, 10.0), (-23.0, 60.0), (-36.0, 10.0), (-72.0, 10.0)), -23.0),
        (((-26.0, 20.0), (-20.0, 20.1), (-26.0, 20.0)), -23.0),
    ],
)
def test_integrated_loudness_of_the_ebu_signals(tmp_path, parts, integrated):
    found = loudness_of(tones(tmp_path / "t.wav", *parts))
    assert found.integrated_lufs == pytest.approx(integrated, abs=0.1)
    loudest = max(level for level, _ in parts)
    assert found.max_momentary_lufs == pytest.approx(loudest, abs=0.1)
    assert found.max_short_term_lufs == pytest.approx(loudest, abs=0.1)
    assert found.true_peak_dbtp == pytest.approx(loudest, abs=0.2)


def test_loudness_range_and_true_peak_between_samples(tmp_path):
    ranged = loudness_of(tones(tmp_path / "range.wav", (-20.0, 20.0), (-30.0, 20.0)))  # EBU Tech 3342, case 1
    assert ranged.range_lu == pytest.approx(10.0, abs=1.0)
    at = np.arange(RATE)  # a quarter of the rate, sampled beside its peaks: 3 dB between the samples
    wave = 0.5 * np.sin(2 * np.pi * at / 4 + np.pi / 4) * np.clip(at / 4800, 0, 1) * np.clip((RATE - at) / 4800, 0, 1)
    soundfile.write(tmp_path / "peak.wav", wave, RATE, "PCM_24")
    peak = loudness_of(tmp_path / "peak.wav")
    assert 20 * math.log10(np.abs(wave).max()) == pytest.approx(-9.03, abs=0.01)
    assert peak.true_peak_dbtp == pytest.approx(-6.02, abs=0.2)


def test_silence_has_no_loudness_and_no_gain(tmp_path, capsys):
    soundfile.write(tmp_path / "s.wav", np.zeros(RATE), RATE)
    assert loudness_of(tmp_path / "s.wav").integrated_lufs == -math.inf
    with pytest.raises(FileError, match="silent"):
        to_goal(Track(tmp_path / "s.wav"), -16.0, -1.0)
    assert main(["loudness", str(tmp_path / "s.wav"), "--json"]) == 0
    assert json.loads(capsys.readouterr().out)["integrated_lufs"] is None
    assert main(["loudness", str(tmp_path / "s.wav")]) == 0 and "silent" in capsys.readouterr().out
    assert main(["loudness", str(tmp_path / "none.wav")]) == 2


def test_a_film_is_brought_to_a_loudness_and_no_higher_than_its_true_peak_allows(tmp_path):
    sound = 0.2 * talk(SECONDS + 4)
    picture, path = film(tmp_path / "film.mkv", sound, sound_codec="flac"), recorder(tmp_path / "r.wav", sound)
    job = Embedding(picture, (Track(path),), tmp_path / "out.mkv")
    reached = run_job(Order(job, True, -30.0))
    after = loudness_of(tmp_path / "out.mkv")
    assert after.integrated_lufs == pytest.approx(-30.0, abs=0.2)
    assert reached.reached == after and "the film has −30.0 LUFS" in describe(reached)
    assert abs(align_files(picture, tmp_path / "out.mkv").offset_ms) < 0.1
    held = run_job(Order(job, True, 0.0, -2.0))
    peak = loudness_of(tmp_path / "out.mkv")
    assert peak.true_peak_dbtp == pytest.approx(-2.0, abs=0.06) and peak.integrated_lufs < -1.0
    assert f"{-peak.integrated_lufs:.1f} LU under the goal, because the true peak allows no more" in describe(held)
    assert "under the goal" not in describe(reached)


def test_a_codec_that_lifts_the_peak_is_allowed_for(tmp_path):
    """Short bursts of square waves: what AAC leaves out of them makes their peaks higher."""
    at = np.arange(round(SECONDS * RATE)) / RATE
    sound = 0.3 * talk(SECONDS)[: len(at)] + 0.1 * np.sign(np.sin(2 * np.pi * 437 * at)) * (
        np.sin(2 * np.pi * 0.7 * at) > 0
    )
    picture, path = film(tmp_path / "film.mp4", sound), recorder(tmp_path / "r.wav", sound, 0.0)
    job = Embedding(picture, (Track(path),), tmp_path / "out.mp4", "aac")
    louder = to_goal(Track(path), 0.0, -2.0)
    embed(replace(job, tracks=(louder,)), check=False)
    assert loudness_of(job.out).true_peak_dbtp > -1.9
    done = run_job(Order(job, False, 0.0, -2.0))
    peak_dbtp = loudness_of(job.out).true_peak_dbtp
    assert -2.9 < peak_dbtp <= -1.9 and done.gain_db < louder.gain_db
    assert "under the goal" in describe(done) and ("allows no more" in describe(done)) == (peak_dbtp > -2.1)
    job.out.write_bytes(b"what was there before")
    for least in (0.55, 0.8):  # in the first film and in the second
        with pytest.raises(Stopped):
            run_job(Order(job, False, 0.0, -2.0), lambda part, least=least: part < least)
    assert job.out.read_bytes() == b"what was there before"
    assert sorted(p.name for p in tmp_path.iterdir()) == ["film.mp4", "out.mp4", "r.wav"]


def test_a_codec_that_loses_loudness_is_made_up_for(tmp_path):
    """White noise: AAC leaves out the top of it, which counts for loudness."""
    sound = 0.05 * np.random.default_rng(2).standard_normal(round(SECONDS * RATE))
    picture, path = film(tmp_path / "film.mp4", sound), recorder(tmp_path / "r.wav", sound, 0.0)
    job = Embedding(picture, (Track(path),), tmp_path / "out.mp4", "aac")
    embed(replace(job, tracks=(to_goal(Track(path), -30.0, -1.0),)), check=False)
    assert loudness_of(job.out).integrated_lufs < -30.2
    assert run_job(Order(job, False, -30.0)).reached == loudness_of(job.out)
    assert loudness_of(job.out).integrated_lufs == pytest.approx(-30.0, abs=0.1)


def test_sound_is_taken_out_in_its_place(tmp_path, capsys):
    sound = talk(SECONDS)
    picture = film(tmp_path / "film.mkv", sound, sound_codec="flac")
    assert extract(Track(picture), tmp_path / "out.wav") == pytest.approx(SECONDS, abs=0.01)
    taken, rate = soundfile.read(tmp_path / "out.wav")
    assert rate == RATE and np.allclose(taken, sound[: len(taken)], atol=2e-4)
    assert main(["extract", str(picture), "-o", str(tmp_path / "late.flac"), "--offset-ms", "-250"]) == 0
    assert f"{SECONDS + 0.25:.1f} s" in capsys.readouterr().out
    assert align_files(tmp_path / "out.wav", tmp_path / "late.flac").offset_ms == pytest.approx(250.0, abs=0.05)
    before = sorted(p.name for p in tmp_path.iterdir())
    with pytest.raises(Stopped):
        extract(Track(picture), tmp_path / "stopped.wav", lambda part: part < 0.3)
    for out, said in ((tmp_path / "x.mp3", ".wav or .flac"), (tmp_path / "no" / "x.wav", "written")):
        with pytest.raises(FileError, match=said):
            extract(Track(picture), out)
    with pytest.raises(FileError, match="overwrite"):
        extract(Track(tmp_path / "out.wav"), tmp_path / "out.wav")
    assert sorted(p.name for p in tmp_path.iterdir()) == before


@pytest.mark.parametrize(("suffix", "codec"), [(".mkv", "flac"), (".mkv", "libopus"), (".mp4", "aac")])
def test_sound_after_a_damaged_packet_stays_in_its_place(tmp_path, suffix, codec):
    whole = film(tmp_path / f"whole{suffix}", talk(SECONDS), sound_codec=codec)
    with av.open(str(whole)) as container:
        stream = container.streams.audio[0]
        lost = [bytes(p) for p in container.demux(stream) if p.pts is not None and 3 <= p.pts * p.time_base < 3.2]
    data = whole.read_bytes()
    for packet in lost:
        assert data.count(packet) == 1
        data = data.replace(packet, b"\xff" * len(packet))
    broken = tmp_path / f"broken{suffix}"
    broken.write_bytes(data)
    after, before = slice(round(3.5 * RATE), None), slice(0, round(2.8 * RATE))
    one, other = (np.concatenate(list(SoundFile(path).blocks())) for path in (whole, broken))
    placed = np.concatenate(list(PlacedSound(Track(broken)).blocks(RATE)), axis=1)[0]
    for got in (other, placed):
        assert len(got) == len(one)
        assert apart(got[before], one[before]) < 1e-3 and apart(got[after], one[after]) < 0.2
    for begin_s in (1.0, 4.0):
        stretch = SoundFile(broken).stretch(begin_s, 4.0, RATE)[round(3 * RATE) :]
        first = round((begin_s + 3) * RATE)
        assert apart(stretch, one[first : first + RATE]) < 0.2


def apart(got, wanted) -> float:
    """How much of a sound another one has not (a codec that goes on after damage is not the same to the last bit)."""
    return float(np.linalg.norm(got - wanted) / np.linalg.norm(wanted))


def test_a_film_ends_with_the_shorter_and_its_beginning_can_be_made_alone(tmp_path):
    sound = talk(SECONDS + 4)
    picture = film(tmp_path / "film.mkv", sound, sound_codec="flac")
    path = tmp_path / "short.wav"
    soundfile.write(path, sound[: 6 * RATE], RATE)
    for job, seconds in (
        (Embedding(picture, (Track(path),), tmp_path / "a.mp4", shorter=True), 6.0),
        (Embedding(picture, (Track(path, 1000.0),), tmp_path / "b.mp4", shorter=True), 5.0),
        (Embedding(picture, (Track(path),), tmp_path / "c.mp4", most_s=3.0), 3.0),
        (Embedding(picture, (Track(path),), tmp_path / "d.mp4"), SECONDS),
    ):
        embed(job, check=False)
        with av.open(str(job.out)) as container:
            picture_s, sound_s = (
                float(s.duration * s.time_base) for s in (container.streams.video[0], container.streams.audio[0])
            )
        assert abs(picture_s - seconds) < 0.13 and abs(sound_s - seconds) < 0.05


def listed(path, *rows: dict[str, str]):
    with path.open("w", newline="") as file:
        writer = csv.DictWriter(file, list(rows[0]), delimiter=";")
        writer.writeheader()
        writer.writerows(rows)
    return path


def test_a_list_of_films_is_made_and_one_bad_row_keeps_none_back(tmp_path, capsys):
    sound = talk(SECONDS + 4)
    film(tmp_path / "film.mkv", sound, sound_codec="flac")
    recorder(tmp_path / "good.wav", sound, 0.5)
    recorder(tmp_path / "other.wav", talk(SECONDS, 77), 0.0)
    base = {"picture": "film.mkv", "language": "eng", "offset_ms": "", "codec": "aac"}
    path = listed(
        tmp_path / "films.csv",
        {**base, "sound": "good.wav", "out": "one.mp4"},
        {**base, "sound": "other.wav", "out": "two.mp4"},
        {**base, "sound": "good.wav", "out": "three.mp4", "offset_ms": "500,0"},
    )
    parts: list[float] = []
    done = list(fulfil_all(read_orders(path), lambda part: parts.append(part) or True))
    assert [d.made is not None for d in done] == [True, False, True] and "Give the offset" in done[1].trouble
    assert parts == sorted(parts) and parts[-1] <= 1.0
    for name in ("one.mp4", "three.mp4"):
        assert abs(align_files(tmp_path / "film.mkv", tmp_path / name).offset_ms) < 0.2
    lines = path.read_text().splitlines()
    path.write_text("\n".join([lines[0], *lines[2:]]))
    assert main(["embed", "--list", str(path)]) == 2
    told_lines = capsys.readouterr().out.splitlines()
    assert len(told_lines) == 2 and told_lines[0].startswith("two.mp4: other.wav")


@pytest.mark.parametrize(
    ("text", "said"),
    [
        ("picture,sound\na,b", "it needs picture, sound and out"),
        ("picture,sound,out,size\n", "'size' is not one of its columns"),
        ("picture,sound,out\n", "this one has 0"),
        ("picture,sound,out\n../a.mkv,b.wav,c.mkv", "line 2: '../a.mkv' lies outside"),
        ("picture,sound,out\na.mkv,/etc/passwd,c.mkv", "lies outside"),
        ("picture,sound,out,offset_ms\na.mkv,b.wav,c.mkv,late", "'late' is not a number for offset_ms"),
        ("picture,sound,out,offset_ms\na.mkv,b.wav,c.mkv,nan", "makes no sense"),
        ("picture,sound,out,codec\na.mkv,b.wav,c.mkv,mp9", "'mp9' is not one of the codecs"),
        ("picture,sound,out\na.mkv,b.wav,c.mkv\n\na.mkv,b2.wav,c.mkv", "two films would be written to c.mkv"),
        ("picture,sound,out\na.mkv,,c.mkv", "sound is empty"),
    ],
)
def test_a_list_that_makes_no_sense_is_refused_whole(tmp_path, text, said, capsys):
    (tmp_path / "l.csv").write_text(text)
    assert main(["embed", "--list", str(tmp_path / "l.csv")]) == 2
    error = capsys.readouterr().err
    assert said in error and error.count("\n") == 1


def test_embed_asks_for_what_it_needs(capsys):
    for words in (["embed"], ["embed", "a", "b"], ["embed", "a", "b", "-o", "c.mp4", "--loudness", "nan"]):
        assert main(words) == 2
        assert capsys.readouterr().err.count("\n") == 1


def test_the_help_names_every_column_of_a_list(capsys):
    with pytest.raises(SystemExit):
        main(["embed", "--help"])
    told_help = " ".join(capsys.readouterr().out.split())
    assert [c for c in COLUMNS if c not in told_help] == []
