"""What the path map says of a plate or a cable."""

from kymaton.app.path.layout import Plate
from kymaton.core.model import Show
from kymaton.core.words import joined, number


def cable_told(show: Show, cable_id: str) -> str:
    """A cable: from where to where, of which kind, how long."""
    cable = show.cable(cable_id)
    length = f", {number(cable.length_m, 2).rstrip('0').rstrip('.')} m" if cable.length_m else ""
    kind = {"air": "through air", "held": "direct"}.get(cable.kind, cable.kind)
    return f"{show.port_label(cable.source)} to {show.port_label(cable.target)}: {kind}{length}"


def plate_told(show: Show, plate: Plate, plate_of: dict[str, str]) -> str:
    """A plate: what it is, its delays with their sources; of a folded place, what is in it."""
    kind = plate.id.partition("/")[0]
    if kind in ("sound", "listener"):
        return f"{plate.title}: {plate.detail}"
    if plate.id in plate_of.values():
        inside = [show.device(d).name for d, p in plate_of.items() if p == plate.id]
        return f"{plate.title}: {joined(inside)}. A click opens it."
    device = show.device(plate.id)
    delays = [r.delay_ms for r in device.routes if r.delay_ms.value]
    lines = [f"{device.name}: {device.detail}"]
    for figure in {(d.value, d.plus_minus, d.source, d.date): d for d in delays}.values():
        spread = f" ± {number(figure.plus_minus, 1)}" if figure.plus_minus else ""
        lines.append(f"delay {number(figure.value, 1)}{spread} ms, {figure.source} {figure.date}".strip())
    return "\n".join(lines)
