"""What is done by hand at a cue, by typing: `Quill connects camera b to switcher HDMI 3, 20 s`.

Verbs: connect (what is in that input comes out first), disconnect, move (a microphone `to 0.4 m`, a person or a device
to a place), turn and set (a control to a value), mute and open, change (the battery of a device). Who does it may
stand first, seconds last. What a hand sets stays in the cues behind; `recall desk` says that a scene of the desk is
recalled, and takes it back.
"""

import re
from collections.abc import Callable, Mapping, Sequence
from functools import partial

from msgspec import Struct

from kymaton.core.edits.cables import disconnect
from kymaton.core.edits.cues import put_cue
from kymaton.core.hand_words import VERBS, hand_text
from kymaton.core.model import Cable, Control, Cue, HandAction, Place, Show, ShowError
from kymaton.core.model.device import Value
from kymaton.core.nearest import did_you_mean
from kymaton.core.planning.fixes import value_text
from kymaton.core.signal.graph import unplugged
from kymaton.core.words import joined, the_device
from kymaton.language.commands import find_control, find_device, find_devices, find_mutes, read_value
from kymaton.language.patch import find_end, read_patch

SECONDS = re.compile(r",\s*(\d+(?:\.\d+)?)\s*s$")
METRES = re.compile(r"^(\d+(?:\.\d+)?)\s*m$")
SPELLINGS = {
    **{v: v for v in VERBS}, **{s: v for v, s in VERBS.items()}, "set": "choose", "plug": "connect", "plugs": "connect",
    "unplug": "disconnect", "unplugs": "disconnect", "mute": "mute", "mutes": "mute", "open": "open", "opens": "open",
    "unmute": "open", "unmutes": "open",
}  # fmt: skip
RECALL = re.compile(r"^recalls?\s+(.+)$", re.IGNORECASE)


class _Said(Struct, frozen=True):
    """A line taken apart."""

    cue: Cue
    kind: str
    rest: str
    person: str | None
    seconds: float

    def action(self, target: str, **more: object) -> HandAction:
        return HandAction.checked(kind=self.kind, target=target, person=self.person, seconds=self.seconds, **more)


def add_hand_action(show: Show, cue_id: str, line: str) -> tuple[Show, str]:
    """The show with what the line says done at this cue, and that in words. Raises ShowError."""
    recalled = RECALL.match(line.strip())
    if recalled:
        return _recall(show, show.cue(cue_id), recalled[1])
    said = _taken_apart(show, show.cue(cue_id), line)
    does: dict[str, Callable[[Show, _Said], tuple[Show, list[HandAction]]]] = {
        "connect": _connect,
        "disconnect": _disconnect,
        "move": _move,
        "turn": _set,
        "choose": _set,
        "mute": partial(_mute, muted=True),
        "open": partial(_mute, muted=False),
        "renew": _renew,
    }
    after, actions = does[said.kind](show, said)
    cue = after.cue(cue_id)
    after = put_cue(after, cue.evolve(hand_actions=(*cue.hand_actions, *actions)))
    return after, hand_line(after, cue_id, len(after.cue(cue_id).hand_actions) - 1)


BATTERY = re.compile(r"^(?:the\s+)?batter(?:y|ies)\s+of\s+(.+)$", re.IGNORECASE)


def _renew(show: Show, said: _Said) -> tuple[Show, list[HandAction]]:
    of = BATTERY.match(said.rest.strip())
    if of is None:
        raise ShowError("Say: changes the battery of, and the device.")
    devices = find_devices(show, of[1])
    for device in devices:
        if device.battery_h is None:
            raise ShowError(f"{device.name} runs on no battery.")
    return show, [said.action(d.id) for d in devices]


def _recall(show: Show, cue: Cue, names: str) -> tuple[Show, str]:
    devices = find_devices(show, names)
    recalls = dict.fromkeys((*cue.recalls, *(d.id for d in devices)))
    return put_cue(show, cue.evolve(recalls=tuple(recalls))), recall_line(show, [d.id for d in devices])


def recall_line(show: Show, devices: Sequence[str]) -> str:
    """What is recalled, in words."""
    return f"recall a scene of {joined(str(the_device(show, d)) for d in devices)}"


def remove_recalls(show: Show, cue_id: str) -> Show:
    """The cue recalls nothing any more: what a hand has set stays."""
    return put_cue(show, show.cue(cue_id).evolve(recalls=()))


def remove_hand_action(show: Show, cue_id: str, number: int) -> Show:
    """Without an action; a control that it set goes back to what it is in all cues."""
    cue = show.cue(cue_id)
    gone = cue.hand_actions[number]
    rest = tuple(a for i, a in enumerate(cue.hand_actions) if i != number)
    turned = gone.kind in ("turn", "choose")
    controls = {k: v for k, v in cue.controls.items() if not (turned and k == gone.target)}
    return put_cue(show, cue.evolve(hand_actions=rest, controls=controls))


def hand_line(show: Show, cue_id: str, number: int) -> str:
    """An action of a cue in words, with the value that a control is set to."""
    action = show.cue(cue_id).hand_actions[number]
    if action.kind in ("turn", "choose"):
        control = show.control(action.target)
        return hand_text(show, action, value_text(control, show.value(control.id, cue_id)))
    return hand_text(show, action)


def _taken_apart(show: Show, cue: Cue, line: str) -> _Said:
    seconds = SECONDS.search(line.strip())
    text = SECONDS.sub("", line.strip())
    person = None
    for someone in show.people:
        for name in (someone.name, someone.name.partition(" ")[0]):
            if person is None and text.lower().startswith(name.lower() + " "):
                person, text = someone.id, text[len(name) :].strip()
    verb, _, rest = text.partition(" ")
    if verb.lower() not in SPELLINGS or not rest.strip():
        raise ShowError("Say who does what: Quill connects camera b to switcher HDMI 3, 20 s.")
    return _Said(cue, SPELLINGS[verb.lower()], rest.strip(), person, float(seconds[1]) if seconds else 0.0)


def _two_sides(text: str) -> tuple[str, str]:
    left, arrow, right = text.partition(">")
    if not arrow:
        left, arrow, right = text.rpartition(" to ")
    if not arrow or not left.strip() or not right.strip():
        raise ShowError("Say what, to, and where.")
    return left.strip(), right.strip()


def _connect(show: Show, said: _Said) -> tuple[Show, list[HandAction]]:
    left, right = _two_sides(said.rest)
    sources, targets = find_end(show, left, "out"), find_end(show, right, "in")
    off = unplugged(show, said.cue)
    between = [c for c in show.cables if c.source in sources.ports and c.target in targets.ports]
    if any(c.id not in off for c in between):
        raise ShowError(f"{show.port_label(between[0].source)} is connected there already.")
    leads = between[:1]
    if not leads:
        cleared = disconnect(show, [c.id for c in show.cables if targets.said and c.target in targets.ports])
        known = {c.id for c in show.cables}
        leads = [c for c in read_patch(cleared, f"{left} > {right}").show.cables if c.id not in known]
        new = tuple(c.evolve(plugged=False) for c in leads)
        show = show.evolve(cables=(*show.cables, *new))
    inputs = {c.target for c in leads if not c.target.startswith("listener/")}
    there = [c for c in show.cables if c.target in inputs and c.id not in off and c not in leads and c.plugged]
    out = [HandAction(kind="disconnect", target=c.id, person=said.person) for c in there]
    return show, [*out, *(said.action(c.id) for c in leads)]


def _disconnect(show: Show, said: _Said) -> tuple[Show, list[HandAction]]:
    after = read_patch(show, f"disconnect {said.rest.replace(' from ', ' > ')}").show
    left = {c.id for c in after.cables}
    gone: list[Cable] = [c for c in show.cables if c.id not in left and c.id not in unplugged(show, said.cue)]
    if not gone:
        raise ShowError("That is not connected in this cue.")
    return show, [said.action(c.id) for c in gone]


def _move(show: Show, said: _Said) -> tuple[Show, list[HandAction]]:
    if said.person is not None and said.rest.lower().startswith("to "):  # `Ada moves to the ambo`
        return show, [said.action(said.person, place=_place(show, said.rest[3:]).id)]
    left, right = _two_sides(said.rest)
    metres = METRES.match(right)
    if metres:
        device = find_device(show, left)
        air = [c for c in show.cables if c.kind == "air" and c.target.partition("/")[0] == device.id]
        if not air:
            raise ShowError(f"Nothing is in front of {device.name}: connect a sound to it first.")
        if float(metres[1]) <= 0:
            raise ShowError("A distance is more than 0 m.")
        return show, [said.action(c.id, distance_m=float(metres[1])) for c in air]
    place = _place(show, right)
    people = [p for p in show.people if left.lower() in (p.name.lower(), p.name.partition(" ")[0].lower())]
    target = people[0].id if people else find_device(show, left).id
    return show, [said.action(target, place=place.id)]


def _place(show: Show, text: str) -> Place:
    name = text.strip().lower().removeprefix("the ")
    place = next((p for p in show.places if name in (p.name.lower(), p.id)), None)
    if place is None:
        known = ", ".join(p.name for p in show.places) or "none yet"
        likely = did_you_mean(name, (p.name for p in show.places))
        raise ShowError(f"No place is called '{text.strip()}'; there is {known}.{likely}")
    return place


def _set(show: Show, said: _Said) -> tuple[Show, list[HandAction]]:
    left, right = _two_sides(said.rest)
    control = find_control(show, left)
    value = read_value(control, right)
    return _by_hand(show, said, {control: value})


def _mute(show: Show, said: _Said, muted: bool) -> tuple[Show, list[HandAction]]:
    return _by_hand(show, said, dict.fromkeys(find_mutes(show, said.rest), muted))


def _by_hand(show: Show, said: _Said, values: Mapping[Control, Value]) -> tuple[Show, list[HandAction]]:
    """Controls set by hand: each counted once, though it is set again."""
    controls = {c.id: v for c, v in values.items()}
    old = tuple(a for a in said.cue.hand_actions if not a.names_control or a.target not in controls)
    cue = said.cue.evolve(controls={**said.cue.controls, **controls}, hand_actions=old)
    kind = said.kind if said.kind in VERBS else "choose"
    made = [HandAction.checked(kind=kind, target=c, person=said.person, seconds=said.seconds) for c in controls]
    return put_cue(show, cue), made
