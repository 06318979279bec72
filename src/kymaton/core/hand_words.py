"""What is done by hand at a cue, in words."""

from kymaton.core.model import HandAction, Show
from kymaton.core.words import plain, the_device, the_port

VERBS = {
    "connect": "connects",
    "disconnect": "disconnects",
    "move": "moves",
    "turn": "turns",
    "choose": "sets",
    "renew": "changes",
}


def hand_text(show: Show, action: HandAction, value: str = "") -> str:
    """An action as a sentence: `Quill connects camera b HDMI to switcher HDMI 3, 20 s`."""
    people = {p.id: p.name for p in show.people}
    who = people.get(action.person or "", "Somebody").partition(" ")[0]
    took = f", {plain(action.seconds)} s" if action.seconds else ""
    note = f" ({action.note})" if action.note else ""
    return f"{who} {VERBS[action.kind]} {_what(show, action, people, value)}{took}{note}"


def _what(show: Show, action: HandAction, people: dict[str, str], value: str) -> str:
    cables = {c.id: c for c in show.cables}
    if action.target in cables:
        cable = cables[action.target]
        source, target = the_port(show, cable.source), the_port(show, cable.target)
        if action.kind == "connect":
            return f"{source} to {target}"
        if action.kind == "disconnect":
            return f"{source} from {target}"
        return f"{target} to {plain(action.distance_m or 0.0, 2)} m from {source}"
    if action.kind in ("turn", "choose"):
        controls = {c.id: c.name for c in show.controls()}
        return (
            f"{controls.get(action.target, action.target)} to {value}"
            if value
            else controls.get(action.target, action.target)
        )
    devices = {d.id: str(the_device(show, d.id)) for d in show.devices}
    name = people.get(action.target) or devices.get(action.target, action.target)
    if action.kind == "renew":
        return f"the battery of {name}"
    place = show.place_of(action.place)
    return f"{name} to {place.name}" if place else name
