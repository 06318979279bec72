"""The demo shows are what docs/demo.md says, and what their script builds."""

import runpy
from pathlib import Path

import numpy as np
import pytest
import soundfile

from kymaton.core.checks import Finding
from kymaton.core.checks.report import Report
from kymaton.core.edits.controls import apply
from kymaton.core.planning.planner import propose
from kymaton.core.signal.cue_solution import CueSolution
from kymaton.media.audition import RATE_HZ, make_audition
from kymaton.store.showfile import read_show, show_bytes
from tests.shows import DEMO, HEALTHY

ROOT = Path(__file__).parent.parent


def listed() -> set[tuple[str | None, ...]]:
    """Faults in the list of docs/demo.md: id, cue, listener, sound."""
    block = (ROOT / "docs" / "demo.md").read_text("utf-8").split("```")[1]
    found = set()
    for line in block.strip().splitlines():
        id, listener, sound, *cues = line.split()
        found |= {tuple(None if x == "-" else x for x in (id, cue, listener, sound)) for cue in cues}
    return found


def told(finding: Finding) -> tuple[str, str | None, str | None, str | None]:
    return (finding.id, finding.cue, finding.listener, finding.sound)


def test_the_faults_are_those_that_are_listed_and_no_others():
    found = [told(f) for f in Report(read_show(DEMO)).findings if f.severity == "fault"]
    assert len(found) == len(set(found)) and set(found) == listed()


def test_the_healthy_show_has_no_fault_and_no_caution():
    assert [told(f) for f in Report(read_show(HEALTHY)).findings if f.severity != "note"] == []


@pytest.mark.parametrize(("path", "healthy"), [(DEMO, False), (HEALTHY, True)])
def test_the_files_are_what_the_script_builds(path, healthy):
    build = runpy.run_path(str(ROOT / "demo" / "build_shows.py"))["build"]
    assert path.read_bytes() == show_bytes(build(healthy))


def test_the_stems_are_small_and_calibrated():
    files = sorted((ROOT / "demo" / "stems").glob("*.flac"))
    assert {f.stem for f in files} == {s.id for s in read_show(DEMO).sounds}
    assert sum(f.stat().st_size for f in files) < 8_000_000
    for file in files:
        info = soundfile.info(file)
        assert info.samplerate == RATE_HZ and 15 <= info.duration <= 20


def stem(name: str) -> np.ndarray:
    return soundfile.read(DEMO.parent / "stems" / f"{name}.flac", dtype="float64")[0]


def correlation_db(heard: np.ndarray, reference: np.ndarray) -> np.ndarray:
    """Gain at which the reference is found in what is heard, in dB, by lag in samples (0 … one second)."""
    size = 1 << (len(heard) + len(reference)).bit_length()
    product = np.fft.rfft(heard, size) * np.conj(np.fft.rfft(reference, size))
    found = np.fft.irfft(product, size)[:RATE_HZ] / np.sum(reference**2)
    return 20 * np.log10(np.maximum(np.abs(found), 1e-12))


def test_ilse_hears_herself_at_the_computed_delay_and_level_and_no_more_after_the_fix():
    show = read_show(DEMO)
    view = CueSolution(show, "guest-talk")
    echo = view.hearing.arrivals("ilse", "ilse")[0]
    own = show.sound("ilse")
    assert own.stem is not None
    expected_db = own.level + echo.gain_db - 100.0 - own.stem.level_dbfs
    audition = make_audition(show, DEMO.parent, "guest-talk", "ilse")
    heard = audition.samples[:, 0].astype(float) * 10 ** (audition.turned_down_db / 20)
    found = correlation_db(heard, stem("ilse"))
    lag = int(np.argmax(found))
    assert abs(lag - echo.delay_us * RATE_HZ / 1e6) <= 1
    assert found[lag] == pytest.approx(expected_db, abs=0.2)

    fixed = apply(show, propose(Report(show)).changes)
    after = make_audition(fixed, DEMO.parent, "guest-talk", "ilse").samples[:, 0].astype(float)
    assert correlation_db(after, stem("ilse")).max() < -60.0
    assert np.abs(after).max() > 0.01  # the others are still heard


def test_the_doubling_on_the_stream_is_in_the_file():
    show = read_show(DEMO)
    arrivals = CueSolution(show, "guest-talk").hearing.arrivals("audience", "ilse")
    delays = sorted({a.delay_us for a in arrivals})
    heard = make_audition(show, DEMO.parent, "guest-talk", "audience").samples[:, 0].astype(float)
    base = round(delays[0] * RATE_HZ / 1e6)
    found = correlation_db(heard[base - 100 :], stem("ilse"))
    second = 100 + round((delays[1] - delays[0]) * RATE_HZ / 1e6)
    for lag in (100, second):
        around = found[lag - 40 : lag + 41]
        assert abs(int(np.argmax(around)) - 40) <= 1 and around.max() > -20
