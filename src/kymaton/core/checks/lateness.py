"""Heard too late: later than the plan allows, or than people can play, act or answer to where it says nothing."""

from collections.abc import Iterable, Sequence

from msgspec import Struct

from kymaton.core.checks.audibility import names
from kymaton.core.checks.registry import Finding, kind, worded
from kymaton.core.model import Listener, Show, Sound, Want
from kymaton.core.signal.cue_solution import HEARD_DB, Burst, CueSolution
from kymaton.core.words import exact_ms, ms, ms_within, sentence, the_device

MONITOR_LATE_MS = 20.0  # a performer cannot play to a click or a backing that is later than this
ACT_LATE_MS = 150.0  # most talk is not disturbed by less one way (ITU-T G.114)
RELAY_LATE_MS = 400.0  # beyond it people who answer each other are always disturbed (ITU-T G.114)
GUEST_LATE_MS = 1000.0  # a call on a call is often beyond 400 ms, and nobody here cures that; chosen
KEEPS_TIME = ("click", "playback", "instrument")
ON_THE_SPOT = ("performer", "host", "operator")
COUNTS_DB = 12.0  # under the strongest arrival: softer ones lead nobody; chosen


class Latest(Struct, frozen=True):
    """How late a sound may be for somebody: the kind of the finding beyond it, what it is too late for, and why."""

    kind: str
    ms: float
    purpose: str
    why: str


PLAY = Latest("monitor-late", MONITOR_LATE_MS, "to play to", "nobody keeps time with it")
ACT = Latest("monitor-late", ACT_LATE_MS, "to act to", "people wait for it")
ANSWER = Latest("relay-late", RELAY_LATE_MS, "to answer, sing or clap along", "a room answers into what comes next")
TALK = Latest("relay-late", GUEST_LATE_MS, "to talk with", "people talk into each other")


def latest(view: CueSolution, listener: Listener, sound: Sound) -> Latest | None:
    """How late a sound may be for a listener who must hear it: as the plan says, else as what they do with it bears.

    None where nothing is to be done: by default a guest's voice is as late as its call is, and so is all that somebody
    of the house hears over a call.
    """
    wish = view.show.wish(listener.id, sound.id, view.cue_id)
    if wish is not None and wish.max_delay_ms is not None:
        told = Latest("too-late", wish.max_delay_ms, "", "")
        return None if wish.want is Want.MUST_NOT else told
    if view.want(listener, sound) is not Want.MUST or view.is_own(listener, sound):
        return None
    if listener.kind in ("room", "guest"):
        return ANSWER if listener.kind == "room" else TALK
    if listener.kind not in ON_THE_SPOT or view.show.is_guest(sound) or _is_far(view.show, listener):
        return None
    return PLAY if listener.kind == "performer" and sound.kind in KEEPS_TIME else ACT


def _beyond(view: CueSolution, findings: Sequence[Finding]) -> str:
    listeners, sounds = names(view, findings)
    purposes = dict.fromkeys(str(f.evidence["purpose"]) for f in findings)
    return sentence(f"{listeners.do('hear')} {sounds} too late{' ' * bool(any(purposes))}{next(iter(purposes))}")


@kind("too-late", rank=62, form="late", cure="sooner", together=_beyond)
@kind("monitor-late", rank=63, form="late", cure="sooner", together=_beyond)
@kind("relay-late", rank=67, form="late", cure="sooner", together=_beyond)
def heard_late(view: CueSolution) -> Iterable[Finding]:
    """Sounds that arrive later than their wish allows, or than performers, people of the house and rooms bear."""
    for listener, sound in view.arriving:
        bound = latest(view, listener, sound)
        if bound is None or (bound.kind != "too-late" and not view.audible(listener, sound, HEARD_DB)):
            continue
        bursts = view.bursts(listener, sound)
        first = _counting(bursts, bound)
        made = 0.0 if bound.kind == "too-late" else made_ms(view, sound)
        if first.delay_ms - made <= bound.ms:
            continue
        sure = round(view.plus_minus_ms(listener.id, sound.id, first.delay_us), 1)
        reason = (
            f"It arrives after {ms_within(first.delay_ms, sure)}; the plan allows {exact_ms(bound.ms)}."
            if bound.kind == "too-late"
            else f"It arrives {ms(first.delay_ms - made)} after it is {'played' if made else 'made'}; "
            f"above {exact_ms(bound.ms)} {bound.why}."
        )
        finding = Finding(
            id=bound.kind,
            severity="caution",
            step="hearing",
            cue=view.cue_id,
            listener=listener.id,
            sound=sound.id,
            reason=reason,
            evidence={
                "delay_ms": first.delay_ms,
                "plus_minus_ms": sure,
                "most_ms": bound.ms + made,
                "purpose": bound.purpose,
            },
            delays_us=tuple(b.delay_us for b in bursts),
            remedy=faster_way(view, listener, sound),
        )
        yield worded(view, finding, _beyond)


def _counting(bursts: Sequence[Burst], bound: Latest) -> Burst:
    """What people go by: of the loud arrivals the first; where the plan sets a bound, the loudest."""
    loudest = max(bursts, key=lambda b: b.gain_db)
    if bound.kind == "too-late":
        return loudest
    return min((b for b in bursts if b.gain_db >= loudest.gain_db - COUNTS_DB), key=lambda b: b.delay_ms)


def _is_far(show: Show, listener: Listener) -> bool:
    """Whether somebody hears over a call alone, as a pupil far away does: as late as that is, whatever is done here."""
    ways = show.cables_to.get(f"listener/{listener.id}", ())
    kinds = {show.device(c.source.partition("/")[0]).kind for c in ways if c.source in show.ports}
    return kinds == {"call"}


def faster_way(view: CueSolution, listener: Listener, sound: Sound) -> str:
    """What would bring it sooner: said of the device on its way that takes the most time."""
    took: dict[str, float] = {}
    for edge in next((path.edges for path in view.paths(listener.id, sound.id)), ()):
        passed = view.graph.edges[edge].device
        if passed is not None:
            took[passed] = took.get(passed, 0.0) + float(view.state.delay_us[edge]) / 1000
    slowest = max(took, key=lambda d: took[d], default=None)
    if slowest is None or took[slowest] < 1.0:
        return ""
    device, it = view.show.device(slowest), the_device(view.show, slowest)
    set_ms = sum(float(view.show.value(c.id, view.cue_id)) for c in device.controls if c.kind == "delay")
    if set_ms > took[slowest] / 2:
        return f"{sentence(it.do('be'))} set to delay: take it from before that, or enter less."
    share = f"{sentence(it.do('take'))} {ms(took[slowest])} of it"
    if device.kind == "call":
        return f"{share}: what keeps time cannot come over a call. Play it where the performer is."
    if device.kind == "stream":
        return f"{share}: bring it there by a lead or a call, beside the stream."
    if device.stage == "carried":
        return f"{share}: use a lead there, or a faster wireless set."
    return f"{share}: take it from before that, or set a shorter buffer."


def made_ms(view: CueSolution, sound: Sound) -> float:
    """Delay of the first device of a sound: a player takes its time before anything leaves it."""
    first = {c.target.partition("/")[0] for c in view.show.cables if c.source == f"sound/{sound.id}"}
    waits = [r.delay_ms.value for d in view.show.devices if d.id in first for r in d.routes if r.medium == "sound"]
    return min(waits, default=0.0)
