"""The leads of a show as a person holds them: numbered, each once, with what stands at either end."""

from msgspec import Struct

from kymaton.core.cable_match import PLAIN
from kymaton.core.loadin.gear import is_carried
from kymaton.core.loadin.runs import run_of
from kymaton.core.loadin.stock import AWAY, Taken, taken_from
from kymaton.core.model import Cable, Show
from kymaton.core.words import joined


class Lead(Struct, frozen=True):
    """A lead: its number on the label, the ends in words, its kind, how long it has to be and which one is taken.

    `ports` are the sockets at either end: one of a lead that splits has several.
    """

    number: str
    cables: tuple[str, ...]
    kind: str
    here: str
    there: str
    ports: tuple[tuple[str, ...], tuple[str, ...]]
    needed_m: float
    taken: str
    adapters: str
    item: int | None = None  # of the stock, which one is taken

    @property
    def key(self) -> str:
        """What a tick names it by."""
        return f"lead:{self.cables[0]}"


def leads_of(show: Show) -> list[Lead]:
    """Every lead that is laid, in the order of the devices that they come from, numbered from 1."""
    order = {d.id: n for n, d in enumerate(show.devices)}
    taken = sorted(taken_from(show), key=lambda t: order.get(show.cable(t.cables[0]).source.partition("/")[0], 0))
    taken = [t for t in taken if _is_laid(show, show.cable(t.cables[0]))]
    wide = max(2, len(str(len(taken))))
    return [_lead(show, t, f"{n:0{wide}}") for n, t in enumerate(taken, 1)]


def _is_laid(show: Show, cable: Cable) -> bool:
    """Whether somebody here lays it: one of its ends stands here."""
    owners = [e.partition("/")[0] for e in (cable.source, cable.target)]
    return any(is_carried(show.device(o)) for o in owners)


def _lead(show: Show, taken: Taken, number: str) -> Lead:
    cables = [show.cable(c) for c in taken.cables]
    first = cables[0]
    sources = tuple(dict.fromkeys(c.source for c in cables))
    targets = tuple(dict.fromkeys(c.target for c in cables))
    if taken.item is None:
        which = f"to find: {taken.buy_m:g} m" if show.stock or run_of(show, first) is not None else ""
        which = which or (f"{taken.metres:g} m" if taken.metres else "")
    else:
        item = show.stock[taken.item]
        which = f"{item.length_m:g} m, {item.case or ('to buy' if item.owned == 'to buy' else 'in stock')}"
    here, there = _ends(show, sources), _ends(show, targets)
    away = [show.ports[p][0] for p in (*sources, *targets) if show.ports[p][0].kind in AWAY]
    if away:
        mine = next(show.ports[p][0] for p in (*sources, *targets) if show.ports[p][0].kind not in AWAY)
        here, there = f"{mine.name} network", f"the line ({joined(d.name for d in away)})"
    return Lead(
        first.label or number, taken.cables, taken.kind, here, there,
        (sources, targets), taken.metres, which,
        ", ".join(dict.fromkeys(a for c in cables for a in c.adapters)), taken.item,
    )  # fmt: skip


def _ends(show: Show, ports: tuple[str, ...]) -> str:
    """`Desk 9 and 10`, `Table mic`."""
    if len({p.partition("/")[0] for p in ports}) == 1 and len(ports) > 1:
        device = show.device(ports[0].partition("/")[0])
        return f"{device.name} {joined(show.port(p).name for p in ports)}"
    return joined(show.port_label(p) for p in ports)


class Label(Struct, frozen=True):
    """One label: the number, the socket at its own end (large), where the other end goes, and what a phone reads."""

    number: str
    here: str
    there: str
    code: str


def labels_of(show: Show) -> list[Label]:
    """Two labels for each lead, one for either end."""
    found = []
    for lead in leads_of(show):
        code = f"{lead.number}: {lead.here} > {lead.there} ({lead.kind}, {lead.needed_m:g} m)"
        found.append(Label(lead.number, lead.here, lead.there, code))
        found.append(Label(lead.number, lead.there, lead.here, code))
    return found


def known_kinds() -> list[str]:
    """Kinds of lead that the catalogue of connectors knows."""
    return sorted(set(PLAIN.values()))
