"""How a line about the load-in may go on: beginnings, then what can be said of the device or supply that it names."""

import re
from collections.abc import Iterator

from kymaton.core.loadin.gear import is_carried
from kymaton.core.loadin.leads import known_kinds
from kymaton.core.model import Device, Show
from kymaton.core.model.loads import LOADS
from kymaton.language.commands import suggestions
from kymaton.language.load_lines import CONNECTORS

COMPUTERS = ("computer", "laptop", "encoder", "call-computer", "streaming-program", "computer-mix", "playback")
SENDING = ("encoder", "streaming-program", "stream", "call")
STOCK = re.compile(r"^(stock\s+\d+\s+)(.*)$", re.IGNORECASE)
RUN = re.compile(r"^(run\s+)(.*?)(\s+to\s+(.*))?$", re.IGNORECASE)
POWER = re.compile(r"^(power\s+.+?\s+from\s+)(.*)$", re.IGNORECASE)


def load_offers(show: Show, text: str) -> list[str]:
    """Lines that begin as the text does and go on by one step, in the order in which they are likely meant."""
    line = text.lstrip()
    if not line:
        return []
    stock, run, power = STOCK.match(line), RUN.match(line), POWER.match(line)
    if stock is not None:
        return [f"{stock[1]}{kind} " for kind in known_kinds() if kind.lower().startswith(stock[2].lower())]
    if run is not None:
        begun, said = (f"{run[1]}{run[2]} to ", run[4]) if run[3] is not None else (run[1], run[2])
        end = " " if run[3] is not None else " to "
        known = (*(p.name for p in show.places), *(d.name for d in show.devices if is_carried(d)))
        others = (name for name in known if name.lower() != run[2].lower())
        return [f"{begun}{name}{end}" for name in others if name.lower().startswith(said.lower())]
    if power is not None:
        return [f"{power[1]}{s}" for s in supplies_of(show) if s.lower().startswith(power[2].lower())]
    begun = [f"{word} " for word in ("stock", "run", "uplink", *supplies_of(show), *(d.name for d in show.devices))]
    found = [b for b in begun if b.lower().startswith(line.lower())]
    for name in supplies_of(show):
        found += _after(name, line, ("gives ", "gives nothing", "hangs on ", "hangs on nothing"))
    for device in show.devices:
        found += _after(device.name, line, tuple(_said_of(show, device)))
    return found or suggestions(show, text)


def supplies_of(show: Show) -> list[str]:
    """The names of all supplies, whether anything was said of them or a device only hangs on them."""
    return list(dict.fromkeys((*(s.name for s in show.supplies), *(d.mains for d in show.devices if d.mains))))


def _after(name: str, line: str, tails: tuple[str, ...]) -> list[str]:
    """The tails that go on as the line does behind the name."""
    if not f"{line} ".lower().startswith(f"{name.lower()} "):
        return []
    rest = line[len(name) :].lstrip().lower()
    return [f"{name} {tail}" for tail in tails if tail.lower().startswith(rest)]


def _said_of(show: Show, device: Device) -> Iterator[str]:
    """What can be said of a device, the likeliest first."""
    if device.kind in SENDING:
        yield f"{LOADS['sends_mbit_s'].name} is "
    if not is_carried(device):
        return
    yield from ("did not come", "is dead", "is from ", "travels in ", "price is ", "power is ", "battery is ")
    if device.kind in COMPUTERS:
        yield from ("is a strong computer", "is an ordinary computer", "is an old computer")
        yield f"{LOADS['encodes_mpx_s'].name} is "
    if any(p.signal == "network" for p in device.ports):
        yield "has address "
    yield "runs on "
    loads = (w.name for key, w in LOADS.items() if key not in ("sends_mbit_s", "encodes_mpx_s", "price"))
    yield from (f"{name} is " for name in loads)
    yield from ("is bought used", "is bought new")
    for port in device.ports:
        if port.connector in CONNECTORS:
            yield f"{port.name.lower()} meets "
