"""Audition: what listeners hear in a cue, from recordings of the sounds, in blocks.

The graph becomes *taps*: from a buffer, delayed by whole samples, times a gain, perhaps band-limited, into another.
Where nothing is band-limited and nothing loops, each arrival of the hearing solution is one tap. Otherwise the taps
are the folded edges; loops are computed block by block, with blocks no longer than the shortest loop. A device that
is limited to a band is a Butterworth filter of second order at each limit, in second-order sections [1].

Sounds are float32 (samples, channels) at one rate; delays are rounded to whole samples (at most half a sample off).

1. Oppenheim and Schafer, Discrete-Time Signal Processing; `scipy.signal.butter`.
"""

from collections.abc import Mapping, Sequence
from typing import TYPE_CHECKING

import numpy as np
from msgspec import Struct
from msgspec.structs import replace

from kymaton.core.errors import Progress, RenderError, Stopped
from kymaton.core.nets import net_of, topological
from kymaton.core.signal.folding import fold, folded_values
from kymaton.core.signal.graph import EdgeState, SignalGraph
from kymaton.core.signal.hearing import Hearing, solve
from kymaton.core.units import SILENT

if TYPE_CHECKING:
    from numpy.typing import NDArray

    Audio = NDArray[np.float32]
else:
    Audio = np.ndarray
BLOCK = 65_536


class Tap(Struct):
    """From buffer `source`, `delay` samples later, times `gain`, through `sos` if given, into buffer `target`."""

    source: int
    target: int
    delay: int
    gain: float
    sos: "NDArray[np.float64] | None" = None
    memory: "NDArray[np.float64] | None" = None


class Schedule(Struct):
    """Taps in an order in which each buffer is complete before it is read; buffers are numbered 0 … `buffers`−1."""

    taps: list[Tap]
    buffers: int
    inputs: dict[int, int]  # signal → buffer
    outputs: dict[tuple[str, int], int]  # ear → buffer
    block: int = BLOCK
    looped: frozenset[int] = frozenset()


def render(
    graph: SignalGraph,
    state: EdgeState,
    listeners: Sequence[str],
    stems: Mapping[tuple[str, int], Audio],
    gain_db: Mapping[str, float],
    rate_hz: int = 48_000,
    tail_s: float = 1.0,
    progress: Progress | None = None,
) -> dict[str, Audio]:
    """What these listeners hear: for each an array (samples, 2) of float32.

    `stems` holds one array per signal (sound, channel); `gain_db` is added per sound (see `playback_gain_db`).
    Sounds without a stem are silent. Raises Stopped when progress returns False, RenderError for a loop that has no
    delay.
    """
    ears = [i for i, (x, _) in enumerate(graph.ears) if x in listeners]
    narrowed = replace(graph, ears=[graph.ears[i] for i in ears], ear_node=graph.ear_node[ears])
    lengths = [len(a) for a in stems.values()]
    length = max(lengths, default=0) + round(tail_s * rate_hz)
    total = {x: np.empty((length, 2), np.float32, order="F") for x in listeners}
    for listener, channel in {(x, c) for x in listeners for c in (1, 2)} - set(narrowed.ears):
        total[listener][:, channel - 1] = 0.0
    hearing = solve(narrowed, state)
    jobs: list[tuple[Schedule, list[int]]]
    if not any(level.is_loop for level in hearing.folding.levels) and not _band_limits(hearing).any():
        jobs = [(_arrival_taps(hearing, rate_hz), list(range(len(graph.signals))))]
    else:
        jobs = [(_edge_taps(narrowed, s, rate_hz), signals) for s, signals in _sound_classes(narrowed, state)]
    for number, (schedule, signals) in enumerate(jobs):
        chosen = {
            i: (stems[graph.signals[i]], 10 ** (gain_db.get(graph.signals[i][0], 0.0) / 20))
            for i in signals
            if graph.signals[i] in stems
        }

        def part(done: float, number: int = number) -> bool:
            return progress is None or progress((number + done) / len(jobs))

        _run(schedule, chosen, {ear: total[ear[0]][:, ear[1] - 1] for ear in narrowed.ears}, part, number == 0)
    return total


def _band_limits(hearing: Hearing) -> "NDArray[np.bool_]":
    """Which band-limited edges are open and lead to the listeners."""
    graph, folding = hearing.graph, hearing.folding
    used = np.zeros(len(graph.src), np.bool_)
    used[folding.last_edge] = True
    used[folding.own_edge[folding.own_edge >= 0]] = True
    return graph.band_limited & used & (hearing.state.gain_db > SILENT)


def _arrival_taps(hearing: Hearing, rate_hz: int) -> Schedule:
    graph = hearing.graph
    ear_of = {int(n): ear for ear, n in zip(graph.ears, graph.ear_node, strict=True)}
    inputs = {i: i for i in range(len(graph.signals))}
    outputs = {ear: len(inputs) + i for i, ear in enumerate(graph.ears)}
    data = hearing.at_ears
    taps = [
        Tap(signal, outputs[ear_of[node]], round(tick * rate_hz / 1e6), amplitude)
        for node, signal, tick, amplitude in zip(
            data.node.tolist(), data.signal.tolist(), data.tick.tolist(), data.amplitude.tolist(), strict=True
        )
    ]
    return Schedule(taps, len(inputs) + len(outputs), inputs, outputs)


def _sound_classes(graph: SignalGraph, state: EdgeState) -> list[tuple[EdgeState, list[int]]]:
    """Signals that meet the same exceptions, each class with these as plain gains: the parts add up."""
    classes: dict[tuple[bool, ...], list[int]] = {}
    for signal in range(len(graph.signals)):
        classes.setdefault(tuple(bool(x.signals[signal]) for x in state.exceptions), []).append(signal)
    result = []
    for hit, signals in classes.items():
        gain = state.gain_db.copy()
        for applies, x in zip(hit, state.exceptions, strict=True):
            if applies:
                gain[x.edge] += x.gain_db
        result.append((EdgeState(gain, state.delay_us, ()), signals))
    return result


def _edge_taps(graph: SignalGraph, state: EdgeState, rate_hz: int) -> Schedule:
    limited = np.flatnonzero(graph.band_limited)
    pinned = np.concatenate([graph.src[limited], graph.dst[limited]])
    folding = fold(graph, state.gain_db > SILENT, pinned)
    values = folded_values(graph, state, folding)
    buffer: dict[int, int] = {}
    inputs = {i: buffer.setdefault(int(n), len(buffer)) for i, n in enumerate(graph.signal_node)}
    outputs = {ear: buffer.setdefault(int(n), len(buffer)) for ear, n in zip(graph.ears, graph.ear_node, strict=True)}
    taps: list[Tap] = []
    block, looped = BLOCK, set()
    for level in folding.levels:
        edges = [*level.entering.tolist(), *level.inner.tolist()]
        here = [
            Tap(
                buffer.setdefault(int(folding.src[e]), len(buffer)),
                buffer.setdefault(int(folding.dst[e]), len(buffer)),
                round(int(values.delay_us[e]) * rate_hz / 1e6),
                float(values.amplitude[e]),
                _filter(graph, int(folding.last_edge[e]), rate_hz),
            )
            for e in edges
        ]
        if level.is_loop:
            here, shortest = _in_loop_order(here)
            block = min(block, shortest)
            looped |= {t.target for t in here}
        taps += here
    return Schedule(taps, len(buffer), inputs, outputs, block, frozenset(looped))


def _in_loop_order(taps: list[Tap]) -> tuple[list[Tap], int]:
    """Order of the taps of a loop, and the longest block in which that order works."""
    nodes = [n for t in taps for n in (t.source, t.target)]
    for block in sorted({t.delay for t in taps if t.delay > 0}, reverse=True):
        short = net_of(((t.source, t.target) for t in taps if t.delay < block), nodes)
        order = topological(short)
        if order is not None:
            rank = {n: i for i, n in enumerate(order)}
            return sorted(taps, key=lambda t: rank[t.target]), min(block, BLOCK)
    raise RenderError("A loop without any delay cannot be rendered: enter the delay of a device in it.")


def _filter(graph: SignalGraph, edge: int, rate_hz: int) -> "NDArray[np.float64] | None":
    """Second-order Butterworth band limit of an edge; limits at or above half the rate do nothing."""
    from scipy.signal import butter

    low, high = float(graph.low_hz[edge]), float(graph.high_hz[edge])
    has_low, has_high = low == low, high == high and high < rate_hz / 2
    if has_low and has_high:
        return np.asarray(butter(2, (low, high), "bandpass", fs=rate_hz, output="sos"))
    if has_low:
        return np.asarray(butter(2, low, "highpass", fs=rate_hz, output="sos"))
    return np.asarray(butter(2, high, "lowpass", fs=rate_hz, output="sos")) if has_high else None


def _run(
    schedule: Schedule,
    stems: Mapping[int, tuple[Audio, float]],
    ears: Mapping[tuple[str, int], Audio],
    progress: Progress,
    fresh: bool,
) -> None:
    """Work through the schedule block by block; what the ears hear is added to their arrays.

    When these are `fresh` (not yet written), each block of them is cleared just before it is used: memory is then
    touched once, in order, while it is in the cache.
    """
    from scipy.linalg.blas import saxpy  # late, as all of SciPy here: the window opens without it

    length = len(next(iter(ears.values())))
    buffers: dict[int, Audio] = {schedule.outputs[ear]: heard for ear, heard in ears.items()}
    gain: dict[int, float] = {}
    cleared = list(ears.values()) if fresh else []
    for signal, (stem, factor) in stems.items():
        number = schedule.inputs[signal]
        buffers[number], gain[number] = np.ascontiguousarray(stem, np.float32), factor
    for tap in schedule.taps:
        if tap.target not in buffers:
            buffers[tap.target] = np.empty(length, np.float32)
            cleared.append(buffers[tap.target])
        if tap.sos is not None:
            tap.memory = np.zeros((len(tap.sos), 2))
    work = [
        (t, buffers[t.source], buffers[t.target], t.delay, len(buffers[t.source]), t.gain * gain.get(t.source, 1.0))
        for t in schedule.taps
        if t.source in buffers
    ]
    held = [buffers[n] for n in schedule.looped]
    ceiling = _ceiling(schedule, stems) if held else 0.0
    for start in range(0, length, schedule.block):
        size = min(schedule.block, length - start)
        for buffer in cleared:
            buffer[start : start + size] = 0.0
        for tap, source, target, delay, end, factor in work:
            first = start - delay
            if tap.sos is not None:
                _filtered(tap, source, target, first, start, size, factor)
                continue
            last = min(first + size, end)
            if first < 0:
                first = 0
            if last > first:
                saxpy(source, target, last - first, factor, first, 1, first + delay, 1)
        for buffer in held:
            np.clip(buffer[start : start + size], -ceiling, ceiling, out=buffer[start : start + size])
        if not progress((start + size) / length):
            raise Stopped


def _filtered(tap: Tap, source: Audio, target: Audio, first: int, start: int, size: int, factor: float) -> None:
    from scipy.signal import sosfilt

    piece = np.zeros(size)
    begin, end = max(first, 0), min(first + size, len(source))
    if end > begin:
        piece[begin - first : end - first] = source[begin:end]
    limited, tap.memory = sosfilt(tap.sos, piece, zi=tap.memory)
    target[start : start + size] += (factor * limited).astype(np.float32)


def _ceiling(schedule: Schedule, stems: Mapping[int, tuple[Audio, float]]) -> float:
    """Where a loop that runs away is held, as real gear would: 40 dB above the loudest that enters a loop."""
    peaks = {schedule.inputs[s]: float(np.abs(a).max(initial=0.0)) * g for s, (a, g) in stems.items()}
    entering = [peaks.get(t.source, 0.0) * abs(t.gain) for t in schedule.taps if t.target in schedule.looped]
    return 100.0 * max(entering, default=1.0) or 1.0


def playback_gain_db(stem_level_dbfs: float, sound_level: float, full_scale: float) -> float:
    """Gain for a stem so that the sum of route gains gives the level in the file.

    `full_scale` is the level at the listener that is 0 dBFS in the file: 100 dB SPL for ears, 0 dBFS for streams.
    """
    return sound_level - stem_level_dbfs - full_scale


FULL_SCALE_DB_SPL = 100.0


def full_scale_of(unit: str) -> float:
    """Level at a listener with this unit that stands at 0 dBFS (RMS of a full-scale sine) in an audition file."""
    return 0.0 if unit == "dBFS" else FULL_SCALE_DB_SPL
