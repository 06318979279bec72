"""What goes into which case, what is to be bought before, and what has to come back."""

from collections.abc import Iterable, Iterator

from msgspec.structs import replace

from kymaton.core.loadin.charging import changes_of
from kymaton.core.loadin.gear import Item, is_carried, items_of, money_of, spare_leads
from kymaton.core.loadin.leads import Lead, leads_of
from kymaton.core.loadin.runs import tape_m
from kymaton.core.loadin.sheet import Row, Sheet, said_m, without_last
from kymaton.core.loadin.stands import tipping
from kymaton.core.loadin.venue import bag_of
from kymaton.core.model import Show
from kymaton.core.words import joined, number, plain

MOST_ENDS = 3  # leads of one kind that are told; all of them stand in the cable schedule


def packing(show: Show) -> Sheet:
    """What goes into which case; spares and batteries with it."""
    items = items_of(show)
    by_case: dict[str, list[Item]] = {}
    for item in items:
        by_case.setdefault(item.case or "Not in a case yet", []).append(item)
    rows: list[Row] = []
    for case in sorted(by_case, key=lambda c: (c == "Not in a case yet", c)):
        rows.append(Row((case,), heading=True))
        for item in by_case[case]:
            whose = item.owned if not item.lender else f"from {item.lender}{f', back {item.back}' if item.back else ''}"
            whose += ", used" if item.used else ""
            price = plain(item.many * item.price, 2) if item.price else ""
            rows.append(Row((str(item.many), item.name, item.detail, whose, price), item.key))
    if not show.stock and leads_of(show):  # nobody has said which leads are there: what is laid is what is packed
        wanted: dict[tuple[str, float], int] = {}
        for lead in leads_of(show):
            wanted[lead.kind, lead.needed_m] = wanted.get((lead.kind, lead.needed_m), 0) + 1
        rows.append(Row(("Leads",), heading=True))
        rows += [Row((str(n), kind, said_m(m), "", ""), f"{kind} {m:g} m") for (kind, m), n in sorted(wanted.items())]
    extra = list(_extras(show))
    if extra:
        rows.append(Row(("To have besides",), heading=True))
        rows += extra
    money = money_of(items)
    note = ""
    if money.total:
        note = f"Worth {plain(money.total, 2)}, of which {plain(money.owned, 2)} are owned"
        note += f"; {plain(money.to_pay, 2)} to pay." if money.to_pay else "."
    keys, packed = {r.key for r in rows if r.key}, {t.item for t in show.ticks if t.sheet == "packed"}
    if packed:
        note = f"{note} {len(keys & packed)} of {len(keys)} are packed.".strip()
    columns = (("No", 0.5), ("What", 2.6), ("Detail", 2.4), ("Whose", 2.4), ("Price", 0.8))
    sheet = Sheet("packing", "Packing list", note, columns, tuple(rows), "packed")
    return sheet if money.total else without_last(sheet)


def _extras(show: Show) -> Iterator[Row]:
    """Spare leads, full batteries, tape, sandbags, and what meets the sockets of the house."""
    for kind, length_m in spare_leads(show):
        yield Row(("1", f"{kind} lead, spare", said_m(length_m), "", ""), f"spare:{kind}")
    for device in show.devices:
        changes = changes_of(show, device)
        if changes is not None and is_carried(device):
            full = changes.batteries + len(changes.done)
            yield Row((str(full), f"full batteries for {device.name}", "", "", ""), f"battery:{device.id}")
    tape = tape_m(show)
    if tape:
        yield Row(("1", "roll of tape", f"at least {said_m(tape)}", "", ""), "tape")
    for each in tipping(show):
        detail = f"{number(each.sandbag_kg, 1)} kg"
        yield Row(("1", f"sandbag for {show.device(each.device).name}", detail, "", ""), f"sandbag:{each.device}")
    for item, many in bag_of(show).items:
        yield Row((str(many), item, "for the house's sockets", "", ""), f"bag:{item}")


def shopping(show: Show, leads: list[Lead]) -> Sheet:
    """What is to be bought before: devices, and leads for which nothing that is there is long enough."""
    items = [i for i in items_of(show) if i.owned == "to buy"]
    planned = [n for n, s in enumerate(show.stock) if s.owned == "to buy"]
    rows: list[Row] = []
    for item in items:
        at = planned.pop(0) if planned and not item.device else None  # leads on the list come first, as in the stock
        to_find = (item.name, f"to find: {item.detail}")
        mine = [x for x in leads if (x.item == at if at is not None else (x.kind, x.taken) == to_find)]
        price = plain(item.many * item.price, 2) if item.price else ""
        wanted = "; ".join(f"{x.number} {x.here} to {x.there}" for x in mine[:MOST_ENDS])
        wanted += f"; and {len(mine) - MOST_ENDS} more" if len(mine) > MOST_ENDS else ""
        name = f"{item.name} lead" if mine else item.name
        rows.append(Row((str(item.many), name, item.detail, wanted, price), f"buy:{item.key}"))
    money = money_of(items)
    note = f"{plain(money.to_pay, 2)} to pay" if money.to_pay else ""
    if money.unknown and note:
        note += f"; no price yet for {joined(money.unknown)}"
    columns = (("No", 0.5), ("What", 2.6), ("Detail", 1.6), ("For", 3.2), ("Price", 0.8))
    sheet = Sheet("buy", "To buy", f"{note}." if note else "", columns, tuple(rows), "done")
    return sheet if money.to_pay else without_last(sheet)


def came_back(sheets: Iterable[Sheet]) -> list[Sheet]:
    """The packing list once more, for what lies in its case again."""
    return [
        replace(s, id="back", title="Came back", note="Tick what lies in its case again.", tick="back")
        for s in sheets
        if s.id == "packing"
    ]
