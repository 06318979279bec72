"""Noise: what each socket adds, and what comes of it at every other socket of a cue.

Noise of different places has nothing in common, so powers add [1]. Levels in the unit of the socket, over the band from
20 Hz to 20 kHz, unweighted. Where a show does not say what a socket adds it is taken from what is typical of its kind
and counts as assumed.

1. Motchenbacher and Connelly, Low-Noise Electronic System Design, 1.2: uncorrelated sources.
"""

import numpy as np

from kymaton.core.model import Device, Port, Show
from kymaton.core.signal.graph import EdgeState, FloatArray, SignalGraph
from kymaton.core.units import DIGITAL

# typical, assumed: see the figures of levels
PREAMP_DBU = -128.0  # equivalent input noise of a microphone input at 150 Ω; the limit is −130.9
LINE_DBU = -90.0  # of a line input or output: 94 dB under +4
CONVERTER_DBFS = -110.0  # range of a converter
CALL_DBFS = -75.0  # of what comes of a call: its codec, and the room that its suppression lets through
PHONE_DBFS = -50.0  # of a telephone line
WIRELESS_DBU = -82.0  # of a wireless microphone's output: about 96 dB under its peaks
CAPSULES_DB_SPL = {"dynamic": 18.0, "condenser": 14.0, "clip-on condenser": 26.0, "3.5 mm": 30.0}
CAPSULE_DB_SPL = 20.0  # of another microphone
HAS_CONVERTERS = ("desk", "interface", "computer", "switcher", "camera", "embedder", "handheld-recorder")
MOST_ROUNDS = 200
STILL = 1e-6  # relative change of what counts as settled


def added_at(device: Device, port: Port) -> float | None:
    """What a socket adds by itself, in its unit; None where nothing speaks for any."""
    if port.noise_level is not None:
        return port.noise_level
    if device.kind == "call":
        return CALL_DBFS if port.id == "to-studio" or (port.direction == "in" and port.signal == "network") else None
    if port.signal == "acoustic":
        if device.kind in ("microphone", "usb-microphone", "wireless-microphone") and port.direction == "in":
            return CAPSULES_DB_SPL.get(device.detail, CAPSULE_DB_SPL)
        return None
    if port.signal in DIGITAL:
        makes = port.direction == "out" and any(_from_analogue(device, r.source) for r in device.routes
                                                if r.target == port.id and r.medium == "sound")  # fmt: skip
        return CONVERTER_DBFS if makes else None
    if device.kind == "wireless-microphone":
        return WIRELESS_DBU if port.direction == "out" else None
    if device.kind == "phone" and port.direction == "out":
        return PHONE_DBFS + 8.0
    if device.stage == "carried" or not device.routes or _is_passive(device):
        return None
    if port.signal == "mic" and port.direction == "in":
        return PREAMP_DBU
    return LINE_DBU if port.signal in ("line", "headphone") else None


def _from_analogue(device: Device, port_id: str) -> bool:
    return next(p.signal for p in device.ports if p.id == port_id) not in DIGITAL


def _is_passive(device: Device) -> bool:
    """A lead, a box with a transformer or resistors: it adds nothing that counts."""
    return device.kind in ("di", "pad", "isolator", "y-lead", "stage-box", "stereo-join", "plain-y", "microphone")


def noise_levels(show: Show, graph: SignalGraph, state: EdgeState) -> FloatArray:
    """Noise at each node of a cue, in dB in the node's unit; −∞ where there is none.

    What goes round in a loop is added until it stands still, or for MOST_ROUNDS where it does not.
    """
    own = np.zeros(len(graph.nodes))
    for number, (port_id, _) in enumerate(graph.nodes):
        if port_id in show.ports:
            added = added_at(*show.ports[port_id])
            own[number] = 0.0 if added is None else 10.0 ** (added / 10.0)
    with np.errstate(over="ignore"):
        passed = np.where(np.isfinite(state.gain_db), 10.0 ** (state.gain_db / 10.0), 0.0)
        power = own
        for _ in range(MOST_ROUNDS):
            found = own + np.bincount(graph.dst, power[graph.src] * passed, minlength=len(own))
            if np.allclose(found, power, rtol=STILL, atol=0.0):
                break
            power = found
    with np.errstate(divide="ignore"):
        return np.asarray(10.0 * np.log10(power))
