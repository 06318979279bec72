"""Lines about the load-in: what is in the cases, how leads run, what feeds what, what a venue may have.

`stock 4 XLR 10 m`, `stock 1 HDMI 5 m to buy for 12`, `run Stage to Desk 12 m, 2 corners, up 3 m, crossing 2 m`,
`strip A gives 10 A`, `brick gives 12 V 2 A`, `strip A hangs on circuit 1`, `desk main meets XLR, phono`, `computer USB
1-2 share one bus`, `desk is from Anna, back 2026-12-14, in case 2`, `camera 2 is bought used`, `viewer runs on laptop`,
`desk has address 10.77.7.12`. What the day brings: `camera b did not come`, `the desk is dead`, `Small room instead of
Hall`.
"""

import datetime
import ipaddress
import re
from collections.abc import Iterable
from typing import Any, cast

from kymaton.core.cable_match import SPELLINGS
from kymaton.core.edits.devices import put_device
from kymaton.core.edits.people import place_called
from kymaton.core.loadin.computing import SORTS
from kymaton.core.loadin.rates import said_rate
from kymaton.core.model import Meeting, Run, Show, ShowError, Stock, Supply
from kymaton.core.model.device import Ownership
from kymaton.core.model.show import validated
from kymaton.core.planning.day import told, ways_without
from kymaton.core.words import counted, joined, lowered, plain
from kymaton.language.commands import find_device, find_devices
from kymaton.language.patch import Patch, find_end

STOCK = re.compile(
    r"^stock\s+(\d+)\s+(.+?)(?:\s+(\d+(?:\.\d+)?)\s*m)?(?:,?\s+(owned|borrowed|to buy))?"
    r"(?:,?\s+for\s+(\d+(?:\.\d+)?))?(?:,?\s+in\s+(.+))?$",
    re.IGNORECASE,
)
RUN = re.compile(r"^run\s+(.+?)\s+to\s+(.+?)\s+(\d+(?:\.\d+)?)\s*m((?:,.*)?)$", re.IGNORECASE)
CORNERS = re.compile(r"^(\d+)\s+corners?$")
ALONG = re.compile(r"^(up|crossing)\s+(\d+(?:\.\d+)?)\s*m$")
GIVES = re.compile(r"^(.+?)\s+gives\s+(?:nothing|(?:(\d+(?:\.\d+)?)\s*V\s*,?\s*)?(\d+(?:\.\d+)?)\s*A)$", re.IGNORECASE)
HANGS = re.compile(r"^(.+?)\s+hangs\s+on\s+(.+)$", re.IGNORECASE)
MEETS = re.compile(r"^(.+?)\s+meets\s+(.+)$", re.IGNORECASE)
SHARES = re.compile(r"^(.+?)\s+shares?\s+one\s+bus$", re.IGNORECASE)
FROM = re.compile(
    r"^(.+?)\s+(?:is|are)\s+from\s+(.+?)(?:,\s*back\s+(\d{4}-\d{2}-\d{2}))?(?:,\s*in\s+(.+))?$", re.IGNORECASE
)
PACKED_IN = re.compile(r"^(.+?)\s+(?:travels?)\s+in\s+(.+)$", re.IGNORECASE)
RUNS_ON = re.compile(r"^(.+?)\s+runs?\s+(?:on|inside)\s+(.+)$", re.IGNORECASE)
ADDRESS = re.compile(r"^(.+?)\s+has\s+address\s+(\S+)$", re.IGNORECASE)
SORT = re.compile(r"^(.+?)\s+is\s+an?\s+(old|ordinary|strong)\s+computer$", re.IGNORECASE)
USED = re.compile(r"^(.+?)\s+(?:is|are)\s+bought\s+(used|new)$", re.IGNORECASE)
GONE = re.compile(r"^(.+?)\s+(?:did not come|does not come|is dead|is broken|is missing)$", re.IGNORECASE)
INSTEAD = re.compile(r"^(.+?)\s+instead\s+of\s+(.+)$", re.IGNORECASE)
LOAD_VERBS = {"stock": "stock 4 XLR 10 m, to buy for 12, in case 2", "run": "run Stage to Desk 12 m, 2 corners, up 3 m"}
INSIDE = {
    "gives": "strip A gives 10 A, or brick gives 12 V 2 A", "hangs on": "strip A hangs on circuit 1",
    "meets": "desk main meets XLR, phono or 3.5 mm", "is from": "desk is from Anna, back 2026-12-14",
    "travels in": "desk travels in case 1", "has address": "desk has address 10.77.7.20",
    "runs on": "viewer runs on laptop", "instead of": "Small room instead of Hall",
}  # fmt: skip
NOTHING = ("nothing", "none")
MOST_LOST = 3
MOST_STOCK = 1000  # of one kind; chosen
CONNECTORS = ("XLR", "TRS 6.3 mm", "TS 6.3 mm", "3.5 mm stereo", "3.5 mm mono", "phono", "HDMI A", "BNC", "RJ45",
              "USB A", "USB C", "VGA", "speaker")  # fmt: skip
ALSO_CALLED = {"hdmi": "HDMI A", "sdi": "BNC", "3.5 mm": "3.5 mm stereo", "jack": "TRS 6.3 mm", "network": "RJ45",
               "rca": "phono", "vga": "VGA", "trs": "TRS 6.3 mm", "ts": "TS 6.3 mm"}  # fmt: skip


def lines_of_load(show: Show) -> list[tuple[str, str]]:
    """Every line about supplies, runs, stock, what meets the house, the uplink, each with the one to take it back."""
    found = []
    for supply in show.supplies:
        if supply.amperes is not None:
            line = f"{supply.name} gives {plain(supply.volts, 3)} V {plain(supply.amperes, 3)} A"
            found.append((line, f"{supply.name} gives nothing"))
        if supply.hangs_on:
            found.append((f"{supply.name} hangs on {supply.hangs_on}", f"{supply.name} hangs on nothing"))
    names = {p.id: p.name for p in show.places} | {d.id: d.name for d in show.devices}
    for run in show.runs:
        between = f"run {names[run.source]} to {names[run.target]}"
        line = f"{between} {plain(run.metres, 3)} m"
        line += f", {counted(run.corners, 'corner')}" if run.corners else ""
        line += f", up {plain(run.up_m, 3)} m" if run.up_m else ""
        line += f", crossing {plain(run.crossing_m, 3)} m" if run.crossing_m else ""
        found.append((line, f"{between} 0 m"))
    for item in show.stock:
        what = item.kind + (f" {plain(item.length_m, 3)} m" if item.length_m else "")
        line = f"stock {item.many} {what}"
        case = f", in {item.case}" if item.case else ""
        line += f", {item.owned}" if item.owned != "owned" else ""
        line += f" for {plain(item.price, 3)}" if item.price else ""
        found.append((f"{line}{case}", f"stock 0 {what}, {item.owned}{case}"))
    for meeting in show.meetings:
        name = show.port_label(meeting.port)
        found.append((f"{name} meets {', '.join(meeting.sockets)}", f"{name} meets nothing"))
    goals = show.goals
    if goals.uplink_bit_per_s:
        second = goals.second_uplink_bit_per_s
        more = f", second {said_rate(second)} after {plain(goals.fail_over_s, 3)} s" if second else ""
        found.append((f"uplink {said_rate(goals.uplink_bit_per_s)}{more}", "uplink nothing"))
    return found


def read_load_line(show: Show, line: str) -> Patch | None:
    """What a line about the load-in does; None for another line. Raises ShowError with one sentence."""
    for form, read in (
        (STOCK, _stock), (RUN, _run), (GIVES, _gives), (HANGS, _hangs), (SHARES, _shares), (MEETS, _meets),
        (USED, _used), (SORT, _sort), (RUNS_ON, _runs_on), (ADDRESS, _address), (FROM, _from), (PACKED_IN, _packed),
    ):  # fmt: skip
        match = form.match(line)
        if match is not None:
            return Patch(validated(read(show, match)), line)
    gone, instead = GONE.match(line), INSTEAD.match(line)
    if gone is not None:
        return without(show, find_device(show, gone[1]).id)
    return None if instead is None else _instead(show, instead[1], instead[2])


def form_meant(line: str) -> str | None:
    """An example of what a line that could not be read was likely meant to be; None where it is of another sort."""
    said = f" {' '.join(line.lower().split())} "
    inside = next((form for words, form in INSIDE.items() if f" {words} " in said), None)
    return LOAD_VERBS.get(said.split()[0], inside) if said.strip() else None


def without(show: Show, device: str) -> Patch:
    """The day goes on without a device, by the best way there is; in words what that is and what is lost."""
    best = ways_without(show, device)[0]
    lost = f"; lost: {joined(lowered(x) for x in best.lost[:MOST_LOST])}" if best.lost else ""
    more = f" and {len(best.lost) - MOST_LOST} more" if len(best.lost) > MOST_LOST else ""
    return Patch(best.show, f"without {show.device(device).name}: {told(best)}{lost}{more}")


def _instead(show: Show, new: str, old: str) -> Patch:
    """Another room: people, devices and what sounds there go there; ways of leads that were measured do not."""
    said = old.strip().lower().removeprefix("the ")
    before = next((p.id for p in show.places if said in (p.name.lower(), p.id)), None)
    if before is None:
        raise ShowError(f"No place is called '{old.strip()}'.")
    show, after = place_called(show, re.sub(r"^the\s+", "", new.strip(), flags=re.IGNORECASE))

    def moved(things: Iterable[Any]) -> tuple[Any, ...]:
        return tuple(t.evolve(place=after) if t.place == before else t for t in things)

    runs = tuple(r for r in show.runs if before not in (r.source, r.target))
    show = show.evolve(devices=moved(show.devices), sounds=moved(show.sounds), listeners=moved(show.listeners))
    lost = len(show.runs) - len(runs)
    text = f"{show.place_of(after).name} instead of {show.place_of(before).name}"  # type: ignore[union-attr]
    text += f"; {counted(lost, 'run')} to be measured anew" if lost else ""
    return Patch(validated(show.evolve(runs=runs)), text)


def _stock(show: Show, match: re.Match[str]) -> Show:
    """How many of a kind are there; of no more than none nothing is kept."""
    if int(match[1]) > MOST_STOCK:
        raise ShowError(f"{match[1]} of them are not in stock; up to {MOST_STOCK} may be.")
    owned = cast(Ownership, (match[4] or "owned").lower())
    item = Stock.checked(
        kind=match[2].strip(), many=int(match[1]), length_m=float(match[3] or 0.0), owned=owned,
        price=float(match[5] or 0.0), case=(match[6] or "").strip(),
    )  # fmt: skip
    what = (item.kind.lower(), item.length_m, item.owned, item.case)
    stock = [s for s in show.stock if (s.kind.lower(), s.length_m, s.owned, s.case) != what or s.price != item.price]
    if not item.many:
        said = (what[2] if match[4] else None, item.case or None)
        stock = [
            s
            for s in show.stock
            if (s.kind.lower(), s.length_m) != what[:2] or said != (said[0] and s.owned, said[1] and s.case)
        ]
        if len(stock) == len(show.stock):
            raise ShowError(f"No {item.kind} of {item.length_m:g} m is in stock.")
        return show.evolve(stock=tuple(stock))
    at = next((n for n, s in enumerate(show.stock) if s not in stock), len(stock))
    return show.evolve(stock=(*stock[:at], item, *stock[at:]))


def _place_or_device(show: Show, text: str) -> tuple[Show, str]:
    """A place or a device of this name; a name that is new is a place."""
    said = text.strip().lower()
    known = [(p.name, p.id) for p in show.places] + [(d.name, d.id) for d in show.devices]
    for name, id in known:
        if said in (name.lower(), id):
            return show, id
    return place_called(show, text.strip())


def _run(show: Show, match: re.Match[str]) -> Show:
    show, source = _place_or_device(show, match[1])
    show, target = _place_or_device(show, match[2])
    if source == target:
        raise ShowError("From a place to itself is no run.")
    found: dict[str, float] = {}
    for part in filter(None, (p.strip().lower() for p in match[4].split(","))):
        corners, along = CORNERS.match(part), ALONG.match(part)
        if corners is not None:
            found["corners"] = int(corners[1])
        elif along is not None:
            found[f"{along[1]}_m"] = float(along[2])
        else:
            raise ShowError(f"'{part}' says nothing about a run: '2 corners', 'up 3 m' and 'crossing 2 m' do.")
    others = tuple(r for r in show.runs if {r.source, r.target} != {source, target})
    if not float(match[3]):
        return show.evolve(runs=others)
    return show.evolve(runs=(*others, Run.checked(source=source, target=target, metres=float(match[3]), **found)))


def _supply(show: Show, name: str) -> Supply:
    said = name.strip()
    known = {d.mains.lower(): d.mains for d in show.devices if d.mains}
    known |= {s.name.lower(): s.name for s in show.supplies}
    title = known.get(said.lower(), said)
    return next((s for s in show.supplies if s.name == title), Supply(name=title))


def _put_supply(show: Show, supply: Supply) -> Show:
    """A supply of which something is known; one of which nothing is, and nothing hangs on it, is gone."""
    if supply == Supply(name=supply.name):
        return show.evolve(supplies=tuple(s for s in show.supplies if s.name != supply.name))
    if any(s.name == supply.name for s in show.supplies):
        return show.evolve(supplies=tuple(supply if s.name == supply.name else s for s in show.supplies))
    return show.evolve(supplies=(*show.supplies, supply))


def _gives(show: Show, match: re.Match[str]) -> Show:
    before = _supply(show, match[1])
    if match[3] is None:
        return _put_supply(show, Supply(name=before.name, hangs_on=before.hangs_on))
    volts = float(match[2]) if match[2] else before.volts
    return _put_supply(show, Supply.checked(**before.evolve(volts=volts, amperes=float(match[3])).fields()))


def _hangs(show: Show, match: re.Match[str]) -> Show:
    if match[2].strip().lower() in NOTHING:
        return _put_supply(show, _supply(show, match[1]).evolve(hangs_on=""))
    on = _supply(show, match[2])
    return _put_supply(show, _supply(show, match[1]).evolve(hangs_on=on.name))


def _shares(show: Show, match: re.Match[str]) -> Show:
    ports = find_end(show, match[1], "in").ports
    device = show.device(ports[0].partition("/")[0])
    group = tuple(p.partition("/")[2] for p in ports)
    if len(group) < 2 or any(show.port(p).signal != "usb" for p in ports):
        raise ShowError("Say which USB sockets of one device: call computer USB 1-2 share one bus.")
    others = (g for g in device.usb_shared if not set(g) & set(group))
    return put_device(show, device.evolve(usb_shared=(*others, group)))


def _connector(text: str) -> str:
    said = " ".join(text.lower().split())
    by_name = {c.lower(): c for c in CONNECTORS} | {k.lower(): v for k, v in SPELLINGS.items()} | ALSO_CALLED
    if said not in by_name:
        raise ShowError(f"'{text.strip()}' is no connector: {', '.join(CONNECTORS)}.")
    return by_name[said]


def _meets(show: Show, match: re.Match[str]) -> Show:
    port = _any_port(show, match[1])
    if match[2].strip().lower() in NOTHING:
        return show.evolve(meetings=tuple(m for m in show.meetings if m.port != port))
    sockets = tuple(dict.fromkeys(_connector(s) for s in re.split(r",\s*|\s+or\s+", match[2]) if s.strip()))
    others = (m for m in show.meetings if m.port != port)
    return show.evolve(meetings=(*others, Meeting(port=port, sockets=sockets)))


def _any_port(show: Show, text: str) -> str:
    """The output of this name, or else the input. Raises ShowError."""
    try:
        found = find_end(show, text, "out", True)
    except ShowError:
        found = find_end(show, text, "in")
    if not found.said or found.ports[0] not in show.ports:
        raise ShowError(f"Say which socket of it: {show.device(found.owner).name} has several.")
    return found.ports[0]


def _used(show: Show, match: re.Match[str]) -> Show:
    for device in find_devices(show, match[1]):
        show = put_device(show, device.evolve(gear=device.gear.evolve(used=match[2].lower() == "used")))
    return show


def _from(show: Show, match: re.Match[str]) -> Show:
    if match[3]:
        try:
            datetime.date.fromisoformat(match[3])
        except ValueError:
            raise ShowError(f"'{match[3]}' is not a date like 2026-12-12.") from None
    for device in find_devices(show, match[1]):
        gear = device.gear.evolve(lender=match[2].strip(), back=match[3] or device.gear.back)
        gear = gear.evolve(case=match[4].strip()) if match[4] else gear
        show = put_device(show, device.evolve(owned="borrowed", gear=gear))
    return show


def _packed(show: Show, match: re.Match[str]) -> Show:
    for device in find_devices(show, match[1]):
        at = find_device(show, device.name)
        show = put_device(show, at.evolve(gear=at.gear.evolve(case=match[2].strip())))
    return show


def _sort(show: Show, match: re.Match[str]) -> Show:
    """How fast a computer encodes, by its sort: assumed until it is measured."""
    for device in find_devices(show, match[1]):
        speed = SORTS[match[2].lower()]
        show = put_device(show, device.evolve(loads={**device.loads, "encodes_mpx_s": speed}))
    return show


def _runs_on(show: Show, match: re.Match[str]) -> Show:
    inside = None if match[2].strip().lower() in NOTHING else find_device(show, match[2]).id
    for device in find_devices(show, match[1]):
        show = put_device(show, device.evolve(inside=inside))
    return show


def _address(show: Show, match: re.Match[str]) -> Show:
    device = find_device(show, match[1])
    if match[2].lower() in NOTHING:
        return put_device(show, device.evolve(address=""))
    try:
        address = str(ipaddress.IPv4Address(match[2]))
    except ValueError:
        raise ShowError(f"'{match[2]}' is no address like 10.77.0.12.") from None
    return put_device(show, device.evolve(address=address))
