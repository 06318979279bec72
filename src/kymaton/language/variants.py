"""Variants of a rig: named differences, told in words, made by the same lines as the rig itself."""

from msgspec import Struct

from kymaton.core.checks.report import Report
from kymaton.core.edits.controls import Change
from kymaton.core.edits.ids import free_id
from kymaton.core.edits.variants import in_variant
from kymaton.core.model import Device, Show, ShowError, Variant
from kymaton.core.model.show import validated
from kymaton.core.planning.fixes import describe
from kymaton.language.commands import read_command


def add_variant(show: Show, name: str) -> tuple[Show, str]:
    """A variant that differs in nothing yet, and its id. Raises ShowError."""
    name = name.strip()
    if not name:
        raise ShowError("A variant needs a name.")
    if any(v.name.lower() == name.lower() for v in show.variants):
        raise ShowError(f"There is a variant called {name} already.")
    id = free_id(name, (v.id for v in show.variants))
    return show.evolve(variants=(*show.variants, Variant(id=id, name=name))), id


def remove_variant(show: Show, id: str) -> Show:
    """The show without a variant."""
    return show.evolve(variants=tuple(v for v in show.variants if v.id != id))


def add_difference(show: Show, id: str, line: str) -> Show:
    """A difference said like on the map: `set desk 1 to muted`, `disconnect camera`, `add dynamic mic`, `remove desk`.

    Raises ShowError.
    """
    old = next(v for v in show.variants if v.id == id)
    before = in_variant(show, old)
    after = read_command(before, line).show
    if after == before:
        raise ShowError("That is so already in this variant.")
    new = _difference(show, old, after)
    return validated(show.evolve(variants=tuple(new if v.id == id else v for v in show.variants)))


def _difference(show: Show, old: Variant, after: Show) -> Variant:
    """The variant by which a show becomes another rig. Raises ShowError where no variant can say that."""
    devices, cables = {d.id: d for d in show.devices}, {c.id: c for c in show.cables}
    there = {d.id for d in after.devices}
    for device in after.devices:
        if device.id in devices and _bare(device) != _bare(devices[device.id]):
            raise ShowError(f"A variant leaves {device.name} as it is made: remove it there, and add another one.")
    plain = {c.id: c.value for c in show.controls()}
    own = {c.id for d in after.devices if d.id not in devices for c in d.controls}
    plugged = {c.id for c in after.cables if c.plugged}
    ends = {c.id: {c.source.partition("/")[0], c.target.partition("/")[0]} for c in show.cables}
    gone = {id for id in devices if id not in there}
    return old.evolve(
        controls={c.id: c.value for c in after.controls() if c.id not in own and c.value != plain.get(c.id)},
        unplugged=tuple(id for id, c in cables.items() if c.plugged and not ends[id] & gone and id not in plugged),
        without=tuple(id for id in devices if id in gone),
        devices=tuple(d for d in after.devices if d.id not in devices),
        cables=tuple(c for c in after.cables if c.id not in cables),
    )


def _bare(device: Device) -> Device:
    """A device without its settings."""
    return device.evolve(controls=tuple(c.evolve(value=True) for c in device.controls))


def differences(show: Show, variant: Variant) -> list[str]:
    """What a variant does to the rig, a line each."""
    lines = [describe(show, Change(None, id, show.control(id).value, value)) for id, value in variant.controls.items()]
    for id in variant.unplugged:
        cable = show.cable(id)
        lines.append(f"Unplug {show.port_label(cable.source)} from {show.port_label(cable.target)}")
    there = in_variant(show, variant)
    for cue, values in variant.in_cues.items():
        for id, value in values.items():
            said = describe(there, Change(cue, id, there.control(id).value, value))
            lines.append(f"In {show.cue(cue).name}: {said[:1].lower()}{said[1:]}")
    lines += [f"Without {show.device(id).name}" for id in variant.without]
    lines += [f"Add {device.name}" for device in variant.devices]
    lines += [f"Connect {there.port_label(c.source)} to {there.port_label(c.target)}" for c in variant.cables]
    return lines


class Comparison(Struct, frozen=True):
    """A variant beside the plain rig: faults of both, and what it brings and cures."""

    name: str
    faults: int
    plain_faults: int
    brings: tuple[str, ...]
    cures: tuple[str, ...]


def compare(report: Report) -> list[Comparison]:
    """Every variant of the report's show beside the plain rig, cue by cue."""
    found = []
    plain = {f.key: f for r in report.cues.values() for f in r.findings if f.severity == "fault"}
    for variant in report.show.variants:
        cues = report.variants[variant.id].cues
        here = {f.key: f for r in cues.values() for f in r.findings if f.severity == "fault"}
        brings = dict.fromkeys(f.sentence for key, f in here.items() if key not in plain)
        cures = dict.fromkeys(f.sentence for key, f in plain.items() if key not in here)
        found.append(Comparison(variant.name, len(here), len(plain), tuple(brings), tuple(cures)))
    return found
