"""Left, right and polarity on whole rigs: what is computed, held against an impulse sent through the rendered rig."""

import random

import numpy as np
import pytest
from msgspec.structs import replace

from kymaton.core.model import Show
from kymaton.core.signal.cue_solution import CueSolution
from kymaton.core.signal.graph import EdgeState
from kymaton.core.signal.hearing import solve
from kymaton.core.signal.render import render
from kymaton.language.script import read_any
from kymaton.language.starters import STARTERS
from kymaton.store.showfile import read_show
from tests.shows import DEMO

RATE_HZ = 48_000
HEARD_DB = -50.0  # arrivals down to this are looked for, one by one


def turned_and_crossed(show: Show, seed: int) -> Show:
    """With some routes of opposite polarity, and some leads of two channels crossed."""
    rng = random.Random(seed)
    devices = tuple(
        d.evolve(
            routes=tuple(r.evolve(polarity=rng.choice((1, 1, -1))) if r.medium == "sound" else r for r in d.routes)
        )
        for d in show.devices
    )
    cables = tuple(
        c.evolve(channels=tuple((a, 3 - b) for a, b in c.channels)) if set(c.channels) == {(1, 1), (2, 2)} else c
        for c in show.cables
    )
    return show.evolve(devices=devices, cables=cables)


def with_a_loop(show: Show, seed: int) -> Show:
    """With a free output of a desk in one of its free inputs, and back to that output by a send: it rings."""
    rng = random.Random(seed)
    used = {end for c in show.cables for end in (c.source, c.target)}
    for desk in (d for d in show.devices if d.kind == "desk"):
        free = [p for p in desk.ports if f"{desk.id}/{p.id}" not in used]
        inputs = [p.id for p in free if p.direction == "in" and p.id.startswith("in")]
        auxes = [p.id for p in free if p.direction == "out" and p.id.startswith("aux")]
        if inputs and auxes:
            at, aux = rng.choice(inputs)[2:], rng.choice(auxes)[3:]
            say = desk.name.lower()
            for line in (
                f"{say} aux {aux} > {say} {at}", f"set {say} {at} to aux {aux} to {rng.uniform(-16, -5):.1f}",
                f"set {say} 1 to aux {aux} to -3", f"set {say} {at} to main to -6",
                f"set {say} {at} to aux {auxes[0][3:]} to -12",
            ):  # fmt: skip
                show = read_any(show, line).show
            return show
    return show


@pytest.mark.parametrize("number", range(50))
def test_every_arrival_is_where_the_impulse_comes(number):
    starts = [*STARTERS, None]
    chosen_start = starts[number % len(starts)]
    start = read_show(DEMO) if chosen_start is None else chosen_start.show()
    looped = with_a_loop(start, number)
    show = turned_and_crossed(looped, number)
    view = CueSolution(show, show.cues[number % len(show.cues)].id if show.cues else None)
    assert looped is start or view.loops
    nothing = np.full(len(view.graph.src), np.nan)
    graph = replace(view.graph, low_hz=nothing, high_hz=nothing)  # a band would smear the impulse
    state = EdgeState(view.state.gain_db, view.state.delay_us, ())
    hearing = solve(graph, state)
    chosen = random.Random(number).sample(range(len(graph.signals)), min(2, len(graph.signals)))
    compared = 0
    for signal in chosen:
        sound, channel = graph.signals[signal]
        every = {x.id: [a for a in hearing.arrivals(x.id, sound) if a.sound_channel == channel] for x in show.listeners}
        latest = max((a.delay_us for found in every.values() for a in found), default=0)
        impulse = np.zeros(8, np.float32)
        impulse[0] = 1.0
        heard = render(graph, state, list(every), {(sound, channel): impulse}, {}, RATE_HZ, latest / 1e6 + 0.1)
        for listener, found in every.items():
            strongest = max((a.gain_db for a in found), default=0.0)
            by_sample: dict[tuple[int, int], float] = {}
            for a in found:
                at = (round(a.delay_us * RATE_HZ / 1e6), a.ear)
                by_sample[at] = by_sample.get(at, 0.0) + a.polarity * 10 ** (a.gain_db / 20)
            crowded = {(n + d, ear) for n, ear in by_sample for d in (-2, -1, 1, 2)}
            for (sample, ear), amplitude in by_sample.items():
                if abs(amplitude) < 10 ** ((strongest + HEARD_DB) / 20) or (sample, ear) in crowded:
                    continue
                around = heard[listener][max(0, sample - 1) : sample + 2, ear - 1]
                peak = float(around[np.argmax(np.abs(around))])
                assert np.sign(peak) == np.sign(amplitude), (listener, sound, sample)
                assert abs(20 * np.log10(abs(peak / amplitude))) < 0.1, (listener, sound, sample)
                compared += 1
    assert compared or not any(every.values())


def test_most_of_these_rigs_ring():
    assert sum(with_a_loop(s.show(), n) != s.show() for n, s in enumerate(STARTERS)) > len(STARTERS) / 2
