"""What in a show contradicts itself, in sentences: each says what and where."""

import datetime
import math
from collections.abc import Iterator
from typing import TYPE_CHECKING

from kymaton.core.model.cues import Variant
from kymaton.core.model.device import Control, Value

if TYPE_CHECKING:  # a show looks itself over with this
    from kymaton.core.model.show import Show

MOST_DELAY_MS, MOST_GAIN_DB, MOST_LEVEL = 600_000.0, 200.0, 300.0  # ten minutes; more than any gear has
MOST_LENGTH_M, LONGEST_NAME = 1e6, 500
ANY = (-math.inf, math.inf)


def _repeated(ids: Iterator[str]) -> str | None:
    seen: set[str] = set()
    for id in ids:
        if id in seen:
            return id
        seen.add(id)
    return None


def contradictions(show: "Show") -> Iterator[str]:
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


def _out_of_bounds(show: "Show") -> Iterator[str]:
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


def _device_contradictions(show: "Show") -> Iterator[str]:
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


def _cable_contradictions(show: "Show") -> Iterator[str]:
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


def _reference_contradictions(show: "Show") -> Iterator[str]:
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
    for run in show.runs:
        for end in (run.source, run.target):
            if not known("places", end) and not known("devices", end):
                yield f"runs: there is no place and no device '{end}'"
    for meeting in show.meetings:
        if meeting.port not in show._ports:
            yield f"meetings: the port '{meeting.port}' does not exist"
    fed = {s.name: s.hangs_on for s in show.supplies}
    for name in fed:
        seen, at_ = {name}, fed[name]
        while at_:
            if at_ in seen:
                yield f"supplies, '{name}': it hangs on itself, by way of '{at_}'"
                break
            seen.add(at_)
            at_ = fed.get(at_, "")
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


def _variant_contradictions(show: "Show", variant: Variant) -> Iterator[str]:
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
