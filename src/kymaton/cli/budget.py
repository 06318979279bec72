"""`kymaton budget`: whether it fits: the uplink, the mains, and a stream over an uplink that varies."""

import argparse
from typing import Any

from kymaton.cli.common import Usage
from kymaton.cli.json_output import print_json
from kymaton.core.errors import ShowError
from kymaton.core.loadin.mains import CAUTION, supplies_of
from kymaton.core.loadin.trace import pieces_of, told
from kymaton.core.loadin.uplink import stream_rate, uplink_of
from kymaton.store.showfile import read_show


def budget(options: argparse.Namespace) -> int:
    """Budgets of a show; exit 1 when something does not fit, or viewers would stall."""
    show = read_show(options.show)
    uplink, supplies = uplink_of(show), supplies_of(show)
    smooth, lines = True, list[str]()
    if options.trace is not None:
        if not 0 <= options.store <= 3600:
            raise Usage("--store is 0 to 3600 s.")
        try:
            smooth, lines = told(stream_rate(show).value, pieces_of(options.trace), options.store)
        except ShowError as error:
            raise Usage(str(error)) from error
    fits = uplink.fits != "does not fit" and all(s.fits for s in supplies) and smooth
    if options.json:
        found: dict[str, Any] = {
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
                {"name": s.name, "devices": list(s.devices), "watts": round(s.watts, 1),
                 "plus_minus": round(s.plus_minus, 1), "unknown": list(s.unknown), "fits": s.fits}
                for s in supplies
            ],
            "trace": lines,
        }  # fmt: skip
        print_json(found)
        return 0 if fits else 1
    print(f"Uplink, {uplink.fits}: {uplink.sentence}")
    for need in uplink.needs:
        print(f"  {need.what}: {need.rate.value / 1e6:.1f} ± {need.rate.plus_minus / 1e6:.1f} Mbit/s (assumed)")
    for supply in supplies:
        print(f"{supply.name}, {'fits' if supply.fits else 'does not fit'}: {supply.sentence}.")
    if supplies:
        print(CAUTION)
    for line in lines:
        print(f"{line}.")
    return 0 if fits else 1
