"""Other ways that come to mind from what is found in a rig: the lines that lead there, tried before they are said."""

from collections.abc import Iterator

from kymaton.core.checks.report import Report
from kymaton.core.edits.ids import free_id
from kymaton.core.model import Alternative, Listener, Show, ShowError
from kymaton.core.signal.returns import clean_return
from kymaton.language.alternatives import applied
from kymaton.language.telling import said_value


def suggested(report: Report) -> Iterator[Alternative]:
    """Ways that nobody has entered yet: a clean return for people who see themselves late."""
    known = {a.name for a in report.show.alternatives}
    late = dict.fromkeys(f.listener for f in report.findings if f.id == "own-picture-late" and f.listener)
    for id in late:
        way = _clean_return(report.show, report.show.listener(id))
        if way is not None and way.name not in known and _can_be_done(report.show, way):
            yield way


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
