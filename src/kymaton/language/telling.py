"""A show written as lines, from which the same show is built again: the readable form for version control.

Every line is tried on what the lines before it made. What they leave different from the show is said exactly at the
end, field by field, so that the round trip is exact whatever the show holds.
"""

import json
from collections.abc import Iterator
from functools import cache
from itertools import groupby
from typing import Any

import msgspec

from kymaton.catalogue.registry import all_kinds, make_device
from kymaton.core.edits.devices import rename_device, with_id
from kymaton.core.edits.ids import free_id
from kymaton.core.formats import format_text
from kymaton.core.model import Cable, Control, Cue, Device, Listener, Show, ShowError, Sound, Variant, Want
from kymaton.core.model.device import Value
from kymaton.core.model.loads import LOADS
from kymaton.core.model.record import HELD_ASIDE
from kymaton.core.words import plain
from kymaton.language.exact import EXACTLY, with_exact
from kymaton.language.load_lines import lines_of_load
from kymaton.language.patch import SIDES
from kymaton.language.people import SOUND_WORDS
from kymaton.language.script import read_any

WANTS = {Want.MUST: "must", Want.MUST_NOT: "must not", Want.ANY: "may"}
KIND_WORDS = {kind: word for word, kind in SOUND_WORDS.items()}


def lines_of(show: Show) -> list[str]:
    """The lines that make this show, from nothing."""
    told = _Told(show)
    told.all()
    exact = list(differences(msgspec.to_builtins(told.made), msgspec.to_builtins(show)))
    if exact:
        told.lines += ["", "# what has no words of its own", *exact]
        with_exact(told.made, exact)
    return told.lines


class _Told:
    """Lines said so far, and the show that they make."""

    def __init__(self, show: Show) -> None:
        self.show, self.made, self.lines = show, Show(), list[str]()

    def say(self, line: str) -> bool:
        """Say a line, if it is one and can be read."""
        if not line.isprintable():
            return False
        try:
            self.made = read_any(self.made, line).show
        except ShowError:
            return False
        self.lines.append(line)
        return True

    def named(self, group: str, thing: Any, line: str) -> bool:
        """A thing by a line with {} for its name; where its id does not come from that, by its id, then called so."""
        for name in dict.fromkeys((thing.name, thing.id.replace("-", " "))):
            before, many = self.made, len(self.lines)
            if self.say(line.replace("{}", name, 1)):
                made = getattr(self.made, group)
                if len(made) == len(getattr(before, group)) + 1 and made[-1].id == thing.id:
                    said = made[-1].name == thing.name
                    return said or self.say(f"{EXACTLY}{group}/{thing.id}/name = {_json(thing.name)}")
            self.made, self.lines = before, self.lines[:many]
        return False

    def part(self, title: str) -> None:
        if self.lines and self.lines[-1]:
            self.lines += ["", f"# {title}"]

    def all(self) -> None:
        show = self.show
        for word in ("title", "venue", "date", "notes", "policy"):
            value = str(getattr(show, word))
            if value.isprintable() and value and value != getattr(self.made, word):
                self.say(f"{word} {value}")
        if show.picture != self.made.picture:
            self.say(f"picture {format_text(show.picture)}")
        self.part("who takes part")
        for place in show.places:
            self.named(
                "places", place, "place {}" + (f", air {plain(place.distance_m, 2)} m" if place.air != "off" else "")
            )
        names = {p.id: p.name for p in show.places}
        for place in show.places:
            for other, metres in place.apart_m.items():
                self.say(f"{place.name} to {names[other]} {plain(metres, 3)} m")
        for person in show.people:
            self.named("people", person, "person {}" + (f", {person.role}" if person.role else ""))
        for sound in show.sounds:
            self.named("sounds", sound, _sound_line(show, sound))
        for listener in show.listeners:
            self.named("listeners", listener, _listener_line(show, listener))
        for listener in show.listeners:
            if listener.feed != "mix-minus":
                self.say(f"{listener.name} gets the {listener.feed}")
        self.part("devices and leads")
        for device in show.devices:
            self.device(device)
        for cable in show.cables:
            self.cable(cable)
        for device in show.devices:
            if device.inside is not None:
                self.say(f"{device.name} runs on {show.device(device.inside).name}")
        for group in show.microphone_groups:
            self.say(f"group {group.name}: {', '.join(show.device(d).name for d in group.devices)}")
        people = {p.id: p.name for p in show.people}
        for hand in show.control_ways:
            source = people.get(hand.source) or show.device(hand.source).name
            self.say(f"{source} controls {show.device(hand.target).name}")
        self.load_in()
        self.part("settings")
        known = {c.id: c.value for c in self.made.controls()}
        for control in show.controls():
            if control.id in known and known[control.id] != control.value:
                self.say(f"set {self.control_name(control)} to {said_value(control, control.value)}")
        for device in show.devices:
            if device.shows is not None:
                self.say(f"{device.name} shows {', '.join(show.sound(s).name for s in device.shows) or 'nothing'}")
        self.part("cues")
        for cue in show.cues:
            self.cue(cue)
        self.part("who must hear what")
        self.wishes()
        self.part("variants and other ways")
        for variant in show.variants:
            self.variant(variant)
        for way in show.alternatives:
            if self.named("alternatives", way, "way {}"):
                for line in way.lines:
                    self.say(f"in way {way.name}: {line}")

    def load_in(self) -> None:
        """Supplies, runs, what is in stock, what meets the house, the uplink."""
        self.part("load-in")
        for line, _ in lines_of_load(self.show):
            self.say(line)

    def device(self, device: Device) -> None:
        """A device by the words that make it; or as a whole, where it has too little in common with any kind."""
        best: tuple[int, str] | None = None
        for each in [device.made] if device.made else _likely(device):
            made = _made(each, device)
            if made is not None:
                size = sum(map(len, differences(_as_told(made), _as_told(device), f"devices/{device.id}")))
                best = min(best, (size, each)) if best else (size, each)
        whole = _exactly("devices/-", msgspec.to_builtins(device))
        before, many = self.made, len(self.lines)
        if best is None or 2 * best[0] > len(whole) or not self._device_by(best[1], device):
            self.made, self.lines = before, self.lines[:many]
            self.say(whole)

    def _device_by(self, words: str, device: Device) -> bool:
        """Whether words of the catalogue, and what is left to say exactly, make the device."""
        name = device.name if free_id(device.name, ()) == device.id else device.id.replace("-", " ")
        said = self.say(f"add {words} as {name}")
        if name != device.name:
            said = said and self.say(f"rename {name} to {device.name}")
        place = self.show.place_of(device.place)
        if place is not None:
            said = said and self.say(f"put {device.name} in {place.name}")
        if said and device.owned != "owned":
            self.say(f"{'borrow' if device.owned == 'borrowed' else 'buy'} {device.name}")
        if said and device.mains:
            self.say(f"power {device.name} from {device.mains}")
        for line in (*_figures(self.made.device(device.id), device), *_gear(device)) if said else ():
            self.say(line)
        return said and all(
            self.say(line)
            for line in differences(
                _as_told(self.made.device(device.id)), _as_told(device), f"devices/{_pointer(device.id)}"
            )
        )

    def cable(self, cable: Cable) -> None:
        """A lead by names, or by ids where names mean another one; by the side that it carries, where that is told."""
        source, target, length_m = cable.source, cable.target, cable.length_m
        names = [self.show.port_label(source), self.show.port_label(target)]
        ends = [" > ".join(names)]
        if len(cable.channels) == 1:
            for end, (port, channel) in enumerate(zip((source, target), cable.channels[0], strict=True)):
                if port in self.show.ports and self.show.port(port).channels == 2:
                    ends.append(" > ".join(f"{n} {SIDES[channel - 1]}" if i == end else n for i, n in enumerate(names)))
        ends.append(f"{source} > {target}")
        for said in ends:
            before, many = self.made, len(self.lines)
            metres = f" {plain(length_m, 3)} m"
            if not self.say(said):
                continue
            found = self.made.cables[-1]
            if length_m and found.length_m != length_m:
                self.made, self.lines = before, self.lines[:many]
                if not self.say(said + metres):
                    continue
                found = self.made.cables[-1]
            there = (found.source, found.target, found.channels) == (source, target, cable.channels)
            if (there or said == ends[-1]) and len(self.made.cables) == len(before.cables) + 1:
                return
            self.made, self.lines = before, self.lines[:many]

    def control_name(self, control: Control) -> str:
        same = [c for c in self.show.controls() if c.name.lower() == control.name.lower()]
        return control.name if len(same) == 1 else control.id

    def cue(self, cue: Cue) -> None:
        head = "cue {}" + (f", {plain(cue.minutes, 2)} min" if cue.minutes else "")
        head += ", before air" if cue.before_air else ""
        note = f": {cue.note}" if cue.note else ""
        if not self.named("cues", cue, head + note):
            return
        if cue.on_air is not None:
            self.say(f"in {cue.name}: on air {cue.on_air}")
        for id, value in cue.controls.items():
            control = self.show.control(id)
            line = f"set {self.control_name(control)} to {said_value(control, value)}"
            if id not in cue.by_hand or not self.say(f"in {cue.name}: {line} by hand"):
                self.say(f"in {cue.name}: {line}")
        for told, sounds in groupby(cue.sounding.items(), lambda x: x[1]):
            verb = {"sounds": "sounds", "may sound": "may sound", "silent": "is silent"}[told]
            self.say(f"in {cue.name}: {', '.join(self.show.sound(s).name for s, _ in sounds)} {verb}")
        if cue.recalls:
            self.say(f"in {cue.name}: recall {', '.join(self.show.device(d).name for d in cue.recalls)}")

    def variant(self, variant: Variant) -> None:
        """A variant by its settings and the leads that are out; what else it changes is said exactly."""
        if not self.named("variants", variant, "variant {}"):
            return
        own = {c.id for d in variant.devices for c in d.controls}
        for id, value in variant.controls.items():
            if id not in own:
                control = self.show.control(id)
                line = f"set {self.control_name(control)} to {said_value(control, value)}"
                self.say(f"in variant {variant.name}: {line}")
        for id in variant.unplugged:
            cable = self.show.cable(id)
            self.say(f"in variant {variant.name}: disconnect {cable.source} > {cable.target}")

    def wishes(self) -> None:
        show = self.show
        for (listener, want, cues, within), wishes in groupby(
            show.plan, lambda w: (w.listener, w.want, w.cues, w.max_delay_ms)
        ):
            sounds = [show.sound(w.sound) for w in wishes]
            names = ", ".join(x.id if "," in x.name else x.name for x in sounds)
            line = f"{show.listener(listener).name} {WANTS[want]} hear {names}"
            line += f" within {plain(within, 3)} ms" if within else ""
            self.say(f"in {', '.join(show.cue(c).name for c in cues)}: {line}" if cues else line)
        for picture in show.picture_plan:
            verb = "must not see" if picture.want is Want.MUST_NOT else "must see"
            line = f"{show.listener(picture.watcher).name} {verb} {show.port_label(picture.picture)}"
            self.say(f"in {', '.join(show.cue(c).name for c in picture.cues)}: {line}" if picture.cues else line)


def _likely(device: Device) -> list[str]:
    """Words of the catalogue that make devices of this kind, where it is not told by which it was made."""
    found = []
    for kind in all_kinds():
        if _kind_of(kind.words) == device.kind:
            found += [kind.words, f"{kind.words} {device.detail}"] if device.detail else [kind.words]
    return found


@cache
def _kind_of(words: str) -> str:
    return make_device(words, ()).kind


def _made(words: str, device: Device) -> Device | None:
    """The device that the words make, under the id and name of another one."""
    try:
        made = with_id(make_device(words, (), device.id.replace("-", " ")), device.id)
        return rename_device(Show(devices=(made,)), made.id, device.name).devices[0]
    except ShowError:
        return None


def _figures(made: Device, wanted: Device) -> Iterator[str]:
    """Lines that give a device its delays, where all of its pictures, or of its sounds, have one."""
    for medium in ("picture", "sound"):
        before, after = ({r.delay_ms for r in d.routes if r.medium == medium} for d in (made, wanted))
        if len(after) == 1 and before != after:
            (figure,) = after
            spread = f" ± {plain(figure.plus_minus, 6)}" if figure.plus_minus else ""
            told = f"{wanted.name} {medium} delay is {plain(figure.value, 6)}{spread} {figure.source} {figure.date}"
            yield told.strip()


def _gear(device: Device) -> Iterator[str]:
    """Lines that say what a device takes and gives, whose it is, and in which case it travels."""
    said = {"power": device.power_w, "battery": device.battery_h}
    made = make_device(device.made, ()) if device.made else None
    if made is not None:
        said = {word: f for word, f in said.items() if f not in (made.power_w, made.battery_h)}
    for word, figure in (*said.items(), *((LOADS[load].name, f) for load, f in device.loads.items())):
        if figure is not None:
            spread = f" ± {plain(figure.plus_minus, 6)}" if figure.plus_minus else ""
            told = f"{device.name} {word} is {plain(figure.value, 6)}{spread} {figure.source} {figure.date}"
            yield told.strip()
    if device.address:
        yield f"{device.name} has address {device.address}"
    gear = device.gear
    if gear.lender:
        yield f"{device.name} is from {gear.lender}" + (f", back {gear.back}" if gear.back else "")
    if gear.used:
        yield f"{device.name} is bought used"
    if gear.case:
        yield f"{device.name} travels in {gear.case}"


def _as_told(device: Device) -> Any:
    """A device in plain values, without what has lines of its own: settings, where it is, what it shows."""
    controls = tuple(c.evolve(value=True) for c in device.controls)
    return msgspec.to_builtins(device.evolve(controls=controls, place=None, shows=None, inside=None))


def _sound_line(show: Show, sound: Sound) -> str:
    parts = ["{}", KIND_WORDS[sound.kind]]
    if sound.channels == 2:
        parts.append("stereo" if sound.width is None else f"stereo {plain(100 * sound.width, 3)} %")
    parts.append(f"{plain(sound.level, 3)} {sound.unit}")
    return ", ".join([*parts, *(["private"] if sound.private else []), *_of(show, sound)])


def _listener_line(show: Show, listener: Listener) -> str:
    parts = ["{}", listener.kind, *([listener.detail] if listener.detail else [])]
    return ", ".join([*parts, *_of(show, listener)])


def _of(show: Show, thing: Sound | Listener) -> Iterator[str]:
    """Whose it is and where."""
    owner = next((p.name for p in show.people if p.id == thing.person), None)
    if owner is not None and owner.lower() != thing.name.lower():
        yield f"of {owner}"
    place = show.place_of(thing.place)
    if place is not None:
        yield f"in {place.name}"


def said_value(control: Control, value: Value) -> str:
    """A value as it is typed, exactly."""
    if control.kind == "mute":
        return "muted" if value else "open"
    if control.kind == "switch":
        return "on" if value else "off"
    if control.kind == "choice":
        return str(value)
    if control.kind == "level" and control.minimum is not None and value == control.minimum:
        return "closed"
    return repr(value).removesuffix(".0")


def differences(made: Any, wanted: Any, place: str = "") -> Iterator[str]:
    """Lines that turn plain values into others: as few fields as can be, lists as a whole where their ids differ."""
    if made == wanted:
        return
    if isinstance(made, dict) and isinstance(wanted, dict) and set(made) <= set(wanted):
        for key, value in wanted.items():
            there = f"{place}/{_pointer(key)}" if place else _pointer(key)
            if key not in made:
                yield _exactly(there, value)
            else:
                yield from differences(made[key], value, there)
        return
    if isinstance(made, list | tuple) and isinstance(wanted, list | tuple) and place:
        ids = [[i.get("id") if isinstance(i, dict) else None for i in items] for items in (made, wanted)]
        if ids[0] == ids[1]:
            for number, (a, b) in enumerate(zip(made, wanted, strict=True)):
                yield from differences(a, b, f"{place}/{_pointer(ids[0][number] or str(number))}")
            return
    yield _exactly(place, wanted)


def _pointer(key: str) -> str:
    return key.replace("~", "~0").replace("/", "~1")


def _exactly(place: str, value: Any) -> str:
    return f"{EXACTLY}{place} = {_json(value)}"


def _json(value: Any) -> str:
    text = json.dumps(_short(value), ensure_ascii=False)
    return text if text.isprintable() else json.dumps(_short(value))


def _short(value: Any) -> Any:
    """Without what is held aside where nothing is."""
    if isinstance(value, dict):
        return {k: _short(v) for k, v in value.items() if k != HELD_ASIDE or v}
    return [_short(v) for v in value] if isinstance(value, list | tuple) else value
