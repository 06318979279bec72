"""A measured lead taken into the model: as the picture delay of a device, with its source, ± and date."""

import math
from collections.abc import Sequence

from msgspec import Struct

from kymaton.core.edits.devices import put_device
from kymaton.core.edits.ids import free_id
from kymaton.core.model import Figure, Measurement, Show, ShowError
from kymaton.core.signal.av_offset import AVOffset
from kymaton.core.words import lowered, ms, ms_within, sentence, the_device

DISAGREES = 2.0  # times the common uncertainty


class TakenOver(Struct, frozen=True):
    """The show with a measurement in it, and a sentence about what that did."""

    show: Show
    text: str
    disagrees: bool


def compared(show: Show, row: AVOffset, lead_ms: float, plus_minus_ms: float) -> str:
    """Prediction against measurement, in a sentence."""
    apart = lead_ms - row.lead_ms
    sure = math.hypot(row.plus_minus_ms, plus_minus_ms)
    fits = "that fits" if abs(apart) <= max(sure, 1.0) else f"that is {ms(abs(apart))} off"
    return f"Predicted {_told(row.lead_ms, row.plus_minus_ms)}, measured {_told(lead_ms, plus_minus_ms)}: {fits}."


def _told(lead_ms: float, plus_minus_ms: float) -> str:
    return f"{ms_within(abs(lead_ms), plus_minus_ms)} {'early' if lead_ms >= 0 else 'late'}"


class Combined(Struct, frozen=True):
    """What several measurements of one thing tell together, and whether they disagree."""

    lead_ms: float
    plus_minus_ms: float
    disagrees: bool


def combined(measured: Sequence[tuple[float, float]]) -> Combined:
    """Leads with their ± (ms), each weighed by how sure it is.

    Where they scatter more than their ± allows (Birge ratio), the ± of the result grows with the scatter.
    """
    weights = [1 / max(sure, 0.1) ** 2 for _, sure in measured]
    lead = sum(w * value for w, (value, _) in zip(weights, measured, strict=True)) / sum(weights)
    sure = 1 / math.sqrt(sum(weights))
    scatter = sum(w * (value - lead) ** 2 for w, (value, _) in zip(weights, measured, strict=True))
    ratio = math.sqrt(scatter / max(1, len(measured) - 1))
    return Combined(lead, sure * max(1.0, ratio), ratio > DISAGREES)


def record_only(show: Show, row: AVOffset, measurement: Measurement) -> Show:
    """The show with a measurement kept, and no figure changed."""
    id = free_id(measurement.id, (m.id for m in show.measurements))
    kept = measurement.evolve(id=id, predicted_ms=row.lead_ms)
    return show.evolve(measurements=(*show.measurements, kept))


def take_over(
    show: Show, row: AVOffset, measurement: Measurement, device_id: str | None = None, then: Show | None = None
) -> TakenOver:
    """Let the picture delay of a device on the way (the camera by default) explain what was measured.

    `row` is the prediction, and `then` the show, of when the recording was made: what was entered since does not count.

    A figure that was measured before and agrees is combined with the new one, each weighed by its certainty; one that
    disagrees gives way, and that is said. Raises ShowError when the delay would be below nothing.
    """
    device = show.device(device_id or row.camera)
    name = the_device(show, device.id)
    routes = [r for r in device.routes if r.medium == "picture"]
    if not routes:
        raise ShowError(sentence(f"{name.do('delay')} no picture."))
    before = max((r.delay_ms for r in routes), key=lambda f: f.value)
    believed = [r.delay_ms.value for r in (then or show).device(device.id).routes if r.medium == "picture"]
    value = max(believed) + measurement.lead_ms - row.lead_ms
    if value < 0:
        raise ShowError(
            sentence(
                f"{name} would have to be {ms(-value)} faster than at once: choose another device, or measure again."
            )
        )
    sure = max(measurement.plus_minus_ms, 0.1)
    text, disagrees = f"{name.do('delay')} the picture by {ms_within(value, sure)}, measured.", False
    if before.source == "measured":
        common = math.hypot(before.plus_minus, sure)
        if abs(value - before.value) > DISAGREES * common:
            disagrees = True
            earlier = ms_within(before.value, before.plus_minus)
            text += f" That disagrees with {earlier}, measured {before.date or 'before'}."
        elif before.plus_minus > 0:
            old, new = 1 / before.plus_minus**2, 1 / sure**2
            value, sure = (before.value * old + value * new) / (old + new), math.sqrt(1 / (old + new))
            text = f"{name.do('delay')} the picture by {ms_within(value, sure)}, two measurements combined."
    figure = Figure(value=round(value, 3), plus_minus=round(sure, 3), source="measured", date=measurement.date)
    new_routes = tuple(
        r.evolve(delay_ms=figure) if r.medium == "picture" and r.delay_ms == before else r for r in device.routes
    )
    after = put_device(show, device.evolve(routes=new_routes))
    note = f"{lowered(device.name)}: picture {ms(value)}"
    return TakenOver(record_only(after, row, measurement.evolve(note=note)), sentence(text), disagrees)
