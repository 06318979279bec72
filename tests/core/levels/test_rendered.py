"""Levels against rendered sound: noise is sent through the rig, and measured where a level is told."""

import numpy as np
import pytest
from msgspec.structs import replace

from kymaton.core.checks.audibility import wanted
from kymaton.core.checks.report import Report
from kymaton.core.edits.controls import apply
from kymaton.core.levels.gains import propose_gains
from kymaton.core.levels.noise import added_at, noise_levels
from kymaton.core.levels.port_levels import PortLevels
from kymaton.core.signal.cue_solution import CueSolution
from kymaton.core.signal.graph import EdgeState
from kymaton.core.signal.render import render
from kymaton.core.units import SILENT
from kymaton.language.starters import STARTERS
from kymaton.media.loudness import Meter
from kymaton.store.showfile import read_show
from tests.shows import DEMO

RATE_HZ = 48_000
SECONDS = 6.0


def unlimited(view: CueSolution):
    """The graph without band limits: what is measured is to have the whole band."""
    nothing = np.full(len(view.graph.src), np.nan)
    return replace(view.graph, low_hz=nothing, high_hz=nothing)


def in_time(view: CueSolution) -> EdgeState:
    """The cue as it is, but for what takes seconds, as a platform does: all of it comes that much later."""
    delay_us = np.where(view.state.delay_us > 1_000_000, 0, view.state.delay_us)
    return EdgeState(view.state.gain_db, delay_us, ())


def noise(seed: int, seconds: float = SECONDS) -> np.ndarray:
    return np.random.default_rng(seed).standard_normal(round(seconds * RATE_HZ)).astype(np.float32)


@pytest.mark.parametrize("number", range(len(STARTERS) + 1))
def test_the_level_at_every_socket_is_that_of_rendered_noise(number):
    show = STARTERS[number].show() if number < len(STARTERS) else read_show(DEMO)
    view = CueSolution(show, show.cues[number % len(show.cues)].id if show.cues else None)
    graph, state = unlimited(view), in_time(view)
    view.state, view.graph = state, graph
    levels = PortLevels(view)
    places = [p for p in levels.by_place if p[0] in show.ports]
    ears = [(f"{port}#{channel}", 1) for port, channel in places]
    nodes = np.array([graph.nodes.index(p) for p in places])
    measured = replace(graph, ears=ears, ear_node=nodes)
    compared = 0
    for sound in [s for s in show.sounds if s.channels == 1]:
        stems = {(sound.id, 1): noise(number)}
        heard = render(measured, state, [x for x, _ in ears], stems, {}, RATE_HZ, 0.0)
        made = 20 * np.log10(np.sqrt(np.mean(np.square(stems[sound.id, 1], dtype=np.float64))))
        for (name, _), place in zip(ears, places, strict=True):
            told = levels.level(place, sound.id).typical
            power = float(np.mean(np.square(heard[name][round(0.5 * RATE_HZ) :, 0], dtype=np.float64)))
            if told == SILENT or told < levels.together(place).typical - 50:
                continue
            assert sound.level + 10 * np.log10(power) - made == pytest.approx(told, abs=0.2), (place, sound.id)
            compared += 1
    assert compared > 3


@pytest.mark.parametrize("number", range(len(STARTERS) + 1))
def test_noise_is_what_the_whole_set_of_equations_says(number):
    """N = own + |g|² N, solved at once instead of round by round."""
    show = STARTERS[number].show() if number < len(STARTERS) else read_show(DEMO)
    view = CueSolution(show, show.cues[-1].id if show.cues else None)
    graph, state = view.graph, view.state
    found = noise_levels(show, graph, state)
    own = np.zeros(len(graph.nodes))
    for n, (port, _) in enumerate(graph.nodes):
        if port in show.ports and added_at(*show.ports[port]) is not None:
            own[n] = 10 ** (added_at(*show.ports[port]) / 10)
    matrix = np.zeros((len(own), len(own)))
    for source, target, gain in zip(graph.src, graph.dst, state.gain_db, strict=True):
        if np.isfinite(gain):
            matrix[target, source] += 10 ** (gain / 10)
    solved = np.linalg.solve(np.eye(len(own)) - matrix, own)
    there = solved > 1e-20
    assert there.any() and np.allclose(10 * np.log10(solved[there]), found[there], atol=0.01)
    assert np.all(np.isneginf(found[~there]))


@pytest.mark.parametrize("starter", STARTERS, ids=lambda s: s.id)
def test_with_the_gains_that_are_proposed_nothing_clips_and_the_programme_is_at_its_goal(starter):
    show = starter.show()
    plan = propose_gains(Report(show))
    there = apply(show, plan.changes)
    after = Report(there)
    assert not [f for f in after.findings if f.id in ("clips", "noisy")]
    assert not {f.key for f in after.findings if f.severity == "fault"} - {
        f.key for f in Report(show).findings if f.severity == "fault"
    }
    view = CueSolution(there, None)
    graph, state = unlimited(view), in_time(view)
    for listener in (x for x in there.listeners if x.kind == "audience"):
        must = [s for x, s, _ in wanted(view) if x.id == listener.id]
        voices = [s for s in must if s.kind == "voice"]
        parts = []
        for turn in voices or [None]:  # people speak in turn, and all that plays plays with them
            stems = {}
            for number, sound in enumerate(s for s in must if s is turn or s not in voices):
                for channel in range(1, sound.channels + 1):
                    tone = in_band(noise(10 * number + channel))
                    to_full_scale = sound.level - 10 * np.log10(2.0) - rms_db(tone) - UNIT_DB
                    stems[sound.id, channel] = (tone * 10 ** (to_full_scale / 20)).astype(np.float32)
            heard = render(graph, state, [listener.id], stems, {}, RATE_HZ, 0.0)[listener.id]
            parts.append(heard[RATE_HZ // 2 :] * np.float32(10 ** (UNIT_DB / 20)))
        meter = Meter(RATE_HZ, 2)
        meter.add(np.ascontiguousarray(np.concatenate(parts).T))
        told = [r for r in plan.remarks if "under its goal" in r]
        under = float(told[0].split("stays ")[1].split(" LU")[0]) if told else 0.0
        goal = there.goals.loudness_lufs
        assert meter.result().integrated_lufs == pytest.approx(goal - under, abs=1.0)


UNIT_DB = 100.0  # so that float32 keeps its range for sounds in dB SPL


def rms_db(samples: np.ndarray) -> float:
    return 10 * float(np.log10(np.mean(np.square(samples, dtype=np.float64))))


def in_band(samples: np.ndarray) -> np.ndarray:
    """Noise of two octaves around 1 kHz, where K-weighting changes little."""
    spectrum = np.fft.rfft(samples)
    hertz = np.fft.rfftfreq(len(samples), 1 / RATE_HZ)
    spectrum[(hertz < 500) | (hertz > 1500)] = 0
    return np.fft.irfft(spectrum, len(samples)).astype(np.float32)
