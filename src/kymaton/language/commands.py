"""The line on the map: patch, and everything else that a rig is made with, by typing.

`table mic > desk 1`, `disconnect desk 1`, `add desk 16 in 6 aux as Front`, `rename desk to Front`,
`duplicate table mic`, `replace desk by desk 32 in 12 aux`, `remove table mic`, `set desk 1 gain to 52`,
`put table mic, desk in Hall`, `limit HDMI run to 10 m`.
"""

from collections.abc import Callable

from kymaton.catalogue.registry import all_kinds, find_kind, make_device
from kymaton.core.checks.wiring import LONGEST_M
from kymaton.core.edits.controls import Change, apply
from kymaton.core.edits.devices import (
    add_device,
    duplicate_device,
    put_device,
    remove_device,
    rename_device,
    replace_device,
)
from kymaton.core.edits.people import place_called
from kymaton.core.model import Control, Device, Show, ShowError
from kymaton.core.model.device import Value
from kymaton.core.planning.fixes import value_text
from kymaton.core.words import joined
from kymaton.language.nearest import did_you_mean
from kymaton.language.patch import Patch, completions, read_patch

OFF = ("closed", "off", "-inf")


def find_device(show: Show, text: str) -> Device:
    """The device of this name. Raises ShowError."""
    said = " ".join(text.lower().split())
    for device in show.devices:
        if said in (device.name.lower(), device.id):
            return device
    if said.startswith("the "):  # as sentences say it
        return find_device(show, said.removeprefix("the "))
    if not said:
        raise ShowError("Say which device.")
    likely = did_you_mean(said, (d.name for d in show.devices))
    raise ShowError(f"No device is called '{text.strip()}'.{likely}")


def find_devices(show: Show, text: str) -> list[Device]:
    """The device of this name, or several with commas between. Raises ShowError."""
    whole = " ".join(text.lower().split())
    if any(whole in (d.name.lower(), d.id) for d in show.devices):
        return [find_device(show, text)]
    return list({d.id: d for d in (find_device(show, name) for name in text.split(","))}.values())


def _add(show: Show, rest: str, cue: str | None) -> Patch:
    device = make_device(rest, [d.id for d in show.devices], _fresh_name(show, rest))
    return Patch(add_device(show, device), f"add {device.name}", ())


def _fresh_name(show: Show, text: str) -> str:
    """`Dynamic mic 2` when there is a Dynamic mic; empty when the kind's own name is free or a name is said."""
    name, taken = find_kind(text.partition(" as ")[0]).name, {d.name.lower() for d in show.devices}
    if name.lower() not in taken:
        return ""
    number = 2
    while f"{name} {number}".lower() in taken:
        number += 1
    return f"{name} {number}"


def _remove(show: Show, rest: str, cue: str | None) -> Patch:
    devices = find_devices(show, rest)
    for device in devices:
        show = remove_device(show, device.id)
    return Patch(show, f"remove {joined(d.name for d in devices)}", ())


def _put(show: Show, rest: str, cue: str | None) -> Patch:
    names, found, where = rest.rpartition(" in ")
    if not found or not where.strip():
        raise ShowError("Say: put, the device, in, a place.")
    devices = find_devices(show, names)
    show, place = place_called(show, where)
    for device in devices:
        show = put_device(show, show.device(device.id).evolve(place=place))
    return Patch(show, f"put {joined(d.name for d in devices)} in {where.strip()}", ())


def _rename(show: Show, rest: str, cue: str | None) -> Patch:
    old, found, new = rest.partition(" to ")
    if not found:
        raise ShowError("Say: rename, the device, to, the new name.")
    device = find_device(show, old)
    return Patch(rename_device(show, device.id, new), f"rename {device.name} to {new.strip()}", ())


def _duplicate(show: Show, rest: str, cue: str | None) -> Patch:
    device = find_device(show, rest)
    return Patch(duplicate_device(show, device.id), f"duplicate {device.name}", ())


def _replace(show: Show, rest: str, cue: str | None) -> Patch:
    old, found, kind = rest.partition(" by ")
    if not found:
        raise ShowError("Say: replace, the device, by, a kind.")
    device = find_device(show, old)
    new = make_device(kind, (), "" if " as " in kind else device.name)
    return Patch(replace_device(show, device.id, new), f"replace {device.name} by {new.detail or new.kind}", ())


def _set(show: Show, rest: str, cue: str | None) -> Patch:
    name, found, text = rest.rpartition(" to ")
    if not found:
        raise ShowError("Say: set, the control, to, a value.")
    control = find_control(show, name)
    value = read_value(control, text)
    own = cue is not None and control.id in show.cue(cue).controls
    change = Change(cue if own else None, control.id, show.value(control.id, cue), value)
    try:
        return Patch(apply(show, [change]), f"set {control.name} to {value_text(control, value)}", ())
    except ValueError as error:
        raise ShowError(f"{error}.") from error


def _limit(show: Show, rest: str, cue: str | None) -> Patch:
    kind, _, text = rest.rpartition(" to ")
    kind = next((k for k in LONGEST_M if k.lower() == kind.strip().lower().removesuffix(" run")), "")
    if not kind:
        raise ShowError(f"Say: limit, a kind of lead ({', '.join(LONGEST_M)}), to, metres.")
    try:
        metres = float(text.strip().removesuffix("m"))
    except ValueError:
        metres = 0.0
    if not 0 < metres < 100_000:
        raise ShowError(f"'{text.strip()}' is not a length in metres.")
    limits = {**show.longest_run_m, kind: metres}
    return Patch(show.evolve(longest_run_m=limits), f"limit {kind} runs to {metres:g} m", ())


def find_control(show: Show, text: str) -> Control:
    """The control of this name. Raises ShowError."""
    said = " ".join(text.lower().split())
    found = [c for c in show.controls() if said in (c.name.lower(), c.id)]
    if not found:
        likely = did_you_mean(said, (c.name for c in show.controls()))
        raise ShowError(f"No control is called '{text.strip()}'.{likely}")
    return found[0]


def read_value(control: Control, text: str) -> Value:
    """A value as people type it: `-6`, `closed`, `on`, `muted`, `line`. Raises ShowError."""
    said = text.strip().lower().removesuffix(" db").removesuffix(" ms").replace("\N{MINUS SIGN}", "-")
    if control.kind in ("mute", "switch"):
        yes = {"mute": ("muted", "on", "yes", "true"), "switch": ("on", "open", "yes", "true")}[control.kind]
        no = {"mute": ("open", "unmuted", "off", "no", "false"), "switch": ("off", "closed", "no", "false")}[
            control.kind
        ]
        if said not in yes + no:
            raise ShowError(f"{control.name} is {yes[0]} or {no[0]}, not '{text.strip()}'.")
        return said in yes
    if control.kind == "choice":
        match = next((c for c in control.choices if c.lower() == text.strip().lower()), None)
        if match is None:
            raise ShowError(f"{control.name} is {', '.join(control.choices)}, not '{text.strip()}'.")
        return match
    if said in OFF and control.minimum is not None and control.kind == "level":
        return control.minimum
    try:
        value = float(said)
    except ValueError:
        raise ShowError(f"'{text.strip()}' is not a number for {control.name}.") from None
    if value != value or value in (float("inf"), float("-inf")):
        raise ShowError(f"'{text.strip()}' is not a number for {control.name}.")
    return value


VERBS: dict[str, Callable[[Show, str, str | None], Patch]] = {
    "add": _add,
    "remove": _remove,
    "rename": _rename,
    "duplicate": _duplicate,
    "replace": _replace,
    "set": _set,
    "put": _put,
    "limit": _limit,
}


def read_command(show: Show, line: str, cue: str | None = None) -> Patch:
    """What a line does. Raises ShowError with one sentence when it cannot be done."""
    verb, _, rest = line.strip().partition(" ")
    if ">" not in line and verb.lower() in VERBS:
        if not rest.strip():
            raise ShowError(f"Say what to {verb.lower()}.")
        return VERBS[verb.lower()](show, rest.strip(), cue)
    return read_patch(show, line)


def suggestions(show: Show, line: str) -> list[str]:
    """How a line may go on."""
    verb, space, rest = line.lstrip().partition(" ")
    verb, said = verb.lower(), rest.strip().lower()
    if ">" in line or not space:
        verbs = [v for v in (*VERBS, "disconnect") if line and v.startswith(line.strip().lower())]
        return [*completions(show, line), *(f"{v} " for v in verbs)]
    names = [d.name for d in show.devices if d.name.lower().startswith(said)]
    if verb == "add":
        return [f"add {k.words}" for k in all_kinds() if k.words.startswith(said) or f" {said}" in f" {k.words}"]
    if verb == "set":
        return [f"set {c.name} to " for c in show.controls() if said in c.name.lower()][:40]
    if verb == "replace" and " by " in rest:
        old, _, kind = rest.partition(" by ")
        return [f"replace {old} by {k.words}" for k in all_kinds() if k.words.startswith(kind.strip().lower())]
    if verb == "put" and " in " in rest:
        devices, _, place = rest.rpartition(" in ")
        return [f"put {devices} in {p.name}" for p in show.places if p.name.lower().startswith(place.strip().lower())]
    if verb == "limit":
        return [f"limit {k} run to " for k in LONGEST_M if k.lower().startswith(said)]
    tail = {"rename": " to ", "replace": " by ", "put": " in "}.get(verb, "")
    if verb in (*VERBS, "disconnect"):
        return [f"{verb} {n}{tail}" for n in names]
    return completions(show, line)
