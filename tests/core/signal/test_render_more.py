"""Several listeners at once, stereo, gains per sound, block borders with loops."""

import numpy as np
import pytest

from kymaton.catalogue.computers import virtual_sound
from kymaton.core.model import Cable, Show
from kymaton.core.signal.cue_solution import CueSolution
from kymaton.core.signal.render import full_scale_of, playback_gain_db, render
from kymaton.store.showfile import read_show
from tests.graphs import make_graph
from tests.shows import DEMO, build, listener, setting, voice

RATE = 48_000


def noise(samples: int, seed: int = 0) -> np.ndarray:
    return np.random.default_rng(seed).normal(size=samples).astype(np.float32)


def test_listeners_rendered_together_are_those_rendered_alone():
    rows = [(0, 2, 0, 1000, 1), (1, 2, -3, 0, -1), (2, 3, 0, 500, 1), (1, 4, -6, 2000, 1), (2, 4, -12, 0, 1)]
    graph, state = make_graph(5, [0, 1], [3, 4], rows)
    stems = {("s0", 1): noise(5000), ("s1", 1): noise(5000, 1)}
    both = render(graph, state, ["l0", "l1"], stems, {})
    for ear in ("l0", "l1"):
        np.testing.assert_allclose(both[ear], render(graph, state, [ear], stems, {})[ear], atol=1e-6)


def test_a_sound_without_a_stem_is_silent_and_a_gain_scales():
    graph, state = make_graph(3, [0, 1], [2], [(0, 2, 0, 0, 1), (1, 2, 0, 0, 1)])
    stem = noise(100)
    heard = render(graph, state, ["l0"], {("s0", 1): stem}, {"s0": -6.0206})["l0"][:100, 0]
    np.testing.assert_allclose(heard, stem / 2, rtol=1e-4)
    assert not render(graph, state, ["l0"], {}, {})["l0"].any()


def test_a_loop_gives_the_same_whatever_the_block(monkeypatch):
    rows = [(0, 1, 0, 0, 1), (1, 2, -4, 7_000, 1), (2, 1, 0, 11_000, -1), (2, 3, 0, 0, 1)]
    graph, state = make_graph(4, [0], [3], rows)
    stems = {("s0", 1): noise(9000)}
    whole = render(graph, state, ["l0"], stems, {})["l0"]
    monkeypatch.setattr("kymaton.core.signal.render.BLOCK", 100)
    np.testing.assert_allclose(render(graph, state, ["l0"], stems, {})["l0"], whole, atol=1e-5)


def test_left_and_right_keep_apart_from_player_to_ears():
    show = build(
        "Tape, recorder", "add player", "add desk 4 in 1 aux", "add switcher", "player left > desk 3",
        "player right > desk 4", "desk main > switcher mic 1", "switcher programme > tape", "set desk 3 to main to 0",
        "set desk 4 to main to 0",
    )  # fmt: skip
    sound = show.sounds[0].evolve(channels=2, unit="dBFS", level=-20.0)
    show = show.evolve(sounds=(sound,))
    from kymaton.core.edits.cables import connect

    show = connect(show, "sound/ann", "player/play", "held")
    view = CueSolution(show, None)
    stems = {("ann", 1): noise(2000), ("ann", 2): np.zeros(2000, np.float32)}
    heard = render(view.graph, view.state, ["tape"], stems, {})["tape"]
    # a desk without stereo pairs sends each channel to both sides
    np.testing.assert_allclose(heard[:, 0], heard[:, 1], atol=1e-6)
    paired = setting(show, desk__ch3__mute=True)
    assert not render(view.graph, CueSolution(paired, None).state, ["tape"], stems, {})["tape"].any()


def test_the_demo_is_heard_in_stereo():
    show = read_show(DEMO)
    view = CueSolution(show, "song")
    stems = {("backing", 1): noise(4000), ("backing", 2): np.zeros(4000, np.float32)}
    heard = render(view.graph, view.state, ["recorder"], stems, {})["recorder"]
    assert heard[:, 0].any() and not heard[:, 1].any()


@pytest.mark.parametrize(("unit", "top"), [("dBFS", 0.0), ("dB SPL", 100.0)])
def test_full_scale_of_files(unit, top):
    assert full_scale_of(unit) == top
    assert playback_gain_db(-23.0, 70.0, top) == 93.0 - top


@pytest.mark.parametrize("width", [None, 0.0, 0.4, 1.0])
@pytest.mark.parametrize("polarity", [1, -1])
def test_two_channels_in_one_ear_add_by_how_alike_they_are(width, polarity):
    program = virtual_sound("mix")
    routes = tuple(r.evolve(polarity=polarity if r.target_channel == 2 else 1) for r in program.routes)
    song = voice("song", person=None, kind="playback", unit="dBFS", level=-20.0, channels=2, width=width)
    into = Cable(id="in", source="sound/song", target="mix/in")
    out = Cable(id="out", source="mix/out", target="listener/stream", channels=((1, 1), (2, 1)))  # both in one ear
    parts = {"sounds": (song,), "listeners": (listener("stream", "audience"),)}
    view = CueSolution(Show(devices=(program.evolve(routes=routes),), cables=(into, out), **parts), None)
    shared, own = noise(200_000), noise(200_000, 1)
    alike = 0.0 if width is None else 1.0 - width
    stems = {("song", 1): shared, ("song", 2): alike * shared + np.sqrt(1 - alike**2) * own}
    heard = render(view.graph, view.state, ["stream"], stems, {})["stream"][:200_000, 0]
    power = float(np.mean(np.square(heard, dtype=np.float64)))
    if width == 0.0 and polarity == -1:
        assert power < 1e-9
        assert view.level(view.show.listeners[0], song) == -np.inf
    else:
        assert view.hearing.gain_db("stream", "song") == pytest.approx(10 * np.log10(power), abs=0.05)
