"""What a hand can do about a finding of the load-in: another lead, another socket, another address. Each is proved.

These are no settings of controls: they change the rig, as one step.
"""

from collections.abc import Callable

from msgspec import Struct

from kymaton.core.checks.registry import Finding, find_in_rig
from kymaton.core.edits.cables import put_cable
from kymaton.core.edits.devices import put_device
from kymaton.core.loadin.mains import root_of, supply_called
from kymaton.core.loadin.network import free_address
from kymaton.core.loadin.runs import bought_m, needed_m
from kymaton.core.loadin.usb_plan import moved, needed_plans, told
from kymaton.core.model import Show
from kymaton.core.words import metres, sentence, the_device


class Cure(Struct, frozen=True):
    """What to do, in a few words for a button and as a sentence; the show with it."""

    title: str
    text: str
    show: Show


def cure_of(show: Show, finding: Finding) -> Cure | None:
    """What ends a finding; None where nothing is known, or what is known does not end it."""
    find = CURES.get(finding.id)
    cure = find(show, finding) if find is not None else None
    if cure is None or any(f.key == finding.key for f in find_in_rig(cure.show)):
        return None
    return cure


def _longer_lead(show: Show, finding: Finding) -> Cure | None:
    cable = next((c for c in show.cables if (c.source, c.target) == finding.ports[:2]), None)
    need = needed_m(show, cable) if cable is not None else None
    if cable is None or need is None:
        return None
    length = bought_m(need)
    after = put_cable(show, cable.evolve(length_m=length))
    return Cure(f"Take {metres(length)}", f"A {cable.kind} lead of {metres(length)} reaches.", after)


def _other_plugs(show: Show, finding: Finding) -> Cure | None:
    plans = [p for p in needed_plans(show) if p.moves]
    after = show
    for plan in plans:
        after = moved(after, plan)
    return Cure("Plug it so", " ".join(told(show, p) for p in plans), after) if plans else None


def _to_the_wall(show: Show, finding: Finding) -> Cure | None:
    strip = str(finding.evidence["strip"])
    root = root_of(show, strip)
    on = "" if root == supply_called(show, strip).hangs_on else root
    supplies = tuple(s.evolve(hangs_on=on) if s.name == strip else s for s in show.supplies)
    where = on or "a socket of the wall"
    return Cure("Plug it into the wall", f"{sentence(strip)} goes into {where}.", show.evolve(supplies=supplies))


def _another_address(show: Show, finding: Finding) -> Cure | None:
    device = show.device(finding.ports[-1])
    address = free_address(show)
    after = put_device(show, device.evolve(address=address))
    return Cure(f"Give it {address}", f"{sentence(str(the_device(show, device.id)))} gets {address}.", after)


CURES: dict[str, Callable[[Show, Finding], Cure | None]] = {
    "lead-too-short": _longer_lead,
    "usb-too-full": _other_plugs,
    "usb-power-short": _other_plugs,
    "strips-chained": _to_the_wall,
    "address-twice": _another_address,
    "address-outside": _another_address,
}
