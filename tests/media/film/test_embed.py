"""Sound put into a film: picture untouched, offset and drift corrected, nothing half-made left behind."""

import hashlib
import json
import os
import shutil
import signal
import subprocess
import sys
import threading
import time
from contextlib import contextmanager
from fractions import Fraction

import av
import numpy as np
import pytest
import soundfile

from kymaton.cli.main import main
from kymaton.core.errors import FileError, Stopped
from kymaton.media.align import align_files
from kymaton.media.clips import Clip, Coding, clip_frames, write_film
from kymaton.media.film import embed as embedding
from kymaton.media.film.embed import Embedding, embed, found_offset
from kymaton.media.film.packets import film_out
from kymaton.media.film.placing import Track
from tests.media.test_align import RATE, moved, talk

SECONDS = 9.0


@pytest.fixture(scope="module")
def sound() -> np.ndarray:
    return talk(SECONDS + 4)


def film(path, sound, codec="libx264", sound_codec="aac"):
    clip = Clip(Fraction(25), SECONDS, 160, 90)
    voice = sound[: round(SECONDS * RATE)].astype(np.float32)
    write_film(path, clip_frames(clip), voice, Coding(clip.rate, codec, sound_codec))
    return path


def recorder(path, sound, offset_s=0.5, ppm=0.0, rate=RATE, subtype="PCM_24"):
    late = moved(sound, offset_s, ppm)
    soundfile.write(path, np.stack([late, 0.7 * late], axis=1), rate, subtype=subtype)
    return path


def picture_hash(path) -> tuple[str, list[int]]:
    """Hash of all picture packets, and their times in 1/90000 s."""
    digest, times = hashlib.sha256(), []
    with av.open(str(path)) as container:
        for packet in container.demux(video=0):
            if packet.size:
                digest.update(bytes(packet))
                times.append(round(float(packet.pts * packet.time_base) * 90_000))
    return digest.hexdigest(), times


@pytest.mark.parametrize(
    ("source", "result", "codec"),
    [
        (".mp4", ".mp4", "keep"),
        (".mp4", ".mkv", "flac"),
        (".mov", ".mov", "pcm"),
        (".mkv", ".mkv", "opus"),
        (".mkv", ".mp4", "aac"),
        (".mp4", ".mov", "aac"),
        (".mkv", ".mp4", "opus"),
        (".mkv", ".mkv", "pcm"),
    ],
)
def test_picture_is_copied_and_sound_is_in_its_place(tmp_path, sound, source, result, codec):
    picture = film(
        tmp_path / f"film{source}", sound, sound_codec={".mp4": "aac", ".mov": "pcm_s16le"}.get(source, "flac")
    )
    track = found_offset(picture, Track(recorder(tmp_path / "recorder.wav", sound, 0.5)))
    assert abs(track.offset_ms - 500.0) < 0.1
    made = embed(Embedding(picture, (track,), tmp_path / f"out{result}", codec))
    before, after = picture_hash(picture), picture_hash(made.out)
    assert before[0] == after[0] and len(before[1]) == len(after[1])
    assert made.residual_ms is not None and abs(made.residual_ms) <= 1.0
    with av.open(str(made.out)) as container:
        assert container.streams.audio[0].channels == 2
        assert abs(float(container.duration) / av.time_base - SECONDS) < 0.2
    assert sorted(p.name for p in tmp_path.iterdir()) == sorted([picture.name, "recorder.wav", made.out.name])


@pytest.mark.parametrize(
    ("source", "codec", "sound_codec", "results"),
    [
        (".avi", "mpeg4", "pcm_s16le", (".mp4", ".mkv")),
        (".mov", "mjpeg", "pcm_s24le", (".mov", ".mkv")),
        (".mkv", "libx265", "libopus", (".mp4", ".mkv", ".mov")),
        (".mp4", "libx265", "aac", (".mkv", ".mp4")),
        (".webm", "libvpx-vp9", "libopus", (".webm", ".mp4")),
        (".mkv", "ffv1", "flac", (".mkv",)),
        (".mp4", "mpeg4", "libmp3lame", (".mkv", ".mov")),
        (".mkv", "libx264", "ac3", (".mp4",)),
    ],
)
def test_all_kinds_of_films_come_out_as_they_went_in(tmp_path, sound, source, codec, sound_codec, results):
    """Frames out of order, sounds that begin before 0, times in whole milliseconds; the own sound is kept or told."""
    picture = film(tmp_path / f"film{source}", sound, codec, sound_codec)
    track = Track(recorder(tmp_path / "recorder.wav", sound, 0.5), 500.0)
    for result in results:
        made = embed(Embedding(picture, (track,), tmp_path / f"out{result}", keep_original=True))
        assert picture_hash(picture) == picture_hash(made.out) and len(picture_hash(picture)[1]) == SECONDS * 25
        assert made.residual_ms is not None and abs(made.residual_ms) <= 0.6
        with av.open(str(made.out)) as container:
            assert len(container.streams.audio) == 2 - len(made.left_out)
        assert made.left_out == (("opus",) if (sound_codec, result) == ("libopus", ".mov") else ())
    if source == ".mkv" and codec == "libx265":
        with pytest.raises(FileError, match=r"a \.webm file does not take its picture \(hevc\)"):
            embed(Embedding(picture, (track,), tmp_path / "out.webm"))


def test_a_transport_stream_keeps_every_frame(tmp_path, sound):
    """Its packets are framed in another way in MP4: what is decoded is compared."""
    picture = film(tmp_path / "film.mp4", sound, "libx265")
    with av.open(str(picture)) as a, av.open(str(tmp_path / "film.ts"), "w", format="mpegts") as b:
        streams = {s.index: b.add_stream_from_template(s) for s in a.streams}
        for packet in a.demux():
            if packet.size:
                packet.stream = streams[packet.stream.index]
                b.mux(packet)
    source = tmp_path / "film.ts"
    made = embed(Embedding(source, (found_offset(source, Track(recorder(tmp_path / "r.wav", sound, 0.5))),),
                           tmp_path / "out.mp4"))  # fmt: skip

    def frames(path) -> list[int]:
        with av.open(str(path)) as container:
            return [hash(f.to_ndarray().tobytes()) for f in container.decode(video=0)]

    assert frames(made.out) == frames(picture) and len(frames(picture)) == SECONDS * 25
    assert made.residual_ms is not None and abs(made.residual_ms) <= 1.0


@pytest.mark.parametrize("offset_s", [-3.25, 2.0, 0.0])
def test_sound_that_is_too_short_is_padded_and_too_long_is_cut(tmp_path, sound, offset_s):
    picture = film(tmp_path / "film.mkv", sound, sound_codec="flac")
    path = recorder(tmp_path / "r.wav", sound, max(offset_s, 0.0))
    if offset_s < 0:
        data, _ = soundfile.read(path)
        soundfile.write(path, data[round(-offset_s * RATE) : round(7 * RATE)], RATE)
    made = embed(Embedding(picture, (Track(path, 1000 * offset_s),), tmp_path / "out.mkv"))
    assert made.residual_ms is not None and abs(made.residual_ms) <= 0.1
    with av.open(str(made.out)) as container:
        assert abs(float(container.duration) / av.time_base - SECONDS) < 0.1


@pytest.mark.parametrize("suffix", [".mov", ".mkv"])
def test_sixteen_bits_stay_what_they_are_and_anyone_may_read_the_film(tmp_path, sound, suffix):
    picture = film(tmp_path / "film.mp4", sound)
    take = recorder(tmp_path / "take.wav", sound, subtype="PCM_16")
    out = tmp_path / f"out{suffix}"
    embed(Embedding(picture, (Track(take, 250.0),), out, "pcm"), check=False)
    with av.open(str(out)) as made:
        assert made.streams.audio[0].codec_context.name == "pcm_s16le"
        got = np.concatenate([f.to_ndarray().reshape(-1, 2) for f in made.decode(audio=0)])
    given, _ = soundfile.read(take, dtype="int16")
    assert np.array_equal(got, given[RATE // 4 :][: len(got)]) and len(got) == round(SECONDS * RATE)
    mask = os.umask(0)
    os.umask(mask)
    assert out.stat().st_mode & 0o777 == 0o666 & ~mask


def test_drift_is_taken_out(tmp_path):
    long = talk(64.0, 9)
    clip = Clip(Fraction(5), 60.0, 64, 64)
    picture = tmp_path / "film.mkv"
    write_film(picture, clip_frames(clip), long[: 60 * RATE].astype(np.float32), Coding(clip.rate))
    track = found_offset(picture, Track(recorder(tmp_path / "r.wav", long, 0.75, 120.0)))
    assert abs(track.drift_ppm - 120.0) < 2.0
    made = embed(Embedding(picture, (track,), tmp_path / "out.mkv"))
    assert made.residual_ms is not None and abs(made.residual_ms) <= 0.2
    assert made.residual_drift_ppm is not None and abs(made.residual_drift_ppm) < 5.0


def test_tracks_names_languages_chapters_and_the_original(tmp_path, sound):
    picture = film(tmp_path / "film.mkv", sound, sound_codec="flac")
    with av.open(str(picture)) as a, av.open(str(tmp_path / "named.mkv"), "w") as b:
        streams = {s.index: b.add_stream_from_template(s) for s in a.streams}
        b.metadata["title"] = "An evening"
        b.set_chapters(
            [{"id": 1, "start": 0, "end": 5000, "time_base": Fraction(1, 1000), "metadata": {"title": "One"}}]
        )
        for packet in a.demux():
            if packet.dts is not None:
                packet.stream = streams[packet.stream.index]
                b.mux(packet)
    path = recorder(tmp_path / "r.flac", sound, 0.0)
    tracks = (
        Track(path, name="Mix", language="eng"),
        Track(path, name="Mezcla", language="spa", swap=True, gain_db=-6.0),
    )
    made = embed(Embedding(tmp_path / "named.mkv", tracks, tmp_path / "out.mkv", keep_original=True))
    with av.open(str(made.out)) as container:
        names = [(s.metadata.get("title"), s.metadata.get("language")) for s in container.streams.audio]
        assert names[:2] == [("Mix", "eng"), ("Mezcla", "spa")] and len(names) == 3
        assert container.metadata["title"] == "An evening" and len(container.chapters()) == 1
        sides = []
        for index in (0, 1):
            container.seek(0)
            blocks = [
                f.to_ndarray().reshape(-1, 2) if not f.format.is_planar else f.to_ndarray().T
                for f in container.decode(audio=index)
            ]
            power = (np.concatenate(blocks).astype(float) ** 2).mean(axis=0)
            sides.append(power[0] / power[1])
    assert sides[0] == pytest.approx(1 / sides[1], rel=0.05) and sides[0] > 1.5


def test_the_own_sound_of_a_film_is_shifted(tmp_path, sound):
    picture = film(tmp_path / "film.mp4", sound)
    made = embed(Embedding(picture, (Track(picture, offset_ms=-80.0),), tmp_path / "out.mp4"))
    assert made.copied and made.residual_ms == pytest.approx(0.0, abs=0.1)
    assert align_files(picture, made.out).offset_ms == pytest.approx(80.0, abs=0.1)


def test_what_must_not_be_done_is_refused_and_leaves_everything_as_it_was(tmp_path, sound, monkeypatch):
    picture = film(tmp_path / "film.mkv", sound, sound_codec="flac")
    path = recorder(tmp_path / "r.wav", sound)
    (tmp_path / "text.wav").write_text("no sound")
    before = {p.name: p.read_bytes() for p in tmp_path.iterdir()}
    other = recorder(tmp_path.parent / "other.wav", talk(8.0, 99))
    cases = [
        (lambda: embed(Embedding(picture, (Track(path),), picture)), "would overwrite"),
        (lambda: embed(Embedding(picture, (Track(path),), tmp_path / "out.avi")), "a film is"),
        (lambda: embed(Embedding(picture, (Track(path),), tmp_path / "out.mp4", "pcm")), "takes"),
        (lambda: embed(Embedding(picture, (Track(tmp_path / "gone.wav"),), tmp_path / "out.mkv")), "no such file"),
        (lambda: embed(Embedding(picture, (Track(tmp_path / "text.wav"),), tmp_path / "out.mkv")), "cannot be read"),
        (lambda: embed(Embedding(path, (Track(path),), tmp_path / "out.mkv")), "no picture"),
        (lambda: embed(Embedding(picture, (Track(path, 1e12),), tmp_path / "out.mkv")), "no sense"),
        (lambda: embed(Embedding(picture, (Track(path),), tmp_path / "nowhere" / "out.mkv")), "folder"),
        (lambda: found_offset(picture, Track(other)), "Give the offset yourself"),
    ]
    for do, said in cases:
        with pytest.raises(FileError, match=said):
            do()
    monkeypatch.setattr(embedding.shutil, "disk_usage", lambda _: shutil._ntuple_diskusage(10, 9, 1))
    with pytest.raises(FileError, match="no room"):
        embed(Embedding(picture, (Track(path),), tmp_path / "out.mkv"))
    monkeypatch.undo()
    with pytest.raises(Stopped):
        embed(Embedding(picture, (Track(path),), tmp_path / "out.mkv"), progress=lambda part: part < 0.4)
    assert {p.name: p.read_bytes() for p in tmp_path.iterdir()} == before


def test_nothing_is_encoded_any_more_when_a_film_that_is_not_wanted_is_closed(tmp_path, sound, monkeypatch):
    picture, path = film(tmp_path / "film.mkv", sound, sound_codec="flac"), recorder(tmp_path / "r.wav", sound)
    before, left = set(threading.enumerate()), []

    @contextmanager
    def watched(*paths):
        with film_out(*paths) as out:
            try:
                yield out
            finally:
                left.append(set(threading.enumerate()) - before)

    monkeypatch.setattr(embedding, "film_out", watched)
    tracks = (Track(path), Track(path, drift_ppm=30.0))
    with pytest.raises(Stopped):
        embed(Embedding(picture, tracks, tmp_path / "out.mkv"), progress=lambda part: False)
    assert left == [set()]


def test_a_disk_that_fills_up_leaves_no_half_file(tmp_path, sound, monkeypatch):
    picture = film(tmp_path / "film.mkv", sound, sound_codec="flac")
    path = recorder(tmp_path / "r.wav", sound)

    def full(*_):
        raise OSError(28, "No space left on device")

    monkeypatch.setattr(embedding.Path, "replace", full)
    with pytest.raises(FileError, match="no space left"):
        embed(Embedding(picture, (Track(path),), tmp_path / "out.mkv"))
    assert sorted(p.name for p in tmp_path.iterdir()) == ["film.mkv", "r.wav"]


def test_a_kill_leaves_no_half_file_under_the_final_name(tmp_path, sound):
    picture, path = film(tmp_path / "film.mkv", sound, sound_codec="flac"), recorder(tmp_path / "r.wav", sound)
    script = (
        "import sys; from pathlib import Path; from kymaton.media.film.embed import *\n"
        "from kymaton.media.film.placing import Track\n"
        "print('ready', flush=True)\n"
        "job = Embedding(Path(sys.argv[1]), (Track(Path(sys.argv[2])),), Path(sys.argv[3]))\n"
        "for n in range(1000): embed(job, check=False)"
    )
    out = tmp_path / "out.mkv"
    for wait in (0.05, 0.2, 0.4):
        child = subprocess.Popen([sys.executable, "-c", script, picture, path, out], stdout=subprocess.PIPE)
        assert child.stdout is not None and child.stdout.readline() == b"ready\n"
        time.sleep(wait)
        os.kill(child.pid, signal.SIGKILL)
        child.wait()
        child.stdout.close()
        if out.exists():
            assert picture_hash(out)[0] == picture_hash(picture)[0]


def test_embed_on_the_command_line(tmp_path, sound, capsys):
    picture, path = film(tmp_path / "film.mp4", sound), recorder(tmp_path / "r.wav", sound, 0.25)
    out = tmp_path / "out.mp4"
    assert main(["embed", str(picture), str(path), "-o", str(out), "--auto", "--json"]) == 0
    told = json.loads(capsys.readouterr().out)
    assert told["out"] == str(out) and abs(told["offset_ms"] - 250.0) < 0.1 and abs(told["residual_ms"]) <= 1.0
    assert main(["embed", str(picture), str(path), "-o", str(out), "--offset-ms", "250"]) == 0
    assert "ms are left" in capsys.readouterr().out
    assert main(["embed", str(picture), str(path), "-o", str(picture)]) == 2
    assert capsys.readouterr().err.count("\n") == 1
