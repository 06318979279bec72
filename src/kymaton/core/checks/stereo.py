"""Left and right: a side that is lost, sides that are swapped, and what is left when both are heard as one.

Half of an audience listens by one small loudspeaker, which adds both sides: what reaches them in opposite polarity is
gone there. Arrivals of one sound at one time add as pressures, all else by power [1]. Two channels of a sound whose
width is not said are taken as alike in their middle, as nearly all recordings of music and rooms are.

1. Recommendation ITU-R BS.775-4, annex 4: mono from both sides is half of their sum, in power −3 dB each.
"""

import math
from collections.abc import Iterable, Sequence
from typing import Any

from msgspec import Struct

from kymaton.core.checks.audibility import names
from kymaton.core.checks.doubling import DOUBLED_DB, effect, strongest_pair, strongest_pair_of_an_ear
from kymaton.core.checks.registry import Evidence, Finding, Severity, kind, worded
from kymaton.core.checks.stereo_places import crossed_at, met_at, place_of, strongest_of_channels, turned_at
from kymaton.core.model import Listener, Sound, Want
from kymaton.core.signal.cue_solution import HEARD_DB, Burst, CueSolution
from kymaton.core.signal.hearing import Arrival
from kymaton.core.words import db, ms, sentence, the_port

ONE_SIDE_DB = 20.0  # between the ears: as a level difference alone it is wholly at one side from about 18 dB on; chosen
LOST_DB = 30.0  # between the two channels of a sound: the softer one is lost; chosen
CANCELS_DB = 10.0  # softer in mono than by power; chosen: a voice is then lost among others
ALIKE_DB, AT_ONCE_MS = 6.0, 1.0  # between two channels that cancel their middle; chosen
APART_DB = 1.0  # between the ears: less is not heard as coming from a side; chosen
SIDES = {1: "left", 2: "right"}


class Sides(Struct, frozen=True):
    """What arrives of a sound at two ears, by channel of the sound and ear, as power and as arrivals."""

    arrivals: tuple[Arrival, ...]

    def power(self, channel: int | None = None, ear: int | None = None) -> float:
        """Sum of the squared gains of what comes of a channel (None: all) to an ear (None: both)."""
        chosen = (a for a in self.arrivals if channel in (None, a.sound_channel) and ear in (None, a.ear))
        return sum(10 ** (a.gain_db / 10) for a in chosen)

    def mono(self, channel: int) -> float:
        """Power of a channel when both ears are added, each by −3 dB: what comes at one time adds as pressure."""
        at: dict[int, float] = {}
        for a in self.arrivals:
            if a.sound_channel == channel:
                at[a.delay_us] = at.get(a.delay_us, 0.0) + a.polarity * 10 ** (a.gain_db / 20)
        return sum(value * value for value in at.values()) / 2

    def strongest(self, channel: int) -> Arrival | None:
        """The strongest arrival of a channel."""
        return max((a for a in self.arrivals if a.sound_channel == channel), key=lambda a: a.gain_db, default=None)


def _over_db(one: float, other: float) -> float:
    """How much stronger one power is than another, in dB."""
    if one <= 0.0:
        return -math.inf
    return math.inf if other <= 0.0 else 10 * math.log10(one / other)


def _heard(view: CueSolution) -> Iterable[tuple[Listener, Sound, Sides]]:
    """Sounds that are heard by somebody who may hear them."""
    for listener, sound in view.arriving:
        if view.want(listener, sound) is not Want.MUST_NOT and view.audible(listener, sound, HEARD_DB):
            yield listener, sound, Sides(view.hearing.arrivals(listener.id, sound.id))


def _is_copied(listener: Listener) -> bool:
    """Whether what is sent there is heard by many, on whatever they have."""
    return listener.kind in ("audience", "recorder")


def _of(view: CueSolution, id: str, severity: Severity, listener: Listener, sound: Sound, **more: Any) -> Finding:
    """A finding about a sound at a listener in this cue."""
    return Finding(id, severity, "hearing", view.cue_id, listener.id, sound.id, **more)


def _one_sided(view: CueSolution, findings: Sequence[Finding]) -> str:
    listeners, sounds = names(view, findings)
    what = {str(f.evidence["lost"]) for f in findings}
    if what == {"channel"}:
        return sentence(f"only one side of {sounds} reaches {listeners}")
    sides = {str(f.evidence["side"]) for f in findings}
    where = f"on the {sides.pop()}" if len(sides) == 1 else "on one side"
    return sentence(f"{sounds.do('reach')} {listeners} {where} only")


@kind("one-sided", rank=64, form="one-sided", together=_one_sided)
def one_sided(view: CueSolution) -> Iterable[Finding]:
    """Sounds with two sides of which one is lost, and sounds that only one ear gets."""
    for listener, sound, sides in _heard(view):
        evidence: Evidence = {}
        reason = ""
        if sound.channels == 2:
            channels = [sides.power(channel=c) for c in (1, 2)]
            lost = next((c for c in (1, 2) if _over_db(channels[2 - c], channels[c - 1]) > LOST_DB), None)
            if lost is not None:
                evidence = {"lost": "channel", "side": SIDES[lost]}
                softer = _over_db(channels[2 - lost], channels[lost - 1])
                how = "does not arrive" if softer == math.inf else f"arrives {db(softer)} softer than the other one"
                reason = f"Its {SIDES[lost]} channel {how}."
        ears = [sides.power(ear=e) for e in (1, 2)]
        silent = next((e for e in (1, 2) if _over_db(ears[2 - e], ears[e - 1]) > ONE_SIDE_DB), None)
        if silent is not None and not evidence:
            evidence = {"lost": "ear", "side": SIDES[3 - silent]}
            softer = _over_db(ears[2 - silent], ears[silent - 1])
            none = softer == math.inf
            side = SIDES[silent]
            reason = f"Nothing of it comes on the {side}." if none else f"On the {side} it is {db(softer)} softer."
        if not evidence:
            continue
        finding = _of(
            view,
            "one-sided",
            "caution" if _is_copied(listener) or sound.channels == 2 else "note",
            listener,
            sound,
            reason=reason,
            evidence=evidence,
            delays_us=tuple(dict.fromkeys(a.delay_us for a in sides.arrivals)),
        )
        yield worded(view, finding, _one_sided)


def _swapped(view: CueSolution, findings: Sequence[Finding]) -> str:
    listeners, sounds = names(view, findings)
    return sentence(f"left and right of {sounds} are swapped for {listeners}")


@kind("sides-swapped", rank=65, form="swapped", together=_swapped)
def sides_swapped(view: CueSolution) -> Iterable[Finding]:
    """Sounds whose left channel comes on the right, and the right one on the left."""
    for listener, sound, sides in _heard(view):
        if sound.channels != 2:
            continue
        crossed = [_over_db(sides.power(c, 3 - c), sides.power(c, c)) for c in (1, 2)]
        if min(crossed) > ONE_SIDE_DB:
            edge = next(
                (e for p in strongest_of_channels(view, listener.id, sound) if (e := crossed_at(view, p))), None
            )
            where = "" if edge is None else f": they are crossed {place_of(view, edge)[0]}"
            finding = _of(
                view,
                "sides-swapped",
                "caution",
                listener,
                sound,
                reason=f"Its left channel comes on the right, and its right one on the left{where}.",
                remedy="" if edge is None else "Put each lead into the other socket there.",
                delays_us=tuple(dict.fromkeys(a.delay_us for a in sides.arrivals)),
            )
            yield worded(view, finding, _swapped)


def _in_mono(view: CueSolution, findings: Sequence[Finding]) -> str:
    listeners, sounds = names(view, findings)
    return sentence(f"{sounds.do('reach')} {listeners} in mono")


@kind("collapsed", rank=110, together=_in_mono)
def collapsed(view: CueSolution) -> Iterable[Finding]:
    """Sounds with two sides that come as one: added by a mono input, a mono lead or a call."""
    for listener, sound, sides in _heard(view):
        if sound.channels != 2 or sound.width == 0.0 or not _is_copied(listener):
            continue  # monitors and returns are in mono as a rule
        powers = [[sides.power(c, e) for e in (1, 2)] for c in (1, 2)]
        apart = max(abs(_over_db(of_ears[0], of_ears[1])) for of_ears in powers if max(of_ears) > 0)
        if min(max(of_ears) for of_ears in powers) <= 0 or apart > APART_DB:
            continue  # a side is lost, or they are still told apart
        met = met_at(view, strongest_of_channels(view, listener.id, sound))
        if met is None:
            continue
        finding = _of(
            view,
            "collapsed",
            "note",
            listener,
            sound,
            reason=f"Its two sides are added at {the_port(view.show, met)}: left and right are one from there on.",
            evidence={"where": met},
            delays_us=tuple(dict.fromkeys(a.delay_us for a in sides.arrivals)),
        )
        yield worded(view, finding, _in_mono)


def _cancels(view: CueSolution, findings: Sequence[Finding]) -> str:
    listeners, sounds = names(view, findings)
    middle = all(f.evidence.get("middle") for f in findings)
    text = f"the middle of {sounds} cancels" if middle else sounds.do("cancel")
    return sentence(f"{text} in mono for {listeners}")


@kind("mono-cancels", rank=66, form="cancels", watched=True, together=_cancels)
def mono_cancels(view: CueSolution) -> Iterable[Finding]:
    """What both sides carry in opposite polarity: lost wherever they are added."""
    for listener, sound, sides in _heard(view):
        if not _is_copied(listener):
            continue
        softer = max(_over_db(sides.power(channel=c), sides.mono(c)) for c in range(1, sound.channels + 1))
        middle = sound.channels == 2 and sound.width != 1.0 and _opposite(sides)
        if softer <= CANCELS_DB and not middle:
            continue
        how = "nearly nothing of it is left" if softer > 2 * LOST_DB else f"it is {db(softer)} softer there"
        text = f"Its two sides have opposite polarity: {how}"
        if middle:
            text = "Its two channels have opposite polarity: what both carry is gone"
        by_ear = [next((p for p in view.paths(listener.id, sound.id) if p.ear == e), None) for e in (1, 2)]
        ways = strongest_of_channels(view, listener.id, sound) if middle else [p for p in by_ear if p is not None]
        edge = turned_at(view, ways)
        where = "" if edge is None else f" It is turned round {place_of(view, edge)[0]}."
        severity: Severity = "caution" if middle else "fault"
        finding = _of(
            view,
            "mono-cancels",
            severity,
            listener,
            sound,
            reason=f"{text}.{where} Many listen by one loudspeaker: a telephone, a kitchen radio.",
            remedy="" if edge is None else "Turn the polarity there back, or put a straight lead.",
            evidence={"middle": middle} if middle else {"softer_db": round(min(softer, 120.0), 1), "middle": False},
            delays_us=tuple(dict.fromkeys(a.delay_us for a in sides.arrivals)),
        )
        yield worded(view, finding, _cancels)


def _opposite(sides: Sides) -> bool:
    """Whether the strongest arrivals of both channels are alike but for their polarity."""
    one, two = sides.strongest(1), sides.strongest(2)
    if one is None or two is None or one.polarity == two.polarity:
        return False
    return abs(one.gain_db - two.gain_db) < ALIKE_DB and abs(one.delay_us - two.delay_us) < 1000 * AT_ONCE_MS


def _hollow(view: CueSolution, findings: Sequence[Finding]) -> str:
    listeners, sounds = names(view, findings)
    return sentence(f"{sounds.do('reach')} {listeners} twice in mono")


@kind("doubled-in-mono", rank=104, together=_hollow)
def doubled_in_mono(view: CueSolution) -> Iterable[Finding]:
    """Sounds that come to one side earlier than to the other: not doubled in any ear, but where both are added."""
    for listener, sound, sides in _heard(view):
        if not _is_copied(listener):
            continue
        pair = strongest_pair([Burst(a.delay_us, a.gain_db, a.polarity, a.sound_channel) for a in _merged(sides)])
        if pair is None or pair[0].gain_db - pair[1].gain_db > DOUBLED_DB:
            continue
        each = strongest_pair_of_an_ear(view, listener, sound)
        if each is not None and each[0].gain_db - each[1].gain_db <= DOUBLED_DB:
            continue  # told as doubled
        gap_ms = abs(pair[0].delay_us - pair[1].delay_us) / 1000.0
        finding = _of(
            view,
            "doubled-in-mono",
            "note",
            listener,
            sound,
            reason=f"One side comes {ms(gap_ms)} after the other: {effect(gap_ms, sound)} where both are added.",
            evidence={"gap_ms": gap_ms, "difference_db": round(pair[0].gain_db - pair[1].gain_db, 1)},
            delays_us=tuple(sorted(b.delay_us for b in pair)),
        )
        yield worded(view, finding, _hollow)


def _merged(sides: Sides) -> list[Arrival]:
    """Of arrivals of one channel at one time the strongest."""
    best: dict[tuple[int, int], Arrival] = {}
    for a in sides.arrivals:
        key = (a.sound_channel, a.delay_us)
        if key not in best or a.gain_db > best[key].gain_db:
            best[key] = a
    return list(best.values())
