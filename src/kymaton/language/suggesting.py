"""Other ways that come to mind from what is found in a rig: the lines that lead there, tried before they are said."""

import itertools
from collections.abc import Iterator

from kymaton.catalogue.registry import usual_name
from kymaton.core.checks.report import Report
from kymaton.core.edits.ids import free_id
from kymaton.core.loadin.runs import bridges_over
from kymaton.core.model import Alternative, Cable, Listener, Show, ShowError
from kymaton.core.signal.returns import clean_return
from kymaton.language.alternatives import applied
from kymaton.language.telling import said_value


def suggested(report: Report) -> Iterator[Alternative]:
    """Ways that nobody has entered yet: a clean return for people who see themselves late, an isolator against hum,
    what carries a run that is too long.
    """
    known = {a.name for a in report.show.alternatives}
    for way in (*_isolators(report), *_bridges(report)):
        if way.name not in known and _can_be_done(report.show, way):
            yield way
    late = dict.fromkeys(f.listener for f in report.findings if f.id == "own-picture-late" and f.listener)
    for id in late:
        clean = _clean_return(report.show, report.show.listener(id))
        if clean is not None and clean.name not in known and _can_be_done(report.show, clean):
            yield clean


MOST_BRIDGES = 2  # ways over one run that are suggested
PLUG_M = 1.0  # from a converter to what it stands beside


def _cable_of(show: Show, ports: tuple[str, ...]) -> Cable | None:
    """The lead between two ports that a finding names."""
    return next((c for c in show.cables if len(ports) > 1 and {c.source, c.target} == set(ports[:2])), None)


def _way(show: Show, name: str, lines: list[str]) -> Alternative:
    return Alternative(id=free_id(name, (a.id for a in show.alternatives)), name=name, lines=tuple(lines))


def _isolators(report: Report) -> Iterator[Alternative]:
    """A transformer in every lead that may bring hum from one circuit to another."""
    show = report.show
    for finding in report.rig:
        cable = _cable_of(show, finding.ports) if finding.id == "hum-between-supplies" else None
        if cable is not None:
            source, target = show.port_label(cable.source), show.port_label(cable.target)
            box = f"Isolator at {show.ports[cable.target][0].name}"
            lines = [f"add isolator as {box}", f"disconnect {target}", f"{source} > {box} 1", f"{box} 1 > {target}"]
            yield _way(show, f"Isolator from {source} to {target}", lines)


def _bridges(report: Report) -> Iterator[Alternative]:
    """Converters over every run that is too long, the fewest more points of failure first."""
    show = report.show
    for finding in report.rig:
        cable = _cable_of(show, finding.ports) if finding.id == "run-too-long" else None
        if cable is None:
            continue
        length_m, limit_m = float(str(finding.evidence["length_m"])), float(str(finding.evidence["limit_m"]))
        for bridge in bridges_over(show, cable.kind, length_m, limit_m)[:MOST_BRIDGES]:
            source, target = show.port_label(cable.source), show.port_label(cable.target)
            near = show.ports[cable.source][0].name
            many = len(bridge.boxes) > len(set(bridge.boxes))
            boxes = [f"{near} {usual_name(box)}{f' {n}' if many else ''}" for n, box in enumerate(bridge.boxes, 1)]
            ends = [source, *boxes, target]
            middle = len(set(bridge.leads)) > 1  # the long lead is of another kind, between two converters
            part = [
                PLUG_M if middle and lead == cable.kind else length_m if middle else length_m / len(bridge.leads)
                for lead in bridge.leads
            ]
            lines = [f"add {kind} as {box}" for kind, box in zip(bridge.boxes, boxes, strict=True)]
            lines.append(f"disconnect {target}")
            lines += [f"{a} > {b} {m:.1f} m" for (a, b), m in zip(itertools.pairwise(ends), part, strict=True)]
            lines += [f"buy {box}" for box in boxes]
            yield _way(show, f"From {source} by {bridge.name}", lines)


def _clean_return(show: Show, listener: Listener) -> Alternative | None:
    found = clean_return(show, show.cues or (None,), listener)
    if found is None:
        return None
    name, lines = f"Clean return for {listener.name}", []
    if found.lead is not None:
        into = show.port_label(found.lead.target)
        lines += [f"disconnect {into}", f"{show.port_label(found.output)} > {into}"]
    if found.change is not None:
        control = found.show.control(found.change.control)
        lines.append(f"set {control.name} to {said_value(control, found.change.after)}")
    return Alternative(id=free_id(name, (a.id for a in show.alternatives)), name=name, lines=tuple(lines))


def _can_be_done(show: Show, way: Alternative) -> bool:
    try:
        applied(show, way)
    except ShowError:
        return False
    return True
