"""Pictures: formats that do not meet, outputs that are not clean, sockets that carry none, and who sees what."""

from collections.abc import Iterable, Iterator, Sequence

from kymaton.core.checks.registry import Finding, kind, rig_kind, worded
from kymaton.core.checks.wiring import found, joints
from kymaton.core.edits.ids import owner
from kymaton.core.formats import format_text, frames_per_s
from kymaton.core.model import Listener, PictureWish, Route, Show, Want
from kymaton.core.model.device import Value
from kymaton.core.signal.cue_solution import CueSolution
from kymaton.core.signal.picture import picture_open, pictures_seen
from kymaton.core.signal.returns import CleanReturn, clean_return, own_picture
from kymaton.core.words import exact_ms, group, joined, ms, named, sentence, the_device, the_port

AS_THE_SHOW = "as the show"
CLEAN = "clean"
SEES_LATE_MS = 100.0  # a picture of oneself later than this puts people off, as a late voice does; chosen


def _format_at(show: Show, port: str) -> str | None:
    control = show.port(port).format_control
    if control is None:
        return None
    value = str(show.control(control).value)
    return format_text(show.picture) if value == AS_THE_SHOW else value


def _arriving(show: Show, port: str, feeding: dict[str, str], seen: frozenset[str] = frozenset()) -> list[str]:
    """Outputs that decide which format leaves at an output: itself, or what feeds the device that passes it on."""
    if show.port(port).format_control is not None:
        return [port]
    device, name = show.device(owner(port)), port.partition("/")[2]
    inputs = [f"{device.id}/{r.source}" for r in device.routes if r.medium == "picture" and r.target == name]
    before = [feeding[i] for i in inputs if i in feeding and feeding[i] not in seen]
    return [x for source in before for x in _arriving(show, source, feeding, seen | {port})]


def _feeding(show: Show) -> dict[str, str]:
    return {c.target: c.source for c, _, a, _, _ in joints(show) if a.picture}


@rig_kind(picture_format="{many} inputs get a picture format that they do not take")
def picture_format(show: Show) -> Iterable[Finding]:
    """What an input without a scaler cannot show: another size or frame rate than its own."""
    feeding = _feeding(show)
    for cable, _, a, _, b in joints(show):
        wanted = None if b.scales or not a.picture else _format_at(show, cable.target)
        for source in _arriving(show, cable.source, feeding) if wanted is not None else ():
            given = _format_at(show, source)
            if given != wanted and wanted is not None:
                maker = show.device(owner(source))
                control = show.control(show.port(source).format_control or "")
                settings = ((control.id, wanted),) if wanted in control.choices else ()
                yield found(
                    "picture-format", "fault", f"{the_device(show, maker.id).do('give')} {given}, "
                    f"and {the_port(show, cable.target)} takes {wanted} only",
                    "Without a scaler in between that input stays black.", cable,
                    "Set both to one format, or put a scaler between them.", settings=settings,
                )  # fmt: skip


@rig_kind(capture_limits_the_rate="{many} captures take frames away")
def capture_limits_the_rate(show: Show) -> Iterable[Finding]:
    """Captures that give fewer frames a second than come in: movement stutters, and is late by another share."""
    feeding = _feeding(show)
    for cable, _, a, to, b in joints(show):
        most = b.most_frames_per_s
        for source in _arriving(show, cable.source, feeding) if a.picture and most is not None else ():
            given = _format_at(show, source)
            if given is None or most is None or frames_per_s(given) <= most:
                continue
            yield found(
                "capture-limits-the-rate", "note",
                f"{the_device(show, to.id).do('give')} {most:g} frames a second of {given}",
                "Movement is less smooth than from a capture that gives them all.", cable,
                "Set the camera to the lower rate, or use another capture.",
            )  # fmt: skip


@rig_kind(camera_not_clean="{many} cameras send what their displays show")
def camera_not_clean(show: Show) -> Iterable[Finding]:
    """Cameras whose picture has what the viewfinder shows laid over it."""
    for cable, from_, a, _, _ in joints(show):
        control = next((c for c in from_.controls if CLEAN not in str(c.value) and c.id == f"{from_.id}/output"), None)
        if from_.kind == "camera" and a.picture and control is not None:
            settings = ((control.id, CLEAN),) if CLEAN in control.choices else ()
            remedy = "" if settings else "This camera has no clean output: use another one."
            yield found(
                "camera-not-clean", "caution", f"{the_device(show, from_.id).do('send')} what its display shows",
                "Focus frames, levels and battery marks go to the audience.", cable, remedy, settings=settings,
            )  # fmt: skip


@rig_kind(socket_without_picture="{many} sockets carry no picture")
def socket_without_picture(show: Show) -> Iterable[Finding]:
    """A dock or converter that waits for picture on a socket that carries none."""
    for cable, from_, a, to, b in joints(show):
        ways = [r for r in from_.routes if r.medium == "picture" and r.target == a.id]
        closed = bool(ways) and not any(picture_open(show, r, None) for r in ways)
        goes_on = any(
            r.medium == "picture" and r.source == b.id and _leads_on(show, f"{to.id}/{r.target}") for r in to.routes
        )
        if b.picture and goes_on and (closed or not a.picture):
            yield found(
                "socket-without-picture", "fault",
                f"{the_port(show, cable.source)} carries no picture, so {the_device(show, to.id).do('stay')} black",
                "A socket for data alone has no DisplayPort inside; a dock cannot make a picture of data.", cable,
                "Use a socket that carries picture, or the computer's own HDMI.", settings=_opening(ways),
            )  # fmt: skip


def _leads_on(show: Show, port: str) -> bool:
    return any(c.source == port and c.plugged for c in show.cables)


def _opening(ways: Sequence[Route]) -> tuple[tuple[str, str], ...]:
    """Settings that let the first of these routes pass."""
    return tuple((u.control, next(iter(u.gains))) for r in ways[:1] for u in r.controls if u.gains)


@kind("picture-missing", rank=84)
@kind("picture-seen", rank=85)
def pictures_wished(view: CueSolution) -> Iterable[Finding]:
    """Pictures that somebody must see and does not, or must not see and does."""
    show = view.show
    for wish in _wishes(show, view.cue_id):
        watcher = show.listener(wish.watcher)
        sees = wish.picture in pictures_seen(show, view.cue, watcher.id)
        what = f"the picture from {the_port(show, wish.picture)}"
        if sees == (wish.want is Want.MUST) or wish.want is Want.ANY:
            continue
        who = named(watcher)
        text = f"{who.do('do')} not see {what}" if not sees else f"{who.do('see')} {what}"
        reason = "No picture route leads there in this cue." if not sees else "The plan says that it must not be seen."
        yield Finding(
            id="picture-seen" if sees else "picture-missing",
            severity="fault",
            step="path",
            cue=view.cue_id,
            listener=watcher.id,
            sentence=sentence(text),
            reason=reason,
            ports=(wish.picture, f"listener/{watcher.id}"),
            remedy="Change the lead or the picture on air." if sees else "Patch the picture to a screen there.",
        )


def _see_themselves(view: CueSolution, findings: Sequence[Finding]) -> str:
    who = group(named(view.show.listener(f.listener)) for f in findings if f.listener)
    themselves = "themselves" if who.plural else "their own picture"
    worst = max((f.evidence for f in findings), key=lambda e: float(str(e["delay_ms"])))
    late = ms(float(str(worst["delay_ms"])), float(str(worst["plus_minus_ms"])))
    return sentence(f"{who.do('see')} {themselves} {late} late")


@kind("own-picture-late", rank=87, gathered="all", together=_see_themselves)
def own_picture_late(view: CueSolution) -> Iterable[Finding]:
    """People to whom the picture on air comes back late while they are in it."""
    for listener in view.show.listeners:
        way = own_picture(view.show, view.cue, listener)
        if way is None or way.delay_ms <= SEES_LATE_MS or not _may_speak(view, listener):
            continue
        clean = clean_return(view.show, [view.cue], listener)
        finding = Finding(
            id="own-picture-late",
            severity="caution",
            step="path",
            cue=view.cue_id,
            listener=listener.id,
            reason=f"It passes {joined(dict.fromkeys(str(the_device(view.show, owner(p))) for p in way.ports[1:-1]))}. "
            f"Above {exact_ms(SEES_LATE_MS)} it puts people off while they speak or play.",
            evidence={"delay_ms": way.delay_ms, "plus_minus_ms": way.plus_minus_ms},
            ports=(way.source, f"listener/{listener.id}"),
            remedy=_cleaned(clean) if clean is not None else "Let them see another picture, or none, while on air.",
            settings=_set_by(clean),
        )
        yield worded(view, finding, _see_themselves)


def _may_speak(view: CueSolution, listener: Listener) -> bool:
    own = (s for s in view.show.sounds if view.is_own(listener, s))
    return any(view.cue is None or view.cue.sounding.get(s.id) != "silent" for s in own)


def _cleaned(clean: CleanReturn) -> str:
    """What gives a picture without oneself, where a lead is to be moved for it."""
    if clean.lead is None:
        return ""
    moved = f"plug {the_port(clean.show, clean.output)} into {the_port(clean.show, clean.lead.target)} instead"
    change = clean.change
    set_to = f", and set {clean.show.control(change.control).name} to {change.after}" if change is not None else ""
    return f"A clean return: {moved}{set_to}."


def _set_by(clean: CleanReturn | None) -> tuple[tuple[str, Value], ...]:
    if clean is None or clean.change is None or clean.lead is not None:
        return ()
    return ((clean.change.control, clean.change.after),)


def _wishes(show: Show, cue: str | None) -> Iterator[PictureWish]:
    """The wishes that hold in a cue: one for this cue goes before one for all."""
    chosen: dict[tuple[str, str], PictureWish] = {}
    for wish in sorted(show.picture_plan, key=lambda w: bool(w.cues)):
        if not wish.cues or cue in wish.cues:
            chosen[wish.watcher, wish.picture] = wish
    yield from chosen.values()
