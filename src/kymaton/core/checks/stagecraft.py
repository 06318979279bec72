"""What people on stage have to cope with: monitors that come late, changes by hand that take too long."""

from collections.abc import Iterable, Sequence

from kymaton.core.checks.audibility import names
from kymaton.core.checks.registry import Finding, kind, worded
from kymaton.core.hand_words import hand_text
from kymaton.core.model import Want
from kymaton.core.signal.cue_solution import HEARD_DB, LEAK_DB, CueSolution
from kymaton.core.words import Noun, group, joined, named, number, sentence, the_port, thing

OUTSIDE = ("audience", "recorder", "room")  # whom nobody can tell that it was a mistake
AT_CAMERAS = ("voice", "instrument", "ambience", "room")  # what a microphone at a camera takes


def _left_open(view: CueSolution, findings: Sequence[Finding]) -> str:
    played = group(thing(str(f.evidence["playback"])) for f in findings)
    whose = group(named(view.show.sound(f.sound)) for f in findings if f.sound)
    microphones = Noun("the microphones" if whose.plural else "the microphone", whose.plural)
    return sentence(f"{microphones} of {whose} {microphones.verb('be')} left open while {played.do('play')}")


@kind("microphone-left-open", rank=100, cure="close", watched=True, together=_left_open)
def left_open(view: CueSolution) -> Iterable[Finding]:
    """A voice that nobody asked for goes to audience, recording or room while a playback must be heard there."""
    for listener in view.show.listeners:
        if listener.kind not in OUTSIDE:
            continue
        played = [
            s
            for s in view.show.sounds
            if s.kind == "playback" and view.want(listener, s) is Want.MUST and view.audible(listener, s, HEARD_DB)
        ]
        for sound in view.show.sounds if played else ():
            asked = view.want(listener, sound) is not Want.ANY or sound.private
            if sound.kind == "voice" and not asked and view.audible(listener, sound, HEARD_DB):
                bursts = view.bursts(listener, sound)
                finding = Finding(
                    id="microphone-left-open",
                    severity="caution",
                    step="hearing",
                    cue=view.cue_id,
                    listener=listener.id,
                    sound=sound.id,
                    reason="Nobody has to hear it in this cue; what is said beside it goes out with the playback.",
                    evidence={"playback": played[0].name},
                    delays_us=tuple(b.delay_us for b in bursts),
                )
                yield worded(view, finding, _left_open)


def _input_on(view: CueSolution, findings: Sequence[Finding]) -> str:
    _, sounds = names(view, findings)
    ports = joined(dict.fromkeys(the_port(view.show, str(f.evidence["input"])) for f in findings))
    return sentence(f"{sounds} {sounds.verb('go')} out by {ports}, whose picture is not on air")


@kind("input-left-on", rank=99, cure="close", together=_input_on)
def input_left_on(view: CueSolution) -> Iterable[Finding]:
    """A player, or a microphone at a camera, that goes out by an input of a switcher whose picture is not on air."""
    on_air = view.cue.on_air if view.cue else None
    left = {
        c.id: c.picture_input
        for c in view.show.controls()
        if c.role == "input-sound" and c.picture_input != on_air and view.show.value(c.id, view.cue_id) == "on"
    }
    for listener, sound in view.arriving if left and on_air is not None else ():
        unasked = view.want(listener, sound) is Want.ANY and not sound.private  # what must not be is told as a leak
        by_a_player = sound.kind in ("playback", "alert")
        if listener.kind not in OUTSIDE or not (by_a_player or (sound.kind in AT_CAMERAS and unasked)):
            continue
        if not view.audible(listener, sound, LEAK_DB):
            continue
        path = view.strongest_path(listener.id, sound.id)
        uses = [u.control for e in (path.edges if path else ()) for u in view.graph.edges[e].uses]
        control = next((u for u in uses if u in left), None)
        if control is None:
            continue
        finding = Finding(
            id="input-left-on",
            severity="caution",
            step="hearing",
            cue=view.cue_id,
            listener=listener.id,
            sound=sound.id,
            reason="Whatever is played there goes out, though nobody sees it.",
            evidence={"input": str(left[control])},
            delays_us=tuple(b.delay_us for b in view.bursts(listener, sound)),
            remedy="Let the sound of this input follow its picture, or switch it off.",
        )
        yield worded(view, finding, _input_on)


def _hands(view: CueSolution, findings: Sequence[Finding]) -> str:
    return findings[0].sentence


@kind("too-much-by-hand", rank=101, together=_hands)
def too_much_by_hand(view: CueSolution) -> Iterable[Finding]:
    """More to do by hand at a cue than one person can do in the time of the change."""
    if view.cue is None:
        return
    seconds: dict[str | None, float] = {}
    for action in view.cue.hand_actions:
        seconds[action.person] = seconds.get(action.person, 0.0) + action.seconds
    people = {p.id: p.name for p in view.show.people}
    over = {person: needed for person, needed in seconds.items() if needed > view.cue.change_s}
    if over:
        worst = max(over, key=lambda person: over[person])
        who = people.get(worst or "", "whoever does it")
        done = "; ".join(hand_text(view.show, a) for a in view.cue.hand_actions if a.person in over)
        yield Finding(
            id="too-much-by-hand",
            severity="caution",
            step="path",
            cue=view.cue_id,
            sentence=sentence(
                f"{who} has {number(view.cue.change_s)} s and needs {number(over[worst])} s at {view.cue.name}"
            ),
            reason=f"To do by hand: {done}.",
            evidence={"needed_s": over[worst], "time_s": view.cue.change_s},
            remedy="Give part of it to somebody else, or prepare it before.",
        )
