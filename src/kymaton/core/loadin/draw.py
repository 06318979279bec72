"""What devices draw from the mains: what they say, or what is typical of their kind (W, ±; unsourced experience)."""

from kymaton.core.model import Device, Figure


def _w(value: float, plus_minus: float) -> Figure:
    return Figure(value=value, plus_minus=plus_minus)


# what is fed by its lead, runs in a computer, or stands elsewhere draws nothing here
TYPICAL_W: dict[str, Figure] = {
    "desk": _w(50, 25), "switcher": _w(20, 8), "computer": _w(60, 30), "encoder": _w(100, 50), "laptop": _w(45, 20),
    "picture-player": _w(45, 20), "player": _w(45, 20), "second-computer": _w(120, 60), "media-player": _w(10, 5),
    "camera": _w(10, 5), "loudspeakers": _w(80, 50), "amplifier": _w(200, 120), "screen": _w(40, 20),
    "recorder": _w(12, 6), "track-recorder": _w(15, 7), "router": _w(10, 4), "dock": _w(15, 8),
    "converter": _w(4, 2), "embedder": _w(5, 2), "de-embedder": _w(5, 2), "scaler": _w(10, 4),
    "frame-delay": _w(10, 4), "hdmi-splitter": _w(5, 2), "sdi-splitter": _w(5, 2), "headphone-amplifier": _w(8, 4),
    "in-ear": _w(6, 3), "wireless-microphone": _w(6, 3), "preamp": _w(10, 5), "network-audio": _w(15, 6),
    "network-link": _w(12, 5), "delay-unit": _w(15, 6), "monitor-controller": _w(5, 2),
}  # fmt: skip
BY_DETAIL = {
    ("usb-hub", "powered"): _w(10, 5),
    ("hdmi-extender", "powered"): _w(3, 1),
    ("converting-screen", ""): _w(25, 10),
}


def watts(device: Device) -> Figure | None:
    """What a device draws while it works; None where that is nothing, or comes by another lead."""
    if device.power_w is not None:
        return device.power_w
    if device.inside is not None:
        return None
    for (kind, word), figure in BY_DETAIL.items():
        if device.kind == kind and word in device.detail and "without" not in device.detail:
            return figure
    return TYPICAL_W.get(device.kind)
