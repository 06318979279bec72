"""All budgets of a show as lines: what, needed, verdict, in words; what the window, the sheet and the command show."""

import math

from msgspec import Struct

from kymaton.core.loadin.charging import charges_of
from kymaton.core.loadin.computing import computers_of
from kymaton.core.loadin.mains import MARGIN, USUAL_A, USUAL_V, feeds_of, total_w
from kymaton.core.loadin.network import traffic_of
from kymaton.core.loadin.rates import said_rate
from kymaton.core.loadin.runs import UNSAID_M, is_lead, needed_m
from kymaton.core.loadin.stands import cases_of
from kymaton.core.loadin.uplink import fail_over, uplink_of
from kymaton.core.loadin.usb import tree_of
from kymaton.core.loadin.verdict import Fits, verdict
from kymaton.core.model import Show
from kymaton.core.words import joined, metres, number, sentence, the_device

Area = str
STORE_S = 6.0  # that viewers have in store where nobody says; between the 2 and 7 s of a low-latency stream


class Line(Struct, frozen=True):
    """One budget, or a part of the one above it (`part`): where its figures come from stands in `source`."""

    area: Area
    what: str
    needed: str
    fits: Fits
    sentence: str
    source: str
    part: bool = False


def lines_of(show: Show, store_s: float = STORE_S) -> list[Line]:
    """Every budget of a show, area by area."""
    return [
        *_uplink(show, store_s), *_usb(show), *_computers(show), *_power(show), *_runs(show), *_network(show),
        *_cases(show),
    ]  # fmt: skip


def _uplink(show: Show, store_s: float) -> list[Line]:
    uplink = uplink_of(show)
    needed = said_rate(uplink.total) if uplink.needs else ""
    sources = f"rates {joined(sorted({n.rate.source for n in uplink.needs}))}" if uplink.needs else ""
    found = [Line("Uplink", "Uplink", needed, uplink.fits, uplink.sentence, sources)]
    found += [Line("Uplink", n.what, said_rate(n.rate.value), "fits", "", n.rate.source, True) for n in uplink.needs]
    second = fail_over(show, store_s)
    if second is not None:
        found.append(Line("Uplink", "Second line", said_rate(uplink.total), second.fits, second.sentence, "computed"))
    return found


def _usb(show: Show) -> list[Line]:
    tree = tree_of(show)
    found = []
    for link in tree.links:
        bus = f"{link.where}, USB {2 if link.usb2 else 3}"
        found.append(Line("USB", bus, f"{number(link.need)} MB/s", link.fits, sentence(link.sentence), "assumed"))
        for box in tree.boxes:
            if box.id in link.boxes and len(link.boxes) > 1:
                need = f"{number(box.need.value, 1)} MB/s"
                found.append(Line("USB", show.device(box.id).name, need, "fits", "", box.need.source, True))
    for power in tree.powers:
        need = f"{number(power.need)} mA"
        found.append(Line("USB", f"{power.where}, power", need, power.fits, sentence(power.sentence), "assumed"))
    return found


def _computers(show: Show) -> list[Line]:
    found = []
    for each in computers_of(show):
        name = show.device(each.computer).name
        need = f"{number(each.percent)} %"
        found.append(Line("Computer", name, need, each.fits, sentence(each.sentence), each.speed.source))
        for task in each.tasks:
            found.append(
                Line("Computer", task.what, f"{number(task.percent.value)} %", "fits", "", task.percent.source, True)
            )
    return found


def _power(show: Show) -> list[Line]:
    found = []
    for feed in feeds_of(show):
        unit = f"{number(feed.watts / feed.volts, 1)} A" if feed.is_low else f"{number(feed.watts)} W"
        source = "16 A assumed" if feed.assumed else "as it was said"
        found.append(Line("Power", feed.name, unit, feed.fits, sentence(feed.sentence), source))
    total = total_w(show)
    if total.value:
        one = MARGIN * USUAL_A * USUAL_V
        text = f"All of the rig draws about {number(total.value)} ± {number(total.plus_minus)} W; one usual circuit "
        text += f"({number(USUAL_A)} A, {number(USUAL_V)} V) carries {number(one)} W for hours"
        fits_one = verdict(total.value, total.plus_minus, one)
        found.append(Line("Power", "All on one circuit", f"{number(total.value)} W", fits_one, f"{text}.", "assumed"))
    for charge in charges_of(show):
        wants = f"{number(charge.wants.value)} W"
        computer = the_device(show, charge.computer)
        lasts = "" if math.isinf(charge.lasts_h) else f", so that it lasts {number(charge.lasts_h, 1)} h at worst"
        said = f"{the_device(show, charge.dock)} gives {computer} {number(charge.gets_w)} W of {wants}{lasts}"
        fits: Fits = "fits" if charge.holds else "does not fit"
        found.append(Line("Power", f"{show.device(charge.computer).name}, charging", wants, fits,
                          sentence(said), charge.wants.source))  # fmt: skip
    return found


def _runs(show: Show) -> list[Line]:
    """Every lead whose way is known: how long it has to be, and how long it is."""
    found = []
    for cable in show.cables:
        need = needed_m(show, cable) if cable.plugged and is_lead(cable) else None
        if need is not None:
            name = f"{show.port_label(cable.source)} to {show.port_label(cable.target)}"
            short: Fits = "does not fit" if cable.length_m not in (0.0, UNSAID_M) else "not known"
            fits: Fits = "fits" if cable.length_m >= need else short
            said = f"The {cable.kind} lead is {metres(cable.length_m)} long"
            said = said if fits != "not known" else f"Nobody has said how long the {cable.kind} lead is"
            found.append(Line("Runs", name, metres(need), fits, said, "as the run was said, with slack"))
    return found


def _network(show: Show) -> list[Line]:
    return [
        Line(
            "Network",
            ", ".join(show.device(d).name for d in t.devices),
            said_rate(t.rate.value),
            t.fits,
            sentence(t.sentence),
            "assumed",
        )
        for t in traffic_of(show)
    ]


def _cases(show: Show) -> list[Line]:
    found = []
    for case in cases_of(show):
        said = f"{number(case.units)} U; with its lids on it sheds about {number(case.sheds)} W"
        fits: Fits = "does not fit" if case.is_hot else "fits"
        found.append(Line("Case", case.name, f"{number(case.watts)} W", fits, sentence(said), "assumed"))
    return found
