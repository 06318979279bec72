"""The Show: everything a show file holds, with its names resolved and its references checked."""

import datetime
import math
from collections.abc import Iterator
from functools import cached_property
from typing import Annotated, Any, Literal, Self, TypeVar

from msgspec import Meta

from kymaton.core.errors import ShowError
from kymaton.core.model.cues import Alternative, Cue, Measurement, Sounding, Variant
from kymaton.core.model.device import Cable, Control, ControlWay, Device, Port, Value
from kymaton.core.model.figure import Figure
from kymaton.core.model.people import Listener, Person, Place, Sound
from kymaton.core.model.policy import PolicyName, default_want
from kymaton.core.model.record import Finite, Id, PortId, Positive, Record
from kymaton.core.model.tolerance import SyncWindow
from kymaton.core.model.wish import PictureWish, Want, Wish


class Picture(Record, frozen=True, kw_only=True):
    """Picture format; the frame rate is an exact fraction, written like 25/1 or 30000/1001."""

    width: Annotated[int, Meta(gt=0)] = 1920
    height: Annotated[int, Meta(gt=0)] = 1080
    rate: Annotated[str, Meta(pattern=r"^[1-9][0-9]*/[1-9][0-9]*$")] = "25/1"


class MicrophoneGroup(Record, frozen=True, kw_only=True):
    """Microphones meant to hear the same thing: their several arrivals are a matter of phase, not doubling."""

    id: Id
    name: str
    devices: tuple[Id, ...]


class Goals(Record, frozen=True, kw_only=True):
    """What the show wants to reach. `sync_window` bounds how early or late sound may be against picture."""

    sync_window: SyncWindow = "R 37"
    loudness_lufs: Finite = -16.0
    true_peak_dbtp: Finite = -1.0
    uplink_bit_per_s: Positive | None = None


class Show(Record, frozen=True, kw_only=True, dict=True):
    """A self-contained show. Use the lookups; they raise KeyError for an id that does not exist.

    `longest_run_m` says by kind of lead how long a run may be where this team believes in another limit.
    """

    format: Literal["kymaton-show"] = "kymaton-show"
    version: Literal[1] = 1
    title: str = "Untitled show"
    venue: str = ""
    date: str = ""
    notes: str = ""
    sample_rate_hz: Annotated[int, Meta(ge=8000, le=384000)] = 48000
    picture: Picture = Picture()
    goals: Goals = Goals()
    people: tuple[Person, ...] = ()
    places: tuple[Place, ...] = ()
    sounds: tuple[Sound, ...] = ()
    listeners: tuple[Listener, ...] = ()
    devices: tuple[Device, ...] = ()
    cables: tuple[Cable, ...] = ()
    microphone_groups: tuple[MicrophoneGroup, ...] = ()
    control_ways: tuple[ControlWay, ...] = ()
    cues: tuple[Cue, ...] = ()
    variants: tuple[Variant, ...] = ()
    alternatives: tuple[Alternative, ...] = ()
    measurements: tuple[Measurement, ...] = ()
    longest_run_m: dict[str, Positive] = {}
    policy: PolicyName = "talk"
    plan: tuple[Wish, ...] = ()
    picture_plan: tuple[PictureWish, ...] = ()

    @classmethod
    def checked(cls, **fields: object) -> Self:
        """A show of fields that are looked at first, and that do not contradict each other. Raises ShowError."""
        return validated(super().checked(**fields))

    # lookups

    @cached_property
    def _by_id(self) -> dict[str, dict[str, Any]]:
        return {
            name: {item.id: item for item in getattr(self, name)}
            for name in (
                "people",
                "places",
                "sounds",
                "listeners",
                "devices",
                "cables",
                "cues",
                "variants",
                "alternatives",
            )
        }

    @cached_property
    def _ports(self) -> dict[str, tuple[Device, Port]]:
        return {f"{d.id}/{p.id}": (d, p) for d in self.devices for p in d.ports}

    @cached_property
    def _controls(self) -> dict[str, Control]:
        return {c.id: c for d in self.devices for c in d.controls}

    @cached_property
    def cables_to(self) -> dict[str, list[Cable]]:
        """The cables that end at each port, sound or listener."""
        found: dict[str, list[Cable]] = {}
        for cable in self.cables:
            found.setdefault(cable.target, []).append(cable)
        return found

    @cached_property
    def _wishes(self) -> dict[tuple[str, str, str | None], Wish]:
        table: dict[tuple[str, str, str | None], Wish] = {}
        for wish in self.plan:
            for cue in wish.cues or (None,):
                table[wish.listener, wish.sound, cue] = wish
        return table

    @cached_property
    def _decided(self) -> set[tuple[str, str]]:
        """Listeners and sounds that the plan has a line for, in some cue at least."""
        return {(w.listener, w.sound) for w in self.plan}

    @cached_property
    def _defaults(self) -> dict[tuple[str, str, bool], Want]:
        return {}

    @cached_property
    def _guests(self) -> frozenset[str]:
        """People who are far away and heard over a call."""
        return frozenset(x.person for x in self.listeners if x.kind == "guest" and x.person is not None)

    @cached_property
    def _before_air(self) -> frozenset[str]:
        return frozenset(c.id for c in self.cues if c.is_before_air)

    def sound(self, id: str) -> Sound:
        """The sound with this id. Raises KeyError."""
        found: Sound = self._by_id["sounds"][id]
        return found

    def listener(self, id: str) -> Listener:
        """The listener with this id. Raises KeyError."""
        found: Listener = self._by_id["listeners"][id]
        return found

    def device(self, id: str) -> Device:
        """The device with this id. Raises KeyError."""
        found: Device = self._by_id["devices"][id]
        return found

    def cue(self, id: str) -> Cue:
        """The cue with this id. Raises KeyError."""
        found: Cue = self._by_id["cues"][id]
        return found

    def cable(self, id: str) -> Cable:
        """The cable with this id. Raises KeyError."""
        found: Cable = self._by_id["cables"][id]
        return found

    def control(self, id: str) -> Control:
        """The control with this id. Raises KeyError."""
        return self._controls[id]

    def controls(self) -> Iterator[Control]:
        """All controls, device by device."""
        return iter(self._controls.values())

    @property
    def ports(self) -> dict[str, tuple[Device, Port]]:
        """All ports of devices by their id, each with its device."""
        return self._ports

    def port(self, id: str) -> Port:
        """The port with this id (`device/port`). Raises KeyError."""
        return self._ports[id][1]

    def place_of(self, id: str | None) -> Place | None:
        """The place with this id; None for None. Raises KeyError."""
        return None if id is None else self._by_id["places"][id]

    def port_label(self, port_id: str) -> str:
        """A port as people say it: `desk 9`, `switcher HDMI 2`, or the name of a sound or listener."""
        owner, _, name = port_id.partition("/")
        if owner == "sound":
            return self.sound(name).name
        if owner == "listener":
            return self.listener(name).name
        device, port = self._ports[port_id]
        return f"{device.name} {port.name}".strip()

    def value(self, control_id: str, cue_id: str | None) -> Value:
        """The value of a control in a cue: as it is set there or was left by a hand, or else the base state."""
        if cue_id is not None:
            set_there = self.settings(cue_id)
            if control_id in set_there:
                return set_there[control_id]
        return self.control(control_id).value

    def settings(self, cue_id: str) -> dict[str, Value]:
        """Controls that are not as in the base state in a cue: its own settings, and what a hand has left before it."""
        return self._settings[cue_id]

    def left_by_hand(self, cue_id: str) -> dict[str, str]:
        """Controls that a hand has set before a cue and nobody has set back, with the cue in which it was."""
        return self._left_by_hand[cue_id]

    @cached_property
    def _left_by_hand(self) -> dict[str, dict[str, str]]:
        found: dict[str, dict[str, str]] = {}
        standing: dict[str, str] = {}
        for cue in self.cues:
            standing = {
                control: where
                for control, where in standing.items()
                if control not in cue.controls and control.partition("/")[0] not in cue.recalls
            }
            found[cue.id] = standing
            standing = standing | {c: cue.id for c in cue.by_hand if c in cue.controls}
        return found

    @cached_property
    def _settings(self) -> dict[str, dict[str, Value]]:
        return {
            cue.id: {**{c: self.cue(at).controls[c] for c, at in self._left_by_hand[cue.id].items()}, **cue.controls}
            if self._left_by_hand[cue.id]
            else cue.controls
            for cue in self.cues
        }

    def sounding(self, sound: str, cue_id: str | None) -> Sounding | None:
        """Whether a sound sounds in a cue; None where nobody has said."""
        return None if cue_id is None else self.cue(cue_id).sounding.get(sound)

    def wish(self, listener: str, sound: str, cue: str | None) -> Wish | None:
        """The line of the plan that holds: the one for this cue, or else the one for all cues; None by default."""
        return self._wishes.get((listener, sound, cue)) or self._wishes.get((listener, sound, None))

    def want(self, listener: str, sound: str, cue: str | None) -> Want:
        """What is wished: the line of the plan that holds, or else the default of the show's policy."""
        wish = self.wish(listener, sound, cue)
        if wish is not None:
            return wish.want
        key = (listener, sound, cue in self._before_air)
        if key not in self._defaults:
            guests = self._guests
            want = default_want(self.policy, self.listener(listener), self.sound(sound), guests, key[2])
            decided = want is Want.MUST and (listener, sound) in self._decided
            self._defaults[key] = Want.ANY if decided else want
        return self._defaults[key]

    def is_guest(self, sound: Sound) -> bool:
        """Whether somebody far away makes a sound."""
        return sound.person in self._guests


S = TypeVar("S", bound=Show)
MOST_DELAY_MS, MOST_GAIN_DB, MOST_LEVEL = 600_000.0, 200.0, 300.0  # ten minutes; more than any gear has
MOST_LENGTH_M, LONGEST_NAME = 1e6, 500
ANY = (-math.inf, math.inf)


def validated(show: S) -> S:
    """The show itself when nothing in it contradicts itself; raises ShowError."""
    for problem in contradictions(show):
        raise ShowError(problem)
    return show


def _repeated(ids: Iterator[str]) -> str | None:
    seen: set[str] = set()
    for id in ids:
        if id in seen:
            return id
        seen.add(id)
    return None


def contradictions(show: Show) -> Iterator[str]:
    """Sentences about what contradicts itself; each says what and where."""
    if show.date:
        try:
            datetime.date.fromisoformat(show.date)
        except ValueError:
            yield f"date: '{show.date}' is not a date like 2026-12-12"
    for group in ("people", "places", "sounds", "listeners", "devices", "cables", "cues", "variants", "alternatives"):
        twice = _repeated(item.id for item in getattr(show, group))
        if twice:
            yield f"{group}: the id '{twice}' is used twice"
    yield from _device_contradictions(show)
    yield from _cable_contradictions(show)
    yield from _reference_contradictions(show)
    yield from _out_of_bounds(show)


def _out_of_bounds(show: Show) -> Iterator[str]:
    """Figures that no gear has, with which delays would overflow and levels be infinite; and names of several lines."""
    if not show.title.isprintable():
        yield "title: it is one line of text"
    for group in ("people", "places", "sounds", "listeners", "devices", "cues", "variants", "alternatives"):
        for item in getattr(show, group):
            if len(item.name) > LONGEST_NAME or "\n" in item.name:
                yield f"{group}, '{item.id}': a name is one line of at most {LONGEST_NAME} characters"
    for device in show.devices:
        for route in device.routes:
            for what, figure, low, high in (
                ("delay", route.delay_ms, 0.0, MOST_DELAY_MS),
                ("gain", route.gain_db, -MOST_GAIN_DB, MOST_GAIN_DB),
            ):
                if not low <= figure.value <= high or figure.plus_minus > high:
                    unit = "ms" if what == "delay" else "dB"
                    said = f"a {what} of {figure.value:g} ± {figure.plus_minus:g} {unit}"
                    yield f"devices, '{device.id}': {said} is beyond {low:g} to {high:g} {unit}"
            for use in route.controls:
                wild = [g for g in (use.gains or {}).values() if abs(g) > MOST_GAIN_DB]
                if wild:
                    said = f"'{use.control}' gives {wild[0]:g} dB"
                    yield f"devices, '{device.id}': {said}, beyond {-MOST_GAIN_DB:g} to {MOST_GAIN_DB:g} dB"
        for control in device.controls:
            values = [control.value, *(c.controls[control.id] for c in show.cues if control.id in c.controls)]
            low, high = {"delay": (0.0, MOST_DELAY_MS), "level": (-MOST_GAIN_DB, MOST_GAIN_DB)}.get(control.kind, ANY)
            for value in values:
                if not isinstance(value, bool | str) and not low <= value <= high:
                    yield f"devices, '{device.id}', control '{control.id}': {value:g} is beyond {low:g} to {high:g}"
    for cable in show.cables:
        if cable.length_m > MOST_LENGTH_M:
            yield f"cables, '{cable.id}': a length of {cable.length_m:g} m is beyond {MOST_LENGTH_M:g} m"
    for sound in show.sounds:
        if abs(sound.level) > MOST_LEVEL or abs(sound.peak_over_typical_db) > MOST_LEVEL:
            yield f"sounds, '{sound.id}': a level of {sound.level:g} is beyond {MOST_LEVEL:g} dB"


def _device_contradictions(show: Show) -> Iterator[str]:
    for device in show.devices:
        at = f"devices, '{device.id}'"
        if device.id in ("sound", "listener"):
            yield f"{at}: this id is reserved"
        twice = _repeated(p.id for p in device.ports) or _repeated(c.id for c in device.controls)
        if twice:
            yield f"{at}: the id '{twice}' is used twice"
        ports = {p.id: p for p in device.ports}
        for route in device.routes:
            for end, channel, way in (
                (route.source, route.source_channel, "in"),
                (route.target, route.target_channel, "out"),
            ):
                if end not in ports:
                    yield f"{at}: a route names the port '{end}', which the device does not have"
                elif ports[end].direction != way:
                    yield f"{at}: a route uses the port '{end}' the wrong way round"
                elif route.medium == "sound" and channel > ports[end].channels:
                    yield f"{at}: a route names channel {channel} of port '{end}', which has {ports[end].channels}"
            for use in route.controls:
                for control in (use.control, use.when.control if use.when else use.control):
                    if control not in show._controls:
                        yield f"{at}: a route names the control '{control}', which does not exist"
                for port_id in (*use.only_from, use.reference):
                    if port_id is not None and port_id not in show._ports:
                        yield f"{at}: a route names the port '{port_id}', which does not exist"
            if route.on_air is not None and route.on_air not in show._ports:
                yield f"{at}: a route names the picture '{route.on_air}', which does not exist"
        for control_ in device.controls:
            if not control_.id.startswith(f"{device.id}/"):
                yield f"{at}: the control id '{control_.id}' does not begin with '{device.id}/'"
            problem = value_problem(control_, control_.value)
            if problem:
                yield f"{at}, control '{control_.id}': {problem}"
            if control_.picture_input is not None and control_.picture_input not in show._ports:
                yield f"{at}, control '{control_.id}': the picture '{control_.picture_input}' does not exist"
        for program in device.programs:
            for chosen in program.chosen.values():
                if chosen not in show._controls:
                    yield f"{at}: the program '{program.id}' names the control '{chosen}', which does not exist"
        for sound_id in device.shows or ():
            if sound_id not in show._by_id["sounds"]:
                yield f"{at}: it shows the sound '{sound_id}', which does not exist"
        for port in device.ports:
            for named in port.control_names.values():
                if named is not None and named not in show._controls:
                    yield f"{at}: the port '{port.id}' names the control '{named}', which does not exist"
        seen = {device.id}
        outer = device.inside
        while outer is not None:
            if outer not in show._by_id["devices"]:
                yield f"{at}: it is inside '{outer}', which does not exist"
                break
            if outer in seen:
                yield f"{at}: it is inside itself, by way of '{outer}'"
                break
            seen.add(outer)
            outer = show.device(outer).inside


def _cable_contradictions(show: Show) -> Iterator[str]:
    for cable in show.cables:
        at = f"cables, '{cable.id}'"
        for end, pseudo, group, way in (
            (cable.source, "sound", "sounds", "out"),
            (cable.target, "listener", "listeners", "in"),
        ):
            owner, _, name = end.partition("/")
            if owner == pseudo:
                if name not in show._by_id[group]:
                    yield f"{at}: it leads to '{end}', which does not exist"
            elif end not in show._ports:
                yield f"{at}: it leads to '{end}', which does not exist"
            elif show.port(end).direction != way:
                yield f"{at}: it uses '{end}' the wrong way round"
            elif any(pair[way == "in"] > show.port(end).channels for pair in cable.channels):
                yield f"{at}: it names a channel that '{end}' does not have"


def _reference_contradictions(show: Show) -> Iterator[str]:
    def known(group: str, id: str | None) -> bool:
        return id is None or id in show._by_id[group]

    for kind, items in (("sounds", show.sounds), ("listeners", show.listeners)):
        for item in items:
            if not known("people", item.person):
                yield f"{kind}, '{item.id}': the person '{item.person}' does not exist"
    for kind, placed in (("sounds", show.sounds), ("listeners", show.listeners), ("devices", show.devices)):
        for thing in placed:
            if not known("places", thing.place):
                yield f"{kind}, '{thing.id}': the place '{thing.place}' does not exist"
    for place in show.places:
        for other in place.apart_m:
            if not known("places", other) or other == place.id:
                yield f"places, '{place.id}': the place '{other}' does not exist, or is itself"
    for wish in show.plan:
        at = f"plan, '{wish.listener}' and '{wish.sound}'"
        if not known("listeners", wish.listener) or not known("sounds", wish.sound):
            yield f"{at}: one of them does not exist"
        for cue_id in wish.cues:
            if not known("cues", cue_id):
                yield f"{at}: the cue '{cue_id}' does not exist"
    for wanted in show.picture_plan:
        at = f"picture_plan, '{wanted.watcher}' and '{wanted.picture}'"
        if not known("listeners", wanted.watcher) or wanted.picture not in show._ports:
            yield f"{at}: one of them does not exist"
        for cue_id in wanted.cues:
            if not known("cues", cue_id):
                yield f"{at}: the cue '{cue_id}' does not exist"
    for cue in show.cues:
        yield from _wrong_values(f"cues, '{cue.id}'", cue.controls, show._controls)
    for cue in show.cues:
        if cue.on_air is not None and cue.on_air not in show._ports:
            yield f"cues, '{cue.id}': the picture on air '{cue.on_air}' does not exist"
        for device_id in cue.recalls:
            if not known("devices", device_id):
                yield f"cues, '{cue.id}': the device '{device_id}' does not exist"
        for sound_id in cue.sounding:
            if not known("sounds", sound_id):
                yield f"cues, '{cue.id}': the sound '{sound_id}' does not exist"
        for action in cue.hand_actions:
            on_cable = action.kind in ("connect", "disconnect") or action.distance_m is not None
            if on_cable and not known("cables", action.target):
                yield f"cues, '{cue.id}': the cable '{action.target}' does not exist"
            if action.names_control and action.target not in show._controls:
                yield f"cues, '{cue.id}': the control '{action.target}' does not exist"
            if not known("people", action.person):
                yield f"cues, '{cue.id}': the person '{action.person}' does not exist"
            if not known("places", action.place):
                yield f"cues, '{cue.id}': the place '{action.place}' does not exist"
    for variant in show.variants:
        yield from _variant_contradictions(show, variant)
    for way in show.control_ways:
        if not (known("devices", way.source) or known("people", way.source)) or not known("devices", way.target):
            yield f"control_ways, '{way.source}' and '{way.target}': one of them does not exist"
    for group in show.microphone_groups:
        for device_id in group.devices:
            if not known("devices", device_id):
                yield f"microphone_groups, '{group.id}': the device '{device_id}' does not exist"


def _variant_contradictions(show: Show, variant: Variant) -> Iterator[str]:
    at = f"variants, '{variant.id}'"
    for group, ids in (("cables", variant.unplugged), ("devices", variant.without), ("cues", variant.in_cues)):
        for id in ids:
            if id not in show._by_id[group]:
                yield f"{at}: the {group[:-1]} '{id}' does not exist"
    there = show
    if variant.devices or variant.cables:  # as a rig of their own beside this one
        devices, cables = (*show.devices, *variant.devices), (*show.cables, *variant.cables)
        there = show.evolve(devices=devices, cables=cables, variants=())
        yield from (f"{at}: {problem}" for problem in contradictions(there))
    for values in (variant.controls, *variant.in_cues.values()):
        yield from _wrong_values(at, values, there._controls)


def _wrong_values(at: str, values: dict[str, Value], controls: dict[str, Control]) -> Iterator[str]:
    for id, value in values.items():
        if id not in controls:
            yield f"{at}: the control '{id}' does not exist"
            continue
        problem = value_problem(controls[id], value)
        if problem:
            yield f"{at}, control '{id}': {problem}"


def value_problem(control: Control, value: Value) -> str | None:
    """What is wrong with this value for this control, in words; None when nothing is."""
    if control.kind in ("mute", "switch"):
        return None if isinstance(value, bool) else f"{value!r} is not true or false"
    if control.kind == "choice":
        return None if value in control.choices else f"{value!r} is not one of {', '.join(control.choices)}"
    if isinstance(value, bool) or not isinstance(value, int | float):
        return f"{value!r} is not a number"
    low, high = control.minimum, control.maximum
    if (low is not None and value < low) or (high is not None and value > high):
        return f"{value:g} is outside {low:g} to {high:g}" if low is not None and high is not None else "out of range"
    return None


__all__ = ["Figure", "Goals", "MicrophoneGroup", "Picture", "PortId", "Show", "ShowError", "value_problem"]
