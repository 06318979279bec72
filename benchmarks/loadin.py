"""Every budget, the sheets and the PDF, of a rig of about 60 devices and 200 leads."""

import os
import tempfile
from pathlib import Path

from benchmarks.layout import HELD
from benchmarks.timing import best
from kymaton.core.checks.registry import find_in_rig
from kymaton.core.loadin.budgets import lines_of
from kymaton.core.loadin.sheets import sheets_of
from kymaton.core.loadin.stock import kind_of
from kymaton.core.model import Show, Stock
from kymaton.language.script import build


def evening() -> Show:
    """Two desks with 32 inputs each that share a stage, cameras, calls, computers with USB, strips and runs."""
    lines = ["picture 1080p25", "place Stage", "place Desk corner", "run Stage to Desk corner 18 m, 3 corners, up 3 m"]
    lines += [
        "add stage box 32 ch as Stage box",
        "add stage box 32 ch as Second box",
        "add desk 32 in 12 aux as Front",
        "add desk 32 in 12 aux as Stream",
    ]
    lines += ["put Stage box in Stage", "put Front, Stream in Desk corner"]
    for n in range(1, 25):
        lines += [f"add dynamic mic as Mic {n}", f"Singer {n}, voice", f"singer {n} > mic {n} 0.1 m"]
        lines += [f"put Mic {n} in Stage", f"mic {n} > stage box {n}", f"stage box {n} > front {n}"]
    for n in range(1, 9):
        lines += [f"add in-ear as Ear {n}", f"front aux {n} > ear {n}", f"put Ear {n} in Stage"]
        lines += [f"add di as Box {n}", f"add player as Play {n}", f"play {n} left > box {n}"]
        lines += [f"box {n} > second box {n}", f"put Box {n}, Play {n} in Stage"]
    lines += ["add 2 stage boxes 32 ch as Wall box"]
    for a, b in (("second box", "wall box 1"), ("wall box 1", "wall box 2"), ("wall box 2", "stream")):
        lines += [f"{a} {n} > {b} {n}" for n in range(1, 33)]
    lines += [f"stream aux {n} > front {n + 24}" for n in range(1, 8)]
    lines += [
        "add switcher 8 in as Mixer",
        "add computer 4 usb as Call machine",
        "add computer 4 usb as Encoder machine",
    ]
    lines += [
        "add powered usb hub as Hub",
        "add 3 webcams as Web",
        "add capture as Grab",
        "add platform",
        "add call 4 guests",
    ]
    for n in range(1, 7):
        lines += [f"add camera as Camera {n}", f"camera {n} > mixer HDMI {n}", f"put Camera {n} in Stage"]
    lines += ["web 1-3 > hub 1-3", "hub computer 1 > call machine usb 1", "hub computer 2 > call machine usb 2"]
    lines += ["hub computer 3 > call machine usb 3", "mixer programme > grab", "grab > encoder machine usb 1"]
    lines += [
        "encoder machine stream > platform",
        "call machine call > call sending",
        "call receiving > call machine call",
    ]
    lines += ["front main > mixer mic 1", "uplink 20 Mbit/s, second 6 Mbit/s after 10 s", "strip A hangs on circuit 1"]
    lines += ["strip A gives 10 A", "power Front, Stream, Mixer from strip A", "power Call machine from circuit 1"]
    show = build(lines)
    stock = tuple(Stock(kind=k, many=12, length_m=m) for k in ("XLR", "HDMI", "TRS 6.3 mm") for m in (3.0, 10.0, 30.0))
    return show.evolve(stock=stock)


def run() -> list[tuple[str, str, str]]:
    os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
    from kymaton.app.loadin.paper import write_sheets
    from kymaton.app.run import application

    HELD.append(application())
    show = evening()
    leads = sum(bool(kind_of(show, c)) for c in show.cables)
    size = f"{len(show.devices)} devices, {len(show.cables)} connections, {leads} of them laid"
    lines_of(show)
    budgets = best(lambda: lines_of(show), 5)
    rig = best(lambda: find_in_rig(show), 5)
    sheets = sheets_of(show)
    listed = best(lambda: sheets_of(show), 3)
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "sheets.pdf"
        written = best(lambda: write_sheets(show, sheets, path), 3)
        pages = write_sheets(show, sheets, path)
    return [
        (f"every budget ({size})", f"{1000 * budgets:.1f} ms; all findings of the rig {1000 * rig:.0f} ms", "≤ 50 ms"),
        (f"all sheets as PDF, {pages} pages", f"{written:.2f} s, and {listed:.2f} s to work them out", "≤ 2 s"),
    ]
