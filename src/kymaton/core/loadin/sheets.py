"""The sheets of a load-in: what stands on paper, on the telephone and in CSV, each worked out from the show."""

from collections.abc import Callable, Iterator

from kymaton.core.checks.report import Report
from kymaton.core.loadin.budgets import lines_of
from kymaton.core.loadin.gear import is_carried, spares_of
from kymaton.core.loadin.leads import Lead, leads_of
from kymaton.core.loadin.mains import CAUTION, feeds_of
from kymaton.core.loadin.network import members_of, network_of, router_of
from kymaton.core.loadin.order import deal_out, tasks_of
from kymaton.core.loadin.packing import came_back, packing, shopping
from kymaton.core.loadin.runs import is_lead, relieved, run_of, tape_m
from kymaton.core.loadin.sheet import Row, Sheet, said_m, without_last
from kymaton.core.loadin.stands import tipping
from kymaton.core.loadin.venue import bag_of
from kymaton.core.model import Device, Port, Show
from kymaton.core.words import counted, joined, number, sentence, the_device

HANDS = 2
MOST_TOLD = 4  # sounds that come by one socket; more are a mix


def sheets_of(show: Show, hands: int = HANDS, report: Report | None = None) -> list[Sheet]:
    """Every sheet that has something on it, in the order in which they are needed."""
    leads = leads_of(show)
    makers: tuple[Callable[[], Sheet], ...] = (
        lambda: shopping(show, leads),
        lambda: packing(show),
        lambda: order(show, hands),
        lambda: schedule(show, leads),
        lambda: inputs(show, leads),
        lambda: outputs(show, leads),
        lambda: patch(show, leads),
        lambda: budgets(show),
        lambda: network(show),
        lambda: venue(show),
        lambda: risks(show, report or Report(show)),
    )
    made = [s for s in (make() for make in makers) if s.rows]
    if any(t.sheet == "packed" for t in show.ticks):
        made += came_back(made)
    return made


def schedule(show: Show, leads: list[Lead]) -> Sheet:
    """The cable schedule: each lead once."""
    rows = tuple(
        Row((x.number, x.here, x.there, x.kind, said_m(x.needed_m), x.taken, x.adapters or "none"), x.key)
        for x in leads
    )
    sheet = Sheet(
        "cables", "Cable schedule", f"{counted(len(leads), 'lead')}. Label both ends.",
        (("No", 0.6), ("From", 2.6), ("To", 2.6), ("Kind", 1.6), ("Needs", 1.0), ("Lead", 1.9), ("Adapters", 1.2)),
        rows, "laid",
    )  # fmt: skip
    return sheet if any(x.adapters for x in leads) else without_last(sheet)


def _sounds_at(show: Show, port: str, depth: int = 8) -> list[str]:
    """The sounds that come to a socket by what only passes on, not through what mixes."""
    found: list[str] = []
    for cable in show.cables_to.get(port, ()):
        if cable.source.startswith("sound/"):
            found.append(show.sound(cable.source.partition("/")[2]).name)
        elif cable.source in show.ports and depth:
            device, at = show.ports[cable.source]
            into = {r.source for r in device.routes if r.target == at.id and r.medium == "sound"}
            if device.kind in ("desk", "switcher", "streaming-program", "computer-mix") or len(into) > MOST_TOLD:
                continue
            for source in sorted(into):
                found += _sounds_at(show, f"{device.id}/{source}", depth - 1)
    return list(dict.fromkeys(found))


MIXES = ("desk", "switcher", "interface", "streaming-program", "computer-mix", "track-recorder", "preamp", "stage-box")


def _at_ports(leads: list[Lead], direction: str) -> dict[str, list[Lead]]:
    """The leads that end at each input, or begin at each output."""
    found: dict[str, list[Lead]] = {}
    for lead in leads:
        for port in lead.ports[1 if direction == "in" else 0]:
            found.setdefault(port, []).append(lead)
    return found


def _of_device(device: Device, direction: str, plugged: dict[str, list[Lead]]) -> Iterator[tuple[Port, Lead]]:
    for port in device.ports:
        if port.direction == direction:
            for lead in plugged.get(f"{device.id}/{port.id}", ()):
                yield port, lead


def _of_mixers(
    show: Show, direction: str, leads: list[Lead], cells: Callable[[Device, Port, Lead], tuple[str, ...]]
) -> tuple[Row, ...]:
    """What is plugged on one side of each device that mixes, under its name."""
    rows: list[Row] = []
    plugged = _at_ports(leads, direction)
    for device in show.devices:
        if device.kind in MIXES:
            here = [Row(cells(device, port, lead)) for port, lead in _of_device(device, direction, plugged)]
            rows += [Row((device.name,), heading=True), *here] if here else []
    return tuple(rows)


def inputs(show: Show, leads: list[Lead]) -> Sheet:
    """What comes into each device that mixes: sound, where from, which lead, what power it takes."""

    def cells(device: Device, port: Port, lead: Lead) -> tuple[str, ...]:
        sounds = joined(_sounds_at(show, f"{device.id}/{port.id}"))
        source = show.port(lead.ports[0][0])
        power = "48 V" if source.phantom == "needed" else "plug-in power" if source.plug_in_power == "needed" else ""
        return port.name, sounds, lead.here, lead.number, source.connector, power

    return Sheet(
        "inputs", "Input list", "",
        (("Input", 1.2), ("Sound", 2.2), ("From", 2.6), ("Lead", 0.7), ("Plug", 1.4), ("Power", 1.1)),
        _of_mixers(show, "in", leads, cells),
    )  # fmt: skip


def outputs(show: Show, leads: list[Lead]) -> Sheet:
    """What goes out of each device that mixes, and who hears it."""

    def cells(_: Device, port: Port, lead: Lead) -> tuple[str, ...]:
        return port.name, lead.there, joined(_listeners(show, lead.ports[1])), lead.number, lead.kind

    return Sheet(
        "outputs", "Output list", "",
        (("Output", 1.2), ("To", 2.6), ("For", 2.4), ("Lead", 0.7), ("Kind", 1.8)),
        _of_mixers(show, "out", leads, cells),
    )  # fmt: skip


def _listeners(show: Show, ports: tuple[str, ...]) -> list[str]:
    """Who listens at the devices to which these sockets belong."""
    devices = {p.partition("/")[0] for p in ports}
    ends = [c.target for c in show.cables if c.source.partition("/")[0] in devices and c.target.startswith("listener/")]
    return [show.listener(e.partition("/")[2]).name for e in ends]


def patch(show: Show, leads: list[Lead]) -> Sheet:
    """Every device with its sockets that are used: what is plugged where."""
    rows: list[Row] = []
    plugged = {way: _at_ports(leads, way) for way in ("in", "out")}
    several = len({d.place for d in show.devices if is_carried(d) and d.place}) > 1
    for device in show.devices:
        if not is_carried(device):
            continue
        place = show.place_of(device.place) if several else None
        where = ", ".join(x for x in (device.detail, place.name if place else "", device.mains) if x)
        rows.append(Row((f"{device.name}{f' ({where})' if where else ''}",), heading=True))
        for way, there in (("in", 0), ("out", 1)):
            for port, lead in _of_device(device, way, plugged[way]):
                other = (lead.here, lead.there)[there]
                other = lead.there if other.startswith(f"{device.name} ") and other == lead.here else other
                arrow = "from" if way == "in" else "to"
                rows.append(Row((port.name or way, arrow, other, lead.number, lead.kind)))
    return Sheet(
        "patch", "Patch by device", "",
        (("Socket", 1.6), ("", 0.6), ("Other end", 3.2), ("Lead", 0.7), ("Kind", 1.8)), tuple(rows),
    )  # fmt: skip


def order(show: Show, hands: int) -> Sheet:
    """The order of work for so many hands, with the tasks that decide marked."""
    tasks = tasks_of(show)
    made = deal_out(tasks, hands) if tasks else None
    if made is None:
        return Sheet("order", "Order of work", "", (), ())
    decides = {t.id for t in made.critical}
    rows = tuple(
        Row((_clock(s.start), number(s.end - s.start), f"{s.hand + 1}", s.task.text,
             "decides" if s.task.id in decides else ""), f"task:{s.task.id}")
        for s in made.slots
    )  # fmt: skip
    alone = deal_out(tasks, 1).minutes
    longest = sum(t.minutes for t in made.critical)
    each = ", ".join(f"{h + 1}: {number(made.of(h))} min" for h in range(hands))
    note = (
        f"{counted(hands, 'person', 'people')}: {number(made.minutes)} min (alone {number(alone)}); by person {each}. "
        f"The chain that decides takes {number(longest)} min. Minutes are typical, assumed."
    )
    return Sheet(
        "order", "Order of work", note,
        (("At", 0.7), ("Min", 0.6), ("Who", 0.6), ("What", 5.0), ("", 0.9)), rows, "done",
    )  # fmt: skip


def _clock(minutes: float) -> str:
    whole = round(minutes)
    return f"{whole // 60}:{whole % 60:02}"


def budgets(show: Show) -> Sheet:
    """Every budget with its verdict."""
    rows: list[Row] = []
    area = ""
    for line in lines_of(show):
        if line.area != area:
            area = line.area
            rows.append(Row((area,), heading=True))
        fits = "" if line.part else line.fits
        rows.append(Row((f"{'  ' if line.part else ''}{line.what}", line.needed, fits, line.sentence or line.source)))
    note = CAUTION if feeds_of(show) else ""
    if not any(is_carried(d) for d in show.devices):
        rows = []
    return Sheet(
        "budgets", "Budgets", note, (("What", 2.6), ("Needs", 1.2), ("Verdict", 1.2), ("Why", 5.0)), tuple(rows)
    )


def network(show: Show) -> Sheet:
    """Who has which address in the team's network."""
    members = members_of(show)
    if len(members) < 2:
        return Sheet("network", "Network", "", (), ())
    net = network_of(show)
    rows = tuple(
        Row((show.device(m.device).name, m.address, "wireless" if m.wireless else "lead",
             "as it was said" if m.said else "proposed", m.why))
        for m in members
    )  # fmt: skip
    note = f"All in {net}, at home and away: only the router's uplink is plugged into the house's network."
    if router_of(show) is None:
        note = "There is no router of your own: in the house's network the addresses are other ones each time."
    return Sheet(
        "network", "Network", note, (("Device", 2.2), ("Address", 1.6), ("By", 1.0), ("", 1.4), ("Why", 3.0)), rows
    )


def venue(show: Show) -> Sheet:
    """What to ask the house before, and what meets its sockets."""
    rows = [Row((question, ""), f"ask:{n}") for n, question in enumerate(questions(show), 1)]
    bag = bag_of(show)
    if bag.ways:
        rows.append(Row(("What meets the house's sockets", ""), heading=True))
        for port, socket, items in bag.ways:
            rows.append(Row((f"{show.port_label(port)} to {socket}", joined(items))))
        for port, socket in bag.uncovered:
            rows.append(Row((f"{show.port_label(port)} to {socket}", "nothing that is carried meets it")))
    return Sheet(
        "venue", "Questions to the house", f"{show.venue}." if show.venue else "", (("Question", 5.0), ("Answer", 4.0)),
        tuple(rows), "done",
    )  # fmt: skip


def questions(show: Show) -> Iterator[str]:
    """What nobody has said yet and only the house knows."""
    if not any(is_carried(d) for d in show.devices):
        return
    yield "When may we come in, by which door, and who has the keys?"
    if any(f.assumed for f in feeds_of(show)) or not feeds_of(show):
        yield "Which circuits are there, how many amperes has each, and what else hangs on them?"
    if show.goals.uplink_bit_per_s is None and any(d.kind in ("stream", "call") for d in show.devices):
        yield "What does the line send, measured at the hour of the show, in Mbit/s?"
    if any(m.why for m in members_of(show)):
        yield "Is there a network socket where we stand, and may a router be plugged in there?"
    for meeting in show.meetings:
        yield f"Which socket is there for {show.port_label(meeting.port)}: {', '.join(meeting.sockets)}?"
    far = {
        frozenset((a.place, b.place))
        for c in show.cables
        if c.plugged and is_lead(c) and c.source in show.ports and c.target in show.ports and run_of(show, c) is None
        for a, b in [(show.ports[c.source][0], show.ports[c.target][0])]
        if a.place and b.place and a.place != b.place and is_carried(a) and is_carried(b)
    }
    for pair in sorted(far, key=sorted):
        names = joined(p.name for p in show.places if p.id in pair)
        yield f"How far is it between {names}, along the wall, with how many corners?"
    if tape_m(show):
        yield "May the floor be taped?"


def risks(show: Show, report: Report) -> Sheet:
    """Hazards that lie in this rig, and who decides."""
    rows: list[Row] = []

    def add(hazard: str, what: str, who: str) -> None:
        rows.append(Row((hazard, what, who)))

    if feeds_of(show) or any(is_carried(d) for d in show.devices):
        add("Mains", "Never lift a safety earth against hum: isolate the signal. No strip on a strip; keep water away.",
            CAUTION)  # fmt: skip
    tape = tape_m(show)
    if tape:
        add("Tripping", f"Leads lie where people walk: {said_m(tape)} of tape.", "The house decides about escape ways.")
    small = relieved(show)
    if small:
        many = counted(len(small), "lead with small plugs", "leads with small plugs")
        add("Small plugs", f"Relieve the strain of {many} along a run or at what moves.", "")
    for each in tipping(show):
        add("Tipping", f"{sentence(str(the_device(show, each.device)))}: sandbag of {number(each.sandbag_kg, 1)} kg.",
            "What hangs over people is for a rigger.")  # fmt: skip
    shown = {"monitors-loud", "phantom-can-hurt", "loop", "private-reaches-audience", "case-hot", "supply-full",
             "voltage-wrong", "strips-chained"}  # fmt: skip
    for id in sorted({f.id for f in report.findings} & shown):
        cards = [f for f in report.findings if f.id == id]
        first = cards[0]
        more = f" (and {len(cards) - 1} more like it)" if len(cards) > 1 else ""
        add(HAZARDS.get(id, "Risk"), f"{first.sentence}{more}. {first.remedy}".strip(), first.reason)
    for spare in spares_of(show):
        there = joined(show.device(d).name for d in spare.spares)
        stands_by = f"{there} stands by." if there else "Nothing of its kind stands by."
        rows.append(Row(("One of a kind", f"The stream hangs on {the_device(show, spare.device)}. {stands_by}", "")))
    if any(x.kind in ("guest", "recorder") for x in show.listeners):
        add("Privacy", "Ask guests before they are recorded; keep the talk before air off the stream and the card.", "")
    if any(d.kind == "stream" for d in show.devices):
        add("Stream key", "The key is a secret: it stands on no sheet and in no picture.", "")
    return Sheet(
        "risks", "Risks and cautions", "", (("Hazard", 1.4), ("What to do", 5.0), ("Who decides, and why", 3.4)),
        tuple(rows),
    )  # fmt: skip


HAZARDS = {
    "monitors-loud": "Hearing", "phantom-can-hurt": "Phantom power", "loop": "Feedback", "case-hot": "Heat",
    "private-reaches-audience": "Privacy", "supply-full": "Mains", "voltage-wrong": "Mains", "strips-chained": "Mains",
}  # fmt: skip
