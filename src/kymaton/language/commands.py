"""The line on the map: patch, and everything else that a rig is made with, by typing.

`table mic > desk 1`, `disconnect desk 1`, `add desk 16 in 6 aux as Front`, `rename desk to Front`,
`duplicate table mic`, `replace desk by desk 32 in 12 aux`, `remove table mic`, `set desk 1 gain to 52`,
`mute desk 1-4`, `open desk 1`, `connect table mic to desk 1`, `put table mic, desk in Hall`, `limit HDMI run to 10 m`.
"""

import re
from collections.abc import Callable, Sequence
from functools import partial

from msgspec import Struct

from kymaton.catalogue.registry import all_kinds, how_many, make_device, usual_name
from kymaton.core.checks.wiring import LONGEST_M
from kymaton.core.edits.controls import Change, apply
from kymaton.core.edits.cues import put_cue
from kymaton.core.edits.devices import (
    add_device,
    duplicate_device,
    put_device,
    remove_device,
    rename_device,
    replace_device,
)
from kymaton.core.edits.people import place_called
from kymaton.core.loadin.rates import bits_per_s, said_rate
from kymaton.core.model import Control, Device, Show, ShowError
from kymaton.core.model.device import Ownership, Value
from kymaton.core.nearest import did_you_mean
from kymaton.core.planning.fixes import value_text
from kymaton.core.words import joined
from kymaton.language.patch import MOST_AT_ONCE, NUMBERED, Patch, completions, expanded, read_patch

ALL = "in all cues"
MOST_TOLD = 3  # things that a new device could not keep
MOST_DEVICES = 64  # at once; chosen
PAN = re.compile(r"^(\d+(?:\.\d+)?)?\s*%?\s*(left|right|middle|centre)$")
OFF = ("closed", "off", "-inf")
SECOND = re.compile(r"^second\s+(.+?)(?:\s+after\s+(\d+(?:\.\d+)?)\s*s)?$", re.IGNORECASE)


class Where(Struct, frozen=True):
    """In which cues a setting holds: in the one in view (`only_here`), in all, or not told: as the control has it."""

    cue: str | None = None
    only_here: bool | None = None

    @property
    def everywhere(self) -> bool:
        """Whether it is to hold in all cues."""
        return self.only_here is False

    def here(self, show: Show, control: Control) -> bool:
        """Whether a control is set in the cue in view alone."""
        if self.cue is None:
            return False
        return control.id in show.settings(self.cue) if self.only_here is None else self.only_here


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
    names = [name for part in text.split(",") for name in expanded(show, part)]
    return list({d.id: d for d in (find_device(show, name) for name in names)}.values())


def _add(show: Show, rest: str, where: Where) -> Patch:
    many, words = how_many(rest)
    if not 1 <= many <= MOST_DEVICES:
        raise ShowError(f"{many} devices at once are not added; 1 to {MOST_DEVICES} are.")
    kind, _, name = words.partition(" as ")
    for number in range(1, many + 1):
        said = f"{kind} as {name.strip()} {number}" if name and many > 1 else words
        device = make_device(said, [d.id for d in show.devices], _fresh_name(show, said))
        if any(d.name.lower() == device.name.lower() for d in show.devices):
            raise ShowError(f"There is a device called {device.name} already.")
        show = add_device(show, device)
    text = f"add {many} devices, the last {device.name}" if many > 1 else f"add {device.name}"
    return Patch(show, text)


def _fresh_name(show: Show, text: str) -> str:
    """`Dynamic mic 2` when there is a Dynamic mic; empty when the kind's own name is free or a name is said."""
    name, taken = usual_name(text.partition(" as ")[0]), {d.name.lower() for d in show.devices}
    if name.lower() not in taken:
        return ""
    number = 2
    while f"{name} {number}".lower() in taken:
        number += 1
    return f"{name} {number}"


def _remove(show: Show, rest: str, where: Where) -> Patch:
    devices = find_devices(show, rest)
    for device in devices:
        show = remove_device(show, device.id)
    return Patch(show, f"remove {joined(d.name for d in devices)}")


def _put(show: Show, rest: str, where: Where) -> Patch:
    names, found, place_name = rest.rpartition(" in ")
    if not found or not place_name.strip():
        raise ShowError("Say: put, the device, in, a place.")
    devices = find_devices(show, names)
    show, place = place_called(show, place_name)
    for device in devices:
        show = put_device(show, show.device(device.id).evolve(place=place))
    return Patch(show, f"put {joined(d.name for d in devices)} in {place_name.strip()}")


def _power(show: Show, rest: str, where: Where) -> Patch:
    names, found, supply = rest.rpartition(" from ")
    if not found or not supply.strip():
        raise ShowError("Say: power, the device, from, a supply.")
    devices = find_devices(show, names)
    for device in devices:
        show = put_device(show, show.device(device.id).evolve(mains=supply.strip()))
    return Patch(show, f"power {joined(d.name for d in devices)} from {supply.strip()}")


def _own(show: Show, rest: str, where: Where, owned: Ownership) -> Patch:
    devices = find_devices(show, rest)
    for device in devices:
        show = put_device(show, show.device(device.id).evolve(owned=owned))
    return Patch(show, f"{joined(d.name for d in devices)}: {owned}")


def _rename(show: Show, rest: str, where: Where) -> Patch:
    old, found, new = rest.partition(" to ")
    if not found:
        raise ShowError("Say: rename, the device, to, the new name.")
    device = find_device(show, old)
    return Patch(rename_device(show, device.id, new), f"rename {device.name} to {new.strip()}")


def _duplicate(show: Show, rest: str, where: Where) -> Patch:
    device = find_device(show, rest)
    return Patch(duplicate_device(show, device.id), f"duplicate {device.name}")


def _replace(show: Show, rest: str, where: Where) -> Patch:
    old, found, kind = rest.partition(" by ")
    if not found:
        raise ShowError("Say: replace, the device, by, a kind.")
    device = find_device(show, old)
    new = make_device(kind, (), "" if " as " in kind else device.name)
    after, lost = replace_device(show, device.id, new)
    left = f", without {joined(lost[:MOST_TOLD])}{f' and {len(lost) - MOST_TOLD} more' * (len(lost) > MOST_TOLD)}"
    return Patch(after, f"replace {device.name} by {new.detail or new.kind}{left if lost else ''}")


def _set(show: Show, rest: str, where: Where) -> Patch:
    name, found, text = rest.rpartition(" to ")
    if not found:
        raise ShowError("Say: set, the control, to, a value.")
    return set_controls(show, [(c, read_value(c, text)) for c in find_controls(show, name)], where)


def set_controls(show: Show, wanted: Sequence[tuple[Control, Value]], where: Where) -> Patch:
    """Controls set to values where that holds."""
    own = where.cue if any(where.here(show, c) for c, _ in wanted) else None
    if where.everywhere and where.cue is not None:  # a value of its own would hide the one of all cues
        cue, ids = show.cue(where.cue), {c.id for c, _ in wanted}
        show = put_cue(show, cue.evolve(controls={k: v for k, v in cue.controls.items() if k not in ids}))
    changes = [Change(own, c.id, show.value(c.id, where.cue), value) for c, value in wanted]
    first, value = wanted[0]
    many = f"{len(wanted)} controls, {first.name} and on," if len(wanted) > 1 else first.name
    try:
        after = apply(show, changes)
    except ValueError as error:
        raise ShowError(f"{error}.") from error
    return Patch(after, f"set {many} to {value_text(first, value)}", where=_told(show, own, [c for c, _ in wanted]))


def _told(show: Show, cue: str | None, controls: Sequence[Control]) -> str:
    """In which cues a value holds."""
    if cue is not None:
        return f"in {show.cue(cue).name} only"
    apart = [c.name for c in show.cues if any(x.id in c.controls for x in controls)]
    if not show.cues:
        return ""
    if len(apart) > 2:
        return f"{ALL} but {len(apart)}"
    return f"{ALL} but {joined(apart)}" if apart else ALL


def _mute(show: Show, rest: str, where: Where) -> Patch:
    return set_controls(show, [(c, True) for c in find_mutes(show, rest)], where)


def _open(show: Show, rest: str, where: Where) -> Patch:
    return set_controls(show, [(c, False) for c in find_mutes(show, rest)], where)


def find_mutes(show: Show, text: str) -> list[Control]:
    """The mutes of these names. Raises ShowError."""
    found = [c for c in find_controls(show, text) if c.kind == "mute"]
    if not found:
        raise ShowError(f"'{text.strip()}' has no mute.")
    return found


def _limit(show: Show, rest: str, where: Where) -> Patch:
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
    return Patch(show.evolve(longest_run_m=limits), f"limit {kind} runs to {metres:g} m")


def _uplink(show: Show, rest: str, where: Where) -> Patch:
    if rest.strip().lower() == "nothing":
        unknown = show.goals.evolve(uplink_bit_per_s=None, second_uplink_bit_per_s=None)
        return Patch(show.evolve(goals=unknown), "the uplink is not known")
    first, _, more = rest.partition(",")
    rate, told = bits_per_s(first)
    goals = show.goals.evolve(uplink_bit_per_s=rate)
    said = f"the uplink has {said_rate(rate)}"
    if more.strip():
        second = SECOND.match(more.strip())
        if second is None:
            raise ShowError(f"'{more.strip()}' says nothing about an uplink: 'second 5 Mbit/s after 10 s' does.")
        rate, _ = bits_per_s(second[1])
        after_s = float(second[2]) if second[2] else goals.fail_over_s
        goals = goals.evolve(second_uplink_bit_per_s=rate, fail_over_s=after_s)
        said += f", and the second {said_rate(rate)}"
    return Patch(show.evolve(goals=goals), f"{said} ({told})" if told else said)


NUMBERS = re.compile(r"\b\d+(?:\s*-\s*\d+\b|\s*,\s*\d+\b)+")
FADER = re.compile(r"^(.+) fader$")


def find_controls(show: Show, text: str) -> list[Control]:
    """The controls of these names: `desk 1 gain`, `desk ch 1 fader`, `desk 1-6 to aux 1`. Raises ShowError."""
    return [find_control(show, name) for name in _each(text)]


def _each(text: str) -> list[str]:
    """`desk 1-2, 5 to aux 3-4` as six names."""
    parts = NUMBERS.search(text)
    if parts is None or parts[0].isdigit():
        return [text]
    ends = [[int(n) for n in part.split("-")] for part in parts[0].replace(" ", "").split(",")]
    if any(not 0 <= pair[-1] - pair[0] < MOST_AT_ONCE for pair in ends):
        return [text]
    numbers = [n for pair in ends for n in range(pair[0], pair[-1] + 1)]
    names = [name for n in numbers for name in _each(f"{text[: parts.start()]}{n}{text[parts.end() :]}")]
    if len(names) > MOST_AT_ONCE:
        raise ShowError(f"'{text.strip()}' are {len(names)} controls, more than are set at once.")
    return names


def find_control(show: Show, text: str) -> Control:
    """The control of this name, or its id. Raises ShowError."""
    said = " ".join(text.lower().split())
    short = NUMBERED.sub("", said)
    fader = (FADER.sub(r"\1 to main", short), FADER.sub(r"\1 output", short))
    for name in dict.fromkeys((said, short, *fader, f"{short} to", said.removeprefix("the "))):
        found = [c for c in show.controls() if name in (c.name.lower(), c.id)]
        if found:
            return found[0]
    raise ShowError(f"No control is called '{text.strip()}'.{did_you_mean(short, (c.name for c in show.controls()))}")


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
    if control.kind == "pan" and PAN.match(said):
        return _pan(said)
    try:
        value = float(said)
    except ValueError:
        raise ShowError(f"'{text.strip()}' is not a number for {control.name}.") from None
    if value != value or value in (float("inf"), float("-inf")):
        raise ShowError(f"'{text.strip()}' is not a number for {control.name}.")
    return value


def _pan(said: str) -> float:
    """A place between left and right as people say it: `left`, `middle`, `30 % right`."""
    match = PAN.match(said)
    assert match is not None
    share = min(100.0, float(match[1] or 100.0))
    return {"left": -share, "right": share}.get(match[2], 0.0)


VERBS: dict[str, Callable[[Show, str, Where], Patch]] = {
    "add": _add,
    "remove": _remove,
    "delete": _remove,
    "rename": _rename,
    "duplicate": _duplicate,
    "replace": _replace,
    "set": _set,
    "mute": _mute,
    "open": _open,
    "unmute": _open,
    "put": _put,
    "power": _power,
    "limit": _limit,
    "uplink": _uplink,
    "buy": partial(_own, owned="to buy"),
    "borrow": partial(_own, owned="borrowed"),
    "own": partial(_own, owned="owned"),
}


EVERY_VERB = (*VERBS, "disconnect", "unplug")
TAKES = re.compile(r"^(.+?)\s+takes\s+(.+)$", re.IGNORECASE)  # `call takes interface`: what a program has chosen
PLAYS = re.compile(r"^(.+?)\s+plays\s+to\s+(.+)$", re.IGNORECASE)
CONNECT = re.compile(r"^(?:connect|plug|patch)\s+(.+?)\s+(?:to|into|>)\s+(.+)$", re.IGNORECASE)


def is_command(line: str) -> bool:
    """Whether a line begins as one of the map does."""
    begins = line.partition(" ")[0].lower() in EVERY_VERB
    return begins or ">" in line or any(form.match(line) for form in (CONNECT, TAKES, PLAYS))


def read_command(show: Show, line: str, cue: str | None = None, here: bool | None = None) -> Patch:
    """What a line does. Raises ShowError with one sentence when it cannot be done.

    With `cue`, the cue in view, settings hold `here` alone or in all cues; not told, as the control has it now.
    """
    line = CONNECT.sub(r"\1 > \2", line.strip())
    if ">" not in line and line.partition(" ")[0].lower() not in VERBS:
        line = PLAYS.sub(r"\1 > \2", TAKES.sub(r"\2 > \1", line))
    verb, _, rest = line.partition(" ")
    if ">" not in line and verb.lower() in VERBS:
        if not rest.strip():
            raise ShowError(f"Say what to {verb.lower()}.")
        return VERBS[verb.lower()](show, rest.strip(), Where(cue, here))
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
        many, words = how_many(said)
        named = [k for k in all_kinds() if any(f" {words}" in f" {w}" for w in (k.words, *k.also))]
        named.sort(key=lambda k: not k.words.startswith(words))
        return [f"add {f'{many} ' if many > 1 else ''}{k.words}" for k in named]
    if verb == "set":
        return [f"set {c.name} to " for c in show.controls() if said in c.name.lower()][:40]
    if verb in ("mute", "open", "unmute"):
        return [f"{verb} {c.name}" for c in show.controls() if c.kind == "mute" and said in c.name.lower()][:40]
    if verb == "replace" and " by " in rest:
        old, _, kind = rest.partition(" by ")
        return [f"replace {old} by {k.words}" for k in all_kinds() if k.words.startswith(kind.strip().lower())]
    if verb == "put" and " in " in rest:
        devices, _, place = rest.rpartition(" in ")
        return [f"put {devices} in {p.name}" for p in show.places if p.name.lower().startswith(place.strip().lower())]
    if verb == "limit":
        return [f"limit {k} run to " for k in LONGEST_M if k.lower().startswith(said)]
    tail = {"rename": " to ", "replace": " by ", "put": " in ", "power": " from "}.get(verb, "")
    if verb in (*VERBS, "disconnect"):
        return [f"{verb} {n}{tail}" for n in names]
    return completions(show, line)
