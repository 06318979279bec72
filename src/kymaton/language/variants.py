"""Variants of a rig: named differences, told in words, made by the same lines as the rig itself."""

from msgspec import Struct

from kymaton.core.checks.report import Report
from kymaton.core.edits.controls import Change
from kymaton.core.edits.ids import free_id
from kymaton.core.model import Show, ShowError, Variant
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
    """A difference said like on the map: `set desk 1 to muted`, `disconnect camera`. Raises ShowError."""
    after = read_command(show, line).show
    if len(after.devices) != len(show.devices) or {c.id for c in after.cables} - {c.id for c in show.cables}:
        raise ShowError("A variant changes settings and takes leads away; devices and new leads belong to the rig.")
    controls = {c.id: c.value for c in after.controls() if c.value != show.control(c.id).value}
    gone = {c.id for c in show.cables} - {c.id for c in after.cables}
    if not controls and not gone:
        raise ShowError("That is so already, in every variant.")
    old = next(v for v in show.variants if v.id == id)
    new = old.evolve(
        controls={**old.controls, **controls}, unplugged=tuple(dict.fromkeys((*old.unplugged, *sorted(gone))))
    )
    return validated(show.evolve(variants=tuple(new if v.id == id else v for v in show.variants)))


def differences(show: Show, variant: Variant) -> list[str]:
    """What a variant does to the rig, a line each."""
    lines = [describe(show, Change(None, id, show.control(id).value, value)) for id, value in variant.controls.items()]
    for id in variant.unplugged:
        cable = show.cable(id)
        lines.append(f"Unplug {show.port_label(cable.source)} from {show.port_label(cable.target)}")
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
        here = {
            f.key: f
            for (id, _), r in report.variants.items()
            if id == variant.id
            for f in r.findings
            if f.severity == "fault"
        }
        brings = dict.fromkeys(f.sentence for key, f in here.items() if key not in plain)
        cures = dict.fromkeys(f.sentence for key, f in plain.items() if key not in here)
        found.append(Comparison(variant.name, len(here), len(plain), tuple(brings), tuple(cures)))
    return found
