"""Ticks: what was packed, laid and done, written on a page for a telephone and read back into the show."""

import datetime
import html
import json
from collections.abc import Iterable

from kymaton.core.errors import ShowError
from kymaton.core.loadin.gear import items_of
from kymaton.core.loadin.packing import came_back
from kymaton.core.loadin.sheet import Sheet
from kymaton.core.model import Show, Tick
from kymaton.core.model.show import validated

FORMAT = "kymaton-ticks"
MOST_TICKS = 20_000
LISTS = ("laid", "packed", "back", "done")

PAGE = """<!DOCTYPE html>
<html lang="en">
<head>
<meta charset="utf-8">
<meta name="viewport" content="width=device-width, initial-scale=1">
<title>@TITLE@</title>
<style>
body { font: 17px/1.4 sans-serif; margin: 0 auto; max-width: 46rem; padding: 0 0.8rem 4rem; color: #111;
background: #fff }
h1 { font-size: 1.3rem } h2 { font-size: 1.15rem; margin: 1.6rem 0 0.2rem; border-bottom: 2px solid #111 }
h3 { font-size: 1rem; margin: 0.9rem 0 0.1rem } p { margin: 0.2rem 0; color: #444 }
label, .row { display: flex; gap: 0.7rem; padding: 0.55rem 0; border-bottom: 1px solid #bbb }
input { width: 1.5rem; height: 1.5rem; flex: none } input:checked + span { text-decoration: line-through; color: #555 }
b { font-weight: 600 }
#bar { position: fixed; bottom: 0; left: 0; right: 0; background: #fff; border-top: 2px solid #111; padding: 0.5rem;
display: flex; gap: 0.6rem; align-items: center } #bar a { font-size: 1rem; padding: 0.5rem }
textarea { width: 100%; height: 6rem } nav a { margin-right: 0.8rem }
@media (prefers-color-scheme: dark) { body, #bar { background: #111; color: #eee }
p, input:checked + span { color: #aaa } }
@media print { #bar, nav { display: none } }
</style>
</head>
<body>
<h1>@TITLE@</h1>
<p>@FACTS@</p>
<nav>@CONTENTS@</nav>
@BODY@
<h2>Give the ticks back</h2>
<p>Save the file, or copy the text, and read it in Kymaton at Load-in. Until then all stays on this telephone.</p>
<textarea id="out" readonly></textarea>
<div id="bar"><span id="count"></span><a id="save" download="ticks.json">Save ticks</a></div>
<script>
var show = @SHOW@, place = "kymaton-ticks:" + show, ticks = {};
function stored() { try { return JSON.parse(localStorage.getItem(place) || "{}") } catch (e) { return {} } }
function today() { return new Date().toISOString().slice(0, 10) }
function told() {
  var list = Object.keys(ticks).map(function (id) {
    var at = id.indexOf("|");
    return { sheet: id.slice(0, at), item: id.slice(at + 1), date: ticks[id] };
  });
  return JSON.stringify({ format: "kymaton-ticks", show: show, ticks: list });
}
function tell() {
  var text = told(), boxes = document.querySelectorAll("input[type=checkbox]");
  document.getElementById("out").value = text;
  document.getElementById("save").href = "data:application/json;charset=utf-8," + encodeURIComponent(text);
  document.getElementById("count").textContent = Object.keys(ticks).length + " of " + boxes.length + " done";
}
function changed(box) {
  if (box.checked) { ticks[box.id] = today() } else { delete ticks[box.id] }
  try { localStorage.setItem(place, JSON.stringify(ticks)) } catch (e) { }
  tell();
}
function begin() {
  var boxes = document.querySelectorAll("input[type=checkbox]"), known = stored();
  for (var i = 0; i < boxes.length; i++) {
    var box = boxes[i];
    if (known[box.id]) { box.checked = true; ticks[box.id] = known[box.id] }
    else if (box.checked) { ticks[box.id] = box.getAttribute("data-date") || today() }
    box.onchange = function () { changed(this) };
  }
  tell();
}
begin();
</script>
</body>
</html>
"""


def page_of(show: Show, sheets: Iterable[Sheet]) -> str:
    """One page with everything in it, nothing fetched: sheets with a box at every line that can be ticked."""
    known: dict[tuple[str, str], str] = {(t.sheet, t.item): t.date for t in show.ticks}
    body, contents = [], []
    every = [s for s in sheets if s.id != "back"]
    for sheet in (*every, *came_back(every)):
        contents.append(f'<a href="#{sheet.id}">{html.escape(sheet.title)}</a>')
        body.append(f'<h2 id="{sheet.id}">{html.escape(sheet.title)}</h2>')
        if sheet.note:
            body.append(f"<p>{html.escape(sheet.note)}</p>")
        body += [_row(sheet, row.cells, row.key, row.heading, known) for row in sheet.rows]
    facts = ", ".join(x for x in (show.venue, show.date) if x)
    filled = PAGE.replace("@BODY@", "\n".join(body)).replace("@CONTENTS@", " ".join(contents))
    filled = filled.replace("@FACTS@", html.escape(facts)).replace("@TITLE@", html.escape(show.title))
    return filled.replace("@SHOW@", json.dumps(show.title).replace("<", "\\u003c"))


def _row(sheet: Sheet, cells: tuple[str, ...], key: str, heading: bool, known: dict[tuple[str, str], str]) -> str:
    if heading:
        return f"<h3>{html.escape(cells[0])}</h3>"
    shown = [html.escape(c) for c in cells if c]
    text = f"<b>{shown[0]}</b> {' · '.join(shown[1:])}" if shown else ""
    if not sheet.tick or not key:
        return f'<div class="row"><span>{text}</span></div>'
    date = known.get((sheet.tick, key))
    ticked = f' checked data-date="{html.escape(date)}"' if date is not None else ""
    id = html.escape(f"{sheet.tick}|{key}", quote=True)
    return f'<label><input type="checkbox" id="{id}"{ticked}><span>{text}</span></label>'


def read_ticks(text: str) -> tuple[Tick, ...]:
    """The ticks that a page gave back. Raises ShowError with one sentence for anything else."""
    try:
        told = json.loads(text)
        if not isinstance(told, dict) or told.get("format") != FORMAT or not isinstance(told.get("ticks"), list):
            raise ValueError
        if len(told["ticks"]) > MOST_TICKS:
            raise ShowError(f"These are more than {MOST_TICKS} ticks.")
        found = []
        for at, each in enumerate(told["ticks"], 1):
            if not isinstance(each, dict) or each.get("sheet") not in LISTS or not isinstance(each.get("item"), str):
                raise ShowError(f"Tick {at} names no list and no item.")
            found.append(Tick(sheet=each["sheet"], item=each["item"][:500], date=_date(str(each.get("date", "")))))
    except (ValueError, RecursionError):
        raise ShowError("These are no ticks: save them on the page, or copy all of its text.") from None
    return tuple(found)


def _date(text: str) -> str:
    try:
        return datetime.date.fromisoformat(text).isoformat()
    except ValueError:
        return ""


def with_ticks(show: Show, ticks: Iterable[Tick]) -> Show:
    """The show with what was ticked: what a page gave back counts for all of the lists that it has."""
    kept = {(t.sheet, t.item): t for t in show.ticks}
    kept |= {(t.sheet, t.item): t for t in ticks}
    return validated(show.evolve(ticks=tuple(kept.values())))


def title_of(text: str) -> str:
    """The show from which ticks come. Raises ShowError as `read_ticks` does."""
    read_ticks(text)
    return str(json.loads(text).get("show", ""))


def compared(show: Show) -> tuple[list[str], list[str]]:
    """What is needed and not ticked as packed; and what was packed and did not come back; in packing order."""
    packed = {t.item for t in show.ticks if t.sheet == "packed"}
    back = {t.item for t in show.ticks if t.sheet == "back"}
    items = items_of(show)
    missing = [f"{i.name} {i.detail}".strip() for i in items if i.key not in packed] if packed else []
    away = [f"{i.name} {i.detail}".strip() for i in items if i.key in packed and i.key not in back] if back else []
    return missing, away
