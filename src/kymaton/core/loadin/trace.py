"""An uplink over time, as it is typed or pasted: `20 s 8 Mbit/s, 10 s 2 Mbit/s`, or lines of seconds and Mbit/s.

`dip`, `evening` and `mobile` are three that come with the program.
"""

import re

from kymaton.core.errors import ShowError
from kymaton.core.loadin.rates import bits_per_s, said_rate
from kymaton.core.loadin.send_buffer import Piece, highest_rate, send
from kymaton.core.loadin.traces import TRACES
from kymaton.core.words import counted, number

SPOKEN = re.compile(r"^(\d+(?:[.,]\d+)?)\s*(?:s|sec|seconds?)\s+(.+)$", re.IGNORECASE)
PASTED = re.compile(r"^(\d+(?:\.\d+)?)\s*[,;\t]\s*(\d+(?:\.\d+)?)$")
MOST_PIECES = 10_000


def pieces_of(text: str) -> list[Piece]:
    """The pieces of an uplink; pasted lines hold seconds and Mbit/s. Raises ShowError that names what it is not."""
    if text.strip().lower() in TRACES:
        return list(TRACES[text.strip().lower()][1])
    lines = [line.strip() for line in text.splitlines() if line.strip()]
    pasted_all = bool(lines) and all(PASTED.match(line) for line in lines)
    parts = lines if pasted_all else [p for p in re.split(r"[\n;]|,\s+", text) if p.strip()]
    found = []
    for part in parts:
        pasted, spoken = PASTED.match(part.strip()), SPOKEN.match(part.strip())
        if pasted is not None:
            seconds, rate = float(pasted[1]), float(pasted[2]) * 1e6
        elif spoken is not None:
            seconds = float(spoken[1].replace(",", "."))
            rate = 0.0 if spoken[2].strip() in ("0", "nothing") else bits_per_s(spoken[2])[0]
        else:
            raise ShowError(f"'{part.strip()}' is no piece of an uplink: say 20 s 8 Mbit/s.")
        if not 0 < seconds < 1e6:
            raise ShowError(f"'{part.strip()}' lasts no time that an uplink is looked at for.")
        found.append(Piece(seconds, rate))
    if not found or len(found) > MOST_PIECES:
        raise ShowError("An uplink is told in pieces: 20 s 8 Mbit/s, 10 s 2 Mbit/s.")
    return found


def told(rate_bit_per_s: float, uplink: list[Piece], store_s: float) -> tuple[bool, list[str]]:
    """Whether nobody stalls, and what became of a stream of this rate, in sentences."""
    sent = send(rate_bit_per_s, uplink, store_s)
    lines = [
        f"At {said_rate(rate_bit_per_s)} the buffer holds up to {number(sent.fullest.waiting_bits / 8e6, 1)} MB, "
        f"{number(sent.fullest.behind_s, 1)} s of it, after {number(sent.fullest.at_s)} s"
    ]
    if not sent.stalls:
        return True, [*lines, f"Nobody with {number(store_s)} s in store stalls"]
    first = sent.stalls[0]
    away = sum(b - a for a, b in sent.stalls)
    many = "once" if len(sent.stalls) == 1 else counted(len(sent.stalls), "time")
    lines.append(
        f"Who has {number(store_s)} s in store stalls {many}, "
        f"first after {number(first[0])} s, for {number(away)} s in all"
    )
    best = highest_rate(uplink, store_s)
    lines.append(f"{said_rate(best)} would not have stalled" if best > 1000 else "No rate would have come through")
    return False, lines
