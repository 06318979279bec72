"""The sheets: all that is in the show stands on them, each lead once; ticks there and back."""

import json

import pytest

from kymaton.core.errors import ShowError
from kymaton.core.loadin.gear import is_carried
from kymaton.core.loadin.leads import leads_of
from kymaton.core.loadin.sheet import Sheet
from kymaton.core.loadin.sheets import questions, sheets_of
from kymaton.core.loadin.stock import kind_of
from kymaton.core.loadin.table_text import rows_of, text_of
from kymaton.core.loadin.ticks import compared, page_of, read_ticks, title_of, with_ticks
from kymaton.core.model import Show, Tick
from kymaton.language.script import build, read_any
from kymaton.language.starters import STARTERS
from kymaton.store.showfile import read_show
from tests.shows import DEMO, HEALTHY

LARGEST = max((s.show() for s in STARTERS), key=lambda s: len(s.devices) + len(s.cables))
SHOWS = {"demo": read_show(DEMO), "healthy": read_show(HEALTHY), "largest": LARGEST}


def by_id(show: Show) -> dict[str, Sheet]:
    return {s.id: s for s in sheets_of(show)}


@pytest.mark.parametrize("name", SHOWS)
def test_all_that_is_in_the_show_is_on_paper_and_each_lead_once(name):
    show = SHOWS[name]
    sheets = by_id(show)
    laid = [c.id for c in show.cables if kind_of(show, c) and any(
        is_carried(show.device(e.partition("/")[0])) for e in (c.source, c.target))]  # fmt: skip
    leads = leads_of(show)
    assert sorted(c for x in leads for c in x.cables) == sorted(laid)
    numbers = [r.cells[0] for r in sheets["cables"].rows]
    assert numbers == [x.number for x in leads] and len(set(numbers)) == len(numbers)
    packed = {r.key for r in sheets["packing"].rows}
    assert {f"device:{d.id}" for d in show.devices if is_carried(d)} <= packed
    stands = [r.cells[0] for r in sheets["patch"].rows if r.heading]
    for device in filter(is_carried, show.devices):
        assert sum(h == device.name or h.startswith(f"{device.name} (") for h in stands) >= 1
    # a lead stands in the patch at each of its ends that is here
    ends = [r.cells[3] for r in sheets["patch"].rows if not r.heading]
    for lead in leads:
        here = {p for side in lead.ports for p in side if is_carried(show.ports[p][0])}
        assert ends.count(lead.number) == len(here), lead
    for sheet in sheets.values():
        assert all(r.heading or len(r.cells) == len(sheet.columns) for r in sheet.rows)
        assert len([r.key for r in sheet.rows if r.key]) == len({r.key for r in sheet.rows if r.key}), sheet.id


def test_inputs_tell_their_sounds_and_outputs_their_listeners():
    sheets = by_id(SHOWS["demo"])
    inputs = {r.cells[0]: r.cells for r in sheets["inputs"].rows if not r.heading and r.cells[2] != "Desk main"}
    assert inputs["2"][1] == "Teo, voice" and inputs["2"][5] == "48 V" and inputs["1"][5] == ""
    assert inputs["13"][1] == "Phone" and inputs["9"][1] == "Ilse and Nadir"
    outputs = {r.cells[0]: r.cells for r in sheets["outputs"].rows if not r.heading}
    assert outputs["aux 4"][1:3] == ("Loudspeakers", "Room")


def test_leads_that_are_there_and_leads_to_find():
    rows = {r.cells[1]: r.cells for r in by_id(SHOWS["demo"])["cables"].rows}
    assert rows["Condenser"][4:6] == ("9.2 m", "10 m, Lead case") and rows["Camera A HDMI"][5] == "to find: 15 m"
    assert "to find" not in str(by_id(SHOWS["healthy"])["cables"].rows)


def test_what_is_to_be_bought_stands_on_a_list_of_its_own():
    """Devices, leads that are on the list, and those that nobody has thought of yet, each with what it is for."""
    lines = (
        *("buy camera b", "camera b price is 300", "buy phone"),
        *("stock 0 XLR 10 m", "stock 2 xlr 10 m, to buy for 12"),
    )
    show = SHOWS["healthy"]
    assert not [s for s in sheets_of(show) if s.id == "buy"]
    for line in lines:
        show = read_any(show, line).show
    sheets = by_id(show)
    assert sheets["buy"].note == "324 to pay; no price yet for Phone by Bluetooth, XLR 10 m and XLR 7.5 m."
    rows = {(r.cells[1], r.cells[2], r.cells[4]): r for r in sheets["buy"].rows}
    assert rows["Camera B", "hands", "300"].cells[3] == "" and rows["xlr lead", "10 m", "24"].cells[0] == "2"
    found = [c for r in sheets["buy"].rows for c in r.cells[3].split("; ") if c]
    wanted = [r.cells for r in sheets["cables"].rows if "to buy" in r.cells[5] or "to find" in r.cells[5]]
    assert sorted(found) == sorted(f"{w[0]} {w[1]} to {w[2]}" for w in wanted) and len(found) == 4
    for sheet in sheets_of(read_any(show, "stock 3 HDMI 7 m, in Spare case").show):  # a tick is for one row
        keys = [r.key for r in sheet.rows if r.key]
        assert len(set(keys)) == len(keys), sheet.id
    free = read_any(show, "stock 0 XLR 10 m, to buy").show
    for line in ("camera b price is 0", "own camera b"):
        free = read_any(free, line).show
    assert [c for c, _ in by_id(free)["buy"].columns] == ["No", "What", "Detail", "For"]


def test_what_nobody_has_said_is_asked():
    asked = list(questions(build(["add desk", "add encoder box", "add platform", "encoder box > platform"])))
    assert any("What does the line send" in q for q in asked) and any("how many amperes" in q for q in asked)
    assert not any("What does the line send" in q for q in questions(SHOWS["demo"]))
    assert list(questions(Show())) == [] and sheets_of(Show()) == []


def test_sheets_as_text_and_rows():
    sheets = sheets_of(SHOWS["demo"])
    rows = list(rows_of(sheets))
    assert rows[0] == ["To buy"] and ["Packing list"] in rows and [] in rows
    assert any("Table mic · Desk 1 · XLR" in line for line in text_of(sheets))


def test_ticks_are_read_kept_and_compared():
    show = SHOWS["demo"]
    text = json.dumps({"format": "kymaton-ticks", "show": show.title, "ticks": [
        {"sheet": "packed", "item": "device:desk", "date": "2026-12-12"},
        {"sheet": "back", "item": "device:switcher", "date": "soon"}]})  # fmt: skip
    ticks = read_ticks(text)
    assert ticks == (
        Tick(sheet="packed", item="device:desk", date="2026-12-12"),
        Tick(sheet="back", item="device:switcher"),
    )
    after = with_ticks(with_ticks(show, ticks), ticks)
    assert after.ticks == ticks and title_of(text) == show.title
    missing, away = compared(after)
    assert "Desk 16 in, 6 aux" not in missing and "Switcher 4 in, embeds" in missing and away == ["Desk 16 in, 6 aux"]
    assert compared(show) == ([], [])
    sheets = by_id(after)
    assert "1 of " in sheets["packing"].note and sheets["back"].tick == "back" and "back" not in by_id(show)
    page = page_of(after, sheets_of(after))
    assert 'id="packed|device:desk" checked data-date="2026-12-12"' in page


@pytest.mark.parametrize("text", [
    "", "[]", "{}", "null", '{"format": "kymaton-ticks"}', '{"format": "other", "ticks": []}', "[" * 100_000,
    '{"format": "kymaton-ticks", "ticks": [1]}', '{"format": "kymaton-ticks", "ticks": [{"sheet": "x", "item": "y"}]}',
    '{"format": "kymaton-ticks", "ticks": [{"sheet": "packed", "item": 5}]}',
])  # fmt: skip
def test_what_is_no_ticks_is_said_in_a_sentence(text):
    with pytest.raises(ShowError):
        read_ticks(text)


def test_names_that_would_break_a_page_do_not():
    show = SHOWS["demo"].evolve(title='</script><b>"&', venue="<i>")
    page = page_of(show, sheets_of(show))
    assert "</script><b>" not in page and "<i>" not in page and page.count("</script>") == 1


def test_what_is_carried_besides_and_who_is_in_the_network():
    show = build(["place Stage", "place Corner", "add desk 8 in 2 aux as Desk", "add dynamic mic as Boom",
                  "add wireless mic as Head", "add router", "add switcher", "add computer", "put desk in Corner",
                  "put boom, head in Stage", "run Stage to Corner 10 m, crossing 2 m", "boom > desk 1 14 m",
                  "Boom weight is 1.2 kg", "Boom arm is 1.5 m", "desk main meets XLR, phono, VGA",
                  "computer controls switcher", "computer controls desk", "power desk, switcher from strip A",
                  "switcher has address 10.77.7.30", "desk price is 500", "buy switcher", "switcher price is 300",
                  "switcher is bought used", "cue All, 400 min"])  # fmt: skip
    sheets = by_id(show)
    packed = [r.cells for r in sheets["packing"].rows]
    said = " ".join(c for cells in packed for c in cells)
    assert "roll of tape" in said and "at least 4 m" in said and "sandbag for Boom" in said and "2.1 kg" in said
    assert "full batteries for Head" in said and "XLR lead, spare" in said and "for the house's sockets" in said
    assert sheets["packing"].columns[-1][0] == "Price" and "300 to pay" in sheets["packing"].note
    assert next(c for c in packed if c[1:2] == ("Switcher",))[3:] == ("to buy, used", "300")
    net = {r.cells[0]: r.cells for r in sheets["network"].rows}
    assert net["Switcher"][1:4] == ("10.77.7.30", "lead", "as it was said") and net["Desk"][3] == "proposed"
    assert {"Router", "Computer", "Switcher", "Desk"} == set(net)
    asked = [r.cells for r in sheets["venue"].rows]
    assert ("Which socket is there for Desk main: XLR, phono, VGA?", "") in asked
    assert ("Desk main to VGA", "nothing that is carried meets it") in asked and (
        "May the floor be taped?",
        "",
    ) in asked
    hazards = [r.cells[0] for r in sheets["risks"].rows]
    assert {"Mains", "Tripping", "Tipping"} <= set(hazards)
