"""`kymaton loadin`: the sheets of a load-in: as text, PDF, CSV, a page for a telephone; labels; ticks read back."""

import argparse
import csv
import io
import os
from pathlib import Path

from kymaton.cli.common import Usage
from kymaton.cli.json_output import print_json
from kymaton.core.errors import ShowError
from kymaton.core.loadin.gear import items_of
from kymaton.core.loadin.sheet import Sheet
from kymaton.core.loadin.sheets import sheets_of
from kymaton.core.loadin.table_text import rows_of, text_of
from kymaton.core.loadin.ticks import compared, page_of, read_ticks, title_of, with_ticks
from kymaton.core.model import Show
from kymaton.core.planning.day import told, ways_without
from kymaton.core.words import joined
from kymaton.language.missing import missing_of
from kymaton.store.atomic import write_whole
from kymaton.store.csvfile import harmless
from kymaton.store.showfile import read_show, write_show

MOST_HANDS = 20


def loadin(options: argparse.Namespace) -> int:
    """Writes what is asked for, or prints the sheets; exit 1 when ticks say that something is missing."""
    show = read_show(options.show)
    if not 1 <= options.hands <= MOST_HANDS:
        raise Usage(f"--hands is 1 to {MOST_HANDS}.")
    if options.without is not None:
        return _without(show, options.without, options.out)
    if options.missing:
        return _missing(show)
    if options.ticks is not None:
        return _ticks(show, options.ticks, options.out)
    if options.labels is not None:
        return _labels(show, options.labels, options.out)
    sheets = sheets_of(show, options.hands)
    if options.only is not None:
        known = [s.id for s in sheets]
        if options.only not in known:
            raise Usage(f"there is no sheet '{options.only}'; there are {', '.join(known) or 'none'}.")
        sheets = [s for s in sheets if s.id == options.only]
    if options.out is None:
        if options.json:
            print_json({"show": show.title, "sheets": [_as_json(s) for s in sheets]})
        else:
            for line in text_of(sheets):
                print(line)
        return 0
    kind = options.out.suffix.lower()
    if kind == ".pdf":
        _pdf(show, sheets, options.out)
    elif kind == ".csv":
        text = io.StringIO(newline="")
        csv.writer(text).writerows([harmless(c) for c in row] for row in rows_of(sheets))
        write_whole(options.out, text.getvalue().encode("utf-8"))
    elif kind in (".html", ".htm"):
        write_whole(options.out, page_of(show, sheets).encode("utf-8"))
    else:
        raise Usage("-o ends in .pdf, .csv or .html.")
    print(f"Written: {options.out}")
    return 0


def _as_json(sheet: Sheet) -> dict[str, object]:
    return {
        "id": sheet.id, "title": sheet.title, "note": sheet.note, "columns": [name for name, _ in sheet.columns],
        "rows": [{"cells": list(r.cells), "key": r.key, "heading": r.heading} for r in sheet.rows],
    }  # fmt: skip


def _pdf(show: Show, sheets: list[Sheet], path: Path) -> None:
    os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")  # nothing is shown
    from kymaton.app.loadin.paper import write_sheets  # late: the command line needs no window for all else
    from kymaton.app.run import application

    held = application()  # as long as something is drawn
    write_sheets(show, sheets, path)
    del held


def _labels(show: Show, size: str, path: Path | None) -> int:
    if path is None or path.suffix.lower() != ".pdf":
        raise Usage("--labels needs -o with a .pdf file.")
    os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
    from kymaton.app.loadin.paper import read_label_size, write_labels  # late: see above
    from kymaton.app.run import application

    try:
        sheet = read_label_size(size)
    except ShowError as error:
        raise Usage(str(error)) from error
    held = application()  # as long as something is drawn
    pages = write_labels(show, sheet, path)
    del held
    print(f"Written: {path} ({pages} pages)" if pages > 1 else f"Written: {path}")
    return 0


def _ticks(show: Show, path: Path, out: Path | None) -> int:
    """Read ticks back: say what is missing, and keep them where a file to write is named."""
    try:
        text = path.read_text(encoding="utf-8")
        ticks, title = read_ticks(text), title_of(text)
    except (OSError, UnicodeDecodeError) as error:
        raise Usage(f"{path} cannot be read.") from error
    except ShowError as error:
        raise Usage(f"{path}: {error}") from error
    if title != show.title:
        print(f"These ticks are of '{title}'.")
    after = with_ticks(show, ticks)
    missing, away = compared(after)
    for name in missing:
        print(f"not packed: {name}")
    for name in away:
        print(f"did not come back: {name}")
    print(f"{len(ticks)} ticks read.")
    if out is not None:
        write_show(after, out)
        print(f"Written: {out}")
    return 1 if missing or away else 0


def _missing(show: Show) -> int:
    """What is to be bought, and for each the cheapest way that loses nothing."""
    every = missing_of(show)
    leads = [f"{i.many} {i.name} {i.detail}".strip() for i in items_of(show) if i.owned == "to buy" and not i.device]
    if leads:
        print(f"Leads to buy: {joined(leads)}.")
    elif not every:
        print("Nothing is to be bought.")
    for missing in every:
        print(show.device(missing.device).name)
        for at, option in enumerate(missing.options):
            lost = f"; lost: {'; '.join(option.lost)}" if option.lost else ""
            print(f"  {'best: ' if not at else ''}{option.name}, {option.cost}{lost}")
    return 0


def _without(show: Show, name: str, out: Path | None) -> int:
    """The day goes on without a device: every way that was tried, the best first; the best is written."""
    device = next((d for d in show.devices if name.lower() in (d.id, d.name.lower())), None)
    if device is None:
        raise Usage(f"there is no device '{name}'.")
    ways = ways_without(show, device.id)
    for at, way in enumerate(ways):
        print(f"{'best: ' if not at else '      '}{told(way)}; {way.faults} faults")
        for lost in way.lost if not at else ():
            print(f"        lost: {lost}")
    if out is not None:
        write_show(ways[0].show, out)
        print(f"Written: {out}")
    return 1 if ways[0].lost else 0
