"""`kymaton budget`: whether it fits: uplink, USB, computers, power, network; a stream over an uplink that varies."""

import argparse
import datetime
from pathlib import Path
from typing import Any

from kymaton.cli.common import Usage
from kymaton.cli.json_output import print_json
from kymaton.core.errors import ShowError
from kymaton.core.loadin.budgets import lines_of
from kymaton.core.loadin.computing import profile_text, profiles_of
from kymaton.core.loadin.mains import CAUTION, feeds_of
from kymaton.core.loadin.trace import pieces_of, told
from kymaton.core.loadin.traces import TRACES
from kymaton.core.loadin.uplink import stream_rate, uplink_of
from kymaton.core.loadin.usb_plan import needed_plans
from kymaton.core.loadin.usb_plan import told as told_plan
from kymaton.core.model import Show
from kymaton.store.showfile import read_show


def budget(options: argparse.Namespace) -> int:
    """Budgets of a show; exit 1 when something does not fit, or viewers would stall."""
    if options.measure:
        return _measure()
    if options.show is None:
        raise Usage("Say which show, or --measure.")
    show = read_show(options.show)
    smooth, trace = True, list[str]()
    if not 0 <= options.store <= 3600:
        raise Usage("--store is 0 to 3600 s.")
    if options.trace is not None:
        try:
            smooth, trace = told(stream_rate(show).value, pieces_of(_trace(options.trace)), options.store)
        except ShowError as error:
            raise Usage(str(error)) from error
    lines = lines_of(show, options.store)
    fits = smooth and all(line.fits != "does not fit" for line in lines)
    if options.json:
        print_json(_as_json(show, options.store, trace))
        return 0 if fits else 1
    area = ""
    for line in lines:
        if line.area != area:
            area = line.area
            print(area)
        if line.part:
            print(f"    {line.what}: {line.needed} ({line.source})")
        else:
            print(f"  {line.what}, {line.fits}: {line.sentence.rstrip('.')}.")
    for plan in needed_plans(show):
        print(f"  {told_plan(show, plan)}")
    print("Lower profiles to keep ready")
    for profile in profiles_of(show):
        print(f"  {profile_text(profile)}")
    if feeds_of(show):
        print(CAUTION)
    for text in trace:
        print(f"{text}.")
    return 0 if fits else 1


def _trace(text: str) -> str:
    """A trace as it is typed, one of those that come with the program, or a file of seconds and Mbit/s."""
    if text.strip().lower() in TRACES or not Path(text).is_file():
        return text
    try:
        return Path(text).read_text(encoding="utf-8")
    except (OSError, UnicodeDecodeError) as error:
        raise Usage(f"{text} cannot be read as text.") from error


def _measure() -> int:
    from kymaton.media.encode_speed import measure  # late: it loads the codecs

    speed = measure(datetime.date.today().isoformat())
    if speed is None:
        return 1
    figure = speed.mpx_s
    print(f"This computer encodes {figure.value:g} ± {figure.plus_minus:g} Mpx/s ({figure.source} {figure.date}).")
    print(
        f"In a show: <the computer> encoding speed is {figure.value:g} ± {figure.plus_minus:g} measured {figure.date}"
    )
    return 0


def _as_json(show: Show, store_s: float, trace: list[str]) -> dict[str, Any]:
    uplink = uplink_of(show)
    return {
        "uplink": {
            "fits": uplink.fits,
            "needs": [
                {"what": n.what, "bit_per_s": round(n.rate.value), "plus_minus": round(n.rate.plus_minus)}
                for n in uplink.needs
            ],
            "total_bit_per_s": round(uplink.total),
            "plus_minus": round(uplink.plus_minus),
            "measured_bit_per_s": uplink.there,
            "sentence": uplink.sentence,
        },
        "supplies": [
            {"name": f.name, "devices": list(f.devices), "watts": round(f.watts, 1),
             "plus_minus": round(f.plus_minus, 1), "allowed_w": round(f.allowed_w, 1), "unknown": list(f.unknown),
             "fits": f.fits}
            for f in feeds_of(show)
        ],
        "budgets": [
            {"area": x.area, "what": x.what, "needed": x.needed, "fits": x.fits, "sentence": x.sentence,
             "source": x.source, "part": x.part}
            for x in lines_of(show, store_s)
        ],
        "usb_plan": [told_plan(show, plan) for plan in needed_plans(show)],
        "profiles": [
            {"name": p.name, "bit_per_s": round(p.rate.value), "encode_percent": round(p.encode.value, 1),
             "usb_mb_s": round(p.usb_mb_s, 1), "saves_rate_percent": round(p.saves_rate, 1),
             "saves_encoding_percent": round(p.saves_encoding, 1)}
            for p in profiles_of(show)
        ],
        "trace": trace,
    }  # fmt: skip
